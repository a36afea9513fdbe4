"""The formula with its three groups rescaled to other shares."""

from __future__ import annotations

from decimal import Decimal

from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.core.composition import Composition
from calmtin.core.engine.firmness_map import CORNERS
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import notation_in_force, said
from calmtin.core.process.weighing import share_out
from calmtin.core.units import read_number
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.proposal import MOVED, Proposal, as_proposal, changed_lines, tidied

TRIO_BOXES = ("wax", "butter", "oil")


def rescaled(
    version: Version,
    composition: Composition,
    bench: Bench,
    boxes: dict[str, str],
    held: frozenset[str],
) -> Proposal:
    """Return the formula with its groups rescaled to the shares in `boxes`."""
    notation = notation_in_force()
    shares = [
        read_number(boxes[name], name=gettext("The share"), high=100.0, unit="%", notation=notation)
        for name in TRIO_BOXES
    ]
    whole = sum(shares, Decimal(0))
    if whole <= 0:
        raise CalmTinError(gettext("All three shares are 0. Give at least one a value."), field="wax")
    percents, materials = composition.percents, composition.materials
    free = [i for i, m in enumerate(materials) if m.layer in MOVED and m.slug not in held]
    total = sum((percents[i] for i in free), Decimal(0))
    now = dict(enumerate(percents))
    for corner, share in zip(CORNERS, shares, strict=True):
        members = [i for i in free if materials[i].layer in corner]
        was = sum((percents[i] for i in members), Decimal(0))
        wanted = total * share / whole
        if was == 0:
            if wanted > Decimal("0.05"):
                raise CalmTinError(
                    said(
                        "There is no {group} in this formula yet. Add one first.",
                        group=corner[0].replace("_", " "),
                    ),
                    field="wax",
                )
            continue
        for i in members:
            now[i] = percents[i] * wanted / was
    exact = [now[i] for i in range(len(composition))]
    exact[free[-1]] += Decimal(100) - sum(exact, Decimal(0))
    tidy = tidied(composition, materials, share_out(exact, Decimal("0.001")), bench)
    return as_proposal(version, changed_lines(composition, materials, tidy), bench)
