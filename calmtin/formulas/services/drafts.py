"""One edit of a draft: counted, refused when another tab was first, kept as a step to undo.

Every edit names the revision that the maker saw. When another tab has moved on
since, the edit is refused and nothing changes.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import transaction
from django.db.models import Max
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Shelf
from calmtin.formulas.adapters import MEASURED
from calmtin.formulas.models import Formula, Line, Step, Version
from calmtin.formulas.services.balancing import settle
from calmtin.formulas.services.lifecycle import start_next_version
from calmtin.pantry.adapters import shelf_for

KEPT_STEPS, FOLD_EVERY = 100, 20

OF_VERSION = ("batch_g", "cooling", "overrun_pct")
OF_LINE = (
    "key",
    "position",
    "material",
    "percent",
    "is_balancing",
    "is_locked",
    "on_top_pct",
    *MEASURED,
    "alcohol_pct",
    "alcohol_typed",
)


class EditedElsewhere(CalmTinError):
    """Another tab changed this version after the maker last saw it."""


@contextmanager
def edit(user: Any, version: Version, seen: int) -> Iterator[tuple[Version, Shelf]]:
    """Open `version` for one edit, or the next draft when it was poured, and count it.

    Whatever is raised inside undoes the whole edit, a new draft included.
    """
    with _counted(user, version, seen):
        draft = start_next_version(user, version) if version.is_poured else version
        if not draft.steps.exists():
            _keep_step(draft, came_from=None)
        shelf = shelf_for(user)
        yield draft, shelf
        settle(draft, shelf)
        _keep_step(draft, came_from=draft.step)


def undo(user: Any, version: Version, *, seen: int) -> Version:
    """Show the draft as it was before its newest edit."""
    with _counted(user, version, seen):
        now = version.steps.filter(number=version.step).first()
        if version.is_poured or now is None or now.came_from is None:
            raise CalmTinError(gettext("There is nothing to undo in this version."))
        _show_step(version, version.steps.get(number=now.came_from))
    return version


def redo(user: Any, version: Version, *, seen: int) -> Version:
    """Redo the edit that was undone last."""
    with _counted(user, version, seen):
        undone = version.steps.filter(came_from=version.step).last()
        if version.is_poured or undone is None:
            raise CalmTinError(gettext("There is nothing to redo in this version."))
        _show_step(version, undone)
    return version


def find_line(version: Version, key: str) -> Line:
    """Return a line of a draft, or say that it is gone."""
    try:
        return version.lines.get(key=key)
    except Line.DoesNotExist:
        raise EditedElsewhere(
            gettext("That line is no longer in the formula. You now see its latest state."),
            field="revision",
        ) from None


@contextmanager
def _counted(user: Any, version: Version, seen: int) -> Iterator[None]:
    """Count one edit of `version` if it is still at revision `seen`; undo it all on a refusal."""
    try:
        with transaction.atomic():
            read_again(user, version)
            if version.revision != seen:
                raise EditedElsewhere(
                    gettext(
                        "This formula was changed in another tab or on another device. "
                        "You now see the latest version; your last change was not saved."
                    ),
                    field="revision",
                )
            version.revision += 1
            version.save(update_fields=["revision"])
            yield
            Formula.objects.filter(pk=version.formula_id).update(touched_at=timezone.now())
    except CalmTinError:
        # The database took back what was begun; the row in hand must not keep it.
        version.refresh_from_db()
        raise


def _state(version: Version) -> dict[str, Any]:
    lines = [{field: getattr(line, field) for field in OF_LINE} for line in version.lines.all()]
    values = {field: getattr(version, field) for field in OF_VERSION} | {"lines": lines}
    # Through JSON at once, so that it can be compared with what was kept before.
    state: dict[str, Any] = json.loads(json.dumps(values, cls=DjangoJSONEncoder))
    return state


def _keep_step(version: Version, *, came_from: int | None) -> None:
    state = _state(version)
    now = version.steps.filter(number=version.step).first()
    if now is not None and now.state == state:
        return
    last = version.steps.aggregate(last=Max("number"))["last"]
    version.step = 0 if last is None else last + 1
    version.save(update_fields=["step"])
    Step.objects.create(version=version, number=version.step, came_from=came_from, state=state)
    if version.step and version.step % FOLD_EVERY == 0:
        _fold_steps(version)


def _fold_steps(version: Version) -> None:
    """Fold old steps together, so that a draft that was worked on for long stays quick.

    All of the newest `KEPT_STEPS` stay, and of those before them every `FOLD_EVERY`th
    and each one where the way parted: undoing goes on to the very first step, in
    longer strides.
    """
    came_from = dict(version.steps.values_list("number", "came_from"))
    next_of: dict[int, list[int]] = {}
    for number, before in came_from.items():
        if before is not None:
            next_of.setdefault(before, []).append(number)
    old = [n for n in came_from if n <= version.step - KEPT_STEPS]
    for number in old:
        before, after = came_from[number], next_of.get(number, [])
        if before is None or len(after) != 1 or number % FOLD_EVERY == 0:
            continue
        came_from[after[0]] = before
        next_of[before][next_of[before].index(number)] = after[0]
        version.steps.filter(number=after[0]).update(came_from=before)
        version.steps.filter(number=number).delete()


def _show_step(version: Version, step: Step) -> None:
    version.step = step.number
    for field in OF_VERSION:
        setattr(version, field, step.state[field])
    version.save(update_fields=["step", *OF_VERSION])
    version.lines.all().delete()
    for values in step.state["lines"]:
        version.lines.create(**values)
    version.refresh_from_db()
