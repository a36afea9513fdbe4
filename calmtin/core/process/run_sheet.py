"""What to do on pour day, in order: worked out from the formula, the plan and the route."""

from __future__ import annotations

from collections.abc import Iterator

from calmtin.core.messages import said
from calmtin.core.process.melting import heat_steps
from calmtin.core.process.pouring import cool_steps, set_steps
from calmtin.core.process.steps import Batch, Step


def run_sheet(batch: Batch) -> list[Step]:
    """Return the steps of a pour, in order.

    Waxes melt first, then butters, oils are warmed last so that nothing seizes; a tincture leaves
    its water before any wax goes in; powders go into the hot oil in portions, scents below their
    loss and flash point and above the pour, and where there is no such window the step says so.
    """
    return [*_begin(batch), *heat_steps(batch), *cool_steps(batch), *set_steps(batch)]


def _begin(batch: Batch) -> Iterator[Step]:
    yield Step(
        "ready",
        said("Get ready"),
        said(
            "Clean and dry the surfaces, bowl, whisk, spatula and jars. Tie your hair back; put on "
            "gloves. Use only one sanitiser. Get out lids, scraper and labels."
        )
        if batch.is_cold
        else said(
            "Clean and dry the surfaces, pot, spatula and containers. Tie your hair back; put on gloves "
            "and goggles. Use only one sanitiser. Put 2 to 3 cm of water in the bath and keep its lid at "
            "hand. Get out lids, tray, scraper and labels, and a towel to dry the outside of the jug."
        ),
        said("Everything you need is within reach."),
        caution=said("Never mix bleach with alcohol or an acid."),
    )
    yield Step(
        "weigh",
        said("Weigh"),
        said("Weigh every ingredient on the weigh sheet."),
        said("The weigh sheet is closed."),
    )
