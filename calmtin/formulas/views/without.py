"""Leave out or use up without something, or with a lot used up."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.http import require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.proposals import use_up as using
from calmtin.formulas.proposals import without as leaving
from calmtin.formulas.proposals.changes import Today, changes_of
from calmtin.formulas.proposals.proposal import MOVED
from calmtin.formulas.proposals.turns import solving_turn
from calmtin.formulas.queries.formula import formula_view
from calmtin.formulas.views.shared import version_of
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.queries.lots import costs_of, in_stock
from calmtin.pantry.queries.shelf import avoidable

LOTS_SHOWN = 12  # the first to expire; the others are folded


@require_safe
def without(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show the whole formula without something, or with as much of a lot as goes."""
    version, shelf, bench = version_of(request, pk, number), shelf_for(request.user), bench_of(request.user)
    lots = in_stock(request.user, timezone.localdate())
    stock = {view.lot.material for view in lots}
    composition = composition_of(version, shelf)
    groups = {material.group for material in composition.materials}
    usable = [
        view
        for view in lots
        if shelf[view.lot.material].layer in MOVED and shelf[view.lot.material].group in groups
    ]
    first, more = usable[:LOTS_SHOWN], usable[LOTS_SHOWN:]
    flags = avoidable()
    flag, lot = request.GET.get("without", ""), request.GET.get("lot", "")
    context: dict[str, Any] = {
        "view": formula_view(version, shelf, bench),
        "flags": [(f, flags[f]) for f in leaving.flags_in(version, shelf, list(flags))],
        "lots": [(view, shelf[view.lot.material]) for view in first],
        "more_lots": [(view, shelf[view.lot.material]) for view in more],
        "is_one_of_more": lot in {str(view.lot.pk) for view in more},
        "chosen": flag or lot,
    }
    today = Today(version, composition, bench, costs_of(request.user, timezone.localdate()))
    try:
        if flag in flags:
            with solving_turn(request) as stop:
                context["proposal"] = leaving.without(version, shelf, bench, flag, stock, stop=stop)
        elif chosen := next((view for view in usable if str(view.lot.pk) == lot), None):
            slug = chosen.lot.material
            with solving_turn(request) as stop:
                use = using.use_up(version, shelf, bench, slug, chosen.left_g, stop=stop)
            context |= {"proposal": use.proposal, "use": use, "lot_material": shelf[slug]}
            context["batch_for_all"] = use.batch_for_all(version.batch_g)
        if "proposal" in context:
            context["changes"] = changes_of(today, context["proposal"])
    except CalmTinError as refused:
        context["problem"] = str(refused)
    return page_or_fragment(request, "formulas/without.html", "formulas/_without.html", context)
