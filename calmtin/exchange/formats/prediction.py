"""The prediction that `script/manage predict` prints. This interface stays stable."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import partial
from typing import Any

from calmtin.core.data.loader import kinds
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import flow_point_c, read, set_point_c, why_not
from calmtin.core.messages import said
from calmtin.exchange.formats.formula import FormulaFile

USUAL_TEMPS = (8.0, 21.0, 33.0, 40.0)


def prediction(formula: FormulaFile, temps_c: Sequence[float]) -> dict[str, Any]:
    """Return the prediction at `temps_c` as plain numbers, keyed by temperature."""
    blended = blend(formula.lines)
    if reason := why_not(blended):
        return _unpredicted(formula, temps_c, reason)
    overrun, age_days = overrun_of(formula), formula.extras.get("age_days")
    careless = formula.extras.get("cooling") == "slow_bench"
    read_at = partial(read, blended, list(temps_c), age_days=age_days, careless=careless)
    reading, in_pot = read_at(overrun=overrun), read_at()
    keys = [f"{temp:g}" for temp in temps_c]
    flow_c, set_c = flow_point_c(blended), set_point_c(blended)
    return {
        "name": formula.name,
        "kind": formula.kind,
        "total_percent": _round(formula.total_percent, 3),
        "solid_percent": {k: _round(v, 1) for k, v in zip(keys, reading.solid_pct, strict=True)},
        "yield_g_cm2": {k: _three_figures(v) for k, v in zip(keys, reading.yield_value, strict=True)},
        "rung": {k: _round(v, 2) for k, v in zip(keys, reading.rung, strict=True)},
        "band": {
            k: [_round(low, 2), _round(high, 2)]
            for k, low, high in zip(keys, reading.low, reading.high, strict=True)
        },
        "rung_in_pot": {k: _round(v, 2) for k, v in zip(keys, in_pot.rung, strict=True)},
        "flow_c": None if flow_c is None else _round(flow_c, 1),
        "set_c": None if set_c is None else _round(set_c, 1),
        "warnings": formula.warnings + _warnings(formula),
    }


def overrun_of(formula: FormulaFile) -> float:
    """Return the gain in volume of a file, as a share; a whipped kind's usual one unless it says."""
    told = formula.extras.get("overrun_pct")
    return kinds()[formula.kind].usual_overrun if told is None else float(told) / 100.0


def _unpredicted(formula: FormulaFile, temps_c: Sequence[float], reason: str) -> dict[str, Any]:
    """Say that there is nothing to predict: the same keys with nulls, and the reason first."""
    nothing = dict.fromkeys(f"{temp:g}" for temp in temps_c)
    return {
        "name": formula.name,
        "kind": formula.kind,
        "total_percent": _round(formula.total_percent, 3),
        **dict.fromkeys(("solid_percent", "yield_g_cm2", "rung", "band", "rung_in_pot"), nothing),
        "flow_c": None,
        "set_c": None,
        "warnings": [reason, *formula.warnings, *_warnings(formula)],
    }


def _warnings(formula: FormulaFile) -> list[str]:
    """Return warnings about the materials for a reader of the numbers."""
    found = []
    for material, percent in formula.lines:
        if percent > 0.0 and material.is_wet:
            found.append(
                said(
                    "{name} does not mix with oil and may bring mould; it counts only as weight.",
                    name=material.name,
                )
            )
        elif percent > 0.0 and material.basis == "estimated":
            found.append(
                said(
                    "{name} is estimated from its melting range, so the likely range is wider.",
                    name=material.name,
                )
            )
    return found


def _round(value: float, places: int) -> float:
    return round(float(value), places) + 0.0


def _three_figures(value: float) -> float:
    """Return a yield value to four figures, its real precision."""
    number = float(value)
    if number <= 0.0:
        return 0.0
    return (
        round(number, max(0, 3 - math.floor(math.log10(number)))) if number < 1e4 else float(round(number))
    )
