"""What differs between two pots, how many things that is, and what each does to the firmness."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from calmtin.core.engine.bands import Prior
from calmtin.core.engine.blend import Parts
from calmtin.core.engine.firmness import rung_at
from calmtin.core.materials import Material, percents_of

# A share counts as changed beyond what weighing and rounding leave: points, and of what it was.
SHARE_PTS, SHARE_OF_IT = 0.15, 0.03
STEPS = 1.2  # of the scale, by which rounding alone may part two shares
MATTERS = 0.2  # rungs


@dataclass(frozen=True, slots=True)
class Difference:
    """A material whose share differs: percentage points, and the rungs that they are worth.

    `instead_of` is set where it took the place of another of its layer: that is one change, not two.
    `gives_way` is true of the oil that only made room for the rest: that is none.
    """

    material: Material
    before_pct: float
    after_pct: float
    rungs: float
    instead_of: Material | None = None
    instead_of_pct: float = 0.0
    gives_way: bool = False

    @property
    def matters(self) -> bool:
        """Whether it is worth enough to be felt."""
        return abs(self.rungs) >= MATTERS


def differences(
    before: Parts,
    after: Parts,
    at_c: float,
    *,
    overrun: float = 0.0,
    prior: Prior | None = None,
    step_pct: float = 0.0,
) -> list[Difference]:
    """Return in what `after` differs from `before` (materials, masses in any unit), weightiest first.

    More of one material in the place of all others is one difference, though every percent moves:
    shares are held against what the most of the pot does. Rungs are those at `at_c`, C, of that
    change alone, with the oil that gives way. `step_pct` is what a step of the scale is of the
    smaller pot: less than that was not changed but rounded.
    """
    was, now = percents_of(before), percents_of(after)
    ratios = [now[m] / was[m] for m in was if m in now] or [1.0]
    # What explains most with least: the scale of the rest that leaves the fewest materials changed.
    scale = min(ratios, key=lambda r: (len(_changed(was, now, r, step_pct)), abs(r - 1.0)))
    changed = _changed(was, now, scale, step_pct)
    way = _gives_way(changed, now)
    gone = [m for m in changed if m not in now]
    come = [m for m in changed if m not in was]
    pairs = {new: next((old for old in gone if old.layer == new.layer), None) for new in come}
    paired = {old for old in pairs.values() if old}

    def rungs(material: Material, old: Material | None) -> float:
        alone = dict(was)
        alone[material] = now.get(material, 0.0) / scale
        if old:
            alone[old] = 0.0
        if way:
            room = was.get(material, 0.0) + (was[old] if old else 0.0) - alone[material]
            alone[way] = max(was.get(way, 0.0) + room, 0.0)
        then = rung_at(list(alone.items()), at_c, overrun=overrun, prior=prior)
        today = rung_at(list(was.items()), at_c, overrun=overrun, prior=prior)
        return 0.0 if then is None or today is None else then - today

    found = []
    for material in changed:
        if material in paired:
            continue
        old = pairs.get(material)
        found.append(
            Difference(
                material,
                was.get(material, 0.0),
                now.get(material, 0.0),
                0.0 if material is way else rungs(material, old),
                old,
                was[old] if old else 0.0,
                material is way,
            )
        )
    return sorted(found, key=lambda d: (d.gives_way, -abs(d.rungs)))


def things_changed(found: Sequence[Difference]) -> int:
    """Return how many things were changed: the oil that gave way is none."""
    return sum(1 for difference in found if not difference.gives_way)


def _changed(
    was: Mapping[Material, float], now: Mapping[Material, float], scale: float, step_pct: float
) -> list[Material]:
    """Return the materials whose percentages changed, times `scale`."""
    return [
        m
        for m in dict.fromkeys([*was, *now])
        if abs(now.get(m, 0.0) - scale * was.get(m, 0.0))
        > max(SHARE_PTS, STEPS * step_pct, SHARE_OF_IT * scale * was.get(m, 0.0))
    ]


def _gives_way(changed: Sequence[Material], now: Mapping[Material, float]) -> Material | None:
    """Return the oil that only made room for the other changes: the one there is most of."""
    if len(changed) < 2:
        return None
    most = max((m for m in now if m.layer == "oil"), key=lambda m: now[m], default=None)
    return most if most in changed else None
