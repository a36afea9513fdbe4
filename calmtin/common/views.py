"""Answers that belong to no app: not found, failed, expired."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Say that there is no such page, or that it is somebody else's."""
    return render(request, "404.html", status=404)


def server_error(request: HttpRequest) -> HttpResponse:
    """Say that it failed here and that what was saved is safe."""
    return render(request, "500.html", status=500)


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Say that the page was open too long and what to do."""
    return render(request, "403_csrf.html", status=403)
