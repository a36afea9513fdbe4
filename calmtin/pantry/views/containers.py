"""Containers and moulds."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from calmtin.common.fields import refuse
from calmtin.common.once import key_of
from calmtin.core.errors import CalmTinError
from calmtin.pantry import services
from calmtin.pantry.adapters import containers_for
from calmtin.pantry.forms import ContainerForm
from calmtin.pantry.models import OwnContainer


@require_http_methods(["GET", "HEAD", "POST"])
def container_list(request: HttpRequest) -> HttpResponse:
    """Show containers and moulds; POST adds one."""
    form = ContainerForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            services.add_container(
                request.user,
                name=data["name"],
                brim_ml=float(data["brim_ml"]),
                usual_level_pct=float(data["usual_level_pct"]),
                cavities=int(data["cavities"]),
                tare_g=data["empty_g"],
                on_hand=None if data["on_hand"] is None else int(data["on_hand"]),
                price=data["price"],
                request_key=key_of(request),
            )
            return redirect("pantry:containers")
        except CalmTinError as refused:
            refuse(form, refused)
    own = OwnContainer.objects.of(request.user)
    shipped = [c for slug, c in containers_for(request.user).items() if not slug.startswith("my_")]
    return render(request, "pantry/containers.html", {"form": form, "own": own, "shipped": shipped})
