"""Pours side by side, a test of one thing, the next pour, and the story of a formula."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from calmtin.accounts.queries import bench_of
from calmtin.checks.queries.compare import MOST, compare_view, newest_of, pours_to_compare
from calmtin.checks.queries.next_pour import next_pour as next_query
from calmtin.checks.queries.story import story_view
from calmtin.common.numbers import whole_number
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.proposals.turns import solving_turn
from calmtin.pantry.adapters import shelf_for


@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Show the chosen pours and versions side by side."""
    numbers, of_versions = (
        [n for text in request.GET.getlist(name) if (n := whole_number(text))] for name in ("p", "v")
    )
    versions = Version.objects.of(request.user).filter(pk__in=of_versions).select_related("formula")
    return _show(request, numbers, list(versions.prefetch_related("lines")), "checks/compare.html", {})


@require_safe
def history(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a formula's newest pours side by side."""
    formula = Formula.objects.own_or_404(request.user, pk=pk)
    # What is to be poured next lies beside what was.
    newest = formula.versions.select_related("formula").prefetch_related("lines").order_by("-number")[:1]
    drafts = [v for v in newest if not v.is_poured and v.lines.all()]
    numbers = newest_of(request.user, pk)[-(MOST - len(drafts)) :]
    return _show(request, numbers, drafts if numbers else [], "checks/history.html", {"formula": formula})


def _show(
    request: HttpRequest, numbers: list[int], versions: list[Version], page: str, context: dict[str, Any]
) -> HttpResponse:
    shelf, bench = shelf_for(request.user), bench_of(request.user)
    pours = pours_to_compare(request.user, numbers)
    context |= {"view": compare_view(pours, versions, shelf, bench)}
    series = {pour.series for pour in pours}
    context["series"] = series.pop() if len(series) == 1 else None
    return render(request, page, context)


@require_safe
def next_pour(request: HttpRequest, pk: int) -> HttpResponse:
    """Propose the next pour of a formula."""
    formula = Formula.objects.own_or_404(request.user, pk=pk)
    with solving_turn(request) as stop:
        view = next_query(request.user, formula, shelf_for(request.user), bench_of(request.user), stop=stop)
    return render(request, "checks/next.html", {"formula": formula, "view": view})


@require_safe
def story(request: HttpRequest, pk: int) -> HttpResponse:
    """Show how a formula came to be, on a page to print."""
    formula = Formula.objects.own_or_404(request.user, pk=pk)
    view = story_view(request.user, formula, shelf_for(request.user), bench_of(request.user))
    return render(request, "checks/story.html", {"view": view, "formula": formula})
