"""What lets a browser install Calm Tin, and say something sensible while the bench is away."""

from __future__ import annotations

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe


@login_not_required
@require_safe
def manifest(request: HttpRequest) -> HttpResponse:
    """Send what a browser asks before it installs."""
    return render(request, "manifest.webmanifest", content_type="application/manifest+json")


@login_not_required
@require_safe
def worker(request: HttpRequest) -> HttpResponse:
    """Send the worker that keeps one page: that the bench cannot be reached."""
    answer = render(request, "sw.js", content_type="text/javascript")
    answer["Cache-Control"] = "no-cache"
    return answer


@login_not_required
@require_safe
def away(request: HttpRequest) -> HttpResponse:
    """Send the page that stands in while the bench cannot be reached."""
    return render(request, "away.html")
