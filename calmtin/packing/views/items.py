"""Packing items, and what went around the pieces of a pour."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from calmtin.accounts.queries import bench_of
from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.common.numbers import whole_number
from calmtin.core.errors import CalmTinError
from calmtin.packing import services
from calmtin.packing.forms import BuyPackingForm, PackForm, PackingItemForm
from calmtin.packing.models import PackedWith, PackingItem
from calmtin.packing.queries.pieces import pieces_view
from calmtin.pours.queries.record import pour_with_lines


@require_http_methods(["GET", "HEAD", "POST"])
def items(request: HttpRequest) -> HttpResponse:
    """Show the packing items; POST adds one, buys more of one, or removes one."""
    row = whole_number(request.POST.get("row"))
    item = PackingItem.objects.own_or_404(request.user, pk=row) if row is not None else None
    form = PackingItemForm(request.POST if request.POST and item is None else None)
    buy = BuyPackingForm(request.POST if item is not None else None)
    try:
        if item is not None and "remove" in request.POST:
            services.remove_packing_item(request.user, item)
            return redirect("packing:items")
        if item is not None and buy.is_valid():
            count, price = int(buy.cleaned_data["bought"]), buy.cleaned_data["price"]
            services.buy_packing(request.user, item, count=count, price=price, request_key=key_of(request))
            return redirect("packing:items")
        if form.is_bound and form.is_valid():
            data = form.cleaned_data
            on_hand = None if data["on_hand"] is None else int(data["on_hand"])
            services.add_packing_item(
                request.user,
                name=data["name"],
                on_hand=on_hand,
                price=data["price"],
                request_key=key_of(request),
            )
            return redirect("packing:items")
    except CalmTinError as refused:
        refuse(form if item is None else buy, refused)
    context = {"items": PackingItem.objects.of(request.user), "form": form, "buy": buy, "bought_row": item}
    return render(request, "packing/items.html", context)


@require_POST
def pack(request: HttpRequest, pk: int) -> HttpResponse:
    """Record what the pieces of a pour were packed with."""
    found = pour_with_lines(request.user, also=("pieces_gone",), pk=pk)
    mine = list(PackingItem.objects.of(request.user))
    form = PackForm(request.POST, view=pieces_view(found, bench_of(request.user)), items=mine)
    if not form.is_valid():
        for told in form.errors.values():
            messages.error(request, str(told[0]))
        return redirect("packing:pieces", pk=pk)
    data = form.cleaned_data
    try:
        services.pack_with(
            request.user,
            found,
            position=data["position"],
            item=next(item for item in mine if item.pk == data["item"]),
            count=int(data["packed"]),
            request_key=key_of(request),
        )
    except CalmTinError as refused:
        messages.error(request, str(refused))
    return redirect("packing:pieces", pk=pk)


@require_POST
def unpack(request: HttpRequest, pk: int) -> HttpResponse:
    """Take back what was packed."""
    packed = PackedWith.objects.own_or_404(request.user, pk=pk)
    try:
        services.unpack(request.user, packed, request_key=key_of(request))
    except CalmTinError as refused:
        messages.error(request, str(refused))
    return redirect("packing:pieces", pk=packed.pour_id)
