"""What the solver found, in a maker's words and in the bench's own temperatures."""

from __future__ import annotations

from calmtin.common.templatetags.calm import temp
from calmtin.core.messages import said
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
        return said(
            "{label} is {held} {percent:g} %; {helps} would help.",
            label=reason.material.label,
            held=held,
            percent=reason.percent,
            helps=reason.helps,
        )
    if isinstance(reason, LayerBound):
        layer = reason.layer.replace("_", " ").capitalize()
        return said(
            "{layer} in total is limited to {low:g}–{high:g} %.",
            layer=layer,
            low=reason.low,
            high=reason.high,
        )
    return "These materials can’t get any closer in any proportion."


def _say_missed(missed: Missed, unit: str) -> str:
    if missed.what == "skin_melt":
        return said("Only {reads:.0f} % of it melts on skin.", reads=100 * missed.reads)
    at, off = f"{temp(missed.at_c, unit).removesuffix('°')} °{unit}", abs(missed.reads - missed.wanted)
    if missed.what == "hot_rung":
        return said(
            "At {at} firmness is {reads:.1f}, {off:.1f} below the target.",
            at=at,
            reads=missed.reads,
            off=off,
        )
    side = "below" if missed.reads < missed.wanted else "above"
    return said(
        "The closest possible is {reads:.1f} at {at}, {off:.1f} {side} the target.",
        reads=missed.reads,
        at=at,
        off=off,
        side=side,
    )


def say_way_out(way: WayOut) -> str:
    """Say what would let the target be met."""
    if isinstance(way, AllowLine):
        return said(
            "Allow {in_words} {value} to {percent:g} %.",
            in_words=way.material.in_words,
            value="up" if way.is_up else "down",
            percent=way.percent,
        )
    if isinstance(way, AllowLayer):
        much = (
            said("{percent:g} %", percent=way.percent)
            if way.is_up
            else said("as little as {percent:g} %", percent=way.percent)
        )
        return f"Allow {much} {way.layer.replace('_', ' ')} in total."
    if isinstance(way, AddMaterial):
        if way.what == "harder":
            return "Add a harder wax or butter, such as candelilla or kokum."
        return "Add a liquid oil, or take wax out." if way.has_wax else "Add a liquid oil."
    return said("Set the target to {rung:.1f}, which these limits can reach.", rung=way.rung)
