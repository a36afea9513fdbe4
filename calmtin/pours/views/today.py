"""Today, and all pours."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.search import paged
from calmtin.formulas.queries.lists import in_use, listed, small_section
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.queries.today import pantry_today
from calmtin.pours.forms.search import PourFilter
from calmtin.pours.queries.needs import needs_of
from calmtin.pours.queries.today import rehearsals_of
from calmtin.pours.queries.today import today as today_query

PER_PAGE = 30
LAST_FORMULAS = 8


@require_safe
def today(request: HttpRequest) -> HttpResponse:
    """Show what waits; an empty account is led to its first formula."""
    shelf = shelf_for(request.user)
    day, bench = timezone.localdate(), bench_of(request.user)
    formulas = listed(in_use(request.user)[:LAST_FORMULAS], shelf, bench)
    if not formulas and not bench.is_set_up:
        return redirect("accounts:first_bench")
    context = {
        "today": today_query(request.user, shelf),
        "needs": [need for need in needs_of(request.user, shelf, bench, day) if need.next_step],
        "pantry": pantry_today(request.user, shelf, day),
        "formulas": formulas,
    }
    return render(request, "pours/today.html", context)


@require_safe
def pour_list(request: HttpRequest) -> HttpResponse:
    """Show the pours that are asked for, newest first; what was asked stays in the address."""
    shelf = shelf_for(request.user)
    materials = [(material.slug, material.label) for material in shelf.values()]
    search = PourFilter(request.GET, user=request.user, materials=materials, shelf=shelf)
    pours = search.qs.select_related("version__formula").prefetch_related("version__lines", "fillings")
    page, asked = paged(request, pours, PER_PAGE)
    context = {
        "search": search,
        "asked": asked,
        "page": page,
        "pours": [(pour, small_section(pour.version, shelf)) for pour in page],
        "rehearsals": [] if search.is_asked else rehearsals_of(request.user),
    }
    return render(request, "pours/list.html", context)
