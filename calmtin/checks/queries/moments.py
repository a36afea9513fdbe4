"""What a pour is like when it is checked, and the prediction for that moment."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.utils.timesince import timesince

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import read, why_not
from calmtin.core.materials import Shelf
from calmtin.core.messages import said
from calmtin.core.process.checks import look_named
from calmtin.core.process.moments import Moment, moment_c, moments_of
from calmtin.pours.adapters import batch_of, dry_parts, melted_at, now_of, overrun_of
from calmtin.pours.models import Pour


@dataclass(frozen=True)
class MomentView:
    """A pour at the moment of a check: the moments to choose from, the one picked, and its prediction.

    `guess_c` is how warm it is likely to be then, C; None where the temperature stays as it was typed.
    """

    pour: Pour
    moments: list[Moment]
    moment: Moment
    guess_c: float | None
    predicted: str


def moment_view(
    pour: Pour, shelf: Shelf, bench: Bench, look: str, answers: Mapping[str, Any] | None = None
) -> MomentView:
    """Return what a pour is like when it is checked: by `answers`, or what is likely without them.

    A look at a temperature of its own, such as one in the hand, leaves no moment to choose.
    """
    asked = answers or {}
    at = asked.get("made_at") or now_of(pour)
    melted = melted_at(pour, by=at)
    minutes = max((at - melted) / timedelta(minutes=1), 0.0)
    batch = batch_of(pour, shelf)
    moments = [] if look_named(look).place else moments_of(batch, minutes, room_c=bench.room_c)
    # One that is soon over is what it is now.
    usual = next((moment for moment in moments if moment.is_unset), Moment.ROOM)
    moment = usual if answers is None else Moment(asked.get("moment") or Moment.ROOM)
    guess_c, temp_c = None, asked.get("temp")
    is_measured = answers is not None and temp_c not in (asked.get("guess"), bench.room_c)
    if moments and not is_measured:
        guess_c = temp_c = moment_c(moment, batch, minutes, room_c=bench.room_c)
    predicted = "" if temp_c is None else _predicted(pour, shelf, bench, temp_c, melted, at)
    return MomentView(pour, moments, moment, guess_c, predicted)


def _predicted(
    pour: Pour, shelf: Shelf, bench: Bench, temp_c: float, melted: datetime, at: datetime
) -> str:
    """Return the prediction for a pour `melted` then, as it is `at` a time and at `temp_c`, C, if any."""
    blended = blend(dry_parts(pour, shelf, at=at), bench.prior)
    if why_not(blended):
        return ""
    age_days = max((at - melted) / timedelta(days=1), 0.0)
    reading = read(blended, [temp_c], overrun=overrun_of(pour), age_days=age_days)
    return said(
        "Predicted at {temp}, {age} after pouring: firmness {rung:.1f}, "
        "likely {low:.1f}–{high:.1f} (8 in 10).",
        temp=temp(temp_c, bench.temperature_unit),
        age=timesince(melted, at, depth=1),
        rung=float(reading.rung[0]),
        low=float(reading.low[0]),
        high=float(reading.high[0]),
    )
