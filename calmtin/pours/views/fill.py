"""The fill plan."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods

from calmtin.accounts.queries import bench_of
from calmtin.common.fields import refuse
from calmtin.common.numbers import whole_number
from calmtin.common.once import key_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Shelf
from calmtin.core.process.fill import Container, FillPlan, plan_fill
from calmtin.core.process.weighing import too_small
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.pantry.adapters import containers_for, shelf_for
from calmtin.pantry.queries.lots import left_of
from calmtin.pours import services
from calmtin.pours.forms import FillForm
from calmtin.pours.queries.today import pourable

USUAL_CONTAINER = {
    "gloss": "gloss_tube_8ml",
    "lip_balm": "lip_tube_standard",
    "lotion_bar": "mould_round_60ml",
    "massage_bar": "mould_rect_90ml",
    "whipped_butter": "jar_120ml",
    "poured_butter": "jar_60ml",
}


@require_http_methods(["GET", "HEAD", "POST"])
def fill(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Plan the fill: GET works it out as it is typed, POST starts the pour."""
    version = Version.objects.select_related("formula").own_or_404(
        request.user, formula_id=pk, number=number
    )
    bench, containers = bench_of(request.user), containers_for(request.user)
    typed = (request.POST if request.method == "POST" else request.GET).dict()
    usual = containers[USUAL_CONTAINER.get(version.formula.kind, "tin_1oz")]
    start = {"container": usual.slug, "count": "12", "level": f"{usual.usual_level * 100:.0f}", "loss": "5"}
    if typed.get("container", "") in containers and typed.get("was") != typed["container"]:
        typed["level"] = f"{containers[typed['container']].usual_level * 100:.0f}"
    form = FillForm({**start, **typed}, containers=containers)
    context: dict[str, Any] = {"version": version, "formula": version.formula, "form": form}
    if not pourable(version):
        context["problem"] = "There is nothing to pour yet. Add materials to the formula first."
    elif form.is_valid():
        try:
            shelf = shelf_for(request.user)
            plan = _plan(version, shelf, containers, form.cleaned_data, bench.scale_step_g)
            if request.method == "POST":
                pour = services.start_pour(
                    request.user,
                    version,
                    plan,
                    scale_step_g=bench.scale_step_g,
                    seen=whole_number(request.POST.get("seen")),
                    request_key=key_of(request),
                )
                return redirect("pours:pour", pk=pour.pk)
            context |= {
                "plan": plan,
                "sheet": _sheet(request.user, version, shelf, plan, bench.scale_step_g),
            }
        except CalmTinError as refused:
            refuse(form, refused)
    return page_or_fragment(request, "pours/fill.html", "pours/_fill.html", context)


def _plan(
    version: Version,
    shelf: Shelf,
    containers: Mapping[str, Container],
    data: dict[str, Any],
    step: Decimal,
) -> FillPlan:
    parts = composition_of(version, shelf).masses
    return plan_fill(
        parts,
        containers[data["container"]],
        count=int(data["count"]),
        level=float(data["level"]) / 100.0,
        loss=float(data["loss"]) / 100.0,
        set_point_c=set_point_c(blend(parts)),
        resolution=step,
        overrun=version.overrun,
    )


def _sheet(
    user: Any, version: Version, shelf: Shelf, plan: FillPlan, step: Decimal
) -> list[dict[str, Any]]:
    """Return what the weigh sheet will say, so that the plan shows it already."""
    left = left_of(user)
    return [
        {
            "part": part,
            "grams": grams,
            "is_small": too_small(grams, step),
            # Only of what the maker keeps count of.
            "left": left[part.material.slug] if left.get(part.material.slug, grams) < grams else None,
        }
        for part, grams in composition_of(version, shelf).weighed(plan.batch_g, step)
    ]
