"""One edit of a draft each: parse, call, respond."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.forms.lines import (
    AddLineForm,
    BatchForm,
    DoseForm,
    PercentForm,
    ProcessForm,
    StrengthForm,
)
from calmtin.formulas.models import Version
from calmtin.formulas.queries.typed import dose_typed, material_named, what_it_does
from calmtin.formulas.views.shared import edit_with, version_of
from calmtin.pantry.adapters import shelf_for


@require_POST
def line_percent(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Give a line its percentage, typed in percent, on top of the base, or in any measure."""

    form = DoseForm(request.POST)

    def give(user: Any, version: Version, *, seen: int) -> Version:
        material = shelf_for(user)[services.find_line(version, key).material]
        dose = dose_typed(material, form.cleaned_data["percent"])
        told: dict[str, Any] = {"key": key, "on_top": dose.on_top, "seen": seen}
        if dose.measured is not None:
            return services.set_weight(user, version, measured=dose.measured, **told)
        return services.set_percent(user, version, percent=dose.percent or Decimal(0), **told)

    return edit_with(request, pk, number, give, place=key, form=form)


@require_safe
def dose_told(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Preview the effect of a dose while it is typed; empty for an unchanged one."""
    version, form = version_of(request, pk, number), DoseForm(request.GET)
    does, wrong = "", ""
    text = (form.cleaned_data["percent"] if form.is_valid() else "").strip()
    if text and text != request.GET.get("was", ""):
        try:
            does = what_it_does(
                version,
                shelf_for(request.user),
                text,
                key=request.GET.get("key", ""),
                name=request.GET.get("material", ""),
            )
        except (CalmTinError, StopIteration) as refused:
            wrong = str(refused)
    return render(request, "formulas/_will.html", {"said": does, "wrong": wrong})


@require_POST
def line_confirm(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Take what a measured line weighs for known."""

    def values(_: Version) -> dict[str, Any]:
        return {"key": key}

    return edit_with(request, pk, number, services.confirm_weight, place=key, values=values)


@require_POST
def line_add(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Add a material; an empty dose means 0."""
    form = AddLineForm(request.POST)

    def values(_: Version) -> dict[str, Any]:
        material = material_named(form.cleaned_data["material"], shelf_for(request.user))
        dose = dose_typed(material, form.cleaned_data["percent"] or "0")
        return {
            "slug": material.slug,
            "percent": dose.percent,
            "on_top": bool(dose.on_top),
            "measured": dose.measured,
        }

    return edit_with(request, pk, number, services.add_line, place="add", form=form, values=values)


@require_POST
def undo(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Undo the newest edit of the draft."""
    return edit_with(request, pk, number, services.undo, place="page")


@require_POST
def redo(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Redo the edit that was undone last."""
    return edit_with(request, pk, number, services.redo, place="page")


@require_POST
def fit_scents(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Bring all scents down until the strictest ceiling holds."""
    return edit_with(request, pk, number, services.fit_scents, place="scents")


@require_POST
def line_trade(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Move the boundary between two layers of the tin."""
    form = PercentForm(request.POST)

    def values(_: Version) -> dict[str, Any]:
        return {"key": key, "other": request.POST.get("other", ""), "percent": form.cleaned_data["percent"]}

    return edit_with(request, pk, number, services.trade, place=key, form=form, values=values)


@require_POST
def line_lock(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Lock or unlock a line."""

    def values(_: Version) -> dict[str, Any]:
        return {"key": key, "is_locked": request.POST.get("lock") == "yes"}

    return edit_with(request, pk, number, services.set_lock, place=key, values=values)


@require_POST
def line_remove(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Take a line out."""
    return edit_with(request, pk, number, services.remove_line, place=key, values=lambda _: {"key": key})


@require_POST
def line_balance(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Let a line balance the total."""
    return edit_with(request, pk, number, services.balance_with, place=key, values=lambda _: {"key": key})


@require_POST
def line_strength(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Say how strong a tincture is."""
    form = StrengthForm(request.POST)

    def values(_: Version) -> dict[str, Any]:
        return {"key": key, "alcohol_pct": form.alcohol_pct, "typed": form.typed}

    place = f"strength-{key}"
    return edit_with(request, pk, number, services.set_strength, place=place, form=form, values=values)


@require_POST
def batch(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Choose the batch size that grams are shown for."""
    form = BatchForm(request.POST)

    def values(_: Version) -> dict[str, Any]:
        return {"batch_g": form.cleaned_data["batch_g"]}

    return edit_with(request, pk, number, services.set_batch, place="batch", form=form, values=values)


@require_POST
def process(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Choose how it is cooled and whipped."""
    form = ProcessForm(request.POST)

    def values(_: Version) -> dict[str, Any]:
        data = form.cleaned_data
        return {"cooling": data["cooling"], "overrun_pct": int(data["overrun"])}

    return edit_with(request, pk, number, services.set_process, place="process", form=form, values=values)


@require_POST
def next_version(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Start the next version from this one."""
    try:
        draft = services.start_next_version(
            request.user, version_of(request, pk, number), request_key=key_of(request)
        )
    except CalmTinError as refused:
        messages.error(request, str(refused))
        return redirect("formulas:version", pk=pk, number=number)
    return redirect("formulas:version", pk=pk, number=draft.number)
