"""What a maker does with the pantry: one function each, atomic.

Stock is a ledger: nothing in it is changed, and each movement that something
else caused carries its source, so that it counts once.
"""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from itertools import count
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from calmtin.common.numbers import SumGrams
from calmtin.common.once import sent_once
from calmtin.common.owned import read_again
from calmtin.core import limits
from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check, check_day, check_text
from calmtin.core.materials import GROUPS
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


@sent_once
@transaction.atomic
def add_material(user: Any, *, name: str, group: str, behaves_like: str, **facts: Any) -> OwnMaterial:
    """Add a material that the library lacks; it can be used in predictions at once.

    Raises `CalmTinError` where the core cannot make sense of it.
    """
    if behaves_like not in library():
        raise CalmTinError("Choose the library material that it behaves like.", field="behaves_like")
    check_text(name, 80, name="The name", field="name")
    check_text(facts.get("notes", ""), 2000, name="The note", field="notes")
    if not name.strip():
        raise CalmTinError("Give the material a name.", field="name")
    if group not in GROUPS:
        raise CalmTinError("Choose a group from the list.", field="group")
    _check_figures(facts)
    base = "my_" + (slugify(name).replace("-", "_")[:50] or "material")
    taken = set(OwnMaterial.objects.of(user).values_list("slug", flat=True))
    slug = next(s for n in count(1) if (s := base if n == 1 else f"{base}_{n}") not in taken)
    row = OwnMaterial(owner=user, slug=slug, name=name, group=group, behaves_like=behaves_like, **facts)
    to_core(row)
    row.save()
    return row


def _check_figures(figures: dict[str, Any]) -> None:
    """Refuse a figure of a material outside its bounds."""
    spans = {
        "melt_low_c": (limits.MELT_C, "It melts from, which", "°C"),
        "melt_high_c": (limits.MELT_C, "It melts to, which", "°C"),
        "density": (limits.DENSITY, "The density", "g/ml"),
        "strength_pct": (limits.STRENGTH_PCT, "The strength", "%"),
        "limit_pct": (limits.PERCENT, "The supplier’s limit", "%"),
        "typical_low_pct": (limits.PERCENT, "The usual share", "%"),
        "typical_high_pct": (limits.PERCENT, "The usual share", "%"),
    }
    for name, (span, words, unit) in spans.items():
        if figures.get(name) is not None:
            check(figures[name], span, name=words, field=name, unit=unit)


@transaction.atomic
def set_own_figures(user: Any, material: str, **figures: Any) -> Override:
    """Keep what the maker knows better about a library material."""
    _check_figures(figures)
    row, _ = Override.objects.update_or_create(
        owner=user, material=library()[material].slug, defaults=figures
    )
    return row


@sent_once
@transaction.atomic
def buy_lot(user: Any, *, material: str, amount_g: Decimal, bought_on: date, **facts: Any) -> Lot:
    """Put a purchase on the shelf and open its ledger."""
    slug = shelf_for(user)[material].slug
    check_lot(amount_g=amount_g, bought_on=bought_on, **facts)
    lot = Lot.objects.create(owner=user, material=slug, amount_g=amount_g, bought_on=bought_on, **facts)
    Movement.objects.create(lot=lot, kind=Movement.Kind.BOUGHT, grams=amount_g)
    return lot


def check_lot(
    *,
    amount_g: Decimal,
    bought_on: date,
    price: Decimal | None = None,
    best_before: date | None = None,
    opened_on: date | None = None,
    note: str = "",
    typed: str = "",
) -> None:
    """Refuse a purchase that cannot be: too little, too much, a year that no bench sees."""
    check(amount_g, limits.LOT_G, name="A lot", field="amount", unit="g")
    if price is not None:
        check(price, limits.PRICE, name="The price", field="price")
    check_day(bought_on, name="The day it was bought", field="bought_on")
    check_day(best_before, name="Best before", field="best_before")
    check_day(opened_on, name="The day it was opened", field="opened_on")
    check_text(note, 200, name="The note", field="note")
    check_text(typed, 120, name="The amount", field="amount")


_CORRECTED = {
    "amount_g": "bought",
    "price": "price",
    "bought_on": "bought on",
    "best_before": "best before",
    "opened_on": "opened on",
    "note": "note",
}


@sent_once
@transaction.atomic
def correct_lot(user: Any, lot: Lot, *, reason: str, **facts: Any) -> Movement | None:
    """Put right what was typed for a purchase; the ledger keeps what it said before.

    `facts` are amount_g, price, bought_on, best_before, opened_on and note. None when
    nothing differs. What has been used of the lot stays used.
    """
    read_again(user, lot)
    if not reason.strip():
        raise CalmTinError("Say why: a slip of the finger, the wrong unit.", field="reason")
    was = {name: getattr(lot, name) for name in _CORRECTED}
    now = was | facts
    check_lot(**now)
    used = was["amount_g"] - balance(lot)
    if not lot.voided_at and now["amount_g"] < used:
        raise CalmTinError(
            f"{used.normalize():f} g of it have been used already, so it weighed at least that.",
            field="amount_g",
        )
    changed = [name for name in _CORRECTED if was[name] != now[name]]
    if not changed:
        return None
    said = ", ".join(f"{_CORRECTED[name]} {_said(was[name])} → {_said(now[name])}" for name in changed)
    for name in changed:
        setattr(lot, name, now[name])
    if "amount_g" in changed:
        lot.typed = ""
    lot.save(update_fields=[*changed, "typed"])
    difference = Decimal(0) if lot.voided_at else now["amount_g"] - was["amount_g"]
    return _enter(lot, Movement.Kind.CORRECTED, difference, f"{reason.strip()}: {said}")


def _said(value: Any) -> str:
    return f"{value.normalize():f}" if isinstance(value, Decimal) else str(value or "nothing")


@transaction.atomic
def void_lot(user: Any, lot: Lot, *, reason: str) -> Lot:
    """Take a lot off the shelf that should not be there; its ledger stays and says why."""
    read_again(user, lot)
    if not reason.strip():
        raise CalmTinError("Say why it goes: typed twice, thrown away, given away.", field="reason")
    if lot.voided_at is None:
        lot.voided_at = timezone.now()
        lot.save(update_fields=["voided_at"])
        _enter(lot, Movement.Kind.VOIDED, -balance(lot), reason.strip())
    return lot


@transaction.atomic
def restore_lot(user: Any, lot: Lot) -> Lot:
    """Put a lot back on the shelf with what was left of it when it was taken off."""
    read_again(user, lot)
    if lot.voided_at is not None:
        gone = lot.movements.filter(kind=Movement.Kind.VOIDED).last()
        lot.voided_at = None
        lot.save(update_fields=["voided_at"])
        _enter(lot, Movement.Kind.CORRECTED, -gone.grams if gone else Decimal(0), "back on the shelf")
    return lot


def _enter(lot: Lot, kind: str, grams: Decimal, reason: str) -> Movement:
    """Add a line to a lot's ledger; what does not fit into its reason is cut with a sign."""
    words = reason if len(reason) <= 200 else f"{reason[:199]}…"
    return Movement.objects.create(lot=lot, kind=kind, grams=grams, reason=words)


@sent_once
@transaction.atomic
def reweigh(user: Any, lot: Lot, *, actual_g: Decimal, reason: str) -> Movement | None:
    """Correct a lot's balance to what the scale says, with the reason; None when it agrees."""
    if not reason.strip():
        raise CalmTinError("Say why: spilled, given away, scale was off.", field="reason")
    read_again(user, lot)
    check(actual_g, (0.0, limits.LOT_G[1]), name="What is left", field="actual", unit="g")
    if lot.voided_at is not None:
        raise CalmTinError("This lot is off the shelf. Put it back first.", field="actual")
    difference = actual_g.quantize(Decimal("0.01")) - balance(lot)
    return _enter(lot, Movement.Kind.CORRECTED, difference, reason.strip()) if difference else None


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
    lots = Lot.objects.of(user).filter(material=material, voided_at=None)
    # Grouping drops the model's own ordering, so it is said again.
    for lot in lots.annotate(left=SumGrams("movements__grams")).order_by(*Lot._meta.ordering):
        taken = min(left, lot.left)
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
    return lot.movements.aggregate(total=SumGrams("grams"))["total"]


@sent_once
@transaction.atomic
def add_container(user: Any, *, name: str, brim_ml: float, **facts: Any) -> OwnContainer:
    """Add a container or mould of the maker's own."""
    check_text(name, 80, name="The name", field="name")
    check(brim_ml, limits.BRIM_ML, name="To the brim it", field="brim_ml", unit="ml")
    for field, span in {
        "usual_level_pct": limits.FILL_PCT,
        "cavities": limits.CAVITIES,
        "on_hand": limits.ON_HAND,
        "price": limits.PRICE,
        "tare_g": limits.WEIGHT_G,
    }.items():
        if facts.get(field) is not None:
            check(facts[field], span, name="This", field=field)
    return OwnContainer.objects.create(owner=user, name=name, brim_ml=brim_ml, **facts)


@sent_once
@transaction.atomic
def start_infusion(
    user: Any, *, herb: str, herb_g: Decimal, oil: str, oil_g: Decimal, method: str, started_on: date
) -> Infusion:
    """Start a dried herb in oil; the oil is taken from stock."""
    material = shelf_for(user)[oil]
    if material.layer != "oil":
        raise CalmTinError("Infuse in a liquid oil.", field="oil", material=oil)
    check_text(herb, 80, name="The herb", field="herb")
    check(herb_g, limits.HERB_G, name="The herb", field="herb_g", unit="g")
    check(oil_g, limits.OIL_G, name="The oil", field="oil_g", unit="g")
    check_day(started_on, name="The start", field="started_on")
    if method not in Infusion.Method.values:
        raise CalmTinError("Choose a cold or a warm infusion.", field="method")
    due_on = due_date(method, started_on)
    check_day(due_on, name="The day it is strained", field="started_on")
    infusion = Infusion.objects.create(
        owner=user,
        herb=herb,
        herb_g=herb_g,
        oil=material.slug,
        oil_g=oil_g,
        method=method,
        started_on=started_on,
        due_on=due_on,
    )
    take_from_stock(user, material.slug, oil_g, source=f"infusion {infusion.pk}", kind=Movement.Kind.USED)
    return infusion


@sent_once
@transaction.atomic
def strain(user: Any, infusion: Infusion, *, recovered_g: Decimal, strained_on: date) -> Lot:
    """Strain an infusion: the oil recovered becomes a lot of an oil that behaves as its base.

    Raises `CalmTinError` when it was strained before, or gives more than went in.
    """
    read_again(user, infusion)
    check_day(strained_on, name="The day it was strained", field="strained_on")
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


@sent_once
@transaction.atomic
def render_comb(user: Any, *, raw_g: Decimal, clean_g: Decimal, done_on: date) -> Rendering:
    """Record raw comb cleaned to wax; the wax becomes a lot."""
    check(raw_g, limits.COMB_G, name="The comb", field="raw_g", unit="g")
    check_day(done_on, name="The day", field="done_on")
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
