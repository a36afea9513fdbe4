"""A fill plan for the command line: containers or a batch in, the weigh sheet out (docs/formats.md)."""

from __future__ import annotations

import math
from decimal import Decimal
from typing import Any

from django.utils.translation import gettext

from calmtin.core.data.loader import containers
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.errors import BadFormulaFile, DoesNotFit
from calmtin.core.limits import BATCH_G, check, span_in_words
from calmtin.core.materials import Shelf
from calmtin.core.messages import Message, said
from calmtin.core.process.fill import (
    MOST_CONTAINERS,
    Filling,
    FillPlan,
    Melt,
    for_containers,
    from_pot,
    melt_of,
    with_batch,
)
from calmtin.core.process.losses import Losses
from calmtin.core.process.scales import Scale, weigh_on
from calmtin.core.process.tincture import TINCTURE
from calmtin.core.quantities import Mass, Volume
from calmtin.exchange.formats.formula import FormulaFile, parse_formula

USUAL_SCALE = 0.1


def plan(data: Any, shelf: Shelf) -> dict[str, Any]:
    """Return the plan that a file asks for, as plain data.

    `data` has a `formula`, `containers` (each with `container`, `count` and `fill_g` or `fill_ml`),
    `loss_g` and `scale_g`; with `batch_g` instead of counts the batch is filled into them in turn.
    Raises `BadFormulaFile` and whatever the plan refuses.
    """
    if not isinstance(data, dict) or "formula" not in data:
        raise BadFormulaFile(
            gettext('A plan is one JSON object with "formula" and "containers".'), field="formula"
        )
    formula = parse_formula(data["formula"], shelf)
    parts = [(material, percent) for material, percent in formula.lines if percent > 0]
    tincture = [
        n.alcohol_pct for (m, _), n in zip(formula.lines, formula.notes, strict=True) if m.slug == TINCTURE
    ]
    melt = melt_of(
        parts,
        set_point_c=set_point_c(blend(parts)),
        overrun=float(formula.extras.get("overrun_pct", 0)) / 100.0,
        alcohol_pct=tincture[0] if tincture else None,
    )
    step = Decimal(repr(_number(data, "scale_g", USUAL_SCALE, low=0.001, high=100.0)))
    scales = [Scale("scale", step)]
    losses = Losses(cling_g=_number(data, "loss_g", 0.0, high=BATCH_G[1]))
    batch = data.get("batch_g")
    fillings = [
        _filling(row, place, melt, batch is not None) for place, row in enumerate(_rows(data), start=1)
    ]
    if batch is None:
        planned = for_containers(melt, fillings, losses, resolution=step)
    else:
        grams = Decimal(repr(_number(data, "batch_g", 0.0, low=BATCH_G[0], high=BATCH_G[1])))
        planned = from_pot(melt, fillings, losses, batch_g=(grams / step).to_integral_value() * step)
    weighings, total = weigh_on([Decimal(repr(round(p, 6))) for _, p in parts], planned.batch_g, scales)
    planned = with_batch(planned, losses, total)
    return _told(planned, formula, parts, [w.grams for w in weighings], [w.is_small for w in weighings])


def _told(
    planned: FillPlan, formula: FormulaFile, parts: list[Any], grams: list[Decimal], small: list[bool]
) -> dict[str, Any]:
    check(planned.batch_g, BATCH_G, name="A batch", field="batch_g", unit="g")
    warnings = list(formula.warnings)
    warnings += [
        str(Message("{name}: {grams} is too little for this scale.", name=material.label, grams=Mass(g)))
        for (material, _), g, is_small in zip(parts, grams, small, strict=True)
        if is_small
    ]
    if not planned.fillings:
        warnings.append(gettext("The batch is too small to fill one container."))
    return {
        "batch_g": float(planned.batch_g),
        "filled_g": round(planned.filled_g, 2),
        "loss_g": round(planned.clung_g, 2),
        "driven_off_g": round(planned.driven_off_g, 2),
        "left_g": round(planned.left_g, 2),
        "density_pour_g_ml": round(planned.melt.density_pour, 4),
        "containers": [
            {
                "container": filling.container.slug,
                "count": filling.count,
                "fill_ml": round(filling.each_ml, 2),
                "fill_g": round(planned.each_g(filling), 2),
            }
            for filling in planned.fillings
        ],
        "lines": [
            {"material": material.slug, "grams": float(g)}
            for (material, _), g in zip(parts, grams, strict=True)
        ],
        "warnings": warnings,
    }


def _rows(data: dict[str, Any]) -> list[Any]:
    rows = data.get("containers")
    if not isinstance(rows, list) or not rows or len(rows) > 20:
        raise BadFormulaFile(
            gettext('"containers" must be a list of 1 to 20 containers.'), field="containers"
        )
    return rows


def _filling(row: Any, place: int, melt: Melt, is_any: bool) -> Filling:
    known = containers()
    if not isinstance(row, dict) or row.get("container") not in known:
        raise BadFormulaFile(
            said("Container {place} must name one of {known}.", place=place, known=", ".join(known)),
            field="containers",
        )
    container = known[row["container"]]
    usual = container.usual_ml
    if "fill_g" in row:
        usual = _number(row, "fill_g", 0.0, low=0.01, high=BATCH_G[1]) / melt.density_pour
    elif "fill_ml" in row:
        usual = _number(row, "fill_ml", 0.0, low=0.01, high=20_000.0)
    count = row.get("count", MOST_CONTAINERS if is_any else None)
    if isinstance(count, bool) or not isinstance(count, int):
        raise BadFormulaFile(said('Container {place} needs a whole "count".', place=place), field="count")
    if usual > container.volume_ml * 1.0001:
        raise DoesNotFit(
            Message(
                "{name} holds {brim}, but {asked} was asked for.",
                name=container.name,
                brim=Volume(container.volume_ml),
                asked=Volume(usual),
            ),
            field="fill_ml",
            limit=container.volume_ml,
            unit="ml",
        )
    return Filling(container, count, min(usual, container.volume_ml))


def _number(data: dict[str, Any], name: str, usual: float, *, low: float = 0.0, high: float) -> float:
    value = data.get(name, usual)
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise BadFormulaFile(said('"{name}" must be a number.', name=name), field=name)
    if not low <= value <= high:
        raise BadFormulaFile(
            said('"{name}" must be {span_in_words}.', name=name, span_in_words=span_in_words((low, high))),
            field=name,
        )
    return float(value)
