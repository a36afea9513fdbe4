"""A version as a recipe for a friend: ingredients, method, firmness."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

from calmtin.accounts.models import Bench
from calmtin.core.data.loader import scent_facts
from calmtin.core.materials import Shelf, pure
from calmtin.core.process.grain import Cooling
from calmtin.core.process.run_sheet import run_sheet
from calmtin.core.process.steps import Batch, Step
from calmtin.formulas.adapters import alcohol_pct_of, composition_of
from calmtin.formulas.models import FinishPart, Version
from calmtin.formulas.queries.formula import CautionView
from calmtin.formulas.queries.sheet import SheetView, sheet_view

NOT_A_STEP = ("weigh",)  # what a reader does anyway


@dataclass(frozen=True)
class RecipeView:
    """A recipe: its sheet, the steps with what to look for, and what its finishes take."""

    sheet: SheetView
    steps: list[Step]
    finishes: list[tuple[str, list[tuple[str, FinishPart]]]]
    cautions: list[CautionView]


def recipe_view(version: Version, shelf: Shelf, bench: Bench) -> RecipeView:
    """Return a version as a recipe."""
    sheet = sheet_view(version, shelf, bench)
    composition = composition_of(version, shelf)
    firmness = sheet.formula.firmness
    batch = Batch(
        parts=pure([(part.material, float(version.batch_g * part.percent / 100)) for part in composition]),
        kind=version.formula.kind,
        cooling=cast(Cooling, version.cooling),
        overrun=version.overrun,
        set_c=firmness.set_c if firmness else None,
        scents=scent_facts(),
        alcohol_pct=alcohol_pct_of(version),
    )
    steps = run_sheet(batch) if sheet.rows else []
    return RecipeView(
        sheet,
        [step for step in steps if step.key not in NOT_A_STEP],
        [
            (finish.name, [(shelf[part.material].in_words, part) for part in finish.parts.all()])
            for finish in version.formula.finishes.filter(removed_at=None).prefetch_related("parts")
        ],
        # What this bench can weigh is no business of a friend's.
        [said for said in sheet.formula.cautions if said.caution.key != "too_small"],
    )
