"""One box: a weight or a volume, in any notation that a recipe may use.

The same grammar that reads a pasted line reads a box. What a box cannot use it names.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import NoReturn

from calmtin.core.errors import CalmTinError, UnreadableNumber
from calmtin.core.limits import RECIPE_LINE_CHARS, check_text, span_in_words
from calmtin.core.materials import Material
from calmtin.core.measured import Measured
from calmtin.core.messages import Message, Words, gettext_noop, said
from calmtin.core.notation import USUAL, Notation
from calmtin.core.quantities import quantity
from calmtin.core.recipe.grammar import Amount, Phrase, read_phrase
from calmtin.core.recipe.items import stated_of
from calmtin.core.recipe.measures import Form, Unit, Weight, is_weight, size_of
from calmtin.core.recipe.typed import refuse_disagreement
from calmtin.core.recipe.weights import others_of, weight_of
from calmtin.core.units import in_span, inside, read_number

Drops = tuple[float, float, float]
# From an amount, the form that was told and what else says the same, to a weight.
Weigh = Callable[[Amount, Form | None, Sequence[Amount]], Weight]


def read_grams(
    text: str,
    *,
    name: str,
    low: float = 0.0,
    high: float,
    material: Material | None = None,
    drops_per_ml: Drops | None = None,
    notation: Notation = USUAL,
    is_reading: bool = False,
) -> Decimal:
    """Return the grams in a box for a weight: "29.8", "2 oz", "1 lb 4 oz", "½ tsp" of `material`.

    A bare number is in the scale's own unit; an "oz" beside a scale weighs. Volumes,
    drops and spoons need a material. A reading of the scale is one amount, never a sum or a range.
    Raises `UnreadableNumber` with what to type instead.

    >>> read_grams("1 lb 4 oz", name="The batch", high=50_000)
    Decimal('566.99')
    """
    return read_measured(
        text,
        name=name,
        low=low,
        high=high,
        material=material,
        drops_per_ml=drops_per_ml,
        notation=notation,
        is_reading=is_reading,
    ).grams


def read_measured(
    text: str,
    *,
    name: str,
    low: float = 0.0,
    high: float,
    material: Material | None = None,
    drops_per_ml: Drops | None = None,
    notation: Notation = USUAL,
    is_reading: bool = False,
) -> Measured:
    """Return what `read_grams` reads with the range that a measure leaves, and its words.

    A number that stands alone has no words.

    >>> read_measured("12", name="The wax", high=50_000).words
    ''
    """
    box = _Box(name, (low, high), notation, "g", notation.scale_unit, is_reading)
    weight, is_alone = box.read(text, _grams_of(material, drops_per_ml))
    grams = box.within(weight.grams)
    least, most = (
        Decimal(repr(value)).quantize(grams) for value in (min(weight.low, high), min(weight.high, high))
    )
    return Measured("" if is_alone else " ".join(text.split()), grams, min(least, grams), max(most, grams))


def read_ml(text: str, *, name: str, low: float = 0.0, high: float, notation: Notation = USUAL) -> Decimal:
    """Return the millilitres in a box for a volume: "60", "60 ml", "2 fl oz", "½ cup".

    Raises `UnreadableNumber`: a weight has no volume of its own, and "oz" may be either.

    >>> read_ml("2 fl oz", name="It", high=1000)
    Decimal('59.15')
    """
    bare: Unit = "fl_oz" if notation.scale_unit == "oz" else "ml"
    box = _Box(name, (low, high), notation, "ml", bare)
    return box.within(box.read(text, _ml_of)[0].grams)


def read_fill(text: str, *, name: str, brim_ml: float, density: float, notation: Notation = USUAL) -> float:
    """Return the ml in a box for how full: "95" or "95 %" of the brim, "55 ml", "4.3 g" of the melt.

    `density` is that of the melt, g/ml. Raises `UnreadableNumber`.

    >>> read_fill("95 %", name="The fill", brim_ml=60.0, density=0.88)
    57.0
    >>> round(read_fill("4.4 g", name="The fill", brim_ml=5.5, density=0.88), 2)
    5.0
    """
    phrase = read_phrase(" ".join(text.split()), notation)
    unit = stated_of(phrase.amounts).unit if phrase.amounts else None
    if unit in (None, "percent"):
        number = read_number(text, name=name, low=5.0, high=100.0, unit="%", notation=notation)
        return brim_ml * float(number) / 100.0
    if unit is not None and is_weight(unit):
        grams = read_grams(text, name=name, low=0.01, high=brim_ml * density + 0.005, notation=notation)
        return min(float(grams) / density, brim_ml)
    return float(read_ml(text, name=name, low=0.01, high=brim_ml, notation=notation))


@dataclass(frozen=True, slots=True)
class _Box:
    """What a box is called and takes; `bare` is the unit of a number that stands alone.

    One for a reading of the scale takes no sum, product or range; others take them with their units.
    """

    name: str
    span: tuple[float, float]
    notation: Notation
    unit: str
    bare: Unit
    is_reading: bool = False

    def read(self, text: str, to: Weigh) -> tuple[Weight, bool]:
        """Return what `text` comes to, and whether it was a number alone."""
        check_text(text, RECIPE_LINE_CHARS, name=self.name)
        cleaned = " ".join(text.split())
        if not cleaned:
            span = span_in_words(self.span, self.unit)
            self._refuse(
                Message(
                    "{name} is empty. Type it in {unit}, {span}.",
                    name=self.name,
                    unit=self.said_in,
                    span=span,
                )
            )
        phrase = read_phrase(cleaned.removeprefix("+").rstrip(".,"), self.notation)
        if phrase.is_minus or cleaned.startswith(("-", "−")):
            self._refuse(
                Message(
                    "{name} cannot be below {span:g}. Leave the minus sign out.",
                    name=self.name,
                    span=self.span[0],
                )
            )
        if phrase.asides or phrase.strength:
            self._refuse(
                said(
                    "“{cleaned}” is not an amount. Type {name} in {unit}, such as {such}.",
                    cleaned=cleaned[:20],
                    name=inside(self.name),
                    unit=self.said_in,
                    such=self.such,
                )
            )
        if not phrase.amounts or phrase.stray or phrase.words:
            self._refuse(
                said(
                    "“{cleaned}” is not a number. Type {name} in {unit}, such as {such}.",
                    cleaned=cleaned[:20],
                    name=inside(self.name),
                    unit=self.said_in,
                    such=self.such,
                )
            )
        try:
            refuse_leftovers(phrase, cleaned)
            amount = _with_unit(phrase, self.bare)
            others = others_of(phrase.amounts, stated_of(phrase.amounts))
            weight, is_alone = to(amount, phrase.form, others), all(a.unit is None for a in phrase.amounts)
        except CalmTinError as refused:
            self._refuse(refused.sentence)
        if self.is_reading and amount.low != amount.high:
            phrase.worked_out.add("range")
        if phrase.worked_out and (self.is_reading or is_alone):
            self._refuse(self._offered(cleaned, phrase, weight))
        return weight, is_alone

    @property
    def said_in(self) -> str:
        """The unit of a number that stands alone, as it is written."""
        return "fl oz" if self.bare == "fl_oz" else str(self.bare)

    @property
    def such(self) -> str:
        """Two amounts as an example: a number alone, and one with another unit."""
        return {
            "g": gettext_noop("29.8 or 2 oz"),
            "oz": gettext_noop("1.05 or 30 g"),
            "ml": gettext_noop("60 or 2 fl oz"),
        }.get(self.bare, "2 or 60 ml")

    def _offered(self, text: str, phrase: Phrase, weight: Weight) -> Words:
        """Return what to type in place of a sum, a product or a range: a box takes one amount."""
        if "range" in phrase.worked_out:
            return said(
                "“{text}” is a range. Type one amount for {name}.",
                text=text[:20],
                name=inside(self.name),
            )
        kind = "a sum" if "sum" in phrase.worked_out else "a product"
        return Message(
            "“{typed}” is {kind}. If that is right, type the result, {comes_to}.",
            typed=text[:20],
            kind=kind,
            comes_to=quantity(Decimal(repr(weight.grams)), self.unit),
        )

    def within(self, value: float) -> Decimal:
        """Return a value to a hundredth; refuse one outside the span of the box."""
        exact = Decimal(repr(value))
        return in_span(exact, name=self.name, span=self.span, unit=self.unit, places=2, field=self.unit)

    def _refuse(self, sentence: Words) -> NoReturn:
        raise UnreadableNumber(sentence, field=self.unit)


# What may stand beside an amount: "1 cup, melted", "2 tbsp (26 g)".
_BESIDE = frozenset(",;()[]")
_AGREE = 0.05  # by which two weights that say the same may differ


def refuse_leftovers(phrase: Phrase, text: str) -> None:
    """Refuse a box in which a number or a sign belongs to no amount, so that nothing typed is passed over.

    An amount may be said again in another measure: "2 tbsp (26 g)", "6 oz or 170 g". Raises `CalmTinError`.

    >>> refuse_leftovers(read_phrase("2 tbsp (26 g)"), "2 tbsp (26 g)")
    """
    strange = [symbol for symbol in phrase.symbols if symbol not in _BESIDE]
    if strange:
        raise CalmTinError(
            said(
                "“{text}” is unclear because of “{strange}”. Type one amount, such as 12.5.",
                text=text[:20],
                strange=strange[0],
            )
        )
    if len(phrase.amounts) > 1 and not _say_the_same(phrase.amounts):
        raise CalmTinError(
            said("“{text}” contains more than one amount. Type one of them.", text=text[:20])
        )


def _say_the_same(amounts: Sequence[Amount]) -> bool:
    """Whether two amounts may be one, said in two measures; weights can be held against each other."""
    units = {amount.unit for amount in amounts}
    if len(amounts) != 2 or len(units) != 2 or None in units:
        return False
    weights = [a.value * size_of(a.unit)[0] for a in amounts if a.unit is not None and a.is_weight]
    return len(weights) < 2 or max(weights) <= min(weights) * (1 + _AGREE)


def _with_unit(phrase: Phrase, bare: Unit) -> Amount:
    """Return the amount that counts; one that has no unit is in the box's own."""
    stated = stated_of(phrase.amounts)
    if stated.unit in ("part", "percent"):
        raise CalmTinError(
            said(
                "“{written}” is a share. Type a weight, such as “29.8 g” or “2 oz”.", written=stated.written
            )
        )
    if stated.unit is None:
        return Amount(stated.value, stated.low, stated.high, bare, stated.written, stated.other)
    if any(amount.unit is None for amount in phrase.amounts):
        raise CalmTinError(
            said(
                "“{written}” is next to another amount. Type one of them.",
                written=phrase.amounts[-1].written,
            )
        )
    return stated


def _grams_of(material: Material | None, drops_per_ml: Drops | None) -> Weigh:
    def grams(amount: Amount, form: Form | None, others: Sequence[Amount]) -> Weight:
        assert amount.unit is not None
        if material is None:
            if not is_weight(amount.unit):
                raise CalmTinError(
                    said(
                        "“{written}” is a volume, but this needs a weight. Type it in g, kg, oz or lb.",
                        written=amount.written,
                    )
                )
            return _of_size(amount, gettext_noop("by weight"))
        weight = weight_of(amount, material, form, drops_per_ml)
        refuse_disagreement(weight, others, material, form, drops_per_ml)
        return weight

    return grams


def _ml_of(amount: Amount, _: Form | None, __: Sequence[Amount]) -> Weight:
    """Return a volume in ml, in the place of grams."""
    assert amount.unit is not None
    if amount.unit == "oz":
        raise CalmTinError(
            Message(
                "Ounces of weight or of volume? Type “{value:g} fl oz” or millilitres.", value=amount.value
            )
        )
    if is_weight(amount.unit) or amount.unit in ("drop", "dropper", "squeeze", "capsule"):
        raise CalmTinError(
            said("“{written}” is not a volume. Type it in ml, fl oz or cups.", written=amount.written)
        )
    return _of_size(amount, gettext_noop("by volume"))


def _of_size(amount: Amount, how: str) -> Weight:
    assert amount.unit is not None
    size, _ = size_of(amount.unit)
    return Weight(amount.value * size, amount.low * size, amount.high * size, None, False, how)
