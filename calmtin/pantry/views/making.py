"""Infusions, rendered comb, clarified butters: the list, and the page of each job."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.pantry import services
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.forms.making import CleanAgainForm, CleanForm, InfusionForm, RenderForm, StrainForm
from calmtin.pantry.forms.shelf import ReasonForm
from calmtin.pantry.models import Infusion, Rendering
from calmtin.pantry.queries.corrections import corrections_of
from calmtin.pantry.queries.making import expected_g, job_view, open_jobs, title_of
from calmtin.pantry.queries.today import infusions_of

ASKED = ("herb", "herb_g", "oil", "oil_g")  # what another page may fill in


@require_http_methods(["GET", "HEAD", "POST"])
def making(request: HttpRequest) -> HttpResponse:
    """Show what is being made and what was; POST starts an infusion or a rendering."""
    today, shelf = timezone.localdate(), shelf_for(request.user)
    asked = {name: request.GET[name][:80] for name in ASKED if name in request.GET}
    infusion = InfusionForm(
        request.POST if "herb" in request.POST else None,
        shelf=shelf,
        initial={"started_on": today, **asked},
    )
    rendering = RenderForm(
        request.POST if "raw_g" in request.POST else None, shelf=shelf, initial={"started_on": today}
    )
    if infusion.is_bound and infusion.is_valid() and (started := _infuse(request, infusion)):
        return redirect(started)
    if rendering.is_bound and rendering.is_valid() and (begun := _render(request, rendering)):
        return redirect(begun)
    infusions = infusions_of(request.user)
    context = {
        "infusion": infusion,
        "rendering": rendering,
        "jobs": open_jobs(request.user, shelf, infusions, timezone.now()),
        "infusions": [(row, shelf[row.oil]) for row in infusions if row.lot_id],
        "renderings": [
            (row, title_of(row, shelf)) for row in Rendering.objects.of(request.user).exclude(lot=None)
        ],
    }
    return render(request, "pantry/making.html", context)


def _infuse(request: HttpRequest, form: InfusionForm) -> Infusion | None:
    data = {name: value for name, value in form.cleaned_data.items() if name != "is_dried"}
    try:
        return services.start_infusion(request.user, **data, request_key=key_of(request))
    except CalmTinError as refused:
        refuse(form, refused)
        return None


def _render(request: HttpRequest, form: RenderForm) -> Rendering | None:
    data, key = dict(form.cleaned_data), key_of(request)
    clean_g = data.pop("clean_g")
    try:
        if clean_g is not None:
            return services.render_at_once(request.user, clean_g=clean_g, **data, request_key=key)
        return services.start_rendering(request.user, **data, request_key=key)
    except CalmTinError as refused:
        refuse(form, refused)
        return None


@require_http_methods(["GET", "HEAD", "POST"])
def infusion(request: HttpRequest, pk: int) -> HttpResponse:
    """Show an infusion; POST marks a step, strains it, puts it right or deletes it."""
    found, shelf = Infusion.objects.own_or_404(request.user, pk=pk), shelf_for(request.user)
    act = request.POST.get("act", "strain") if request.method == "POST" else ""
    form = StrainForm(
        request.POST if act == "strain" else None, initial={"strained_on": timezone.localdate()}
    )
    facts = {name: getattr(found, name) for name in InfusionForm.base_fields if name != "is_dried"}
    sent = request.POST if act == "fix" else None
    fixed = InfusionForm(sent, shelf=shelf, initial={**facts, "is_dried": True}, prefix="fix")
    why = ReasonForm(sent)
    again = CleanAgainForm(
        request.POST if act == "again" else None, initial={"weight_g": found.recovered_g}
    )
    try:
        if act == "delete":
            services.delete_infusion(request.user, found)
            return redirect("pantry:making")
        if act == "step":
            _mark(request, found)
            return redirect(found)
        if act == "fix" and fixed.is_valid() and why.is_valid():
            data = {name: value for name, value in fixed.cleaned_data.items() if name != "is_dried"}
            services.correct_infusion(request.user, found, **data, **why.cleaned_data)
            return redirect(found)
        if act == "again" and again.is_valid():
            data = again.cleaned_data
            services.correct_strained(
                request.user, found, recovered_g=data["weight_g"], reason=data["reason"]
            )
            return redirect(found)
        if act == "strain" and form.is_valid():
            lot = services.strain(request.user, found, **form.cleaned_data, request_key=key_of(request))
            return redirect("pantry:lot", pk=lot.pk)
    except CalmTinError as refused:
        if act in ("delete", "step"):
            raise
        refuse({"fix": fixed, "again": again}.get(act, form), refused)
        found.refresh_from_db()
    context = {"infusion": found, "oil": shelf[found.oil], "form": form, "again": again}
    context |= {"fixed": fixed, "why": why, "act": act}
    return render(request, "pantry/infusion.html", context | _job(request, found))


@require_http_methods(["GET", "HEAD", "POST"])
def rendering(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a rendering; POST marks a step, weighs it, puts its weight right or deletes it."""
    found = Rendering.objects.own_or_404(request.user, pk=pk)
    act = request.POST.get("act", "weigh") if request.method == "POST" else ""
    form = CleanForm(request.POST if act == "weigh" else None, initial={"done_on": timezone.localdate()})
    again = CleanAgainForm(request.POST if act == "again" else None, initial={"weight_g": found.clean_g})
    try:
        if act == "delete":
            services.delete_rendering(request.user, found)
            return redirect("pantry:making")
        if act == "step":
            _mark(request, found)
            return redirect(found)
        if act == "again" and again.is_valid():
            data = again.cleaned_data
            services.correct_rendering(request.user, found, clean_g=data["weight_g"], reason=data["reason"])
            return redirect(found)
        if act == "weigh" and form.is_valid():
            services.finish_rendering(request.user, found, **form.cleaned_data, request_key=key_of(request))
            return redirect(found)
    except CalmTinError as refused:
        if act in ("delete", "step"):
            raise
        refuse(again if act == "again" else form, refused)
        found.refresh_from_db()
    context = {"rendering": found, "form": form, "again": again, "act": act}
    context["expected_g"] = expected_g(request.user, found)
    return render(request, "pantry/rendering.html", context | _job(request, found))


def _mark(request: HttpRequest, row: Infusion | Rendering) -> None:
    services.mark_step(
        request.user,
        row,
        key=request.POST.get("key", ""),
        is_done="undo" not in request.POST,
        request_key=key_of(request),
    )


def _job(request: HttpRequest, row: Infusion | Rendering) -> dict[str, Any]:
    """Return what both kinds of jobs show: their steps, and what was corrected."""
    job = job_view(row, shelf_for(request.user), row.marks.all(), timezone.now())
    return {"job": job, "corrections": corrections_of(row)}
