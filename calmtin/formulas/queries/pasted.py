"""A pasted recipe on its way to a draft: what was read, and what the maker settled."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from calmtin.core.composition import WHOLE
from calmtin.core.data.loader import drops_per_ml, synonyms
from calmtin.core.errors import CalmTinError, EmptyFormula
from calmtin.core.materials import Material, Shelf
from calmtin.core.process.weighing import share_out
from calmtin.core.recipe.reader import RecipeLine, Unresolved, read_recipe, weigh_as
from calmtin.core.units import read_number
from calmtin.pantry.adapters import shelf_for

LEAVE_OUT = "leave out"
FINEST = Decimal("0.001")


@dataclass(frozen=True)
class PastedRow:
    """One line of the recipe: what was read and what stands now."""

    place: int
    text: str
    material: Material | None
    grams: Decimal | None
    low: float
    high: float
    is_left_out: bool
    question: str
    offers: list[Material]
    problem: str
    typed_grams: str
    percent: tuple[float, float, float] | None = None

    @property
    def is_settled(self) -> bool:
        """Whether it needs nothing more."""
        return self.is_left_out or (
            self.material is not None and self.grams is not None and not self.problem
        )

    @property
    def is_wide(self) -> bool:
        """Whether the measure leaves more than a tenth either way."""
        return self.grams is not None and self.high - self.low > 0.2 * float(self.grams)


@dataclass(frozen=True)
class Pasted:
    """The whole recipe."""

    rows: list[PastedRow]

    @property
    def is_settled(self) -> bool:
        """Whether it can become a draft."""
        return all(row.is_settled for row in self.rows) and any(not row.is_left_out for row in self.rows)

    @property
    def kept(self) -> list[PastedRow]:
        """The rows that go into the draft."""
        return [row for row in self.rows if row.is_settled and not row.is_left_out]

    @property
    def batch_g(self) -> Decimal:
        """What it weighs together."""
        total = sum((row.grams for row in self.kept if row.grams), Decimal(0))
        return min(max(total.quantize(Decimal("0.01")), Decimal(1)), Decimal(50_000))

    def percents(self) -> list[tuple[str, Decimal]]:
        """Return materials and percentages that sum to 100.000; the same material is put together."""
        grams: dict[str, Decimal] = {}
        for row in self.kept:
            if row.material is not None and row.grams is not None:
                grams[row.material.slug] = grams.get(row.material.slug, Decimal(0)) + row.grams
        total = sum(grams.values(), Decimal(0))
        if total <= 0:
            raise EmptyFormula("Nothing in this recipe has any weight yet.", field="text")
        exact = [value * WHOLE / total for value in grams.values()]
        exact[-1] = WHOLE - sum(exact[:-1], Decimal(0))
        return list(zip(grams, share_out(exact, FINEST), strict=True))

    def typed(self) -> list[str]:
        """Return what was written for each line of `percents`."""
        words: dict[str, list[str]] = {}
        for row in self.kept:
            if row.material is not None:
                words.setdefault(row.material.slug, []).append(row.text)
        return [" + ".join(texts) for texts in words.values()]


def read_pasted(user: Any, text: str, settled: Mapping[str, str]) -> Pasted:
    """Read `text` against the maker's shelf, with what the form settled for each line.

    `settled` holds material_N ("leave out" or a slug) and grams_N for line N.
    """
    shelf = shelf_for(user)
    recipe = read_recipe(text, shelf, synonyms=synonyms(), drops_per_ml=drops_per_ml())
    rows = [_row(place, item, shelf, settled) for place, item in enumerate(recipe.items)]
    return Pasted(_with_percents(rows))


def _row(place: int, item: RecipeLine | Unresolved, shelf: Shelf, settled: Mapping[str, str]) -> PastedRow:
    read = item if isinstance(item, RecipeLine) else None
    chosen = settled.get(f"material_{place}", read.material if read else "")
    typed = settled.get(f"grams_{place}", f"{read.weight.grams:.2f}" if read else "")
    weight = read.weight if read else None
    if read is None and chosen in shelf:
        weight = weigh_as(item.text, shelf[chosen], drops_per_ml=drops_per_ml().get(chosen))
        if weight and not typed:
            typed = f"{weight.grams:.2f}"
    problem = "" if read or chosen else item.reason if isinstance(item, Unresolved) else ""
    grams = None
    is_left_out = chosen == LEAVE_OUT
    if not is_left_out and chosen and not problem:
        try:
            grams = read_number(typed, name="The weight", low=0, high=50_000, unit="g", places=2)
        except CalmTinError as refused:
            problem = refused.sentence
    as_read = weight is not None and grams is not None and f"{grams:.2f}" == f"{weight.grams:.2f}"
    low, high = (weight.low, weight.high) if weight and as_read else (float(grams or 0),) * 2
    slugs = [read.material, *(c.slug for c in read.others)] if read else [c.slug for c in item.choices]  # type: ignore[union-attr]
    return PastedRow(
        place=place,
        text=item.text,
        material=shelf.get(chosen),
        grams=grams,
        low=low,
        high=high,
        is_left_out=is_left_out,
        question=read.question if read and as_read else "",
        offers=[shelf[slug] for slug in dict.fromkeys(slugs)],
        problem=problem,
        typed_grams=typed,
    )


def _with_percents(rows: list[PastedRow]) -> list[PastedRow]:
    """Add each kept row's percent of the whole with the range that the measures leave."""
    kept = [row for row in rows if row.is_settled and not row.is_left_out and row.grams is not None]
    total = float(sum(row.grams for row in kept if row.grams is not None))
    low, high = sum(row.low for row in kept), sum(row.high for row in kept)
    found = []
    for row in rows:
        if row not in kept or total <= 0:
            found.append(row)
            continue
        least = row.low / (row.low + high - row.high) if row.low else 0.0
        most = row.high / (row.high + low - row.low) if row.high else 0.0
        share = float(row.grams or 0) / total
        found.append(replace(row, percent=(100 * share, 100 * least, 100 * most)))
    return found
