"""What was seen of a pour, and which check comes next."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Any

from django.utils import timezone

from calmtin.core.materials import Material, Shelf
from calmtin.core.process.checks import Schedule, looks_of, new_to
from calmtin.pours.adapters import IN_THE_POT, actual_parts
from calmtin.pours.models import Check, Pour

WARM_C = 30.0  # from which a thumb test counts as one at skin warmth
TRIED_BEFORE = 400  # pours that are read to say what is new to a person


@dataclass(frozen=True)
class Poured:
    """The part of a poured pour that its due checks depend on; many are read to show a few.

    `seen` are its checks: look, when, whether it was a set test, verdict, felt rung, at C.
    """

    pk: int
    formula: int
    poured_at: datetime
    use_by: date | None
    is_whipped: bool
    seen: tuple[tuple[str, datetime, str, str, Any, float], ...]

    @property
    def schedule(self) -> Schedule:
        """Its looks, and those that were taken."""
        ends = timezone.make_aware(datetime.combine(self.use_by, time(12))) if self.use_by else None
        looks = looks_of(self.poured_at, is_whipped=self.is_whipped, end_of_life=ends)
        return Schedule(tuple(looks), tuple((look, at) for look, at, test, *_ in self.seen if not test))

    @property
    def is_dropped(self) -> bool:
        """Whether its newest verdict was to drop it."""
        return next((verdict for *_, verdict, _, _ in reversed(self.seen) if verdict), "") == "drop"

    @property
    def was_felt_warm(self) -> bool:
        """Whether a thumb tried it at skin warmth."""
        return any(felt is not None and temp_c >= WARM_C for *_, felt, temp_c in self.seen)


SEEN = ("look", "made_at", "set_test", "verdict", "felt_rung", "temp_c")
OF_A_POUR = ("pk", "version__formula_id", "poured_at", "use_by", "version__overrun_pct")


def poured_of(pour: Pour) -> Poured:
    """Return that part of a pour whose checks are prefetched."""
    assert pour.poured_at is not None
    checks = tuple(tuple(getattr(check, name) for name in SEEN) for check in pour.checks.all())
    is_whipped = bool(pour.version.overrun_pct)
    return Poured(pour.pk, pour.version.formula_id, pour.poured_at, pour.use_by, is_whipped, checks)


def flare_ups(user: Any, pour: Pour, shelf: Shelf) -> list[tuple[Check, list[Material]]]:
    """Return the checks with a flare-up, each with the ingredients new to that person."""
    told = [check for check in pour.checks.all() if check.irritated]
    return [(check, _new_to(user, pour, check.who, shelf)) for check in told]


def _new_to(user: Any, pour: Pour, who: str, shelf: Shelf) -> list[Material]:
    """Return what in a pour a person has not used before without a flare-up, scents first."""
    known = (
        Check.objects.of(user)
        .filter(who=who, pour__called_off_at=None, signs__flare_up=0)
        .exclude(pour=pour)
        .order_by("-pk")
        .values("pour")[:TRIED_BEFORE]
    )
    well: set[str] = set()
    for other in Pour.objects.of(user).filter(pk__in=known).prefetch_related(*IN_THE_POT):
        well |= {material.slug for material, grams in actual_parts(other, shelf) if grams > 0}
    mine = [material for material, grams in actual_parts(pour, shelf) if grams > 0]
    return new_to(mine, well)
