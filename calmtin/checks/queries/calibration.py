"""The calibration of a bench from its log, cached until the log changes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from threading import Lock, Thread
from typing import Any, TypeVar

from cachetools import LRUCache
from django.db import connections
from django.db.models import Max, Q

from calmtin.checks.adapters import Seen, in_order, pours_that_teach, seen_of
from calmtin.core.cached import cached_property
from calmtin.core.engine.bands import Prior
from calmtin.core.engine.learning import Learned, learn
from calmtin.core.materials import Material, Shelf
from calmtin.core.process.grain import GrainLog
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.models import Check, CheckLeftOut, PotAddition, Replan, WeighIn

MOST_ANSWERS, AT_LEAST = 60_000, 200  # of all lessons that are kept in memory; what a small one counts for
LONG_LOG = 1_500  # answers, from which a page does not wait for what they teach
NOTHING_YET = 0


Worked = TypeVar("Worked")


@dataclass(frozen=True)
class Lesson:
    """A bench's tests, the prior learned from them, and its grain log.

    `by_pour` and `marks` say what was seen of each pour, and in which state that pour was then.
    """

    seen: list[Seen]
    prior: Prior
    grain: GrainLog
    shelf: Shelf | None = None
    by_pour: Mapping[int, list[Seen]] = field(default_factory=dict)
    marks: Mapping[int, tuple[Any, ...]] = field(default_factory=dict)
    # What pages have worked out from this lesson, by what it was worked out from.
    worked_out: dict[Any, Any] = field(default_factory=dict)

    def once(self, key: Any, work: Callable[[], Worked]) -> Worked:
        """Return what `work` comes to, worked out once for this lesson."""
        if key not in self.worked_out:
            self.worked_out[key] = work()
        found: Worked = self.worked_out[key]
        return found

    @cached_property
    def pours_with(self) -> dict[Material, int]:
        """How many pours that count have a material."""
        found: dict[Material, set[int]] = {}
        for one in self.seen:
            if not one.left_out:
                for material in one.holds:
                    found.setdefault(material, set()).add(one.check.pour_id)
        return {material: len(pours) for material, pours in found.items()}

    @property
    def learned(self) -> Learned | None:
        """The learned prior; None without tests."""
        return self.prior if isinstance(self.prior, Learned) else None


# Worked out from the log and never the only copy: an entry is good for one state of the log alone.
_kept: LRUCache[Any, tuple[int, Lesson]] = LRUCache(
    MOST_ANSWERS, getsizeof=lambda kept: min(max(len(kept[1].seen), AT_LEAST), MOST_ANSWERS)
)
_learning: set[Any] = set()  # the makers whose lesson is being worked out aside
_lock = Lock()


def lesson_of(user: Any) -> Lesson:
    """Return what was learned from a maker's log; recalculated once the log has changed.

    Only the pours that changed are read again; what they teach is learned from all of them. With a
    long log that takes a second or two: it is done aside, and what was known before serves meanwhile.
    """
    state = user.log_state
    if state == NOTHING_YET:
        return Lesson([], Prior(), {})
    with _lock:
        kept = _kept.get(user.pk)
    if kept is not None and kept[0] == state:
        return kept[1]
    if kept is not None and len(kept[1].seen) > LONG_LOG:
        _learn_aside(user, state, kept[1])
        return kept[1]
    return _keep(user, state, _worked_out(user, kept[1] if kept else None))


def _learn_aside(user: Any, state: int, before: Lesson) -> None:
    """Work a lesson out in a thread of its own; one at a time for each maker."""
    with _lock:
        if user.pk in _learning:
            return
        _learning.add(user.pk)

    def run() -> None:
        try:
            _keep(user, state, _worked_out(user, before))
        finally:
            with _lock:
                _learning.discard(user.pk)
            connections.close_all()

    Thread(target=run, name="learning", daemon=True).start()


def _keep(user: Any, state: int, lesson: Lesson) -> Lesson:
    with _lock:
        _kept[user.pk] = (state, lesson)
    return lesson


def _worked_out(user: Any, before: Lesson | None) -> Lesson:
    if not _was_felt(user):
        return Lesson([], Prior(), _grain_log(user))
    shelf, marks = shelf_for(user), _marks(user)
    if before is None or before.shelf is None or list(before.shelf.values()) != list(shelf.values()):
        before = Lesson([], Prior(), {})
    changed = [pk for pk, mark in marks.items() if before.marks.get(pk) != mark]
    pours = pours_that_teach(user)
    fresh = seen_of(pours.filter(pk__in=changed) if before.marks else pours, shelf) if changed else {}
    by_pour = {pk: fresh[pk] if pk in fresh else before.by_pour[pk] for pk in marks}
    seen = in_order(by_pour.values())
    left_out = [n for n, one in enumerate(seen) if one.left_out]
    prior = learn([one.observation for one in seen], excluded=left_out)
    return Lesson(seen, prior, _grain_log(user), shelf, by_pour, marks)


def _marks(user: Any) -> dict[int, tuple[Any, ...]]:
    """Return a fingerprint of each pour that counts."""
    pours = pours_that_teach(user).order_by("pk")
    marks = {pk: rest for pk, *rest in pours.values_list("pk", "poured_at", "version__cooling")}
    entries = (
        (WeighIn, "line__pour"),
        (PotAddition, "pour"),
        (Replan, "pour"),
        (Check, "pour"),
        (CheckLeftOut, "of__pour"),
    )
    for place, (model, path) in enumerate(entries):
        newest = model.objects.of(user).order_by().values_list(path).annotate(Max("pk"))
        for pk, last in newest:
            if pk in marks:
                marks[pk].append((place, last))
    return {pk: tuple(mark) for pk, mark in marks.items()}


def forget() -> None:
    """Drop the cached lesson; the next request recalculates it."""
    with _lock:
        _kept.clear()


def prior_for(user: Any) -> tuple[Prior | None, GrainLog]:
    """Return the prior learned from a maker's own pours, and their grain log."""
    lesson = lesson_of(user)
    return lesson.learned, lesson.grain


def _grain_log(user: Any) -> GrainLog:
    """Return, by way of cooling, the checked pours with grain-prone butter, and those with grain."""
    grainy = [slug for slug, material in shelf_for(user).items() if material.graininess is not None]
    looked = (
        Check.objects.of(user)
        .filter(pour__called_off_at=None, signs__has_key="grain", pour__lines__material__in=grainy)
        .values_list("pour", "pour__version__cooling", "signs__grain")
        .distinct()
    )
    worst: dict[tuple[int, str], int] = {}
    for pour, cooling, grain in looked:
        worst[pour, cooling] = max(worst.get((pour, cooling), 0), grain)
    log: dict[str, tuple[int, int]] = {}
    for (_, cooling), grain in worst.items():
        seen, count = log.get(cooling, (0, 0))
        log[cooling] = (seen + (grain > 0), count + 1)
    return log


def _was_felt(user: Any) -> bool:
    told = Q(felt_rung__isnull=False) | Q(rod_mm__isnull=False)
    return Check.objects.of(user).filter(told).exists()
