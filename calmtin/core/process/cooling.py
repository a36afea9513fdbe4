"""How a pot cools: Newton's law, begun from its mass and refitted from what the thermometer says."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.optimize import least_squares

from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said

Array = npt.NDArray[np.float64]
Z80 = 1.2815515655446004  # half width of a likely range (80 %), in standard deviations
FAT_J_G_K = 2.0  # heat capacity of melted fat, J/(g K)
# A pot is taken to be of steel, 0.5 J/(g K). Glass (0.84) holds a tenth more heat with its fat: far
# less than a kitchen's rate varies, so nobody is asked what the pot is made of.
VESSEL_J_G_K = 0.5
VESSEL_SHARE = 0.8  # a vessel weighs about this part of what it holds
LOSS_W_M2_K = 13.0  # from a pot in still air: convection and radiation together
LN_RATE_SD = 0.35  # how far a kitchen's own rate lies from that, natural logarithm
READING_SD_C = 0.7  # of a kitchen thermometer, held by hand
START_SD_C = 3.0
HEATED_C = 3.0  # a rise that is no slip of the hand that holds the thermometer


@dataclass(frozen=True, slots=True)
class Forecast:
    """The law fitted to a pot: `rate` 1/min, `start_c` at minute 0, and how sure both are.

    `covariance` is that of (ln rate, start).
    """

    rate: float
    start_c: float
    room_c: float
    covariance: tuple[tuple[float, float], tuple[float, float]]

    def temp_c(self, minutes: float | Array) -> Array:
        """Return the temperature, C, after `minutes`."""
        return np.asarray(
            self.room_c + (self.start_c - self.room_c) * np.exp(-self.rate * np.asarray(minutes))
        )

    def minutes_to(self, temp_c: float) -> tuple[float, float, float] | None:
        """Return the minutes until it has cooled to `temp_c`: as expected, and the ends of the 80 % band.

        t = ln((T0 - Troom) / (T - Troom)) / k; to first order var(ln t) follows from the fit. None
        where it never gets there, or is there already.
        """
        if not self.room_c + 0.5 < temp_c < self.start_c:
            return None
        ratio = math.log((self.start_c - self.room_c) / (temp_c - self.room_c))
        expected = ratio / self.rate
        # d ln t / d ln k = -1; d ln t / d T0 = 1 / (ratio (T0 - Troom)).
        slope = np.array([-1.0, 1.0 / (ratio * (self.start_c - self.room_c))])
        sd = math.sqrt(max(float(slope @ np.asarray(self.covariance) @ slope), 0.0))
        return expected, expected * math.exp(-Z80 * sd), expected * math.exp(Z80 * sd)


def usual_rate(mass_g: float) -> float:
    """Return the rate, 1/min, at which a pot of `mass_g` g cools in still air before it was measured.

    k = h A / (m c + m_vessel c_vessel), A that of a cylinder as high as it is wide. Raises
    `CalmTinError` for nothing.

    >>> round(usual_rate(250.0), 4), round(usual_rate(1000.0), 4)
    (0.0313, 0.0197)
    """
    if mass_g <= 0.0:
        raise CalmTinError(said("The pot is empty."), field="grams")
    return float(60.0 * LOSS_W_M2_K * pot_area_m2(mass_g) / pot_j_k(mass_g))


def pot_area_m2(mass_g: float) -> float:
    """Return the surface of a pot of `mass_g` g, m2: a cylinder as high as it is wide."""
    volume_m3 = mass_g / 0.87e6
    width = (4.0 * volume_m3 / math.pi) ** (1.0 / 3.0)
    return float(1.5 * math.pi * width**2)


def pot_j_k(mass_g: float) -> float:
    """Return the heat that warms a pot of `mass_g` g and its vessel by a degree, J/K."""
    return mass_g * (FAT_J_G_K + VESSEL_SHARE * VESSEL_J_G_K)


def cooling_from(temps_c: Sequence[float]) -> int:
    """Return the index of the reading, C, from which a pot has been cooling.

    That is its hottest since it was last heated: since a reading lay more than `HEATED_C` above
    the lowest one before it. Raises `ValueError` without a reading.

    >>> cooling_from([21.0, 60.0, 85.0, 80.0, 71.0]), cooling_from([85.0, 60.0, 58.0, 66.0, 70.0, 64.0])
    (2, 4)
    """
    begin, lowest = 0, math.inf
    for n, temp_c in enumerate(temps_c):
        if temp_c > lowest + HEATED_C:
            begin, lowest = n, temp_c
        lowest = min(lowest, temp_c)
    return max(range(begin, len(temps_c)), key=lambda n: temps_c[n])


def forecast(readings: Sequence[tuple[float, float]], *, room_c: float, mass_g: float) -> Forecast:
    """Return the cooling law fitted to `readings` (minutes, C), starting from the prior for such a pot.

    Least squares of ln k and T0 against the readings (0.7 C each) and the prior of the rate
    (35 %): with none it is the prior, with four hardly anything of it is left. Raises
    `CalmTinError` without a reading, or where none is warmer than the room.

    >>> told = forecast([(0.0, 85.0), (5.0, 77.2), (10.0, 70.4)], room_c=21.0, mass_g=250.0)
    >>> expected, low, high = told.minutes_to(60.0)
    >>> low < expected < high, round(expected)
    (True, 19)
    """
    if not readings or max(temp for _, temp in readings) <= room_c + 1.0:
        raise CalmTinError(said("Enter a reading while the pot is still warm."), field="temp")
    minutes = np.array([at for at, _ in readings], dtype=float)
    temps = np.array([temp for _, temp in readings], dtype=float)
    prior = math.log(usual_rate(mass_g))

    def misses(x: Array) -> Array:
        told = room_c + (x[1] - room_c) * np.exp(-np.exp(x[0]) * minutes)
        return np.concatenate([(told - temps) / READING_SD_C, [(x[0] - prior) / LN_RATE_SD]])

    fitted = least_squares(misses, np.array([prior, temps[0]]))
    covariance = np.linalg.inv(fitted.jac.T @ fitted.jac)
    (a, b), (c, d) = covariance.tolist()
    return Forecast(math.exp(fitted.x[0]), float(fitted.x[1]), room_c, ((a, b), (c, d)))
