"""The press test: a flat-ended rod, a kitchen scale, and the firmness its reading stands for.

docs/model.md, section 3.
"""

from __future__ import annotations

import math

import numpy as np

from calmtin.core.engine.ladder import to_rungs, yield_of_rungs
from calmtin.core.limits import PRESS_G, ROD_MM, check
from calmtin.core.messages import gettext_noop

PRESS_SD = 0.35  # rungs by which a press test may be off, around the offset of the instrument
CONE_FOR_ROD = 1.3  # the ladder's cone value for a rod's mean pressure; 0.9 to 1.8
# The rods that a kitchen has: a skewer, a pencil, a wooden spoon's end.
RODS_MM = (3.0, 6.0, 10.0)
READABLE_G = (15.0, 900.0)  # what a hand presses steadily and a kitchen scale shows well
BEST_G = 80.0


def press_yield(grams: float, rod_mm: float) -> float:
    """Return the yield value, g/cm2, of a press test: 1.3 F / A.

    A flat-ended rod of `rod_mm` is pressed as deep as it is wide; `grams` is the highest reading.
    Raises `CalmTinError`.

    >>> round(press_yield(30.0, 3.0)), round(press_yield(70.0, 10.0))
    (552, 116)
    """
    check(rod_mm, ROD_MM, name=gettext_noop("The rod"), field="rod_mm", unit="mm")
    check(grams, PRESS_G, name=gettext_noop("The reading"), field="grams", unit="g")
    return CONE_FOR_ROD * grams / (math.pi * (rod_mm / 20.0) ** 2)


def press_grams(rung: float, rod_mm: float) -> float:
    """Return the grams that a rod of `rod_mm` would read at a rung; the inverse of `press_yield`.

    >>> round(press_grams(5.0, 3.0)), round(press_grams(8.0, 3.0)), round(press_grams(3.0, 10.0))
    (31, 343, 68)
    """
    cone = float(yield_of_rungs(np.array(rung)))
    return cone * math.pi * (rod_mm / 20.0) ** 2 / CONE_FOR_ROD


def rod_for(rung: float) -> float:
    """Return the rod, mm, whose reading at a rung is best read: one whose grams lie nearest to 80.

    >>> rod_for(3.0), rod_for(6.0), rod_for(8.0)
    (10.0, 3.0, 3.0)
    """
    return min(RODS_MM, key=lambda rod: abs(math.log(press_grams(rung, rod) / BEST_G)))


def press_rung(grams: float, rod_mm: float) -> tuple[float, float, float]:
    """Return the rung of a press test with its 80 % ends, around the offset of the instrument.

    >>> [round(rung, 1) for rung in press_rung(30.0, 3.0)]
    [5.0, 4.5, 5.4]
    """
    rung = float(to_rungs(np.array(press_yield(grams, rod_mm))))
    off = 1.2816 * PRESS_SD
    return rung, max(rung - off, 0.0), min(rung + off, 10.0)
