"""The typed amount of a material of the shelf, as a weight."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from calmtin.common.templatetags.calm import range_end
from calmtin.core.data.loader import drops_per_ml
from calmtin.core.materials import Material
from calmtin.core.messages import notation_in_force, said
from calmtin.core.recipe.typed import weigh_typed


@dataclass(frozen=True)
class TypedWeight:
    """Grams to the hundredth, and the words with the range that they may mean."""

    grams: Decimal
    typed: str
    span: str


def weight_typed(words: str, material: Material) -> TypedWeight:
    """Return the weight of a material that `words` say; raises `CalmTinError` where they say none."""
    drops = drops_per_ml().get(material.slug)
    weight = weigh_typed(words, material, drops_per_ml=drops, notation=notation_in_force())
    exact = weight.low == weight.high
    unit = notation_in_force().scale_unit
    span = (
        ""
        if exact
        else said(
            " ({low} to {high} {unit}, {how})",
            low=range_end(weight.low),
            high=range_end(weight.high),
            unit=unit,
            how=weight.how,
        )
    )
    grams = Decimal(repr(weight.grams)).quantize(Decimal("0.01"))
    return TypedWeight(grams, f"{words}{span}"[:120], span)
