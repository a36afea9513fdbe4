"""What a pot outside a step's temperatures asks for: to wait before it, or to mend after it."""

from __future__ import annotations

from calmtin.core.messages import Message, Words, gettext_noop
from calmtin.core.process.steps import Step
from calmtin.core.quantities import Temperature

NEAR_C = 1.0  # from a window that a kitchen thermometer cannot tell from inside it
SCENT_LOST = gettext_noop(
    "Much of the scent evaporates at that temperature. Let the pot cool to the right temperature, "
    "smell it, and add more by the drop under “Add by feel”."
)
TOO_HOT_BUTTER = gettext_noop(
    "Butters lose their own scent at that temperature, and melt into a coarser grain. Take the pot off the "
    "heat, let it cool, and stir it well as it sets."
)
NOT_MELTED = gettext_noop("It isn’t fully melted. Put it back in the bath until it is clear.")
# What to do once a step was done too hot or too cold, by how its key begins.
TOO_HOT = {
    "melt_wax": gettext_noop(
        "Wax darkens and smells burnt at that temperature. Take it off the heat, and mark the tin "
        "as a test."
    ),
    "melt_butter": TOO_HOT_BUTTER,
    "melt_all": TOO_HOT_BUTTER,
    "oils": gettext_noop("Oils go off sooner once they were that hot. Take the pot off the heat at once."),
    "late": gettext_noop(
        "Heat-sensitive ingredients have been damaged. Let the pot cool before you add anything else."
    ),
    "scent": SCENT_LOST,
    "finish": SCENT_LOST,
    "fill": gettext_noop("It will shrink more as it sets. Keep some of the batch warm to top up the tins."),
}
TOO_COLD = {
    "melt_wax": NOT_MELTED,
    "melt_butter": NOT_MELTED,
    "melt_all": NOT_MELTED,
    "scent": gettext_noop(
        "Part of it has set, so the scent won’t spread evenly. Warm the pot until it is clear, then stir."
    ),
    "finish": gettext_noop("Part of it has set. Warm the pot until it is clear, then split it."),
    "fill": gettext_noop(
        "Part of it had set, so it will be in layers. Scrape it back, warm it until it is clear, and "
        "pour again."
    ),
}


def wait_for(step: Step, temp_c: float) -> Words:
    """Return what to wait for before a step is done in a pot of `temp_c`, C; nothing where it is right."""
    if step.high_c is not None and temp_c > step.high_c + NEAR_C:
        return Message(
            "The pot is at {now}. Wait until it is at {wanted}.",
            now=Temperature(temp_c),
            wanted=Temperature(step.high_c),
        )
    if step.low_c is not None and temp_c < step.low_c - NEAR_C:
        return Message(
            "The pot is at {now}. Warm it to {wanted} first.",
            now=Temperature(temp_c),
            wanted=Temperature(step.low_c),
        )
    return ""


def done_wrong(step: Step, temp_c: float) -> Words:
    """Return what a step that was done at `temp_c`, C, outside its window, asks for now; else nothing."""
    if step.high_c is not None and temp_c > step.high_c + NEAR_C:
        return _it_was("above", temp_c, step.high_c, TOO_HOT.get(step.key.partition("-")[0], ""))
    if step.low_c is not None and temp_c < step.low_c - NEAR_C:
        return _it_was("below", temp_c, step.low_c, TOO_COLD.get(step.key.partition("-")[0], ""))
    return ""


def _it_was(side: str, temp_c: float, wanted_c: float, after: str) -> Words:
    if not after:
        return ""
    told = {"was": Temperature(temp_c), "wanted": Temperature(wanted_c), "after": after}
    return Message(
        "It was {was}, above {wanted}. {after}"
        if side == "above"
        else "It was {was}, below {wanted}. {after}",
        **told,
    )
