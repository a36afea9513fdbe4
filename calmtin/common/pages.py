"""One view serves the page and its fragment: htmx gets the part, a browser the whole."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


def page_or_fragment(
    request: HttpRequest, page: str, fragment: str, context: dict[str, Any], *, status: int = 200
) -> HttpResponse:
    """Render `fragment` for htmx and `page`, which includes it, for a browser.

    A fragment that reports a refusal is still sent with 200, because htmx swaps
    nothing else in; a page keeps `status`.
    """
    wants_part = request.htmx and not request.htmx.history_restore_request and not request.htmx.boosted
    if wants_part:
        return render(request, fragment, context)
    return render(request, page, context, status=status)
