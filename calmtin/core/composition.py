"""A formula in numbers: materials with their percentages, held at exactly 100 by one of them.

The only writer of a dose. Percentages are Decimals, exact to a thousandth; a
`Composition` never changes, each step returns another one.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from calmtin.core.errors import DoesNotAddUp
from calmtin.core.materials import GROUPS, Material
from calmtin.core.measured import Measured
from calmtin.core.messages import Message, gettext_noop, said
from calmtin.core.process.weighing import share_out, weigh_sheet

WHOLE = Decimal("100.000")
THOUSANDTH = Decimal("0.001")
CENT_G = Decimal("0.005")  # no scale of a kitchen tells two weights apart that differ by less
MOST_LINES = 40
MOST_ON_TOP = 30  # percent of the base
# What is on top keeps its percent of the base as long as rounding alone moves it.
ROUNDING = Decimal("0.0006")
LOCKED = gettext_noop("This line is locked. Unlock it first.")


@dataclass(frozen=True, slots=True)
class Part:
    """A material with its dose, percent of the total.

    `on_top_pct` is its percent of the base beneath, for a part that goes on top of it;
    `alcohol_pct` a tincture's strength, % by volume, `alcohol_typed` as it was written;
    `measured` says how its amount was given, where that was a measure.
    """

    key: str
    material: Material
    percent: Decimal
    is_balancing: bool = False
    is_locked: bool = False
    on_top_pct: Decimal | None = None
    alcohol_pct: float | None = None
    alcohol_typed: str = ""
    measured: Measured | None = None

    def grams_in(self, batch_g: Decimal) -> Decimal:
        """Return its weight in a batch, g, not rounded to a scale."""
        return batch_g * self.percent / WHOLE

    def measured_in(self, batch_g: Decimal) -> Measured | None:
        """Return how it was measured, if the measure still matches its weight in this batch."""
        measured = self.measured
        return measured if measured and measured.says(self.grams_in(batch_g)) else None

    @property
    def is_on_top(self) -> bool:
        """Whether it is dosed by the base and goes on top of it."""
        return self.on_top_pct is not None

    @property
    def strength(self) -> tuple[str, bool]:
        """A tincture's strength as its box shows it, and whether that is proof."""
        number, _, unit = self.alcohol_typed.partition(" ")
        if number:
            return number, unit == "proof"
        return f"{50.0 if self.alcohol_pct is None else self.alcohol_pct:g}", False


@dataclass(frozen=True, slots=True)
class Composition:
    """Parts in the order of the tin, bottom layer first; `overrun` is the gain in volume by whipping.

    >>> from calmtin.core.data.loader import library
    >>> wax, oil = library()["beeswax_yellow"], library()["olive_oil"]
    >>> salve = Composition.of([Part("o", oil, WHOLE, is_balancing=True), Part("w", wax, Decimal(0))])
    >>> [(part.material.label, str(part.percent)) for part in salve.given("w", Decimal(18))]
    [('Beeswax, yellow', '18'), ('Olive oil', '82.000')]
    """

    parts: tuple[Part, ...]
    overrun: float = 0.0

    @classmethod
    def of(cls, parts: Sequence[Part], *, overrun: float = 0.0) -> Composition:
        """Return `parts`, within their groups as given, in the order of the tin."""
        return cls(tuple(sorted(parts, key=lambda part: GROUPS.index(part.material.group))), overrun)

    def __iter__(self) -> Iterator[Part]:
        return iter(self.parts)

    def __len__(self) -> int:
        return len(self.parts)

    def __getitem__(self, key: str) -> Part:
        return next(part for part in self.parts if part.key == key)

    @property
    def materials(self) -> list[Material]:
        """The materials, part by part."""
        return [part.material for part in self.parts]

    @property
    def percents(self) -> list[Decimal]:
        """The percentages of the total, part by part."""
        return [part.percent for part in self.parts]

    @property
    def masses(self) -> list[tuple[Material, float]]:
        """Materials and percentages as the engine takes them."""
        return [(part.material, float(part.percent)) for part in self.parts]

    @property
    def total(self) -> Decimal:
        """The sum of the percentages."""
        return sum(self.percents, Decimal(0))

    @property
    def on_top(self) -> list[Part]:
        """The parts that go on top of the base."""
        return [part for part in self.parts if part.is_on_top]

    @property
    def base(self) -> list[Part]:
        """The parts of the base."""
        return [part for part in self.parts if not part.is_on_top]

    def in_batch(self, batch_g: Decimal) -> list[Decimal]:
        """Return each part's grams in a batch, not rounded to any scale."""
        return [part.grams_in(batch_g) for part in self.parts]

    def weighed(self, batch_g: Decimal, step: Decimal) -> list[tuple[Part, Decimal]]:
        """Return what a batch asks to be weighed, g in steps of the scale, without empty parts."""
        parts = [part for part in self.parts if part.percent > 0]
        return list(zip(parts, weigh_sheet([part.percent for part in parts], batch_g, step), strict=True))

    def dosed(self, percents: Mapping[str, Decimal]) -> Composition:
        """Return it with other percentages of the total for the parts with these keys."""
        return self._with(
            [replace(self[key], percent=percent) for key, percent in percents.items()],
        )

    def given(self, key: str, percent: Decimal, *, on_top: bool = False) -> Composition:
        """Return it with one part at `percent`, of all or of the base; what balances takes up the rest.

        On top, the base keeps its proportions and gives way as a whole. Raises
        `DoesNotAddUp` for what is locked or balances, for more than 30 % on top, and where
        there is not enough to give way.
        """
        part = self[key]
        if part.is_balancing:
            raise DoesNotAddUp(
                said(
                    "This line makes up the rest, so its percentage follows from the others. Let another "
                    "line make up the rest first."
                ),
                field="percent",
            )
        if part.is_locked:
            raise DoesNotAddUp(LOCKED, field="percent")
        if on_top and percent > MOST_ON_TOP:
            raise DoesNotAddUp(
                said(
                    "Up to {most_on_top} % can go on top of the base. Put larger amounts into the "
                    "base itself.",
                    most_on_top=MOST_ON_TOP,
                ),
                field="percent",
                limit=float(MOST_ON_TOP),
                unit="%",
            )
        changed = self._with([replace(part, percent=percent, on_top_pct=percent if on_top else None)])
        return (changed.spread() if on_top else changed).balanced()

    def in_pot(
        self, key: str, grams: Decimal, batch_g: Decimal, *, on_top: bool = False
    ) -> tuple[Composition, Decimal]:
        """Return it with one part weighing `grams`, and the batch that makes: the others keep their grams.

        All percentages follow. A pot that was empty weighs what goes in. Raises `DoesNotAddUp`
        for what is locked, for another locked part whose percentage would move, and for more
        than 30 % on top of the base.
        """
        part = self[key]
        if part.is_locked:
            raise DoesNotAddUp(LOCKED, field="percent")
        if on_top == part.is_on_top and abs(part.grams_in(batch_g) - grams) < CENT_G:
            return self, batch_g
        weighed = {other.key: other.grams_in(batch_g) for other in self.parts} | {key: grams}
        total = sum(weighed.values(), Decimal(0))
        if total <= 0:
            raise DoesNotAddUp(said("That would leave nothing in the batch."), field="percent")
        base = total - sum((weighed[p.key] for p in self.on_top if p.key != key), Decimal(0)) - grams
        top = None
        if on_top:
            if grams * WHOLE > MOST_ON_TOP * base:
                raise DoesNotAddUp(
                    said(
                        "Up to {most_on_top} % can go on top of the base. Put larger amounts into "
                        "the base itself.",
                        most_on_top=MOST_ON_TOP,
                    ),
                    field="percent",
                    limit=float(MOST_ON_TOP),
                    unit="%",
                )
            top = (grams * WHOLE / base).quantize(THOUSANDTH)
        scaled = scaled_to([weighed[p.key] for p in self.parts], WHOLE)
        for other, percent in zip(self.parts, scaled, strict=True):
            if other.is_locked and other.percent != percent:
                raise DoesNotAddUp(
                    Message(
                        "{label} is locked at {percent:f} %, and this would make it {percent2:f} %. "
                        "Unlock it, or type this line in percent.",
                        label=other.material.label,
                        percent=other.percent.normalize(),
                        percent2=percent.normalize(),
                    ),
                    field="percent",
                )
        doses = {p.key: percent for p, percent in zip(self.parts, scaled, strict=True)}
        return self._with([replace(part, on_top_pct=top)]).dosed(doses), total

    def traded(self, key: str, other: str, percent: Decimal) -> Composition:
        """Return it with one part at `percent` and `other` taking up the difference; the rest stays.

        Raises `DoesNotAddUp` when the two together are less than that, either is locked, or
        both are the same.
        """
        if key == other:
            raise DoesNotAddUp(said("Choose a different line to trade with."), field="percent")
        part, across = self[key], self[other]
        if part.is_locked or across.is_locked:
            raise DoesNotAddUp(LOCKED, field="percent")
        both = part.percent + across.percent
        if percent > both:
            raise DoesNotAddUp(
                Message(
                    "{label} and {label2} add up to {both:f} %.",
                    label=part.material.label,
                    label2=across.material.label,
                    both=both.normalize(),
                ),
                field="percent",
                limit=float(both),
                unit="%",
            )
        return self.dosed({key: percent, other: both - percent})

    def of_amounts(self, amounts: Mapping[str, Decimal]) -> Composition:
        """Return it with all parts in the proportions of `amounts`, whatever their unit.

        Raises `DoesNotAddUp` where they are nothing, or where a locked part would move.
        """
        if sum(amounts.values(), Decimal(0)) <= 0:
            raise DoesNotAddUp(said("Give at least one line more than 0."), field="amounts")
        percents = scaled_to([amounts[part.key] for part in self.parts], WHOLE)
        for part, percent in zip(self.parts, percents, strict=True):
            if part.is_locked and part.percent != percent:
                raise DoesNotAddUp(
                    Message(
                        "{label} is locked at {percent:f} % and would come to {percent2:f} %. "
                        "Unlock it first.",
                        label=part.material.label,
                        percent=part.percent.normalize(),
                        percent2=percent.normalize(),
                    ),
                    field=part.key,
                )
        return self.dosed({part.key: p for part, p in zip(self.parts, percents, strict=True)})

    def balanced(self) -> Composition:
        """Return it with the balancing part at what the others leave of 100."""
        balancing = next((part for part in self.parts if part.is_balancing), None)
        if balancing is None:
            return self
        others = [part.percent for part in self.parts if part is not balancing]
        left = balancing_percent(others, name=balancing.material.label)
        return self.dosed({balancing.key: left})

    def balanced_by(self, key: str) -> Composition:
        """Return it with another part balancing the total; no percentage changes."""
        if self[key].is_locked:
            raise DoesNotAddUp(LOCKED, field="percent")
        freed = self._with([replace(part, is_balancing=False) for part in self.parts if part.is_balancing])
        return freed._with([replace(freed[key], is_balancing=True, on_top_pct=None)])

    def balanced_by_largest(self) -> Composition:
        """Return it with the largest liquid oil of the base balancing, or else the largest part.

        A locked part does not: raises `DoesNotAddUp` when there is no other.
        """
        free = [part for part in self.base or self.parts if not part.is_locked]
        if not free:
            raise DoesNotAddUp(
                said("No other line can make up the rest. Unlock one first."), field="percent"
            )
        chosen = max(free, key=lambda part: (part.material.layer == "oil", part.percent))
        return self.balanced_by(chosen.key)

    def spread(self) -> Composition:
        """Return it with all that is on top at its percent of the base, the base in its own proportions.

        Locked parts of the base stay to the letter. Raises `DoesNotAddUp` when the locks
        leave no room.
        """
        free = [part for part in self.base if not part.is_locked]
        shares = of_total([part.on_top_pct for part in self.parts if part.on_top_pct is not None])
        locked = sum((part.percent for part in self.base if part.is_locked), Decimal(0))
        left = WHOLE - sum(shares, Decimal(0)) - locked
        if left < 0:
            raise DoesNotAddUp(
                said("Locked lines leave no room for that. Unlock one first."), field="percent"
            )
        doses = {part.key: share for part, share in zip(self.on_top, shares, strict=True)}
        if sum((part.percent for part in free), Decimal(0)) > 0:
            scaled = scaled_to([part.percent for part in free], left)
            doses |= {part.key: percent for part, percent in zip(free, scaled, strict=True)}
        return self.dosed(doses)

    def settled(self) -> Composition:
        """Return the composition with on-top percentages recalculated where the base has changed.

        What has grown past a finishing part is part of the base from then on.
        """
        top = self.on_top
        shares = of_total([part.on_top_pct for part in top if part.on_top_pct is not None])
        if all(abs(part.percent - share) <= ROUNDING for part, share in zip(top, shares, strict=True)):
            return self
        total = sum((part.percent for part in top), Decimal(0))
        said = [
            replace(
                part,
                on_top_pct=of_base(part.percent, total).quantize(THOUSANDTH) if total < WHOLE else WHOLE,
            )
            for part in top
        ]
        grown = [part for part in said if (part.on_top_pct or 0) > MOST_ON_TOP]
        changed = self._with(said)._with([replace(part, on_top_pct=None) for part in grown])
        return changed.settled() if grown else changed

    def _with(self, changed: Sequence[Part]) -> Composition:
        by_key = {part.key: part for part in changed}
        return replace(self, parts=tuple(by_key.get(part.key, part) for part in self.parts))


def balancing_percent(others: Sequence[Decimal], *, name: str) -> Decimal:
    """Return the percentage that the balancing line gets, given the other lines.

    Raises `DoesNotAddUp` when the others already make more than 100.

    >>> balancing_percent([Decimal("22"), Decimal("30.5")], name="olive oil")
    Decimal('47.500')
    """
    left = WHOLE - sum(others, Decimal(0))
    if left < 0:
        raise DoesNotAddUp(
            Message(
                "That makes {made:f} % without {name}, which makes up the rest. Take {left:f} off "
                "this line or another one first.",
                made=(WHOLE - left).normalize(),
                name=name,
                left=-left.normalize(),
            ),
            field="percent",
            limit=float(WHOLE),
            unit="%",
        )
    return left.quantize(WHOLE)


def of_total(on_top: Sequence[Decimal]) -> list[Decimal]:
    """Return the percent of the total of parts that were given in percent of the base.

    100 b / (100 + sum of b), to a thousandth: 3 % on top of a base is 2.913 % of it all.

    >>> of_total([Decimal(3)])
    [Decimal('2.913')]
    """
    whole = WHOLE + sum(on_top, Decimal(0))
    return [(100 * part / whole).quantize(THOUSANDTH) for part in on_top]


def of_base(percent: Decimal, on_top_total: Decimal) -> Decimal:
    """Return what `percent` of the total is in percent of the base beneath all that is on top.

    `on_top_total` is the percent of the total of everything on top of the base.

    >>> of_base(Decimal("2.913"), Decimal("2.913")).quantize(Decimal("0.01"))
    Decimal('3.00')
    """
    return 100 * percent / (WHOLE - on_top_total)


def scaled_to(percents: Sequence[Decimal], total: Decimal) -> list[Decimal]:
    """Return `percents` in the same proportions, to a thousandth, summing to exactly `total`.

    Raises `DoesNotAddUp` when there is nothing to scale.
    """
    was = sum(percents, Decimal(0))
    if was <= 0:
        raise DoesNotAddUp(said("No line can make room. Unlock a line first."))
    return share_out([percent * total / was for percent in percents], THOUSANDTH)
