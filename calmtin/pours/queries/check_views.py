"""The checks of a pour beside its predictions."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from typing import cast

import numpy as np

from calmtin.core.engine.firmness import rung_at
from calmtin.core.engine.ladder import rung_word, to_rungs
from calmtin.core.materials import Material, Shelf
from calmtin.core.process.checks import in_words
from calmtin.pictures.ladder import Verdict
from calmtin.pours.adapters import (
    actual_parts,
    age_days,
    overrun_of,
    planned_parts,
)
from calmtin.pours.models import (
    Check,
    Pour,
)


@dataclass(frozen=True)
class CheckView:
    """A check with the planned and actual predictions at its temperature."""

    check: Check
    planned_rung: float | None
    actual_rung: float | None
    felt_words: str
    after: timedelta
    pressed_rung: float | None
    pressed_words: str
    signs: list[tuple[str, str, bool]]

    @property
    def off(self) -> float | None:
        """Rungs by which the felt result lies above the prediction."""
        if self.check.felt_rung is None or self.actual_rung is None:
            return None
        return float(self.check.felt_rung) - self.actual_rung


def check_views(pour: Pour, shelf: Shelf) -> list[CheckView]:
    """Return a pour's results, oldest first, each beside its predictions."""
    checks = [check for check in pour.checks.all() if not check.set_test]
    if not checks:
        return []
    planned, overrun = planned_parts(pour, shelf), overrun_of(pour)

    def rung_of(parts: list[tuple[Material, float]], check: Check) -> float | None:
        return rung_at(parts, check.temp_c, overrun=overrun, age_days=age_days(pour, check))

    return [
        CheckView(
            check=check,
            planned_rung=rung_of(planned, check),
            # What was added since does not count: it was not in what was felt.
            actual_rung=rung_of(actual_parts(pour, shelf, at=check.made_at), check),
            felt_words=rung_word(float(check.felt_rung)) if check.felt_rung is not None else "",
            after=check.made_at - (pour.poured_at or pour.started_at),
            pressed_rung=(pressed := pressed_rung(check)),
            pressed_words="" if pressed is None else rung_word(pressed),
            signs=in_words(check.signs),
        )
        for check in checks
    ]


def pressed_rung(check: Check) -> float | None:
    """Return the rung of a check's press test, as the rod's grams say; None without one."""
    return None if check.pressed is None else float(to_rungs(np.array(check.pressed)))


def verdict_of(pour: Pour) -> Verdict:
    """Return the newest verdict on a pour, or nothing."""
    newest = next((check.verdict for check in reversed(list(pour.checks.all())) if check.verdict), "")
    return cast(Verdict, newest)
