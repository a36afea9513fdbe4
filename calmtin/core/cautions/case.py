"""The case that a rule looks at, and the caution it yields."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Literal

from calmtin.core.cautions.ceilings import Ceiling, ScentFacts
from calmtin.core.engine.blend import Parts
from calmtin.core.kinds import Kind
from calmtin.core.messages import Words
from calmtin.core.process.grain import GrainRisk
from calmtin.core.process.reactions import Suspect

Level = Literal["stop", "think", "note"]


@dataclass(frozen=True, slots=True)
class Caution:
    """One caution: how strong, about what, what to do, and the rule it rests on.

    `key` names the rule; with `material` it tells one caution from another.
    """

    level: Level
    key: str
    material: str
    title: Words
    words: Words
    instead: Words
    rule: Words


@dataclass(frozen=True)
class Case:
    """Everything that a rule may look at. `lines` are materials and percents of the total."""

    lines: Parts
    name: str
    kind: Kind
    ceiling: Ceiling
    scents: Mapping[str, ScentFacts]
    sees_sun: bool
    batch_g: Decimal
    scale_step_g: Decimal
    set_c: float | None
    grain: GrainRisk | None
    alcohol_pct: float | None = None
    notes: str = ""
    suspects: Mapping[str, Suspect] = field(default_factory=dict)


Rule = Callable[[Case], Iterator[Caution]]

TISSERAND = "Tisserand and Young, Essential Oil Safety, 2nd ed. 2014, typical value."
