"""Addresses of earlier versions, which bookmarks, calendars and open tabs still ask for."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponsePermanentRedirect
from django.urls import reverse

VERSION = "formulas/<row:pk>/v/<row:number>/"
MOVED = {
    "learned/": "checks:calibration",
    "learned/figures/": "checks:calibration_figures",
    "checks/<row:pk>/leave-out/": "checks:exclude",
    "ready-by/": "packing:deadlines",
    "ready-by/<row:pk>/off/": "packing:deadline_remove",
    "looks.ics": "overview:calendar",
    "pours/<row:pk>/call-off/": "pours:cancel",
    "pours/<row:pk>/take-back/": "pours:undo",
    "pours/<row:pk>/throw-away/": "pours:rehearsal_delete",
    "pours/<row:pk>/keep/": "checks:final",
    "pieces/<row:pk>/back/": "packing:piece_undo",
    "labels/sheets/<row:pk>/drop/": "packing:label_sheet_remove",
    "formulas/<row:pk>/put-away/": "formulas:archive",
    "formulas/<row:pk>/bring-back/": "formulas:restore",
    f"{VERSION}trio/": "formulas:map",
    f"{VERSION}all/": "formulas:amounts",
    f"{VERSION}lines/told/": "formulas:dose_preview",
    "log.csv": "exchange:pours_csv",
    "log/import/": "exchange:pours_import",
}


def moved(request: HttpRequest, to: str, **place: Any) -> HttpResponsePermanentRedirect:
    """Redirect a request to its new address, a form with its data too."""
    query = request.META.get("QUERY_STRING", "")
    address = reverse(to, kwargs=place) + (f"?{query}" if query else "")
    return HttpResponsePermanentRedirect(address, preserve_request=True)
