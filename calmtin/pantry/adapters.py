"""What a maker can reach for: materials and containers, as the core knows them."""

from __future__ import annotations

from collections import ChainMap
from collections.abc import Iterable, Mapping
from dataclasses import replace
from threading import Lock
from typing import Any, cast

from cachetools import LRUCache, cached
from django.utils.translation import gettext

from calmtin.accounts.models import User
from calmtin.core.custom_material import blend_material, own_material
from calmtin.core.data.loader import containers, library
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Form, Group, Material, Shelf
from calmtin.core.messages import Message
from calmtin.core.process.fill import Container
from calmtin.pantry.models import Override, OwnBlend, OwnContainer, OwnMaterial, own_key

MOST_SHELVES = 64


def shelf_for(user: Any) -> Shelf:
    """Return every material that `user` can use: the library with their own figures, and their own."""
    state = user.log_state
    if not user.asks_only:
        state = User.objects.values_list("log_state", flat=True).filter(pk=user.pk).first()
    return _put_together(user, state) if state else library()


# The database gives a maker another state after each change of an own material, blend or figure
# (see the end of pantry.models), so that a shelf is put together once for each; 0 says that there is none.
@cached(LRUCache(MOST_SHELVES), key=lambda user, state: (user.pk, state), lock=Lock())
def _put_together(user: Any, state: int) -> Shelf:  # noqa: ARG001  # the state is its key
    own = [to_core(row) for row in OwnMaterial.objects.of(user)]
    blends = list(OwnBlend.objects.of(user))
    overrides = {row.material: row for row in Override.objects.of(user)}
    if not own and not overrides and not blends:
        return library()
    shipped = [_overridden(m, overrides[slug]) if slug in overrides else m for slug, m in library().items()]
    materials = {material.slug: material for material in [*shipped, *own]}
    # In the order in which they were made: a later one may hold an earlier one.
    for row in blends:
        materials[row.slug] = blend_to_core(row, materials)
    return Shelf(materials.values())


def blend_to_core(row: OwnBlend, shelf: Mapping[str, Material]) -> Material:
    """Return a blend that is a material by now as the engine takes it."""
    parts = [(shelf[slug], float(percent)) for slug, percent in row.parts]
    return blend_material(parts, slug=row.slug, name=row.name)


def to_core(row: OwnMaterial) -> Material:
    """Return an own material as the engine takes it."""
    return own_material(
        library()[row.behaves_like],
        slug=row.slug,
        name=row.name,
        group=cast(Group, row.group),
        inci=row.inci,
        melt_low_c=row.melt_low_c,
        melt_high_c=row.melt_high_c,
        density=row.density,
        strength_pct=row.strength_pct,
        allergens=tuple(a.strip() for a in row.allergens.split(";") if a.strip()),
        vegan=row.vegan,
        grain_prone=row.grain_prone,
        limit_pct=row.limit_pct,
        notes=row.notes,
    )


def _overridden(material: Material, own: Override) -> Material:
    """Return a library material with the maker's own figures in place of its own."""
    return replace(
        material,
        inci=own.inci or material.inci,
        density_solid=own.density or material.density_solid,
        strength_factor=(own.strength_pct or 100.0) / 100.0,
        typical_low_pct=material.typical_low_pct if own.typical_low_pct is None else own.typical_low_pct,
        typical_high_pct=material.typical_high_pct
        if own.typical_high_pct is None
        else own.typical_high_pct,
        limit_pct=own.limit_pct,
        form=cast(Form, own.form) or None,
        notes=Message("{own} {notes}", own=own.notes, notes=material.notes)
        if own.notes
        else material.notes,
    )


# What is kept of a row of the maker's own: all but whose it is and when it was made.
_NOT_KEPT = {"id", "owner", "slug", "added_at", "made_at", "deleted_at", "material"}


def facts_of(user: Any, slugs: Iterable[str]) -> dict[str, Any]:
    """Return a shelf's facts about materials and their parts as JSON.

    `shelf_from` makes materials of it again.
    """
    shelf, facts = shelf_for(user), {}
    own = {row.slug: row for row in OwnMaterial.every().of(user)}
    overrides = {row.material: row for row in Override.objects.of(user)}
    blends = {row.slug: row for row in OwnBlend.objects.of(user)}

    def keep(slug: str) -> None:
        if slug in facts or slug not in shelf:
            return
        material = shelf[slug]
        for part in blends[slug].parts if slug in blends else ():
            keep(part[0])
        facts[slug] = {
            "name": material.name,
            "inci": material.inci,
            "allergens": list(material.allergens),
            "own": _columns(own.get(slug)),
            "figures": _columns(overrides.get(slug)),
            "blend": _columns(blends.get(slug)),
        }

    for slug in slugs:
        keep(slug)
    return facts


def _columns(row: Any) -> dict[str, Any] | None:
    if row is None:
        return None
    return {f.name: getattr(row, f.name) for f in row._meta.concrete_fields if f.name not in _NOT_KEPT}


def shelf_from(facts: Mapping[str, Any], shelf: Shelf) -> Shelf:
    """Return `shelf` with the materials of `facts_of` as they were kept; itself where nothing differs."""
    kept: dict[str, Material] = {}
    for slug, told in facts.items():  # what a blend is made of stands before it
        if told["own"] is not None:
            material = to_core(OwnMaterial(slug=slug, **told["own"]))
        elif told["blend"] is not None:
            material = blend_to_core(OwnBlend(slug=slug, **told["blend"]), ChainMap(kept, dict(library())))
        elif slug in library():
            material = library()[slug]
            if told["figures"] is not None:
                material = _overridden(material, Override(material=slug, **told["figures"]))
        else:
            continue
        names = {"name": told["name"], "inci": told["inci"], "allergens": tuple(told["allergens"])}
        kept[slug] = replace(material, **names)
    if all(slug in shelf and shelf[slug] == material for slug, material in kept.items()):
        return shelf
    return Shelf([*(material for slug, material in shelf.items() if slug not in kept), *kept.values()])


def container_for(user: Any, slug: str) -> Container:
    """Return one container by its slug, or refuse with `CalmTinError`."""
    try:
        return containers_for(user)[slug]
    except KeyError:
        raise CalmTinError(gettext("Choose a container from the list."), field="container") from None


def container_columns(container: Container) -> dict[str, Any]:
    """Return how a row refers to a container: to an own one by its key, to any other by its name."""
    own = own_key(container.slug)
    return {"container": container.slug if own is None else "", "own_container_id": own}


def containers_for(user: Any) -> dict[str, Container]:
    """Return the containers that `user` can fill, their own first, by slug."""
    own = {row.slug: container_to_core(row) for row in OwnContainer.objects.of(user)}
    return own | dict(containers())


def container_to_core(row: OwnContainer) -> Container:
    """Return an own container as the core takes it: one cavity of it."""
    return Container(
        slug=row.slug,
        name=row.name,
        kind=gettext("your own"),
        volume_ml=row.brim_ml,
        usual_level=row.usual_level_pct / 100.0,
        is_nominal=False,
        on_hand=None if row.on_hand is None else row.on_hand * row.cavities,
        cavities=row.cavities,
        price=row.price_each,
    )
