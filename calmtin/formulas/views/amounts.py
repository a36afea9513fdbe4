"""All lines in one table."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods

from calmtin.accounts.queries import bench_of
from calmtin.common.pages import commits, page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.forms.amounts import AmountsForm
from calmtin.formulas.queries.readings import preview
from calmtin.formulas.views.shared import seen_by, version_of
from calmtin.pantry.adapters import shelf_for


@require_http_methods(["GET", "HEAD", "POST"])
def all_at_once(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Edit every line in one table, in grams, parts or percent."""
    version, shelf = version_of(request, pk, number), shelf_for(request.user)
    form = AmountsForm(version, shelf, request.POST if request.method == "POST" else request.GET)
    problem = ""
    if commits(request) and form.is_valid():
        try:
            draft = services.set_all(
                request.user,
                version,
                amounts=form.amounts,
                is_weighed=form.is_weighed,
                measured=form.measured,
                added=[(material.slug, amount, how) for material, amount, how in form.added],
                seen=seen_by(request),
            )
            return redirect("formulas:version", pk=pk, number=draft.number)
        except CalmTinError as refused:
            problem = str(refused)
    context: dict[str, Any] = {"version": version, "formula": version.formula, "form": form}
    context |= {"problem": problem, "choices": list(shelf.values())}
    context["firmness"], context["section"] = preview(version, form.weighed, bench_of(request.user))
    return page_or_fragment(request, "formulas/amounts.html", "formulas/_amounts.html", context)
