"""The scents of a version in percent, grams and drops, against their ceilings."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.cautions.ceilings import (
    Ceiling,
    drops_of,
    fit_factor,
    limit_of,
    photo_share,
    phototoxic_sum,
    scent_total,
)
from calmtin.core.composition import Composition, Part
from calmtin.core.data.loader import ceilings, drops_per_ml, scent_facts
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.core.recipe.measures import USUAL_DROPS, to_weight
from calmtin.formulas.models import Version


@dataclass(frozen=True)
class ScentRow:
    """A scent: percent, grams, drops and its limit."""

    part: Part
    grams: Decimal
    drops: tuple[float, float, float]
    limit: float | None
    photo_share: float

    @property
    def is_over(self) -> bool:
        """Whether it passes its own limit."""
        return self.limit is not None and float(self.part.percent) > self.limit + 1e-9


@dataclass(frozen=True)
class ScentView:
    """All scents of a version against the ceilings of its audience."""

    rows: list[ScentRow]
    total: float
    ceiling: Ceiling
    photo: float
    factor: float

    @property
    def fitted(self) -> float:
        """The percent of scent in all once it fits."""
        return self.total * self.factor

    @property
    def fits(self) -> bool:
        """Whether every ceiling holds."""
        return self.factor >= 1.0


def drops_in(material: Material, grams: float) -> tuple[float, float, float]:
    """Return the number of drops of a scent: the usual number, the fewest and the most."""
    return drops_of(grams, material.density_solid, drops_per_ml().get(material.slug, USUAL_DROPS))


def about_in_words(material: Material, grams: float) -> str:
    """Return drops of a scent or teaspoons of a powder, where there is little enough of it."""
    if material.group == "scent" and 0 < grams <= 5.0:
        return said("about {drops_in:.0f} drops", drops_in=drops_in(material, grams)[0])
    if material.is_filler and 0 < grams <= 15.0:
        spoon = to_weight(material, 1.0, "tsp").grams
        return said("about {grams:.2g} tsp", grams=grams / spoon)
    return ""


def scents_of(version: Version, composition: Composition) -> ScentView | None:
    """Return the scents of a version in percent, grams and drops; None where it has none."""
    weighed = zip(composition, composition.in_batch(version.batch_g), strict=True)
    scents = [(part, grams) for part, grams in weighed if part.material.group == "scent"]
    if not scents:
        return None
    facts, ceiling = scent_facts(), ceilings()[version.formula.audience]
    doses = [(part.material, float(part.percent)) for part, _ in scents]
    rows = [
        ScentRow(
            part=part,
            grams=grams,
            drops=drops_in(part.material, float(grams)),
            limit=limit_of(part.material, facts),
            photo_share=photo_share(part.material, float(part.percent), facts),
        )
        for part, grams in scents
    ]
    sees_sun = version.formula.sees_sun
    return ScentView(
        rows=rows,
        total=scent_total(doses),
        ceiling=ceiling,
        photo=phototoxic_sum(doses, facts) if sees_sun else 0.0,
        factor=fit_factor(doses, facts, ceiling, sees_sun=sees_sun),
    )
