"""Complete formulas to start from, each with its pictures and cost."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from calmtin.accounts.models import Bench
from calmtin.core.data.loader import kinds
from calmtin.core.materials import Shelf
from calmtin.core.starters import Starter, starters
from calmtin.core.units import read_number
from calmtin.formulas.models import Formula
from calmtin.formulas.readings import Firmness, firmness_of
from calmtin.pantry.queries import cost_of_100_g
from calmtin.pictures.section import TinSection, tin_section


@dataclass(frozen=True)
class WorkedFormula:
    """A complete formula to start from, as the page shows it."""

    starter: Starter
    firmness: Firmness | None
    section: TinSection
    cost_100_g: Decimal | None

    @property
    def token(self) -> str:
        """Its lines in one field of a form."""
        return ";".join(f"{material.slug}:{percent}" for material, percent in self.starter.lines)


def read_lines(text: str) -> list[tuple[str, Decimal]]:
    """Return the lines that a worked formula's token says; refuse anything else."""
    found = []
    for part in text.split(";"):
        slug, _, percent = part.partition(":")
        found.append((slug, read_number(percent, name="The percentage", high=100.0, unit="%")))
    return found


def worked_formulas(
    shelf: Shelf,
    bench: Bench,
    *,
    kind_slug: str,
    avoid: list[str],
    place: str,
    stock: set[str],
    costs: dict[str, Decimal],
) -> list[WorkedFormula]:
    """Return three worked formulas for the answers, each with its pictures and cost.

    The cost of 100 g is told only where every material has a lot with a price.
    """
    kind = kinds()[kind_slug]
    hot_c = {"hot": bench.hot_c, "room": bench.room_c, "cold": bench.room_c}.get(place)
    at_c = bench.cold_c if place == "cold" else bench.room_c
    found = []
    for starter in starters(shelf, kind, avoid=avoid, stock=frozenset(stock), at_c=at_c, hot_c=hot_c):
        lines = starter.lines
        parts = [(material, float(percent)) for material, percent in lines]
        section = tin_section(
            [(m.slug, m.label, m.layer, float(p)) for m, p in lines], width=220.0, height=220.0
        )
        found.append(
            WorkedFormula(
                starter=starter,
                firmness=firmness_of(parts, Formula(kind=kind_slug), bench),
                section=section,
                cost_100_g=cost_of_100_g(costs, [(material.slug, percent) for material, percent in lines]),
            )
        )
    return found
