"""One base, several finishes; a copy; the sheet to print."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.numbers import whole_number
from calmtin.common.once import key_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.composition import masses
from calmtin.core.errors import CalmTinError
from calmtin.core.weighing import share_out, too_small, whole_steps
from calmtin.formulas import services
from calmtin.formulas.forms import BranchForm, FinishForm
from calmtin.formulas.models import Finish
from calmtin.formulas.queries import formula_view
from calmtin.formulas.variants import pot_view
from calmtin.formulas.views.shared import version_of
from calmtin.pantry.adapters import shelf_for


@require_http_methods(["GET", "HEAD", "POST"])
def finishes(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show the pot split between the finishes as it is typed; POST adds a finish."""
    version, shelf = version_of(request, pk, number), shelf_for(request.user)
    form = FinishForm(shelf, request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            services.add_finish(
                request.user,
                version.formula,
                name=form.cleaned_data["name"],
                parts=form.parts,
                request_key=key_of(request),
            )
            return redirect("formulas:finishes", pk=pk, number=number)
        except CalmTinError as refused:
            form.add_error("name" if refused.field == "name" else None, refused.sentence)
    context: dict[str, Any] = {
        "version": version,
        "formula": version.formula,
        "pot": pot_view(version, shelf, bench_of(request.user), request.GET),
        "form": form,
        "choices": [
            m for m in shelf.values() if m.group in ("scent", "colour", "powder", "antioxidant", "oil")
        ],
    }
    return page_or_fragment(request, "formulas/finishes.html", "formulas/_pot.html", context)


@require_POST
def finish_remove(request: HttpRequest, pk: int, number: int, finish: int) -> HttpResponse:
    """Take a finish out, or bring it back."""
    version = version_of(request, pk, number)
    found = Finish.objects.own_or_404(request.user, pk=finish, formula=version.formula)
    act = services.restore_finish if "back" in request.POST else services.remove_finish
    try:
        act(request.user, found)
    except CalmTinError as refused:
        messages.error(request, refused.sentence)
    return redirect("formulas:finishes", pk=pk, number=number)


@require_http_methods(["GET", "HEAD", "POST"])
def copy(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Start a formula of its own from a version, with one of its finishes if wanted."""
    version = version_of(request, pk, number)
    of = version.formula
    asked = request.POST.get("finish") or request.GET.get("finish", "")
    finish = of.finishes.filter(pk=whole_number(asked), removed_at=None).first()
    name = f"{of.name}, {finish.name}" if finish else f"{of.name}, a copy"
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
            form.add_error(None, refused.sentence)
    context = {"form": form, "version": version, "formula": of, "finish": finish}
    return render(request, "formulas/copy.html", context)


@require_safe
def sheet(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show a version as one sheet of paper."""
    version, bench = version_of(request, pk, number), bench_of(request.user)
    view, step = formula_view(version, shelf_for(request.user), bench), bench.scale_step_g
    items = [item for group in view.groups for item in group.lines if item.line.percent > 0]
    batch = whole_steps(version.batch_g, step)
    grams = share_out(masses([item.line.percent for item in items], batch), step) if items else []
    rows = [(item, weight, too_small(weight, step)) for item, weight in zip(items, grams, strict=True)]
    context = {"view": view, "rows": rows, "batch": batch, "today": timezone.localdate()}
    return render(request, "formulas/sheet.html", context)
