"""The batch card: everything of a pour on one page; and back from a lot to its pours."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.core.errors import CalmTinError
from calmtin.packing.queries.card import card_json, card_of
from calmtin.packing.queries.trace_lot import pours_with
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot
from calmtin.pours import services
from calmtin.pours.queries.record import pour_with_lines

ON_A_CARD = ("label_prints", "pieces_gone")


@require_safe
def card(request: HttpRequest, pk: int) -> HttpResponse:
    """Show everything of a pour on one page, to print for the folder."""
    found = pour_with_lines(request.user, without=("timers",), also=ON_A_CARD, pk=pk)
    if found.poured_at is None or found.is_rehearsal:
        return redirect("pours:pour", pk=pk)
    view = card_of(found, shelf_for(request.user), bench_of(request.user))
    return render(request, "packing/card.html", {"card": view, "pour": found})


@require_safe
def card_file(request: HttpRequest, pk: int) -> HttpResponse:
    """Send the batch card as JSON."""
    found = pour_with_lines(request.user, also=ON_A_CARD, pk=pk)
    view = card_of(found, shelf_for(request.user), bench_of(request.user))
    return JsonResponse(
        card_json(view),
        json_dumps_params={"indent": 2, "ensure_ascii": False},
        headers={"Content-Disposition": f'attachment; filename="{found.code}.json"'},
    )


@require_POST
def storage(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep where a pour is kept."""
    found = pour_with_lines(request.user, pk=pk)
    try:
        services.store_at(request.user, found, storage=request.POST.get("storage", ""))
    except CalmTinError as refused:
        messages.error(request, str(refused))
    return redirect("packing:card", pk=pk)


@require_safe
def of_lot(request: HttpRequest, pk: int) -> HttpResponse:
    """Show every pour that has some of a lot, and where its pieces are."""
    lot = Lot.objects.own_or_404(request.user, pk=pk)
    context = {"lot": lot, "material": shelf_for(request.user)[lot.material]}
    return render(request, "packing/trace_lot.html", context | {"found": pours_with(request.user, lot)})
