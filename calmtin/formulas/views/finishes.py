"""One base, several finishes."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods, require_POST

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import key_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.forms.finishes import FinishForm
from calmtin.formulas.models import Finish
from calmtin.formulas.queries.finishes import base_grams, pot_view
from calmtin.formulas.views.shared import version_of
from calmtin.pantry.adapters import shelf_for


@require_http_methods(["GET", "HEAD", "POST"])
def finishes(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show the pot split between the finishes as it is typed; POST adds a finish."""
    version, shelf = version_of(request, pk, number), shelf_for(request.user)
    form = FinishForm(shelf, base_grams(version, shelf), request.POST or None)
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
            form.add_error("name" if refused.field == "name" else None, str(refused))
    context: dict[str, Any] = {
        "version": version,
        "formula": version.formula,
        "pot": pot_view(version, shelf, bench_of(request.user), request.GET),
        "form": form,
        "choices": [
            m for m in shelf.values() if m.group in ("scent", "colour", "powder", "antioxidant", "oil")
        ],
    }
    return page_or_fragment(request, "formulas/finishes.html", "formulas/_finishes.html", context)


@require_POST
def finish_remove(request: HttpRequest, pk: int, number: int, finish: int) -> HttpResponse:
    """Take a finish out, or bring it back."""
    version = version_of(request, pk, number)
    found = Finish.objects.own_or_404(request.user, pk=finish, formula=version.formula)
    act = services.restore_finish if "back" in request.POST else services.remove_finish
    try:
        act(request.user, found)
    except CalmTinError as refused:
        messages.error(request, str(refused))
    return redirect("formulas:finishes", pk=pk, number=number)
