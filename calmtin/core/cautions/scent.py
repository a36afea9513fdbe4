"""Scents: ceilings, their own limits, sunlight, and who must not have them."""

from __future__ import annotations

import re
from collections.abc import Iterator

from calmtin.core.cautions.case import TISSERAND, Case, Caution
from calmtin.core.cautions.ceilings import fit_factor, phototoxic_sum, scent_total
from calmtin.core.materials import Material
from calmtin.core.messages import Message, said


def scent_total_rule(case: Case) -> Iterator[Caution]:
    """Hold all scents together to the ceiling of the audience."""
    total, most = scent_total(case.lines), case.ceiling.total_max_pct
    if total > most + 1e-9:
        factor = fit_factor(case.lines, case.scents, case.ceiling, sees_sun=case.sees_sun)
        yield Caution(
            "stop" if total > 2.0 * most else "think",
            "scent_total",
            "",
            Message(
                "{total:g} % scent, above {most:g} % for this audience", total=round(total, 2), most=most
            ),
            case.ceiling.told,
            Message(
                "Reduce all scents to {factor:.0f} % of their amounts, or leave them out.",
                factor=100 * factor,
            ),
            TISSERAND,
        )


def scent_limits_rule(case: Case) -> Iterator[Caution]:
    """Hold each scent to its own limits, and say where none is known."""
    for material, percent in case.lines:
        if percent <= 0.0:
            continue
        if material.limit_pct is not None and percent > material.limit_pct + 1e-9:
            yield Caution(
                "stop",
                "own_limit",
                material.slug,
                Message(
                    "{label} at {percent:g} %, above its supplier’s limit of {limit_pct:g} %",
                    label=material.label,
                    percent=percent,
                    limit_pct=material.limit_pct,
                ),
                said("The supplier knows its composition."),
                Message("Reduce it to {limit_pct:g} % or less.", limit_pct=material.limit_pct),
                said("The supplier’s own limit, as you entered it in the pantry."),
            )
        facts = case.scents.get(material.slug)
        if facts is None:
            if material.group == "scent" and material.limit_pct is None:
                yield _no_limit(
                    material,
                    said("Ask the supplier for its limit in leave-on products and enter it."),
                )
            continue
        if facts.dermal_max_pct is not None and percent > facts.dermal_max_pct + 1e-9:
            yield Caution(
                "stop",
                "scent_limit",
                material.slug,
                Message(
                    "{label} at {percent:g} %, above its limit of {dermal_max_pct:g} %",
                    label=material.label,
                    percent=percent,
                    dermal_max_pct=facts.dermal_max_pct,
                ),
                facts.skin_note,
                Message("Reduce it to {dermal_max_pct:g} % or less.", dermal_max_pct=facts.dermal_max_pct),
                TISSERAND,
            )
        elif facts.dermal_max_status == "unknown" and material.limit_pct is None:
            yield _no_limit(material, said("Stay below the total limit and patch test."))


def _no_limit(material: Material, instead: str) -> Caution:
    return Caution(
        "note",
        "scent_unknown",
        material.slug,
        said("No limit is known for {in_words}", in_words=material.in_words),
        said("An unknown limit doesn’t mean there is none."),
        instead,
        TISSERAND,
    )


def phototoxic_rule(case: Case) -> Iterator[Caution]:
    """Hold what burns in sunlight to the sum of its limits."""
    total = phototoxic_sum(case.lines, case.scents)
    if case.sees_sun and total > 1.0 + 1e-9:
        yield Caution(
            "stop",
            "phototoxic",
            "",
            Message("Phototoxic: {total:.1f} times the sunlight limit", total=total),
            said(
                "Expressed citrus and similar oils can make skin burn in the sun; their shares of the "
                "limit add up."
            ),
            said("Use distilled or furocoumarin-free oils, or use less."),
            said("Sum of fractions of each limit. {tisserand}", tisserand=TISSERAND),
        )


def people_rule(case: Case) -> Iterator[Caution]:
    """Name scents that are not for these people."""
    audience = case.ceiling.audience
    for material, percent in case.lines:
        facts = case.scents.get(material.slug)
        if facts is None or percent <= 0.0:
            continue
        if audience == "adult_lips" and re.match(
            r"(avoid|not (?:for|advised)|tastes strong; not)", facts.lip_note, re.I
        ):
            yield _not_for(
                material.slug, "lips", said("{label} is not for lips", label=material.label), facts.lip_note
            )
        if (audience.startswith(("child", "infant"))) and not facts.avoid_under_age.startswith("none"):
            yield _not_for(
                material.slug,
                "age",
                said("{label} and children", label=material.label),
                facts.avoid_under_age,
            )
        if audience == "pregnancy" and re.search(r"\bavoid\b", facts.pregnancy_note, re.I):
            yield _not_for(
                material.slug,
                "pregnancy",
                said("{label} in pregnancy", label=material.label),
                facts.pregnancy_note,
            )


def _not_for(slug: str, key: str, title: str, words: str) -> Caution:
    return Caution(
        "stop",
        key,
        slug,
        title,
        f"{words[:1].upper()}{words[1:]}.".replace("..", "."),
        said("Leave it out for these people, or choose another scent."),
        TISSERAND,
    )
