"""The risk that a butter goes sandy: a rule of the craft, not a measurement.

Butters whose fats melt over a wide range crystallise in stages. Cooled slowly,
or poured with some crystals still unmelted, the slow part gathers into grains.
Nobody has published a number for it; this puts the craft's own rules in order
and says so wherever it is shown.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from calmtin.core.engine.blend import Blend

Cooling = Literal["rest_then_chill", "chill_at_once", "slow_bench"]
COOLINGS: tuple[Cooling, ...] = get_args(Cooling)
COOLING_NAMES: dict[Cooling, str] = {
    "rest_then_chill": "rest 10–15 minutes, then chill",
    "chill_at_once": "chill at once",
    "slow_bench": "slowly on the bench",
}
# How the schools rank the ways of cooling; resting first lets the slow fats seed evenly.
_ROUTE: dict[Cooling, float] = {"rest_then_chill": 0.6, "chill_at_once": 0.75, "slow_bench": 1.3}

# How slow and mixed a butter's fats are, shea being the worst of the common ones.
_SLOWNESS = {
    "shea_refined": 1.0,
    "shea_unrefined": 1.0,
    "palm_oil": 0.8,
    "mango_butter": 0.7,
    "cupuacu_butter": 0.7,
    "lard": 0.6,
    "tallow": 0.6,
    "cocoa_butter": 0.5,
    "sal_butter": 0.5,
    "illipe_butter": 0.4,
}
_OTHER_GRAIN_PRONE = 0.5

Level = Literal["low", "some", "high"]
SCHOOLS = (
    "One school chills at once, so that crystals stay too small to feel. Another lets the tin rest "
    "10 to 15 minutes at room temperature and then chills it, so that they form evenly. A third "
    "leaves it on the bench. Calm Tin starts from rest, then chill, and records which you used: "
    "your own jars decide."
)


@dataclass(frozen=True, slots=True)
class GrainRisk:
    """The craft's verdict. `score` is 0 and up: below 12 low, from 25 high; it has no unit."""

    score: float
    level: Level
    raises: tuple[str, ...]
    lowers: tuple[str, ...]


def grain_risk(
    blended: Blend, cooling: Cooling, *, pour_c: float | None, set_c: float | None, is_whipped: bool = False
) -> GrainRisk:
    """Return the risk of grain for a blend cooled by `cooling` from a pour at `pour_c`, C.

    score = sum(percent x slowness) x route x wax x pour. Wax holds the fats in
    place (to half at 20 %); a pour below the first haze `set_c` carries crystals
    that grow (x 1.5), one more than 20 C above it cools slowly (x 1.2).
    """
    slow = {
        material: float(percent) * _SLOWNESS.get(material.slug, _OTHER_GRAIN_PRONE)
        for material, percent in zip(blended.materials, blended.percent, strict=True)
        if material.grain_prone and material.group != "wax"
    }
    waxes = [m.group == "wax" for m in blended.materials]
    wax = float(blended.percent[waxes].sum())
    held = 1.0 - 0.5 * min(wax, 20.0) / 20.0
    early, late = False, False
    if pour_c is not None and set_c is not None:
        early, late = pour_c < set_c, pour_c > set_c + 20.0
    pour = 1.5 if early else 1.2 if late else 1.0
    whipped = 0.7 if is_whipped else 1.0
    score = sum(slow.values()) * _ROUTE[cooling] * held * pour * whipped
    raises, lowers = [], []
    for material in sorted(slow, key=lambda m: -slow[m])[:2]:
        share = float(blended.percent[blended.materials.index(material)])
        raises.append(f"{share:.0f} % {material.label.lower()}, whose fats set at different speeds")
    if slow and cooling == "slow_bench":
        raises.append("cooling slowly on the bench")
    if slow and early:
        raises.append("pouring below the first haze: melt it clear first")
    if slow and late:
        raises.append("pouring very hot, so that it cools slowly")
    if slow and cooling != "slow_bench":
        lowers.append(COOLING_NAMES[cooling])
    if slow and wax >= 3.0:
        lowers.append(f"{wax:.0f} % wax, which sets first and holds the fats in place")
    if slow and is_whipped:
        lowers.append("whipping, which breaks crystals up while they grow")
    level: Level = "low" if score < 12.0 else "some" if score < 25.0 else "high"
    return GrainRisk(score, level, tuple(raises), tuple(lowers))
