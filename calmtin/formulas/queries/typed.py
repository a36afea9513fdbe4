"""Input to a draft: a material by any of its names, and a dose in any measure."""

from __future__ import annotations

from decimal import Decimal

from calmtin.common.templatetags.calm import one, range_end, weight
from calmtin.core.composition import Composition, Part
from calmtin.core.data.loader import drops_per_ml, synonyms
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import notation_in_force, said
from calmtin.core.recipe.doses import Dose, read_dose
from calmtin.core.recipe.matching import name_material
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version


def material_named(words: str, shelf: Shelf) -> Material:
    """Return the material named `words`; raises `CalmTinError` with likely ones."""
    return name_material(words, shelf, synonyms())


def dose_typed(material: Material, text: str) -> Dose:
    """Return the typed dose of a material; raises `CalmTinError`."""
    drops = drops_per_ml().get(material.slug)
    return read_dose(text, material, drops_per_ml=drops, notation=notation_in_force())


def what_it_does(version: Version, shelf: Shelf, text: str, *, key: str = "", name: str = "") -> str:
    """Return the effect of a typed dose on the batch, for the line `key` or a new material.

    Raises `CalmTinError` as keeping it would.
    """
    composition = composition_of(version, shelf)
    if key:
        part = composition[key]
    else:
        material = material_named(name, shelf)
        part = Part("+", material, Decimal(0))
        composition = Composition.of([*composition.parts, part], overrun=composition.overrun)
    dose = dose_typed(part.material, text)
    on_top = part.is_on_top if dose.on_top is None else dose.on_top
    if dose.measured is None:
        return _of_percent(composition, part, dose.percent or Decimal(0), version, on_top=on_top)
    measured = dose.measured
    changed, batch_g = composition.in_pot(part.key, measured.grams, version.batch_g, on_top=on_top)
    now = weight(measured.grams)
    span = ""
    if not measured.is_sure:
        span = said(
            " ({low} to {high}: {how})",
            low=range_end(measured.low),
            high=weight(measured.high),
            how=dose.how,
        )
    if len(composition) == 1:
        return said("{now}{span} is the whole batch so far.", now=now, span=span)
    return said(
        "{now}{span} makes {percent} %. The others keep their weight, and the batch becomes {batch_g}.",
        now=now,
        span=span,
        percent=one(changed[part.key].percent),
        batch_g=weight(batch_g),
    )


def _of_percent(
    composition: Composition, part: Part, value: Decimal, version: Version, *, on_top: bool
) -> str:
    if len(composition) == 1:
        return said(
            "100 %, {batch_g}: the first ingredient makes up the whole batch.",
            batch_g=weight(version.batch_g),
        )
    changed = composition.given(part.key, value, on_top=on_top)
    grams = weight(changed[part.key].grams_in(version.batch_g))
    if on_top:
        return said(
            "{grams} on top; the base makes room, and the batch stays {batch_g}.",
            grams=grams,
            batch_g=weight(version.batch_g),
        )
    balancing = next((p for p in changed if p.is_balancing), None)
    if balancing is None:
        return said("{grams} of a batch of {batch_g}.", grams=grams, batch_g=weight(version.batch_g))
    return said(
        "{grams}; {in_words} goes to {percent} %, the batch stays {batch_g}.",
        grams=grams,
        in_words=balancing.material.in_words,
        percent=one(balancing.percent),
        batch_g=weight(version.batch_g),
    )
