"""Read and write amounts in the units of the maker who is signed in."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.formats import get_format
from django.utils.translation.trans_real import parse_accept_lang_header

from calmtin.accounts.queries import bench_of
from calmtin.common.pages import changes_nothing
from calmtin.common.zones import zone_of
from calmtin.core.messages import notation_of
from calmtin.core.notation import USUAL, Notation


class BenchNotation:
    """Put a bench's notation in force for its requests; it is looked up when the first box asks."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer with the notation of the maker in force."""

        def find() -> Notation:
            if not request.user.is_authenticated:
                return USUAL
            return bench_of(request.user).notation(decimal_comma=writes_comma(request))

        with notation_of(find):
            return self.get_response(request)


class BenchTime:
    """Put the time zone of a bench in force for its requests, or that of this machine."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer in the time of the maker."""
        name = ""
        if request.user.is_authenticated:
            request.user.asks_only = changes_nothing(request)
            name = bench_of(request.user).time_zone
        with timezone.override(zone_of(name)):
            return self.get_response(request)


def writes_comma(request: HttpRequest) -> bool:
    """Return whether the browser's first language writes decimals with a comma."""
    languages = parse_accept_lang_header(request.headers.get("Accept-Language", ""))
    if not languages:
        return False
    return bool(get_format("DECIMAL_SEPARATOR", lang=languages[0][0].partition("-")[0]) == ",")
