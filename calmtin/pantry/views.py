"""The pantry's pages: parse, call, respond."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.once import key_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.data.loader import drops_per_ml, library
from calmtin.core.errors import CalmTinError
from calmtin.core.recipe_text import weigh_typed
from calmtin.pantry import queries, services
from calmtin.pantry.adapters import containers_for, shelf_for
from calmtin.pantry.forms import (
    ContainerForm,
    CorrectLotForm,
    InfusionForm,
    LotForm,
    MaterialForm,
    OwnFiguresForm,
    RenderForm,
    ReweighForm,
    SearchForm,
    StrainForm,
    VoidLotForm,
)
from calmtin.pantry.models import Infusion, Lot, Override, OwnContainer, Rendering


@require_safe
def pantry(request: HttpRequest) -> HttpResponse:
    """Show the shelf, narrowed as it is typed."""
    form = SearchForm(request.GET)
    wanted = form.cleaned_data if form.is_valid() else {}
    groups = queries.search_shelf(
        request.user,
        shelf_for(request.user),
        timezone.localdate(),
        words=wanted.get("q", ""),
        group=wanted.get("group", ""),
        free_from=wanted.get("free", []),
        in_pantry=wanted.get("mine", False),
    )
    context = {"form": form, "wanted": wanted, "groups": groups, "free_from": queries.FREE_FROM}
    return page_or_fragment(request, "pantry/pantry.html", "pantry/_shelf.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def material(request: HttpRequest, slug: str) -> HttpResponse:
    """Show a material; POST puts a lot of it on the shelf or keeps own figures."""
    shelf, today = shelf_for(request.user), timezone.localdate()
    if slug not in shelf:
        raise Http404
    lot = LotForm(request.POST if "amount" in request.POST else None, initial={"bought_on": today})
    own = OwnFiguresForm(
        request.POST if "own_figures" in request.POST else None, initial=_own(request, slug)
    )
    if lot.is_bound and lot.is_valid() and _buy(request, slug, lot):
        return redirect("pantry:material", slug=slug)
    if own.is_bound and own.is_valid() and slug in library():
        services.set_own_figures(request.user, slug, **own.figures())
        messages.success(request, "Kept. Predictions use your figures from now on.")
        return redirect("pantry:material", slug=slug)
    view = queries.material_view(request.user, shelf, slug, bench_of(request.user), today)
    return render(request, "pantry/material.html", {"view": view, "lot_form": lot, "own_form": own})


def _own(request: HttpRequest, slug: str) -> dict[str, Any]:
    row = Override.objects.of(request.user).filter(material=slug).first()
    return {} if row is None else {name: getattr(row, name) for name in OwnFiguresForm.base_fields}


def _buy(request: HttpRequest, slug: str, form: LotForm) -> bool:
    data = form.cleaned_data
    words = f"{data['amount']} {data['form']}".strip()
    try:
        weight = weigh_typed(words, shelf_for(request.user)[slug], drops_per_ml=drops_per_ml().get(slug))
        exact = weight.low == weight.high
        span = "" if exact else f" ({weight.low:.0f} to {weight.high:.0f} g, {weight.how})"
        services.buy_lot(
            request.user,
            material=slug,
            amount_g=Decimal(repr(weight.grams)).quantize(Decimal("0.01")),
            typed=f"{words}{span}"[:120],
            request_key=key_of(request),
            **{name: data[name] for name in ("bought_on", "price", "best_before", "opened_on", "note")},
        )
    except CalmTinError as refused:
        form.add_error("amount", refused.sentence)
        return False
    messages.success(request, f"On the shelf: {weight.grams:.1f} g{span}.")
    return True


@require_http_methods(["GET", "HEAD", "POST"])
def material_new(request: HttpRequest) -> HttpResponse:
    """Add a material that the library lacks."""
    form = MaterialForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            row = services.add_material(request.user, **form.facts(), request_key=key_of(request))
            return redirect("pantry:material", slug=row.slug)
        except CalmTinError as refused:
            known = {"melt_low_c": "melt_low", "behaves_like": "behaves_like"}
            form.add_error(known.get(refused.field), refused.sentence)
    return render(request, "pantry/material_new.html", {"form": form})


@require_http_methods(["GET", "HEAD", "POST"])
def lot(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a lot's ledger; POST corrects it by re-weighing."""
    found = Lot.objects.own_or_404(request.user, pk=pk)
    act = request.POST.get("act", "reweigh") if request.method == "POST" else ""
    weighed = ReweighForm(request.POST if act == "reweigh" else None)
    fixed = CorrectLotForm(request.POST, prefix="fix") if act == "fix" else CorrectLotForm.of(found)
    void = VoidLotForm(request.POST if act == "void" else None, prefix="void")
    form = {"reweigh": weighed, "fix": fixed, "void": void}.get(act)
    if act == "restore" or (form is not None and form.is_valid()):
        try:
            _change_lot(request, found, act, form.cleaned_data if form else {})
            return redirect("pantry:lot", pk=pk)
        except CalmTinError as refused:
            if form is None:
                raise
            form.add_error(refused.field if refused.field in form.fields else None, refused.sentence)
        found.refresh_from_db()
    context = {
        "lot": found,
        "material": shelf_for(request.user)[found.material],
        "left": services.balance(found),
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


@require_http_methods(["GET", "HEAD", "POST"])
def container_list(request: HttpRequest) -> HttpResponse:
    """Show containers and moulds; POST adds one."""
    form = ContainerForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            services.add_container(
                request.user,
                name=data["name"],
                brim_ml=float(data["brim_ml"]),
                usual_level_pct=float(data["usual_level_pct"]),
                cavities=int(data["cavities"]),
                tare_g=data["empty_g"],
                on_hand=None if data["on_hand"] is None else int(data["on_hand"]),
                price=data["price"],
                request_key=key_of(request),
            )
            return redirect("pantry:containers")
        except CalmTinError as refused:
            form.add_error(refused.field if refused.field in form.fields else None, refused.sentence)
    own = OwnContainer.objects.of(request.user)
    shipped = [c for slug, c in containers_for(request.user).items() if not slug.startswith("my_")]
    return render(request, "pantry/containers.html", {"form": form, "own": own, "shipped": shipped})


@require_http_methods(["GET", "HEAD", "POST"])
def making(request: HttpRequest) -> HttpResponse:
    """Show infusions and rendered wax; POST starts an infusion or records a rendering."""
    today, shelf = timezone.localdate(), shelf_for(request.user)
    oils = [(slug, m.label) for slug, m in shelf.items() if m.layer == "oil"]
    infusion = InfusionForm(
        request.POST if "herb" in request.POST else None, oils=oils, initial={"started_on": today}
    )
    rendering = RenderForm(request.POST if "raw_g" in request.POST else None, initial={"done_on": today})
    for form, act in ((infusion, _infuse), (rendering, _render)):
        if form.is_bound and form.is_valid() and act(request, form):
            return redirect("pantry:making")
    rows = [(row, shelf[row.oil]) for row in Infusion.objects.of(request.user)]
    context = {"infusion": infusion, "rendering": rendering, "infusions": rows, "today": today}
    context["renderings"] = Rendering.objects.of(request.user)
    return render(request, "pantry/making.html", context)


def _infuse(request: HttpRequest, form: InfusionForm) -> bool:
    data = {name: value for name, value in form.cleaned_data.items() if name != "is_dried"}
    try:
        services.start_infusion(request.user, **data, request_key=key_of(request))
    except CalmTinError as refused:
        form.add_error(refused.field if refused.field in form.fields else None, refused.sentence)
        return False
    return True


def _render(request: HttpRequest, form: RenderForm) -> bool:
    try:
        services.render_comb(request.user, **form.cleaned_data, request_key=key_of(request))
    except CalmTinError as refused:
        form.add_error(refused.field if refused.field in form.fields else None, refused.sentence)
        return False
    return True


@require_http_methods(["GET", "HEAD", "POST"])
def infusion(request: HttpRequest, pk: int) -> HttpResponse:
    """Show an infusion; POST strains it."""
    found = Infusion.objects.own_or_404(request.user, pk=pk)
    form = StrainForm(request.POST or None, initial={"strained_on": timezone.localdate()})
    if request.method == "POST" and form.is_valid():
        try:
            lot = services.strain(request.user, found, **form.cleaned_data, request_key=key_of(request))
            return redirect("pantry:lot", pk=lot.pk)
        except CalmTinError as refused:
            form.add_error(refused.field if refused.field in form.fields else None, refused.sentence)
    context = {"infusion": found, "oil": shelf_for(request.user)[found.oil], "form": form}
    context["days"] = (found.due_on - timezone.localdate()) // timedelta(days=1)
    return render(request, "pantry/infusion.html", context)
