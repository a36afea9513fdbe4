"""The calibration page."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.checks import services
from calmtin.checks.queries.calibration_page import learned_view
from calmtin.common.pages import came_from
from calmtin.core.errors import CalmTinError
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.models import Check


@require_safe
def learned(request: HttpRequest) -> HttpResponse:
    """Show predicted and felt firmness, and what was learned."""
    return _show(request)


@require_POST
def exclude_check(request: HttpRequest, pk: int) -> HttpResponse:
    """Leave a check out for a reason, or count it again."""
    found = Check.objects.own_or_404(request.user, pk=pk)
    reason = request.POST.get("reason", "")
    if "back" not in request.POST and not reason.strip():
        return _show(
            request, problem=gettext("Give a reason: tested too early, the wrong tin."), problem_at=pk
        )
    try:
        services.exclude_check(request.user, found, reason="" if "back" in request.POST else reason)
    except CalmTinError as refused:
        return _show(request, problem=str(refused), problem_at=pk)
    return redirect("checks:calibration")


@require_POST
def figures(request: HttpRequest) -> HttpResponse:
    """Show standard figures everywhere, or the bench's calibration."""
    services.show_figures(request.user, by_the_book="book" in request.POST)
    return redirect(came_from(request) or "checks:calibration")


def _show(request: HttpRequest, **context: Any) -> HttpResponse:
    view = learned_view(request.user, shelf_for(request.user), bench_of(request.user))
    return render(request, "checks/calibration.html", {"view": view, **context})
