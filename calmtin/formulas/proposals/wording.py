"""What the solver found, in a maker's words and in the bench's own temperatures."""

from __future__ import annotations

from django.utils.translation import gettext, gettext_noop

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
    """Return why a target cannot be met; temperatures in `unit`, C or F."""
    if isinstance(reason, Missed):
        return _say_missed(reason, unit)
    if isinstance(reason, Bound):
        ends = {"more": gettext("held to at most"), "less": gettext("held to at least")}
        held = gettext("locked at") if reason.is_locked else ends[reason.helps]
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
    return gettext("These materials can’t get any closer in any proportion.")


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
    """Return what would let the target be met."""
    if isinstance(way, AllowLine):
        return said(
            gettext_noop("Allow {material} up to {percent:g} %.")
            if way.is_up
            else gettext_noop("Allow {material} down to {percent:g} %."),
            material=way.material.in_words,
            percent=way.percent,
        )
    if isinstance(way, AllowLayer):
        return said(
            gettext_noop("Allow {percent:g} % {group} in total.")
            if way.is_up
            else gettext_noop("Allow as little as {percent:g} % {group} in total."),
            percent=way.percent,
            group=way.layer.replace("_", " "),
        )
    if isinstance(way, AddMaterial):
        if way.what == "harder":
            return gettext("Add a harder wax or butter, such as candelilla or kokum.")
        return (
            gettext("Add a liquid oil, or take wax out.") if way.has_wax else gettext("Add a liquid oil.")
        )
    return said("Set the target to {rung:.1f}, which these limits can reach.", rung=way.rung)
