"""From amounts to weights: parts and percent share the batch, and what is not sure is asked."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import Message, Words, gettext_noop, said
from calmtin.core.quantities import Mass
from calmtin.core.recipe.grammar import Amount
from calmtin.core.recipe.items import Measured, RecipeLine, Remark, Unresolved
from calmtin.core.recipe.measures import Form, Unit, Weight, ounce_readings, to_weight

WHOLE_G = 100.0  # the batch that parts and percent are taken of where none is stated
DISAGREE = 0.10  # two amounts of one line that differ by more than this are told of
NEAR_100 = 1.0  # percentages that were rounded may miss 100 by this
_GROUPED = re.compile(r"^([1-9]\d{0,2})\.(\d{3})(?![\d,.])")  # a point that may stand before thousands
# Measures that are dosed for a batch of some size: beside percent, it is asked which.
OF_A_BATCH: frozenset[Unit] = frozenset({"capsule", "dropper", "squeeze"})
# Measures that go on top of parts without a word: they are small, and dosed for their own sake.
ON_TOP: frozenset[Unit] = frozenset({"drop", "dropper", "squeeze", "capsule", "pinch"})
# Why percent beside measures cannot be weighed: nobody said what they are percent of.
OF_WHICH_BATCH = gettext_noop("Percent of what? Add a line “batch 200 g”, or type what this one weighs.")

# Why parts beside other measures cannot be weighed: nobody said what one part is.
OF_WHICH_PART = gettext_noop("What does one part weigh? Type it above, or what this line weighs.")


def others_of(amounts: Sequence[Amount], stated: Amount) -> tuple[Amount, ...]:
    """Return the amounts that say the same as `stated` in another measure."""
    return tuple(a for a in amounts if a is not stated and a.unit not in (None, "percent", "part"))


def weight_of(
    stated: Amount,
    material: Material,
    form: Form | None,
    drops_per_ml: tuple[float, float, float] | None,
) -> Weight:
    """Return the weight of an amount of a material; raises `CalmTinError` for a unit that needs a batch."""
    assert stated.unit is not None
    return to_weight(
        material,
        stated.value,
        stated.unit,
        form=form,
        drops_per_ml=drops_per_ml,
        low=stated.low,
        high=stated.high,
    )


def weigh_all(
    items: Sequence[Measured | Unresolved | Remark],
    shelf: Shelf,
    drops_per_ml: Mapping[str, tuple[float, float, float]],
    batch_g: float | None,
    part_g: float | None = None,
) -> list[RecipeLine | Unresolved | Remark]:
    """Give every measured line its weight; parts and percent share the batch."""
    measured = [item for item in items if isinstance(item, Measured)]
    shares = [item for item in measured if item.stated.unit in ("part", "percent")]
    kinds = {item.stated.unit for item in shares}
    beside = [
        item
        for item in measured
        if item not in shares
        and (item.stated.unit not in ON_TOP or ("percent" in kinds and item.stated.unit in OF_A_BATCH))
    ]
    whole = sum(item.stated.value for item in shares)
    apart = _not_100(whole) if kinds == {"percent"} else ""
    batch = next((item.batch_g for item in items if isinstance(item, Remark)), batch_g)
    weighed: list[RecipeLine | Unresolved | Remark] = []
    for item in items:
        if not isinstance(item, Measured):
            weighed.append(item)
        elif item.stated.unit not in ("part", "percent"):
            weighed.append(_one(item, shelf[item.choice.slug], drops_per_ml))
        elif len(kinds) > 1 or whole <= 0:
            reason = gettext_noop("The recipe mixes parts and percent. Type what this one weighs.")
            weighed.append(Unresolved(item.text, reason, (item.choice,)))
        elif beside and item.stated.unit == "part":
            if part_g is None:
                weighed.append(Unresolved(item.text, OF_WHICH_PART, (item.choice,)))
            else:
                weighed.append(_shared(item, part_g, part_g * whole))
        elif beside and batch is None:
            reason = OF_WHICH_BATCH
            weighed.append(Unresolved(item.text, reason, (item.choice,)))
        elif item.stated.unit == "percent" and batch is not None:
            weighed.append(_shared(item, batch / 100.0, batch))
        else:
            shared = _shared(item, (batch or WHOLE_G) / whole, batch or WHOLE_G)
            weighed.append(replace(shared, question=shared.question or apart))
    return weighed


def _not_100(whole: float) -> Words:
    """Return what to ask of percentages that add up to `whole`; nothing where that is 100."""
    if abs(whole - 100.0) <= NEAR_100:
        return ""
    if whole < 100.0:
        return said(
            "The percentages add up to {whole:g} %. What is the other {rest:g} %? For now they are "
            "scaled to 100 %.",
            whole=whole,
            rest=100.0 - whole,
        )
    return said(
        "The percentages add up to {whole:g} %, which is more than 100 %. They are scaled to 100 %.",
        whole=whole,
    )


def _shared(item: Measured, grams_each: float, batch: float) -> RecipeLine:
    stated = item.stated
    weight = Weight(
        stated.value * grams_each,
        stated.low * grams_each,
        stated.high * grams_each,
        None,
        False,
        Message("of {batch} in all, by weight", batch=Mass(batch)),
    )
    return RecipeLine(
        item.text,
        item.choice.slug,
        item.choice.confidence,
        stated,
        weight,
        _asked(item, stated),
        item.others,
    )


def _one(
    item: Measured, material: Material, drops_per_ml: Mapping[str, tuple[float, float, float]]
) -> RecipeLine | Unresolved:
    stated, drops = item.stated, drops_per_ml.get(material.slug)
    try:
        weight = weight_of(stated, material, item.phrase.form, drops)
    except CalmTinError as refused:
        return Unresolved(item.text, refused.sentence, (item.choice,))
    others = others_of(item.phrase.amounts, stated)
    question: Words = _asked(item, stated)
    if differ := disagreement(weight, others, material, item.phrase.form, drops):
        question = question or Message("{differ}; {stated} taken.", differ=differ, stated=stated.written)
    elif stated.unit == "oz" and not others and not stated.says_weight:
        if both := ounce_readings(material, stated.value):
            by_weight, fluid = both
            weight = replace(weight, low=min(weight.low, fluid.grams), high=max(weight.high, fluid.grams))
            question = question or Message(
                "Ounces by weight ({by_weight}) or fluid ounces ({fluid})? Read as weight.",
                by_weight=Mass(by_weight.grams, 1),
                fluid=Mass(fluid.grams, 1),
            )
    elif weight.is_guess:
        question = question or said(
            "Read as {form}. Was it melted, pellets, shavings, chopped or packed?", form=weight.form
        )
    return RecipeLine(
        item.text,
        material.slug,
        item.choice.confidence,
        stated,
        weight,
        question,
        item.others,
        item.phrase.strength,
    )


def _asked(item: Measured, stated: Amount) -> Words:
    """Return what a person should look at: a guess, a number with two readings, or one not used."""
    if item.doubt:
        return item.doubt
    if stated.unit == "stick":
        return said("A stick is taken as 113 g, a US stick of butter. What does yours weigh?")
    if stated.unit in ("g", "ml") and (grouped := _GROUPED.match(stated.written)):
        return said(
            "“{written}” is read with a decimal point. Did you mean {whole} {unit}?",
            written=stated.written,
            whole=f"{int(grouped[1] + grouped[2]):,}",
            unit=stated.unit,
        )
    if stated.other is not None:
        return Message(
            "“{written}” is read as {value:,g}; with the other decimal sign it is {other:,g}.",
            written=stated.written,
            value=stated.value,
            other=stated.other,
        )
    unused = [*item.phrase.stray, *(a.written for a in item.phrase.amounts if a.unit is None)]
    return said("The {unused} was ignored. Is it part of the amount?", unused=unused[0]) if unused else ""


def disagreement(
    weight: Weight,
    others: Sequence[Amount],
    material: Material,
    form: Form | None,
    drops_per_ml: tuple[float, float, float] | None,
) -> Words:
    """Return which other amount of the line is another weight, in words; nothing where all agree."""
    for other in others:
        readings = [weight_of(other, material, form, drops_per_ml)]
        if other.unit == "oz" and not other.says_weight and (both := ounce_readings(material, other.value)):
            readings.append(both[1])
        near = any(r.low * (1.0 - DISAGREE) <= weight.grams <= r.high * (1.0 + DISAGREE) for r in readings)
        if not near:
            return Message(
                "{other} would be about {weight}", other=other.written, weight=Mass(readings[0].grams, 0)
            )
    return ""
