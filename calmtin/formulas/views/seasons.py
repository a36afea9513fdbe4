"""The summer and the winter version of a formula."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_http_methods

from calmtin.accounts.queries import bench_of
from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.forms.formula import SeasonForm
from calmtin.formulas.queries.seasons import season_view
from calmtin.formulas.views.shared import version_of


@require_http_methods(["GET", "HEAD", "POST"])
def seasons(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show a pair and from which temperature summer counts; POST makes one, changes it or parts it."""
    version, bench = version_of(request, pk, number), bench_of(request.user)
    view = season_view(version.formula, bench)
    form = SeasonForm(request.POST or None, pair=view.pair if view else None, bench=bench)
    if request.method == "POST" and view is not None and "part" in request.POST:
        services.part_seasons(request.user, view.pair)
        messages.success(request, gettext("They are two formulas of their own again."))
        return redirect("formulas:formula", pk=pk)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            if view is not None:
                services.set_switch(request.user, view.pair, summer_from_c=data["summer_from"])
                return redirect("formulas:seasons", pk=pk, number=number)
            made = services.pair_seasons(
                request.user,
                version,
                season=data["season"],
                summer_from_c=data["summer_from"],
                request_key=key_of(request),
            )
            return redirect("formulas:target", pk=made.pk, number=1)
        except CalmTinError as refused:
            refuse(form, refused)
    context = {"form": form, "view": view, "version": version, "formula": version.formula}
    return render(request, "formulas/seasons.html", context)
