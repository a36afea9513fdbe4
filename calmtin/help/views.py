"""Help in its place: one page for each question."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.translation import gettext
from django.views.decorators.http import require_safe

from calmtin.accounts.queries import bench_of
from calmtin.help.topics import TOPICS, picture_of, questions


@require_safe
def index(request: HttpRequest) -> HttpResponse:
    """List the questions."""
    return render(request, "help/page.html", {"topics": questions()})


@require_safe
def topic(request: HttpRequest, slug: str) -> HttpResponse:
    """Answer one question."""
    if slug not in TOPICS:
        raise Http404
    context = {
        "topics": questions(),
        "slug": slug,
        "title": gettext(TOPICS[slug]),
        "picture": picture_of(slug, bench_of(request.user)),
        "words": f"help/topics/{slug}.html",
    }
    return render(request, "help/page.html", context)
