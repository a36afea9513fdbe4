"""A caution that was seen."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from calmtin.common.idempotency import SentAlready, key_of
from calmtin.common.pages import came_from
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.views.shared import show, version_of


@require_POST
def acknowledge(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Keep that a caution was seen, with the reason to go on."""
    version, post = version_of(request, pk, number), request.POST
    key, back = post.get("key", ""), came_from(request)
    try:
        services.acknowledge(
            request.user,
            version.formula,
            key=key,
            material=post.get("material", ""),
            level=post.get("level", "think"),
            reason=post.get("reason", ""),
            request_key=key_of(request),
        )
    except CalmTinError as refused:
        if back:
            messages.error(request, str(refused))
            return redirect(back)
        place = "page" if isinstance(refused, SentAlready) else "caution"
        problem = {"problem_at": place, "problem_key": key, "problem": str(refused)}
        return show(request, version, **problem)
    return redirect(back) if back else show(request, version)
