"""Rescue of a pot: an over-poured ingredient, or a batch that is too soft or too hard."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from scipy.optimize import brentq

from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.core.process.weighing import nearest_step

NEAR = 0.05  # rungs from what is wanted that count as met
MOST_SHARE = 1.0  # no rescue adds more than there is in the pot
STEPS = 24  # places between nothing and the most at which a way is looked for


@dataclass(frozen=True, slots=True)
class ScaledUp:
    """A weigh sheet scaled up to an over-poured line: new targets, and what is still to be added, g."""

    factor: Decimal
    targets: tuple[Decimal, ...]
    to_add: tuple[Decimal, ...]

    @property
    def batch_g(self) -> Decimal:
        """What the pot comes to, g."""
        return sum(self.targets, Decimal(0))


def scaled_up(
    planned: Sequence[Decimal], weighed: Sequence[Decimal | None], *, step_g: Decimal
) -> ScaledUp:
    """Return the sheet at which everything that is in the pot already is in proportion again.

    `planned` are the grams of the sheet, `weighed` what is in the pot of each line, None where
    nothing is yet. The factor is the largest of weighed over planned; every line comes to its
    planned grams times that, to the step of the scale, and never to less than is in already.
    Raises `CalmTinError` where nothing was over-poured.

    >>> up = scaled_up([Decimal(20), Decimal(80)], [Decimal(22), None], step_g=Decimal("0.1"))
    >>> str(up.factor), [str(g) for g in up.targets], [str(g) for g in up.to_add]
    ('1.1', ['22', '88'], ['0', '88'])
    """
    over = [w / p for p, w in zip(planned, weighed, strict=True) if w is not None and p > 0]
    factor = max(over, default=Decimal(0))
    if factor <= 1:
        raise CalmTinError(said("Nothing is over its target weight, so there is nothing to scale up."))
    targets, to_add = [], []
    for grams, inside in zip(planned, weighed, strict=True):
        held = inside or Decimal(0)
        wanted = nearest_step(grams * factor, step_g)
        # What is in cannot come out: a line that is in to within a step stays as it is.
        target = held if inside is not None and wanted - held < step_g else max(wanted, held)
        targets.append(target.normalize())
        to_add.append((target - held).normalize())
    return ScaledUp(factor, tuple(targets), tuple(to_add))


@dataclass(frozen=True, slots=True)
class Addition:
    """An addition of one material that brings a pot to the wanted firmness; `rung` is the result."""

    material: Material
    grams: Decimal
    rung: float


def additions(
    pot: Sequence[tuple[Material, float]],
    candidates: Sequence[tuple[Material, float | None]],
    wanted: float,
    *,
    rung_of: Callable[[Sequence[tuple[Material, float]]], float],
    step_g: Decimal,
) -> list[Addition]:
    """Return what brings a pot to the rung that is wanted, one material at a time, least first.

    `pot` is what is in it, g; `candidates` are materials with the most that there is of each, g
    (None: enough). `rung_of` reads masses at the temperature that matters. The least addition is
    found by stepping from nothing and closing in on the first crossing; it is rounded to the
    scale and kept only within 0.05 rungs, or half a step of the scale, of what is wanted.

    >>> from calmtin.core.data.loader import library
    >>> from calmtin.core.engine.firmness import rung_at
    >>> wax, oil = library()["beeswax_yellow"], library()["olive_oil"]
    >>> (way,) = additions([(wax, 12.0), (oil, 88.0)], [(wax, None)], 5.0,
    ...                    rung_of=lambda parts: rung_at(parts, 21.0), step_g=Decimal("0.1"))
    >>> way.material.slug, abs(way.rung - 5.0) < 0.05
    ('beeswax_yellow', True)
    """
    whole = sum(grams for _, grams in pot)
    now = rung_of(pot)
    if abs(now - wanted) <= NEAR:
        return []
    found = []
    for material, there in candidates:
        most = whole * MOST_SHARE if there is None else min(there, whole * MOST_SHARE)
        grams = _least(pot, material, most, wanted, now, rung_of)
        if grams is None:
            continue
        rounded = nearest_step(Decimal(repr(grams)), step_g).normalize()
        if not 0 < float(rounded) <= most + 1e-9:
            continue
        rung = rung_of(with_more(pot, material, float(rounded)))
        coarse = abs(rung_of(with_more(pot, material, float(rounded + step_g))) - rung)
        if abs(rung - wanted) <= max(NEAR, coarse / 2.0):
            found.append(Addition(material, rounded, rung))
    return sorted(found, key=lambda way: way.grams)


def _least(
    pot: Sequence[tuple[Material, float]],
    material: Material,
    most: float,
    wanted: float,
    now: float,
    rung_of: Callable[[Sequence[tuple[Material, float]]], float],
) -> float | None:
    """Return the smallest addition that reaches the wanted rung, or None up to the maximum."""

    def off(grams: float) -> float:
        return rung_of(with_more(pot, material, grams)) - wanted

    before, at = now - wanted, 0.0
    for n in range(1, STEPS + 1):
        # Small steps first: a little wax does much.
        place = most * (n / STEPS) ** 2
        here = off(place)
        if before * here <= 0.0:
            return float(brentq(off, at, place, xtol=1e-4)) if at or before else place
        before, at = here, place
    return None


def with_more(
    pot: Sequence[tuple[Material, float]], material: Material, grams: float
) -> list[tuple[Material, float]]:
    """Return a pot with more of one material, put together with what of it is there."""
    if any(m.slug == material.slug for m, _ in pot):
        return [(m, mass + grams if m.slug == material.slug else mass) for m, mass in pot]
    return [*pot, (material, grams)]
