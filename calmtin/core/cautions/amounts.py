"""Totals, colours and amounts that do not work as they stand."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from calmtin.core.cautions.case import Case, Caution
from calmtin.core.messages import Message, gettext_noop, said
from calmtin.core.process.weighing import too_small
from calmtin.core.quantities import Mass, Percent

TOO_MUCH = 1.5  # times the top of the usual range
CLINGS, LEAST_CLING_PCT = ("castor_oil", "lanolin"), 30.0
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


_FAR_TOO_MUCH = {
    "antioxidant": gettext_noop(
        "A little slows rancidity; much more makes the balm sticky, and can even hasten it instead."
    ),
    "powder": gettext_noop("So much powder drags, and crumbles as it dries."),
    "colour": gettext_noop("So much colour comes off on skin and cloth."),
    "other": gettext_noop("Its supplier’s rate is for good reason: more of it irritates."),
}


def too_much_rule(case: Case) -> Iterator[Caution]:
    """Name finishing materials far above their usual share."""
    for material, percent in case.lines:
        low, high = material.typical_low_pct, material.typical_high_pct
        if high is None or material.group not in _FAR_TOO_MUCH or percent <= TOO_MUCH * high:
            continue
        yield Caution(
            "think",
            "too_much",
            material.slug,
            Message(
                "{percent} of {name} is far more than usual",
                percent=Percent(percent),
                name=material.in_words,
            ),
            said(_FAR_TOO_MUCH[material.group]),
            Message("Use {low} to {high}.", low=Percent(low or 0.0), high=Percent(high)),
            said("The usual share in the table of materials, from practice, and half as much again."),
        )


def slippery_gloss_rule(case: Case) -> Iterator[Caution]:
    """Say of a gloss with little that clings that it slips and never dries."""
    if case.kind.slug != "gloss":
        return
    clings = sum(percent for material, percent in case.lines if material.slug in CLINGS)
    if clings < LEAST_CLING_PCT:
        yield Caution(
            "note",
            "slips",
            "",
            said("This gloss slips and never dries"),
            said("Oils with a little wax stay wet on the lips, run into the corners and are gone soon."),
            Message(
                "Make {least} of it or more castor oil or lanolin, which cling.",
                least=Percent(LEAST_CLING_PCT),
            ),
            said("A rule of the craft: thick, sticky liquids hold a gloss on the lip."),
        )


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
