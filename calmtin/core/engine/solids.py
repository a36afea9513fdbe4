"""Which part of a melt is solid at a temperature.

Every material is a mixture of crystallising components, each with a melting
point, an enthalpy of fusion and a molar mass. Above its own solubility a
component is crystal; below it, dissolved. The ideal solubility law is
Hildebrand and Scott, *The Solubility of Nonelectrolytes* (1950); its use for
fats follows Wesdorp, *Liquid-multiple solid phase equilibria in fats* (1990).
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

R = 8.314462618  # gas constant, J/(mol K)
ZERO_C = 273.15  # K
NO_ROOM, CRUMB = 1e-300, 1e-200


def saturation(temps_c: Array, melt_c: Array, enthalpy_kj: Array) -> Array:
    """Return the mole fraction of each component that a melt can hold dissolved.

    .. math:: x_j(T) = \\min(1, \\exp(-(\\Delta H_j / R) (1/T - 1/T_{m,j})))

    Parameters: `temps_c` (t,) in C; `melt_c` (k,) in C; `enthalpy_kj` (k,) in
    kJ/mol. Returns (t, k), each between 0 and 1.

    >>> x = saturation(np.array([25.0]), np.array([63.5]), np.array([120.0]))
    >>> round(float(x[0, 0]), 5)  # exp(-14432.7 * (1/298.15 - 1/336.65))
    0.00394
    """
    slope = enthalpy_kj * (1000.0 / R)
    exponent = slope / (melt_c + ZERO_C) - np.multiply.outer(1.0 / (temps_c + ZERO_C), slope)
    return np.asarray(np.exp(np.minimum(exponent, 0.0)))


def liquid_moles(moles: Array, saturated: Array) -> Array:
    """Return the moles that are liquid: the largest root of N = sum min(n_j, x_j N).

    The right-hand side is the least of all sums that count some components as
    dissolved (n_j) and the rest as saturated (x_j N), so the root is the least of

        N_k = (n_1 + ... + n_k) / (1 - x_(k+1) - ... - x_m),    k = 0 ... m,

    with the components in order of their break points n_j / x_j, over the k whose
    denominator is above 0. One sort and two running sums, no iteration.

    Parameters: `moles` and `saturated` (..., k), broadcast against each other;
    `saturated` lies in (0, 1]. Returns (...), 0 where nothing can dissolve.

    >>> liquid_moles(np.array([3.0, 1.0]), np.array([1.0, 0.25])).item()
    4.0
    >>> liquid_moles(np.array([3.0, 2.0]), np.array([1.0, 0.25])).item()
    4.0
    >>> liquid_moles(np.array([2.0, 2.0]), np.array([0.3, 0.3])).item()
    0.0
    """
    order = (moles / saturated).argsort(axis=-1)
    # Running sums as products with triangles: quicker than cumsum for so few columns.
    up_to, after = _triangles(order.shape[-1])
    dissolved = _in_order(moles, order) @ up_to
    room = _in_order(saturated, order) @ after
    np.subtract(1.0, room, out=room)
    # No root where there is no room: the two crumbs, far below any amount and any
    # share, make such a quotient huge even where nothing has dissolved yet.
    np.maximum(room, NO_ROOM, out=room)
    dissolved += CRUMB
    np.divide(dissolved, room, out=dissolved)
    liquid: Array = np.asarray(dissolved.min(axis=-1))
    np.copyto(liquid, 0.0, where=saturated @ _ones(order.shape[-1]) < 1.0)
    return liquid


@lru_cache(maxsize=64)
def _ones(width: int) -> Array:
    return np.ones(width)


@lru_cache(maxsize=64)
def _triangles(width: int) -> tuple[Array, Array]:
    """Return the matrices (width, width) whose product with a row sums up to each place, and after it."""
    ones = np.ones((width, width))
    return np.triu(ones), np.tril(ones, -1)


def _in_order(values: Array, order: NDArray[np.intp]) -> Array:
    """Return `values` rearranged along the last axis; one row serves all."""
    width = values.shape[-1]
    if values.size == width:
        return values.reshape(-1).take(order, mode="clip")
    if values.shape == order.shape:
        return values.reshape(-1).take(order + _row_starts(order.shape), mode="clip")
    return np.take_along_axis(np.broadcast_to(values, order.shape), order, axis=-1)


@lru_cache(maxsize=32)
def _row_starts(shape: tuple[int, ...]) -> NDArray[np.intp]:
    """Return where each row of an array of `shape` starts when it is laid out flat."""
    return np.arange(0, math.prod(shape), shape[-1]).reshape(*shape[:-1], 1)


def solid_shares(moles: Array, saturated: Array) -> Array:
    """Return the share of each component that is solid, 0 to 1.

    Shapes as in `liquid_moles`; a component with no moles counts as liquid.
    """
    liquid = liquid_moles(moles, saturated)[..., None]
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        share = 1.0 - saturated * liquid / moles
    # Rounding leaves crumbs of either sign where a component has just dissolved.
    return np.asarray(np.where((moles > 0.0) & (share > 1e-9), share, 0.0))


def first_haze_c(moles: Array, melt_c: Array, enthalpy_kj: Array) -> float | None:
    """Return the highest temperature, C, at which any crystal can exist; None where nothing melts.

    In the full melt a component with mole fraction y is saturated at
    1/T = 1/Tm - R ln(y) / dH; the highest of these is the first haze on cooling.

    >>> oil_and_beeswax = np.array([90 / 875, 9 / 680, 1 / 600])
    >>> round(first_haze_c(oil_and_beeswax, np.array([-40, 63.5, 48.0]),
    ...                    np.array([90.0, 120.0, 80.0])), 1)
    47.2
    """
    present = moles > 0.0
    if not present.any():
        return None
    y = moles[present] / moles[present].sum()
    inverse_t = 1.0 / (melt_c[present] + ZERO_C) - R * np.log(y) / (enthalpy_kj[present] * 1000.0)
    return float((1.0 / inverse_t).max() - ZERO_C)
