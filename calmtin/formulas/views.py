"""The formula's pages: parse, call, respond."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from calmtin.accounts.queries import bench_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.core.tincture import strength_pct
from calmtin.formulas import services, solving
from calmtin.formulas.forms import (
    AddLineForm,
    BatchForm,
    FormulaForm,
    PasteForm,
    PercentForm,
    ProcessForm,
    RequestKeyForm,
    StrengthForm,
)
from calmtin.formulas.models import Formula, Line, Version, cooling_choices, kind_choices
from calmtin.formulas.pasting import read_pasted
from calmtin.formulas.queries import formula_view, formulas_of, version_diff, why_of
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.queries import FREE_FROM, costs_of, lots_of

# The boxes of the page that hold what a maker types.
TYPED = ("percent", "batch_g", "overrun", "strength")


@require_GET
def formula_list(request: HttpRequest) -> HttpResponse:
    """Show the maker's formulas as small tins."""
    return render(request, "formulas/list.html", {"formulas": formulas_of(request.user)})


@require_http_methods(["GET", "POST"])
def formula_new(request: HttpRequest) -> HttpResponse:
    """Start a formula."""
    initial = {"kind": "firm_salve", "sees_sun": True, "use_stock": True}
    form = FormulaForm(request.POST or None, initial=initial)
    key, context = RequestKeyForm(request.POST), {"form": form, "free_from": FREE_FROM}
    if request.method == "POST" and form.is_valid() and key.is_valid():
        data, asks = form.cleaned_data, "show" in request.POST
        proposal = request.POST.get("take", "")
        try:
            if not asks:
                made = services.start_formula(
                    request.user,
                    **{field: data[field] for field in ("name", "kind", "audience", "sees_sun")},
                    lines=solving.read_lines(proposal) if proposal else None,
                    request_key=key.cleaned_data["request_key"],
                )
                return redirect("formulas:formula", pk=made.pk)
            today = timezone.localdate()
            stock = {v.lot.material for v in lots_of(request.user, today) if v.left_g > 0}
            context["worked"] = solving.worked_formulas(
                shelf_for(request.user),
                bench_of(request.user),
                kind_slug=data["kind"],
                avoid=data["free"],
                place=data["place"],
                stock=stock if data["use_stock"] else set(),
                costs=costs_of(request.user, today),
            )
        except CalmTinError as refused:
            form.add_error(None, refused.sentence)
    return render(request, "formulas/new.html", context)


@require_GET
def formula(request: HttpRequest, pk: int, number: int | None = None) -> HttpResponse:
    """Show one version of a formula, the newest unless a number is given."""
    return _show(request, _version(request, pk, number))


@require_http_methods(["GET", "POST"])
def details(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a formula's name and kind."""
    found = Formula.objects.own_or_404(request.user, pk=pk)
    form = FormulaForm(request.POST) if request.method == "POST" else FormulaForm.of(found)
    if request.method == "POST" and form.is_valid():
        data = {field: form.cleaned_data[field] for field in ("name", "kind", "audience", "sees_sun")}
        services.rename(request.user, found, **data)
        return redirect("formulas:formula", pk=pk)
    return render(request, "formulas/details.html", {"form": form, "formula": found})


@require_POST
def line_percent(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Give a line its percentage."""
    version = _version(request, pk, number)
    line = version.lines.filter(key=key).first()
    name = shelf_for(request.user)[line.material].label if line else "The percentage"
    form = PercentForm(request.POST, name=name)
    return _edit(
        request,
        version,
        form,
        lambda seen: services.set_percent(
            request.user, version, key=key, percent=form.cleaned_data["percent"], seen=seen
        ),
        place=key,
    )


@require_POST
def line_add(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Add a material."""
    version, form = _version(request, pk, number), AddLineForm(request.POST)
    return _edit(
        request,
        version,
        form,
        lambda seen: services.add_line(
            request.user,
            version,
            slug=form.cleaned_data["material"],
            percent=form.cleaned_data["percent"] or 0,
            seen=seen,
        ),
        place="add",
    )


@require_POST
def line_trade(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Move the boundary between two layers of the tin."""
    version, form = _version(request, pk, number), PercentForm(request.POST)
    return _edit(
        request,
        version,
        form,
        lambda seen: services.trade(
            request.user,
            version,
            key=key,
            other=request.POST.get("other", ""),
            percent=form.cleaned_data["percent"],
            seen=seen,
        ),
        place=key,
    )


@require_GET
def versions(request: HttpRequest, pk: int) -> HttpResponse:
    """Show two versions of a formula side by side."""
    found = Formula.objects.own_or_404(request.user, pk=pk)
    numbers = list(found.versions.values_list("number", flat=True))
    asked = [int(n) for n in (request.GET.get("a", ""), request.GET.get("b", "")) if n.isdecimal()]
    wanted = [n for n in asked if n in numbers]
    a, b = wanted if len(wanted) == 2 else (numbers[max(0, len(numbers) - 2)], numbers[-1])
    shelf, bench = shelf_for(request.user), bench_of(request.user)
    pair = [_version(request, pk, number) for number in (a, b)]
    costs = costs_of(request.user, timezone.localdate())
    context = {
        "formula": found,
        "numbers": numbers,
        "diff": version_diff(pair[0], pair[1], shelf, bench, costs),
    }
    return render(request, "formulas/versions.html", context)


@require_POST
def line_lock(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Lock or unlock a line."""
    version = _version(request, pk, number)
    locks = request.POST.get("lock") == "yes"
    return _edit(
        request,
        version,
        None,
        lambda seen: services.set_lock(request.user, version, key=key, is_locked=locks, seen=seen),
        place=key,
    )


@require_GET
def target(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Ask for a target and show what the solver proposes for it."""
    version, shelf, bench = _version(request, pk, number), shelf_for(request.user), bench_of(request.user)
    boxes = solving.target_boxes(version, request.GET)
    view = formula_view(version, shelf, bench)
    context: dict[str, Any] = {"view": view, "boxes": boxes}
    if view.line_count and boxes.is_fine:
        try:
            context["proposal"] = solving.propose_target(version, shelf, bench, boxes)
        except CalmTinError as refused:
            context["problem"] = refused.sentence
    return page_or_fragment(request, "formulas/target.html", "formulas/_target.html", context)


@require_GET
def trio(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show the trio map and what moving the point would mean."""
    version, shelf, bench = _version(request, pk, number), shelf_for(request.user), bench_of(request.user)
    view = formula_view(version, shelf, bench)
    context: dict[str, Any] = {"view": view}
    if view.firmness:
        context["trio"] = solving.trio_view(version, shelf, bench, request.GET)
    return page_or_fragment(request, "formulas/trio.html", "formulas/_trio.html", context)


@require_GET
def swaps(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Show what may stand in for a line, one for one and at equal firmness."""
    version, shelf, bench = _version(request, pk, number), shelf_for(request.user), bench_of(request.user)
    line = Line.objects.own_or_404(request.user, version=version, key=key)
    avoid = [flag for flag in request.GET.getlist("free") if flag in FREE_FROM]
    stock = {v.lot.material for v in lots_of(request.user, timezone.localdate()) if v.left_g > 0}
    found = solving.candidates(version, key, shelf, bench, avoid=avoid, stock=stock)
    if request.GET.get("mine"):
        found = [candidate for candidate in found if candidate.in_stock]
    context = {
        "view": formula_view(version, shelf, bench),
        "line": line,
        "material": shelf[line.material],
        "candidates": found,
        "avoid": avoid,
        "mine": bool(request.GET.get("mine")),
        "free_from": FREE_FROM,
    }
    return page_or_fragment(request, "formulas/swaps.html", "formulas/_swaps.html", context)


@require_POST
def apply(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Apply a proposal as a whole, or nothing of it."""
    version, seen = _version(request, pk, number), request.POST.get("seen", "")
    try:
        percents = solving.read_token(request.POST.get("proposal", ""))
        draft = services.apply_lines(
            request.user, version, percents=percents, seen=int(seen) if seen.isdecimal() else -1
        )
        return redirect("formulas:version", pk=pk, number=draft.number)
    except CalmTinError as refused:
        context = {"problem_at": "page", "problem": refused.sentence}
        return _show(request, _version(request, pk, number), **context)


@require_POST
def acknowledge(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Keep that a caution was seen, with the reason to go on."""
    version, post = _version(request, pk, number), request.POST
    key = post.get("key", "")
    try:
        services.acknowledge(
            request.user,
            version.formula,
            key=key,
            material=post.get("material", ""),
            reason=post.get("reason", ""),
        )
    except CalmTinError as refused:
        problem = {"problem_at": "caution", "problem_key": key, "problem": refused.sentence}
        return _show(request, version, **problem)
    return _show(request, version)


@require_POST
def line_strength(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Say how strong a tincture is."""
    version, form = _version(request, pk, number), StrengthForm(request.POST)
    return _edit(
        request,
        version,
        form,
        lambda seen: services.set_strength(
            request.user,
            version,
            key=key,
            alcohol_pct=strength_pct(
                float(form.cleaned_data["strength"]), is_proof=form.cleaned_data["scale"] == "proof"
            ),
            seen=seen,
        ),
        place=f"strength-{key}",
    )


@require_http_methods(["GET", "POST"])
def paste(request: HttpRequest) -> HttpResponse:
    """Read a pasted recipe; once every line is settled, make it a draft."""
    form = PasteForm(request.POST or None)
    context: dict[str, Any] = {"form": form}
    if request.method == "POST" and form.is_valid():
        try:
            pasted = read_pasted(request.user, form.cleaned_data["text"], request.POST)
            key = RequestKeyForm(request.POST)
            if "make" in request.POST and pasted.is_settled and key.is_valid():
                made = services.start_formula(
                    request.user,
                    name=form.cleaned_data["name"] or "Pasted recipe",
                    kind=form.cleaned_data["kind"] or "firm_salve",
                    lines=pasted.percents(),
                    typed=pasted.typed(),
                    batch_g=pasted.batch_g,
                    request_key=key.cleaned_data["request_key"],
                )
                return redirect("formulas:formula", pk=made.pk)
            context |= {"pasted": pasted, "tried": "make" in request.POST}
        except CalmTinError as refused:
            form.add_error("text", refused.sentence)
    context |= {"choices": list(shelf_for(request.user).values()), "kinds": kind_choices()}
    return render(request, "formulas/paste.html", context)


@require_POST
def line_remove(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Take a line out."""
    version = _version(request, pk, number)
    return _edit(
        request,
        version,
        None,
        lambda seen: services.remove_line(request.user, version, key=key, seen=seen),
        place=key,
    )


@require_POST
def line_balance(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponse:
    """Let a line balance the total."""
    version = _version(request, pk, number)
    return _edit(
        request,
        version,
        None,
        lambda seen: services.balance_with(request.user, version, key=key, seen=seen),
        place=key,
    )


@require_POST
def batch(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Choose the batch size that grams are shown for."""
    version, form = _version(request, pk, number), BatchForm(request.POST)
    return _edit(
        request,
        version,
        form,
        lambda seen: services.set_batch(
            request.user, version, batch_g=form.cleaned_data["batch_g"], seen=seen
        ),
        place="batch",
    )


@require_POST
def process(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Choose how it is cooled and whipped."""
    version, form = _version(request, pk, number), ProcessForm(request.POST)
    return _edit(
        request,
        version,
        form,
        lambda seen: services.set_process(
            request.user,
            version,
            cooling=form.cleaned_data["cooling"],
            overrun_pct=int(form.cleaned_data["overrun"]),
            seen=seen,
        ),
        place="process",
    )


@require_POST
def next_version(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Start the next version from this one."""
    draft = services.start_next_version(request.user, _version(request, pk, number))
    return redirect("formulas:version", pk=pk, number=draft.number)


def _version(request: HttpRequest, pk: int, number: int | None) -> Version:
    versions = Version.objects.of(request.user).select_related("formula").filter(formula_id=pk)
    if number is None and (newest := versions.order_by("-number").first()):
        return newest
    return versions.own_or_404(request.user, number=number)


def _edit(
    request: HttpRequest,
    version: Version,
    form: forms.Form | None,
    act: Callable[[int], Version],
    *,
    place: str,
) -> HttpResponse:
    """Do one edit and show its result; a refusal is shown at `place`, with what was typed."""
    problem = ""
    if form is not None and not form.is_valid():
        problem = next(iter(form.errors.values()))[0]
    else:
        try:
            seen = request.POST.get("seen", "")
            version = act(int(seen) if seen.isdecimal() else -1)
        except services.EditedElsewhere as refused:
            place, problem = "page", refused.sentence
            version = _version(request, version.formula_id, version.number)
        except CalmTinError as refused:
            problem = refused.sentence
    context = {"problem_at": place if problem else "", "problem": problem}
    if problem:
        context["typed"] = next((request.POST[n] for n in TYPED if n in request.POST), "")
        context["typed_material"] = request.POST.get("material", "")
    return _show(request, version, **context)


def _show(request: HttpRequest, version: Version, **context: Any) -> HttpResponse:
    shelf = shelf_for(request.user)
    view = formula_view(version, shelf, bench_of(request.user))
    place = request.POST.get("why", request.GET.get("why", ""))
    if place and view.firmness:
        context["why"] = why_of(view.firmness, place)
    used = {line.material.slug for group in view.groups for line in group.lines}
    choices = [material for slug, material in shelf.items() if slug not in used]
    response = page_or_fragment(
        request,
        "formulas/formula.html",
        "formulas/_formula.html",
        {"view": view, "choices": choices, "cooling_choices": cooling_choices(), **context},
    )
    if request.htmx:
        response["HX-Push-Url"] = reverse("formulas:version", args=[version.formula_id, version.number])
    elif request.method == "POST" and not context.get("problem"):
        return redirect("formulas:version", pk=version.formula_id, number=version.number)
    return response
