"""What `script/manage learn` reads and prints: a log of test pours, and predictions after it."""

from __future__ import annotations

import math
from typing import Any, cast

from django.utils.translation import gettext

from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import read, why_not
from calmtin.core.engine.learning import INSTRUMENTS, Learned, Observation, learn
from calmtin.core.engine.press import press_yield
from calmtin.core.errors import BadFormulaFile
from calmtin.core.materials import Shelf
from calmtin.core.messages import said
from calmtin.exchange.formats.formula import FormulaFile, parse_formula
from calmtin.exchange.formats.prediction import overrun_of

MOST = 20_000
NUMBERS = ("rung", "low", "high")


def learned_from(data: Any, shelf: Shelf) -> dict[str, Any]:
    """Return what the observations of a file change and the predictions asked for, as plain numbers.

    Raises `BadFormulaFile` for what no log says, with the place where it says it.
    """
    if not isinstance(data, dict):
        raise BadFormulaFile(gettext('The file is an object with "observations" and "predict".'))
    seen = [_observation(n, row, shelf) for n, row in enumerate(_rows(data, "observations"))]
    asked = [_asked(n, row, shelf) for n, row in enumerate(_rows(data, "predict"))]
    prior = learn(seen)
    learned = prior if isinstance(prior, Learned) else None
    predictions: list[dict[str, float | None]] = []
    for formula, at_c in asked:
        blended = blend(formula.lines, prior)
        if why_not(blended):
            predictions.append(dict.fromkeys(NUMBERS))
            continue
        reading = read(blended, [at_c], overrun=overrun_of(formula))
        numbers = (reading.rung, reading.low, reading.high)
        predictions.append(
            {name: round(float(of[0]), 2) + 0.0 for name, of in zip(NUMBERS, numbers, strict=True)}
        )
    return {
        "offsets": _of(learned, "offset", INSTRUMENTS),
        "materials": _materials(learned),
        "predictions": predictions,
        "doubtful": list(learned.doubtful) if learned else [],
    }


def _of(learned: Learned | None, kind: str, names: tuple[str, ...]) -> dict[str, float]:
    found = {name: learned.of(kind, name) if learned else None for name in names}
    return {name: round(told[0], 3) + 0.0 if told else 0.0 for name, told in found.items()}


def _materials(learned: Learned | None) -> dict[str, dict[str, float]]:
    if learned is None:
        return {}
    found = {}
    for kind, slug in learned.names:
        told = learned.of(kind, slug)
        if kind == "strength" and told:
            found[slug] = {"ln_strength": round(told[0], 3) + 0.0, "sd": round(told[1], 3)}
    return found


def _rows(data: dict[str, Any], name: str) -> list[dict[str, Any]]:
    rows = data.get(name, [])
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise BadFormulaFile(said('"{name}" is a list of objects.', name=name))
    if len(rows) > MOST:
        raise BadFormulaFile(said('"{name}" has more than {most:,} entries.', name=name, most=MOST))
    return cast(list[dict[str, Any]], rows)


def _asked(place: int, row: dict[str, Any], shelf: Shelf) -> tuple[FormulaFile, float]:
    where = said("predict, number {place}", place=place + 1)
    return _formula(where, row, shelf), _number(where, row, "at_c")


def _observation(place: int, row: dict[str, Any], shelf: Shelf) -> Observation:
    where = said("observations, number {place}", place=place + 1)
    formula = _formula(where, row, shelf)
    press = row.get("press")
    if press is not None and not isinstance(press, dict):
        raise BadFormulaFile(f'{where}: "press" has "grams" and "rod_mm".')
    if (press is None) == (row.get("thumb") is None):
        raise BadFormulaFile(said('{where}: give one of "thumb" and "press".', where=where))
    return Observation(
        parts=formula.lines,
        at_c=_number(where, row, "at_c"),
        felt=None if press else _number(where, row, "thumb"),
        pressed=press_yield(_number(where, press, "grams"), _number(where, press, "rod_mm"))
        if press
        else None,
        overrun=overrun_of(formula),
        age_days=_number(where, row, "age_days") if row.get("age_days") is not None else None,
        careless=formula.extras.get("cooling") == "slow_bench",
    )


def _formula(where: str, row: dict[str, Any], shelf: Shelf) -> FormulaFile:
    if "formula" not in row:
        raise BadFormulaFile(said('{where}: there is no "formula" in it.', where=where))
    return parse_formula(row["formula"], shelf)


def _number(where: str, row: dict[str, Any], name: str) -> float:
    value = row.get(name)
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not math.isfinite(value):
        raise BadFormulaFile(said('{where}: "{name}" is a number.', where=where, name=name))
    return float(value)
