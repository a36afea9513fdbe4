"""What a bench melts in, whips in and pours from, as the settings show it."""

from __future__ import annotations

from typing import Any

from django.utils.translation import gettext

from calmtin.accounts.queries import Held
from calmtin.core.messages import written
from calmtin.core.quantities import Volume
from calmtin.pantry.models import Vessel


def vessels_held(user: Any) -> Held:
    """Return the pots, bowls and jugs of a maker."""
    rows = [
        f"{row.name}: {row.get_use_display()}, {written(Volume(row.brim_ml))}"
        for row in Vessel.objects.of(user)
    ]
    return Held(gettext("Pots, bowls and jugs"), rows, "pantry:containers", "#vessels")
