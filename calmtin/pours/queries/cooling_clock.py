"""When a cooling pot comes to the temperatures that matter, and its picture."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone
from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.core.process.cooling import Forecast, cooling_from, forecast
from calmtin.core.process.steps import Batch, Step
from calmtin.pictures.clock import PourClock, pour_clock

SET_NEAR_C = 1.0
LEAST_MINUTES = 20.0
POINTS = 40


@dataclass(frozen=True)
class Ahead:
    """A temperature that matters and when the pot comes to it: as expected, and the 80 % band."""

    name: str
    temp_c: float
    at: datetime
    low: datetime
    high: datetime


def cooling_clock(
    batch: Batch,
    steps: Sequence[Step],
    readings: list[tuple[datetime, float]],
    bench: Bench,
    now: datetime,
    room_c: float,
) -> tuple[PourClock | None, list[Ahead]]:
    """Return the clock since the pot was last heated, and when it will be at what matters."""
    if not readings:
        return None, []
    hottest = cooling_from([temp_c for _, temp_c in readings])
    start = readings[hottest][0]
    cooling = [((at - start) / timedelta(minutes=1), temp_c) for at, temp_c in readings[hottest:]]
    grams = sum(mass for _, mass in batch.parts)
    # Where it sets the temperature stands, so that Newton's law holds above only.
    above = [r for r in cooling if batch.set_c is None or r[1] > batch.set_c + SET_NEAR_C] or cooling[:1]
    try:
        told = forecast(above, room_c=room_c, mass_g=grams)
    except CalmTinError:
        return None, []
    by_key = {step.key: step for step in steps}
    scent, fill = by_key.get("scent"), by_key.get("fill")
    wanted = _merged(scent.high_c if scent else None, fill.low_c if fill else None)
    ahead = [
        Ahead(name, temp_c, *(start + timedelta(minutes=m) for m in minutes))
        for name, temp_c in wanted
        if temp_c < readings[-1][1] and (minutes := told.minutes_to(temp_c)) is not None
    ]
    return _picture(told, cooling, wanted, scent, bench, start, now, ahead), ahead


def _merged(scent_c: float | None, pour_c: float | None) -> list[tuple[str, float]]:
    """Return the relevant temperatures with their names; equal ones are merged."""
    if scent_c is not None and pour_c is not None and scent_c - pour_c < SET_NEAR_C:
        return [(gettext("add scent, then pour by"), pour_c)]
    marks = [(gettext("add scent from"), scent_c), (gettext("pour by"), pour_c)]
    return [(name, temp_c) for name, temp_c in marks if temp_c is not None]


def _picture(
    told: Forecast,
    cooling: list[tuple[float, float]],
    wanted: list[tuple[str, float]],
    scent: Step | None,
    bench: Bench,
    start: datetime,
    now: datetime,
    ahead: list[Ahead],
) -> PourClock:
    passed = max((now - start) / timedelta(minutes=1), cooling[-1][0])
    last = max((told.minutes_to(temp_c) or (0.0, 0.0, 0.0))[2] for _, temp_c in wanted) if wanted else 0.0
    horizon = max(LEAST_MINUTES, passed * 1.1, last * 1.15)
    curve = []
    for n in range(POINTS + 1):
        minute = horizon * n / POINTS
        at = float(told.temp_c(minute))
        # The band in time, turned into one in temperature by the slope of the law.
        span = told.minutes_to(at) if n else None
        low, high = at, at
        if span is not None and span[0] > 0:
            low = float(told.temp_c(minute * span[2] / span[0]))
            high = float(told.temp_c(minute * span[1] / span[0]))
        curve.append((minute, at, min(low, high), max(low, high)))
    unit = bench.temperature_unit
    words = [
        said(
            "{name} {temp_c} about {hour}",
            name=a.name,
            temp_c=temp(round(a.temp_c), unit),
            hour=_hour(a.at),
        )
        for a in ahead
    ]
    ticks = [(m, _hour(start + timedelta(minutes=m))) for m in (0.0, horizon / 2, horizon)]
    window = (scent.low_c, scent.high_c) if scent and scent.low_c and scent.high_c else None
    return pour_clock(
        cooling,
        curve,
        window=window if window and window[0] < window[1] else None,
        marks=[(temp_c, f"{name} {temp(round(temp_c), unit)}") for name, temp_c in wanted],
        lowest_c=bench.room_c,
        highest_c=max(t for _, t in cooling) + 5.0,
        horizon=horizon,
        now=passed,
        summary="; ".join(words) or gettext("the pot as it cools"),
        clock=ticks,
    )


def _hour(at: datetime) -> str:
    return f"{timezone.localtime(at):%H:%M}"
