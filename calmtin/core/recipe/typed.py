"""One amount typed for one material, in a box or on the weigh sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import RECIPE_LINE_CHARS, check_text
from calmtin.core.materials import Material
from calmtin.core.messages import Message, gettext_noop, said
from calmtin.core.notation import USUAL, Notation
from calmtin.core.quantities import Mass
from calmtin.core.recipe.grammar import Amount, read_phrase
from calmtin.core.recipe.items import stated_of
from calmtin.core.recipe.measures import Form, Unit, Weight, ounce_readings
from calmtin.core.recipe.weights import disagreement, others_of, weight_of


@dataclass(frozen=True, slots=True)
class Measure:
    """An amount with its unit, as typed; `form` if a word named it; `others` repeat it."""

    stated: Amount
    form: Form | None
    others: tuple[Amount, ...] = ()

    @property
    def amount(self) -> float:
        """The number, the middle of a range."""
        return self.stated.value

    @property
    def unit(self) -> Unit:
        """The unit; a measure always has one."""
        assert self.stated.unit is not None
        return self.stated.unit

    @property
    def says_weight(self) -> bool:
        """Whether it says that its ounces weigh."""
        return self.stated.says_weight


def read_measure(text: str, notation: Notation = USUAL) -> Measure:
    """Return the measure in a box such as "500 g", "1 lb 4 oz", "1 1/2 cups melted" or "16 oz wt".

    Raises `CalmTinError` when there is no amount or no unit in it, and names what a box
    cannot use: a temperature, a minus sign, words that are no measure.

    >>> read_measure("1½ cups, melted").form
    'melted'
    """
    check_text(text, RECIPE_LINE_CHARS, name=gettext_noop("The amount"), field="amount")
    phrase = read_phrase(" ".join(text.split()), notation)
    if phrase.is_minus:
        raise CalmTinError(said("An amount can’t be below 0. Leave out the minus sign."), field="amount")
    if not phrase.amounts:
        ask = said("Type an amount with its unit, such as “500 g” or “2 cups”.")
        if phrase.asides:
            ask = f"{said('“{typed}” isn’t an amount of an ingredient.', typed=phrase.asides[0])} {ask}"
        raise CalmTinError(ask, field="amount")
    stated = stated_of(phrase.amounts)
    if stated.unit in (None, "part", "percent"):
        raise CalmTinError(
            said("Which unit? Type g, kg, oz wt, fl oz, ml, cups, tbsp, tsp or drops."), field="amount"
        )
    unused = [*phrase.stray, *phrase.asides, *([phrase.words] if phrase.words else [])]
    unused += [a.written for a in phrase.amounts if a.unit is None]
    if unused:
        raise CalmTinError(
            said("“{unused}” isn’t part of an amount. Type only the amount.", unused=unused[0][:30]),
            field="amount",
        )
    return Measure(stated, phrase.form, others_of(phrase.amounts, stated))


def refuse_disagreement(
    weight: Weight,
    others: Sequence[Amount],
    material: Material,
    form: Form | None,
    drops_per_ml: tuple[float, float, float] | None,
) -> None:
    """Raise `CalmTinError` for an amount given twice that differs by more than a tenth."""
    if differ := disagreement(weight, others, material, form, drops_per_ml):
        raise CalmTinError(
            Message(
                "{differ}, but the other amount is {weight}. Type the correct one.",
                differ=differ,
                weight=Mass(weight.grams, 0),
            ),
            field="amount",
            material=material.slug,
        )


def weigh_typed(
    text: str,
    material: Material,
    *,
    drops_per_ml: tuple[float, float, float] | None = None,
    notation: Notation = USUAL,
) -> Weight:
    """Return the weight of an amount typed for one material.

    "oz" for what pours asks back, except on a bench whose scale shows ounces.
    """
    measure = read_measure(text, notation)
    if (
        measure.unit == "oz"
        and not measure.says_weight
        and notation.scale_unit != "oz"
        and not measure.others
        and (both := ounce_readings(material, measure.amount))
    ):
        raise CalmTinError(
            Message(
                "By weight, or fluid ounces, of which {amount:g} weigh {weight}? "
                "Type “{amount:g} oz wt” or “{amount:g} fl oz”.",
                amount=measure.amount,
                weight=Mass(both[1].grams, 1),
            ),
            field="amount",
            material=material.slug,
        )
    weight = weight_of(measure.stated, material, measure.form, drops_per_ml)
    refuse_disagreement(weight, measure.others, material, measure.form, drops_per_ml)
    return weight
