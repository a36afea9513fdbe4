"""One base, several finishes: keep what a pot is finished with, and branch a formula off."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.composition import MOST_LINES
from calmtin.core.errors import CalmTinError, DoesNotAddUp
from calmtin.core.limits import ON_TOP_PCT, check, check_text
from calmtin.core.messages import said
from calmtin.formulas.models import Finish, FinishPart, Formula, Line, Version
from calmtin.formulas.services.balancing import hold
from calmtin.formulas.services.lifecycle import copy_version
from calmtin.pantry.adapters import shelf_for

MOST_FINISHES = 8


@sent_once
@transaction.atomic
def add_finish(user: Any, formula: Formula, *, name: str, parts: list[tuple[str, Decimal]]) -> Finish:
    """Keep a finish: its name and its (slug, percent of the base); none of them for a clear one."""
    read_again(user, formula)
    check_text(name, 40, name=gettext("The name"), field="name")
    for _, percent in parts:
        check(percent, ON_TOP_PCT, name=gettext("A part of a finish"), field="parts", unit="% of the base")
    _refuse_crowd(formula, name)
    slugs = [slug for slug, _ in parts]
    if len(set(slugs)) != len(slugs):
        raise CalmTinError(gettext("Use each material only once in a finish."), field="parts")
    shelf = shelf_for(user)
    finish = Finish.objects.create(formula=formula, name=name)
    for slug, percent in parts:
        FinishPart.objects.create(finish=finish, material=shelf[slug].slug, percent=percent)
    return finish


def _refuse_crowd(formula: Formula, name: str) -> None:
    """Refuse one finish more, or one of the same name."""
    kept = formula.finishes.filter(removed_at=None)
    if kept.count() >= MOST_FINISHES:
        raise CalmTinError(
            said(
                "A formula can have up to {most_finishes} finishes. Remove one first.",
                most_finishes=MOST_FINISHES,
            ),
            field="name",
        )
    if kept.filter(name__iexact=name).exists():
        raise CalmTinError(
            said("There is already a finish called {name}. Choose another name.", name=name), field="name"
        )


@transaction.atomic
def remove_finish(user: Any, finish: Finish) -> None:
    """Take a finish out; it is kept and can be brought back, and formulas branched with it stay."""
    read_again(user, finish)
    finish.removed_at = timezone.now()
    finish.save(update_fields=["removed_at"])


@transaction.atomic
def restore_finish(user: Any, finish: Finish) -> None:
    """Bring back a finish that was taken out."""
    read_again(user, finish)
    _refuse_crowd(finish.formula, finish.name)
    finish.removed_at = None
    finish.save(update_fields=["removed_at"])


@sent_once
@transaction.atomic
def branch(user: Any, version: Version, *, name: str, finish: Finish | None = None) -> Formula:
    """Start a formula of its own from a version: a copy, or its base with a finish on top.

    Raises `CalmTinError` when the finish brings what the base has already.
    """
    read_again(user, version, *([finish] if finish else []))
    of = version.formula
    made = Formula.objects.create(
        owner=user,
        name=name[:80],
        kind=of.kind,
        audience=of.audience,
        sees_sun=of.sees_sun,
        notes=of.notes,
        came_from=version,
    )
    lines = [line for line in version.lines.all() if finish is None or not line.is_on_top]
    draft = copy_version(version, lines, formula=made, number=1)
    if finish is not None:
        _finish_with(user, draft, finish)
    return made


def _finish_with(user: Any, draft: Version, finish: Finish) -> None:
    shelf, lines = shelf_for(user), {line.material: line for line in draft.lines.all()}
    if len(lines) + finish.parts.count() > MOST_LINES:
        raise DoesNotAddUp(
            said("A formula can have up to {most_lines} lines.", most_lines=MOST_LINES),
            field="lines",
            limit=MOST_LINES,
        )
    for place, part in enumerate(finish.parts.all(), start=len(lines)):
        if part.material in lines:
            raise CalmTinError(
                said(
                    "{label} is already in the base. Remove it from one of them.",
                    label=shelf[part.material].label,
                ),
                field="parts",
                material=part.material,
            )
        Line.objects.create(
            version=draft,
            position=place,
            material=part.material,
            percent=part.percent,
            on_top_pct=part.percent,
        )
    hold(draft, shelf, spread=True)
