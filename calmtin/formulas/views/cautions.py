"""A caution that was seen."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from calmtin.common.notation import said
from calmtin.common.once import SentAlready, key_of
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.views.shared import show, version_of


@require_POST
def acknowledge(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Keep that a caution was seen, with the reason to go on."""
    version, post = version_of(request, pk, number), request.POST
    key = post.get("key", "")
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
        place = "page" if isinstance(refused, SentAlready) else "caution"
        problem = {"problem_at": place, "problem_key": key, "problem": said(refused)}
        return show(request, version, **problem)
    return show(request, version)
