"""A season of the demo bench: pours and looks that follow a hidden true bench, so that there is
something to learn.

The true bench has a thumb of its own, stronger and weaker materials, and a thumb that now and then
picks an absurd word. What it feels comes from the same engine with these put in, noise on top; the
same seed gives the same season.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from decimal import Decimal
from io import BytesIO
from typing import Any

import numpy as np
from django.utils import timezone
from PIL import Image, ImageDraw

from calmtin.checks.services import keep
from calmtin.core.engine.bands import Prior
from calmtin.core.engine.blend import Blend, blend
from calmtin.core.engine.firmness import read, set_point_c
from calmtin.core.engine.press import press_grams, rod_for
from calmtin.core.kinds import Kind
from calmtin.core.materials import Shelf
from calmtin.core.process.fill import Filling, FillPlan, for_containers, melt_of
from calmtin.core.process.grain import grain_risk
from calmtin.core.process.losses import Losses
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.services import set_percent, set_process, start_formula
from calmtin.pantry.adapters import container_for, shelf_for
from calmtin.pantry.models import Lot
from calmtin.pantry.services.lots import buy_lot
from calmtin.pours.models import Pour
from calmtin.pours.services import finish_weighing, record_check, start_pour, weigh

SEED = 20
# What nobody on the bench knows: the learner has to find it.
TRUE_BENCH = Prior(
    offset=0.4,
    strengths={"beeswax_yellow": 1.14, "my_reed_bed_wax": 1.2, "cocoa_butter": 0.93, "shea_refined": 0.95},
)
THUMB_SD, ABSURD, PRESS_OFFSET, PRESS_SD = 0.55, 0.03, -0.5, 0.25
STEP_G = Decimal("0.1")
SEASON_DAYS = 215
LOT_DAYS = 700  # that a lot of the season keeps
BATCHES_APART = 5.5  # days from one pour of the season to the next
ROOM_C, ROOM_SD_C, SKIN_C = 20.6, 0.8, 33.0

NEW: Mapping[str, tuple[str, dict[str, str]]] = {
    "Thwart massage bar": (
        "massage_bar",
        {
            "my_reed_bed_wax": "22",
            "cocoa_butter": "34",
            "shea_refined": "8",
            "sunflower_high_oleic": "35.2",
            "tocopherols_50": "0.8",
        },
    ),
    "Winter keel butter": (
        "poured_butter",
        {
            "beeswax_yellow": "6",
            "shea_refined": "40",
            "mango_butter": "12",
            "coconut_rbd": "10",
            "sweet_almond_oil": "31.2",
            "tocopherols_50": "0.8",
        },
    ),
    "Sculler’s soft salve": (
        "soft_salve",
        {
            "beeswax_yellow": "10",
            "coconut_rbd": "14",
            "olive_oil": "74",
            "tocopherols_50": "1",
            "lavender": "1",
        },
    ),
}
INTO = {
    "gloss": ("jar_15ml", 6),
    "whipped_butter": ("jar_60ml", 4),
    "lip_balm": ("lip_tube_standard", 12),
    "lotion_bar": ("mould_round_60ml", 4),
    "massage_bar": ("mould_round_60ml", 3),
}
USUAL_INTO = ("tin_2oz", 4)


@dataclass
class Planned:
    """A pour of the season before it is weighed, and what is found of it."""

    pour: Pour
    at: datetime
    blended: Blend
    looks: list[dict[str, Any]] = field(default_factory=list)
    is_kept: bool = False


def usual_plan(user: Any, version: Version, container_slug: str, count: int) -> FillPlan:
    """Return the plan of a version into containers, filled as usual, a twentieth clinging to the pot."""
    parts = composition_of(version, shelf_for(user)).masses
    container = container_for(user, container_slug)
    melt = melt_of(parts, set_point_c=set_point_c(blend(parts)), overrun=version.overrun)
    filling = Filling(container, count, container.usual_ml)
    return for_containers(melt, [filling], Losses(cling_share=0.05), resolution=STEP_G)


class Season:
    """Makes pours one after the other, as a maker does who changes one thing at a time."""

    def __init__(self, user: Any, *, seed: int = SEED) -> None:
        self.user, self.rng = user, np.random.default_rng(seed)
        self.shelf: Shelf = shelf_for(user)
        self.made: list[Planned] = []
        self.lots: dict[str, list[tuple[Lot, Decimal]]] = defaultdict(list)
        self.now = timezone.now()

    def pour_all(self, formulas: Sequence[Formula], count: int) -> None:
        """Make `count` pours over the season, the formulas in turn, then weigh and judge them."""
        begun = self.now - timedelta(days=SEASON_DAYS)
        newest = {formula.pk: formula.versions.get() for formula in formulas}
        felt: dict[int, float | None] = {}
        for n in range(count):
            formula = formulas[n % len(formulas)]
            version = newest[formula.pk]
            if n >= len(formulas):
                version = self._changed(version, felt[formula.pk], n)
            at = begun + timedelta(days=min(BATCHES_APART * n, SEASON_DAYS - 45), hours=int(n % 9))
            planned = self._start(version, at)
            felt[formula.pk] = self._look(planned, n)
            newest[formula.pk] = version
        self._stock()
        for planned in self.made:
            self._write(planned)

    def _changed(self, version: Version, felt: float | None, n: int) -> Version:
        """Return the next version: more or less wax by what was felt, or another way of cooling."""
        kind: Kind = version.formula.kind_facts
        low, high = kind.target
        waxes = [li for li in version.lines.all() if self.shelf[li.material].group == "wax"]
        butters = [li for li in version.lines.all() if self.shelf[li.material].group == "butter"]
        if felt is None or (low + 0.3 <= felt <= high - 0.3 and n % 4 == 3):
            other = "slow_bench" if version.cooling != "slow_bench" else "rest_then_chill"
            return set_process(
                self.user, version, cooling=other, overrun_pct=version.overrun_pct, seen=version.revision
            )
        if low <= felt <= high:
            return version
        line = (waxes or butters)[0]
        by = Decimal(repr(round(float(np.clip((low + high) / 2.0 - felt, -1.5, 1.5)) * 2.0, 1)))
        percent = max(line.percent + (by if waxes else 2 * by), Decimal("1.5"))
        return set_percent(self.user, version, key=line.key, percent=percent, seen=version.revision)

    def _start(self, version: Version, at: datetime) -> Planned:
        parts = composition_of(version, self.shelf).masses
        plan = usual_plan(self.user, version, *INTO.get(version.formula.kind, USUAL_INTO))
        pour = start_pour(self.user, version, plan, scale_step_g=STEP_G, started_at=at, is_history=True)
        Version.objects.filter(pk=version.pk).update(poured_at=at)
        version.refresh_from_db()
        planned = Planned(pour, at + timedelta(minutes=50), blend(parts, TRUE_BENCH))
        self.made.append(planned)
        return planned

    def _felt(self, planned: Planned, at_c: float, age_days: float) -> float:
        """Return the word that the true bench's thumb picks, and now and then any word."""
        version = planned.pour.version
        true = float(
            read(
                planned.blended,
                [at_c],
                overrun=version.overrun * 1.15,
                age_days=age_days,
                careless=version.cooling == "slow_bench",
            ).rung[0]
        )
        if self.rng.random() < ABSURD:
            return float(self.rng.integers(0, 11))
        return float(np.clip(round(2.0 * (true + self.rng.normal(0.0, THUMB_SD))) / 2.0, 0.0, 10.0))

    def _look(self, planned: Planned, n: int) -> float:
        """Plan what is found of a pour; return what was felt of it after a day."""
        version = planned.pour.version
        risk = grain_risk(planned.blended, version.cooling).risk  # type: ignore[arg-type]  # from its list
        is_grainy = bool(self.rng.random() < risk)
        room = round(float(self.rng.normal(ROOM_C, ROOM_SD_C)), 1)
        day = self._felt(planned, room, 1.0)
        low, high = version.formula.kind_facts.target
        verdict = "keep" if low <= day <= high and not is_grainy else "tweak"
        if is_grainy and version.cooling == "slow_bench":
            verdict = "drop"
        planned.is_kept = verdict == "keep"
        signs = {"grain": 0, "sweating": int(day < low), "bloom": 0, "scent": 2, "flare_up": 0}
        liked = {"keep": 3 + int(self.rng.random() < 0.5), "tweak": 2, "drop": 0}[verdict]
        planned.looks.append(
            {"days": 1, "look": "day", "temp_c": room, "felt_rung": day, "signs": signs | {"liked": liked}}
        )
        if n % 3 == 2:
            warm = self._felt(planned, SKIN_C, 2.0)
            planned.looks.append(
                {"days": 2, "look": "skin", "temp_c": SKIN_C, "felt_rung": warm, "signs": {}}
            )
        week = self._felt(planned, room, 7.0)
        notes = "Went sandy within the week." if is_grainy else _remark(day, low, high)
        planned.looks.append(
            {
                "days": 7,
                "look": "week",
                "temp_c": room,
                "felt_rung": week,
                "signs": {"grain": 1 + int(self.rng.random() < 0.4) if is_grainy else 0, "bloom": 0},
                "verdict": verdict,
                "notes": notes,
                **self._press(planned, room, n),
            }
        )
        month = {"grain": 2 if is_grainy else 0, "rancid": 0, "colour": 0, "scent": 1 + int(n % 2)}
        planned.looks.append(
            {"days": 31, "look": "month", "temp_c": room, "felt_rung": None, "signs": month}
        )
        return day

    def _press(self, planned: Planned, at_c: float, n: int) -> dict[str, Any]:
        """Return a press test for every fourth pour: three readings of the rod that suits it."""
        if n % 4:
            return {}
        version = planned.pour.version
        true = float(read(planned.blended, [at_c], overrun=version.overrun, age_days=7.0).rung[0])
        seen = true - TRUE_BENCH.offset + PRESS_OFFSET
        rod = rod_for(max(seen, 0.5))
        grams = [press_grams(seen + float(self.rng.normal(0.0, PRESS_SD)), rod) for _ in range(3)]
        return {"press_g": [Decimal(repr(round(max(g, 0.1), 1))) for g in grams], "rod_mm": rod}

    def _stock(self) -> None:
        """Buy what the season uses: two lots of what is used most, that are used up at its end."""
        needed: dict[str, Decimal] = defaultdict(Decimal)
        for planned in self.made:
            for line in planned.pour.lines.all():
                needed[line.material] += line.planned_g
        today = timezone.localdate()
        for slug, grams in needed.items():
            first = (grams * Decimal("0.6")).quantize(STEP_G)
            for amount, days in ((first, SEASON_DAYS + 10), (grams - first, SEASON_DAYS // 2)):
                if amount > 0:
                    lot = buy_lot(
                        self.user,
                        material=slug,
                        amount_g=amount,
                        price=(amount / 60).quantize(Decimal("0.01")),
                        bought_on=today - timedelta(days=days),
                        best_before=today + timedelta(days=LOT_DAYS - days),
                        typed=f"{amount} g",
                    )
                    self.lots[slug].append((lot, amount))

    def _lot_for(self, slug: str, grams: Decimal) -> Lot:
        """Return the lot to take from: the first one until it is too little."""
        lots = self.lots[slug]
        if len(lots) > 1 and lots[0][1] < grams:
            lots.pop(0)
        lot, left = lots[0]
        lots[0] = (lot, left - grams)
        return lot

    def _write(self, planned: Planned) -> None:
        pour = planned.pour
        for line in pour.lines.all():
            weigh(self.user, line, line.planned_g, lot=self._lot_for(line.material, line.planned_g))
        finish_weighing(self.user, pour, poured_at=planned.at)
        for look in planned.looks:
            told = dict(look)
            felt = told.pop("felt_rung")
            made_at = planned.at + timedelta(days=told.pop("days"), hours=1)
            if made_at < self.now:
                record_check(
                    self.user,
                    pour,
                    made_at=made_at,
                    felt_rung=None if felt is None else Decimal(repr(felt)),
                    photo=_photo(pour, self.rng) if told["look"] == "week" and pour.number == 1 else None,
                    **told,
                )
        if planned.is_kept and pour.number >= 2:
            keep(self.user, pour, why="Felt right on two hands, and smooth after a week.")


def _remark(felt: float, low: float, high: float) -> str:
    if felt < low:
        return "Too soft on the dock. More wax next time."
    return "Drags, too hard in the cold boathouse. Less wax." if felt > high else "Just right in the hand."


def _photo(pour: Pour, rng: np.random.Generator) -> bytes:
    """Return a drawn tin from above, as a picture of the pour."""
    picture = Image.new("RGB", (480, 360), (214, 206, 190))
    pen = ImageDraw.Draw(picture)
    pen.ellipse((90, 30, 390, 330), fill=(150, 152, 150), outline=(90, 92, 90), width=6)
    tone = int(rng.integers(0, 30))
    pen.ellipse((108, 48, 372, 312), fill=(238 - tone, 222 - tone, 170 - tone))
    pen.text((12, 336), pour.code, fill=(60, 60, 60))
    out = BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()


def load_season(user: Any, formulas: Sequence[Formula], count: int, *, seed: int = SEED) -> None:
    """Pour a season: new formulas beside those given, `count` pours in all."""
    own = [
        start_formula(
            user, name=name, kind=kind, lines=[(slug, Decimal(percent)) for slug, percent in lines.items()]
        )
        for name, (kind, lines) in NEW.items()
    ]
    Season(user, seed=seed).pour_all([*formulas, *own], count)
