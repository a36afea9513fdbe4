"""A pasted recipe on its way to a draft."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.forms.formula import PasteForm
from calmtin.formulas.models import kind_choices
from calmtin.formulas.queries.pasted import read_pasted
from calmtin.pantry.adapters import shelf_for


@require_http_methods(["GET", "HEAD", "POST"])
def paste(request: HttpRequest) -> HttpResponse:
    """Read a pasted recipe; once every line is settled, make it a draft."""
    form = PasteForm(request.POST or None)
    context: dict[str, Any] = {"form": form}
    if request.method == "POST" and form.is_valid():
        try:
            pasted = read_pasted(request.user, form.cleaned_data["text"], request.POST)
            # What the page guessed is guessed anew; what the maker chose stays.
            chosen = form.cleaned_data["kind"]
            is_own = chosen and chosen != request.POST.get("guessed", "")
            context["kind"] = chosen if is_own else pasted.guess.kind
            if "make" in request.POST and pasted.is_settled and not pasted.is_news:
                made = services.start_formula(
                    request.user,
                    name=form.cleaned_data["name"] or "Pasted recipe",
                    kind=context["kind"],
                    lines=pasted.percents(),
                    measured=pasted.measured(),
                    batch_g=pasted.batch_g,
                    request_key=key_of(request),
                )
                return redirect("formulas:formula", pk=made.pk)
            context |= {"pasted": pasted, "tried": "make" in request.POST}
        except CalmTinError as refused:
            form.add_error("text", str(refused))
    context |= {"choices": list(shelf_for(request.user).values()), "kinds": kind_choices()}
    return render(request, "formulas/paste.html", context)
