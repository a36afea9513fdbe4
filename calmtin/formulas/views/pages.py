"""Formulas as a list, new ones, one version, two versions side by side."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.numbers import whole_number
from calmtin.common.once import key_of
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.comparing import version_diff
from calmtin.formulas.forms import (
    FormulaForm,
    PasteForm,
)
from calmtin.formulas.models import Formula, kind_choices
from calmtin.formulas.pasting import read_pasted
from calmtin.formulas.queries import formulas_of
from calmtin.formulas.turns import solving_turn
from calmtin.formulas.views.shared import show, version_of
from calmtin.formulas.worked import read_lines, worked_formulas
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.queries import FREE_FROM, costs_of, lots_of


@require_safe
def formula_list(request: HttpRequest) -> HttpResponse:
    """Show the maker's formulas as small tins."""
    return render(request, "formulas/list.html", {"formulas": formulas_of(request.user)})


@require_http_methods(["GET", "HEAD", "POST"])
def formula_new(request: HttpRequest) -> HttpResponse:
    """Start a formula."""
    initial = {"kind": "firm_salve", "sees_sun": True, "use_stock": True}
    form = FormulaForm(request.POST or None, initial=initial)
    context = {"form": form, "free_from": FREE_FROM}
    if request.method == "POST" and form.is_valid():
        data, asks = form.cleaned_data, "show" in request.POST
        proposal = request.POST.get("take", "")
        try:
            if not asks:
                made = services.start_formula(
                    request.user,
                    **{field: data[field] for field in ("name", "kind", "audience", "sees_sun")},
                    lines=read_lines(proposal) if proposal else None,
                    request_key=key_of(request),
                )
                return redirect("formulas:formula", pk=made.pk)
            today = timezone.localdate()
            stock = {v.lot.material for v in lots_of(request.user, today) if v.left_g > 0}
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
            form.add_error(None, refused.sentence)
    return render(request, "formulas/new.html", context)


@require_safe
def formula(request: HttpRequest, pk: int, number: int | None = None) -> HttpResponse:
    """Show one version of a formula, the newest unless a number is given."""
    return show(request, version_of(request, pk, number))


@require_http_methods(["GET", "HEAD", "POST"])
def details(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a formula's name and kind."""
    found = Formula.objects.own_or_404(request.user, pk=pk)
    form = FormulaForm(request.POST) if request.method == "POST" else FormulaForm.of(found)
    if request.method == "POST" and form.is_valid():
        fields = ("name", "kind", "audience", "sees_sun", "notes")
        data = {field: form.cleaned_data[field] for field in fields}
        try:
            services.rename(request.user, found, **data, seen=whole_number(request.POST.get("seen")))
            return redirect("formulas:formula", pk=pk)
        except CalmTinError as refused:
            form.add_error(None, refused.sentence)
    return render(request, "formulas/details.html", {"form": form, "formula": found})


@require_safe
def versions(request: HttpRequest, pk: int) -> HttpResponse:
    """Show two versions of a formula side by side."""
    found = Formula.objects.own_or_404(request.user, pk=pk)
    numbers = list(found.versions.values_list("number", flat=True))
    asked = [whole_number(request.GET.get(end)) for end in ("a", "b")]
    wanted = [n for n in asked if n in numbers]
    a, b = wanted if len(wanted) == 2 else (numbers[max(0, len(numbers) - 2)], numbers[-1])
    shelf, bench = shelf_for(request.user), bench_of(request.user)
    pair = [version_of(request, pk, number) for number in (a, b)]
    costs = costs_of(request.user, timezone.localdate())
    context = {
        "formula": found,
        "numbers": numbers,
        "branches": Formula.objects.of(request.user).filter(came_from__formula=found),
        "diff": version_diff(pair[0], pair[1], shelf, bench, costs),
    }
    return render(request, "formulas/versions.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def paste(request: HttpRequest) -> HttpResponse:
    """Read a pasted recipe; once every line is settled, make it a draft."""
    form = PasteForm(request.POST or None)
    context: dict[str, Any] = {"form": form}
    if request.method == "POST" and form.is_valid():
        try:
            pasted = read_pasted(request.user, form.cleaned_data["text"], request.POST)
            if "make" in request.POST and pasted.is_settled:
                made = services.start_formula(
                    request.user,
                    name=form.cleaned_data["name"] or "Pasted recipe",
                    kind=form.cleaned_data["kind"] or "firm_salve",
                    lines=pasted.percents(),
                    typed=pasted.typed(),
                    batch_g=pasted.batch_g,
                    request_key=key_of(request),
                )
                return redirect("formulas:formula", pk=made.pk)
            context |= {"pasted": pasted, "tried": "make" in request.POST}
        except CalmTinError as refused:
            form.add_error("text", refused.sentence)
    context |= {"choices": list(shelf_for(request.user).values()), "kinds": kind_choices()}
    return render(request, "formulas/paste.html", context)
