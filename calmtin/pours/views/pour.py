"""A pour: its weigh sheet, its record, its formula's history."""

from __future__ import annotations

from functools import partial
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.html import escape
from django.utils.translation import gettext
from django.views.decorators.http import require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.common.numbers import whole_number
from calmtin.common.pages import always_current, htmx_of, page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot
from calmtin.pours import services
from calmtin.pours.forms.day import CorrectWeightForm, GramsForm, YieldForm
from calmtin.pours.models import Pour, WeighLine
from calmtin.pours.queries.live import live_of
from calmtin.pours.queries.looks import flare_ups
from calmtin.pours.queries.record import pour_view, pour_with_lines
from calmtin.pours.queries.rescue import rescue_view
from calmtin.pours.queries.stages import is_filled
from calmtin.pours.queries.weigh_rows import comes_to


@always_current
@require_safe
def pour(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a pour: its weigh sheet, at the line that was asked for; once that is closed, its record."""
    return _show(request, pk, at=whole_number(request.GET.get("line")))


@require_POST
def weigh(request: HttpRequest, pk: int, position: int) -> HttpResponse:
    """Save one reading of the scale."""
    line = WeighLine.objects.select_related("pour").own_or_404(request.user, pour_id=pk, position=position)
    form = GramsForm(request.POST, material=shelf_for(request.user)[line.material])
    problem = ""
    if not form.is_valid():
        problem = str(form.errors["grams"][0])
    else:
        after = whole_number(request.POST.get("after"))
        try:
            services.weigh(
                request.user,
                line,
                form.cleaned_data["grams"],
                after=after,
                mode=form.mode,
                lot=_lot(request),
            )
            if request.POST.get("from_scale"):
                services.clear_scale(request.user, line.pour)
        except CalmTinError as refused:
            problem = str(refused)
    if problem:
        typed = request.POST.get("grams", "")
        return _show(
            request, pk, at=position, problem=problem, problem_at=position, typed=typed, mode=form.mode
        )
    return _show(request, pk)


@require_safe
def weigh_preview(request: HttpRequest, pk: int, position: int) -> HttpResponse:
    """Say what a line would come to, while its weight is typed."""
    line = WeighLine.objects.select_related("pour").own_or_404(request.user, pour_id=pk, position=position)
    shelf = shelf_for(request.user)
    form = GramsForm(request.GET, material=shelf[line.material])
    words = ""
    if not form.is_valid():
        words = str(form.errors["grams"][0]) if form.typed else ""
    else:
        try:
            words = comes_to(line, form.cleaned_data["grams"], form.mode, shelf)
        except CalmTinError as refused:
            words = str(refused)
    return HttpResponse(escape(words))


def _lot(request: HttpRequest) -> Lot | None:
    """Return the lot chosen for a weight; by default the sheet's own."""
    chosen = whole_number(request.POST.get("lot"))
    return Lot.objects.of(request.user).filter(pk=chosen, voided_at=None).first() if chosen else None


@require_POST
def weigh_into(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep how the sheet is weighed, into one pot or into cups, and how it is melted."""
    weighed_into, melting = (request.POST.get(name, "") for name in ("weighed_into", "melting"))

    def keep(user: Any, pour: Pour) -> None:
        services.weigh_into(user, pour, weighed_into=weighed_into)
        if melting:
            services.choose_melting(user, pour, melting=melting)

    return _act(request, pk, keep)


@require_POST
def correct(request: HttpRequest, pk: int) -> HttpResponse:
    """Correct a weight of a closed sheet, with the reason."""
    found = pour_with_lines(request.user, pk=pk)
    form = CorrectWeightForm(request.POST, pour=found, shelf=shelf_for(request.user))
    if form.is_valid():
        line = next(line for line in found.lines.all() if str(line.position) == form.cleaned_data["line"])
        try:
            services.correct_weight(
                request.user, line, form.cleaned_data["grams"], reason=form.cleaned_data["reason"]
            )
            return redirect("pours:pour", pk=pk)
        except CalmTinError as refused:
            refuse(form, refused)
    return _show(request, pk, correction=form)


@require_POST
def count(request: HttpRequest, pk: int) -> HttpResponse:
    """Record the yield of a pour, and put its leftovers into the pantry."""
    found = pour_with_lines(request.user, pk=pk)
    form = YieldForm(request.POST, pour=found)
    if form.is_valid():
        try:
            with transaction.atomic():
                left_g = form.leftover_g
                services.record_yield(
                    request.user,
                    found,
                    filled_g=form.filled_g,
                    left_g=left_g,
                    pieces=form.pieces,
                    counts=form.counts,
                    request_key=key_of(request),
                )
                if left_g and form.cleaned_data["to_pantry"]:
                    today = timezone.localdate()
                    services.keep_leftovers(request.user, found, left_g=left_g, today=today)
            messages.success(request, gettext("Count saved. The next plan uses your losses."))
            return redirect("pours:pour", pk=pk)
        except CalmTinError as refused:
            refuse(form, refused)
    return _show(request, pk, counted=form)


@require_POST
def undo_weight(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo the newest reading."""
    after = whole_number(request.POST.get("after"))
    return _act(request, pk, partial(services.undo_weight, request_key=key_of(request), after=after))


@require_POST
def finish(request: HttpRequest, pk: int) -> HttpResponse:
    """Close the weigh sheet."""
    return _act(request, pk, services.finish_weighing, ends=True)


@require_POST
def scale_up(request: HttpRequest, pk: int) -> HttpResponse:
    """Scale the rest of the sheet up to an over-poured line."""
    return _act(request, pk, partial(services.scale_up, request_key=key_of(request)))


@require_POST
def add_to_pot(request: HttpRequest, pk: int) -> HttpResponse:
    """Make an addition part of a pour that was melted again."""
    found, shelf = pour_with_lines(request.user, pk=pk), shelf_for(request.user)
    slug = request.POST.get("material", "")
    if slug not in shelf:
        return _show(request, pk, problem=gettext("Choose one of the additions offered."))
    form = GramsForm(request.POST, material=shelf[slug])
    if not form.is_valid():
        return _show(request, pk, problem=str(form.errors["grams"][0]))
    try:
        services.add_to_pot(
            request.user,
            found,
            material=slug,
            grams=form.cleaned_data["grams"],
            why=request.POST.get("why", "")[:200],
            request_key=key_of(request),
        )
        messages.success(request, gettext("Added. Predictions now follow what is in the pot."))
        return redirect("pours:pour", pk=pk)
    except CalmTinError as refused:
        return _show(request, pk, problem=str(refused), stops=getattr(refused, "stops", []))


@require_POST
def next_sample(request: HttpRequest, pk: int) -> HttpResponse:
    """Start the next sample of a series from what is left in the pot."""
    found = pour_with_lines(request.user, pk=pk)
    try:
        started = services.pour_next_sample(request.user, found, request_key=key_of(request))
    except CalmTinError as refused:
        return _show(request, pk, problem=str(refused), stops=getattr(refused, "stops", []))
    return redirect("pours:pour", pk=started.pk)


@require_POST
def next_version(request: HttpRequest, pk: int) -> HttpResponse:
    """Start the next version with what really went into the pot."""
    found = pour_with_lines(request.user, pk=pk)
    try:
        draft = services.next_from_weights(request.user, found, request_key=key_of(request))
    except CalmTinError as refused:
        return _show(request, pk, problem=str(refused))
    messages.success(
        request,
        said("Version {number} has the actual weights of {code}.", number=draft.number, code=found.code),
    )
    return redirect("formulas:version", pk=draft.formula_id, number=draft.number)


@require_POST
def cancel_pour(request: HttpRequest, pk: int) -> HttpResponse:
    """Call off a pour that was started by mistake."""
    reason = request.POST.get("reason", "")
    return _act(request, pk, partial(services.cancel_pour, reason=reason), ends=True, at="reason")


def _act(
    request: HttpRequest, pk: int, service: Any, *, ends: bool = False, at: str = "page"
) -> HttpResponse:
    found = pour_with_lines(request.user, pk=pk)
    try:
        service(request.user, found)
    except CalmTinError as refused:
        stops = getattr(refused, "stops", [])
        return _show(request, pk, problem=str(refused), problem_at=at, stops=stops)
    if ends and not htmx_of(request):
        return redirect(_after_weighing(found), pk=pk)
    return _show(request, pk)


def _after_weighing(found: Pour) -> str:
    """Return where a closed sheet leads: to the stove; a cancelled one to its record."""
    return "pours:run" if found.called_off_at is None else "pours:pour"


def _show(request: HttpRequest, pk: int, *, at: int | None = None, **context: Any) -> HttpResponse:
    found, bench = pour_with_lines(request.user, pk=pk), bench_of(request.user)
    if htmx_of(request) and not found.is_weighing:
        return HttpResponse(headers={"HX-Redirect": reverse(_after_weighing(found), args=[pk])})
    shelf = shelf_for(request.user)
    view = pour_view(found, shelf, bench, at=at)
    context |= {"version": found.version, "back": reverse("pours:pour", args=[pk])}
    if found.is_weighing:
        # The simulated scale stands on the line that is next in turn.
        context["live"] = live_of(found, shelf, "scale") if view.is_in_turn else None
        return page_or_fragment(request, "pours/weigh.html", "pours/_weigh.html", {"view": view, **context})
    context.setdefault("correction", CorrectWeightForm(pour=found, shelf=shelf))
    context.setdefault("counted", YieldForm(pour=found))
    context["is_kept"] = found.called_off_at is None and not found.is_rehearsal
    context["is_filled"] = is_filled(found)
    context["flare_ups"] = flare_ups(request.user, found, shelf)
    context["rescue"] = rescue_view(request.user, found, shelf, bench, request.GET.get("wanted"))
    return render(request, "pours/record.html", {"view": view, **context})
