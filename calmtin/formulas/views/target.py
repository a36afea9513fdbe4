"""A target with its proposal, and applying it."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.forms.target import TargetForm
from calmtin.formulas.proposals.proposal import read_token
from calmtin.formulas.proposals.target import propose_target
from calmtin.formulas.proposals.turns import solving_turn
from calmtin.formulas.queries.formula import formula_view
from calmtin.formulas.views.shared import seen_by, show, version_of
from calmtin.pantry.adapters import shelf_for


@require_safe
def target(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Ask for a target and show what the solver proposes for it."""
    version, shelf, bench = version_of(request, pk, number), shelf_for(request.user), bench_of(request.user)
    form = TargetForm(version, request.GET)
    view = formula_view(version, shelf, bench)
    context: dict[str, Any] = {"view": view, "form": form}
    # The verdict comes first; the page asks for the ways out once it shows it.
    asks_ways = "ways" in request.GET
    if view.line_count and form.is_valid():
        try:
            target = form.target(bench.room_c)
            with solving_turn(request) as stop:
                context["proposal"] = propose_target(
                    version, shelf, bench, target, form.spans, stop=stop, with_ways_out=asks_ways
                )
        except CalmTinError as refused:
            context["problem"] = str(refused)
    if asks_ways:
        return render(request, "formulas/_ways_out.html", context)
    return page_or_fragment(request, "formulas/target.html", "formulas/_target.html", context)


@require_POST
def apply(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Apply a proposal as a whole, or nothing of it."""
    version = version_of(request, pk, number)
    try:
        percents = read_token(version, request.POST.get("proposal", ""))
        draft = services.apply_lines(request.user, version, percents=percents, seen=seen_by(request))
        return redirect("formulas:version", pk=pk, number=draft.number)
    except CalmTinError as refused:
        context = {"problem_at": "page", "problem": str(refused)}
        return show(request, version_of(request, pk, number), **context)
