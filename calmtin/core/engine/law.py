"""The firmness law, second form: from crystals to a yield value. The one place where it stands.

Reading, bands, solver and trio map all come here with the same four sums: the mass of
fat crystals and of wax crystals in 1 g of matrix, and what each of them carries.
Masses are per mass of matrix, that is of everything but powder. docs/model.md gives
each term's reason, where it holds and what is weak.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from calmtin.core.engine.solids import Array
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said

STIFFNESS = 33_000.0  # yield value of a network whose load is 1, g/cm2
FEW_FAT, FEW_FAT_AT = 0.8, 0.15  # how much better few fat crystals carry, and how few
FEW_WAX, FEW_WAX_AT = 1.2, 0.05  # the same for lean wax gels
WARMTH = 0.006  # ln of what wax loses per C above 21 C, well below its melting point
WARMTH_FROM_C = 21.0
WHIPPED_EXPONENT = 1.5  # plastic collapse of an open foam
OIL_G_ML = 0.92  # of the oil that a powder takes up
LIQUID_EXPONENT, THIN_PA_S = 0.35, 0.1
_LN_THIN = float(np.log(10.0) - LIQUID_EXPONENT * np.log(THIN_PA_S))
THINNING_PER_C = 0.035  # ln of a liquid's viscosity per C


def network_load(fat: Array, fat_load: Array, wax: Array, wax_load: Array, temps_c: Array) -> Array:
    """Return the load that the crystals of 1 g of matrix carry, at `temps_c`.

    .. math:: \\phi = L_f (1 + 0.8 e^{-f / 0.15}) + L_w (1 + 1.2 e^{-W / 0.05}) e^{-\\kappa (T - 21)}

    `fat` and `wax` are masses of crystals, g in 1 g of matrix; `fat_load` and `wax_load`
    the same times their strengths. All broadcast. Few crystals make long thin bridges
    and carry more each; wax softens as it warms, long before it melts.

    >>> zero = np.array(0.0)
    >>> float(network_load(zero, zero, np.array(0.1), np.array(0.1), np.array(21.0)).round(5))
    0.11624
    """
    # x + x a e^(-m/b) in place: this is the innermost line of every search.
    few_fat = np.exp(fat * (-1.0 / FEW_FAT_AT)) * FEW_FAT
    few_fat += 1.0
    few_fat = few_fat * fat_load
    few_wax = np.exp(wax * (-1.0 / FEW_WAX_AT)) * FEW_WAX
    few_wax += 1.0
    return np.asarray(few_fat + few_wax * wax_load * _by_temperature(temps_c)[0])


def _by_temperature(temps_c: Array) -> tuple[Array, Array]:
    """Return what wax keeps of its strength at `temps_c`, beside 21 C, and ln of how liquids thin there."""
    warmth, thinned = _kept_by_temperature(temps_c.tobytes())
    return warmth.reshape(temps_c.shape), thinned.reshape(temps_c.shape)


@lru_cache(maxsize=256)
def _kept_by_temperature(temps_c: bytes) -> tuple[Array, Array]:
    temps = np.frombuffer(temps_c)
    return np.exp((WARMTH_FROM_C - temps) * WARMTH), _LN_THIN - LIQUID_EXPONENT * THINNING_PER_C * (
        temps - 25.0
    )


def network_yield(load: Array, stiffer: Array | float = 1.0, overrun: float = 0.0) -> Array:
    """Return the yield value of the network, g/cm2: 33,000 phi^3.5, times powder and air.

    `stiffer` is `powder_factor`; `overrun` the gain in volume by whipping.

    >>> float(network_yield(np.array(0.2)).round(1))
    118.1
    """
    # load^3.5 without a general power, which is slow.
    return np.asarray(load * load * load * np.sqrt(load) * (STIFFNESS * stiffer * whipped_factor(overrun)))


def liquid_yield(liquid: Array, ln_viscosity: Array, temps_c: Array) -> Array:
    """Return what the liquid itself resists, g/cm2: x 10^(1 + 0.35 log10(eta / 0.1)).

    `liquid` is the liquid share of the matrix, `ln_viscosity` the ln of its viscosity
    at 25 C, Pa s. Viscosity falls with warmth, or melting fat would thicken it.

    >>> float(liquid_yield(np.array(1.0), np.log(0.1), np.array(25.0)).round(3))
    10.0
    """
    # As one exponential: 10 eta^0.35 / 0.1^0.35.
    return np.asarray(liquid * np.exp(LIQUID_EXPONENT * ln_viscosity + _by_temperature(temps_c)[1]))


def powder_factor(volume: Array | float, oil_volume: Array | float, total_volume: Array | float) -> Array:
    """Return how many times powder stiffens: (1 - v / v_m)^(-2.5 v_m); endless where it jams.

    `volume` is that of the powders, ml; `oil_volume` that of the oil they take up until
    they ball, so that v_m = volume / (volume + oil_volume); `total_volume` of everything.
    Krieger and Dougherty, Trans. Soc. Rheol. 3 (1959) 137.

    >>> float(powder_factor(0.1, 0.1, 1.0).round(4))
    1.3217
    """
    filled = np.maximum(volume, 1e-12)
    most = filled / (filled + oil_volume)
    room = 1.0 - np.asarray(volume) / total_volume / most
    with np.errstate(divide="ignore"):
        return np.asarray(np.maximum(room, 0.0) ** (-2.5 * most))


def whipped_factor(overrun: float) -> float:
    """Return what whipping leaves of the yield value: (1 + overrun)^-1.5.

    `overrun` is the gain in volume: 1.0 doubles it. Plastic collapse of an open foam,
    Gibson and Ashby, *Cellular Solids* (1997); wide spread between makers.

    >>> round(whipped_factor(1.0), 4)
    0.3536
    """
    if overrun < 0:
        raise CalmTinError(said("The volume gain from whipping can’t be below 0."), field="overrun")
    return float((1.0 + overrun) ** -WHIPPED_EXPONENT)
