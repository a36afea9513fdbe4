"""Formulas as a list, and new ones."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import key_of
from calmtin.common.search import paged
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.forms.formula import FormulaForm
from calmtin.formulas.forms.search import FormulaFilter
from calmtin.formulas.models import Formula
from calmtin.formulas.proposals.starters import read_lines, worked_formulas
from calmtin.formulas.proposals.turns import solving_turn
from calmtin.formulas.queries.lists import archived_formulas, free_name, listed
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.queries.lots import costs_of, in_stock
from calmtin.pantry.queries.shelf import avoidable

PER_PAGE = 24


@require_safe
def formula_list(request: HttpRequest) -> HttpResponse:
    """Show the filtered formulas as small tins; the filter stays in the address."""
    shelf, bench = shelf_for(request.user), bench_of(request.user)
    costs = costs_of(request.user, timezone.localdate())
    materials = [(material.slug, material.label) for material in shelf.values()]
    search = FormulaFilter(request.GET, user=request.user, materials=materials)
    rows: Any = search.qs
    if search.rungs is not None:
        # Rungs are worked out, not stored: all are read before a page of them is cut.
        low, high = search.rungs
        rows = [
            f for f in listed(rows, shelf, bench, costs) if f.rung is not None and low <= f.rung <= high
        ]
    page, asked = paged(request, rows, PER_PAGE)
    found: Any = page.object_list
    formulas = list(found) if search.rungs is not None else listed(found, shelf, bench, costs)
    context = {
        "formulas": formulas,
        "page": page,
        "asked": asked,
        "search": search,
        "archived": [] if search.is_asked else archived_formulas(request.user),
    }
    return render(request, "formulas/list.html", context)


@require_POST
def archive(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a formula out of the lists."""
    services.archive_formula(request.user, Formula.objects.own_or_404(request.user, pk=pk))
    return redirect("formulas:list")


@require_POST
def restore(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a formula back into the lists."""
    services.restore_formula(request.user, Formula.objects.own_or_404(request.user, pk=pk))
    return redirect("formulas:formula", pk=pk)


@require_http_methods(["GET", "HEAD", "POST"])
def formula_new(request: HttpRequest) -> HttpResponse:
    """Start a formula."""
    initial = {"kind": "firm_salve", "sees_sun": True, "use_stock": True}
    form = FormulaForm(request.POST or None, initial=initial)
    form.fields["name"].required = False
    context = {"form": form, "free_from": avoidable()}
    if request.method == "POST" and form.is_valid():
        data, asks = form.cleaned_data, "show" in request.POST
        proposal = request.POST.get("take", "")
        try:
            if not asks:
                made = services.start_formula(
                    request.user,
                    name=data["name"] or free_name(request.user, data["kind"]),
                    **{field: data[field] for field in ("kind", "audience", "sees_sun")},
                    lines=read_lines(proposal) if proposal else None,
                    request_key=key_of(request),
                )
                return redirect("formulas:formula", pk=made.pk)
            today = timezone.localdate()
            stock = {v.lot.material for v in in_stock(request.user, today)}
            with solving_turn(request) as stop:
                context["worked"] = worked_formulas(
                    shelf_for(request.user),
                    bench_of(request.user),
                    kind_slug=data["kind"],
                    avoid=data["free"],
                    place=data["place"],
                    stock=stock if data["use_stock"] else set(),
                    costs=costs_of(request.user, today),
                    stop=stop,
                )
        except CalmTinError as refused:
            form.add_error(None, str(refused))
    return render(request, "formulas/new.html", context)
