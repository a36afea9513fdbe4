"""Blends kept as materials: leftovers of a pot, a dilution in oil."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from itertools import count
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.core.custom_material import blend_material, is_alike
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check_text
from calmtin.core.materials import Material, pure
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import OwnBlend

SAME_POINTS = 0.1  # by which two weighings of the same blend may differ


def _is_same(blend: Material, inside: Sequence[tuple[Material, float]]) -> bool:
    return is_alike([(blend, 1.0)], inside, points=SAME_POINTS)


@transaction.atomic
def keep_blend(
    user: Any, *, name: str, parts: Sequence[tuple[str, Decimal | float]], by_name: bool = True
) -> OwnBlend:
    """Keep a blend as a material with its true composition: `parts` are slugs with masses.

    The same blend under the same name is the same material; not `by_name`, one under any name whose
    composition a scale can’t tell from this one. Raises `CalmTinError` where nothing in it melts.
    """
    check_text(name, 80, name=gettext("The name"), field="name")
    shelf = shelf_for(user)
    inside = pure([(shelf[slug], float(mass)) for slug, mass in parts if mass > 0])
    whole = sum(mass for _, mass in inside)
    if whole <= 0:
        raise CalmTinError(gettext("There is nothing in it. Weigh something in first."), field="parts")
    percents = [[material.slug, round(100.0 * mass / whole, 4)] for material, mass in inside]
    blend_material(inside, slug="my_blend", name=name)
    if by_name:
        known = OwnBlend.objects.of(user).filter(name=name, parts=percents).first()
    else:
        known = next((b for b in OwnBlend.objects.of(user) if _is_same(shelf[b.slug], inside)), None)
    if known is not None:
        return known
    taken = set(OwnBlend.objects.of(user).values_list("slug", flat=True))
    slug = next(s for n in count(1) if (s := f"my_blend_{n}") not in taken)
    return OwnBlend.objects.create(owner=user, slug=slug, name=name, parts=percents)
