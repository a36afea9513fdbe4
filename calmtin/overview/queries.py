"""What waits for the maker."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django.db.models import Count, F, OuterRef, Q, Subquery, prefetch_related_objects
from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.checks.queries.due import Due, dues, in_question, wants_skin_test
from calmtin.checks.queries.reactions import ReactionView, patches_to_try
from calmtin.core.materials import Shelf
from calmtin.core.packing.keeping import SMELLS
from calmtin.formulas.queries.lists import Listed, in_use, listed_version, newest_of, small_section
from calmtin.packing.queries.deadlines import NeedView, asked_for, ways_of
from calmtin.pantry.models import OwnContainer
from calmtin.pantry.queries.today import PantryToday, infusions_of, pantry_today
from calmtin.pictures.section import TinSection
from calmtin.pours.models import Pour, PourFilling, WeighLine
from calmtin.pours.queries.prefetching import with_newest_grams

USE_UP = timedelta(days=30)  # before and after a pour is past its life
LAST_FORMULAS = 8
MOST_WAITING = 6  # of what is due and of what is to come, on the home page


@dataclass(frozen=True)
class Today:
    """The home page: pours in progress, due checks and coming ones; `more` counts further due ones."""

    formulas: list[Listed]
    weighing: list[tuple[Any, TinSection]]
    due: list[tuple[Due, Pour, TinSection]]
    coming: list[tuple[Due, Pour]]
    more: int
    skin: Pour | None
    use_up: list[Pour]
    needs: list[NeedView]
    pantry: PantryToday
    containers: list[Any]
    day: date
    patches: list[ReactionView]
    smells: str = SMELLS


def today(user: Any, shelf: Shelf, bench: Bench) -> Today:
    """Return what waits for the maker.

    The lines of all that is shown, formulas, pours and what has to be ready, are read at once.
    """
    now = timezone.now()
    day = timezone.localdate(now)
    newest = newest_of(in_use(user)[:LAST_FORMULAS])
    asked, infusions = asked_for(user, day), infusions_of(user)
    poured = in_question(user, now)
    looks = dues(poured, now)
    due, coming = [d for d in looks if d.is_due], [d for d in looks if not d.is_due][:MOST_WAITING]
    ending = sorted((p.use_by, p.pk) for p in poured if p.use_by and abs(p.use_by - day) <= USE_UP)
    use_up, skin = [pk for _, pk in ending[:MOST_WAITING]], wants_skin_test(poured, now)
    shown = {skin, *use_up, *(d.pour for d in due[:MOST_WAITING]), *(d.pour for d in coming)}
    pours = _on_scale_or(user, shown)
    weighing = [pour for pour in pours.values() if pour.poured_at is None]
    drawn = [*weighing, *(pours[d.pour] for d in due[:MOST_WAITING])]
    versions = [*newest, *asked.versions.values(), *(pour.version for pour in drawn)]
    prefetch_related_objects(versions, "lines")
    on_scale = [pour.pk for pour in weighing]
    needs = ways_of(asked, user, shelf, bench, day, on_scale, infusions) if asked.needs else []
    return Today(
        formulas=[listed_version(version, shelf, bench) for version in newest],
        weighing=[(pour, small_section(pour.version, shelf)) for pour in weighing],
        due=[(d, pours[d.pour], small_section(pours[d.pour].version, shelf)) for d in due[:MOST_WAITING]],
        coming=[(d, pours[d.pour]) for d in coming],
        more=max(len(due) - MOST_WAITING, 0),
        skin=pours[skin] if skin else None,
        use_up=[pours[pk] for pk in use_up],
        needs=[need for need in needs if need.next_step],
        pantry=pantry_today(user, shelf, now, infusions),
        containers=low_containers(user),
        day=day,
        patches=patches_to_try(user, shelf),
    )


def low_containers(user: Any) -> list[Any]:
    """Return the containers of which fewer are left than the last pour into them took, as `last_used`."""
    into = PourFilling.objects.filter(own_container=OuterRef("pk"), pour__called_off_at=None)
    used = into.order_by("-pk").values("count")[:1]
    counted = OwnContainer.objects.of(user).filter(on_hand__isnull=False, cavities=1)
    return list(
        counted.annotate(last_used=Subquery(used)).filter(on_hand__lt=F("last_used"))[:MOST_WAITING]
    )


def _on_scale_or(user: Any, numbers: set[int | None]) -> dict[int, Any]:
    """Return the pours that are on the scale and those of `numbers`.

    Each says how many lines it has, and how many of these were weighed.
    """
    pours = Pour.objects.of(user).filter(called_off_at=None).select_related("version__formula")
    lines = with_newest_grams(WeighLine.objects.filter(pour=OuterRef("pk")).order_by())
    counted = lines.values("pour").annotate(all=Count("pk"), done=Count("newest_g"))
    told = pours.annotate(all=Subquery(counted.values("all")), done=Subquery(counted.values("done")))
    return {pour.pk: pour for pour in told.filter(Q(poured_at=None) | Q(pk__in=numbers - {None}))}
