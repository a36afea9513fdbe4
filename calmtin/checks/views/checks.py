"""Looking at a pour again: the page of a look, the press test, pictures, and the calendar of looks."""

from __future__ import annotations

from contextlib import suppress

from django.contrib import messages
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.checks import services
from calmtin.checks.adapters import jar_overrun_pct
from calmtin.checks.forms import CheckForm
from calmtin.checks.queries.due import look_view, next_look, press_view
from calmtin.checks.queries.moments import moment_view
from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.models import CheckPhoto, Pour
from calmtin.pours.queries.record import pour_with_lines
from calmtin.pours.services import record_check


@require_http_methods(["GET", "HEAD", "POST"])
def check(request: HttpRequest, pk: int) -> HttpResponse:
    """Ask what a pour is like now, and keep the answer."""
    found, bench = pour_with_lines(request.user, pk=pk), bench_of(request.user)
    shelf = shelf_for(request.user)
    if request.method == "POST":
        form = CheckForm(
            request.POST, request.FILES, bench=bench, pour=found, look=request.POST.get("look", "")
        )
        if form.is_valid():
            try:
                _keep(request, found, form)
                messages.success(request, gettext("Check saved."))
                return redirect("pours:pour", pk=pk)
            except CalmTinError as refused:
                refuse(form, refused)
        now = moment_view(found, shelf, bench, form.look_at.slug, form.cleaned_data)
    else:
        look = request.GET.get("look", next_look(found))
        now = moment_view(found, shelf, bench, look)
        form = CheckForm(bench=bench, pour=found, look=look, moment=now.moment, guess_c=now.guess_c)
    context = {"form": form, "view": look_view(found, form.look_at), "now": now}
    return render(request, "checks/check.html", context)


@require_safe
def moment(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the prediction for the moment that was picked, and how warm it is likely to be then."""
    found, bench = pour_with_lines(request.user, pk=pk), bench_of(request.user)
    look = request.GET.get("look", "")
    form = CheckForm(request.GET, bench=bench, pour=found, look=look)
    form.is_valid()
    now = moment_view(found, shelf_for(request.user), bench, form.look_at.slug, form.cleaned_data)
    if now.guess_c is not None:
        form = CheckForm(bench=bench, pour=found, look=look, moment=now.moment, guess_c=now.guess_c)
    return render(request, "checks/_moment.html", {"form": form, "now": now})


def _keep(request: HttpRequest, found: Pour, form: CheckForm) -> None:
    data = form.cleaned_data
    overrun = data["overrun"]
    if data["jar_g"] is not None:
        overrun = jar_overrun_pct(found, shelf_for(request.user), data["jar_ml"], data["jar_g"])
    record_check(
        request.user,
        found,
        temp_c=form.cleaned_data["temp"],
        is_temp_guessed=form.is_temp_guessed,
        moment=data["moment"],
        felt_rung=data["felt_rung"],
        verdict=data["verdict"],
        feels=data["feels"],
        complaints=data["complaints"],
        made_at=data["made_at"],
        notes=data["notes"],
        overrun_pct=None if overrun is None else int(overrun),
        look=data["look"],
        press_g=form.press_g,
        rod_mm=None if data["rod"] is None else float(data["rod"]),
        signs=form.signs,
        who=data["who"],
        photo=data["photo"],
        request_key=key_of(request),
    )


@require_safe
def press(request: HttpRequest, pk: int) -> HttpResponse:
    """Show how to press, with which rod, and the result of the readings so far."""
    found, bench = pour_with_lines(request.user, pk=pk), bench_of(request.user)
    form = CheckForm(request.GET or None, bench=bench, pour=found)
    grams, rod = [], None
    if request.GET:
        with suppress(KeyError):
            form.is_valid()
            grams, rod = [float(g) for g in form.press_g], form.cleaned_data["rod"]
    view = press_view(found, shelf_for(request.user), bench, grams, None if rod is None else float(rod))
    return page_or_fragment(
        request, "checks/press.html", "checks/_press.html", {"view": view, "form": form}
    )


@require_POST
def keep(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep the formula as this pour made it, or no longer."""
    found = pour_with_lines(request.user, pk=pk)
    is_kept = "no_longer" not in request.POST
    try:
        services.keep(
            request.user,
            found,
            why=request.POST.get("why", ""),
            is_kept=is_kept,
            request_key=key_of(request),
        )
        messages.success(request, gettext("Marked as final.") if is_kept else gettext("No longer final."))
    except CalmTinError as refused:
        messages.error(request, str(refused))
    return redirect("pours:pour", pk=pk)


@require_safe
def photo(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Send a maker's own picture."""
    found = CheckPhoto.objects.own_or_404(request.user, pk=pk)
    return FileResponse(
        found.image.open("rb"),
        content_type="image/jpeg",
        headers={"Cache-Control": "private, max-age=31536000, immutable"},
    )
