"""A proposal: what would change, line by line, signed for its draft."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from django.core.signing import BadSignature, Signer
from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.core.composition import Composition
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Layer, Material
from calmtin.core.messages import said
from calmtin.core.process.weighing import share_out
from calmtin.core.solver.equivalents import usual_wax
from calmtin.core.solver.problem import Limits
from calmtin.core.solver.search import Solution
from calmtin.core.solver.space import Space
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.wording import say_reason, say_way_out
from calmtin.formulas.queries.readings import Firmness, Unpredicted, firmness_of

# Powders and finishing parts are dosed for their own sake: the solver leaves them alone.
MOVED: tuple[Layer, ...] = ("wax", "butter", "soft_fat", "oil")

TIDY_STEPS = (Decimal("0.1"), Decimal("0.01"))
TIDY_RUNGS = 0.03  # with what the solver leaves, still within 0.05 of the target


@dataclass(frozen=True)
class ProposedLine:
    """A line before and after; `after` is None for one that goes."""

    key: str
    before: Material
    after: Material | None
    was: Decimal
    now: Decimal

    @property
    def shown(self) -> Material:
        """The material that stands in the line, or stood there if it goes."""
        return self.after or self.before

    @property
    def change(self) -> Decimal:
        """Percentage points that it moves by."""
        return self.now - self.was

    @property
    def is_same(self) -> bool:
        """Whether nothing about it changes."""
        return not self.change and self.before == self.after


@dataclass(frozen=True)
class Proposal:
    """A whole change, applied or refused as one."""

    version: Version
    lines: list[ProposedLine]
    firmness: Firmness | Unpredicted
    solution: Solution | None
    unit: str = "C"

    @property
    def stops(self) -> list[str]:
        """What keeps the target from being met, in the bench's own words."""
        return [say_reason(r, self.unit) for r in self.solution.limits] if self.solution else []

    @property
    def ways_out(self) -> list[str]:
        """What would let it be met."""
        return [say_way_out(way) for way in self.solution.ways_out] if self.solution else []

    @property
    def beyond(self) -> list[str]:
        """The layers that lie outside the kind's usual range: "23 % wax where a gloss usually has 3–10"."""
        kind, found = self.version.formula.kind_facts, []
        for layer, (low, high) in kind.ranges.items():
            lines = [line for line in self.lines if line.after and line.after.layer == layer]
            share = float(sum((line.now for line in lines), Decimal(0)))
            if layer == "wax":
                low, high = usual_wax((low, high), [(line.shown, float(line.now)) for line in lines])
            if lines and not low - 0.05 <= share <= high + 0.05:
                name, short = layer.replace("_", " "), kind.short_name.lower()
                found.append(
                    said(
                        "{share:.0f} % {name} where a {short} usually has {low:.0f}–{high:.0f}",
                        share=share,
                        name=name,
                        short=short,
                        low=low,
                        high=high,
                    )
                )
        return found

    @property
    def is_met(self) -> bool:
        """Whether the solver met the target."""
        return self.solution is not None and self.solution.status == "met"

    @property
    def moved(self) -> Decimal:
        """Percentage points moved in all lines together."""
        return sum((abs(line.change) for line in self.lines), Decimal(0))

    @property
    def changed(self) -> list[ProposedLine]:
        """The lines about which anything changes."""
        return [line for line in self.lines if not line.is_same]

    @property
    def kept(self) -> list[ProposedLine]:
        """The lines that stay to the letter."""
        return [line for line in self.lines if line.is_same]

    @property
    def token(self) -> str:
        """The change in one field of a form, signed for this draft as it is now."""
        lines = [[line.key, line.after.slug if line.after else "", str(line.now)] for line in self.lines]
        return _signer(self.version).sign_object(lines, compress=True)


def read_token(version: Version, text: str) -> list[tuple[str, str, Decimal]]:
    """Return the (key, slug, percent) that a proposal for this very draft says.

    Raises `CalmTinError` for one that was made for another draft, for an earlier
    state of it, or by anybody else.
    """
    try:
        lines = _signer(version).unsign_object(text)
    except BadSignature:
        raise CalmTinError(
            gettext("The formula has changed since this was calculated. Calculate it again."),
            field="percent",
        ) from None
    return [(key, slug, Decimal(percent)) for key, slug, percent in lines]


def _signer(version: Version) -> Signer:
    return Signer(salt=f"calmtin.proposal.{version.pk}.{version.revision}")


Span = tuple[float, float]


def proposal_of(
    version: Version,
    composition: Composition,
    after: list[Material],
    solution: Solution,
    bench: Bench,
    limits: Limits | None = None,
) -> Proposal:
    """Return a solution as a change of the parts of `composition`, their materials then being `after`."""
    percents = tidied(composition, after, solution.percents, bench, limits)
    return as_proposal(version, changed_lines(composition, after, percents), bench, solution)


def changed_lines(
    composition: Composition, after: Sequence[Material], percents: Sequence[Decimal]
) -> list[ProposedLine]:
    """Return the parts of `composition` beside their materials and percents afterwards."""
    return [
        ProposedLine(part.key, part.material, now, part.percent, percent)
        for part, now, percent in zip(composition, after, percents, strict=True)
    ]


def as_proposal(
    version: Version, lines: list[ProposedLine], bench: Bench, solution: Solution | None = None
) -> Proposal:
    """Return a change of lines with the firmness that it comes to."""
    parts = [(line.shown, float(line.now)) for line in lines]
    firmness = firmness_of(parts, version.formula, bench, overrun=version.overrun)
    return Proposal(version, lines, firmness, solution, bench.temperature_unit)


def tidied(
    composition: Composition,
    after: list[Material],
    percents: Sequence[Decimal],
    bench: Bench,
    limits: Limits | None = None,
) -> list[Decimal]:
    """Return proposed percents in tenths or hundredths, as coarse as keeps `limits` and the rung.

    Nobody weighs thousandths of a percent. Lines that did not move stay to the letter.
    """
    exact = list(percents)
    moved = [i for i, part in enumerate(composition) if exact[i] != part.percent]
    total = sum((exact[i] for i in moved), Decimal(0))
    space = Space(after, overrun=composition.overrun, prior=bench.prior)
    for step in TIDY_STEPS:
        if total % step:
            continue
        tidy = exact.copy()
        for i, percent in zip(moved, share_out([exact[i] for i in moved], step), strict=True):
            tidy[i] = percent
        rows = ([float(p) for p in row] for row in (exact, tidy))
        was, now = (space.rungs(np.array([row]), bench.room_c)[0] for row in rows)
        if abs(now - was) <= TIDY_RUNGS and _within(limits or Limits(), after, tidy):
            return tidy
    return exact


def _within(limits: Limits, materials: list[Material], percents: Sequence[Decimal]) -> bool:
    """Return whether percents respect every range of a line and of a layer to the letter."""
    by_line = {m.slug: float(p) for m, p in zip(materials, percents, strict=True)}
    return all(low <= by_line[slug] <= high for slug, (low, high) in limits.ranges.items()) and all(
        low
        <= sum(p for m, p in zip(materials, map(float, percents), strict=True) if m.layer == layer)
        <= high
        for layer, (low, high) in limits.layers.items()
    )
