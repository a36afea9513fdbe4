"""What the solver found, in a maker's words and in the bench's own temperatures."""

from __future__ import annotations

from calmtin.common.templatetags.calm import temp
from calmtin.core.solver.explain import (
    AddMaterial,
    AllowLayer,
    AllowLine,
    Bound,
    LayerBound,
    Missed,
    Reason,
    WayOut,
)


def say_reason(reason: Reason, unit: str = "C") -> str:
    """Say what stops a target; temperatures in `unit`, C or F."""
    if isinstance(reason, Missed):
        return _say_missed(reason, unit)
    if isinstance(reason, Bound):
        ends = {"more": "held to at most", "less": "held to at least"}
        held = "locked at" if reason.is_locked else ends[reason.helps]
        return f"{reason.material.label} is {held} {reason.percent:g} %; {reason.helps} of it would help."
    if isinstance(reason, LayerBound):
        layer = reason.layer.replace("_", " ")
        return f"All of the {layer} together is held from {reason.low:g} to {reason.high:g} %."
    return "These materials cannot go further in any proportion."


def _say_missed(missed: Missed, unit: str) -> str:
    if missed.what == "skin_melt":
        return f"Only {100 * missed.reads:.0f} % of it melts on skin."
    at, off = f"{temp(missed.at_c, unit).removesuffix('°')} °{unit}", abs(missed.reads - missed.wanted)
    if missed.what == "hot_rung":
        return f"At {at} it reads {missed.reads:.1f}, {off:.1f} below what is wanted."
    side = "below" if missed.reads < missed.wanted else "above"
    return f"The closest is {missed.reads:.1f} at {at}, {off:.1f} {side} the target."


def say_way_out(way: WayOut) -> str:
    """Say what would let the target be met."""
    if isinstance(way, AllowLine):
        return f"Allow {way.material.in_words} {'up' if way.is_up else 'down'} to {way.percent:g} %."
    if isinstance(way, AllowLayer):
        much = f"{way.percent:g} %" if way.is_up else f"as little as {way.percent:g} %"
        return f"Allow {much} of {way.layer.replace('_', ' ')} in all."
    if isinstance(way, AddMaterial):
        if way.what == "harder":
            return "Add a harder wax or butter, such as candelilla or kokum."
        return "Add a liquid oil, or take wax out." if way.has_wax else "Add a liquid oil."
    return f"Take {way.rung:.1f} as the target, which these limits can reach."
