"""Containers and moulds."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.common.numbers import whole_number
from calmtin.core.errors import CalmTinError
from calmtin.pantry import services
from calmtin.pantry.adapters import containers_for
from calmtin.pantry.forms.shelf import BoughtForm, ContainerForm, ReasonForm, VesselForm
from calmtin.pantry.models import OwnContainer, Vessel
from calmtin.pantry.queries.corrections import corrections_of


@require_http_methods(["GET", "HEAD", "POST"])
def container_list(request: HttpRequest) -> HttpResponse:
    """Show containers and moulds; POST adds one."""
    is_vessel = "vessel_name" in request.POST
    if "bought" in request.POST:
        return _buy(request)
    form = ContainerForm(request.POST if request.POST and not is_vessel else None)
    vessel = VesselForm(request.POST if is_vessel else None)
    try:
        if "remove" in request.POST:
            gone = Vessel.objects.own_or_404(request.user, pk=whole_number(request.POST["remove"], 0))
            services.remove_vessel(request.user, gone)
            return redirect("pantry:containers")
        if is_vessel and vessel.is_valid():
            data = vessel.cleaned_data
            services.add_vessel(
                request.user,
                name=data["vessel_name"],
                use=data["use"],
                brim_ml=float(data["vessel_ml"]),
            )
            return redirect("pantry:containers")
        if form.is_bound and form.is_valid():
            services.add_container(request.user, **form.facts(), request_key=key_of(request))
            return redirect("pantry:containers")
    except CalmTinError as refused:
        refuse(vessel if is_vessel else form, refused)
    return _list(request, form, vessel)


def _buy(request: HttpRequest) -> HttpResponse:
    """Add the containers that were bought to those on hand."""
    row = OwnContainer.objects.own_or_404(request.user, pk=whole_number(request.POST.get("row"), 0))
    bought = BoughtForm(request.POST)
    if bought.is_valid():
        try:
            count = int(bought.cleaned_data["bought"])
            services.buy_containers(request.user, row, count=count, request_key=key_of(request))
            return redirect("pantry:containers")
        except CalmTinError as refused:
            refuse(bought, refused)
    return _list(request, ContainerForm(), VesselForm(), bought=bought, bought_row=row)


def _list(request: HttpRequest, form: ContainerForm, vessel: VesselForm, **more: Any) -> HttpResponse:
    own = OwnContainer.objects.of(request.user)
    shipped = [c for slug, c in containers_for(request.user).items() if not slug.startswith("my_")]
    context = {"form": form, "own": own, "shipped": shipped, "vessel": vessel, **more}
    context["vessels"] = Vessel.objects.of(request.user)
    return render(request, "pantry/containers.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def container(request: HttpRequest, pk: int) -> HttpResponse:
    """Put an own container right, or delete it while nothing was poured into it."""
    row = OwnContainer.objects.own_or_404(request.user, pk=pk)
    sent = request.POST if request.method == "POST" and "delete" not in request.POST else None
    form, why = ContainerForm(sent, initial=ContainerForm.told(row)), ReasonForm(sent)
    problem = ""
    try:
        if "delete" in request.POST:
            services.delete_container(request.user, row)
            return redirect("pantry:containers")
        if sent and form.is_valid() and why.is_valid():
            services.correct_container(request.user, row, **form.facts(), **why.cleaned_data)
            return redirect("pantry:containers")
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
    return render(request, "pantry/container.html", context)
