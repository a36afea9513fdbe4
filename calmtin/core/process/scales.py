"""Which line goes on which scale, and what to do with a line that is too little for any."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.errors import DoesNotFit
from calmtin.core.messages import said
from calmtin.core.process.weighing import COARSEST_STEP, nearest_step, share_out, whole_steps

DILUTIONS = (Decimal("0.10"), Decimal("0.01"))  # shares of the stuff in oil, the stronger first


@dataclass(frozen=True, slots=True)
class Scale:
    """A scale, in g: its step, its maximum, and the smallest weight it measures reliably.

    Without a `least_g` that is ten steps: one step is then a tenth of the part.
    """

    name: str
    step_g: Decimal
    capacity_g: Decimal | None = None
    least_g: Decimal | None = None

    @property
    def least(self) -> Decimal:
        """The least that it weighs dependably, g."""
        return self.step_g / COARSEST_STEP if self.least_g is None else self.least_g

    def takes(self, grams: Decimal) -> bool:
        """Return whether a part of this weight can be measured well on it."""
        return self.least <= grams and (self.capacity_g is None or grams <= self.capacity_g)


@dataclass(frozen=True, slots=True)
class Weighing:
    """A line on its scale: grams in its steps, and whether it is too little for any."""

    grams: Decimal
    exact_g: Decimal
    scale: Scale
    is_small: bool

    @property
    def error_pct(self) -> float:
        """What rounding changes, in percent of the line."""
        return float(100 * (self.grams - self.exact_g) / self.exact_g) if self.exact_g else 0.0

    @property
    def step_pct(self) -> float:
        """One step of the scale, in percent of the line."""
        return float(100 * self.scale.step_g / self.exact_g) if self.exact_g else 0.0

    @property
    def is_rounded(self) -> bool:
        """Whether rounding changes it noticeably, by a tenth of a percent or more."""
        return abs(self.error_pct) >= 0.05


def scale_for(grams: Decimal, scales: Sequence[Scale]) -> tuple[Scale, bool]:
    """Return the scale to weigh a part on, the first that does it well, and whether none does.

    Where none does, the finest that can carry it is taken. Raises `DoesNotFit` without a scale.
    """
    if not scales:
        raise DoesNotFit(said("Add a scale in Settings first."), field="scale")
    for scale in scales:
        if scale.takes(grams):
            return scale, False
    carrying = [s for s in scales if s.capacity_g is None or grams <= s.capacity_g]
    return min(carrying or scales, key=lambda s: s.step_g), True


def weigh_on(
    percents: Sequence[Decimal], batch_g: Decimal, scales: Sequence[Scale]
) -> tuple[list[Weighing], Decimal]:
    """Return each line on its scale and the batch, g: to the step exactly their sum.

    `scales` are in order of preference, the first for all it does well. Lines on finer scales
    are rounded by themselves; those on the first share what is left of the batch to the step,
    which raises it by less than one. Raises `DoesNotFit`.

    >>> scales = [Scale("kitchen", Decimal("0.1")), Scale("fine", Decimal("0.01"), Decimal(50))]
    >>> rows, batch = weigh_on([Decimal("99.5"), Decimal("0.5")], Decimal(100), scales)
    >>> [(str(r.grams), r.scale.name) for r in rows], str(batch)
    ([('99.5', 'kitchen'), ('0.5', 'fine')], '100.0')
    """
    exact = [batch_g * percent / 100 for percent in percents]
    chosen = [scale_for(grams, scales) for grams in exact]
    main = max((scale for scale, _ in chosen), key=lambda s: s.step_g)
    grams = [nearest_step(g, scale.step_g) for g, (scale, _) in zip(exact, chosen, strict=True)]
    on_main = [i for i, (scale, _) in enumerate(chosen) if scale.step_g == main.step_g]
    others = sum((g for i, g in enumerate(grams) if i not in on_main), Decimal(0))
    room = whole_steps(max(batch_g - others, Decimal(0)), main.step_g)
    wanted = sum((exact[i] for i in on_main), Decimal(0))
    if wanted > 0:
        shares = share_out([exact[i] * room / wanted for i in on_main], main.step_g)
        for i, share in zip(on_main, shares, strict=True):
            grams[i] = share
    rows = [
        Weighing(g, e, scale, is_small and e > 0)
        for g, e, (scale, is_small) in zip(grams, exact, chosen, strict=True)
    ]
    return rows, sum(grams, Decimal(0))


@dataclass(frozen=True, slots=True)
class Dilution:
    """A part pre-mixed into the formula's own oil: `take_g` of it holds what the line asks for.

    `stuff_g` and `oil_g` make it up, all of it weighable; `share` is how much of it is the stuff.
    """

    share: Decimal
    take_g: Decimal
    less_oil_g: Decimal
    stuff_g: Decimal
    oil_g: Decimal


def dilution_for(grams: Decimal, oil_g: Decimal, scales: Sequence[Scale]) -> Dilution | None:
    """Return the strongest usual dilution by which a small part can be weighed on the main scale.

    10 % in oil, else 1 %; made up in the least amount whose stuff weighs well. None where the
    formula has not so much oil.

    >>> d = dilution_for(Decimal("0.4"), Decimal(55), [Scale("kitchen", Decimal("0.1"))])
    >>> str(d.share), str(d.take_g), str(d.stuff_g), str(d.oil_g)
    ('0.10', '4', '1', '9')
    """
    main = scales[0]
    for share in DILUTIONS:
        take = nearest_step(grams / share, main.step_g)
        less_oil = take - grams
        if not main.takes(take) or less_oil > oil_g:
            continue
        stuff = whole_steps(max(main.least, take * share), main.step_g)
        return Dilution(share, take, less_oil, stuff, stuff / share - stuff)
    return None


def smallest_batch_g(grams: Decimal, batch_g: Decimal, scales: Sequence[Scale]) -> Decimal:
    """Return the smallest batch, g, in which a part of `grams` weighs well on one of the scales.

    >>> str(smallest_batch_g(Decimal("0.4"), Decimal(250), [Scale("kitchen", Decimal("0.1"))]))
    '625'
    """
    least = min(scale.least for scale in scales)
    return whole_steps(batch_g * least / grams, scales[0].step_g)
