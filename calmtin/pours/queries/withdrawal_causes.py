"""What took from a lot: the pour of each withdrawal."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.urls import reverse
from django.utils.translation import gettext_noop

from calmtin.pantry.queries.ledger import Cause
from calmtin.pours.models import FinishWeighIn, PotAddition, WeighIn

TOOK = (
    (WeighIn, "line__pour", "{}"),
    (FinishWeighIn, "part__pour", gettext_noop("a finish of {}")),
    (PotAddition, "pour", gettext_noop("added to {}")),
)


def causes_of(user: Any, withdrawals: Sequence[int]) -> dict[int, Cause]:
    """Return the pour that each of these withdrawals went into."""
    causes = {}
    for model, path, words in TOOK:
        rows = model.objects.of(user).filter(withdrawal__in=withdrawals)
        for key, pour, code in rows.values_list("withdrawal", path, f"{path}__code"):
            causes[key] = Cause(words.format(code), reverse("pours:pour", args=[pour]))
    return causes
