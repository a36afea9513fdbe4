"""What a maker does with the pantry: one function each, atomic.

Stock is a ledger: nothing in it is changed, and each movement that something
else caused carries its source, so that it counts once.
"""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.db.models import Sum
from django.utils.text import slugify

from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError
from calmtin.pantry.adapters import shelf_for, to_core
from calmtin.pantry.models import (
    Infusion,
    Lot,
    Movement,
    Override,
    OwnContainer,
    OwnMaterial,
    Rendering,
    due_date,
)

WAX_FROM_COMB = "beeswax_yellow"


@transaction.atomic
def add_material(user: Any, *, name: str, group: str, behaves_like: str, **facts: Any) -> OwnMaterial:
    """Add a material that the library lacks; it can be used in predictions at once.

    Raises `CalmTinError` where the core cannot make sense of it.
    """
    if behaves_like not in library():
        raise CalmTinError("Choose the library material that it behaves like.", field="behaves_like")
    base = "my_" + (slugify(name).replace("-", "_")[:50] or "material")
    taken = set(OwnMaterial.objects.of(user).values_list("slug", flat=True))
    slug = next(s for n in range(1, 1000) if (s := base if n == 1 else f"{base}_{n}") not in taken)
    row = OwnMaterial(owner=user, slug=slug, name=name, group=group, behaves_like=behaves_like, **facts)
    to_core(row)
    row.save()
    return row


@transaction.atomic
def set_own_figures(user: Any, material: str, **figures: Any) -> Override:
    """Keep what the maker knows better about a library material."""
    row, _ = Override.objects.update_or_create(
        owner=user, material=library()[material].slug, defaults=figures
    )
    return row


@transaction.atomic
def buy_lot(user: Any, *, material: str, amount_g: Decimal, bought_on: date, **facts: Any) -> Lot:
    """Put a purchase on the shelf and open its ledger."""
    slug = shelf_for(user)[material].slug
    if amount_g <= 0:
        raise CalmTinError("A lot weighs more than 0 g.", field="amount", limit=0.0, unit="g")
    lot = Lot.objects.create(owner=user, material=slug, amount_g=amount_g, bought_on=bought_on, **facts)
    Movement.objects.create(lot=lot, kind=Movement.Kind.BOUGHT, grams=amount_g)
    return lot


@transaction.atomic
def reweigh(user: Any, lot: Lot, *, actual_g: Decimal, reason: str) -> Movement | None:
    """Correct a lot's balance to what the scale says, with the reason; None when it agrees."""
    if not reason.strip():
        raise CalmTinError("Say why: spilled, given away, scale was off.", field="reason")
    difference = actual_g - balance(lot)
    if not difference:
        return None
    return Movement.objects.create(
        lot=lot, kind=Movement.Kind.CORRECTED, grams=difference, reason=reason.strip()
    )


@transaction.atomic
def take_from_stock(
    user: Any, material: str, grams: Decimal, *, source: str, kind: str = "weighed"
) -> Decimal:
    """Take `grams` from the lots of a material, first to expire first; return what was taken.

    Stock that was never recorded cannot run out: what the lots do not hold is
    simply not booked. The same `source` is booked once, however often it is sent.
    """
    if Movement.objects.of(user).filter(source=source, kind=kind).exists():
        return Decimal(0)
    left = grams
    for lot in Lot.objects.of(user).filter(material=material):
        taken = min(left, balance(lot))
        if taken > 0:
            Movement.objects.create(lot=lot, kind=kind, grams=-taken, source=source)
            left -= taken
        if left <= 0:
            break
    return grams - left


@transaction.atomic
def put_back(user: Any, *, source: str) -> None:
    """Put back what `source` took, once."""
    back = Movement.Kind.PUT_BACK
    taken = Movement.objects.of(user).filter(source=source).exclude(kind=back)
    if Movement.objects.of(user).filter(source=source, kind=back).exists():
        return
    for movement in taken:
        Movement.objects.create(lot=movement.lot, kind=back, grams=-movement.grams, source=source)


def balance(lot: Lot) -> Decimal:
    """Return what is left of a lot, g: the sum of its ledger."""
    return lot.movements.aggregate(total=Sum("grams"))["total"] or Decimal(0)


@transaction.atomic
def add_container(user: Any, *, name: str, brim_ml: float, **facts: Any) -> OwnContainer:
    """Add a container or mould of the maker's own."""
    if brim_ml <= 0:
        raise CalmTinError("A container holds more than 0 ml.", field="brim_ml", limit=0.0, unit="ml")
    return OwnContainer.objects.create(owner=user, name=name, brim_ml=brim_ml, **facts)


@transaction.atomic
def start_infusion(
    user: Any, *, herb: str, herb_g: Decimal, oil: str, oil_g: Decimal, method: str, started_on: date
) -> Infusion:
    """Start a dried herb in oil; the oil is taken from stock."""
    material = shelf_for(user)[oil]
    if material.layer != "oil":
        raise CalmTinError("Infuse in a liquid oil.", field="oil", material=oil)
    infusion = Infusion.objects.create(
        owner=user,
        herb=herb,
        herb_g=herb_g,
        oil=material.slug,
        oil_g=oil_g,
        method=method,
        started_on=started_on,
        due_on=due_date(method, started_on),
    )
    take_from_stock(user, material.slug, oil_g, source=f"infusion {infusion.pk}", kind=Movement.Kind.USED)
    return infusion


@transaction.atomic
def strain(user: Any, infusion: Infusion, *, recovered_g: Decimal, strained_on: date) -> Lot:
    """Strain an infusion: the oil recovered becomes a lot of an oil that behaves as its base.

    Raises `CalmTinError` when it was strained before, or gives more than went in.
    """
    if infusion.strained_on is not None:
        raise CalmTinError("This infusion has been strained already.", field="recovered_g")
    if not 0 < recovered_g <= infusion.oil_g:
        raise CalmTinError(
            f"{infusion.oil_g.normalize():f} g of oil went in, so up to that much can come out.",
            field="recovered_g",
            limit=float(infusion.oil_g),
            unit="g",
        )
    base = shelf_for(user)[infusion.oil]
    name = f"{infusion.herb.strip().capitalize()} in {base.label.lower()}"
    known = OwnMaterial.objects.of(user).filter(name=name).first()
    material = known or add_material(
        user,
        name=name,
        group="oil",
        behaves_like=base.slug if base.slug in library() else "infused_oil",
        allergens=";".join(base.allergens),
        vegan=base.vegan,
        notes="Infused oil; behaves as its base oil.",
    )
    lot = buy_lot(
        user,
        material=material.slug,
        amount_g=recovered_g,
        bought_on=strained_on,
        note=f"strained, {infusion.oil_g - recovered_g} g stayed in the herb",
    )
    infusion.strained_on, infusion.recovered_g, infusion.lot = strained_on, recovered_g, lot
    infusion.save(update_fields=["strained_on", "recovered_g", "lot"])
    return lot


@transaction.atomic
def render_comb(user: Any, *, raw_g: Decimal, clean_g: Decimal, done_on: date) -> Rendering:
    """Record raw comb cleaned to wax; the wax becomes a lot."""
    if not 0 < clean_g <= raw_g:
        raise CalmTinError(
            "Clean wax weighs more than 0 g and no more than the comb it came from.",
            field="clean_g",
            limit=float(raw_g),
            unit="g",
        )
    lot = buy_lot(
        user, material=WAX_FROM_COMB, amount_g=clean_g, bought_on=done_on, note="rendered from comb"
    )
    return Rendering.objects.create(owner=user, raw_g=raw_g, clean_g=clean_g, done_on=done_on, lot=lot)
