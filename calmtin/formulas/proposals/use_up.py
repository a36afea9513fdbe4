"""Leave out or use up with as much of a lot as its firmness allows."""

from __future__ import annotations

from dataclasses import dataclass, replace
from decimal import Decimal

from calmtin.accounts.models import Bench
from calmtin.core.composition import Part
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Shelf
from calmtin.core.messages import said
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import Solution, Stop, never, solve_if_met
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.proposal import MOVED, Proposal, proposal_of
from calmtin.formulas.proposals.without import rung_of

LOT_STEPS = 7


@dataclass(frozen=True)
class LotUse:
    """A version that uses up a lot: the change, what of the lot goes in, and the batch for all of it."""

    proposal: Proposal
    used_g: Decimal
    left_g: Decimal

    @property
    def uses_all(self) -> bool:
        """Whether nothing but a crumb of the lot stays."""
        return self.used_g >= self.left_g - Decimal("0.1")

    def batch_for_all(self, batch_g: Decimal) -> Decimal:
        """Return the batch, g, that would use all of it in these proportions."""
        return batch_g * self.left_g / self.used_g if self.used_g else Decimal(0)


def use_up(
    version: Version, shelf: Shelf, bench: Bench, slug: str, left_g: Decimal, *, stop: Stop = never
) -> LotUse:
    """Return the version with as much of a lot as its batch and the firmness of today allow.

    At most all of `left_g` (g), and no more than is usual for the material and for
    its layer in this kind, unless there is more of it today.
    """
    composition = composition_of(version, shelf)
    if slug not in {material.slug for material in composition.materials}:
        new = Part("+", shelf[slug], Decimal(0))
        composition = replace(composition, parts=(*composition.parts, new))
    here = next(i for i, material in enumerate(composition.materials) if material.slug == slug)
    line, material = composition.parts[here], shelf[slug]
    if line.is_locked:
        raise CalmTinError(said("{label} is locked. Unlock it first.", label=material.label), field="lot")
    now = float(line.percent)
    usual = version.formula.kind_facts.ranges.get(material.layer, (0.0, 100.0))[1]
    most = min(
        float(100 * left_g / version.batch_g), max(now, min(usual, material.typical_high_pct or 100.0))
    )
    locked = frozenset(
        part.material.slug
        for part in composition
        if part is not line and (part.is_locked or part.material.layer not in MOVED)
    )
    wanted = rung_of(version, composition, bench)
    target = Target(wanted, bench.room_c, overrun=version.overrun, prior=bench.prior)

    def attempt(share: float) -> Solution | None:
        share = round(share, 3)
        try:
            return solve_if_met(
                composition.masses, target, Limits(locked, {slug: (share, share)}), stop=stop
            )
        except CalmTinError:
            return None

    best, low, high = attempt(most), min(now, most), most
    for _ in range(0 if best else LOT_STEPS):
        middle = (low + high) / 2.0
        if tried := attempt(middle):
            low, best = middle, tried
        else:
            high = middle
    if best is None:
        raise CalmTinError(
            said(
                "No more {in_words} can be added at today’s firmness. Unlock lines, or set another target.",
                in_words=material.in_words,
            ),
            field="lot",
        )
    held = Limits(locked, {slug: (float(best.percents[here]),) * 2})
    proposal = proposal_of(version, composition, composition.materials, best, bench, held)
    return LotUse(proposal, proposal.lines[here].now * version.batch_g / 100, left_g)
