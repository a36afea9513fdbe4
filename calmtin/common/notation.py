"""Weights as the bench of the maker at work writes them, in digits without their unit."""

from __future__ import annotations

from decimal import Decimal

from calmtin.core.messages import notation_in_force
from calmtin.core.quantities import Mass


def scale_weight(grams: Decimal | float) -> str:
    """Write grams in the unit of the bench's scale: in the steps they came in, or in ounces.

    >>> scale_weight(Decimal("4.80")), scale_weight(250.0)
    ('4.8', '250')
    """
    return Mass(grams).number(notation_in_force())
