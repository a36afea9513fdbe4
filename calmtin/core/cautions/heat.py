"""What does not bear the heat of the pour."""

from __future__ import annotations

from collections.abc import Iterator

from calmtin.core.cautions.case import Case, Caution
from calmtin.core.cautions.ceilings import scent_total
from calmtin.core.messages import Message, said
from calmtin.core.quantities import Degrees, Temperature


def heat_rule(case: Case) -> Iterator[Caution]:
    """Name what does not bear the heat of the pour."""
    if case.set_c is None:
        return
    hot = case.set_c + 5.0
    for material, percent in case.lines:
        limit = material.max_heat_c
        if (
            percent > 0.0
            and limit is not None
            and not material.is_wet
            and hot > limit + 0.5
            and (material.layer in ("oil", "butter") or material.group == "antioxidant")
        ):
            yield Caution(
                "think",
                "heat",
                material.slug,
                Message("{name} should stay below {limit}", name=material.label, limit=Temperature(limit)),
                Message("This blend pours at about {hot}.", hot=Temperature(hot)),
                said("Add it last, just before the pot turns hazy, and pour at once."),
                said("Typical maximum temperature of the material."),
            )
    if scent_total(case.lines) > 0.0 and hot > 65.0:
        yield Caution(
            "think",
            "scent_heat",
            "",
            Message("The scent would be added at {hot}", hot=Temperature(hot)),
            said(
                "This blend sets at such a high temperature that the scent evaporates before you can pour."
            ),
            said("Use less of the highest-melting wax, or accept a fainter scent."),
            Message(
                "First haze plus {more}, compared with {most}.", more=Degrees(5.0), most=Temperature(65.0)
            ),
        )
