"""Correct a maker's own records; the earlier facts stay on record."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.utils.translation import gettext

from calmtin.common.owned import Deletable
from calmtin.common.registry import Sources
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check_text
from calmtin.core.messages import said
from calmtin.pantry.models import Correction, Infusion, OwnContainer, OwnMaterial, Rendering

# Apps above this one say where a material or a container of the maker's own is in use.
users: Sources[Callable[[Any, str], list[str]]] = Sources()


# The column of a correction that refers to a row of each kind.
_COLUMN: dict[type[Deletable], str] = {
    OwnMaterial: "own_material",
    OwnContainer: "own_container",
    Infusion: "infusion",
    Rendering: "rendering",
}


def keep_correction(user: Any, row: Deletable, *, reason: str, **now: Any) -> bool:
    """Set `row`'s facts to `now` and keep the earlier ones; return whether anything changed.

    Raises `CalmTinError` without a reason.
    """
    if not reason.strip():
        raise CalmTinError(gettext("Give a reason: a slip of the finger, measured again."), field="reason")
    check_text(reason, 200, name=gettext("The reason"), field="reason")
    was = {name: getattr(row, name) for name in now if getattr(row, name) != now[name]}
    if not was:
        return False
    before = json.loads(json.dumps(was, cls=DjangoJSONEncoder))
    Correction.objects.create(owner=user, was=before, reason=reason.strip(), **{_COLUMN[type(row)]: row})
    for name in was:
        setattr(row, name, now[name])
    row.save(update_fields=list(was))
    return True


def refuse_in_use(user: Any, slug: str, name: str) -> None:
    """Refuse to delete what something else stands on; raises `CalmTinError` with what that is."""
    used = list(dict.fromkeys(words for source in users for words in source(user, slug)))
    if used:
        raise CalmTinError(
            said(
                "{name} is in use in {used}. You can correct it but not delete it.",
                name=name,
                used=", ".join(used[:4]),
            )
        )
