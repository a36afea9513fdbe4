"""A lot's ledger."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.pantry import services
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.forms.shelf import CorrectLotForm, ReweighForm, VoidLotForm
from calmtin.pantry.models import Lot, Movement
from calmtin.pantry.queries.ledger import ledger_of


@require_http_methods(["GET", "HEAD", "POST"])
def lot(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a lot's ledger; POST corrects it by re-weighing."""
    found = Lot.objects.own_or_404(request.user, pk=pk)
    act = request.POST.get("act", "reweigh") if request.method == "POST" else ""
    material = shelf_for(request.user)[found.material]
    weighed = ReweighForm(request.POST if act == "reweigh" else None, material=material)
    fixed = CorrectLotForm(request.POST if act == "fix" else None, lot=found, material=material)
    void = VoidLotForm(request.POST if act == "void" else None, prefix="void")
    form = {"reweigh": weighed, "fix": fixed, "void": void}.get(act)
    if act == "restore" or (form is not None and form.is_valid()):
        try:
            _change_lot(request, found, act, form.cleaned_data if form else {})
            return redirect("pantry:lot", pk=pk)
        except CalmTinError as refused:
            if form is None:
                raise
            refuse(form, refused)
        found.refresh_from_db()
    ledger = ledger_of(request.user, found)
    context = {
        "lot": found,
        "material": material,
        "left": services.balance(found),
        "ledger": ledger,
        "is_made": any(movement.kind == Movement.Kind.MADE for movement, _ in ledger),
        "weighed": weighed,
        "fixed": fixed,
        "void": void,
        "act": act,
    }
    return render(request, "pantry/lot.html", context)


def _change_lot(request: HttpRequest, found: Lot, act: str, data: dict[str, Any]) -> None:
    key = key_of(request)
    if act == "reweigh":
        services.reweigh(
            request.user, found, actual_g=data["actual"], reason=data["reason"], request_key=key
        )
    elif act == "fix":
        services.correct_lot(request.user, found, **data, request_key=key)
    elif act == "void":
        services.void_lot(request.user, found, reason=data["reason"])
    else:
        services.restore_lot(request.user, found)
