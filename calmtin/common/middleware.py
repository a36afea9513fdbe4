"""Middleware: sign-in, and errors that a maker can do something about."""

from __future__ import annotations

import logging
from collections.abc import Callable

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.auth.views import redirect_to_login
from django.core.exceptions import PermissionDenied
from django.db import Error, OperationalError
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.utils.translation import gettext, gettext_noop

from calmtin.common.disk import DISK_FULL, is_full
from calmtin.common.views import say, way_back
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import BODY_BYTES, PICTURE_BYTES
from calmtin.core.messages import said

log = logging.getLogger("calmtin")

# What SQLite says, and what a maker can do about it.
_DATABASE = {
    "locked": gettext_noop("Calm Tin is busy. Nothing was changed; try again in a moment."),
    "full": DISK_FULL,
    "readonly": gettext_noop(
        "Calm Tin can’t write to its folder, so nothing was saved. Whoever runs Calm Tin must make "
        "the folder writable."
    ),
    "disk i/o": gettext_noop(
        "The disk reported an error, so nothing was saved. Check the disk, then try again."
    ),
    "unable to open": gettext_noop("The database can’t be opened. Check its folder, then try again."),
}


class SignInFirst(LoginRequiredMiddleware):
    """Require a sign-in; an htmx request is sent to it and comes back to its page."""

    def handle_no_permission(  # type: ignore[override]  # the stubs know only the redirect
        self, request: HttpRequest, view_func: Callable[..., HttpResponseBase]
    ) -> HttpResponse:
        """Answer an htmx edit with 401, and lead a browser to the sign-in and back to its page."""
        if getattr(request, "htmx", False):
            return say(
                request,
                401,
                gettext("Signed out"),
                gettext("You are signed out. Sign in again; what you typed is kept."),
            )
        return redirect_to_login(way_back(request), self.get_login_url(view_func))


class NotTooLarge:
    """Refuse a request that is larger than anything Calm Tin takes, before it is read."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Refuse a body that is too large; pass everything else on."""
        size = request.META.get("CONTENT_LENGTH") or "0"
        if not size.isdecimal() or int(size) <= BODY_BYTES:
            return self.get_response(request)
        most = PICTURE_BYTES // 1_000_000
        words = said(
            "This is {size:.0f} MB, and up to {most} MB can be sent at once. Nothing was changed. Go "
            "back and send a smaller file. To import a whole bench, use “Your records” or the "
            "command script/manage records.",
            size=int(size) / 1000000.0,
            most=most,
        )
        return say(request, 413, gettext("File too large"), words)


class FriendlyErrors:
    """Turn errors that a maker can do something about into a page, or a message beside the box."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Dress the bare answers that Django gives to a wrong method."""
        response = self.get_response(request)
        if response.status_code == 405 and not response.content:
            words = gettext("This address can’t be opened directly. Go back and use the page.")
            dressed = say(request, 405, gettext("Page can’t be opened"), words)
            dressed["Allow"] = response["Allow"]
            return dressed
        return response

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """Answer a known error with its message; re-raise any other."""
        if isinstance(error, CalmTinError):
            return say(request, getattr(error, "status", 400), gettext("Something went wrong"), str(error))
        if isinstance(error, PermissionDenied):
            return say(
                request, 403, gettext("Not allowed"), str(error) or gettext("This cannot be changed here.")
            )
        if isinstance(error, OperationalError):
            for sign, sentence in _DATABASE.items():
                if sign in str(error).lower():
                    log.error("database: %s", error)
                    return say(request, 503, gettext("Not saved"), sentence)
        if is_full(error):
            log.error("disk: %s", error)
            return say(request, 503, gettext("Not saved"), DISK_FULL)
        if isinstance(error, Error):
            log.exception("database refused it")
        return None
