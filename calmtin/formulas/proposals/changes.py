"""Side effects of a proposal, most important first: allergens, feel, melting, cost."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import priced, priced_weight, temp
from calmtin.core.allergens import allergen_words
from calmtin.core.composition import Composition
from calmtin.core.engine.firmness import skin_melt
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.proposal import Proposal
from calmtin.formulas.queries.readings import firmness_of
from calmtin.pantry.queries.lots import cost_of_100_g


class Today:
    """A version as it is today, which every proposal is held against; `costs` are those of a gram."""

    def __init__(
        self, version: Version, composition: Composition, bench: Bench, costs: dict[str, Decimal]
    ) -> None:
        self.version, self.composition, self.bench, self.costs = version, composition, bench, costs
        self.firmness = firmness_of(composition.masses, version.formula, bench, overrun=composition.overrun)
        self.rung = self.firmness.room.rung if self.firmness else 0.0
        self.melt = skin_melt(self.firmness.blended, bench.room_c) if self.firmness else 0.0
        self.cost = self.cost_of([(part.material, part.percent) for part in composition])

    def cost_of(self, lines: list[tuple[Material, Decimal]]) -> Decimal | None:
        """Return the cost of 100 g of the lines that have any weight, where it is known."""
        return cost_of_100_g(self.costs, [(m.slug, percent) for m, percent in lines if percent])


def changes_of(today: Today, proposal: Proposal) -> list[str]:
    """Return what a proposal changes, in a few words each, the weightiest first."""
    after = [line.after for line in proposal.lines if line.after and line.now]
    before = today.composition.materials
    gone = [m for m in before if m not in after]
    come = [m for m in after if m not in before]
    found = _allergens(before, after)
    if len(gone) == len(come) == 1 and come[0].skin_feel not in ("", gone[0].skin_feel):
        found.append(
            said(
                "feels {now} instead of {before}",
                now=come[0].skin_feel,
                before=gone[0].skin_feel or gettext("unknown"),
            )
        )
    found += _scent(before, after)
    if proposal.solution and abs(proposal.solution.skin_melt - today.melt) >= 0.02:
        found.append(
            said(
                "{skin_melt:.0f} % melts on skin, not {melt:.0f} %",
                skin_melt=100 * proposal.solution.skin_melt,
                melt=100 * today.melt,
            )
        )
    flow, was = (f.flow_c if f else None for f in (proposal.firmness, today.firmness))
    if flow is not None and was is not None and abs(flow - was) >= 1.0:
        unit = today.bench.temperature_unit
        found.append(
            said("flows at {flow}, not {was}", flow=temp(round(flow), unit), was=temp(round(was), unit))
        )
    cost = today.cost_of([(line.shown, line.now) for line in proposal.lines])
    if cost is not None and today.cost is not None and cost != today.cost:
        now, was_cost = (priced(each, 100) for each in (cost, today.cost))
        found.append(
            said(
                "{priced_weight} costs {now:.2f}, not {was_cost:.2f}",
                priced_weight=priced_weight(),
                now=now,
                was_cost=was_cost,
            )
        )
    if any(new.basis == "estimated" for new in come):
        found.append(gettext("estimated, so a wider likely range"))
    return found


def _allergens(before: Sequence[Material], after: Sequence[Material]) -> list[str]:
    had, has = ({a for m in materials for a in m.allergens} for materials in (before, after))
    found = [said("brings {allergen}", allergen=allergen_words(a)) for a in sorted(has - had)]
    found += [said("without {allergen}", allergen=allergen_words(a)) for a in sorted(had - has)]
    if all(m.vegan for m in after) and not all(m.vegan for m in before):
        found.append("vegan")
    return found


def _scent(before: Sequence[Material], after: Sequence[Material]) -> list[str]:
    had, has = ({m.slug for m in materials if m.own_scent} for materials in (before, after))
    if bool(has) == bool(had):
        return []
    return [gettext("has its own smell") if has else gettext("no scent")]
