"""Cautions about shelf life, melting and grain."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from calmtin.core.cautions.case import Case, Caution
from calmtin.core.engine.pure_material import alone_crystal_pct
from calmtin.core.messages import Message, joined, said
from calmtin.core.quantities import Percent, Temperature

FRAGILE_MONTHS = 6.0

ANTIOXIDANTS = ("tocopherols_50", "tocopherols_95", "rosemary_extract")


def rancid_rule(case: Case) -> Iterator[Caution]:
    """Name fragile oils that nothing guards."""
    fragile = [
        (m, p)
        for m, p in case.lines
        if m.layer in ("oil", "soft_fat")
        and m.shelf_life_opened_months is not None
        and m.shelf_life_opened_months <= FRAGILE_MONTHS
    ]
    share = sum(percent for _, percent in fragile)
    guarded = any(m.slug in ANTIOXIDANTS and p > 0.0 for m, p in case.lines)
    if share >= 10.0 and not guarded:
        names = ", ".join(m.in_words for m, _ in fragile)
        yield Caution(
            "think",
            "rancid",
            "",
            Message("{share:.0f} % oils that go rancid fast, and no antioxidant", share=share),
            said("Once opened, {names} goes rancid within half a year.", names=names),
            Message(
                "Add {share} tocopherols, or swap it for a more stable oil. Vitamin E acetate "
                "doesn’t count.",
                share=Percent(0.5),
            ),
            said("Opened shelf life of 6 months or less, at 10 % or more."),
        )


def summer_rule(case: Case) -> Iterator[Caution]:
    """Name soft fats that have melted on the hot day."""
    if case.kind.hold_c is None:
        return
    at = np.array([case.kind.hold_c])
    for material, percent in case.lines:
        if (
            material.layer == "soft_fat"
            and percent >= 5.0
            and float(alone_crystal_pct(material, at)[0]) < 1.0
        ):
            yield Caution(
                "note",
                "summer",
                material.slug,
                Message(
                    "{name} adds no firmness at {hot}",
                    name=material.label,
                    hot=Temperature(case.kind.hold_c),
                ),
                said("It has melted at that temperature; only the wax and butters hold the shape."),
                said("This is fine as long as firmness on a hot day is high enough."),
                said("From its own melting curve."),
            )


def grain_rule(case: Case) -> Iterator[Caution]:
    """Say where it is likely to go grainy."""
    if case.grain and case.grain.level == "high":
        yield Caution(
            "think",
            "grain",
            "",
            said("Likely to go grainy"),
            Message("Reasons: {reasons}.", reasons=joined(case.grain.raises, "; ")),
            case.grain.advice,
            said("A rule of thumb among makers, not a measurement."),
        )
