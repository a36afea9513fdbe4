"""Today, and all pours."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_safe

from calmtin.formulas.queries.lists import formulas_of
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.queries.today import pantry_today
from calmtin.pours.queries.today import pours_of, rehearsals_of
from calmtin.pours.queries.today import today as today_query


@require_safe
def today(request: HttpRequest) -> HttpResponse:
    """Show what waits; an empty account is led to its first formula."""
    shelf = shelf_for(request.user)
    context = {
        "today": today_query(request.user, shelf),
        "pantry": pantry_today(request.user, shelf, timezone.localdate()),
        "formulas": formulas_of(request.user)[:8],
    }
    return render(request, "pours/today.html", context)


@require_safe
def pour_list(request: HttpRequest) -> HttpResponse:
    """Show all pours."""
    shelf = shelf_for(request.user)
    context = {"pours": pours_of(request.user, shelf), "rehearsals": rehearsals_of(request.user)}
    return render(request, "pours/list.html", context)
