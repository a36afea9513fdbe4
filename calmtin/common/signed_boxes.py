"""The exact value a box was shown with, signed, sent with the form and read when it comes back.

1 g is shown as 0.04 oz, which is 1.13 g; sent back untouched it is 1 g, whatever changed since.
"""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from django.core import signing

_SALT = "calmtin.shown"


def sealed(shown: Mapping[str, tuple[str, Decimal | float]]) -> str:
    """Return texts of boxes and the values that they stand for, signed."""
    return signing.dumps({name: [text, str(value)] for name, (text, value) in shown.items()}, salt=_SALT)


def unsealed(text: str | None) -> dict[str, tuple[str, Decimal]]:
    """Return the signed value; None if the signature does not match."""
    try:
        found = signing.loads(text or "", salt=_SALT)
    except signing.BadSignature:
        return {}
    return {name: (shown, Decimal(value)) for name, (shown, value) in found.items()}
