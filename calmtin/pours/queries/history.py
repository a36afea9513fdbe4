"""A formula's pours: as pins on its ladder, as marks on its trio map."""

from __future__ import annotations

from typing import Any

from django.db.models import OuterRef, Q, QuerySet, Subquery
from django.utils.translation import gettext

from calmtin.accounts.queries import bench_of
from calmtin.common.templatetags.calm import temp
from calmtin.core.engine.firmness_map import trio_of
from calmtin.core.materials import Shelf
from calmtin.core.messages import said
from calmtin.formulas.models import Formula
from calmtin.pantry.models import own_key
from calmtin.pictures.firmness_map import Mark
from calmtin.pictures.ladder import Pin
from calmtin.pours.adapters import IN_THE_POT, actual_parts, is_near_room
from calmtin.pours.models import Check, Kept, Pour
from calmtin.pours.queries.check_views import verdict_of
from calmtin.pours.queries.prefetching import found_with

MOST_PINNED, MOST_MARKED = 12, 60  # the newest pours; more would only hide each other


def pins_for(formula: Formula) -> list[Pin]:
    """Return the firmness felt near room temperature, for the formula's ladder."""
    bench = bench_of(formula.owner)
    pins = []
    for pour in Pour.objects.filter(version__formula=formula, called_off_at=None).prefetch_related(
        "checks", "additions"
    )[:MOST_PINNED]:
        for check in pour.checks.all():
            if check.felt_rung is None or not is_near_room(check, pour, bench.room_c):
                continue
            at = temp(check.temp_c, bench.temperature_unit)
            label = said(
                "{code} felt {felt_rung} at {at}", code=pour.code, felt_rung=check.felt_rung, at=at
            )
            pins.append(Pin(float(check.felt_rung), check.verdict, label))
    return pins


def marks_for(formula: Formula, shelf: Shelf) -> list[Mark]:
    """Return the formula's pours by actual weight, for its firmness map."""
    marks = []
    named = Pour.objects.filter(version__formula=formula, called_off_at=None).select_related(
        "version__formula"
    )
    for pour in found_with(named, *IN_THE_POT, "checks", most=MOST_MARKED):
        parts = actual_parts(pour, shelf)
        if pour.is_weighing or not any(mass > 0 for _, mass in parts):
            continue
        wax, butter, oil = (float(share) for share in trio_of(parts).here)
        verdict = verdict_of(pour)
        marks.append(Mark((wax, butter, oil), verdict, f"{pour.code}, {verdict or gettext('not judged')}"))
    return marks


def with_outcome_of_formulas(formulas: QuerySet[Formula]) -> QuerySet[Formula]:
    """Annotate formulas with the newest verdict on a pour of theirs, and whether they are kept."""
    checks = Check.objects.filter(
        pour__version__formula=OuterRef("pk"), pour__called_off_at=None, pour__stove=None
    )
    kept = Kept.objects.filter(pour__version__formula=OuterRef("pk")).order_by("-pk")
    return formulas.annotate(
        last_verdict=Subquery(checks.exclude(verdict="").order_by("-pk").values("verdict")[:1]),
        is_kept=Subquery(kept.values("is_kept")[:1]),
    )


def pours_into(user: Any, slug: str) -> list[str]:
    """Return the pours into a container of the maker's own, or with a material that no poured line holds.

    Those are what was added later or finishes a share, and all that a rehearsal plays with.
    """
    own = own_key(slug)
    into = Q(pk__in=()) if own is None else Q(own_container=own) | Q(fillings__own_container=own)
    into |= Q(additions__material=slug) | Q(finish_parts__material=slug)
    into |= Q(stove__isnull=False, lines__material=slug)
    return list(Pour.every().of(user).filter(into).values_list("code", flat=True).distinct())
