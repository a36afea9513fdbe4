"""Look again at a pour."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from decimal import Decimal
from typing import Any
from uuid import uuid4

from django.core.files.base import ContentFile
from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.common.photos import made_again
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import CHECK_C, OVERRUN_PCT, PRESS_G, ROD_MM, RUNG, check, check_text
from calmtin.core.process.checks import LOOKS, read_signs
from calmtin.core.process.complaints import Feels, read_complaints
from calmtin.core.process.moments import Moment
from calmtin.pours.adapters import now_of
from calmtin.pours.models import Check, Pour
from calmtin.pours.services.rehearsing import refuse_rehearsal


@sent_once
@transaction.atomic
def record_check(
    user: Any,
    pour: Pour,
    *,
    temp_c: float,
    felt_rung: Decimal | None,
    verdict: str = "",
    feels: str = "",
    complaints: Sequence[str] = (),
    notes: str = "",
    overrun_pct: int | None = None,
    set_test: str = "",
    is_temp_guessed: bool = False,
    moment: str = "",
    look: str = "",
    press_g: Sequence[Decimal] = (),
    rod_mm: float | None = None,
    signs: Mapping[str, object] | None = None,
    who: str = "",
    photo: bytes | None = None,
    made_at: datetime | None = None,
) -> Check:
    """Add a result to a pour; earlier results stay.

    `set_test` says where a drop of it was tried before it was poured; a rehearsal has only those.
    A temperature that is only guessed is kept as such, and nothing is learned from it. `moment`, of
    `core.process.moments`, says what it was like when it was felt.
    `press_g` are the highest readings of a press test with a rod of `rod_mm`; `signs` what was
    found, by `core.process.checks`; `feels` and `complaints` are those of `core.process.complaints`;
    `photo` a picture as it was sent. Raises `CalmTinError`.
    """
    read_again(user, pour)
    if not set_test:
        refuse_rehearsal(pour)
    if set_test and set_test not in Check.SetTest.values:
        raise CalmTinError(gettext("Choose where the drop was tried from the list."), field="set_test")
    if pour.called_off_at is not None:
        raise CalmTinError(gettext("This pour was cancelled, so you can’t check it."), field="verdict")
    if pour.is_weighing:
        raise CalmTinError(gettext("Finish weighing before you check the pour."), field="verdict")
    check(temp_c, CHECK_C, name=gettext("The temperature"), field="temp", unit="°C")
    if felt_rung is not None:
        check(felt_rung, RUNG, name=gettext("Firmness"), field="felt_rung")
    _check_words(verdict=verdict, feels=feels, look=look, moment=moment)
    if overrun_pct is not None:
        check(overrun_pct, OVERRUN_PCT, name=gettext("The volume gain"), field="overrun", unit="%")
    check_text(notes, 4000, name=gettext("The note"), field="notes")
    check_text(who, 40, name=gettext("Who tried it"), field="who")
    _check_press(press_g, rod_mm)
    picture = made_again(photo) if photo else None
    made = Check.objects.create(
        pour=pour,
        temp_c=temp_c,
        felt_rung=felt_rung,
        verdict=verdict,
        feels=feels,
        complaints=read_complaints(complaints),
        notes=notes,
        overrun_pct=overrun_pct,
        set_test=set_test,
        is_temp_guessed=is_temp_guessed,
        moment=moment,
        look=look,
        press_g=[float(grams) for grams in press_g],
        rod_mm=rod_mm if press_g else None,
        signs=read_signs(signs or {}),
        who=who.strip(),
        made_at=made_at or now_of(pour),
    )
    if picture is not None:
        made.photos.create(image=ContentFile(picture, name=f"{uuid4().hex}.jpg"))
    return made


def _check_words(*, verdict: str, feels: str, look: str, moment: str) -> None:
    if verdict and verdict not in Check.Verdict.values:
        raise CalmTinError(gettext("Choose keep, tweak or drop."), field="verdict")
    if feels and feels not in set(Feels):
        raise CalmTinError(gettext("Choose just right, too soft or too hard."), field="feels")
    if look and look not in LOOKS:
        raise CalmTinError(gettext("Choose the kind of check from the list."), field="look")
    if moment not in set(Moment):
        raise CalmTinError(gettext("Choose what it was like from the list."), field="moment")


def _check_press(press_g: Sequence[Decimal], rod_mm: float | None) -> None:
    if press_g and rod_mm is None:
        raise CalmTinError(gettext("Enter the width of the rod as well."), field="rod")
    for grams in press_g:
        check(grams, PRESS_G, name=gettext("A reading of the press test"), field="press", unit="g")
    if rod_mm is not None:
        check(rod_mm, ROD_MM, name=gettext("The rod"), field="rod", unit="mm")
