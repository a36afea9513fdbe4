"""One view serves the page and its fragment: htmx gets the part, a browser the whole."""

from __future__ import annotations

from typing import Any, cast

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.cache import cache_control
from django_htmx.middleware import HtmxDetails

# A page that shows a state is asked for anew by Back and Forward too, which take others from a cache.
always_current = cache_control(no_store=True)


def changes_nothing(request: HttpRequest) -> bool:
    """Whether a request only reads, so that what was fetched stays valid until its end."""
    return request.method in ("GET", "HEAD")


RECALCULATE = "recalculate"  # what a form sends that only wants to be worked out again


def commits(request: HttpRequest) -> bool:
    """Whether a form is sent to be acted on, and not only to be worked out again."""
    return request.method == "POST" and RECALCULATE not in request.POST


def htmx_of(request: HttpRequest) -> HtmxDetails:
    """Return htmx's details of a request; false for a plain browser request."""
    return cast(HtmxDetails, request.htmx)  # type: ignore[attr-defined]  # set by its middleware


def came_from(request: HttpRequest) -> str:
    """Return the page that a form was reached from, if it is one of ours; otherwise nothing."""
    back = request.POST.get("back", request.GET.get("back", ""))
    return back if back.startswith("/") and url_has_allowed_host_and_scheme(back, None) else ""


def page_or_fragment(
    request: HttpRequest, page: str, fragment: str, context: dict[str, Any], *, status: int = 200
) -> HttpResponse:
    """Render `fragment` for htmx and `page`, which includes it, for a browser.

    A fragment that reports a refusal is still sent with 200, because htmx swaps
    nothing else in; a page keeps `status`.
    """
    htmx = htmx_of(request)
    if htmx and not htmx.history_restore_request and not htmx.boosted:
        return render(request, fragment, context)
    return render(request, page, context, status=status)
