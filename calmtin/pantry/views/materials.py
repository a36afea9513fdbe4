"""A material, its lots and own figures; a new material."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext
from django.views.decorators.http import require_http_methods

from calmtin.accounts.queries import bench_of
from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.common.pages import came_from
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import Message, said
from calmtin.core.quantities import Mass
from calmtin.pantry import services
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.forms.shelf import LotForm, MaterialForm, OwnFiguresForm, ReasonForm
from calmtin.pantry.models import Override, OwnMaterial
from calmtin.pantry.queries.amounts import weight_typed
from calmtin.pantry.queries.corrections import corrections_of
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
    back = came_from(request)
    if lot.is_bound and lot.is_valid() and _buy(request, slug, lot):
        return redirect("pantry:material", slug=slug)
    if own.is_bound and own.is_valid():
        try:
            services.set_own_figures(request.user, slug, **own.figures())
            messages.success(request, gettext("Saved. Predictions now use your figures."))
            return redirect(back or reverse("pantry:material", args=[slug]))
        except CalmTinError as refused:
            refuse(own, refused)
    view = material_view(request.user, shelf, slug, bench_of(request.user), today)
    context = {"view": view, "lot_form": lot, "own_form": own, "back": back}
    return render(request, "pantry/material.html", context)


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
        form.add_error("amount", str(refused))
        return False
    messages.success(
        request,
        str(Message("On the shelf: {weight}{span}.", weight=Mass(weight.grams, 1), span=weight.span)),
    )
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
            refuse(form, refused)
    return render(request, "pantry/material_new.html", {"form": form})


@require_http_methods(["GET", "HEAD", "POST"])
def material_correct(request: HttpRequest, slug: str) -> HttpResponse:
    """Put an own material right, or delete it while nothing stands on it."""
    row = OwnMaterial.objects.own_or_404(request.user, slug=slug)
    sent = request.POST if request.method == "POST" and "delete" not in request.POST else None
    form, why = MaterialForm(sent, initial=MaterialForm.told(row)), ReasonForm(sent)
    problem = ""
    try:
        if "delete" in request.POST:
            services.delete_material(request.user, row)
            messages.success(request, said("{name} is deleted.", name=row.name))
            return redirect("pantry:pantry")
        if sent and form.is_valid() and why.is_valid():
            services.correct_material(request.user, row, **form.facts(), **why.cleaned_data)
            return redirect("pantry:material", slug=slug)
    except CalmTinError as refused:
        if sent:
            refuse(form, refused)
        else:
            problem = str(refused)
    context = {
        "row": row,
        "form": form,
        "why": why,
        "problem": problem,
        "corrections": corrections_of(row),
    }
    return render(request, "pantry/material_correct.html", context)
