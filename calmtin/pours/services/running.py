"""Pour day, step by step: progress and temperature readings."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.accounts.services import set_on_bench
from calmtin.common.idempotency import sent_once
from calmtin.common.numbers import CENT
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import CHECK_C, TIMER_MINUTES, check, check_text
from calmtin.core.messages import Message
from calmtin.core.process.route import OwnStep
from calmtin.core.process.steps import BATH, FILL
from calmtin.core.quantities import Mass
from calmtin.devices.adapters import SimulatedBench
from calmtin.devices.services import act
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.adapters import batch_of, keeping_of, newest_marks, now_of, weighed_g
from calmtin.pours.adapters.closed import closing_of
from calmtin.pours.models import PotReading, PotWeight, Pour, Route, StepDone, StepTimer


@sent_once
@transaction.atomic
def mark_step(
    user: Any, pour: Pour, *, key: str, is_done: bool = True, note: str = "", title: str = ""
) -> StepDone | None:
    """Keep that a step was done, or was not after all; saying the same again adds nothing.

    `title` is what the sheet calls it now, whatever the maker calls it later.
    """
    read_again(user, pour)
    _refuse_called_off(pour)
    check_text(note, 200, name=gettext("The note"), field="note")
    newest = pour.steps_done.filter(key=key).last()
    if is_done and pour.stove is not None:
        _at_stove(user, pour, key)
    if (newest.is_done if newest else False) == is_done and not note:
        return newest
    if key == FILL:
        _move_poured_at(pour, is_done=is_done)
    return StepDone.objects.create(
        pour=pour, key=key[:20], is_done=is_done, note=note.strip(), title=title[:120], at=now_of(pour)
    )


def _move_poured_at(pour: Pour, *, is_done: bool) -> None:
    """Let a pour be poured when it was filled, not when its weigh sheet was closed."""
    closing = closing_of(pour)
    if pour.poured_at is None or closing is None:
        return
    pour.poured_at = now_of(pour) if is_done else closing.at
    kept = keeping_of(pour, shelf_for(pour.owner))
    pour.use_by = kept.best_before if kept else None
    pour.save(update_fields=["poured_at", "use_by"])


def _at_stove(user: Any, pour: Pour, key: str) -> None:
    """Do at a simulated stove what a step did, and keep what its thermometer said then."""
    assert pour.stove is not None
    bench = SimulatedBench(pour.stove)
    temp_c = bench.thermometer.read().temp_c
    if temp_c is not None and not pour.is_weighing:
        PotReading.objects.create(pour=pour, temp_c=temp_c, at=bench.now)
    if key == BATH:
        act(user, pour.stove, "bath", float(weighed_g(pour)))


@sent_once
@transaction.atomic
def read_pot(
    user: Any,
    pour: Pour,
    *,
    temp_c: float,
    at: datetime | None = None,
    place: str = PotReading.Place.POT,
) -> PotReading:
    """Keep a reading of the thermometer: in the pot, or of the room. The clock follows both."""
    read_again(user, pour)
    _refuse_called_off(pour)
    check(temp_c, CHECK_C, name=gettext("The temperature"), field="temp", unit="°C")
    if place not in PotReading.Place.values:
        raise CalmTinError(gettext("Choose whether this is the pot or the room."), field="temp")
    return PotReading.objects.create(pour=pour, temp_c=temp_c, at=at or now_of(pour), place=place)


@sent_once
@transaction.atomic
def start_timer(user: Any, pour: Pour, *, key: str, minutes: Decimal) -> StepTimer:
    """Start a step's clock; started again, it rings that many minutes from now.

    The time it rings at is kept, so that a page that sleeps or reloads does not lose it.
    """
    read_again(user, pour)
    _refuse_called_off(pour)
    check(minutes, TIMER_MINUTES, name="A timer", field="minutes", unit="minutes")
    now = now_of(pour)
    rings_at = now + timedelta(minutes=float(minutes))
    return StepTimer.objects.create(pour=pour, key=key[:20], rings_at=rings_at, at=now)


@sent_once
@transaction.atomic
def stop_timer(user: Any, pour: Pour, *, key: str) -> StepTimer | None:
    """Stop the clock of a step; one that does not run stays as it is."""
    read_again(user, pour)
    newest = pour.timers.filter(key=key).last()
    if newest is None or newest.rings_at is None:
        return newest
    return StepTimer.objects.create(pour=pour, key=key[:20], rings_at=None, at=now_of(pour))


@transaction.atomic
def choose_melting(user: Any, pour: Pour, *, melting: str) -> Pour:
    """Keep whether a pour melts all at once or one after the other; the next pours do the same.

    Raises `CalmTinError` for a choice that is not offered, or once something on the heat was done.
    """
    read_again(user, pour)
    _refuse_called_off(pour)
    if melting not in Pour.Melting.values:
        raise CalmTinError(gettext("Choose how you melt from the list."), field="page")
    if pour.melting == melting:
        return pour
    on_the_heat = ("melt_wax", "melt_butter", "oils", "melt_all", FILL)
    if any(mark.is_done for key, mark in newest_marks(pour).items() if key in on_the_heat):
        raise CalmTinError(
            gettext("Something is melted already. Choose the other way on your next weigh sheet."),
            field="page",
        )
    pour.melting = melting
    pour.save(update_fields=["melting"])
    set_on_bench(user, melting=melting)
    return pour


@sent_once
@transaction.atomic
def weigh_pot(user: Any, pour: Pour, *, grams: Decimal) -> PotWeight:
    """Keep what the oil and the tincture weigh after boiling down, g; fill, firmness and dates follow it.

    Raises `CalmTinError` for a pour without a tincture, and for more than went in.
    """
    read_again(user, pour)
    _refuse_called_off(pour)
    shelf = shelf_for(user)
    batch = batch_of(pour, shelf)
    if not batch.tincture:
        raise CalmTinError(gettext("There is no tincture in this pour."), field="pot_g")
    before = sum((Decimal(repr(g)) for _, g in (*batch.tincture, *batch.oils)), Decimal(0)).quantize(CENT)
    if grams > before + pour.scale_step_g:
        raise CalmTinError(
            Message(
                "{typed} is more than the {before} of oil and tincture that went in. Weigh the contents "
                "without the pot.",
                typed=Mass(grams),
                before=Mass(before),
            ),
            field="pot_g",
        )
    weight = PotWeight.objects.create(pour=pour, before_g=before, grams=grams, at=now_of(pour))
    pour.driven_off_g = max(before - grams, Decimal(0))
    if pour.poured_at is not None:
        kept = keeping_of(pour, shelf)
        pour.use_by = kept.best_before if kept else None
    pour.save(update_fields=["driven_off_g", "use_by"])
    return weight


@transaction.atomic
def keep_route(user: Any, *, kind: str, way: str, steps: Sequence[OwnStep]) -> None:
    """Keep how a maker makes a kind; without a step it is the computed sheet again."""
    for step in steps:
        check_text(step.title, 120, name=gettext("The title of a step"), field="title")
    if not steps:
        Route.objects.of(user).filter(kind=kind, way=way).delete()
        return
    told = [[step.key, step.title.strip(), step.is_skipped] for step in steps]
    Route.objects.update_or_create(owner=user, kind=kind, way=way, defaults={"steps": told})


def _refuse_called_off(pour: Pour) -> None:
    if pour.called_off_at is not None:
        raise CalmTinError(gettext("This pour was cancelled. Start another one."), field="temp")
