"""The fill plan."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.translation import gettext, gettext_noop
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import key_of
from calmtin.common.numbers import whole_number
from calmtin.common.pages import changes_nothing, commits, page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import Message
from calmtin.core.quantities import Mass
from calmtin.formulas.models import Version
from calmtin.formulas.queries.formula import formula_view
from calmtin.formulas.queries.seasons import season_view
from calmtin.pantry.adapters import shelf_for
from calmtin.plans import services
from calmtin.plans.pour_day import pour_day
from calmtin.plans.queries.fill import FillView, fill_view, pourable
from calmtin.plans.queries.picture import bench_picture, grams_bar
from calmtin.plans.queries.stops import stops_of
from calmtin.plans.queries.supply import supply_view

LOSS_BOXES = {
    "cling_g": gettext_noop("lost in the pot and on the spatula, at least"),
    "cling_pct": gettext_noop("plus % of the batch"),
    "test_g": gettext_noop("lost in the test"),
    "overfill_g": gettext_noop("overfilled and scraped off"),
    "margin_pct": gettext_noop("safety margin, %"),
    "powder_pct": gettext_noop("powder lost in cup and sieve, %"),
}.items()


@require_http_methods(["GET", "HEAD", "POST"])
def fill(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Plan the fill: GET works it out as it is typed, POST starts the pour."""
    version = _version(request, pk, number)
    context: dict[str, Any] = {"version": version, "formula": version.formula}
    context["season"] = season_view(version.formula, bench_of(request.user))
    if not pourable(version):
        context["nothing"] = gettext("Add materials to the formula before you pour.")
        return page_or_fragment(request, "plans/fill.html", "plans/_fill.html", context)
    view = _view(request, version)
    if commits(request) and view.plan is not None:
        try:
            address = pour_day().start(
                request.user,
                version,
                view.plan,
                is_rehearsal="rehearse" in request.POST,
                scale_step_g=view.scales[0].step_g,
                weights=[(line.part, line.weighing.grams) for line in view.lines],
                finish_parts=[
                    (share.name, dose.material, dose.percent, dose.grams)
                    for share in view.shares
                    for dose in share.doses
                ],
                lots=view.lots,
                seen=whole_number(request.POST.get("seen")),
                request_key=key_of(request),
            )
            return redirect(address)
        except CalmTinError as refused:
            context["problem"] = str(refused)
    context |= {
        "view": view,
        "stops": stops_of(version, shelf_for(request.user), bench_of(request.user), view.shares),
        "back": request.get_full_path(),
        "supply": supply_view(request.user, view, timezone.localdate()),
        "containers": view.containers,
        "picture": bench_picture(view.plan) if view.plan else None,
        "bar": grams_bar(view.plan) if view.plan else None,
        "loss_boxes": LOSS_BOXES,
        "query": _query(request),
    }
    return page_or_fragment(request, "plans/fill.html", "plans/_fill.html", context)


@require_POST
def dilute(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Put a part that is too little for the scale into the formula as a dilution in its own oil."""
    version = _version(request, pk, number)
    view = _view(request, version)
    line = next((line for line in view.small if line.part.key == key and line.dilution), None)
    if line is None or line.dilution is None or line.dilute_in is None:
        messages.error(request, "This ingredient needs no dilution, or there is no oil to dilute it in.")
        return redirect("plans:fill", pk=pk, number=number)
    try:
        draft = services.dilute(
            request.user,
            version,
            key=key,
            oil=line.dilute_in.slug,
            share=line.dilution.share,
            seen=whole_number(request.POST.get("seen"), -1),
        )
    except CalmTinError as refused:
        messages.error(request, str(refused))
        return redirect("plans:fill", pk=pk, number=number)
    made_up = Message(
        "The formula now uses a dilution. Mix {stuff_g} of {stuff} into {oil_g} of {oil}.",
        stuff_g=Mass(line.dilution.stuff_g),
        stuff=line.part.material.in_words,
        oil_g=Mass(line.dilution.oil_g),
        oil=line.dilute_in.in_words,
    )
    messages.success(request, str(made_up))
    return redirect("plans:fill", pk=pk, number=draft.number)


@require_safe
def sheet(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show the plan as one page to print: what to weigh, with boxes to tick."""
    version = _version(request, pk, number)
    view = _view(request, version)
    context = {"view": view, "version": version, "formula": version.formula}
    page = formula_view(version, shelf_for(request.user), bench_of(request.user))
    told = [c.caution for c in page.cautions if c.caution.key != "too_small"]
    context |= {"query": _query(request), "cautions": told}
    return render(request, "plans/fill_sheet.html", context)


def _query(request: HttpRequest) -> str:
    """Return the plan as typed, for an address that leads back to it."""
    typed = request.GET.copy()
    if "take" in typed:
        typed["pot"], typed["way"] = request.GET["take"], "pot"
    for name in ("take", "fit", "csrfmiddlewaretoken", "request_key", "seen", "shown"):
        typed.pop(name, None)
    return typed.urlencode()


def _version(request: HttpRequest, pk: int, number: int) -> Version:
    versions = Version.objects.select_related("formula")
    if changes_nothing(request):
        versions = versions.prefetch_related("lines")
    return versions.own_or_404(request.user, formula_id=pk, number=number)


def _view(request: HttpRequest, version: Version) -> FillView:
    typed = (request.POST if request.method == "POST" else request.GET).dict()
    return fill_view(request.user, version, shelf_for(request.user), bench_of(request.user), typed)
