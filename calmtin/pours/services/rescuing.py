"""Save a pot: scale the rest up after an over-pour, or melt it again and add."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.composition import THOUSANDTH, WHOLE
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import BATCH_G, WEIGHT_G, check, check_text
from calmtin.core.process.rescue import scaled_up
from calmtin.core.process.weighing import share_out
from calmtin.formulas.models import Version
from calmtin.formulas.queries.stops import refuse_open_stops
from calmtin.formulas.services import apply_lines, start_next_version
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services.lots import take_from_stock
from calmtin.pours.adapters import actual_parts, newest_grams, now_of, targets_of
from calmtin.pours.models import PotAddition, Pour, Replan
from calmtin.pours.services.closing import keep_closing
from calmtin.pours.services.rehearsing import refuse_rehearsal


@sent_once
@transaction.atomic
def scale_up(user: Any, pour: Pour) -> Replan:
    """Scale a sheet up to an over-poured line, so that every percentage is right again.

    What is in the pot stays; the other lines come to more. The sheet as it was planned stays on
    record. Raises `CalmTinError` where nothing was over-poured, or the pot gets too large.
    """
    read_again(user, pour)
    if not pour.is_weighing:
        raise CalmTinError(
            gettext("This weigh sheet is closed. Melt the batch again to add more."), field="grams"
        )
    lines = list(pour.lines.prefetch_related("weigh_ins"))
    targets = targets_of(pour)
    up = scaled_up(
        [targets[line.position] for line in lines],
        [newest_grams(line) for line in lines],
        step_g=pour.scale_step_g,
    )
    check(up.batch_g, BATCH_G, name="A batch", field="grams", unit="g")
    return Replan.objects.create(
        pour=pour,
        factor=up.factor.quantize(Decimal("0.00001")),
        targets={str(line.position): f"{grams:f}" for line, grams in zip(lines, up.targets, strict=True)},
        why=gettext("over-poured, the rest scaled up"),
    )


@sent_once
@transaction.atomic
def next_from_weights(user: Any, pour: Pour) -> Version:
    """Start the next version with what really went into a pot, additions included, as its percentages.

    Lines that came to nothing go; what was added by feel becomes a line. The batch stays that of
    the version that was poured. Raises `CalmTinError` where nothing was weighed.
    """
    read_again(user, pour)
    refuse_rehearsal(pour)
    shelf = shelf_for(user)
    masses = {m.slug: Decimal(str(round(grams, 2))) for m, grams in actual_parts(pour, shelf) if grams > 0}
    whole = sum(masses.values(), Decimal(0))
    if pour.is_weighing or not whole:
        raise CalmTinError(gettext("Weigh everything and close the weigh sheet first."), field="page")
    shares = share_out([WHOLE * grams / whole for grams in masses.values()], THOUSANDTH)
    percents = dict(zip(masses, shares, strict=True))
    draft = start_next_version(user, pour.version)
    draft.lines.filter(is_locked=True).update(is_locked=False)
    rows = [
        (line.key, line.material, percents.pop(line.material))
        if line.material in percents
        else (line.key, "", Decimal(0))
        for line in draft.lines.all()
    ]
    rows += [("+", slug, percent) for slug, percent in percents.items()]
    return apply_lines(user, draft, percents=rows, seen=draft.revision)


@sent_once
@transaction.atomic
def add_to_pot(
    user: Any, pour: Pour, *, material: str, grams: Decimal, why: str = "", by_feel: bool = False
) -> PotAddition:
    """Add a material to a pot whose sheet is closed; predictions follow.

    `by_feel` before it is poured, `why` then says it as it was typed; or melted again after.

    What was weighed before stays as it was, and the pantry gives the addition. Raises
    `CalmTinError` for a pour that is on the scale or was cancelled, and `StopFirst` where it brings a
    stop that was not acknowledged.
    """
    read_again(user, pour)
    if pour.called_off_at is not None:
        raise CalmTinError(
            gettext("This pour was cancelled, so nothing can be added to it."), field="grams"
        )
    if pour.is_weighing:
        raise CalmTinError(
            gettext("Close the weigh sheet first, or weigh more of the line."), field="grams"
        )
    check(grams, (0.01, WEIGHT_G[1]), name=gettext("An addition"), field="grams", unit="g")
    check_text(why, 200, name=gettext("The reason"), field="why")
    shelf = shelf_for(user)
    slug = shelf[material].slug
    if not pour.is_rehearsal:
        with_it = [*actual_parts(pour, shelf), (shelf[slug], float(grams))]
        refuse_open_stops(pour.version, with_it, bench_of(user), batch_g=pour.batch_g)
    addition = PotAddition.objects.create(
        pour=pour,
        material=slug,
        grams=grams,
        why=why,
        by_feel=by_feel,
        at=now_of(pour),
        withdrawal=None if pour.is_rehearsal else take_from_stock(user, slug, grams),
    )
    keep_closing(user, pour)
    return addition
