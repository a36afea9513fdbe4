"""One version of a formula, its name and kind, two versions side by side."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.translation import gettext
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.numbers import whole_number
from calmtin.common.pages import always_current
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.formulas import services
from calmtin.formulas.forms.formula import FormulaForm
from calmtin.formulas.models import Formula
from calmtin.formulas.queries.versions import version_diff
from calmtin.formulas.views.shared import seen_by, show, version_of
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.queries.lots import costs_of


@always_current
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
            form.add_error(None, str(refused))
    return _show_details(request, found, form)


def _show_details(
    request: HttpRequest, found: Formula, form: FormulaForm, problem: str = ""
) -> HttpResponse:
    newest = version_of(request, found.pk, None)
    context = {
        "form": form,
        "formula": found,
        "draft": None if newest.is_poured else newest,
        "is_all": found.versions.count() == 1,
        "problem": problem,
    }
    return render(request, "formulas/details.html", context)


@require_POST
def delete_draft(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Delete a draft that nothing was poured from."""
    version = version_of(request, pk, number)
    found, name = version.formula, version.formula.name
    try:
        if "sure" not in request.POST:
            raise CalmTinError(
                gettext("Tick the box to confirm, then press the button again. Nothing was deleted.")
            )
        left = services.delete_draft(request.user, version, seen=seen_by(request))
    except CalmTinError as refused:
        return _show_details(request, found, FormulaForm.of(found), str(refused))
    messages.success(request, said("Version {number} of {name} is deleted.", number=number, name=name))
    return redirect("formulas:formula", pk=pk) if left else redirect("formulas:list")


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
