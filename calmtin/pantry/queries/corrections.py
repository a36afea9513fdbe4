"""What something was before it was put right."""

from __future__ import annotations

from typing import Any

from django.db.models import Model, QuerySet

from calmtin.pantry.models import Correction, name_of


def corrections_of(user: Any, row: Model) -> QuerySet[Correction]:
    """Return the corrections of a row, the last one first."""
    return Correction.objects.of(user).filter(what=name_of(row)).order_by("-pk")
