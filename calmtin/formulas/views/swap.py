"""Substitutes for a line."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.http import require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas.models import Line
from calmtin.formulas.proposals.substitute import candidates
from calmtin.formulas.proposals.turns import solving_turn
from calmtin.formulas.queries.formula import formula_view
from calmtin.formulas.views.shared import version_of
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.queries.lots import costs_of, in_stock
from calmtin.pantry.queries.shelf import avoidable


@require_safe
def swaps(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Show the substitutes for a line, one for one and at equal firmness."""
    version, shelf, bench = version_of(request, pk, number), shelf_for(request.user), bench_of(request.user)
    line = Line.objects.own_or_404(request.user, version=version, key=key)
    free_from = avoidable()
    avoid = [flag for flag in request.GET.getlist("free") if flag in free_from]
    today = timezone.localdate()
    stock = {v.lot.material for v in in_stock(request.user, today)}
    costs = costs_of(request.user, today)
    problem, found = "", []
    try:
        with solving_turn(request) as stop:
            found = candidates(version, key, shelf, bench, avoid=avoid, stock=stock, costs=costs, stop=stop)
    except CalmTinError as refused:
        problem = str(refused)
    if request.GET.get("mine"):
        found = [candidate for candidate in found if candidate.in_stock]
    context = {
        "view": formula_view(version, shelf, bench),
        "line": line,
        "material": shelf[line.material],
        "candidates": found,
        "problem": problem,
        "avoid": avoid,
        "mine": bool(request.GET.get("mine")),
        "free_from": free_from,
    }
    return page_or_fragment(request, "formulas/swap.html", "formulas/_swap.html", context)
