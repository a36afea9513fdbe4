"""What a maker does to a formula: one function each, atomic, for page and script alike.

Every edit names the revision that the maker saw. When another tab has moved on
since, the edit is refused and nothing changes.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import F, Max
from django.utils import timezone

from calmtin.core.composition import MOST_LINES, WHOLE, balancing_percent
from calmtin.core.errors import CalmTinError, DoesNotAddUp
from calmtin.core.materials import Shelf
from calmtin.formulas.models import Acknowledgement, Audience, Formula, Line, Version
from calmtin.pantry.adapters import shelf_for

# Whipped butter takes up to twice its unwhipped volume; most makers stop a little earlier.
USUAL_OVERRUN_PCT = 80


class EditedElsewhere(CalmTinError):
    """Another tab changed this version after the maker last saw it."""


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
        _choose_balancing(version, shelf)
        _rebalance(version, shelf)
    return formula


def set_percent(user: Any, version: Version, *, key: str, percent: Decimal, seen: int) -> Version:
    """Give one line its percentage; the balancing line takes up the difference."""
    with _edit(user, version, seen) as (draft, shelf):
        line = _line(draft, key)
        if line.is_balancing:
            raise DoesNotAddUp(
                "This line balances the total, so its percentage follows from the others. "
                "Let another line balance first.",
                field="percent",
            )
        if line.is_locked:
            raise DoesNotAddUp("This line is locked. Unlock it first.", field="percent")
        line.percent = percent
        line.save(update_fields=["percent"])
        _rebalance(draft, shelf)
    return draft


def set_lock(user: Any, version: Version, *, key: str, is_locked: bool, seen: int) -> Version:
    """Lock a line, so that neither a hand nor the solver moves it; the balancing line cannot be."""
    with _edit(user, version, seen) as (draft, _):
        line = _line(draft, key)
        if line.is_balancing and is_locked:
            raise DoesNotAddUp(
                "This line balances the total, so it has to move. Let another line balance first.",
                field="percent",
            )
        line.is_locked = is_locked
        line.save(update_fields=["is_locked"])
    return draft


def apply_lines(
    user: Any, version: Version, *, percents: list[tuple[str, str, Decimal]], seen: int
) -> Version:
    """Set all lines at once to (key, slug, percent), as a solver or a swap proposed them.

    Raises `DoesNotAddUp` unless they sum to exactly 100 and name every line.
    """
    if sum((percent for _, _, percent in percents), Decimal(0)) != WHOLE:
        raise DoesNotAddUp("A proposal must sum to 100 %. Work it out again.", field="percent")
    with _edit(user, version, seen) as (draft, shelf):
        lines = {line.key: line for line in draft.lines.all()}
        if set(lines) != {key for key, _, _ in percents}:
            raise EditedElsewhere(
                "The formula has other lines by now. Work it out again.", field="revision"
            )
        for key, slug, percent in percents:
            line = lines[key]
            line.material, line.percent = shelf[slug].slug, percent
            line.save(update_fields=["material", "percent"])
    return draft


def trade(user: Any, version: Version, *, key: str, other: str, percent: Decimal, seen: int) -> Version:
    """Give one line `percent` and let `other` take up the difference; the rest stays as it is.

    Raises `DoesNotAddUp` when the two together are less than that, or either is locked.
    """
    with _edit(user, version, seen) as (draft, shelf):
        line, across = _line(draft, key), _line(draft, other)
        if line.is_locked or across.is_locked:
            raise DoesNotAddUp("This line is locked. Unlock it first.", field="percent")
        both = line.percent + across.percent
        if percent > both:
            names = f"{shelf[line.material].label} and {shelf[across.material].label}"
            raise DoesNotAddUp(
                f"{names} make {both.normalize():f} % together.",
                field="percent",
                limit=float(both),
                unit="%",
            )
        line.percent, across.percent = percent, both - percent
        line.save(update_fields=["percent"])
        across.save(update_fields=["percent"])
    return draft


def add_line(user: Any, version: Version, *, slug: str, percent: Decimal, seen: int) -> Version:
    """Add a material; the first one becomes the balancing line at 100 %."""
    with _edit(user, version, seen) as (draft, shelf):
        count = draft.lines.count()
        if count >= MOST_LINES:
            raise DoesNotAddUp(
                f"A formula holds up to {MOST_LINES} lines. Remove one before adding another.",
                field="material",
                limit=MOST_LINES,
            )
        material = shelf[slug]
        if draft.lines.filter(material=slug).exists():
            raise CalmTinError(
                f"{material.label} is in the formula already. Change its line instead.",
                field="material",
                material=slug,
            )
        last = draft.lines.aggregate(last=Max("position"))["last"]
        draft.lines.create(
            position=0 if last is None else last + 1,
            material=slug,
            percent=percent if count else WHOLE,
            is_balancing=not count,
        )
        _rebalance(draft, shelf)
    return draft


def remove_line(user: Any, version: Version, *, key: str, seen: int) -> Version:
    """Take a line out; if it balanced the total, another line takes over."""
    with _edit(user, version, seen) as (draft, shelf):
        line = _line(draft, key)
        line.delete()
        if line.is_balancing and draft.lines.exists():
            _choose_balancing(draft, shelf)
        _rebalance(draft, shelf)
    return draft


def balance_with(user: Any, version: Version, *, key: str, seen: int) -> Version:
    """Let another line balance the total from now on; no percentage changes."""
    with _edit(user, version, seen) as (draft, _):
        line = _line(draft, key)
        if line.is_locked:
            raise DoesNotAddUp("This line is locked. Unlock it first.", field="percent")
        draft.lines.update(is_balancing=False)
        draft.lines.filter(pk=line.pk).update(is_balancing=True)
    return draft


def set_batch(user: Any, version: Version, *, batch_g: Decimal, seen: int) -> Version:
    """Choose the batch size that the grams are shown for."""
    if not 1 <= batch_g <= 50_000:
        raise CalmTinError("Type a batch from 1 to 50000 g.", field="batch", limit=50_000, unit="g")
    with _edit(user, version, seen) as (draft, _):
        draft.batch_g = batch_g
        draft.save(update_fields=["batch_g"])
    return draft


def set_process(user: Any, version: Version, *, cooling: str, overrun_pct: int, seen: int) -> Version:
    """Choose how it is cooled, and how much volume whipping adds."""
    with _edit(user, version, seen) as (draft, _):
        draft.cooling, draft.overrun_pct = cooling, overrun_pct
        draft.save(update_fields=["cooling", "overrun_pct"])
    return draft


def set_strength(user: Any, version: Version, *, key: str, alcohol_pct: float, seen: int) -> Version:
    """Say how strong a tincture is, % by volume."""
    with _edit(user, version, seen) as (draft, _):
        line = _line(draft, key)
        line.alcohol_pct = alcohol_pct
        line.save(update_fields=["alcohol_pct"])
    return draft


@transaction.atomic
def rename(
    user: Any, formula: Formula, *, name: str, kind: str, audience: str = "", sees_sun: bool = True
) -> Formula:
    """Give a formula another name, kind or audience; what was poured keeps its percentages."""
    formula.name, formula.kind, formula.sees_sun = name, kind, sees_sun
    formula.audience = audience or formula.audience
    formula.save(update_fields=["name", "kind", "audience", "sees_sun", "touched_at"])
    return formula


@transaction.atomic
def acknowledge(user: Any, formula: Formula, *, key: str, material: str, reason: str) -> Acknowledgement:
    """Keep that the maker has seen a caution, and why they go on."""
    if not reason.strip():
        raise CalmTinError("Say in a few words why you go on.", field="reason")
    return Acknowledgement.objects.create(
        formula=formula, key=key[:20], material=material[:60], reason=reason.strip()[:200]
    )


@transaction.atomic
def start_next_version(user: Any, version: Version) -> Version:
    """Start the next draft from any version, with the same lines under the same keys."""
    last = version.formula.versions.aggregate(last=Max("number"))["last"]
    draft = Version.objects.create(
        formula=version.formula,
        number=last + 1,
        parent=version,
        batch_g=version.batch_g,
        overrun_pct=version.overrun_pct,
        cooling=version.cooling,
    )
    for line in version.lines.all():
        line.pk, line.version = None, draft
        line._state.adding = True
        line.save()
    return draft


@transaction.atomic
def freeze(version: Version) -> Version:
    """Close a version for good, because something is poured from it."""
    if not version.lines.exists():
        raise CalmTinError("There is nothing to pour yet. Add materials first.", field="material")
    if not version.is_poured:
        version.poured_at = timezone.now()
        version.save(update_fields=["poured_at"])
    return version


@contextmanager
def _edit(user: Any, version: Version, seen: int) -> Iterator[tuple[Version, Shelf]]:
    """Open `version` for one edit, or the next draft when it was poured, and count it.

    Whatever is raised inside undoes the whole edit, a new draft included.
    """
    with transaction.atomic():
        counted = Version.objects.filter(pk=version.pk, revision=seen).update(revision=F("revision") + 1)
        if not counted:
            raise EditedElsewhere(
                "This formula was changed in another tab or on another device. "
                "You now see its latest state; your last change was not made.",
                field="revision",
            )
        version.refresh_from_db()
        draft = start_next_version(user, version) if version.is_poured else version
        yield draft, shelf_for(user)
        Formula.objects.filter(pk=draft.formula_id).update(touched_at=timezone.now())


def _line(version: Version, key: str) -> Line:
    try:
        return version.lines.get(key=key)
    except Line.DoesNotExist:
        raise EditedElsewhere(
            "That line is no longer in the formula. You now see its latest state.", field="revision"
        ) from None


def _choose_balancing(version: Version, shelf: Shelf) -> None:
    """Let the largest liquid oil balance, or the largest line where there is none."""
    lines = list(version.lines.all())
    chosen = max(lines, key=lambda line: (shelf[line.material].layer == "oil", line.percent))
    version.lines.filter(pk=chosen.pk).update(is_balancing=True, is_locked=False)


def _rebalance(version: Version, shelf: Shelf) -> None:
    """Set the balancing line to what the others leave of 100."""
    lines = list(version.lines.all())
    balancing = next((line for line in lines if line.is_balancing), None)
    if balancing is None:
        return
    others = [line.percent for line in lines if line is not balancing]
    balancing.percent = balancing_percent(others, name=shelf[balancing.material].label)
    balancing.save(update_fields=["percent"])
