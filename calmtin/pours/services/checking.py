"""Look again at a pour."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction

from calmtin.common.once import sent_once
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import CHECK_C, OVERRUN_PCT, RUNG, check, check_text
from calmtin.pours.adapters import now_of
from calmtin.pours.models import Check, CheckLeftOut, Pour
from calmtin.pours.services.rehearsing import refuse_rehearsal


@transaction.atomic
def leave_out(user: Any, of: Check, *, reason: str) -> CheckLeftOut | None:
    """Leave a check out of what the bench has taught, for a reason; without one it counts again.

    The check itself stays as it was. None where that is so already.
    """
    read_again(user, of)
    check_text(reason, 200, name="The reason", field="reason")
    newest = of.left_out.last()
    if (newest.reason if newest else "") == reason.strip():
        return None
    return CheckLeftOut.objects.create(of=of, reason=reason.strip())


@sent_once
@transaction.atomic
def record_check(
    user: Any,
    pour: Pour,
    *,
    temp_c: float,
    felt_rung: Decimal | None,
    verdict: str = "",
    notes: str = "",
    overrun_pct: int | None = None,
    set_test: str = "",
    made_at: datetime | None = None,
) -> Check:
    """Add a result to a pour; earlier results stay.

    `set_test` says where a drop of it was tried before it was poured; a rehearsal has only those.
    """
    read_again(user, pour)
    if not set_test:
        refuse_rehearsal(pour)
    if set_test and set_test not in Check.SetTest.values:
        raise CalmTinError("Choose where the drop was tried from the list.", field="set_test")
    if pour.called_off_at is not None:
        raise CalmTinError("This pour was called off, so there is nothing to judge.", field="verdict")
    if pour.is_weighing:
        raise CalmTinError("Finish weighing first; then there is something to judge.", field="verdict")
    check(temp_c, CHECK_C, name="The temperature", field="temp", unit="°C")
    if felt_rung is not None:
        check(felt_rung, RUNG, name="The rung", field="felt_rung")
    if verdict and verdict not in Check.Verdict.values:
        raise CalmTinError("Choose keep, tweak or drop.", field="verdict")
    if overrun_pct is not None:
        check(overrun_pct, OVERRUN_PCT, name="The gain in volume", field="overrun", unit="%")
    check_text(notes, 4000, name="The note", field="notes")
    return Check.objects.create(
        pour=pour,
        temp_c=temp_c,
        felt_rung=felt_rung,
        verdict=verdict,
        notes=notes,
        overrun_pct=overrun_pct,
        set_test=set_test,
        made_at=made_at or now_of(pour),
    )
