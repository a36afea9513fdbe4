"""What a maker sets for the whole draft: its batch, how it is cooled and whipped, a tincture's strength."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import BATCH_G, OVERRUN_PCT, PERCENT, check
from calmtin.core.process.grain import COOLINGS
from calmtin.formulas.adapters import MEASURED, composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.services.drafts import edit, find_line

CENT = Decimal("0.01")


def set_batch(user: Any, version: Version, *, batch_g: Decimal, seen: int) -> Version:
    """Set the batch size that weights are shown for; measured amounts scale with it."""
    with edit(user, version, seen) as (draft, shelf):
        was = draft.batch_g
        composition = composition_of(draft, shelf)
        set_batch_of(draft, batch_g)
        for line in draft.lines.all():
            measured = composition[line.key].measured_in(was)
            if measured and draft.batch_g != was:
                line.measured = measured.scaled(draft.batch_g / was)
                line.save(update_fields=MEASURED)
    return draft


def set_batch_of(draft: Version, batch_g: Decimal) -> None:
    """Write the batch of a draft that is being edited; refuse what no pot is."""
    check(batch_g, BATCH_G, name="A batch", field="batch", unit="g")
    draft.batch_g = batch_g.quantize(CENT)
    draft.save(update_fields=["batch_g"])


def set_process(user: Any, version: Version, *, cooling: str, overrun_pct: int, seen: int) -> Version:
    """Choose how it is cooled, and how much volume whipping adds."""
    check(overrun_pct, OVERRUN_PCT, name=gettext("The volume gain"), field="overrun", unit="%")
    if cooling not in COOLINGS:
        raise CalmTinError(gettext("Choose a way of cooling from the list."), field="cooling")
    with edit(user, version, seen) as (draft, _):
        draft.cooling, draft.overrun_pct = cooling, overrun_pct
        draft.save(update_fields=["cooling", "overrun_pct"])
    return draft


def set_strength(
    user: Any, version: Version, *, key: str, alcohol_pct: float, seen: int, typed: str = ""
) -> Version:
    """Say how strong a tincture is, % by volume; `typed` keeps it as it was written, "100 proof"."""
    check(alcohol_pct, PERCENT, name=gettext("A tincture’s strength"), field="strength", unit="% by volume")
    with edit(user, version, seen) as (draft, _):
        line = find_line(draft, key)
        line.alcohol_pct, line.alcohol_typed = alcohol_pct, typed[:20]
        line.save(update_fields=["alcohol_pct", "alcohol_typed"])
    return draft
