"""The shelf."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.http import require_safe

from calmtin.common.pages import page_or_fragment
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.forms.shelf import SearchForm
from calmtin.pantry.queries.shelf import avoidable, search_shelf


@require_safe
def pantry(request: HttpRequest) -> HttpResponse:
    """Show the shelf, narrowed as it is typed."""
    form = SearchForm(request.GET)
    wanted = form.cleaned_data if form.is_valid() else {}
    groups = search_shelf(
        request.user,
        shelf_for(request.user),
        timezone.localdate(),
        words=wanted.get("q", ""),
        group=wanted.get("group", ""),
        free_from=wanted.get("free", []),
        in_pantry=wanted.get("mine", False),
    )
    context = {"form": form, "wanted": wanted, "groups": groups, "free_from": avoidable()}
    return page_or_fragment(request, "pantry/pantry.html", "pantry/_shelf.html", context)
