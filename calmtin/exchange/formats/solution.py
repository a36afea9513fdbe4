"""The input and output of `script/manage solve` (docs/formats.md)."""

from __future__ import annotations

import math
from typing import Any

from django.utils.translation import gettext

from calmtin.core.errors import BadFormulaFile
from calmtin.core.limits import span_in_words
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import said
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import solve
from calmtin.exchange.formats.formula import parse_formula, read_json
from calmtin.exchange.formats.prediction import overrun_of
from calmtin.formulas.proposals.wording import say_reason, say_way_out


def solve_file(text: str, shelf: Shelf) -> dict[str, Any]:
    """Read a formula with its target and limits, and return the solution as plain data."""
    data = read_json(text)
    if not isinstance(data, dict) or "formula" not in data or not isinstance(data.get("target"), dict):
        raise BadFormulaFile(gettext('The file is one JSON object with "formula" and "target".'))
    formula = parse_formula(data["formula"], shelf)
    parts: dict[Material, float] = {}
    for material, percent in formula.lines:
        parts[material] = parts.get(material, 0.0) + percent
    asked = data["target"]
    target = Target(
        rung=_number(asked, "rung", 0.0, 10.0),
        at_c=_number(asked, "at_c", -20.0, 110.0, 21.0),
        min_rung=_number(asked, "min_rung", 0.0, 10.0) if "min_rung" in asked else None,
        hot_c=_number(asked, "hot_c", -20.0, 110.0) if "hot_c" in asked else None,
        skin_melt=_number(asked, "skin_melt", 0.0, 1.0) if "skin_melt" in asked else None,
        overrun=overrun_of(formula),
    )
    solution = solve(list(parts.items()), target, Limits(_locks(data), _ranges(data)))
    return {
        "status": solution.status,
        "lines": [
            {"material": material.slug, "percent": float(percent)}
            for material, percent in zip(parts, solution.percents, strict=True)
        ],
        "rung": {f"{temp:g}": round(rung, 3) for temp, rung in solution.rungs.items()},
        "limits": [say_reason(reason) for reason in solution.limits],
        "ways_out": [say_way_out(way) for way in solution.ways_out],
        "warnings": formula.warnings,
    }


def _number(data: dict[str, Any], key: str, low: float, high: float, default: float | None = None) -> float:
    value = data.get(key, default)
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise BadFormulaFile(
            said(
                '"{key}" must be a number {span_in_words}.',
                key=key,
                span_in_words=span_in_words((low, high)),
            ),
            field=key,
        )
    if not low <= value <= high:
        raise BadFormulaFile(
            said(
                '"{key}" must be {span_in_words}, not {value:g}.',
                key=key,
                span_in_words=span_in_words((low, high)),
                value=value,
            ),
            field=key,
        )
    return float(value)


def _locks(data: dict[str, Any]) -> frozenset[str]:
    locks = data.get("lock", [])
    if not isinstance(locks, list) or not all(isinstance(slug, str) for slug in locks):
        raise BadFormulaFile(gettext('"lock" must be a list of materials.'), field="lock")
    return frozenset(locks)


def _ranges(data: dict[str, Any]) -> dict[str, tuple[float, float]]:
    ranges = data.get("range", {})
    if not isinstance(ranges, dict):
        raise BadFormulaFile(
            gettext('"range" must be an object such as {"beeswax_yellow": [15, 30]}.'), field="range"
        )
    found = {}
    for slug, pair in ranges.items():
        if not isinstance(pair, list) or len(pair) != 2:
            raise BadFormulaFile(
                said("The range of {slug} must be two numbers, such as [15, 30].", slug=slug), field="range"
            )
        ends = {"low": pair[0], "high": pair[1]}
        found[slug] = (_number(ends, "low", 0.0, 100.0), _number(ends, "high", 0.0, 100.0))
    return found
