"""The plan as pictures: the containers on the bench, and where every gram goes."""

from __future__ import annotations

from decimal import Decimal

from django.utils.translation import gettext

from calmtin.common.templatetags.calm import weight
from calmtin.core.messages import said
from calmtin.core.process.fill import FillPlan
from calmtin.pictures.fill import FillBench, Kind, Piece, bar_pieces, fill_bench

POT_ML = 250.0  # how large the pot with what is left is drawn, unless more is left


def _told(grams: float) -> str:
    return weight(Decimal(repr(round(grams, 2))))


def bench_picture(plan: FillPlan) -> FillBench:
    """Return the containers of a plan to scale, and the pot with its leftovers."""
    kinds = []
    for filling in plan.fillings:
        dip = plan.dip_ml(filling)
        container = filling.container
        words = said(
            "{name}, {level_percent:.0f} % full", name=container.name, level_percent=filling.level_percent
        )
        if filling.finish:
            words += f", {filling.finish}"
        kinds.append(
            Kind(
                container.kind,
                container.volume_ml,
                filling.level,
                dip,
                filling.count,
                f"{filling.count} × {_told(plan.each_g(filling))}",
                words,
            )
        )
    left_ml = max(plan.left_g, 0.0) / plan.melt.density_pour
    pot_ml = max(left_ml * 1.5, min(POT_ML, max((k.ml for k in kinds), default=POT_ML) * 2.0))
    kinds.append(
        Kind(
            "pot",
            pot_ml,
            left_ml / pot_ml,
            0.0,
            1,
            said("{told} left", told=_told(max(plan.left_g, 0.0))),
            gettext("in the pot"),
            is_left=True,
        )
    )
    return fill_bench(kinds)


def grams_bar(plan: FillPlan) -> list[Piece]:
    """Return where every gram that is weighed goes."""
    parts = [("filled", f.container.name, _told(plan.grams_of(f)), plan.grams_of(f)) for f in plan.fillings]
    for kind, name, grams in (
        ("clung", gettext("lost in the pot"), plan.clung_g),
        ("test", "test", plan.test_g),
        ("driven", gettext("driven off"), plan.driven_off_g),
        ("powder", gettext("powder lost"), plan.powder_g),
        ("left", gettext("left over"), max(plan.left_g, 0.0)),
    ):
        if grams >= 0.005:
            parts.append((kind, name, _told(grams), grams))
    return bar_pieces(parts)
