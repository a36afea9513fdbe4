"""The pours of a maker, as plans see them: the app of plans asks, this module answers."""

from __future__ import annotations

from collections import defaultdict
from decimal import Decimal
from typing import Any

from django.db.models import OuterRef, Prefetch, Subquery, Sum
from django.urls import reverse

from calmtin.core.process.fill import FillPlan
from calmtin.formulas.models import Version
from calmtin.plans.pour_day import CountedPour
from calmtin.pours import services
from calmtin.pours.adapters import targets_of
from calmtin.pours.models import Check, PotAddition, Pour, PourFilling, WeighLine, Yield
from calmtin.pours.queries.prefetching import found_with, with_newest_grams


def last_fillings(version: Version) -> list[tuple[str, float]]:
    """Return the containers of the newest pour of this kind, by slug, and the fill of each, ml."""
    owner, kind = version.formula.owner_id, version.formula.kind
    newest = Pour.objects.filter(owner_id=owner, version__formula__kind=kind, called_off_at=None)
    fillings = PourFilling.objects.filter(pour__in=newest.values("pk")[:1])
    return [(filling.container_slug, filling.each_ml) for filling in fillings]


def counted_pours(user: Any, most: int) -> list[CountedPour]:
    """Return the newest pours that were counted, newest first.

    Their melt is what was really weighed, later additions included, whatever had been planned.
    """
    lines = with_newest_grams(WeighLine.objects.filter(pour=OuterRef("pour")).order_by())
    added = PotAddition.objects.filter(pour=OuterRef("pour")).order_by().values("pour")
    counted = Pour.objects.of(user).filter(yields__isnull=False, called_off_at=None).distinct()
    yields = Yield.objects.filter(pour__in=counted.values("pk")[:most]).select_related("pour")
    newest = yields.annotate(
        on_sheet_g=Subquery(lines.values("pour").annotate(total=Sum("newest_g")).values("total")),
        added_g=Subquery(added.annotate(total=Sum("grams")).values("total")),
    )
    by_pour = {given.pour_id: given for given in newest.order_by("pk")}  # the newest has the last word
    found = []
    for given in sorted(by_pour.values(), key=lambda given: given.pour.started_at, reverse=True):
        pour = given.pour
        melt = (given.on_sheet_g or pour.batch_g) + (given.added_g or 0) - pour.driven_off_g
        gone = given.filled_g + given.left_g + pour.test_g + pour.powder_g
        address = reverse("pours:pour", args=[pour.pk])
        found.append(CountedPour(pour.code, address, float(melt), float(melt - gone)))
    return found


def reserved_g(user: Any) -> dict[str, Decimal]:
    """Return the grams that pours in progress still have to weigh, by material."""
    held: dict[str, Decimal] = defaultdict(Decimal)
    pours = Pour.objects.of(user).filter(poured_at=None, called_off_at=None)
    lines = with_newest_grams(WeighLine.objects.all())
    for pour in found_with(pours, "replans", also=[Prefetch("lines", lines)]):
        targets = targets_of(pour)
        for line in pour.lines.all():
            held[line.material] += max(targets[line.position] - (line.newest_g or Decimal(0)), Decimal(0))
    return dict(held)


def measured_overrun(version: Version) -> float | None:
    """Return how far a formula was whipped when a jar was last weighed full, as a share."""
    newest = (
        Check.objects.filter(
            pour__version__formula=version.formula_id,
            pour__called_off_at=None,
            overrun_pct__isnull=False,
        )
        .order_by("pk")
        .last()
    )
    return None if newest is None or newest.overrun_pct is None else newest.overrun_pct / 100.0


def start(user: Any, version: Version, plan: FillPlan, *, is_rehearsal: bool, **how: Any) -> str:
    """Start a pour, or a rehearsal of one, and return the address of its page."""
    pour = (services.rehearse if is_rehearsal else services.start_pour)(user, version, plan, **how)
    return reverse("pours:run" if is_rehearsal else "pours:pour", args=[pour.pk])


def start_series(user: Any, version: Version, **how: Any) -> list[int]:
    """Start a pour for each variant and return their keys."""
    series = services.start_series(user, version, **how)
    return list(series.pours.order_by("pk").values_list("pk", flat=True))
