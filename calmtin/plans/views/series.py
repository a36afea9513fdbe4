"""Test series: one thing changed, or several shares of one ingredient."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.http import urlencode
from django.views.decorators.http import require_http_methods

from calmtin.accounts.queries import bench_of
from calmtin.common.actions import address_at
from calmtin.common.idempotency import key_of
from calmtin.common.pages import commits, page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.pantry.adapters import container_for, shelf_for
from calmtin.plans.adapters import OnePot, Variant, ladder_variants
from calmtin.plans.pour_day import pour_day
from calmtin.plans.queries.fill import pourable, scales_of
from calmtin.plans.queries.series import SeriesView, series_view
from calmtin.plans.queries.stops import stops_of
from calmtin.plans.queries.vary import VaryView, vary_view


@require_http_methods(["GET", "HEAD", "POST"])
def vary(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Change one thing and start both pours, as it is and changed."""
    version = _version(request, pk, number)
    shelf, bench = shelf_for(request.user), bench_of(request.user)
    typed = (request.POST if request.method == "POST" else request.GET).dict()
    view = vary_view(request.user, version, shelf, bench, typed)
    context: dict[str, Any] = {"view": view, "formula": version.formula, "version": version}
    context |= {"stops": stops_of(version, shelf, bench), "back": request.get_full_path()}
    if commits(request) and view.trial:
        try:
            return _start(request, version, view, view.trial.variants, view.trial.varies)
        except CalmTinError as refused:
            context["problem"] = str(refused)
            context["stops"] = getattr(refused, "stops", context["stops"])
    return page_or_fragment(request, "plans/vary.html", "plans/_vary.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def series(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Plan a test series from one pot or several; POST starts a pour for each sample."""
    version = _version(request, pk, number)
    if not pourable(version):
        return redirect("plans:fill", pk=pk, number=number)
    shelf, bench = shelf_for(request.user), bench_of(request.user)
    typed = (request.POST if request.method == "POST" else request.GET).dict()
    view = series_view(request.user, version, shelf, bench, typed)
    context: dict[str, Any] = {"view": view, "version": version, "formula": version.formula}
    context |= {"stops": stops_of(version, shelf, bench), "back": request.get_full_path()}
    if commits(request) and view.samples:
        try:
            one_pot = view.one_pot if "one_pot" in request.POST else None
            shares = [sample.one.share if one_pot else sample.alone.share for sample in view.samples]
            told = ladder_variants(composition_of(version, shelf), view.part, shares)
            return _start(request, version, view, *told, one_pot=one_pot)
        except CalmTinError as refused:
            context["problem"] = str(refused)
            context["stops"] = getattr(refused, "stops", context["stops"])
    return page_or_fragment(request, "plans/series.html", "plans/_series.html", context)


def _start(
    request: HttpRequest,
    version: Version,
    view: SeriesView | VaryView,
    variants: Sequence[Variant],
    varies: str,
    *,
    one_pot: OnePot | None = None,
) -> HttpResponse:
    """Start the pours of a series, of the samples that its page asks for, and show them side by side.

    From one pot only the first is started, and shown.
    """
    pours = pour_day().start_series(
        request.user,
        version,
        variants=variants,
        varies=varies,
        sample_g=view.sample_g,
        container=container_for(request.user, view.boxes["container"]),
        scales=scales_of(request.user, bench_of(request.user)),
        one_pot=one_pot,
        request_key=key_of(request),
    )
    if one_pot is not None:
        return redirect(address_at("sheet", pours[0]))
    return redirect(f"{address_at('comparison')}?{urlencode([('p', pk) for pk in pours])}")


def _version(request: HttpRequest, pk: int, number: int) -> Version:
    return Version.objects.select_related("formula").own_or_404(request.user, formula_id=pk, number=number)
