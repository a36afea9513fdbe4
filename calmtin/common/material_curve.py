"""The softening curve of a material alone, between a bench's own temperatures."""

from __future__ import annotations

from typing import Any

import numpy as np

from calmtin.common.templatetags.calm import temp
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import flow_point_c, read, set_point_c
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.pictures.curve import HIGHEST_C, LOWEST_C, SofteningCurve, softening_curve


def curve_of(material: Material, bench: Any) -> SofteningCurve:
    """Return the softening curve of the material alone."""
    neat = blend([(material, 1.0)])
    temps = np.linspace(LOWEST_C, HIGHEST_C, 61)
    reading = read(neat, temps)
    unit = bench.temperature_unit
    flow_c, set_c = flow_point_c(neat), set_point_c(neat)
    places = [
        (bench.cold_name, bench.cold_c),
        ("room", bench.room_c),
        ("skin", 33.0),
        (bench.hot_name, bench.hot_c),
    ]
    return softening_curve(
        list(temps),
        list(reading.rung),
        list(reading.low),
        list(reading.high),
        places=[(c, temp(c, unit), name) for name, c in places],
        here_c=bench.room_c,
        flow_c=flow_c,
        set_c=set_c,
        flow_label="liquid"
        if flow_c is None
        else said("flows at {flow_c}", flow_c=temp(round(flow_c), unit)),
        set_label="" if set_c is None else said("sets from {set_c}", set_c=temp(round(set_c), unit)),
        width=420.0,
        height=240.0,
    )
