"""What stands in one box: a weight or a volume, in any notation that a recipe may use.

The same grammar that reads a pasted line reads a box. What a box cannot use it names.
"""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal

from calmtin.core.errors import CalmTinError, UnreadableNumber
from calmtin.core.limits import RECIPE_LINE_CHARS, check_text
from calmtin.core.materials import Material
from calmtin.core.recipe.grammar import Amount, Phrase, read_phrase
from calmtin.core.recipe.measures import Form, is_weight, size_of, to_weight
from calmtin.core.recipe.notation import USUAL, Notation
from calmtin.core.recipe.reader import stated_of
from calmtin.core.units import in_span

_SHARES = (None, "part", "percent")


def read_grams(
    text: str,
    *,
    name: str,
    low: float = 0.0,
    high: float,
    places: int = 2,
    material: Material | None = None,
    drops_per_ml: tuple[float, float, float] | None = None,
    notation: Notation = USUAL,
    field: str = "grams",
) -> Decimal:
    """Return the grams in a box for a weight: "29.8", "2 oz", "1 lb 4 oz", "½ tsp" of `material`.

    A bare number is in the scale's own unit; an "oz" beside a scale weighs. Volumes,
    drops and spoons need a material. Raises `UnreadableNumber` with what to type instead.

    >>> read_grams("1 lb 4 oz", name="The batch", high=50_000)
    Decimal('566.99')
    """
    grams = _grams_of(material, drops_per_ml)
    return _read(
        text, name, (low, high), places, notation, field, unit="g", bare=notation.scale_unit, to=grams
    )


def read_ml(
    text: str,
    *,
    name: str,
    low: float = 0.0,
    high: float,
    places: int = 2,
    notation: Notation = USUAL,
    field: str = "ml",
) -> Decimal:
    """Return the millilitres in a box for a volume: "60", "60 ml", "2 fl oz", "½ cup".

    Raises `UnreadableNumber`: a weight has no volume of its own, and "oz" may be either.

    >>> read_ml("2 fl oz", name="It", high=1000)
    Decimal('59.15')
    """
    return _read(text, name, (low, high), places, notation, field, unit="ml", bare="ml", to=_ml_of)


def _read(
    text: str,
    name: str,
    span: tuple[float, float],
    places: int,
    notation: Notation,
    field: str,
    *,
    unit: str,
    bare: str,
    to: Callable[[Amount, Form | None], float],
) -> Decimal:
    check_text(text, RECIPE_LINE_CHARS, name=name, field=field)
    cleaned = " ".join(text.split())
    if not cleaned:
        raise UnreadableNumber(
            f"{name} is empty. Type it in {unit}, from {span[0]:g} to {span[1]:g} {unit}.", field=field
        )
    phrase = read_phrase(cleaned.removeprefix("+"), notation)
    said = cleaned[:20]
    if phrase.is_minus or cleaned.startswith(("-", "−")):
        raise UnreadableNumber(
            f"{name} cannot be below {span[0]:g}. Leave the minus sign out.", field=field, limit=span[0]
        )
    if phrase.asides or phrase.strength:
        raise UnreadableNumber(f"“{said}” is no amount. Type {name} in {unit}.", field=field)
    if not phrase.amounts or phrase.stray or phrase.words:
        raise UnreadableNumber(
            f"“{said}” is not a number that can be read here. Type {name} in {unit}, such as 29.8 or 2 oz."
            if unit == "g"
            else f"“{said}” is not a number that can be read here. Type {name} in {unit}, such as 60.",
            field=field,
        )
    try:
        value = to(_with_unit(phrase, bare), phrase.form)
    except CalmTinError as refused:
        raise UnreadableNumber(refused.sentence, field=field) from None
    return in_span(Decimal(repr(value)), name=name, span=span, unit=unit, places=places, field=field)


def _with_unit(phrase: Phrase, bare: str) -> Amount:
    """Return the amount that counts; one that has no unit is in the box's own."""
    stated = stated_of(phrase.amounts)
    if stated.unit in ("part", "percent"):
        raise CalmTinError(f"“{stated.written}” is a share. Type a weight, such as 29.8 g or 2 oz.")
    if stated.unit is None:
        value = stated.value
        return Amount(value, stated.low, stated.high, bare, stated.written, stated.other)  # type: ignore[arg-type]
    if any(amount.unit is None for amount in phrase.amounts):
        raise CalmTinError(
            f"“{phrase.amounts[-1].written}” stands beside another amount. Type one of them."
        )
    return stated


def _grams_of(
    material: Material | None, drops_per_ml: tuple[float, float, float] | None
) -> Callable[[Amount, Form | None], float]:
    def grams(amount: Amount, form: Form | None) -> float:
        assert amount.unit is not None
        if is_weight(amount.unit):
            return amount.value * size_of(amount.unit)[0]
        if material is None:
            raise CalmTinError(
                f"“{amount.written}” is a volume, and this is weighed. Type it in g, kg, oz or lb."
            )
        return to_weight(
            material,
            amount.value,
            amount.unit,
            form=form,
            drops_per_ml=drops_per_ml,
            low=amount.low,
            high=amount.high,
        ).grams

    return grams


def _ml_of(amount: Amount, _: Form | None) -> float:
    assert amount.unit is not None
    if amount.unit == "oz":
        raise CalmTinError(f"Ounces of weight or of volume? Type “{amount.value:g} fl oz” or millilitres.")
    if is_weight(amount.unit) or amount.unit in ("drop", "dropper", "squeeze", "capsule"):
        raise CalmTinError(f"“{amount.written}” is no volume. Type it in ml, fl oz or cups.")
    return amount.value * size_of(amount.unit)[0]
