"""From grams on paper to grams on a real scale."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import ROUND_FLOOR, ROUND_HALF_UP, ROUND_UP, Decimal

from calmtin.core.errors import DoesNotFit
from calmtin.core.messages import Message, said
from calmtin.core.quantities import Mass

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
