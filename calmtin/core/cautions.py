"""What must be said about a formula, ranked, with what to do and the rule behind it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

import numpy as np

from calmtin.core.firmness import Parts, alone_crystal_pct
from calmtin.core.grain import GrainRisk
from calmtin.core.kinds import Kind
from calmtin.core.materials import Material
from calmtin.core.scent import Ceiling, ScentFacts, fit_factor, phototoxic_sum, scent_total
from calmtin.core.tincture import tincture
from calmtin.core.weighing import too_small

Level = Literal["stop", "think", "note"]
USUAL_TINCTURE_PCT = 50.0

_INSTEAD = {
    "honey": "Leave it out; for its scent use yellow beeswax, which smells of honey.",
    "aloe_gel": "Infuse fully dried aloe in oil, or leave it out.",
    "glycerin": "Leave it out; castor oil gives a similar gloss and cling.",
    "witch_hazel": "Leave it out, or infuse the dried bark in oil.",
    "food_colouring": "Use mica or an oxide, which spread in oil.",
    "fresh_herb": "Dry the herb until it snaps, then infuse it in oil and strain it.",
    "water_soluble_preservative": "Leave it out: with no water there is nothing for it to keep.",
}
_MOULD = (
    "It does not mix with oil. Drops of water stay behind in the balm, and mould and bacteria grow in "
    "them, out of sight and long before anything smells."
)
_NO_WORK = (
    "It only works in water, and there is none here: it beads up and may irritate, and keeps nothing."
)


@dataclass(frozen=True, slots=True)
class Caution:
    """One caution: how strong, about what, what to do, and the rule it rests on.

    `key` names the rule; with `material` it tells one caution from another.
    """

    level: Level
    key: str
    material: str
    title: str
    words: str
    instead: str
    rule: str


def wet_cautions(parts: Parts, *, total_g: float, alcohol_pct: float | None = None) -> list[Caution]:
    """Return a stop for each thing in `parts` that brings water or does not mix with oil.

    `total_g` is the batch that amounts are told for, g; `alcohol_pct` the strength
    by volume of a tincture in it, 50 % unless it is known.
    """
    whole = sum(mass for _, mass in parts) or 1.0
    found = []
    for material, mass in parts:
        if not material.is_wet or mass <= 0.0:
            continue
        grams = total_g * mass / whole
        words = _NO_WORK if material.slug == "water_soluble_preservative" else _MOULD
        instead = _INSTEAD.get(material.slug, "Leave it out of a product without water.")
        rule = (
            "Anhydrous means oils, butters and waxes only; vitamin E is an antioxidant, not a preservative."
        )
        if material.slug == "alcohol_tincture":
            strength = USUAL_TINCTURE_PCT if alcohol_pct is None else alcohol_pct
            held = tincture(grams, strength)
            words = (
                f"{grams:.1f} g of tincture at {strength:g} % by volume hold {held.alcohol_g:.1f} g "
                f"alcohol and {held.water_g:.1f} g water. Alcohol burns: never over a flame."
            )
            instead = (
                "Warm the oil and tincture alone in a water bath until the pot has lost "
                f"{held.to_lose_g:.1f} g, and only then add wax. Better: infuse the dried herb in the oil."
            )
            rule = "Mass balance of ethanol and water by density at 20 °C; 3 % is taken as dry extract."
        found.append(
            Caution("stop", "wet", material.slug, f"{material.label} brings water", words, instead, rule)
        )
    return found


@dataclass(frozen=True)
class Case:
    """Everything that a rule may look at. `lines` are materials and percents of the total."""

    lines: Parts
    name: str
    kind: Kind
    ceiling: Ceiling
    scents: Mapping[str, ScentFacts]
    sees_sun: bool
    batch_g: Decimal
    scale_step_g: Decimal
    set_c: float | None
    grain: GrainRisk | None
    alcohol_pct: float | None = None
    notes: str = ""


Rule = Callable[[Case], Iterator[Caution]]
TISSERAND = "Tisserand and Young, Essential Oil Safety, 2nd ed. 2014, as recalled; typical value."
FRAGILE_MONTHS = 6.0
ANTIOXIDANTS = ("tocopherols_50", "tocopherols_95", "rosemary_extract")
SPECKLED = ("beetroot_powder", "turmeric_powder")
_CLAIM = re.compile(
    r"\b(heal(?:s|ed|ing)?|cur(?:e|es|ing)|treat(?:s|ment)?|medic\w*|remed\w*|eczema|psoriasis|dermatitis|arthritis|"
    r"anti-?(?:bacterial|fungal|inflammatory|septic|viral)|pain\s*reli\w+|spf\s*\d*|sun-?\s?(?:screen|block)|"
    r"sun\s+protect\w*|infection)\b",
    re.IGNORECASE,
)


def all_cautions(case: Case) -> list[Caution]:
    """Return every caution of a formula, stops first, then think, then notes."""
    order = {"stop": 0, "think": 1, "note": 2}
    found = [caution for rule in RULES for caution in rule(case)]
    return sorted(found, key=lambda caution: order[caution.level])


def _total(case: Case) -> Iterator[Caution]:
    total = sum(percent for _, percent in case.lines)
    if abs(total - 100.0) > 0.01:
        yield Caution(
            "stop",
            "total",
            "",
            f"The lines make {total:.1f} %",
            "Grams and firmness mean little until they make 100.",
            "Let one line balance the total.",
            "Percent of the whole.",
        )


def _wet(case: Case) -> Iterator[Caution]:
    yield from wet_cautions(case.lines, total_g=float(case.batch_g), alcohol_pct=case.alcohol_pct)


def _scent_total(case: Case) -> Iterator[Caution]:
    total, most = scent_total(case.lines), case.ceiling.total_max_pct
    if total > most + 1e-9:
        factor = fit_factor(case.lines, case.scents, case.ceiling, sees_sun=case.sees_sun)
        yield Caution(
            "stop" if total > 2.0 * most else "think",
            "scent_total",
            "",
            f"{round(total, 2):g} % scent, above {most:g} % for this audience",
            case.ceiling.notes,
            f"Bring all scents to {100 * factor:.0f} % of what they are, or leave them out.",
            TISSERAND,
        )


def _scent_limits(case: Case) -> Iterator[Caution]:
    for material, percent in case.lines:
        if percent <= 0.0:
            continue
        if material.limit_pct is not None and percent > material.limit_pct + 1e-9:
            yield Caution(
                "stop",
                "own_limit",
                material.slug,
                f"{material.label} at {percent:g} %, above its supplier’s {material.limit_pct:g} %",
                "The supplier knows what is in it.",
                f"Bring it to {material.limit_pct:g} % or less.",
                "The supplier’s own limit, as you entered it in the pantry.",
            )
        facts = case.scents.get(material.slug)
        if facts is None:
            if material.group == "scent" and material.limit_pct is None:
                yield _no_limit(material, "Ask its supplier for the limit on leave-on skin and enter it.")
            continue
        if facts.dermal_max_pct is not None and percent > facts.dermal_max_pct + 1e-9:
            yield Caution(
                "stop",
                "scent_limit",
                material.slug,
                f"{material.label} at {percent:g} %, above its own {facts.dermal_max_pct:g} %",
                facts.skin_note,
                f"Bring it to {facts.dermal_max_pct:g} % or less.",
                TISSERAND,
            )
        elif facts.dermal_max_status == "unknown" and material.limit_pct is None:
            yield _no_limit(material, "Stay below the audience’s ceiling and patch test.")


def _no_limit(material: Material, instead: str) -> Caution:
    return Caution(
        "note",
        "scent_unknown",
        material.slug,
        f"No limit is known for {material.label.lower()}",
        "Not known is not unrestricted.",
        instead,
        TISSERAND,
    )


def _phototoxic(case: Case) -> Iterator[Caution]:
    total = phototoxic_sum(case.lines, case.scents)
    if case.sees_sun and total > 1.0 + 1e-9:
        yield Caution(
            "stop",
            "phototoxic",
            "",
            f"Burns in sunlight: {total:.1f} times the limit",
            "Expressed citrus and its kin make skin burn in the sun; their limits add up.",
            "Use distilled or furocoumarin-free oils, or less.",
            f"Sum of fractions of each limit. {TISSERAND}",
        )


def _people(case: Case) -> Iterator[Caution]:
    audience = case.ceiling.audience
    for material, percent in case.lines:
        facts = case.scents.get(material.slug)
        if facts is None or percent <= 0.0:
            continue
        if audience == "adult_lips" and re.match(
            r"(avoid|not (?:for|advised)|tastes strong; not)", facts.lip_note, re.I
        ):
            yield _not_for(material.slug, "lips", f"{material.label} is not for lips", facts.lip_note)
        if (audience.startswith(("child", "infant"))) and not facts.avoid_under_age.startswith("none"):
            yield _not_for(material.slug, "age", f"{material.label} and children", facts.avoid_under_age)
        if audience == "pregnancy" and re.search(r"\bavoid\b", facts.pregnancy_note, re.I):
            yield _not_for(
                material.slug, "pregnancy", f"{material.label} in pregnancy", facts.pregnancy_note
            )


def _not_for(slug: str, key: str, title: str, words: str) -> Caution:
    return Caution(
        "stop",
        key,
        slug,
        title,
        f"{words[:1].upper()}{words[1:]}.".replace("..", "."),
        "Leave it out for these people, or choose another scent.",
        TISSERAND,
    )


def _heat(case: Case) -> Iterator[Caution]:
    if case.set_c is None:
        return
    hot = case.set_c + 5.0
    for material, percent in case.lines:
        limit = material.max_heat_c
        if (
            percent > 0.0
            and limit is not None
            and not material.is_wet
            and hot > limit + 0.5
            and (material.layer in ("oil", "butter") or material.group == "antioxidant")
        ):
            yield Caution(
                "think",
                "heat",
                material.slug,
                f"{material.label} likes no more than {limit:g} °C",
                f"This blend pours at about {hot:.0f} °C.",
                "Add it last, just before the haze, and pour at once.",
                "Typical heat ceiling of the material.",
            )
    if scent_total(case.lines) > 0.0 and hot > 65.0:
        yield Caution(
            "think",
            "scent_heat",
            "",
            f"The scent would go in at {hot:.0f} °C",
            "This blend sets so early that the scent boils off before it can be poured.",
            "Use less of the highest-melting wax, or accept a fainter scent.",
            "First haze plus 5 °C, against 65 °C.",
        )


def _colour(case: Case) -> Iterator[Caution]:
    for material, percent in case.lines:
        if material.slug in SPECKLED and percent > 0.0:
            yield Caution(
                "think",
                "colour",
                material.slug,
                f"{material.label} gives specks, not colour",
                material.notes,
                "Mica, oxides and fine cocoa powder spread in oil.",
                "Its pigment does not dissolve in oil.",
            )


def _rancid(case: Case) -> Iterator[Caution]:
    fragile = [
        (m, p)
        for m, p in case.lines
        if m.layer in ("oil", "soft_fat")
        and m.shelf_life_opened_months is not None
        and m.shelf_life_opened_months <= FRAGILE_MONTHS
    ]
    share = sum(percent for _, percent in fragile)
    guarded = any(m.slug in ANTIOXIDANTS and p > 0.0 for m, p in case.lines)
    if share >= 10.0 and not guarded:
        names = ", ".join(m.label.lower() for m, _ in fragile)
        yield Caution(
            "think",
            "rancid",
            "",
            f"{share:.0f} % fragile oil and no antioxidant",
            f"Opened, {names} turns rancid within half a year.",
            "Add 0.5 % tocopherols, or swap for a steadier oil. Vitamin E acetate does not count.",
            "Opened shelf life of 6 months or less, at 10 % or more.",
        )


def _allergens(case: Case) -> Iterator[Caution]:
    flags = sorted({a.replace("_", " ") for m, p in case.lines if p > 0.0 for a in m.allergens})
    if flags:
        yield Caution(
            "note",
            "allergens",
            "",
            f"Contains {', '.join(flags)}",
            "Say so on the label.",
            "Patch test first.",
            "Flags of the materials.",
        )


def _summer(case: Case) -> Iterator[Caution]:
    if case.kind.hold_c is None:
        return
    at = np.array([case.kind.hold_c])
    for material, percent in case.lines:
        if (
            material.layer == "soft_fat"
            and percent >= 5.0
            and float(alone_crystal_pct(material, at)[0]) < 1.0
        ):
            yield Caution(
                "note",
                "summer",
                material.slug,
                f"{material.label} carries nothing at {case.kind.hold_c:g} °C",
                "It has melted there; the wax and butters hold alone.",
                "Fine while the hot-day reading holds.",
                "Its own solids curve.",
            )


def _grain(case: Case) -> Iterator[Caution]:
    if case.grain and case.grain.level == "high":
        yield Caution(
            "think",
            "grain",
            "",
            "Likely to go grainy",
            f"Raised by {'; '.join(case.grain.raises)}.",
            "Rest it 10 to 15 minutes, then chill; or add a little wax.",
            "A rule of the craft, not a measurement.",
        )


def _too_small(case: Case) -> Iterator[Caution]:
    small = [
        m.label.lower()
        for m, p in case.lines
        if too_small(case.batch_g * Decimal(repr(round(p, 6))) / 100, case.scale_step_g)
    ]
    if small:
        yield Caution(
            "note",
            "too_small",
            "",
            f"Too little for your scale: {', '.join(small)}",
            f"In {case.batch_g.normalize():f} g, a step of {case.scale_step_g} g is over a tenth of it.",
            "Make a bigger batch, or weigh it on a finer scale.",
            "A tenth of a part is one step of the scale.",
        )


def _claims(case: Case) -> Iterator[Caution]:
    found = _CLAIM.search(case.name) or _CLAIM.search(case.notes)
    if found:
        yield Caution(
            "think",
            "claim",
            "",
            f"“{found[0]}” is a claim",
            "Oils and butters are neither medicine nor sunscreen.",
            "Choose words that say what it is or how it feels.",
            "Labels follow local rules.",
        )


RULES: tuple[Rule, ...] = (
    _total,
    _wet,
    _scent_limits,
    _phototoxic,
    _people,
    _scent_total,
    _heat,
    _colour,
    _rancid,
    _grain,
    _claims,
    _summer,
    _too_small,
    _allergens,
)
