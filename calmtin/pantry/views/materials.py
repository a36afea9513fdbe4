"""A material, its lots and own figures; a new material."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from calmtin.accounts.queries import bench_of
from calmtin.common.fields import refuse
from calmtin.common.once import key_of
from calmtin.core.errors import CalmTinError
from calmtin.pantry import services
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.forms import LotForm, MaterialForm, OwnFiguresForm
from calmtin.pantry.models import Override
from calmtin.pantry.queries.amounts import weight_typed
from calmtin.pantry.queries.material import material_view


@require_http_methods(["GET", "HEAD", "POST"])
def material(request: HttpRequest, slug: str) -> HttpResponse:
    """Show a material; POST puts a lot of it on the shelf or keeps own figures."""
    shelf, today = shelf_for(request.user), timezone.localdate()
    if slug not in shelf:
        raise Http404
    lot = LotForm(request.POST if "amount" in request.POST else None, initial={"bought_on": today})
    own = OwnFiguresForm(
        request.POST if "own_figures" in request.POST else None, initial=_own(request, slug)
    )
    if lot.is_bound and lot.is_valid() and _buy(request, slug, lot):
        return redirect("pantry:material", slug=slug)
    if own.is_bound and own.is_valid():
        try:
            services.set_own_figures(request.user, slug, **own.figures())
            messages.success(request, "Kept. Predictions use your figures from now on.")
            return redirect("pantry:material", slug=slug)
        except CalmTinError as refused:
            refuse(own, refused)
    view = material_view(request.user, shelf, slug, bench_of(request.user), today)
    return render(request, "pantry/material.html", {"view": view, "lot_form": lot, "own_form": own})


def _own(request: HttpRequest, slug: str) -> dict[str, Any]:
    row = Override.objects.of(request.user).filter(material=slug).first()
    return {} if row is None else {name: getattr(row, name) for name in OwnFiguresForm.base_fields}


def _buy(request: HttpRequest, slug: str, form: LotForm) -> bool:
    data = form.cleaned_data
    words = f"{data['amount']} {data['form']}".strip()
    try:
        weight = weight_typed(words, shelf_for(request.user)[slug])
        services.buy_lot(
            request.user,
            material=slug,
            amount_g=weight.grams,
            typed=weight.typed,
            request_key=key_of(request),
            **{name: data[name] for name in ("bought_on", "price", "best_before", "opened_on", "note")},
        )
    except CalmTinError as refused:
        form.add_error("amount", refused.sentence)
        return False
    messages.success(request, f"On the shelf: {weight.grams:.1f} g{weight.span}.")
    return True


@require_http_methods(["GET", "HEAD", "POST"])
def material_new(request: HttpRequest) -> HttpResponse:
    """Add a material that the library lacks."""
    form = MaterialForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            row = services.add_material(request.user, **form.facts(), request_key=key_of(request))
            return redirect("pantry:material", slug=row.slug)
        except CalmTinError as refused:
            known = {"melt_low_c": "melt_low", "behaves_like": "behaves_like"}
            form.add_error(known.get(refused.field), refused.sentence)
    return render(request, "pantry/material_new.html", {"form": form})
