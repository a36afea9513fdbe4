"""What a maker makes of checks: exclude one from the calibration, and mark a pour as final."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.accounts.services import set_on_bench
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
