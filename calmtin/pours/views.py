"""Today, the fill plan, pour day and the pour's record."""

from __future__ import annotations

from decimal import Decimal
from functools import partial
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.numbers import whole_number
from calmtin.common.once import key_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.composition import masses
from calmtin.core.errors import CalmTinError
from calmtin.core.fill import FillPlan, plan_fill
from calmtin.core.firmness import LADDER, blend, set_point_c
from calmtin.core.units import celsius_to_fahrenheit, fahrenheit_to_celsius
from calmtin.core.weighing import share_out, too_small
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.queries import formulas_of
from calmtin.pantry.adapters import container_for, containers_for, shelf_for
from calmtin.pantry.queries import pantry_today
from calmtin.pours import queries, services
from calmtin.pours.forms import CheckForm, FillForm, GramsForm
from calmtin.pours.models import WeighLine

USUAL_CONTAINER = {
    "gloss": "gloss_tube_8ml",
    "lip_balm": "lip_tube_standard",
    "lotion_bar": "mould_round_60ml",
}
USUAL_CONTAINER |= {
    "massage_bar": "mould_rect_90ml",
    "whipped_butter": "jar_120ml",
    "poured_butter": "jar_60ml",
}


@require_safe
def today(request: HttpRequest) -> HttpResponse:
    """Show what waits; an empty account is led to its first formula."""
    shelf = shelf_for(request.user)
    context = {
        "today": queries.today(request.user, shelf),
        "pantry": pantry_today(request.user, shelf, timezone.localdate()),
        "formulas": formulas_of(request.user)[:8],
    }
    return render(request, "pours/today.html", context)


@require_safe
def pour_list(request: HttpRequest) -> HttpResponse:
    """Show all pours."""
    shelf = shelf_for(request.user)
    return render(request, "pours/list.html", {"pours": queries.pours_of(request.user, shelf)})


@require_http_methods(["GET", "HEAD", "POST"])
def fill(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Plan the fill: GET works it out as it is typed, POST starts the pour."""
    version = Version.objects.select_related("formula").own_or_404(
        request.user, formula_id=pk, number=number
    )
    bench, containers = bench_of(request.user), containers_for(request.user)
    typed = request.POST if request.method == "POST" else request.GET
    usual = containers[USUAL_CONTAINER.get(version.formula.kind, "tin_1oz")]
    start = {"container": usual.slug, "count": "12", "level": f"{usual.usual_level * 100:.0f}", "loss": "5"}
    if typed.get("container") in containers and typed.get("was") != typed["container"]:
        typed = typed.copy()
        typed["level"] = f"{containers[typed['container']].usual_level * 100:.0f}"
    form = FillForm({**start, **typed.dict()}, containers=containers)
    context: dict[str, Any] = {"version": version, "formula": version.formula, "form": form}
    if not queries.pourable(version):
        context["problem"] = "There is nothing to pour yet. Add materials to the formula first."
    elif form.is_valid():
        try:
            plan = _plan(request, version, form.cleaned_data, bench.scale_step_g)
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
            context |= {"plan": plan, "sheet": _sheet(request, version, plan, bench.scale_step_g)}
        except CalmTinError as refused:
            form.add_error(refused.field if refused.field in form.fields else None, refused.sentence)
    return page_or_fragment(request, "pours/fill.html", "pours/_fill.html", context)


def _plan(request: HttpRequest, version: Version, data: dict[str, Any], step: Decimal) -> FillPlan:
    shelf = shelf_for(request.user)
    parts = [(material, float(line.percent)) for line, material in lines_with_materials(version, shelf)]
    return plan_fill(
        parts,
        container_for(request.user, data["container"]),
        count=int(data["count"]),
        level=float(data["level"]) / 100.0,
        loss=float(data["loss"]) / 100.0,
        set_point_c=set_point_c(blend(parts)),
        resolution=step,
        overrun=version.overrun,
    )


def _sheet(request: HttpRequest, version: Version, plan: FillPlan, step: Decimal) -> list[dict[str, Any]]:
    """Return what the weigh sheet will say, so that the plan shows it already."""
    shelf = shelf_for(request.user)
    pairs = [pair for pair in lines_with_materials(version, shelf) if pair[0].percent > 0]
    grams = share_out(masses([line.percent for line, _ in pairs], plan.batch_g), step)
    return [
        {"line": line, "material": material, "grams": weight, "is_small": too_small(weight, step)}
        for (line, material), weight in zip(pairs, grams, strict=True)
    ]


@require_safe
def pour(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a pour: its weigh sheet while it is on the scale, then its record."""
    return _show(request, pk)


@require_POST
def weigh(request: HttpRequest, pk: int, position: int) -> HttpResponse:
    """Save one reading of the scale."""
    line = WeighLine.objects.select_related("pour").own_or_404(request.user, pour_id=pk, position=position)
    form = GramsForm(request.POST, name=shelf_for(request.user)[line.material].label)
    problem = ""
    if not form.is_valid():
        problem = form.errors["grams"][0]
    else:
        try:
            services.weigh(request.user, line, form.cleaned_data["grams"])
        except CalmTinError as refused:
            problem = refused.sentence
    if problem:
        return _show(request, pk, problem=problem, problem_at=position, typed=request.POST.get("grams", ""))
    return _show(request, pk)


@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Take back the newest reading."""
    return _act(request, pk, partial(services.take_back, request_key=key_of(request)))


@require_POST
def finish(request: HttpRequest, pk: int) -> HttpResponse:
    """Close the weigh sheet."""
    return _act(request, pk, services.finish_weighing, then="pours:pour")


@require_POST
def check(request: HttpRequest, pk: int) -> HttpResponse:
    """Add a result."""
    found, bench = queries.pour_with_lines(request.user, pk=pk), bench_of(request.user)
    form = CheckForm(request.POST, rungs=_rungs())
    if form.is_valid():
        data = form.cleaned_data
        degrees = float(data["temp"])
        try:
            services.record_check(
                request.user,
                found,
                temp_c=fahrenheit_to_celsius(degrees) if bench.temperature_unit == "F" else degrees,
                felt_rung=Decimal(data["felt_rung"]) if data["felt_rung"] else None,
                verdict=data["verdict"],
                notes=data["notes"],
                request_key=key_of(request),
            )
            messages.success(request, "Kept.")
            return redirect("pours:pour", pk=pk)
        except CalmTinError as refused:
            form.add_error(None, refused.sentence)
    return _show(request, pk, form=form)


@require_safe
def history(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a formula's pours side by side."""
    formula = Formula.objects.own_or_404(request.user, pk=pk)
    rows = queries.history(formula, shelf_for(request.user), bench_of(request.user))
    return render(request, "pours/history.html", {"formula": formula, "rows": rows})


def _rungs() -> list[tuple[str, str]]:
    """Return the ladder in half rungs; the halves lie between two words."""
    steps = []
    for half in range(21):
        rung = half / 2
        words = LADDER[half // 2] if half % 2 == 0 else f"between {half // 2} and {half // 2 + 1}"
        steps.append((f"{rung:g}", f"{rung:g}  {words}"))
    return steps


def _act(request: HttpRequest, pk: int, service: Any, then: str = "") -> HttpResponse:
    found = queries.pour_with_lines(request.user, pk=pk)
    try:
        service(request.user, found)
    except CalmTinError as refused:
        return _show(request, pk, problem=refused.sentence, problem_at="page")
    if then and request.htmx:
        response = HttpResponse()
        response["HX-Redirect"] = reverse("pours:pour", args=[pk])
        return response
    return redirect(then, pk=pk) if then else _show(request, pk)


def _show(request: HttpRequest, pk: int, **context: Any) -> HttpResponse:
    found, bench = queries.pour_with_lines(request.user, pk=pk), bench_of(request.user)
    view = queries.pour_view(found, shelf_for(request.user), bench)
    if found.is_weighing:
        return page_or_fragment(request, "pours/weigh.html", "pours/_weigh.html", {"view": view, **context})
    room = celsius_to_fahrenheit(bench.room_c) if bench.temperature_unit == "F" else bench.room_c
    context.setdefault("form", CheckForm(initial={"temp": f"{room:g}"}, rungs=_rungs()))
    return render(request, "pours/record.html", {"view": view, **context})
