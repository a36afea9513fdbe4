"""From grams on paper to grams on a real scale."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import ROUND_FLOOR, ROUND_HALF_UP, ROUND_UP, Decimal
from typing import Literal, get_args

from calmtin.core.errors import DoesNotFit
from calmtin.core.materials import Material
from calmtin.core.messages import Message, gettext_noop, said
from calmtin.core.process.tincture import TINCTURE
from calmtin.core.quantities import Mass

# What a typed weight is: what the scale shows now, what was added to what is in, or what is in really.
Mode = Literal["shows", "add", "correct"]
MODES: tuple[Mode, ...] = get_args(Mode)

# How a sheet is weighed.
Weighing = Literal["pot", "run", "cups"]
WEIGHING_NAMES: dict[Weighing, str] = {
    "pot": gettext_noop("in one pot, tared between"),
    "run": gettext_noop("in one pot, scale runs on"),
    "cups": gettext_noop("each in its own cup"),
}

# Where a material is weighed: into the pot before all others, into the pot, or into a cup of its own,
# because it goes in later.
Place = Literal["first", "pot", "cup"]
PLACES: tuple[Place, ...] = get_args(Place)
IN_A_CUP = {
    "scent": gettext_noop("It goes in last, once the pot has cooled."),
    "antioxidant": gettext_noop("It goes in off the heat."),
    "other": gettext_noop("It goes in off the heat."),
    "water_bearing": gettext_noop("It goes in off the heat."),
    "powder": gettext_noop("It’s sieved in once the melt is clear, or while you whip."),
    "colour": gettext_noop("It’s stirred in once the melt is clear, or while you whip."),
}

MELTS_IN = ("wax", "butter", "soft_fat", "oil")  # the order in which the groups go into the pot
LATE_IN = ("powder", "colour", "oil", "antioxidant", "other", "water_bearing", "scent")  # and off the heat

# A part is too small for the scale when one step of it changes the part by more than this.
COARSEST_STEP = Decimal("0.10")


def whole_steps(grams: Decimal, resolution: Decimal) -> Decimal:
    """Return `grams` raised to the next step of the scale, so that nothing runs short.

    >>> whole_steps(Decimal("120.04"), Decimal("0.1"))
    Decimal('120.1')
    """
    return (grams / resolution).to_integral_value(ROUND_UP) * resolution


def nearest_step(grams: Decimal, resolution: Decimal) -> Decimal:
    """Return `grams` at the nearest step of the scale; a half goes up.

    >>> nearest_step(Decimal("0.25"), Decimal("0.1"))
    Decimal('0.3')
    """
    return (grams / resolution).to_integral_value(ROUND_HALF_UP) * resolution


def _check_step(resolution: Decimal) -> None:
    if resolution <= 0:
        raise DoesNotFit(said("The step of the scale must be more than 0."), field="resolution")


def _not_in_steps(resolution: Decimal) -> DoesNotFit:
    return DoesNotFit(
        Message("The batch must be a multiple of {step}, the step of your scale.", step=Mass(resolution)),
        field="batch",
        limit=float(resolution),
        unit="g",
    )


def share_out(grams: Sequence[Decimal], resolution: Decimal) -> list[Decimal]:
    """Return `grams` as whole steps of the scale whose sum is exactly their total.

    Largest remainders: every line is rounded down, then the steps that are left
    go to the lines that lost most; equal losses go to the larger line. No line
    moves by a whole step. The total itself must be a whole number of steps.

    >>> [str(g) for g in share_out([Decimal("3.34"), Decimal("3.33"), Decimal("3.33")], Decimal("0.1"))]
    ['3.4', '3.3', '3.3']
    """
    _check_step(resolution)
    steps = [g / resolution for g in grams]
    floors = [s.to_integral_value(ROUND_FLOOR) for s in steps]
    spare = sum(steps, Decimal(0)) - sum(floors, Decimal(0))
    left = int(spare.to_integral_value())
    if abs(spare - left) > Decimal("1e-9"):
        raise _not_in_steps(resolution)
    by_loss = sorted(range(len(steps)), key=lambda i: (floors[i] - steps[i], -steps[i]))
    for i in by_loss[:left]:
        floors[i] += 1
    return [floor * resolution for floor in floors]


def weigh_sheet(percents: Sequence[Decimal], batch_g: Decimal, resolution: Decimal) -> list[Decimal]:
    """Return each line's grams in whole steps of the scale, summing to exactly the batch.

    Every line is rounded to its nearest step; what that leaves over or lacks goes to the
    largest lines, a step each, where nobody notices it, and never to a small one.

    >>> percents = [Decimal("66.7"), Decimal("33.1"), Decimal("0.2")]
    >>> [str(g) for g in weigh_sheet(percents, Decimal(25), Decimal("0.1"))]
    ['16.6', '8.3', '0.1']
    """
    _check_step(resolution)
    exact = [batch_g * percent / 100 / resolution for percent in percents]
    steps = [value.to_integral_value(ROUND_HALF_UP) for value in exact]
    spare = (batch_g / resolution - sum(steps, Decimal(0))).to_integral_value()
    if sum(steps, Decimal(0)) + spare != batch_g / resolution:
        raise _not_in_steps(resolution)
    largest = sorted(range(len(exact)), key=lambda i: -exact[i])
    for n in range(abs(int(spare))):
        steps[largest[n % len(largest)]] += 1 if spare > 0 else -1
    return [step * resolution for step in steps]


def too_small(grams: Decimal, resolution: Decimal) -> bool:
    """Return whether one step of the scale is more than a tenth of this part."""
    return 0 < grams < resolution / COARSEST_STEP


def line_after(mode: Mode, typed_g: Decimal, *, line_g: Decimal, before_g: Decimal = Decimal(0)) -> Decimal:
    """Return what a line of the weigh sheet comes to, g, once `typed_g` is saved in a mode.

    `line_g` is in of it already. `before_g` is what the scale showed before any of this line went in:
    nothing where it is tared between, all that else is in the pot where it runs on. Raises `DoesNotFit`
    for a running total below that.

    >>> line_after("add", Decimal(16), line_g=Decimal(20))
    Decimal('36')
    >>> line_after("shows", Decimal("63.4"), line_g=Decimal(0), before_g=Decimal("48.1"))
    Decimal('15.3')
    >>> line_after("correct", Decimal(30), line_g=Decimal(36))
    Decimal('30')
    """
    if mode == "add":
        return line_g + typed_g
    if mode == "correct":
        return typed_g
    if typed_g < before_g:
        raise DoesNotFit(
            Message(
                "{typed} is less than the {before} that the scale showed before this ingredient. Type what "
                "the scale shows now, or choose Add.",
                typed=Mass(typed_g),
                before=Mass(before_g),
            ),
            field="grams",
            limit=float(before_g),
            unit="g",
        )
    return typed_g - before_g


def stays_cool(material: Material, pour_c: float | None) -> bool:
    """Return whether an oil likes to stay below `pour_c`, C, the lowest at which its pot is poured."""
    limit_c = material.max_heat_c
    return material.group == "oil" and limit_c is not None and pour_c is not None and limit_c < pour_c


def place_of(material: Material, *, pour_c: float | None) -> Place:
    """Return where a material is weighed, by when the run sheet wants it.

    A tincture is warmed in the oil before any wax; what is sensitive to heat, scents and powders go in
    once the rest has melted, and so does an oil that should stay below `pour_c`, C.
    """
    if material.slug == TINCTURE:
        return "first"
    return "cup" if material.group in IN_A_CUP or stays_cool(material, pour_c) else "pot"


def weighing_order(
    material: Material, *, pour_c: float | None, with_tincture: bool = False
) -> tuple[int, int]:
    """Return what sorts the lines of a weigh sheet: by where they go, and there by when they go in.

    A tincture leaves its water in the oil, which then comes before the wax.

    >>> from calmtin.core.data.loader import library
    >>> materials = [library()[slug] for slug in ("lavender", "olive_oil", "beeswax_yellow")]
    >>> [m.slug for m in sorted(materials, key=lambda m: weighing_order(m, pour_c=60.0))]
    ['beeswax_yellow', 'olive_oil', 'lavender']
    """
    place = place_of(material, pour_c=pour_c)
    if with_tincture and place == "pot" and material.group == "oil":
        place = "first"
    in_turn: tuple[str, ...] = LATE_IN if place == "cup" else MELTS_IN
    return PLACES.index(place), in_turn.index(material.group) if material.group in in_turn else -1


def when_in_words(material: Material, *, pour_c: float | None) -> str:
    """Return when what is weighed into a cup of its own goes in; empty for what goes into the pot."""
    if place_of(material, pour_c=pour_c) != "cup":
        return ""
    return said(IN_A_CUP.get(material.group, IN_A_CUP["other"]))
