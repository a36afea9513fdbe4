"""Drops tested before pouring, beside what was predicted for them."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils.translation import gettext, gettext_noop

from calmtin.core.engine.firmness import rung_at
from calmtin.core.engine.ladder import rung_word
from calmtin.core.materials import Shelf
from calmtin.core.messages import said
from calmtin.pours.adapters import (
    actual_parts,
    overrun_of,
)
from calmtin.pours.models import Check, Pour

THUMB_OFF = 0.8  # rungs by which a thumb may be off


@dataclass(frozen=True)
class SetTest:
    """A drop tested before pouring: felt firmness, and the prediction there."""

    check: Check
    words: str
    rung: float | None
    told: str


def set_tests_of(pour: Pour, shelf: Shelf) -> list[SetTest]:
    """Return the set tests, each compared with the prediction."""
    tried = [check for check in pour.checks.all() if check.set_test and check.felt_rung is not None]
    if not tried:
        return []
    overrun = overrun_of(pour)
    found = []
    for check in tried:
        rung = rung_at(actual_parts(pour, shelf, at=check.made_at), check.temp_c, overrun=overrun)
        off = None if rung is None else float(check.felt_rung or 0) - rung
        told = gettext("As predicted.")
        if off is not None and abs(off) > THUMB_OFF:
            told = said(
                gettext_noop("{off:.1f} firmer than predicted there.")
                if off > 0
                else gettext_noop("{off:.1f} softer than predicted there."),
                off=abs(off),
            )
        found.append(SetTest(check, rung_word(float(check.felt_rung or 0)), rung, told))
    return found
