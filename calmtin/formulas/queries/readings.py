"""Everything read off the engine for one composition at one bench, ready for a page."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal, cast

import numpy as np
from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.composition import Part
from calmtin.core.engine.attribution import Carrier, Dissolving, carriers, dissolving
from calmtin.core.engine.blend import Blend, blend
from calmtin.core.engine.feel import Feel, feels
from calmtin.core.engine.firmness import SKIN_C, flow_point_c, read, set_point_c, why_not
from calmtin.core.engine.ladder import rung_word
from calmtin.core.engine.measures import Doubt, doubts_of, widened
from calmtin.core.materials import Material
from calmtin.core.messages import Words, said
from calmtin.core.process.grain import SCHOOLS, Cooling, GrainRisk, grain_risk
from calmtin.formulas.models import Formula, Version
from calmtin.pictures.curve import HIGHEST_C, LOWEST_C, SofteningCurve, softening_curve
from calmtin.pictures.ladder import Ladder, Pin, SmallLadder, ladder, small_ladder
from calmtin.pictures.section import TinSection, tin_section

WORTH_SAYING = 0.2  # rungs by which a day and two weeks must differ to be told
CURVE_C = np.linspace(LOWEST_C, HIGHEST_C, 61)


@dataclass(frozen=True)
class AtTemperature:
    """One of the bench's temperatures and the firmness there."""

    name: str
    temp_c: float
    rung: float
    low: float
    high: float
    words: str

    @property
    def spoken(self) -> str:
        """The sentence for a screen reader."""
        return said(
            "Firmness {rung:.1f}, {words}; likely {low:.1f}–{high:.1f}.",
            rung=self.rung,
            words=self.words,
            low=self.low,
            high=self.high,
        )


@dataclass(frozen=True)
class Hold:
    """The kind's own hot day: the firmness it needs and the predicted one."""

    temp_c: float
    wanted: float
    rung: float

    @property
    def is_kept(self) -> bool:
        """Whether it stays firm enough."""
        return self.rung >= self.wanted


@dataclass(frozen=True)
class Unpredicted:
    """Why there is no firmness; false, so that a page asks `if firmness` and then for the reason."""

    reason: Words

    def __bool__(self) -> Literal[False]:
        return False


@dataclass(frozen=True)
class Firmness:
    """Everything read off the engine for one composition, as it will be used: whipped where it is.

    `book` is the rung in the room with its band by the book alone, where the bench has taught
    something; `in_pot` the rung in the room before whipping, where it is whipped; `after_day` the
    rung a day after the pour, where that differs from what it comes to in two weeks. `doubt`
    is the place of the part whose measure leaves most open, and the rungs that it may give.
    """

    overrun: float
    blended: Blend
    room: AtTemperature
    book: tuple[float, float, float] | None
    in_pot: float | None
    after_day: float | None
    places: list[AtTemperature]
    small_ladders: list[SmallLadder]
    hold: Hold | None
    doubt: tuple[int, float, float] | None
    feels: tuple[Feel, ...]
    solid_pct: float
    yield_value: float
    flow_c: float | None
    set_c: float | None
    ladder: Ladder
    curve: SofteningCurve


def bench_places(bench: Bench) -> list[tuple[str, float]]:
    """Return the temperatures that matter at this bench, coldest first."""
    return sorted(
        [
            (bench.cold_name, bench.cold_c),
            ("room", bench.room_c),
            ("skin", SKIN_C),
            (bench.hot_name, bench.hot_c),
        ],
        key=lambda place: place[1],
    )


def grain_of(version: Version, firmness: Firmness, bench: Bench) -> GrainRisk:
    """Return the grain risk of a version as it is cooled, by the craft and the bench's own log."""
    return grain_risk(firmness.blended, cast(Cooling, version.cooling), bench.grain_log)


def firmness_of(
    parts: list[tuple[Material, float]],
    formula: Formula,
    bench: Bench,
    *,
    overrun: float = 0.0,
    pins: list[Pin] | None = None,
    spans: Mapping[int, tuple[float, float]] | None = None,
) -> Firmness | Unpredicted:
    """Return the firmness of masses of materials at this bench, or why there is none.

    `spans` holds, by place, the least and most mass of a part that was measured and not weighed.
    """
    if not any(mass > 0 for _, mass in parts):
        return Unpredicted(gettext("Every ingredient is at 0."))
    blended = blend(parts, bench.prior)
    if reason := why_not(blended):
        return Unpredicted(reason)
    places = bench_places(bench)
    kind, n = formula.kind_facts, len(places)
    # One grid: the places, the kind's own hot day, and the curve.
    hot_c = bench.hot_c if kind.hold_c is None else kind.hold_c
    temps = np.concatenate([[c for _, c in places], [hot_c], CURVE_C])
    reading = read(blended, temps, overrun=overrun)
    doubts = doubts_of(parts, spans or {}, temps, overrun=overrun, prior=bench.prior)
    low, high = widened(reading, doubts)
    at = [
        AtTemperature(
            name,
            temp_c,
            float(reading.rung[i]),
            float(low[i]),
            float(high[i]),
            rung_word(float(reading.rung[i])),
        )
        for i, (name, temp_c) in enumerate(places)
    ]
    room_at = next(i for i, (name, _) in enumerate(places) if name == "room")
    room = at[room_at]
    unit = bench.temperature_unit
    flow_c, set_c = flow_point_c(blended), set_point_c(blended)
    flow_label = (
        said("flows at {flow_c}", flow_c=temp(round(flow_c), unit))
        if flow_c is not None
        else gettext("never holds a shape")
    )
    set_label = "" if set_c is None else said("sets from {set_c}", set_c=temp(round(set_c), unit))
    hold = None
    if kind.hold_c is not None and kind.hold_rung is not None:
        hold = Hold(kind.hold_c, kind.hold_rung, float(reading.rung[n]))
    in_pot = float(read(blended, [bench.room_c]).rung[0]) if overrun > 0.0 else None
    after_day = float(read(blended, [bench.room_c], overrun=overrun, age_days=1.0).rung[0])
    return Firmness(
        overrun=overrun,
        blended=blended,
        room=room,
        book=_by_the_book(parts, bench, overrun) if bench.prior else None,
        in_pot=in_pot,
        after_day=after_day if room.rung - after_day > WORTH_SAYING else None,
        places=at,
        small_ladders=[
            small_ladder(place.name, temp(place.temp_c, unit), place.rung, place.low, place.high)
            for place in at
        ],
        hold=hold,
        doubt=_worst(doubts, room_at),
        feels=feels(blended, bench.room_c),
        solid_pct=float(reading.solid_pct[room_at]),
        yield_value=float(reading.yield_value[room_at]),
        flow_c=flow_c,
        set_c=set_c,
        ladder=ladder(room.rung, room.low, room.high, target=kind.target, in_pot=in_pot, pins=pins or []),
        curve=softening_curve(
            list(CURVE_C),
            list(reading.rung[n + 1 :]),
            list(low[n + 1 :]),
            list(high[n + 1 :]),
            places=[(place.temp_c, temp(place.temp_c, unit), place.name) for place in at],
            here_c=bench.room_c,
            flow_c=flow_c,
            set_c=set_c,
            flow_label=flow_label,
            set_label=set_label,
            hold=(hold.temp_c, hold.wanted) if hold else None,
        ),
    )


def _by_the_book(
    parts: list[tuple[Material, float]], bench: Bench, overrun: float
) -> tuple[float, float, float]:
    reading = read(blend(parts), [bench.room_c], overrun=overrun)
    return float(reading.rung[0]), float(reading.low[0]), float(reading.high[0])


def _worst(doubts: list[Doubt], at: int) -> tuple[int, float, float] | None:
    """Return the measured part that leaves most open at one temperature, if that is worth saying."""
    told = [(doubt.place, float(doubt.low[at]), float(doubt.high[at])) for doubt in doubts]
    worst = max(told, key=lambda one: one[2] - one[1], default=None)
    return worst if worst and worst[2] - worst[1] > WORTH_SAYING else None


def preview(
    version: Version, amounts: list[tuple[Part, Decimal]], bench: Bench
) -> tuple[Firmness | Unpredicted, TinSection | None]:
    """Return the firmness and the tin of parts in any amounts, before they are a version."""
    total = sum((amount for _, amount in amounts), Decimal(0))
    if total <= 0:
        return Unpredicted(gettext("Every ingredient is at 0.")), None
    section = tin_section(
        [
            (part.key, part.material.label, part.material.layer, float(100 * amount / total))
            for part, amount in amounts
        ]
    )
    parts = [(part.material, float(amount)) for part, amount in amounts]
    return firmness_of(parts, version.formula, bench, overrun=version.overrun), section


@dataclass(frozen=True)
class Why:
    """The reasons behind a prediction at one temperature."""

    at: AtTemperature
    places: list[AtTemperature]
    carrying: list[Carrier]
    melted: list[Carrier]
    dissolved: list[Dissolving]
    schools: str = SCHOOLS

    @property
    def total_rungs(self) -> float:
        """What the carriers add up to: the predicted rung."""
        return sum(carrier.rungs for carrier in self.carrying)


def why_of(firmness: Firmness, place: str) -> Why:
    """Return the reasons at one of the bench's temperatures, the room unless named."""
    at = next((p for p in firmness.places if p.name == place), firmness.room)
    found = carriers(firmness.blended, at.temp_c, overrun=firmness.overrun)
    return Why(
        at=at,
        places=firmness.places,
        carrying=[c for c in found if c.rungs > 0.0],
        melted=[
            c for c in found if c.crystal_pct < 0.5 and c.material.layer in ("wax", "butter", "soft_fat")
        ],
        dissolved=[d for d in dissolving(firmness.blended, at.temp_c) if d.blend_pct >= 0.5],
    )
