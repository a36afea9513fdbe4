"""What every page shows of the bench."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest

from calmtin.accounts.queries import bench_of


def bench(request: HttpRequest) -> dict[str, Any]:
    """Give templates the maker's bench, and whether this is the demo."""
    user = getattr(request, "user", None)
    known = user is not None and user.is_authenticated
    return {"bench": bench_of(user) if known else None, "is_demo": settings.DEMO}
