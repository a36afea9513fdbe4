"""What the formula's views share: find the version, do one edit, show the page."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django import forms
from django.db.models import prefetch_related_objects
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from calmtin.accounts.queries import bench_of
from calmtin.common.numbers import whole_number
from calmtin.common.owned import whose
from calmtin.common.pages import changes_nothing, htmx_of, page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.models import Version, cooling_choices
from calmtin.formulas.queries.formula import formula_view
from calmtin.formulas.queries.readings import why_of
from calmtin.pantry.adapters import shelf_for

# The boxes of the page that hold what a maker types.
TYPED = ("percent", "batch_g", "overrun", "strength")


def version_of(request: HttpRequest, pk: int, number: int | None) -> Version:
    """Return the maker's own version, the newest one unless a number is given, or 404."""
    versions = Version.objects.of(request.user).select_related("formula").filter(formula_id=pk)
    if changes_nothing(request):
        versions = versions.prefetch_related("lines")
    if number is None and (newest := versions.order_by("-number").first()):
        return whose(request.user, newest)
    return versions.own_or_404(request.user, number=number)


def edit_with(
    request: HttpRequest,
    pk: int,
    number: int,
    service: Callable[..., Version],
    *,
    place: str,
    form: forms.Form | None = None,
    values: Callable[[Version], dict[str, Any]] = lambda _: {},
) -> HttpResponse:
    """Let `service` do one edit with `values` and show its result.

    A refusal, of the form or of the service, is shown at `place` with what was typed.
    """
    version = version_of(request, pk, number)
    problem = ""
    if form is not None and not form.is_valid():
        problem = str(next(iter(form.errors.values()))[0])
    else:
        try:
            version = service(request.user, version, seen=seen_by(request), **values(version))
        except services.EditedElsewhere as refused:
            place, problem = "page", str(refused)
            version = version_of(request, version.formula_id, version.number)
        except CalmTinError as refused:
            problem = str(refused)
    context = {"problem_at": place if problem else "", "problem": problem}
    if problem:
        context["typed"] = next((request.POST[n] for n in TYPED if n in request.POST), "")
        context["typed_material"] = request.POST.get("material", "")
    return show(request, version, **context)


def seen_by(request: HttpRequest) -> int:
    """Return the revision that the page showed; -1, which none is, where it did not say."""
    return whole_number(request.POST.get("seen"), -1)


def show(request: HttpRequest, version: Version, **context: Any) -> HttpResponse:
    """Show a version: the page for a browser, its part for htmx."""
    shelf = shelf_for(request.user)
    prefetch_related_objects([version], "lines")
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
    if htmx_of(request):
        response["HX-Push-Url"] = reverse("formulas:version", args=[version.formula_id, version.number])
    elif request.method == "POST" and not context.get("problem"):
        return redirect("formulas:version", pk=version.formula_id, number=version.number)
    return response
