"""What was typed into a draft: a material by any of its names, and a dose in any measure."""

from __future__ import annotations

from calmtin.core.data.loader import drops_per_ml, synonyms
from calmtin.core.materials import Material, Shelf
from calmtin.core.recipe.doses import Dose, read_dose
from calmtin.core.recipe.matching import name_material
from calmtin.formulas.models import Version


def material_named(words: str, shelf: Shelf) -> Material:
    """Return the material that `words` name; raises `CalmTinError` with what they may mean."""
    return name_material(words, shelf, synonyms())


def dose_typed(version: Version, material: Material, text: str) -> Dose:
    """Return what was typed as a dose of a material in a version's batch; raises `CalmTinError`."""
    drops = drops_per_ml().get(material.slug)
    return read_dose(text, material, batch_g=version.batch_g, drops_per_ml=drops)
