"""What was typed for a material of the shelf, as a weight."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.data.loader import drops_per_ml
from calmtin.core.materials import Material
from calmtin.core.recipe.reader import weigh_typed


@dataclass(frozen=True)
class TypedWeight:
    """Grams to the hundredth, and the words with the range that they may mean."""

    grams: Decimal
    typed: str
    span: str


def weight_typed(words: str, material: Material) -> TypedWeight:
    """Return the weight of a material that `words` say; raises `CalmTinError` where they say none."""
    weight = weigh_typed(words, material, drops_per_ml=drops_per_ml().get(material.slug))
    exact = weight.low == weight.high
    span = "" if exact else f" ({weight.low:.0f} to {weight.high:.0f} g, {weight.how})"
    grams = Decimal(repr(weight.grams)).quantize(Decimal("0.01"))
    return TypedWeight(grams, f"{words}{span}"[:120], span)
