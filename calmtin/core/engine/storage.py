"""Fats and waxes harden for weeks after the pour: how much is still to come at an age."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from calmtin.core.engine.blend import Blend
from calmtin.core.engine.solids import Array
from calmtin.core.materials import Material

FAT_RUNGS, WAX_RUNGS = 0.8, 0.3  # what is still to come at once after the pour, rungs
FAT_DAYS, SLOW_DAYS, WAX_DAYS = 1.0, 2.0, 1.0 / 6.0  # half of it has come after

# Cocoa butter that was cooled without care sets in a lower form first.
LOWER_FORM_C, LOWER_FORM_DAYS = 5.0, 4.0


def still_to_come(blended: Blend, load: Array, age_days: float | None) -> Array:
    """Return the rungs (t,) by which a pour of `age_days` is softer than it will be; 0 for None.

    .. math:: \\Delta = \\sum_m s_m A_m 2^{-t / t_m}

    s_m is each material's share of `load` (t, m); A is 0.8 for fats and 0.3 for waxes; half
    of it has come after a day (shea, palm and mango two, waxes four hours).
    """
    if age_days is None:
        return np.zeros(load.shape[0])
    share = load / np.maximum(load.sum(axis=-1, keepdims=True), 1e-300)
    left = np.array([_left(material, age_days) for material in blended.materials])
    return np.asarray(share @ left)


def hardening(material: Material) -> tuple[float, float]:
    """Return what of a material is still to come after the pour, rungs, and in how many days half."""
    if material.group == "wax":
        return WAX_RUNGS, WAX_DAYS
    return FAT_RUNGS, SLOW_DAYS if material.slow_to_harden else FAT_DAYS


def _left(material: Material, age_days: float) -> float:
    rungs, half = hardening(material)
    return float(rungs * 2.0 ** (-age_days / half))


def in_lower_form(blended: Blend, age_days: float | None) -> Blend:
    """Return a blend whose cocoa butter was cooled without care and still melts lower at an age."""
    shift = lower_form_shift_c(age_days)
    cocoa = np.array([material.slug == "cocoa_butter" for material in blended.materials], dtype=float)
    if not shift or not cocoa.any():
        return blended
    whole = np.where(blended.component_mass > 0.0, blended.component_mass, 1.0)
    return replace(blended, melt_c=blended.melt_c - shift * (cocoa @ blended.mass) / whole)


def lower_form_shift_c(age_days: float | None) -> float:
    """Return by how many C carelessly cooled cocoa butter melts lower at an age.

    >>> round(lower_form_shift_c(4.0), 3), lower_form_shift_c(None)
    (1.839, 0.0)
    """
    return 0.0 if age_days is None else float(LOWER_FORM_C * np.exp(-age_days / LOWER_FORM_DAYS))
