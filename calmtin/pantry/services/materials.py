"""What a maker knows of materials: own ones, and own figures for ours."""

from __future__ import annotations

from itertools import count
from typing import Any

from django.db import transaction
from django.utils.text import slugify
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core import limits
from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check, check_text
from calmtin.core.materials import GROUPS
from calmtin.core.messages import said
from calmtin.pantry.adapters import to_core
from calmtin.pantry.models import Lot, Override, OwnMaterial
from calmtin.pantry.services.correcting import keep_correction, refuse_in_use


@sent_once
@transaction.atomic
def add_material(user: Any, *, name: str, group: str, behaves_like: str, **facts: Any) -> OwnMaterial:
    """Add a material that the library lacks; predictions can use it immediately.

    Raises `CalmTinError` where the core cannot make sense of it.
    """
    _check_material(name, group, behaves_like, facts)
    base = "my_" + (slugify(name).replace("-", "_")[:50] or "material")
    taken = set(OwnMaterial.every().of(user).values_list("slug", flat=True))
    slug = next(s for n in count(1) if (s := base if n == 1 else f"{base}_{n}") not in taken)
    row = OwnMaterial(owner=user, slug=slug, name=name, group=group, behaves_like=behaves_like, **facts)
    to_core(row)
    row.save()
    return row


@transaction.atomic
def correct_material(
    user: Any, row: OwnMaterial, *, reason: str, name: str, group: str, behaves_like: str, **facts: Any
) -> bool:
    """Correct an own material and keep its earlier facts; return whether anything changed.

    Every prediction with it follows. Raises `CalmTinError` where the core cannot make
    sense of it, or without a reason.
    """
    read_again(user, row)
    _check_material(name, group, behaves_like, facts)
    now = facts | {"name": name, "group": group, "behaves_like": behaves_like}
    changed = keep_correction(user, row, reason=reason, **now)
    to_core(row)
    return changed


@transaction.atomic
def delete_material(user: Any, row: OwnMaterial) -> None:
    """Delete an own material that nothing stands on; raises `CalmTinError` with what does."""
    read_again(user, row)
    if Lot.objects.of(user).filter(material=row.slug).exists():
        raise CalmTinError(
            said("{name} has lots on record. You can correct it but not delete it.", name=row.name)
        )
    refuse_in_use(user, row.slug, row.name)
    row.mark_deleted()


def _check_material(name: str, group: str, behaves_like: str, facts: dict[str, Any]) -> None:
    if behaves_like not in library():
        raise CalmTinError(
            gettext("Choose the library material that it behaves like."), field="behaves_like"
        )
    check_text(name, 80, name=gettext("The name"), field="name")
    check_text(facts.get("notes", ""), 2000, name=gettext("The note"), field="notes")
    if not name.strip():
        raise CalmTinError(gettext("Give the material a name."), field="name")
    if group not in GROUPS:
        raise CalmTinError(gettext("Choose a group from the list."), field="group")
    _check_figures(facts)


def _check_figures(figures: dict[str, Any]) -> None:
    """Refuse a figure of a material outside its bounds."""
    spans = {
        "melt_low_c": (limits.MELT_C, gettext("The lower melting temperature"), "°C"),
        "melt_high_c": (limits.MELT_C, gettext("The upper melting temperature"), "°C"),
        "density": (limits.DENSITY, gettext("The density"), "g/ml"),
        "strength_pct": (limits.STRENGTH_PCT, gettext("The strength"), "%"),
        "limit_pct": (limits.PERCENT, gettext("The supplier’s limit"), "%"),
        "typical_low_pct": (limits.PERCENT, gettext("The usual share"), "%"),
        "typical_high_pct": (limits.PERCENT, gettext("The usual share"), "%"),
    }
    for name, (span, words, unit) in spans.items():
        if figures.get(name) is not None:
            check(figures[name], span, name=words, field=name.removesuffix("_c"), unit=unit)


@transaction.atomic
def set_own_figures(user: Any, material: str, **figures: Any) -> Override:
    """Keep what the maker knows better about a library material; `inci` is what its bottle says."""
    check_text(str(figures.get("inci", "")), 200, name=gettext("What the bottle says"), field="inci")
    _check_figures(figures)
    row, _ = Override.objects.update_or_create(
        owner=user, material=library()[material].slug, defaults=figures
    )
    return row
