"""Infusions and rendered comb."""

from __future__ import annotations

from datetime import timedelta

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.pantry import services
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.forms import InfusionForm, ReasonForm, RenderForm, StrainForm
from calmtin.pantry.models import Infusion, Rendering
from calmtin.pantry.queries.corrections import corrections_of


@require_http_methods(["GET", "HEAD", "POST"])
def making(request: HttpRequest) -> HttpResponse:
    """Show infusions and rendered wax; POST starts an infusion or records a rendering."""
    today, shelf = timezone.localdate(), shelf_for(request.user)
    infusion = InfusionForm(
        request.POST if "herb" in request.POST else None,
        oils=_oils(request),
        initial={"started_on": today},
    )
    rendering = RenderForm(request.POST if "raw_g" in request.POST else None, initial={"done_on": today})
    if infusion.is_bound and infusion.is_valid() and _infuse(request, infusion):
        return redirect("pantry:making")
    if rendering.is_bound and rendering.is_valid() and _render(request, rendering):
        return redirect("pantry:making")
    rows = [(row, shelf[row.oil]) for row in Infusion.objects.of(request.user)]
    context = {"infusion": infusion, "rendering": rendering, "infusions": rows, "today": today}
    context["renderings"] = Rendering.objects.of(request.user)
    return render(request, "pantry/making.html", context)


def _infuse(request: HttpRequest, form: InfusionForm) -> bool:
    data = {name: value for name, value in form.cleaned_data.items() if name != "is_dried"}
    try:
        services.start_infusion(request.user, **data, request_key=key_of(request))
    except CalmTinError as refused:
        refuse(form, refused)
        return False
    return True


def _render(request: HttpRequest, form: RenderForm) -> bool:
    try:
        services.render_comb(request.user, **form.cleaned_data, request_key=key_of(request))
    except CalmTinError as refused:
        refuse(form, refused)
        return False
    return True


@require_http_methods(["GET", "HEAD", "POST"])
def infusion(request: HttpRequest, pk: int) -> HttpResponse:
    """Show an infusion; POST strains it, puts it right or deletes it."""
    found = Infusion.objects.own_or_404(request.user, pk=pk)
    act = request.POST.get("act", "strain") if request.method == "POST" else ""
    form = StrainForm(
        request.POST if act == "strain" else None, initial={"strained_on": timezone.localdate()}
    )
    facts = {name: getattr(found, name) for name in InfusionForm.base_fields if name != "is_dried"}
    sent = request.POST if act == "fix" else None
    fixed = InfusionForm(sent, oils=_oils(request), initial={**facts, "is_dried": True}, prefix="fix")
    why = ReasonForm(sent)
    try:
        if act == "delete":
            services.delete_infusion(request.user, found)
            return redirect("pantry:making")
        if act == "fix" and fixed.is_valid() and why.is_valid():
            data = {name: value for name, value in fixed.cleaned_data.items() if name != "is_dried"}
            services.correct_infusion(request.user, found, **data, **why.cleaned_data)
            return redirect("pantry:infusion", pk=pk)
        if act == "strain" and form.is_valid():
            lot = services.strain(request.user, found, **form.cleaned_data, request_key=key_of(request))
            return redirect("pantry:lot", pk=lot.pk)
    except CalmTinError as refused:
        if act == "delete":
            raise
        refuse(fixed if act == "fix" else form, refused)
        found.refresh_from_db()
    context = {"infusion": found, "oil": shelf_for(request.user)[found.oil], "form": form}
    context |= {"fixed": fixed, "why": why, "act": act, "corrections": corrections_of(found)}
    context["days"] = (found.due_on - timezone.localdate()) // timedelta(days=1)
    return render(request, "pantry/infusion.html", context)


def _oils(request: HttpRequest) -> list[tuple[str, str]]:
    return [(slug, m.label) for slug, m in shelf_for(request.user).items() if m.layer == "oil"]
