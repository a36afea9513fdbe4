"""All rules, in the order in which their cautions are shown."""

from __future__ import annotations

from calmtin.core.cautions.amounts import (
    colour_rule,
    dry_rule,
    slippery_gloss_rule,
    too_much_rule,
    too_small_rule,
    total_rule,
)
from calmtin.core.cautions.case import Case, Caution, Rule
from calmtin.core.cautions.heat import heat_rule
from calmtin.core.cautions.labelling import allergens_rule, claims_rule
from calmtin.core.cautions.scent import people_rule, phototoxic_rule, scent_limits_rule, scent_total_rule
from calmtin.core.cautions.shelf import grain_rule, rancid_rule, summer_rule
from calmtin.core.cautions.suspects import suspects_rule
from calmtin.core.cautions.water import preservative_rule, wet_rule


def all_cautions(case: Case) -> list[Caution]:
    """Return every caution of a formula, stops first, then think, then notes."""
    order = {"stop": 0, "think": 1, "note": 2}
    found = [caution for rule in RULES for caution in rule(case)]
    return sorted(found, key=lambda caution: order[caution.level])


RULES: tuple[Rule, ...] = (
    total_rule,
    wet_rule,
    scent_limits_rule,
    phototoxic_rule,
    people_rule,
    suspects_rule,
    scent_total_rule,
    heat_rule,
    colour_rule,
    dry_rule,
    too_much_rule,
    slippery_gloss_rule,
    rancid_rule,
    grain_rule,
    claims_rule,
    summer_rule,
    preservative_rule,
    too_small_rule,
    allergens_rule,
)
