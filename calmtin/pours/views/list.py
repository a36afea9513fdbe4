"""All pours, and the pots on the stove."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.numbers import whole_number
from calmtin.common.search import paged
from calmtin.formulas.queries.lists import small_section
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.adapters.closed import as_closed
from calmtin.pours.forms.search import PourFilter
from calmtin.pours.queries.pour_preview import SHOWN, beside_of
from calmtin.pours.queries.prefetching import asking
from calmtin.pours.queries.rehearsals import rehearsals_of
from calmtin.pours.queries.stages import pots_of

PER_PAGE = 30


@require_safe
def pour_list(request: HttpRequest) -> HttpResponse:
    """Show the filtered pours, newest first; the filter stays in the address."""
    shelf = shelf_for(request.user)
    materials = [(material.slug, material.label) for material in shelf.values()]
    search = PourFilter(request.GET, user=request.user, materials=materials, shelf=shelf)
    found = search.qs.select_related("version__formula", "closing")
    named = found.prefetch_related("version__lines", "fillings", "closing__lots")
    pours = asking(named, *SHOWN)
    page, asked = paged(request, pours, PER_PAGE)
    for pour in page:
        as_closed(pour)
    first = whole_number(request.GET.get("show"))
    shown = next((pour for pour in page if pour.pk == first), next(iter(page), None))
    context = {
        "beside": beside_of(shown, shelf, bench_of(request.user)) if shown else None,
        "search": search,
        "asked": asked,
        "page": page,
        "pours": [(pour, small_section(pour.version, shelf)) for pour in page],
        "rehearsals": [] if search.is_asked else rehearsals_of(request.user),
    }
    return render(request, "pours/list.html", context)


@require_safe
def on_stove(request: HttpRequest) -> HttpResponse:
    """Send the pots on the stove with what is next and their clocks, for the head of any page."""
    pots = pots_of(request.user, without=whole_number(request.GET.get("without")))
    return render(request, "pours/_pots.html", {"pots": pots, "now": timezone.now()})
