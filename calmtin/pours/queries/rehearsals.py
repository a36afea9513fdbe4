"""Rehearsals that were not deleted."""

from __future__ import annotations

from typing import Any

from calmtin.pours.models import Pour


def rehearsals_of(user: Any) -> list[Pour]:
    """Return the rehearsals that were not thrown away, newest first."""
    return list(Pour.every().of(user).filter(stove__isnull=False).select_related("version__formula"))
