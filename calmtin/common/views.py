"""Answers that belong to no app: not found, refused, failed, expired."""

from __future__ import annotations

from urllib.parse import urlsplit

from django.http import HttpRequest, HttpResponse
from django.template.loader import get_template
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.translation import gettext


def say(request: HttpRequest, status: int, title: str, words: str) -> HttpResponse:
    """Answer with a page that shows a message, or with the message alone for htmx.

    Needs neither database nor session, so that it works when they do not.
    """
    if getattr(request, "htmx", False):
        return HttpResponse(words, status=status, content_type="text/plain; charset=utf-8")
    back = way_back(request) if request.method == "POST" else ""
    page = get_template("trouble.html").render({"title": title, "words": words, "back": back})
    return HttpResponse(page, status=status)


def way_back(request: HttpRequest) -> str:
    """Return the page that a person was on: this one, or that which the form was sent from."""
    if request.method in ("GET", "HEAD"):
        return request.get_full_path()
    sent_from = request.headers.get("Referer", "")
    if url_has_allowed_host_and_scheme(sent_from, {request.get_host()}, request.is_secure()):
        return urlsplit(sent_from)._replace(scheme="", netloc="").geturl() or "/"
    return "/"


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:  # noqa: ARG001
    """Say that the request made no sense."""
    return say(request, 400, gettext("Bad request"), gettext("Nothing was changed. Go back and try again."))


def refused(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Say that this is not for this person."""
    return say(
        request, 403, gettext("Not allowed"), str(exception) or gettext("You don’t have access to this.")
    )


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:  # noqa: ARG001
    """Show that a page does not exist or belongs to someone else."""
    return say(
        request,
        404,
        gettext("Page not found"),
        gettext("It may have been deleted, or the address is wrong."),
    )


def server_error(request: HttpRequest) -> HttpResponse:
    """Show that something went wrong here and that saved records are safe."""
    words = gettext(
        "Something went wrong in Calm Tin. Everything you saved is still there; go back and try again."
    )
    return say(request, 500, gettext("Something went wrong"), words)


def csrf_failure(request: HttpRequest, **_: str) -> HttpResponse:
    """Say that the page was open too long and what to do."""
    words = gettext(
        "Nothing was changed. Reload the page; what you typed is kept, and you can send it again."
    )
    return say(request, 403, gettext("This page has expired"), words)
