"""Totals, colours and amounts that do not work as they stand."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from calmtin.core.cautions.case import Case, Caution
from calmtin.core.messages import Message, gettext_noop, said
from calmtin.core.process.weighing import too_small
from calmtin.core.quantities import Mass

SPECKLED = ("beetroot_powder", "turmeric_powder")


def total_rule(case: Case) -> Iterator[Caution]:
    """Stop where the lines do not make 100 %."""
    total = sum(percent for _, percent in case.lines)
    if abs(total - 100.0) > 0.01:
        yield Caution(
            "stop",
            "total",
            "",
            Message("The lines add up to {total:.1f} %", total=total),
            said("Weights and firmness aren’t reliable until the lines add up to 100 %."),
            said("Let one line make up the rest."),
            said("Percent of the whole."),
        )


def colour_rule(case: Case) -> Iterator[Caution]:
    """Name colours that give specks."""
    for material, percent in case.lines:
        if material.slug in SPECKLED and percent > 0.0:
            yield Caution(
                "think",
                "colour",
                material.slug,
                said("{label} gives specks instead of colour", label=material.label),
                material.notes,
                said("Use mica, an oxide or fine cocoa powder, which disperse in oil."),
                said("Its pigment does not dissolve in oil."),
            )


_DRY = {
    "dried_petals": (
        gettext_noop("Petals brown and hold damp"),
        gettext_noop(
            "Dry them until they snap. Sprinkle a few on the surface as it sets, or infuse them in oil "
            "and strain."
        ),
    ),
    "honey_powder": (
        gettext_noop("Honey powder stays gritty"),
        gettext_noop(
            "Stir it in as the balm thickens and use it up soon, or leave it out; yellow beeswax smells "
            "of honey."
        ),
    ),
}


def dry_rule(case: Case) -> Iterator[Caution]:
    """Name dry things that do not become one with the oil."""
    for material, percent in case.lines:
        if material.slug in _DRY and percent > 0.0:
            title, instead = _DRY[material.slug]
            rule = said("It doesn’t dissolve in oil and brings in any moisture it holds.")
            yield Caution("think", "dry", material.slug, title, material.notes, instead, rule)


def too_small_rule(case: Case) -> Iterator[Caution]:
    """Name parts that the scale cannot weigh."""
    small = [
        m.in_words
        for m, p in case.lines
        if too_small(case.batch_g * Decimal(repr(round(p, 6))) / 100, case.scale_step_g)
    ]
    if small:
        yield Caution(
            "note",
            "too_small",
            "",
            said("Too little for your scale: {small}", small=", ".join(small)),
            Message(
                "In {batch}, one step of your scale ({step}) is more than a tenth of its weight.",
                batch=Mass(case.batch_g),
                step=Mass(case.scale_step_g),
            ),
            said("Make a larger batch, or use a finer scale."),
            said("One step of the scale is a tenth of the ingredient."),
        )
