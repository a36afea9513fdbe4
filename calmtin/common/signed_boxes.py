"""What a box was shown with, to the letter: it goes out signed beside the box and comes back with it.

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
    """Return what was signed; nothing for anything else."""
    try:
        found = signing.loads(text or "", salt=_SALT)
    except signing.BadSignature:
        return {}
    return {name: (shown, Decimal(value)) for name, (shown, value) in found.items()}
