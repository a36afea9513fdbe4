"""A test series before it is poured: one pot that gets more and more of one line, or pots of their own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import partial
from typing import Any

from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.common.notation import Boxes
from calmtin.common.numbers import read_box
from calmtin.core.composition import Part
from calmtin.core.engine.firmness import rung_at
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import BATCH_G
from calmtin.core.materials import Shelf
from calmtin.core.messages import digits, listed, notation_in_force, said
from calmtin.core.process.fill import Container
from calmtin.core.process.scales import Scale, scale_for
from calmtin.core.process.series import Ladder, Rung, one_pot, own_pots
from calmtin.core.process.weighing import share_out
from calmtin.core.quantities import Mass
from calmtin.core.units import read_number
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.pantry.adapters import containers_for
from calmtin.plans.adapters import OnePot, at_share
from calmtin.plans.queries.fill import scales_of
from calmtin.plans.queries.rows import sample_container, too_small_for

MOST_SAMPLES = 8
USUAL_SAMPLE_G = Decimal(12)


@dataclass(frozen=True)
class Sample:
    """A sample both ways, with the firmness that its share reads."""

    one: Rung
    alone: Rung
    rung: float | None


@dataclass(frozen=True)
class SeriesView:
    """A series as typed, and both ways of making it; None while something cannot be read."""

    version: Version
    parts: list[Part]
    part: Part
    boxes: dict[str, str]
    problems: dict[str, str]
    containers: Mapping[str, Container]
    scale: Scale
    sample_g: Decimal = Decimal(0)
    lost_g: Decimal = Decimal(0)
    ladder: Ladder | None = None
    start: list[tuple[Part, Decimal]] | None = None
    samples: list[Sample] | None = None

    @property
    def one_pot(self) -> OnePot | None:
        """The pot of the series, where all of it is poured from one."""
        if self.ladder is None:
            return None
        shares = tuple(rung.wanted for rung in self.ladder.rungs)
        return OnePot(self.part.key, shares, self.ladder.start_g, self.lost_g)

    @property
    def is_one_truer(self) -> bool:
        """Whether the one pot comes closer to its shares on this scale than pots of their own."""
        worst_alone = max((s.alone.off for s in self.samples or []), default=Decimal(0))
        return self.ladder is not None and self.ladder.worst <= worst_alone


def series_view(
    user: Any, version: Version, shelf: Shelf, bench: Bench, typed: Mapping[str, str]
) -> SeriesView:
    """Return the series for `typed`; errors are shown at their boxes."""
    composition = composition_of(version, shelf)
    parts = [part for part in composition if part.percent > 0]
    wax = max(parts, key=lambda part: (part.material.layer == "wax", part.percent))
    part = next((p for p in parts if p.key == typed.get("line")), wax)
    at = float(part.percent)
    shares = listed(digits(s, ".3g") for s in (at, at + 3.0, at + 6.0))
    boxes = Boxes({"sample": Mass(USUAL_SAMPLE_G), "lost": Mass(Decimal("0.5"))}, typed)
    usual = {"shares": shares, "container": sample_container(containers_for(user), USUAL_SAMPLE_G)}
    boxes.update({name: typed.get(name, text) for name, text in usual.items()} | {"line": part.key})
    problems: dict[str, str] = {}
    wanted = _shares(boxes["shares"], problems)
    sample = boxes.grams(problems, "sample", "A sample", low=1.0, high=BATCH_G[1])
    lost = boxes.grams(problems, "lost", gettext("The loss"), high=BATCH_G[1])
    scale, _ = scale_for(max(sample * Decimal("0.1"), Decimal("0.01")), scales_of(user, bench))
    view = SeriesView(version, parts, part, boxes, problems, containers_for(user), scale, sample)
    chosen = view.containers.get(boxes["container"])
    if not problems and chosen and (words := too_small_for(chosen, sample)):
        problems["container"] = words
    if problems:
        return view
    try:
        ladder = one_pot(wanted, sample_g=sample, loss_g=lost, step_g=scale.step_g)
    except CalmTinError as refused:
        return replace(view, problems={"shares": str(refused)})
    alone = own_pots(wanted, sample_g=sample, step_g=scale.step_g)
    samples = [
        Sample(one, own, _rung_at(parts, part, one.share, bench, version))
        for one, own in zip(ladder.rungs, alone, strict=True)
    ]
    others = [p for p in parts if p is not part]
    exact = [ladder.rest_g * p.percent / (100 - part.percent) for p in others]
    rest = dict(zip([p.key for p in others], share_out(exact, scale.step_g), strict=True))
    start = [(p, rest.get(p.key, ladder.line_g)) for p in parts]
    return replace(view, ladder=ladder, start=start, samples=samples, lost_g=lost)


def _shares(text: str, problems: dict[str, str]) -> list[Decimal]:
    """Read "15, 18, 21" or "15 18 21 %" as shares of the whole."""
    notation = notation_in_force()
    pieces = [p for p in text.replace("%", " ").replace(";", " ").replace(", ", " ").split() if p]
    if not 2 <= len(pieces) <= MOST_SAMPLES:
        problems["shares"] = said(
            "Type from 2 to {most_samples} percentages, such as 15, 18, 21.", most_samples=MOST_SAMPLES
        )
        return []
    read = partial(read_number, name="A share", low=0.1, high=99.0, unit="%", notation=notation)
    return [read_box(problems, "shares", partial(read, piece)) / 100 for piece in pieces]


def _rung_at(parts: list[Part], part: Part, share: Decimal, bench: Bench, version: Version) -> float | None:
    shares = zip(parts, at_share(parts, part, share), strict=True)
    masses = [(p.material, float(percent)) for p, percent in shares]
    return rung_at(masses, bench.room_c, overrun=version.overrun, prior=bench.prior)
