"""The trio map."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.pages import page_or_fragment
from calmtin.formulas.queries.firmness_map import trio_view
from calmtin.formulas.queries.formula import formula_view
from calmtin.formulas.views.shared import version_of
from calmtin.pantry.adapters import shelf_for


@require_safe
def trio(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show the trio map and what moving the point would mean."""
    version, shelf, bench = version_of(request, pk, number), shelf_for(request.user), bench_of(request.user)
    view = formula_view(version, shelf, bench, with_pins=False)
    context: dict[str, Any] = {"view": view}
    if view.firmness:
        context["trio"] = trio_view(version, shelf, bench, request.GET)
    return page_or_fragment(request, "formulas/map.html", "formulas/_map.html", context)
