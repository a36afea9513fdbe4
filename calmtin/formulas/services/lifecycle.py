"""Start a formula, its next version or a copy; name it; close a version for good."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.db.models import Max, QuerySet
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.common.registry import Sources
from calmtin.core.composition import MOST_LINES
from calmtin.core.data.loader import kinds
from calmtin.core.errors import CalmTinError, DoesNotAddUp
from calmtin.core.limits import BATCH_G, PERCENT, check, check_text
from calmtin.core.measured import Measured
from calmtin.core.messages import said
from calmtin.formulas.models import Acknowledgement, Audience, Formula, Line, Version, new_key
from calmtin.formulas.services.balancing import hold
from calmtin.pantry.adapters import shelf_for


@sent_once
@transaction.atomic
def start_formula(
    user: Any,
    *,
    name: str,
    kind: str,
    audience: str = "",
    sees_sun: bool = True,
    lines: list[tuple[str, Decimal]] | None = None,
    measured: list[Measured | None] | None = None,
    batch_g: Decimal | None = None,
) -> Formula:
    """Start a formula with its first draft, holding `lines` (slug, percent) if given.

    `measured` keeps beside each line how its amount was measured.

    The largest liquid oil, or else the largest line, balances to 100.
    """
    check_text(name, 80, name=gettext("The name"), field="name")
    if kind not in kinds():
        raise CalmTinError(gettext("Choose a kind from the list."), field="kind")
    if batch_g is not None:
        check(batch_g, BATCH_G, name="A batch", field="batch", unit="g")
    for _, percent in lines or []:
        check(percent, PERCENT, name="A line", field="lines", unit="%")
    lips = kind in ("lip_balm", "gloss")
    whom = {"audience": audience or (Audience.ADULT_LIPS if lips else Audience.ADULT_BODY_LEAVE_ON)}
    formula = Formula.objects.create(owner=user, name=name, kind=kind, sees_sun=sees_sun, **whom)
    overrun_pct = round(100 * formula.kind_facts.usual_overrun)
    version = Version.objects.create(formula=formula, number=1, overrun_pct=overrun_pct)
    shelf = shelf_for(user)
    if batch_g is not None:
        version.batch_g = batch_g
        version.save(update_fields=["batch_g"])
    if len(lines or []) > MOST_LINES:
        raise DoesNotAddUp(
            said("A formula can have up to {most_lines} lines.", most_lines=MOST_LINES),
            field="lines",
            limit=MOST_LINES,
        )
    for position, (slug, percent) in enumerate(lines or []):
        line = Line(version=version, position=position, material=shelf[slug].slug, percent=percent)
        line.measured = measured[position] if measured else None
        line.save()
    if lines:
        hold(version, shelf)
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
    seen: int | None = None,
) -> Formula:
    """Change a formula's name, kind, audience or notes; poured percentages stay.

    `seen` is the revision that the maker saw; a later one is refused with `CalmTinError`.
    """
    read_again(user, formula)
    if seen is not None and seen != formula.revision:
        raise CalmTinError(
            gettext(
                "Name, kind or notes were changed in another tab or on another device since this page was "
                "opened. What you typed is still here. Check the latest version before you save."
            )
        )
    check_text(name, 80, name=gettext("The name"), field="name")
    check_text(notes, 2000, name=gettext("The notes"), field="notes")
    formula.revision += 1
    formula.name, formula.kind, formula.sees_sun, formula.notes = name, kind, sees_sun, notes
    formula.audience = audience or formula.audience
    formula.save(update_fields=["name", "kind", "audience", "sees_sun", "notes", "revision", "touched_at"])
    if formula.pair_id is not None:  # the two of a pair have one name
        Formula.objects.filter(pair=formula.pair_id).exclude(pk=formula.pk).update(name=name)
    return formula


@transaction.atomic
def archive_formula(user: Any, formula: Formula) -> None:
    """Take a formula out of the lists; it keeps everything, and its pours stay where they are."""
    read_again(user, formula)
    if formula.put_away_at is None:
        formula.put_away_at = timezone.now()
        formula.save(update_fields=["put_away_at"])


@transaction.atomic
def restore_formula(user: Any, formula: Formula) -> None:
    """Restore an archived formula."""
    read_again(user, formula)
    formula.put_away_at = None
    formula.save(update_fields=["put_away_at"])


@sent_once
@transaction.atomic
def acknowledge(
    user: Any, formula: Formula, *, key: str, material: str, level: str, reason: str
) -> Acknowledgement:
    """Keep that the maker has seen a caution as strong as `level`, and why they go on."""
    read_again(user, formula)
    if not reason.strip():
        raise CalmTinError(gettext("Give your reason to go on in a few words."), field="reason")
    return Acknowledgement.objects.create(
        formula=formula,
        key=key[:20],
        material=material[:60],
        level="think" if level == "think" else "stop",
        reason=reason.strip()[:200],
    )


@sent_once
@transaction.atomic
def start_next_version(user: Any, version: Version) -> Version:
    """Start the next draft from any version, with the same lines under the same keys."""
    read_again(user, version)
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
def thaw(user: Any, version: Version) -> Version:
    """Make a version a draft again, because the only pour of it was cancelled.

    Only whoever calls a pour off may ask for it; the database refuses it while a pour stands.
    """
    read_again(user, version)
    QuerySet(Version).filter(pk=version.pk).update(poured_at=None)
    version.refresh_from_db()
    return version


@transaction.atomic
def freeze(user: Any, version: Version) -> Version:
    """Close a version for good, because something is poured from it."""
    read_again(user, version)
    if not version.lines.exists():
        raise CalmTinError(gettext("Add materials before you pour."), field="material")
    if not version.is_poured:
        version.poured_at = timezone.now()
        version.save(update_fields=["poured_at"])
    return version


@transaction.atomic
def mark_poured(user: Any, version: Version, at: datetime) -> None:
    """Set when a closed version was first poured; called when a pour is closed."""
    read_again(user, version)
    if version.first_poured_at is None:
        version.first_poured_at = at
        version.save(update_fields=["first_poured_at"])


# What apps above hold on to a draft only until it is deleted: each is called with maker and version.
before_deleting: Sources[Callable[[Any, Version], None]] = Sources()


@transaction.atomic
def delete_draft(user: Any, version: Version, *, seen: int) -> Formula | None:
    """Delete the newest draft, and its formula with it where that was all there is of it.

    Returns the formula, or None where it is gone. Raises `CalmTinError` for a version that
    was closed for a pour, one that another tab has changed since, or one that others came from.
    """
    read_again(user, version)
    formula = version.formula
    if version.is_poured:
        raise CalmTinError(
            gettext("This version has been poured, so it can’t be deleted. Archive the formula instead.")
        )
    if seen != version.revision:
        raise CalmTinError(gettext("This draft was changed in another tab. Check it before you delete it."))
    is_last = formula.versions.count() == 1
    if is_last and version.branches.exists():
        raise CalmTinError(gettext("Another formula was copied from this one. Archive instead."))
    for let_go in before_deleting:
        let_go(user, version)
    version.delete()
    if not is_last:
        return formula
    formula.delete()
    return None
