"""The load on the scale against its target, drawn as a balance beam."""

from __future__ import annotations

from dataclasses import dataclass

from calmtin.core.messages import digits

WIDTH, MARGIN = 640.0, 30.0
LEAST_TARGET = 8.0  # px that the target is wide at least
BEYOND = 1.25  # how far over its target the beam reads
MOST_TICKS = 6


@dataclass(frozen=True)
class Beam:
    """Positions along the beam, px: the load, its target band, and labelled ticks."""

    here: float
    target: tuple[float, float]  # where it begins, and how wide it is
    ticks: list[tuple[float, str]]
    is_on: bool
    is_over: bool


def scale_beam(shown_g: float, target_g: float, step_g: float, *, unit_g: float = 1.0) -> Beam:
    """Return the beam for `shown_g` of `target_g`; on target is within a step of the scale.

    Ticks are in units of `unit_g`, at round numbers.
    """
    most = max(target_g * BEYOND, 4.0 * step_g)
    if shown_g > most:
        most = shown_g * 1.05

    def place(grams: float) -> float:
        return round(MARGIN + (WIDTH - 2 * MARGIN) * min(max(grams / most, 0.0), 1.0), 1)

    every = _round_number(most / unit_g / (MOST_TICKS - 1))
    ticks = [
        (place(n * every * unit_g), digits(n * every, "g")) for n in range(int(most / unit_g / every) + 1)
    ]
    off = shown_g - target_g
    return Beam(
        here=place(shown_g),
        target=(
            place(target_g - step_g) - LEAST_TARGET / 2,
            place(target_g + step_g) - place(target_g - step_g) + LEAST_TARGET,
        ),
        ticks=ticks,
        is_on=abs(off) <= step_g * 1.0001,
        is_over=off > step_g * 1.0001,
    )


def _round_number(value: float) -> float:
    """Return the smallest 1, 2 or 5 times a power of ten that is not below `value`.

    >>> _round_number(0.7), _round_number(3.0), _round_number(20.0)
    (1.0, 5.0, 20.0)
    """
    power = 10.0 ** (len(f"{int(value)}") - 1) if value >= 1.0 else 1.0
    while power > value:
        power /= 10.0
    return next(n * power for n in (1.0, 2.0, 5.0, 10.0) if n * power >= value * 0.999)
