"""Rehearse a pour on the simulated stove: no stock is used and nothing is learned."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils.translation import gettext, gettext_noop

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.common.triggers import guards_open
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.errors import CalmTinError
from calmtin.core.process.fill import FillPlan
from calmtin.core.process.heat import solids_of
from calmtin.devices.services import act, set_up
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.services import start_formula
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.models import Pour
from calmtin.pours.services.starting import start_pour

SALVE_NAME = gettext_noop("A salve to rehearse with")
SALVE = (
    ("beeswax_yellow", "18"),
    ("shea_refined", "12"),
    ("coconut_rbd", "10"),
    ("olive_oil", "59.5"),
    ("tocopherols_50", "0.5"),
)
HOLDS_G = Decimal(5_000)  # what the simulated scale carries, cup and pot included


@sent_once
@transaction.atomic
def rehearse(
    user: Any,
    version: Version,
    plan: FillPlan,
    *,
    scale_step_g: Decimal,
    seed: int | None = None,
    **sheet: Any,
) -> Pour:
    """Start a rehearsal: the same sheet as a pour, on a stove, a scale and a thermometer of its own.

    The version stays a draft if it is one. `sheet` is what `start_pour` takes; `seed` makes the
    noise of the devices. Raises what `start_pour` raises.
    """
    read_again(user, version)
    masses = composition_of(version, shelf_for(user)).masses
    room_c, set_c = bench_of(user).room_c, None
    if any(grams > 0 for _, grams in masses):
        set_c = set_point_c(blend(masses))
    stove = set_up(
        user,
        step_g=scale_step_g,
        capacity_g=max(HOLDS_G, 2 * plan.batch_g),
        room_c=room_c,
        set_c=set_c if set_c is not None and set_c > room_c else None,
        solids=solids_of(masses),
        seed=seed,
    )
    return start_pour(user, version, plan, scale_step_g=scale_step_g, stove=stove, **sheet)


@sent_once
@transaction.atomic
def rehearse_a_salve(
    user: Any, *, plan_of: Callable[[Version], FillPlan | None], scale_step_g: Decimal
) -> Pour:
    """Rehearse a salve of a few common things; its formula is there to be changed afterwards.

    `plan_of` plans a pour of it. Raises what `rehearse` raises.
    """
    lines = [(slug, Decimal(percent)) for slug, percent in SALVE]
    version = start_formula(user, name=SALVE_NAME, kind="firm_salve", lines=lines).versions.get()
    plan = plan_of(version)
    assert plan is not None  # a salve of these lines can always be planned
    return rehearse(user, version, plan, scale_step_g=scale_step_g)


@transaction.atomic
def delete_rehearsal(user: Any, pour: Pour) -> None:
    """Throw a rehearsal away with all that happened in it; a pour is never removed.

    Raises `CalmTinError` for a pour that is none.
    """
    read_again(user, pour)
    if pour.stove is None:
        raise CalmTinError(
            gettext("A pour stays on record. Cancel pour if it was started by mistake."), field="page"
        )
    stove = pour.stove
    with guards_open(f"throwing rehearsal {pour.pk} away"):
        pour.delete()
    stove.delete()


def refuse_rehearsal(pour: Pour) -> None:
    """Raise `CalmTinError` for a rehearsal where stock would be used or something learned."""
    if pour.is_rehearsal:
        raise CalmTinError(
            gettext(
                "This is a rehearsal, so it isn’t checked, counted or learned from. Start a real pour."
            ),
            field="page",
        )


def act_at_stove(user: Any, pour: Pour, *, kind: str, value: float = 0.0) -> None:
    """Do something at the simulated stove of a rehearsal.

    Raises `CalmTinError` for a pour that has none, or for what cannot be done there.
    """
    read_again(user, pour)
    if pour.stove is None:
        raise CalmTinError(gettext("A real pour has no simulated stove."), field="act")
    act(user, pour.stove, kind, value)


@transaction.atomic
def clear_scale(user: Any, pour: Pour) -> None:
    """Make the simulated scale ready for the next part, as a hand would: tared, or with an empty cup."""
    read_again(user, pour)
    if pour.stove is None:
        return
    if pour.weighed_into == Pour.Weighing.CUPS:
        act(user, pour.stove, "lift")
    act(user, pour.stove, "tare")


@transaction.atomic
def delete_rehearsals_of(user: Any, version: Version) -> None:
    """Throw away every rehearsal of a version, as its draft is deleted."""
    read_again(user, version)
    for pour in Pour.every().of(user).filter(version=version, stove__isnull=False):
        delete_rehearsal(user, pour)
