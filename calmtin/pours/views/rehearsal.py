"""The simulated stove of a rehearsal: its readings and actions."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.pantry.adapters import shelf_for
from calmtin.plans.queries.fill import fill_view
from calmtin.pours import services
from calmtin.pours.models import Pour
from calmtin.pours.queries.live import DEVICES, live_of, reading_due, rehearsal_or_404
from calmtin.pours.queries.record import pour_with_lines


@require_POST
def first(request: HttpRequest) -> HttpResponse:
    """Start rehearsing a salve, on a bench without formulas."""
    shelf, bench = shelf_for(request.user), bench_of(request.user)
    made = services.rehearse_a_salve(
        request.user,
        plan_of=lambda version: fill_view(request.user, version, shelf, bench, {}).plan,
        scale_step_g=bench.scale_step_g,
        request_key=key_of(request),
    )
    return redirect("pours:run", pk=made.pk)


@require_POST
def live(request: HttpRequest, pk: int, of: str) -> HttpResponse:
    """Show what the devices say now, and keep what a thermometer says where it is worth keeping."""
    found = rehearsal_or_404(request.user, pk)
    due = reading_due(found) if of == "probe" else None
    if due is not None:
        services.read_pot(request.user, found, temp_c=due)
    answer = _show(request, found, of)
    if due is not None:
        answer["HX-Trigger"] = "pot-read"
    return answer


@require_POST
def act(request: HttpRequest, pk: int, of: str) -> HttpResponse:
    """Do something at the simulated stove."""
    found, problem = rehearsal_or_404(request.user, pk), ""
    try:
        kind, value = request.POST.get("kind", ""), _number(request.POST.get("value"))
        services.act_at_stove(request.user, found, kind=kind, value=value)
    except CalmTinError as refused:
        problem = str(refused)
    return _show(request, rehearsal_or_404(request.user, pk), of, problem)


@require_POST
def delete_rehearsal(request: HttpRequest, pk: int) -> HttpResponse:
    """Throw a rehearsal away."""
    found = pour_with_lines(request.user, pk=pk)
    version = found.version
    try:
        services.delete_rehearsal(request.user, found)
    except CalmTinError as refused:
        messages.error(request, str(refused))
        return redirect("pours:run", pk=pk)
    messages.success(request, gettext("The rehearsal is deleted."))
    return redirect("formulas:version", pk=version.formula_id, number=version.number)


def _number(text: str | None) -> float:
    try:
        return float(text or 0.0)
    except ValueError:
        return float("nan")


def _show(request: HttpRequest, found: Pour, of: str, problem: str = "") -> HttpResponse:
    device = next((known for known in DEVICES if known == of), None)
    if device is None:
        raise Http404
    context = {"live": live_of(found, shelf_for(request.user), device), "stove_problem": problem}
    return render(request, "pours/_live.html", context)
