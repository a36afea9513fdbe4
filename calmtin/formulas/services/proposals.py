"""Apply a proposal to a draft as a whole, or nothing of it."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.utils.translation import gettext

from calmtin.core.composition import MOST_LINES, WHOLE
from calmtin.core.errors import DoesNotAddUp
from calmtin.core.limits import PERCENT, check
from calmtin.core.messages import said
from calmtin.formulas.adapters import MEASURED
from calmtin.formulas.models import Version
from calmtin.formulas.services.balancing import hold
from calmtin.formulas.services.drafts import EditedElsewhere, edit
from calmtin.formulas.services.lines import next_position


def apply_lines(
    user: Any, version: Version, *, percents: list[tuple[str, str, Decimal]], seen: int
) -> Version:
    """Set all lines to (key, slug, percent), as proposed by the solver or a swap.

    The key "+" adds a line, and an empty slug takes one out. Raises `DoesNotAddUp`
    unless they sum to exactly 100 and name every line.
    """
    if sum((percent for _, _, percent in percents), Decimal(0)) != WHOLE:
        raise DoesNotAddUp(
            gettext("This change doesn’t add up to 100 %. Calculate it again."), field="percent"
        )
    for _, _, percent in percents:
        check(percent, PERCENT, name="A line", field="percent", unit="%")
    _refuse_crowd([slug for _, slug, _ in percents if slug])
    with edit(user, version, seen) as (draft, shelf):
        lines = {line.key: line for line in draft.lines.all()}
        keys = [key for key, _, _ in percents if key != "+"]
        if sorted(lines) != sorted(keys):
            raise EditedElsewhere(
                gettext("The formula’s lines have changed. Calculate it again."), field="revision"
            )
        for key, slug, percent in percents:
            held = lines.get(key)
            if held and held.is_locked and (held.material, held.percent) != (slug, percent):
                raise DoesNotAddUp(
                    said(
                        "{label} is locked, so this change no longer fits. Calculate it again.",
                        label=shelf[held.material].label,
                    ),
                    field="percent",
                )
        for key, slug, percent in percents:
            if key == "+":
                draft.lines.create(
                    position=next_position(draft), material=shelf[slug].slug, percent=percent
                )
            elif slug:
                line = lines[key]
                if (line.material, line.percent) != (slug, percent):
                    line.measured = None
                line.material, line.percent = shelf[slug].slug, percent
                line.save(update_fields=["material", "percent", *MEASURED])
            else:
                lines[key].delete()
        hold(draft, shelf)
    return draft


def _refuse_crowd(slugs: list[str]) -> None:
    """Refuse more lines than a formula holds, and the same material twice."""
    if len(slugs) > MOST_LINES:
        raise DoesNotAddUp(
            said("A formula can have up to {most_lines} lines.", most_lines=MOST_LINES),
            field="lines",
            limit=MOST_LINES,
        )
    if len(set(slugs)) != len(slugs):
        raise DoesNotAddUp(
            gettext("This change names a material twice. Calculate it again."), field="lines"
        )
