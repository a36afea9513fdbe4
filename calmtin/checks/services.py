"""What a maker makes of checks: exclude one, mark a pour as final, trace a flare-up to its cause."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.accounts.services import set_on_bench
from calmtin.checks.models import PatchTest, Reaction
from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check_text
from calmtin.pours.models import Check, CheckLeftOut, Kept, Pour
from calmtin.pours.services.rehearsing import refuse_rehearsal


@transaction.atomic
def exclude_check(user: Any, of: Check, *, reason: str) -> CheckLeftOut | None:
    """Exclude a check from the calibration, with a reason; without one include it again.

    The check itself stays as it was. None where that is so already.
    """
    read_again(user, of)
    check_text(reason, 200, name=gettext("The reason"), field="reason")
    if of.why_left_out == reason.strip():
        return None
    return CheckLeftOut.objects.create(of=of, reason=reason.strip())


@sent_once
@transaction.atomic
def keep(user: Any, pour: Pour, *, why: str = "", is_kept: bool = True) -> Kept:
    """Keep a formula as this pour made it, with the reason; or say that it is no longer kept.

    Raises `CalmTinError` for a pour that is not poured yet or was cancelled.
    """
    read_again(user, pour)
    refuse_rehearsal(pour)
    if pour.called_off_at is not None or pour.is_weighing:
        raise CalmTinError(gettext("Finish the pour first."), field="why")
    check_text(why, 300, name=gettext("The reason"), field="why")
    return Kept.objects.create(pour=pour, is_kept=is_kept, why=why.strip())


@transaction.atomic
def show_figures(user: Any, *, by_the_book: bool) -> None:
    """Show standard figures everywhere, or the maker's calibration."""
    set_on_bench(user, by_the_book=by_the_book)


@transaction.atomic
def trace_reaction(user: Any, check: Check, *, suspects: Sequence[str]) -> Reaction:
    """Start to look for what caused a flare-up; one that was started already is gone on with.

    Raises `CalmTinError` for a check that tells of none.
    """
    read_again(user, check)
    if not check.irritated:
        raise CalmTinError(gettext("This check tells of no flare-up."))
    known = Reaction.objects.of(user).filter(of=check).first()
    return known or Reaction.objects.create(owner=user, of=check, suspects=list(suspects))


@sent_once
@transaction.atomic
def keep_patch(
    user: Any, reaction: Reaction, *, material: str, tried_on: date, result: str, notes: str = ""
) -> PatchTest:
    """Keep what a suspected material did on a patch of skin.

    Raises `CalmTinError` for a material that is not suspected, and a day that is still to come.
    """
    read_again(user, reaction)
    if material not in reaction.suspects:
        raise CalmTinError(gettext("Choose one of the suspected ingredients."), field="material")
    if result not in PatchTest.Result.values:
        raise CalmTinError(gettext("Say whether it reacted."), field="result")
    if tried_on > timezone.localdate():
        raise CalmTinError(gettext("That day is still to come."), field="tried_on")
    check_text(notes, 300, name=gettext("The note"), field="notes")
    return PatchTest.objects.create(
        owner=user,
        reaction=reaction,
        material=material,
        tried_on=tried_on,
        result=result,
        notes=notes.strip(),
    )
