"""A copy of a formula, a sheet of it to weigh by, a recipe of it to give away."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_http_methods, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import key_of
from calmtin.common.numbers import whole_number
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.formulas import services
from calmtin.formulas.forms.formula import BranchForm
from calmtin.formulas.queries.recipe import recipe_view
from calmtin.formulas.queries.sheet import sheet_view
from calmtin.formulas.views.shared import version_of
from calmtin.pantry.adapters import shelf_for


@require_http_methods(["GET", "HEAD", "POST"])
def copy(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Start a formula of its own from a version, with one of its finishes if wanted."""
    version = version_of(request, pk, number)
    of = version.formula
    asked = request.POST.get("finish") or request.GET.get("finish", "")
    finish = of.finishes.filter(pk=whole_number(asked) or 0, removed_at=None).first()
    name = f"{of.name}, {finish.name}" if finish else said("{name}, a copy", name=of.name)
    form = BranchForm(request.POST or None, initial={"name": name[:80]})
    if request.method == "POST" and form.is_valid():
        try:
            made = services.branch(
                request.user,
                version,
                name=form.cleaned_data["name"],
                finish=finish,
                request_key=key_of(request),
            )
            return redirect("formulas:formula", pk=made.pk)
        except CalmTinError as refused:
            form.add_error(None, str(refused))
    context = {"form": form, "version": version, "formula": of, "finish": finish}
    return render(request, "formulas/copy.html", context)


@require_safe
def sheet(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show a version as one sheet of paper."""
    view = sheet_view(version_of(request, pk, number), shelf_for(request.user), bench_of(request.user))
    context = {"sheet": view, "view": view.formula, "today": timezone.localdate()}
    return render(request, "formulas/sheet.html", context)


@require_safe
def recipe(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show a version as a card to give to a friend."""
    return render(request, "formulas/recipe.html", _recipe(request, pk, number))


@require_safe
def recipe_text(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Send a version as plain text."""
    context = _recipe(request, pk, number)
    name = slugify(context["view"].formula.name) or "recipe"
    return HttpResponse(
        render_to_string("formulas/recipe.txt", context, request),
        content_type="text/plain; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}.txt"'},
    )


def _recipe(request: HttpRequest, pk: int, number: int) -> dict[str, Any]:
    told = recipe_view(version_of(request, pk, number), shelf_for(request.user), bench_of(request.user))
    return {"recipe": told, "view": told.sheet.formula}
