"""The strip of a pour, for every page about it."""

from __future__ import annotations

from typing import Any

from django import template

from calmtin.pantry.adapters import shelf_for
from calmtin.pours.adapters import next_sample as next_sample_of
from calmtin.pours.models import Pour
from calmtin.pours.queries.stages import stage_of, stages_of

register = template.Library()


@register.inclusion_tag("pours/_next_sample.html", takes_context=True)
def next_sample(context: dict[str, Any], pour: Pour) -> dict[str, Any]:
    """The next sample out of the same pot, in a series from one: {% next_sample pour %}."""
    coming = next_sample_of(pour, shelf_for(pour.owner)) if pour.series_id and pour.poured_at else None
    return {"pour": pour, "sample": coming, "csrf_token": context.get("csrf_token")}


@register.inclusion_tag("pours/_stages.html", takes_context=True)
def stages(context: dict[str, Any], pour: Pour) -> dict[str, Any]:
    """Where the pour stands, what comes after it, and one press for what is done: {% stages pour %}."""
    return {
        "pour": pour,
        "stages": stages_of(pour),
        "may_be_poured": stage_of(pour) in ("melt", "cool", "pour") and not pour.is_rehearsal,
        "csrf_token": context.get("csrf_token"),
    }
