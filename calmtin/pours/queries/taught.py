"""What a maker's pours have taught, worked out from the log and kept until the log changes."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock
from typing import Any

from django.db.models import Q

from calmtin.core.engine.bands import Prior
from calmtin.core.engine.learning import Learned, learn
from calmtin.core.process.grain import PRONE, GrainLog
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.adapters import Seen, seen_on
from calmtin.pours.models import Check

MOST_BENCHES = 16
NOTHING_YET = 0


@dataclass(frozen=True)
class Lesson:
    """All that was felt and pressed on a bench, what is known of it after that, and its grain log."""

    seen: list[Seen]
    prior: Prior
    grain: GrainLog

    @property
    def learned(self) -> Learned | None:
        """What was learned; None where nothing was."""
        return self.prior if isinstance(self.prior, Learned) else None


# Worked out from the log and never the only copy: an entry is good for one state of the log alone.
_kept: OrderedDict[Any, tuple[int, Lesson]] = OrderedDict()
_lock = Lock()


def lesson_of(user: Any) -> Lesson:
    """Return what a maker's log teaches; worked out again once the log has changed."""
    state = user.log_state
    if state == NOTHING_YET:
        return Lesson([], Prior(), {})
    with _lock:
        kept = _kept.get(user.pk)
    if kept is not None and kept[0] == state:
        return kept[1]
    seen = seen_on(user, shelf_for(user)) if _was_felt(user) else []
    left_out = [n for n, one in enumerate(seen) if one.left_out]
    prior = learn([one.observation for one in seen], excluded=left_out)
    lesson = Lesson(seen, prior, _grain_log(user))
    with _lock:
        _kept[user.pk] = (state, lesson)
        _kept.move_to_end(user.pk)
        while len(_kept) > MOST_BENCHES:
            _kept.popitem(last=False)
    return lesson


def forget() -> None:
    """Forget what was worked out: the next one who asks works it out from the log."""
    with _lock:
        _kept.clear()


def taught(user: Any) -> tuple[Prior | None, GrainLog]:
    """Return what a maker's own pours have taught their bench, and in how many of them grain was seen."""
    lesson = lesson_of(user)
    return lesson.learned, lesson.grain


def _grain_log(user: Any) -> GrainLog:
    """Return, by way of cooling, how many pours with grain-prone butter had grain, of those looked at."""
    looked = (
        Check.objects.of(user)
        .filter(pour__called_off_at=None, signs__has_key="grain", pour__lines__material__in=list(PRONE))
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
