"""Targets, swaps and the trio map: what is proposed, and applied as a whole."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services, switching
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.forms import TargetForm
from calmtin.formulas.mapping import trio_view
from calmtin.formulas.models import Line
from calmtin.formulas.queries import formula_view
from calmtin.formulas.solving import MOVED, propose_target, read_token
from calmtin.formulas.swapping import candidates
from calmtin.formulas.turns import solving_turn
from calmtin.formulas.views.shared import seen_by, show, version_of
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.queries import FREE_FROM, costs_of, lots_of


@require_safe
def target(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Ask for a target and show what the solver proposes for it."""
    version, shelf, bench = version_of(request, pk, number), shelf_for(request.user), bench_of(request.user)
    form = TargetForm(version, bench.temperature_unit, request.GET)
    view = formula_view(version, shelf, bench)
    context: dict[str, Any] = {"view": view, "form": form}
    if view.line_count and form.is_valid():
        try:
            target = form.target(bench.room_c)
            with solving_turn(request) as stop:
                context["proposal"] = propose_target(version, shelf, bench, target, form.spans, stop=stop)
        except CalmTinError as refused:
            context["problem"] = refused.sentence
    return page_or_fragment(request, "formulas/target.html", "formulas/_target.html", context)


@require_safe
def trio(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show the trio map and what moving the point would mean."""
    version, shelf, bench = version_of(request, pk, number), shelf_for(request.user), bench_of(request.user)
    view = formula_view(version, shelf, bench)
    context: dict[str, Any] = {"view": view}
    if view.firmness:
        context["trio"] = trio_view(version, shelf, bench, request.GET)
    return page_or_fragment(request, "formulas/trio.html", "formulas/_trio.html", context)


@require_safe
def swaps(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Show what may stand in for a line, one for one and at equal firmness."""
    version, shelf, bench = version_of(request, pk, number), shelf_for(request.user), bench_of(request.user)
    line = Line.objects.own_or_404(request.user, version=version, key=key)
    avoid = [flag for flag in request.GET.getlist("free") if flag in FREE_FROM]
    today = timezone.localdate()
    stock = {v.lot.material for v in lots_of(request.user, today) if v.left_g > 0}
    costs = costs_of(request.user, today)
    problem, found = "", []
    try:
        with solving_turn(request) as stop:
            found = candidates(version, key, shelf, bench, avoid=avoid, stock=stock, costs=costs, stop=stop)
    except CalmTinError as refused:
        problem = refused.sentence
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
        "free_from": FREE_FROM,
    }
    return page_or_fragment(request, "formulas/swaps.html", "formulas/_swaps.html", context)


@require_safe
def switch(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show the whole formula without something, or with as much of a lot as goes."""
    version, shelf, bench = version_of(request, pk, number), shelf_for(request.user), bench_of(request.user)
    lots = [view for view in lots_of(request.user, timezone.localdate()) if view.left_g > 0]
    stock = {view.lot.material for view in lots}
    groups = {material.group for _, material in lines_with_materials(version, shelf)}
    usable = [
        view
        for view in lots
        if shelf[view.lot.material].layer in MOVED and shelf[view.lot.material].group in groups
    ]
    flag, lot = request.GET.get("without", ""), request.GET.get("lot", "")
    context: dict[str, Any] = {
        "view": formula_view(version, shelf, bench),
        "flags": [(f, FREE_FROM[f]) for f in switching.flags_in(version, shelf, list(FREE_FROM))],
        "lots": [(view, shelf[view.lot.material]) for view in usable],
        "chosen": flag or lot,
    }
    try:
        if flag in FREE_FROM:
            with solving_turn(request) as stop:
                context["proposal"] = switching.without(version, shelf, bench, flag, stock, stop=stop)
        elif chosen := next((view for view in usable if str(view.lot.pk) == lot), None):
            slug = chosen.lot.material
            with solving_turn(request) as stop:
                use = switching.use_up(version, shelf, bench, slug, chosen.left_g, stop=stop)
            context |= {"proposal": use.proposal, "use": use, "lot_material": shelf[slug]}
            context["batch_for_all"] = use.batch_for_all(version.batch_g)
    except CalmTinError as refused:
        context["problem"] = refused.sentence
    return page_or_fragment(request, "formulas/switch.html", "formulas/_switch.html", context)


@require_POST
def apply(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Apply a proposal as a whole, or nothing of it."""
    version = version_of(request, pk, number)
    try:
        percents = read_token(version, request.POST.get("proposal", ""))
        draft = services.apply_lines(request.user, version, percents=percents, seen=seen_by(request))
        return redirect("formulas:version", pk=pk, number=draft.number)
    except CalmTinError as refused:
        context = {"problem_at": "page", "problem": refused.sentence}
        return show(request, version_of(request, pk, number), **context)
