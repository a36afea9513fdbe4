"""Where a pour stands, from what was done with it; and the pots that are on the stove now."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.db.models import Exists, OuterRef, Q, Subquery
from django.db.models.functions import Coalesce
from django.http import HttpRequest
from django.urls import reverse
from django.utils import timezone
from django.utils.functional import Promise
from django.utils.translation import gettext_lazy

from calmtin.common.owned import OwnedQuerySet
from calmtin.core.process.steps import AT_THE_SCALE, FILL
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.adapters import IN_THE_POT, batch_of, newest_marks, sheet_of
from calmtin.pours.adapters.closed import as_closed
from calmtin.pours.models import Check, Pour, StepDone, WeighIn, Yield
from calmtin.pours.queries.clocks import Running, clocks_of
from calmtin.pours.queries.prefetching import found_with

STAGES: Mapping[str, Promise] = {
    "weigh": gettext_lazy("Weigh"),
    "melt": gettext_lazy("Melt"),
    "cool": gettext_lazy("Cool"),
    "pour": gettext_lazy("Pour"),
    "set": gettext_lazy("Set"),
    "count": gettext_lazy("Count"),
}
AFTER_THE_MELT = frozenset({"late", "scent", "rest", "chill", "whip"})
# A pot that nobody touched for so long is not on the stove any more.
STANDS = timedelta(hours=12)
SETS_IN = timedelta(days=1)
MOST_POTS = 6


def is_filled(pour: Pour) -> bool:
    """Return whether a closed pour is in its containers: marked, counted, checked, or long ago."""
    if pour.poured_at is None:
        return False
    if _is_checked(pour) or pour.yields.all() or FILL in _done(pour):
        return True
    return timezone.now() - pour.poured_at > STANDS


def _is_checked(pour: Pour) -> bool:
    """Return whether it was looked at since; a set test is a look at the pot."""
    return any(not check.set_test for check in pour.checks.all())


def _done(pour: Pour) -> set[str]:
    return {key for key, mark in newest_marks(pour).items() if mark.is_done}


def stage_of(pour: Pour) -> str:
    """Return the stage that a pour is in; empty once it is counted, and for one that was cancelled."""
    if pour.called_off_at is not None or pour.yields.all():
        return ""
    if pour.poured_at is None:
        return "weigh"
    if is_filled(pour):
        return "count" if _is_checked(pour) or timezone.now() - pour.poured_at > SETS_IN else "set"
    done = _done(pour)
    if "test" in done:
        return "pour"
    return "cool" if done & AFTER_THE_MELT else "melt"


@dataclass(frozen=True)
class Stage:
    """A stage on the strip of a pour: its words, its page, and whether it is done or the present one."""

    words: Promise
    address: str
    is_done: bool
    is_now: bool


def stages_of(pour: Pour) -> list[Stage]:
    """Return the stages of a pour, in their order."""
    now = stage_of(pour)
    keys = list(STAGES)
    at = keys.index(now) if now else len(keys)
    page, run = reverse("pours:pour", args=[pour.pk]), reverse("pours:run", args=[pour.pk])
    pages = {"weigh": page, "set": page, "count": f"{page}#count"}
    return [
        Stage(STAGES[key], pages.get(key, run), place < at, place == at) for place, key in enumerate(keys)
    ]


@dataclass(frozen=True)
class Pot:
    """A pot on the stove: its pour, what is next, and the clocks that run."""

    pour: Pour
    stage: Promise
    next_step: str
    address: str
    clocks: list[Running]


def on_stove(user: Any, *, without: int | None = None) -> OwnedQuerySet:
    """Return the pours that are weighed, melted or cooled now, the newest first.

    `without` is the key of one that is left out.
    """
    since = timezone.now() - STANDS
    touched = Exists(StepDone.objects.filter(pour=OuterRef("pk"), at__gte=since))
    weighed = Exists(WeighIn.objects.filter(line__pour=OuterRef("pk"), at__gte=since))
    filled = StepDone.objects.filter(pour=OuterRef("pk"), key=FILL).order_by("-pk").values("is_done")
    is_new = Q(started_at__gte=since) | touched | weighed
    return (
        Pour.objects.of(user)
        .filter(called_off_at=None)
        .exclude(pk=without)
        .filter(Q(poured_at__gte=since) | Q(poured_at=None) & is_new)
        .exclude(Exists(Yield.objects.filter(pour=OuterRef("pk"))))
        .exclude(Exists(Check.objects.filter(pour=OuterRef("pk"), set_test="")))
        .annotate(is_in_tins=Coalesce(Subquery(filled[:1]), False))
        .filter(is_in_tins=False)
        .select_related("version__formula", "closing")
    )


def pots_of(user: Any, *, without: int | None = None) -> list[Pot]:
    """Return the pots on the stove with what is next and their clocks."""
    names = (*IN_THE_POT, "steps_done", "timers", "finish_parts", "yields")
    found = found_with(on_stove(user, without=without), *names, also=["checks", "fillings"], most=MOST_POTS)
    shelf = shelf_for(user) if found else {}
    return [_pot(pour, shelf) for pour in found]


def _pot(pour: Pour, shelf: Any) -> Pot:
    as_closed(pour)
    done = _done(pour)
    steps = sheet_of(pour, batch_of(pour, shelf))
    is_weighing = pour.is_weighing
    if not is_weighing:
        done.update(AT_THE_SCALE)
    elif any(line.weigh_ins.all() for line in pour.lines.all()):
        done.add("ready")
    following = next((step for step in steps if step.key not in done), None)
    at = "pours:pour" if is_weighing and following and following.key == "weigh" else "pours:run"
    clocks = clocks_of(pour, {step.key: step.title for step in steps})
    title = following.title if following else ""
    return Pot(pour, STAGES[stage_of(pour) or "pour"], title, reverse(at, args=[pour.pk]), clocks)


def stove_panel(request: HttpRequest) -> dict[str, Any]:
    """Return the pours on the stove for the head of a page; the page of a pour leaves its own out.

    The page then asks for what is next in each, and for the clocks.
    """
    match = request.resolver_match
    is_of_pour = match is not None and match.route.startswith("pours/<")
    own = match.kwargs.get("pk") if match is not None and is_of_pour else None
    return {"pours": list(on_stove(request.user, without=own)[:MOST_POTS]), "own": own}
