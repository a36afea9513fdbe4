"""Checks as observations to learn from."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db.models import QuerySet
from django.utils.translation import gettext

from calmtin.core.cached import cached_property
from calmtin.core.engine.learning import Observation
from calmtin.core.materials import Material, Shelf
from calmtin.core.process.fill import overrun_of_jar
from calmtin.core.process.moments import Moment
from calmtin.pantry.models import Lot
from calmtin.pours.adapters import IN_THE_POT, actual_parts, age_days, dry_parts, lots_of_pours, overrun_of
from calmtin.pours.models import (
    Check,
    Pour,
)


@dataclass(frozen=True)
class Seen:
    """A check as something to learn from; `left_out` is why it does not count."""

    check: Check
    observation: Observation
    left_out: str

    @cached_property
    def holds(self) -> frozenset[Material]:
        """The materials that were in it."""
        return frozenset(material for material, grams in self.observation.parts if grams > 0.0)


def pours_that_teach(user: Any) -> QuerySet[Any]:
    """Return a maker's pours whose composition is known.

    One that is on the scale, was cancelled, or is only rehearsed teaches nothing.
    """
    return Pour.objects.of(user).filter(called_off_at=None, poured_at__isnull=False)


def seen_on(user: Any, shelf: Shelf) -> list[Seen]:
    """Return all that was felt and pressed on a maker's real pours, oldest first."""
    return in_order(seen_of(pours_that_teach(user), shelf).values())


def in_order(seen: Iterable[Sequence[Seen]]) -> list[Seen]:
    """Return the checks of several pours as one log, oldest first."""
    return sorted((one for of in seen for one in of), key=lambda one: (one.check.made_at, one.check.pk))


def seen_of(pours: QuerySet[Any], shelf: Shelf) -> dict[int, list[Seen]]:
    """Return the thumb and press tests of pours, by pour."""
    found = list(
        pours.select_related("version__formula").prefetch_related(
            *IN_THE_POT, "checks__left_out", "version__lines"
        )
    )
    lots = lots_of_pours(found)
    return {pour.pk: _seen_of_one(pour, shelf, lots.get(pour.pk, {})) for pour in found}


def _seen_of_one(pour: Pour, shelf: Shelf, lots: Mapping[str, Lot]) -> list[Seen]:
    overrun = overrun_of(pour)
    of_lots = {slug: str(lot.pk) for slug, lot in lots.items()}
    is_one_pot = not pour.additions.all()
    always = dry_parts(pour, shelf) if is_one_pot else []
    found = []
    for check in pour.checks.all():
        felt = None if check.felt_rung is None else float(check.felt_rung)
        for thumb, press in ((felt, None), (None, check.pressed)):
            if thumb is None and press is None:
                continue
            seen = Observation(
                parts=always if is_one_pot else dry_parts(pour, shelf, at=check.made_at),
                at_c=check.temp_c,
                felt=thumb,
                pressed=press,
                overrun=0.0 if check.set_test else overrun,
                age_days=age_days(pour, check),
                careless=pour.version.cooling == "slow_bench",
                lots=of_lots,
            )
            found.append(Seen(check, seen, check.why_left_out or _why_it_tells_nothing(check)))
    return found


def _why_it_tells_nothing(check: Check) -> str:
    if Moment(check.moment).is_unset:
        return gettext("it had not set yet")
    return gettext("its temperature was not measured") if check.is_temp_guessed else ""


def jar_overrun_pct(pour: Pour, shelf: Shelf, jar_ml: Decimal, net_g: Decimal) -> int:
    """Return the gain in volume, %, from one jar of known volume: unwhipped density times ml over grams.

    Raises `CalmTinError` for a jar that holds more than fits.
    """
    overrun = overrun_of_jar(actual_parts(pour, shelf), float(jar_ml), float(net_g))
    return round(100 * overrun)
