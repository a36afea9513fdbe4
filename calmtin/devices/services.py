"""What a person does at a simulated bench: pour, heat, pull a plug, let time pass."""

from __future__ import annotations

import random
from decimal import Decimal
from typing import Any, cast

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import WEIGHT_G, check
from calmtin.core.process.heat import NOTHING_SETS, Solids
from calmtin.devices.adapters import SimulatedBench
from calmtin.devices.models import Stove
from calmtin.devices.simulated import KINDS, LONGEST_SKIP_S, SPEEDS, Kind

MOST_ACTS = 2_000


@transaction.atomic
def set_up(
    user: Any,
    *,
    step_g: Decimal,
    capacity_g: Decimal,
    room_c: float,
    set_c: float | None,
    solids: Solids = NOTHING_SETS,
    seed: int | None = None,
) -> Stove:
    """Set up a simulated bench with an empty cup on its scale and a cold pot."""
    return Stove.objects.create(
        owner=user,
        seed=random.randrange(1_000_000) if seed is None else seed,
        step_g=step_g,
        capacity_g=capacity_g,
        room_c=room_c,
        set_c=set_c,
        solids=list(solids.shares),
    )


@transaction.atomic
def act(user: Any, stove: Stove, kind: str, value: float = 0.0) -> None:
    """Do something at a simulated bench.

    Raises `CalmTinError` for what cannot be done there.
    """
    read_again(user, stove)
    if kind not in KINDS:
        raise CalmTinError(
            gettext("The simulated stove has no such control. Reload the page."), field="act"
        )
    check(value, (-WEIGHT_G[1], WEIGHT_G[1]), name=gettext("That"), field="value")
    if kind == "skip":
        check(value, (0.0, LONGEST_SKIP_S), name=gettext("The time to pass"), field="value", unit="s")
    if kind == "speed" and value not in SPEEDS:
        raise CalmTinError(gettext("Choose how fast time runs from the list."), field="value")
    bench = SimulatedBench(stove)
    if len(bench.acts) >= MOST_ACTS:
        raise CalmTinError(gettext("This rehearsal has become too long. Delete it and start another."))
    if kind == "tare":
        bench.scale.tare()
    else:
        bench.do(cast(Kind, kind), value)
