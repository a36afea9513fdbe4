"""From containers to the scale, and from the pot to containers: the plan before a pour."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal
from functools import partial
from typing import Any

from django.utils import timezone
from django.utils.translation import gettext

from calmtin.accounts.models import Bench, FineScale
from calmtin.common.notation import Boxes, scale_weight
from calmtin.common.numbers import read_box, whole_number
from calmtin.core.composition import WHOLE, Composition, Part
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.limits import BATCH_G, LOSS_PCT, span_in_words
from calmtin.core.materials import Material, Shelf, pure
from calmtin.core.messages import Message, notation_in_force
from calmtin.core.process.fill import (
    Container,
    Filling,
    FillPlan,
    Melt,
    for_containers,
    from_pot,
    melt_of,
    whipped_counts,
    with_batch,
)
from calmtin.core.process.losses import Losses, came_to_more, is_missing_some, learned_cling
from calmtin.core.process.scales import (
    Dilution,
    Scale,
    Weighing,
    dilution_for,
    scale_for,
    smallest_batch_g,
    weigh_on,
)
from calmtin.core.process.tincture import TINCTURE
from calmtin.core.process.uneven import Fit, ways_to_fill, whole_pot
from calmtin.core.quantities import Mass, Percent, Quantity
from calmtin.core.recipe.boxes import read_grams
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Finish, Version
from calmtin.formulas.queries.scents import about_in_words, drops_in
from calmtin.pantry.adapters import containers_for
from calmtin.plans.pour_day import CountedPour, pour_day
from calmtin.plans.queries.bases import BASE, Base, bases_for
from calmtin.plans.queries.rows import WAYS, FillRow, Way, fitting, rows_of

# What a bench loses before its own pours have said: a film on pot and spatula, a drop to test.
USUAL_LOSSES: dict[str, Quantity] = {
    "cling_g": Mass(Decimal(1)),
    "cling_pct": Percent(2),
    "test_g": Mass(Decimal(1)),
    "overfill_g": Mass(Decimal(0)),
    "margin_pct": Percent(0),
    "powder_pct": Percent(2),
}
LAST_POURS = 5


@dataclass(frozen=True)
class Line:
    """A line of the sheet on its scale, and how to weigh one that is too little for it.

    `about` is what a maker would count or spoon it out as, which is no weight.
    """

    part: Part
    weighing: Weighing
    about: str = ""
    dilution: Dilution | None = None
    dilute_in: Material | None = None
    batch_for_it: Decimal | None = None


@dataclass(frozen=True)
class FinishDose:
    """An addition to a finish's share: in total, per container, and in drops for a scent."""

    material: Material
    percent: Decimal
    grams: Decimal
    each_g: float
    each_drops: float | None

    @property
    def is_coarse(self) -> bool:
        """Whether a drop more or less in each container changes it by more than a quarter."""
        return self.each_drops is not None and self.each_drops < 4.0


@dataclass(frozen=True)
class FinishShare:
    """A finish of the pot: its base in g, its containers, and its additions."""

    name: str
    base_g: Decimal
    count: int
    doses: list[FinishDose]


@dataclass(frozen=True)
class FillView:
    """The plan as typed, and all that follows from it; `plan` is None while something cannot be read.

    `fits` are the ways to use up what the containers leave over, `fit` the one that was chosen.
    """

    version: Version
    way: Way
    rows: list[FillRow]
    boxes: Boxes
    problems: dict[str, str]
    finishes: list[Finish]
    scales: list[Scale]
    parts: list[Part]
    losses: Losses | None = None
    plan: FillPlan | None = None
    counts: tuple[int, int] | None = None
    fits: list[Fit] = field(default_factory=list)
    fit: str = ""
    lines: list[Line] = field(default_factory=list)
    shares: list[FinishShare] = field(default_factory=list)
    is_learned: bool = False
    left_out: list[CountedPour] = field(default_factory=list)
    lots: dict[str, int] = field(default_factory=dict)
    containers: Mapping[str, Container] = field(default_factory=dict)
    bases: list[Base] = field(default_factory=list)
    base: Base | None = None

    @property
    def small(self) -> list[Line]:
        """The lines that are too little for every scale."""
        return [line for line in self.lines if line.weighing.is_small]

    @property
    def top_ups(self) -> list[tuple[str, float]]:
        """What to hold back for a second pour into what dips as it sets; a mould is scraped level."""
        if self.plan is None:
            return []
        dips = [(f, self.plan.top_up_g(f)) for f in self.plan.fillings if not f.container.is_mould]
        return [(f.container.name, round(grams, 1)) for f, grams in dips if grams >= 0.5]

    @property
    def finest_g(self) -> Decimal:
        """The finest step that the sheet is weighed in, g."""
        return min((line.weighing.scale.step_g for line in self.lines), default=self.scales[0].step_g)

    @property
    def ways(self) -> dict[Way, str]:
        """The ways in, with their words."""
        return WAYS


def scales_of(user: Any, bench: Bench) -> list[Scale]:
    """Return the bench's scales in the order of use: the kitchen scale, then finer ones."""
    main = Scale(gettext("kitchen scale"), bench.scale_step_g)
    fine = [Scale(row.name, row.step_g, row.capacity_g, row.least_g) for row in FineScale.objects.of(user)]
    return [main, *sorted(fine, key=lambda scale: -scale.step_g)]


def fill_view(
    user: Any, version: Version, shelf: Shelf, bench: Bench, typed: Mapping[str, str]
) -> FillView:
    """Return the plan for `typed`; errors are shown at their boxes."""
    composition = composition_of(version, shelf)
    containers = containers_for(user)
    if "take" in typed:
        # A batch that the page has worked out, taken with one press.
        typed = {**typed, "way": "pot", "pot": typed["take"], "have_g": ""}
    way: Way = typed["way"] if typed.get("way") in WAYS else "pot"  # type: ignore[assignment]
    bases = bases_for(user, composition.masses, shelf, bench, timezone.localdate())
    base = next((base for base in bases if str(base.lot.pk) == typed.get("base")), None)
    batch_g = version.batch_g
    if base is not None:
        composition, batch_g = base.composition(version.overrun), min(batch_g, base.left_g)
    finishes = list(version.formula.finishes.filter(removed_at=None).prefetch_related("parts"))
    cling, left_out = _learned(user)
    boxes = Boxes({**_usual_losses(cling), "pot": Mass(batch_g)}, typed)
    boxes.update({name: typed.get(name, "") for name in ("have", "have_g")})
    if typed.get("was_pot", boxes["pot"]) != boxes["pot"]:
        boxes["have_g"] = ""  # the pot itself was typed after that
    problems: dict[str, str] = {}
    melt = _melt_of(version, composition)
    losses = _losses(boxes, problems)
    rows = rows_of(version, way, containers, melt, finishes, typed)
    if "container_0" not in typed and way == "pot" and not problems:
        rows = fitting(rows, containers, melt, losses, batch_g)
    view = FillView(
        version,
        way,
        rows,
        boxes,
        problems,
        finishes,
        scales_of(user, bench),
        [part for part in composition if part.percent > 0],
        losses,
        is_learned=cling is not None,
        left_out=left_out,
        lots={BASE: base.lot.pk} if base else _lots(composition, typed),
        bases=bases,
        base=base,
        containers=containers,
        fit=typed.get("fit", ""),
    )
    if problems or any(row.problem for row in rows):
        return view
    return _planned(view, composition, melt, shelf, losses)


def _lots(composition: Composition, typed: Mapping[str, str]) -> dict[str, int]:
    """Return the lot that was chosen to be used first, by the key of its line."""
    chosen = {part.key: whole_number(typed.get(f"lot_{part.key}")) for part in composition}
    return {key: lot for key, lot in chosen.items() if lot is not None}


def _planned(
    view: FillView, composition: Composition, melt: Melt, shelf: Shelf, losses: Losses
) -> FillView:
    """Return the view with its plan, or with the reason there is none."""
    problems = dict(view.problems)
    step = view.scales[0].step_g
    fillings = [row.filling for row in view.rows if row.filling is not None]
    counts = None
    try:
        if view.way == "containers":
            plan = for_containers(melt, fillings, losses, resolution=step)
        else:
            pot = _pot_g(view, composition, problems)
            if problems:
                return replace(view, problems=problems)
            if view.way == "whole":
                plan = _whole(melt, fillings, losses, pot, problems)
            else:
                plan = from_pot(melt, fillings, losses, batch_g=pot)
                if melt.overrun:
                    few, many = whipped_counts(melt, fillings, losses, batch_g=pot)
                    counts = (few, many) if few < many else None
        parts = view.parts
        weighings, batch = weigh_on([part.percent for part in parts], plan.batch_g, view.scales)
    except CalmTinError as refused:
        at = refused.field if refused.field in view.boxes else "plan"
        return replace(view, problems=problems | {at: str(refused)})
    plan = with_batch(plan, losses, batch)
    fits = []
    if view.way == "pot" or problems:
        larger = view.containers.values()
        fits = ways_to_fill(melt, fillings, losses, batch_g=batch, containers=larger)
        plan = next((fit.plan for fit in fits if fit.way == view.fit), plan)
    if view.boxes["have_g"].strip():
        view.boxes["pot"] = scale_weight(batch)
    lines = [_line(part, w, parts, view.scales, batch) for part, w in zip(parts, weighings, strict=True)]
    shares = _shares(view, plan, shelf)
    return replace(view, plan=plan, problems=problems, lines=lines, counts=counts, fits=fits, shares=shares)


def _whole(
    melt: Melt, fillings: list[Filling], losses: Losses, pot: Decimal, problems: dict[str, str]
) -> FillPlan:
    """Return all of a batch in one container, or, where that is too small, in as many as it takes."""
    try:
        return whole_pot(melt, fillings[0].container, losses, batch_g=pot)
    except DoesNotFit as refused:
        problems["plan"] = str(refused)
        return from_pot(melt, fillings, losses, batch_g=pot)


def _melt_of(version: Version, composition: Composition) -> Melt:
    parts = composition.masses
    measured = pour_day().measured_overrun(version) if version.overrun else None
    tincture = next((p for p in composition if p.material.slug == TINCTURE), None)
    return melt_of(
        pure(parts),
        set_point_c=set_point_c(blend(parts)),
        overrun=version.overrun if measured is None else measured,
        alcohol_pct=tincture.alcohol_pct if tincture else None,
    )


def _learned(user: Any) -> tuple[tuple[float, float] | None, list[CountedPour]]:
    """Return what clings at this bench, grams and share, from its last pours that were counted.

    Beside it are those of them whose count cannot be right, which tell nothing.
    """
    counted = pour_day().counted_pours(user, LAST_POURS)
    losses = [(pour.melt_g, pour.lost_g) for pour in counted]
    left_out = [
        pour
        for pour in counted
        if came_to_more(pour.melt_g, pour.lost_g) or is_missing_some(pour.melt_g, pour.lost_g)
    ]
    return learned_cling(losses), left_out


def _usual_losses(cling: tuple[float, float] | None) -> dict[str, Quantity]:
    if cling is None:
        return USUAL_LOSSES
    grams, share = round(cling[0], 1), round(100.0 * cling[1], 1)
    return USUAL_LOSSES | {"cling_g": Mass(grams), "cling_pct": Percent(share)}


def _losses(boxes: Boxes, problems: dict[str, str]) -> Losses:
    """Read the losses; errors go into `problems`."""

    def grams(box: str, name: str) -> float:
        return float(boxes.grams(problems, box, name, high=BATCH_G[1]))

    def share(box: str, name: str) -> float:
        return float(boxes.percent(problems, box, name, high=LOSS_PCT[1])) / 100.0

    return Losses(
        cling_g=grams("cling_g", gettext("Lost in the pot")),
        cling_share=share("cling_pct", gettext("Lost in the pot")),
        test_g=grams("test_g", gettext("The test")),
        overfill_g=grams("overfill_g", gettext("The overfill")),
        margin_share=share("margin_pct", gettext("The margin")),
        powder_share=share("powder_pct", gettext("Lost powder")),
    )


def _pot_g(view: FillView, composition: Composition, problems: dict[str, str]) -> Decimal:
    """Return the batch weight: typed, or from "I have 96 g of shea"."""
    notation, boxes = notation_in_force(), view.boxes
    part = next((p for p in composition if p.key == boxes["have"] and p.percent > 0), None)
    if part is not None and boxes["have_g"].strip():
        read = partial(read_grams, boxes["have_g"], name=part.material.label, low=0.01, high=BATCH_G[1])
        have = read_box(problems, "have_g", partial(read, material=part.material, notation=notation))
        pot = have * WHOLE / part.percent
        if not problems and not BATCH_G[0] <= pot <= BATCH_G[1]:
            told = {"pot": Mass(pot, 0), "span": span_in_words(BATCH_G, "g")}
            problems["have_g"] = str(Message("That makes {pot}. A batch must be {span}.", **told))
    else:
        pot = boxes.grams(problems, "pot", gettext("The pot"), low=BATCH_G[0], high=BATCH_G[1])
    step = view.scales[0].step_g
    return (pot / step).to_integral_value() * step


def _line(part: Part, weighing: Weighing, parts: list[Part], scales: list[Scale], batch_g: Decimal) -> Line:
    """Return a line of the sheet; one that is too little comes with its ways out worked out."""
    about = about_in_words(part.material, float(weighing.exact_g))
    if not weighing.is_small:
        return Line(part, weighing, about)
    oils = [p for p in parts if p.material.layer == "oil" and p is not part]
    oil = max(oils, key=lambda p: p.percent, default=None)
    dilution = dilution_for(weighing.exact_g, oil.grams_in(batch_g), scales) if oil else None
    return Line(
        part,
        weighing,
        about,
        dilution,
        oil.material if oil and dilution else None,
        smallest_batch_g(weighing.exact_g, batch_g, scales),
    )


def _shares(view: FillView, plan: FillPlan, shelf: Shelf) -> list[FinishShare]:
    """Return the share of the pot and the additions of each finish."""
    found = []
    for finish in view.finishes:
        mine = [filling for filling in plan.fillings if filling.finish == finish.name]
        if not mine:
            continue
        base = Decimal(repr(round(sum(plan.grams_of(f) for f in mine), 2)))
        count = sum(f.count for f in mine)
        doses = []
        for part in finish.parts.all():
            material, exact = shelf[part.material], base * part.percent / 100
            step = scale_for(exact, view.scales)[0].step_g
            each, drops = float(exact) / count, None
            if material.group == "scent":
                drops = drops_in(material, each)[0]
            grams = (exact / step).to_integral_value() * step
            doses.append(FinishDose(material, part.percent, grams, each, drops))
        found.append(FinishShare(finish.name, base, count, doses))
    return found


def pourable(version: Version) -> bool:
    """Return whether a version has anything to pour."""
    return any(line.percent > 0 for line in version.lines.all())
