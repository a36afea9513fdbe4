"""The run sheet: the current step, next to the stove."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.common.numbers import whole_number
from calmtin.common.pages import always_current, htmx_of, page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.pantry.adapters import shelf_for
from calmtin.pours import services
from calmtin.pours.forms.day import (
    FeelForm,
    GramsForm,
    MinutesForm,
    PotTempForm,
    PotWeightForm,
    SetTestForm,
    route_steps,
)
from calmtin.pours.models import PourFinishPart
from calmtin.pours.queries.by_feel import may_add
from calmtin.pours.queries.live import live_of
from calmtin.pours.queries.record import pour_with_lines
from calmtin.pours.queries.routes import route_view
from calmtin.pours.queries.run import run_view, title_of


@always_current
@require_safe
def run(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the current step of a pour, and its clock; the address may carry an addition by feel."""
    return _show(request, pk)


@require_POST
def step(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Keep that a step was done, or that it was not after all."""
    found = pour_with_lines(request.user, pk=pk)
    try:
        services.mark_step(
            request.user,
            found,
            key=key,
            is_done="undo" not in request.POST,
            note=request.POST.get("note", ""),
            title=title_of(found, shelf_for(request.user), key),
            request_key=key_of(request),
        )
    except CalmTinError as refused:
        return _show(request, pk, problem=str(refused))
    return _after(request, pk)


@require_POST
def reading(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep a reading of the thermometer."""
    found = pour_with_lines(request.user, pk=pk)
    form = PotTempForm(request.POST)
    if form.is_valid():
        try:
            services.read_pot(
                request.user,
                found,
                temp_c=form.cleaned_data["temp"],
                place=form.cleaned_data["place"],
                request_key=key_of(request),
            )
            return _after(request, pk)
        except CalmTinError as refused:
            refuse(form, refused)
    return _show(request, pk, form=form)


@require_POST
def melting(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep whether the pour melts all at once or one after the other."""
    found = pour_with_lines(request.user, pk=pk)
    try:
        services.choose_melting(request.user, found, melting=request.POST.get("melting", ""))
    except CalmTinError as refused:
        return _show(request, pk, problem=str(refused))
    return _after(request, pk)


@require_POST
def pot_weight(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what the oil and the tincture weigh after boiling down."""
    found = pour_with_lines(request.user, pk=pk)
    form = PotWeightForm(request.POST)
    if form.is_valid():
        try:
            grams = form.cleaned_data["pot_g"]
            services.weigh_pot(request.user, found, grams=grams, request_key=key_of(request))
            return _after(request, pk)
        except CalmTinError as refused:
            refuse(form, refused)
    return _show(request, pk, pot_form=form)


@require_POST
def timer(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Start the clock of a step, or stop it."""
    found, once = pour_with_lines(request.user, pk=pk), key_of(request)
    form = MinutesForm(request.POST)
    try:
        if "stop" in request.POST:
            services.stop_timer(request.user, found, key=key, request_key=once)
            return _after(request, pk)
        if form.is_valid():
            minutes = form.cleaned_data["minutes"]
            services.start_timer(request.user, found, key=key, minutes=minutes, request_key=once)
            return _after(request, pk)
    except CalmTinError as refused:
        refuse(form, refused)
    return _show(request, pk, minutes=form)


@require_POST
def feel(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what went into the pot by feel."""
    found, shelf = pour_with_lines(request.user, pk=pk), shelf_for(request.user)
    choices = may_add(found, shelf)
    form, stops = FeelForm(request.POST, choices=choices, shelf=shelf), list[Any]()
    if form.is_valid():
        try:
            services.add_to_pot(
                request.user,
                found,
                material=form.cleaned_data["material"],
                grams=form.cleaned_data["amount"],
                why=request.POST["amount"].strip()[:200],
                by_feel=True,
                request_key=key_of(request),
            )
            same = FeelForm(
                choices=choices, shelf=shelf, initial={"material": form.cleaned_data["material"]}
            )
            return _after(request, pk, feel=same)
        except CalmTinError as refused:
            refuse(form, refused)
            stops = getattr(refused, "stops", [])
    typed = urlencode({name: request.POST.get(name, "") for name in ("material", "amount")})
    return _show(request, pk, feel=form, stops=stops, back=f"{reverse('pours:run', args=[pk])}?{typed}")


@require_POST
def set_test(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what a drop said before it was poured."""
    found = pour_with_lines(request.user, pk=pk)
    form = SetTestForm(request.POST, auto_id="test_%s")
    if form.is_valid():
        try:
            services.record_check(
                request.user,
                found,
                temp_c=form.temp_c,
                is_temp_guessed=form.is_temp_guessed,
                felt_rung=form.cleaned_data["felt_rung"],
                set_test=form.cleaned_data["set_test"],
                request_key=key_of(request),
            )
            return _after(request, pk)
        except CalmTinError as refused:
            refuse(form, refused)
    return _show(request, pk, tried=form)


@require_POST
def weigh_finish(request: HttpRequest, pk: int, part: int) -> HttpResponse:
    """Save one reading of the scale for a part of a finish."""
    found = PourFinishPart.objects.select_related("pour").own_or_404(request.user, pour_id=pk, pk=part)
    form = GramsForm(request.POST, material=shelf_for(request.user)[found.material])
    after, grams_problem = whole_number(request.POST.get("after")), ""
    try:
        if form.is_valid():
            services.weigh_finish(request.user, found, form.cleaned_data["grams"], after=after)
        else:
            grams_problem = str(form.errors["grams"][0])
    except CalmTinError as refused:
        grams_problem = str(refused)
    typed = request.POST.get("grams", "") if grams_problem else ""
    return _show(request, pk, grams_problem=grams_problem, problem_at=part, typed=typed)


@require_http_methods(["GET", "HEAD", "POST"])
def route(request: HttpRequest, pk: int) -> HttpResponse:
    """Arrange the steps of a kind: order, titles, skipped and added steps."""
    found = pour_with_lines(request.user, pk=pk)
    view, problem = route_view(found, shelf_for(request.user)), ""
    if request.method == "POST":
        kind = found.version.formula.kind
        try:
            steps = route_steps(request.POST, {step.own.key: step.usual for step in view.steps})
            services.keep_route(request.user, kind=kind, way=view.way, steps=steps)
            return redirect("pours:route", pk=pk)
        except CalmTinError as refused:
            problem = str(refused)
    return render(request, "pours/route.html", {"view": view, "problem": problem})


def _after(request: HttpRequest, pk: int, **context: Any) -> HttpResponse:
    return _show(request, pk, **context) if htmx_of(request) else redirect("pours:run", pk=pk)


def _show(request: HttpRequest, pk: int, **context: Any) -> HttpResponse:
    bench = bench_of(request.user)
    shelf = shelf_for(request.user)
    found = pour_with_lines(request.user, pk=pk)
    view = run_view(found, shelf, bench)
    context = {"version": found.version, "back": reverse("pours:run", args=[pk])} | context
    context["live"] = live_of(found, shelf, "probe")
    context.setdefault("tried", SetTestForm(auto_id="test_%s"))
    context.setdefault("form", PotTempForm())
    context.setdefault("pot_form", PotWeightForm())
    of = {"material": request.GET["material"]} if "material" in request.GET else {}
    feel = FeelForm(choices=view.may_add, shelf=shelf, initial=of, typed=request.GET.get("amount", ""))
    context.setdefault("feel", feel)
    usual = view.next_step.step.minutes if view.next_step else None
    context.setdefault("minutes", MinutesForm(initial={"minutes": f"{usual[0]:.0f}"} if usual else None))
    return page_or_fragment(request, "pours/run.html", "pours/_run.html", {"view": view, **context})
