"""The pieces of a pour, and deadlines."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.packing import services
from calmtin.packing.forms import GoneForm, HoursForm, NeedForm, PackForm
from calmtin.packing.models import Need, PackingItem, PieceGone
from calmtin.packing.queries.deadlines import needs_of
from calmtin.packing.queries.pieces import PiecesView, pieces_view
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.models import Pour
from calmtin.pours.queries.record import pour_with_lines


@require_http_methods(["GET", "HEAD", "POST"])
def pieces(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the pieces of a pour; POST records where more of them went."""
    found = pour_with_lines(request.user, also=("pieces_gone",), pk=pk)
    if found.poured_at is None or found.is_rehearsal or found.called_off_at is not None:
        return redirect("pours:pour", pk=pk)
    view = pieces_view(found, bench_of(request.user))
    form = GoneForm(request.POST or None, view=view, initial={"on": timezone.localdate()})
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            services.send_pieces(
                request.user,
                found,
                **{**data, "count": int(data["count"])},
                request_key=key_of(request),
            )
            return redirect("packing:pieces", pk=pk)
        except CalmTinError as refused:
            refuse(form, refused)
    return _show(request, found, view, form, HoursForm(initial={"hours": found.hours}))


def _show(
    request: HttpRequest, found: Pour, view: PiecesView, form: GoneForm, hours: HoursForm
) -> HttpResponse:
    pack = PackForm(view=view, items=list(PackingItem.objects.of(request.user)))
    context = {"view": view, "form": form, "hours": hours, "pour": found, "pack": pack}
    return render(request, "packing/pieces.html", context)


@require_POST
def hours(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep how many hours of work were in a pour."""
    found = pour_with_lines(request.user, also=("pieces_gone",), pk=pk)
    form = HoursForm(request.POST)
    if form.is_valid():
        services.count_hours(request.user, found, hours=form.cleaned_data["hours"])
        return redirect("packing:pieces", pk=pk)
    view = pieces_view(found, bench_of(request.user))
    gone = GoneForm(view=view, initial={"on": timezone.localdate()})
    return _show(request, found, view, gone, form)


@require_POST
def piece_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo an entry of where pieces went."""
    gone = PieceGone.objects.own_or_404(request.user, pk=pk)
    try:
        services.undo_piece(request.user, gone, request_key=key_of(request))
    except CalmTinError as refused:
        messages.error(request, str(refused))
    return redirect("packing:pieces", pk=gone.pour_id)


@require_http_methods(["GET", "HEAD", "POST"])
def ready_by(request: HttpRequest) -> HttpResponse:
    """Show the deadlines with their steps; POST adds one."""
    today = timezone.localdate()
    form = NeedForm(request.POST or None, user=request.user, initial=request.GET.dict())
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            services.add_deadline(
                request.user,
                data["formula"],
                what_for=data["what_for"],
                needed_on=data["needed_on"],
                count=int(data["count"]),
                today=today,
                request_key=key_of(request),
            )
            return redirect("packing:deadlines")
        except CalmTinError as refused:
            refuse(form, refused)
    needs = needs_of(request.user, shelf_for(request.user), bench_of(request.user), today)
    return render(request, "packing/deadlines.html", {"needs": needs, "form": form, "today": today})


@require_POST
def need_off(request: HttpRequest, pk: int) -> HttpResponse:
    """Say that something no longer has to be ready."""
    services.remove_deadline(request.user, Need.objects.own_or_404(request.user, pk=pk))
    return redirect("packing:deadlines")


@require_safe
def rules(request: HttpRequest) -> HttpResponse:
    """Show what a label usually has to say, and who decides."""
    return render(request, "packing/rules.html")
