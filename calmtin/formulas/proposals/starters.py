"""Complete formulas to start from, each with its pictures and cost."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from django.core.signing import BadSignature, Signer
from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.core.data.loader import kinds
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Shelf
from calmtin.core.solver.search import Stop, never
from calmtin.core.solver.starters import Starter, starters
from calmtin.formulas.models import Formula
from calmtin.formulas.proposals.wording import say_reason
from calmtin.formulas.queries.readings import Firmness, Unpredicted, firmness_of
from calmtin.pantry.queries.lots import cost_of_100_g
from calmtin.pictures.section import TinSection, tin_section

_SIGNER = Signer(salt="calmtin.worked")


@dataclass(frozen=True)
class WorkedFormula:
    """A complete formula to start from, as the page shows it."""

    starter: Starter
    firmness: Firmness | Unpredicted
    section: TinSection
    cost_100_g: Decimal | None
    unit: str

    @property
    def stops(self) -> list[str]:
        """What keeps it from the target it aims at."""
        return [say_reason(reason, self.unit) for reason in self.starter.solution.limits]

    @property
    def token(self) -> str:
        """Its lines in one field of a form."""
        lines = [[material.slug, str(percent)] for material, percent in self.starter.lines]
        return _SIGNER.sign_object(lines, compress=True)


def read_lines(text: str) -> list[tuple[str, Decimal]]:
    """Return the lines that a worked formula's token says; refuse anything that we did not say."""
    try:
        return [(slug, Decimal(percent)) for slug, percent in _SIGNER.unsign_object(text)]
    except BadSignature:
        raise CalmTinError(gettext("This suggestion has expired. Suggest three formulas again.")) from None


def worked_formulas(
    shelf: Shelf,
    bench: Bench,
    *,
    kind_slug: str,
    avoid: list[str],
    place: str,
    stock: set[str],
    costs: dict[str, Decimal],
    stop: Stop = never,
) -> list[WorkedFormula]:
    """Return three worked formulas for the answers, each with its pictures and cost.

    The cost of 100 g is told only where every material has a lot with a price.
    """
    kind = kinds()[kind_slug]
    hot_c = {"hot": bench.hot_c, "room": bench.room_c, "cold": bench.room_c}.get(place)
    at_c = bench.cold_c if place == "cold" else bench.room_c
    found = []
    worked = starters(
        shelf,
        kind,
        avoid=avoid,
        stock=frozenset(stock),
        at_c=at_c,
        hot_c=hot_c,
        prior=bench.prior,
        stop=stop,
    )
    for starter in worked:
        lines = starter.lines
        parts = [(material, float(percent)) for material, percent in lines]
        section = tin_section(
            [(m.slug, m.label, m.layer, float(p)) for m, p in lines], width=220.0, height=220.0
        )
        found.append(
            WorkedFormula(
                starter=starter,
                firmness=firmness_of(parts, Formula(kind=kind_slug), bench, overrun=kind.usual_overrun),
                section=section,
                cost_100_g=cost_of_100_g(costs, [(material.slug, percent) for material, percent in lines]),
                unit=bench.temperature_unit,
            )
        )
    return found
