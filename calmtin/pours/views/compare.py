"""Pours side by side, a test of one thing, the next pour, and the story of a formula."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import key_of
from calmtin.common.numbers import whole_number
from calmtin.common.pages import commits, page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.proposals.turns import solving_turn
from calmtin.pantry.adapters import container_for, shelf_for
from calmtin.pours import services
from calmtin.pours.adapters import Variant
from calmtin.pours.queries.compare import (
    MOST,
    compare_address,
    compare_view,
    newest_of,
    pours_to_compare,
)
from calmtin.pours.queries.fill import scales_of
from calmtin.pours.queries.next_pour import next_pour as next_query
from calmtin.pours.queries.series import SeriesView, series_view
from calmtin.pours.queries.stops import stops_of
from calmtin.pours.queries.story import story_view
from calmtin.pours.queries.today import pourable
from calmtin.pours.queries.vary import VaryView, ladder_variants, vary_view


@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Show the chosen pours and versions side by side."""
    numbers, of_versions = (
        [n for text in request.GET.getlist(name) if (n := whole_number(text))] for name in ("p", "v")
    )
    versions = Version.objects.of(request.user).filter(pk__in=of_versions).select_related("formula")
    return _show(request, numbers, list(versions.prefetch_related("lines")), "pours/compare.html", {})


@require_safe
def history(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a formula's newest pours side by side."""
    formula = Formula.objects.own_or_404(request.user, pk=pk)
    # What is to be poured next lies beside what was.
    newest = formula.versions.select_related("formula").prefetch_related("lines").order_by("-number")[:1]
    drafts = [v for v in newest if not v.is_poured and v.lines.all()]
    numbers = newest_of(request.user, pk)[-(MOST - len(drafts)) :]
    return _show(request, numbers, drafts if numbers else [], "pours/history.html", {"formula": formula})


def _show(
    request: HttpRequest, numbers: list[int], versions: list[Version], page: str, context: dict[str, Any]
) -> HttpResponse:
    shelf, bench = shelf_for(request.user), bench_of(request.user)
    pours = pours_to_compare(request.user, numbers)
    context |= {"view": compare_view(pours, versions, shelf, bench)}
    series = {pour.series for pour in pours}
    context["series"] = series.pop() if len(series) == 1 else None
    return render(request, page, context)


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
    return page_or_fragment(request, "pours/vary.html", "pours/_vary.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def series(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Plan a test series from one pot or several; POST starts a pour for each sample."""
    version = _version(request, pk, number)
    if not pourable(version):
        return redirect("pours:fill", pk=pk, number=number)
    shelf, bench = shelf_for(request.user), bench_of(request.user)
    typed = (request.POST if request.method == "POST" else request.GET).dict()
    view = series_view(request.user, version, shelf, bench, typed)
    context: dict[str, Any] = {"view": view, "version": version, "formula": version.formula}
    context |= {"stops": stops_of(version, shelf, bench), "back": request.get_full_path()}
    if commits(request) and view.samples:
        try:
            shares = [sample.one.share for sample in view.samples]
            return _start(
                request, version, view, *ladder_variants(composition_of(version, shelf), view.part, shares)
            )
        except CalmTinError as refused:
            context["problem"] = str(refused)
            context["stops"] = getattr(refused, "stops", context["stops"])
    return page_or_fragment(request, "pours/series.html", "pours/_series.html", context)


def _start(
    request: HttpRequest,
    version: Version,
    view: SeriesView | VaryView,
    variants: Sequence[Variant],
    varies: str,
) -> HttpResponse:
    """Start the pours of a series, of the samples that its page asks for, and show them side by side."""
    made = services.start_series(
        request.user,
        version,
        variants=variants,
        varies=varies,
        sample_g=view.sample_g,
        container=container_for(request.user, view.boxes["container"]),
        scales=scales_of(request.user, bench_of(request.user)),
        request_key=key_of(request),
    )
    return redirect(compare_address(made))


def _version(request: HttpRequest, pk: int, number: int) -> Version:
    return Version.objects.select_related("formula").own_or_404(request.user, formula_id=pk, number=number)


@require_safe
def next_pour(request: HttpRequest, pk: int) -> HttpResponse:
    """Propose the next pour of a formula."""
    formula = Formula.objects.own_or_404(request.user, pk=pk)
    with solving_turn(request) as stop:
        view = next_query(request.user, formula, shelf_for(request.user), bench_of(request.user), stop=stop)
    return render(request, "pours/next.html", {"formula": formula, "view": view})


@require_safe
def story(request: HttpRequest, pk: int) -> HttpResponse:
    """Show how a formula came to be, on a page to print."""
    formula = Formula.objects.own_or_404(request.user, pk=pk)
    view = story_view(request.user, formula, shelf_for(request.user), bench_of(request.user))
    return render(request, "pours/story.html", {"view": view, "formula": formula})
