"""Today, and the calendar of what waits."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_safe

from calmtin.accounts.queries import bench_of
from calmtin.checks.queries.due import dues, in_question
from calmtin.overview.calendar import calendar_of
from calmtin.overview.queries import today as today_query
from calmtin.packing.queries.deadlines import needs_of
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.models import Pour


@require_safe
def calendar(request: HttpRequest) -> HttpResponse:
    """Send the checks and deadlines as a calendar file."""
    now = timezone.now()
    looks = dues(in_question(request.user, now), now)
    pours = Pour.objects.select_related("version__formula").in_bulk([due.pour for due in looks])
    needs = needs_of(request.user, shelf_for(request.user), bench_of(request.user), timezone.localdate())
    body = calendar_of([(due, pours[due.pour]) for due in looks], needs, now, request.build_absolute_uri)
    return HttpResponse(
        body,
        content_type="text/calendar; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="calm-tin-looks.ics"'},
    )


@require_safe
def today(request: HttpRequest) -> HttpResponse:
    """Show what waits; an empty account is led to its first formula."""
    bench = bench_of(request.user)
    view = today_query(request.user, shelf_for(request.user), bench)
    if not view.formulas and not bench.is_set_up:
        return redirect("accounts:first_bench")
    context = {"today": view, "formulas": view.formulas, "pantry": view.pantry}
    return render(request, "overview/today.html", context)
