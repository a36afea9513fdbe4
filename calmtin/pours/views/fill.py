"""The fill plan."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods

from calmtin.accounts.queries import bench_of
from calmtin.common.fields import refuse
from calmtin.common.numbers import whole_number
from calmtin.common.once import key_of
from calmtin.common.pages import page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.formulas.models import Version
from calmtin.pantry.adapters import containers_for, shelf_for
from calmtin.pours import services
from calmtin.pours.forms import FillForm
from calmtin.pours.queries.fill import plan_of, sheet_of, usual_container
from calmtin.pours.queries.today import pourable


@require_http_methods(["GET", "HEAD", "POST"])
def fill(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Plan the fill: GET works it out as it is typed, POST starts the pour."""
    version = Version.objects.select_related("formula").own_or_404(
        request.user, formula_id=pk, number=number
    )
    bench, containers = bench_of(request.user), containers_for(request.user)
    typed = (request.POST if request.method == "POST" else request.GET).dict()
    usual = usual_container(version, containers)
    start = {"container": usual.slug, "count": "12", "level": f"{usual.usual_level * 100:.0f}", "loss": "5"}
    if typed.get("container", "") in containers and typed.get("was") != typed["container"]:
        typed["level"] = f"{containers[typed['container']].usual_level * 100:.0f}"
    form = FillForm({**start, **typed}, containers=containers)
    context: dict[str, Any] = {"version": version, "formula": version.formula, "form": form}
    if not pourable(version):
        context["problem"] = "There is nothing to pour yet. Add materials to the formula first."
    elif form.is_valid():
        try:
            shelf = shelf_for(request.user)
            data = form.cleaned_data
            plan = plan_of(
                version,
                shelf,
                containers[data["container"]],
                count=int(data["count"]),
                level_pct=float(data["level"]),
                loss_pct=float(data["loss"]),
                step_g=bench.scale_step_g,
            )
            if request.method == "POST":
                pour = services.start_pour(
                    request.user,
                    version,
                    plan,
                    scale_step_g=bench.scale_step_g,
                    seen=whole_number(request.POST.get("seen")),
                    request_key=key_of(request),
                )
                return redirect("pours:pour", pk=pour.pk)
            sheet = sheet_of(request.user, version, shelf, plan.batch_g, bench.scale_step_g)
            context |= {"plan": plan, "sheet": sheet}
        except CalmTinError as refused:
            refuse(form, refused)
    return page_or_fragment(request, "pours/fill.html", "pours/_fill.html", context)
