"""The plan to find what caused a flare-up."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from calmtin.checks import services
from calmtin.checks.forms import PatchForm
from calmtin.checks.queries.reactions import reaction_view, suspects_in, traced
from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.models import Check


@require_POST
def trace(request: HttpRequest, pk: int) -> HttpResponse:
    """Start to look for the cause of a flare-up, from the check that tells of it."""
    check = Check.objects.own_or_404(request.user, pk=pk)
    suspects = suspects_in(request.user, check, shelf_for(request.user))
    found = services.trace_reaction(request.user, check, suspects=suspects)
    return redirect("checks:reaction", pk=found.pk)


@require_http_methods(["GET", "HEAD", "POST"])
def reaction(request: HttpRequest, pk: int) -> HttpResponse:
    """Show what is suspected, tried and next; POST keeps the result of a patch."""
    found = get_object_or_404(traced(request.user), pk=pk)
    form = PatchForm(request.POST or None, initial={"tried_on": timezone.localdate()})
    if request.method == "POST" and form.is_valid():
        try:
            services.keep_patch(request.user, found, **form.cleaned_data, request_key=key_of(request))
            return redirect("checks:reaction", pk=pk)
        except CalmTinError as refused:
            refuse(form, refused)
    view = reaction_view(found, shelf_for(request.user))
    return render(request, "checks/reaction.html", {"view": view, "form": form})
