"""Water and alcohol where there must be none."""

from __future__ import annotations

from collections.abc import Iterator

from calmtin.core.cautions.case import Case, Caution
from calmtin.core.engine.blend import Parts
from calmtin.core.messages import Message, Words, gettext_noop, said
from calmtin.core.process.tincture import TINCTURE, USUAL_PCT, tincture
from calmtin.core.quantities import Mass, Percent, Temperature

_INSTEAD = {
    "honey": gettext_noop("Leave it out; for its scent use yellow beeswax, which smells of honey."),
    "aloe_gel": gettext_noop("Infuse fully dried aloe in oil, or leave it out."),
    "glycerin": gettext_noop("Leave it out; castor oil gives a similar gloss and cling."),
    "witch_hazel": gettext_noop("Leave it out, or infuse the dried bark in oil."),
    "food_colouring": gettext_noop("Use mica or an oxide, which spread in oil."),
    "fresh_herb": gettext_noop("Dry the herb until it snaps, then infuse it in oil and strain it."),
    "water_soluble_preservative": gettext_noop("Leave it out; there is no water here for it to preserve."),
}

_MOULD = gettext_noop(
    "It doesn’t mix with oil. Drops of water stay in the balm, where mould and bacteria grow unseen, "
    "long before you smell anything."
)

_NO_WORK = gettext_noop(
    "It only works in water, and there is no water here for it to preserve. It forms beads and may "
    "irritate the skin."
)


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
        words: Words = _NO_WORK if material.slug == "water_soluble_preservative" else _MOULD
        instead: Words = _INSTEAD.get(material.slug, "Leave it out of a product without water.")
        rule: Words = said(
            "Anhydrous means oils, butters and waxes only; vitamin E is an antioxidant, not a preservative."
        )
        if material.slug == TINCTURE:
            strength = USUAL_PCT if alcohol_pct is None else alcohol_pct
            held = tincture(grams, strength)
            words = Message(
                "{all} of tincture at {strength} by volume hold {alcohol} alcohol and {water} water. "
                "Alcohol burns, so never heat it over a flame.",
                all=Mass(grams, 1),
                strength=Percent(strength),
                alcohol=Mass(held.alcohol_g, 1),
                water=Mass(held.water_g, 1),
            )
            instead = Message(
                "Warm the oil and tincture alone in a water bath until the pot has lost {gone}, and only "
                "then add wax. Better: infuse the dried herb in the oil.",
                gone=Mass(held.to_lose_g, 1),
            )
            rule = Message(
                "Mass balance of ethanol and water by density at {at}; 3 % is taken as dry extract.",
                at=Temperature(20.0),
            )
        found.append(
            Caution(
                "stop",
                "wet",
                material.slug,
                said("{label} brings water", label=material.label),
                words,
                instead,
                rule,
            )
        )
    return found


def preservative_rule(case: Case) -> Iterator[Caution]:
    """Caution about an oil-soluble preservative in a product without water."""
    for material, percent in case.lines:
        if material.slug == "preservative_oil_soluble" and percent > 0.0:
            yield Caution(
                "note",
                "preservative",
                material.slug,
                said("A preservative with nothing to preserve"),
                material.notes,
                said(
                    "Leave it out, or use it at its supplier’s rate for jars that people use with "
                    "wet fingers."
                ),
                said("Nothing grows without water."),
            )


def wet_rule(case: Case) -> Iterator[Caution]:
    """Stop at each thing that brings water."""
    yield from wet_cautions(case.lines, total_g=float(case.batch_g), alcohol_pct=case.alcohol_pct)
