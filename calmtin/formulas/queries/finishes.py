"""One base, several finishes: what each takes from the pot, and how firm it sets."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import partial

from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.common.notation import Boxes
from calmtin.common.numbers import read_box
from calmtin.core.cautions.case import Caution
from calmtin.core.cautions.labelling import claim_in
from calmtin.core.composition import WHOLE
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import BATCH_G
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import notation_in_force
from calmtin.core.process.pots import PartDose, Portion, split_pot
from calmtin.core.process.weighing import whole_steps
from calmtin.core.quantities import Mass
from calmtin.core.units import read_number
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Finish, Version
from calmtin.formulas.queries.formula import cautions_for, told_at_once
from calmtin.formulas.queries.readings import Firmness, Unpredicted, firmness_of
from calmtin.formulas.queries.scents import drops_in
from calmtin.pictures.section import TinSection, tin_section


@dataclass(frozen=True)
class PortionView:
    """A finish with its portion of the pot, its picture and its firmness."""

    finish: Finish
    share: str
    problem: str
    portion: Portion | None
    firmness: Firmness | Unpredicted
    section: TinSection
    cautions: list[Caution]

    @property
    def doses(self) -> list[tuple[PartDose, float | None]]:
        """The parts with their drops, where they are scents."""
        found = []
        for part in self.portion.parts if self.portion else ():
            drops = None
            if part.material.group == "scent":
                drops = drops_in(part.material, float(part.grams))[0]
            found.append((part, drops))
        return found


@dataclass(frozen=True)
class PotView:
    """A pot of base, as typed and in g, split between the formula's finishes."""

    base: list[tuple[Material, Decimal]]
    pot: str
    pot_g: Decimal
    portions: list[PortionView]
    problems: dict[str, str]
    taken_out: list[Finish]


def _finishes(version: Version, *, is_kept: bool) -> list[Finish]:
    found = version.formula.finishes.filter(removed_at__isnull=is_kept)
    return list(found.prefetch_related("parts"))


def base_of(version: Version, shelf: Shelf) -> list[tuple[Material, Decimal]]:
    """Return the base of a version in percent of itself: everything that is not on top."""
    base = composition_of(version, shelf).base
    total = sum((part.percent for part in base), Decimal(0))
    return [(part.material, part.percent * WHOLE / total) for part in base] if total else []


def base_grams(version: Version, shelf: Shelf) -> Decimal:
    """Return what the base of a version weighs in its batch; never nothing."""
    base = composition_of(version, shelf).base
    total = sum((part.percent for part in base), Decimal(0))
    return version.batch_g * (total or WHOLE) / WHOLE


def pot_view(version: Version, shelf: Shelf, bench: Bench, typed: Mapping[str, str]) -> PotView:
    """Return the pot as typed: its grams, and a share for each finish (1 by default)."""
    base, finishes = base_of(version, shelf), _finishes(version, is_kept=True)
    parts = {f.pk: [(shelf[part.material], part.percent) for part in f.parts.all()] for f in finishes}
    pot = Boxes({"pot": Mass(version.batch_g)}, typed)
    boxes = {f.pk: typed.get(f"share_{f.pk}", "1") for f in finishes}
    problems: dict[str, str] = {}
    notation = notation_in_force()
    grams = pot.grams(problems, "pot", gettext("The pot"), low=BATCH_G[0], high=BATCH_G[1])
    shares = {
        pk: read_box(
            problems,
            f"share_{pk}",
            partial(read_number, text, name="The share", high=1000.0, notation=notation),
        )
        for pk, text in boxes.items()
    }
    portions: list[Portion | None] = [None] * len(finishes)
    if finishes and not problems:
        try:
            step = bench.scale_step_g
            portions = list(
                split_pot(
                    whole_steps(grams, step),
                    [shares[f.pk] for f in finishes],
                    [parts[f.pk] for f in finishes],
                    resolution=step,
                )
            )
        except CalmTinError as refused:
            problems["pot"] = str(refused)
    views = []
    for finish, portion in zip(finishes, portions, strict=True):
        whole = [*base, *parts[finish.pk]]
        masses = [(material, float(mass)) for material, mass in whole]
        total = sum(mass for _, mass in masses) or 1.0
        section = tin_section(
            [(m.slug, m.label, m.layer, 100.0 * mass / total) for m, mass in masses],
            width=64.0,
            height=48.0,
        )
        firm = firmness_of(masses, version.formula, bench, overrun=version.overrun)
        views.append(
            PortionView(
                finish,
                boxes[finish.pk],
                problems.get(f"share_{finish.pk}", ""),
                portion,
                firm,
                section,
                _cautions(finish, masses, total, version, bench),
            )
        )
    return PotView(base, pot["pot"], grams, views, problems, _finishes(version, is_kept=False))


def _cautions(
    finish: Finish, masses: list[tuple[Material, float]], total: float, version: Version, bench: Bench
) -> list[Caution]:
    """Return the cautions about a finish on its base, and about its name."""
    percents = [(material, 100.0 * mass / total) for material, mass in masses]
    found = told_at_once(cautions_for(percents, version, bench))
    claim = claim_in(finish.name)
    return found + ([claim] if claim else [])
