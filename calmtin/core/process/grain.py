"""The risk that a butter goes sandy: a rule of the craft, not a measurement.

Butters whose fats melt over a wide range crystallise in stages. Cooled slowly, the
slow part gathers into grains; how it is cooled decides more than how much there is.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from calmtin.core.engine.blend import Blend
from calmtin.core.messages import Message, Words, gettext_noop, said

Cooling = Literal[
    "rest_then_chill", "chill_at_once", "tubes_at_once", "slow_bench", "lumps_left", "never_melted"
]
COOLINGS: tuple[Cooling, ...] = get_args(Cooling)
COOLING_NAMES: dict[Cooling, str] = {
    "rest_then_chill": gettext_noop("rest 10–15 minutes, then chill"),
    "chill_at_once": gettext_noop("chill at once, still hot"),
    "tubes_at_once": gettext_noop("chill at once, in small tubes"),
    "slow_bench": gettext_noop("slowly on the bench"),
    "lumps_left": gettext_noop("partly melted, a few lumps left"),
    "never_melted": gettext_noop("never melted"),
}
ROUTE: dict[Cooling, float] = {
    "slow_bench": 1.0,
    "chill_at_once": 0.7,
    "lumps_left": 0.6,
    "rest_then_chill": 0.45,
    "tubes_at_once": 0.4,
    "never_melted": 0.15,
}
# Of a grain-prone butter whose own figure is not known, shea being 1 (`core/data/traits.csv`).
OTHER_PRONE = 0.5
SHARE_PCT = 15.0  # at which 63 % of the risk is there
HELD_BY_WAX, WAX_PCT = 0.6, 15.0  # above so much wax the fats are held in place
SOME, HIGH = 0.25, 0.55

Level = Literal["low", "some", "high"]
# Of a bench's own pours with grain-prone butter, by how they were cooled: grain seen in, and looked at.
GrainLog = Mapping[str, tuple[int, int]]
SCHOOLS = gettext_noop(
    "Some makers chill at once, so that crystals stay too small to feel. Others rest the tin for 10 "
    "to 15 minutes at room temperature and then chill it, so that crystals form evenly. Others leave "
    "it on the bench. Some never melt the butter, or leave a few lumps to seed the rest. Calm Tin "
    "suggests resting, then chilling, and records which you used, so that your own jars can show "
    "what works."
)


@dataclass(frozen=True, slots=True)
class GrainRisk:
    """The risk of grain, 0 to 1, what raises and lowers it, and alternatives.

    `seen` are how many of the bench's own pours cooled this way had grain, of those looked at.
    """

    risk: float
    level: Level
    raises: tuple[Words, ...]
    lowers: tuple[Words, ...]
    advice: str
    seen: tuple[int, int] = (0, 0)


def grain_risk(blended: Blend, cooling: Cooling, log: GrainLog | None = None) -> GrainRisk:
    """Return the risk of grain for a blend cooled by `cooling`.

    risk = (1 - exp(-share / 15 %)) x route, times 0.6 above 15 % of wax; share is the
    percent of grain-prone butters, each by how prone it is. The bench's own `log` then counts:
    the rule is taken as Beta(1, 1 / risk - 1), to which each pour cooled this way adds one. The
    advice is never what was chosen already.
    """
    slow = {
        material: float(percent) * (OTHER_PRONE if material.graininess is None else material.graininess)
        for material, percent in zip(blended.materials, blended.percent, strict=True)
        if material.grain_prone and material.group != "wax"
    }
    waxes = [m.group == "wax" for m in blended.materials]
    wax = float(blended.percent[waxes].sum())
    held = HELD_BY_WAX if wax > WAX_PCT else 1.0
    risk = (1.0 - math.exp(-sum(slow.values()) / SHARE_PCT)) * ROUTE[cooling] * held
    seen = (log or {}).get(cooling, (0, 0)) if risk > 0.0 else (0, 0)
    if seen[1]:
        risk = (1.0 + seen[0]) / (1.0 / risk + seen[1])
    raises: list[Words] = []
    for material in sorted(slow, key=lambda m: -slow[m])[:2]:
        share = float(blended.percent[blended.materials.index(material)])
        raises.append(
            Message(
                "{share:.0f} % {in_words}, whose fats set at different speeds",
                share=share,
                in_words=material.in_words,
            )
        )
    lowers: list[Words] = []
    if slow:
        (raises if ROUTE[cooling] >= 0.7 else lowers).append(COOLING_NAMES[cooling])
    if slow and held < 1.0:
        lowers.append(Message("{wax:.0f} % wax, which sets first and holds the fats in place", wax=wax))
    level: Level = "low" if risk < SOME else "some" if risk <= HIGH else "high"
    return GrainRisk(risk, level, tuple(raises), tuple(lowers), _advice(cooling, held < 1.0), seen)


def _advice(cooling: Cooling, is_held: bool) -> str:
    """Return what would lower the risk and is not done yet."""
    ways = []
    if ROUTE[cooling] > ROUTE["rest_then_chill"]:
        ways.append(said("rest it 10 to 15 minutes, then chill"))
    elif cooling != "never_melted":
        ways.append(said("whip the butter without melting it"))
    if not is_held:
        ways.append(said("add wax"))
    ways.append(said("use less of the butters that go grainy"))
    words = ", or ".join(ways[:2])
    return f"{words[0].upper()}{words[1:]}."
