"""Start a formula, its next version or a copy; name it; close a version for good."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from calmtin.core.composition import MOST_LINES
from calmtin.core.errors import CalmTinError, DoesNotAddUp
from calmtin.formulas.models import Acknowledgement, Audience, Formula, Line, Version, new_key
from calmtin.formulas.services.balancing import choose_balancing, rebalance
from calmtin.pantry.adapters import shelf_for

# Whipped butter takes up to twice its unwhipped volume; most makers stop a little earlier.
USUAL_OVERRUN_PCT = 80


@transaction.atomic
def start_formula(
    user: Any,
    *,
    name: str,
    kind: str,
    audience: str = "",
    sees_sun: bool = True,
    lines: list[tuple[str, Decimal]] | None = None,
    typed: list[str] | None = None,
    batch_g: Decimal | None = None,
    request_key: UUID | None = None,
) -> Formula:
    """Start a formula with its first draft, holding `lines` (slug, percent) if given.

    `typed` keeps beside each line what was written for it.

    The last liquid oil, or else the largest line, balances to 100. The same
    `request_key` never makes a second formula.
    """
    if request_key and (existing := Formula.objects.of(user).filter(request_key=request_key).first()):
        return existing
    key = {"request_key": request_key} if request_key else {}
    lips = kind in ("lip_balm", "gloss")
    whom = {"audience": audience or (Audience.ADULT_LIPS if lips else Audience.ADULT_BODY_LEAVE_ON)}
    formula = Formula.objects.create(owner=user, name=name, kind=kind, sees_sun=sees_sun, **whom, **key)
    overrun_pct = USUAL_OVERRUN_PCT if formula.kind_facts.is_whipped else 0
    version = Version.objects.create(formula=formula, number=1, overrun_pct=overrun_pct)
    shelf = shelf_for(user)
    if batch_g is not None:
        version.batch_g = batch_g
        version.save(update_fields=["batch_g"])
    if len(lines or []) > MOST_LINES:
        raise DoesNotAddUp(f"A formula holds up to {MOST_LINES} lines.", field="lines", limit=MOST_LINES)
    for position, (slug, percent) in enumerate(lines or []):
        words = typed[position][:200] if typed else ""
        version.lines.create(position=position, material=shelf[slug].slug, percent=percent, typed=words)
    if lines:
        choose_balancing(version, shelf)
        rebalance(version, shelf)
    return formula


@transaction.atomic
def rename(
    user: Any,
    formula: Formula,
    *,
    name: str,
    kind: str,
    audience: str = "",
    sees_sun: bool = True,
    notes: str = "",
) -> Formula:
    """Give a formula another name, kind, audience or notes; what was poured keeps its percentages."""
    formula.name, formula.kind, formula.sees_sun, formula.notes = name, kind, sees_sun, notes
    formula.audience = audience or formula.audience
    formula.save(update_fields=["name", "kind", "audience", "sees_sun", "notes", "touched_at"])
    return formula


@transaction.atomic
def acknowledge(
    user: Any, formula: Formula, *, key: str, material: str, level: str, reason: str
) -> Acknowledgement:
    """Keep that the maker has seen a caution as strong as `level`, and why they go on."""
    if not reason.strip():
        raise CalmTinError("Say in a few words why you go on.", field="reason")
    return Acknowledgement.objects.create(
        formula=formula,
        key=key[:20],
        material=material[:60],
        level="think" if level == "think" else "stop",
        reason=reason.strip()[:200],
    )


@transaction.atomic
def start_next_version(user: Any, version: Version) -> Version:
    """Start the next draft from any version, with the same lines under the same keys."""
    last = version.formula.versions.aggregate(last=Max("number"))["last"]
    return copy_version(version, version.lines.all(), number=last + 1, parent=version)


def copy_version(version: Version, lines: Iterable[Line], **changes: Any) -> Version:
    """Copy a version with `changes`, holding copies of `lines`; in another formula these get new keys."""
    kept = {field: getattr(version, field) for field in ("formula", "batch_g", "overrun_pct", "cooling")}
    made = Version.objects.create(**kept | changes)
    for line in lines:
        if made.formula_id != version.formula_id:
            line.key = new_key()
        line.pk, line.version = None, made
        line._state.adding = True
        line.save()
    return made


@transaction.atomic
def freeze(version: Version) -> Version:
    """Close a version for good, because something is poured from it."""
    if not version.lines.exists():
        raise CalmTinError("There is nothing to pour yet. Add materials first.", field="material")
    if not version.is_poured:
        version.poured_at = timezone.now()
        version.save(update_fields=["poured_at"])
    return version
