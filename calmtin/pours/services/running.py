"""Pour day, step by step: what was done, and what the thermometer said."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone

from calmtin.common.once import sent_once
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import CHECK_C, TIMER_MINUTES, check, check_text
from calmtin.core.process.route import OwnStep
from calmtin.pours.models import PotReading, Pour, Route, StepDone, StepTimer


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
    check_text(note, 200, name="The note", field="note")
    newest = pour.steps_done.filter(key=key).last()
    if (newest.is_done if newest else False) == is_done and not note:
        return newest
    return StepDone.objects.create(
        pour=pour, key=key[:20], is_done=is_done, note=note.strip(), title=title[:120]
    )


@sent_once
@transaction.atomic
def read_pot(user: Any, pour: Pour, *, temp_c: float, at: datetime | None = None) -> PotReading:
    """Keep a reading of the thermometer in the pot; the clock follows it."""
    read_again(user, pour)
    _refuse_called_off(pour)
    check(temp_c, CHECK_C, name="The temperature", field="temp", unit="°C")
    return PotReading.objects.create(pour=pour, temp_c=temp_c, at=at or timezone.now())


@sent_once
@transaction.atomic
def start_timer(user: Any, pour: Pour, *, key: str, minutes: Decimal) -> StepTimer:
    """Start a clock on a step; started again, it rings so many minutes from now.

    The time it rings at is kept, so that a page that sleeps or reloads does not lose it.
    """
    read_again(user, pour)
    _refuse_called_off(pour)
    check(minutes, TIMER_MINUTES, name="A timer", field="minutes", unit="minutes")
    rings_at = timezone.now() + timedelta(minutes=float(minutes))
    return StepTimer.objects.create(pour=pour, key=key[:20], rings_at=rings_at)


@sent_once
@transaction.atomic
def stop_timer(user: Any, pour: Pour, *, key: str) -> StepTimer | None:
    """Stop the clock of a step; one that does not run stays as it is."""
    read_again(user, pour)
    newest = pour.timers.filter(key=key).last()
    if newest is None or newest.rings_at is None:
        return newest
    return StepTimer.objects.create(pour=pour, key=key[:20], rings_at=None)


@transaction.atomic
def keep_route(user: Any, *, kind: str, way: str, steps: Sequence[OwnStep]) -> None:
    """Keep how a maker makes a kind; without a step it is the computed sheet again."""
    for step in steps:
        check_text(step.title, 120, name="The title of a step", field="title")
    if not steps:
        Route.objects.of(user).filter(kind=kind, way=way).delete()
        return
    told = [[step.key, step.title.strip(), step.is_skipped] for step in steps]
    Route.objects.update_or_create(owner=user, kind=kind, way=way, defaults={"steps": told})


def _refuse_called_off(pour: Pour) -> None:
    if pour.called_off_at is not None:
        raise CalmTinError("This pour was called off. Start another one.", field="temp")
