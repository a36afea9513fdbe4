"""What something was before it was put right."""

from __future__ import annotations

from django.db.models import QuerySet

from calmtin.pantry.models import Correction, Infusion, OwnContainer, OwnMaterial


def corrections_of(row: OwnMaterial | OwnContainer | Infusion) -> QuerySet[Correction]:
    """Return the corrections of a row, the last one first."""
    return row.corrections.order_by("-pk")
