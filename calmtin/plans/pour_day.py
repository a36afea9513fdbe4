"""What a plan needs of the pours made from plans; the app of pours provides it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, Protocol
from uuid import UUID

from calmtin.common.registry import Provider
from calmtin.core.composition import Part
from calmtin.core.materials import Material
from calmtin.core.process.fill import Container, FillPlan
from calmtin.core.process.scales import Scale
from calmtin.formulas.models import Version
from calmtin.plans.adapters import OnePot, Variant


@dataclass(frozen=True)
class CountedPour:
    """A pour that was counted: its melt, and the grams of it that were not found again."""

    code: str
    address: str
    melt_g: float
    lost_g: float


class PourDay(Protocol):
    """The pours of a maker, as plans see them."""

    def last_fillings(self, version: Version) -> list[tuple[str, float]]:
        """Return the containers of the newest pour of this kind, by slug, and the fill of each, ml."""

    def counted_pours(self, user: Any, most: int) -> list[CountedPour]:
        """Return the newest pours that were counted, newest first."""

    def reserved_g(self, user: Any) -> dict[str, Decimal]:
        """Return the grams that pours in progress still have to weigh, by material."""

    def measured_overrun(self, version: Version) -> float | None:
        """Return how far a formula was whipped when a jar was last weighed full, as a share."""

    def start(
        self,
        user: Any,
        version: Version,
        plan: FillPlan,
        *,
        is_rehearsal: bool,
        scale_step_g: Decimal,
        weights: Sequence[tuple[Part, Decimal]],
        finish_parts: Sequence[tuple[str, Material, Decimal, Decimal]],
        lots: Mapping[str, int],
        seen: int | None,
        request_key: UUID | None,
    ) -> str:
        """Start a pour, or a rehearsal of one, and return the address of its page."""

    def start_series(
        self,
        user: Any,
        version: Version,
        *,
        variants: Sequence[Variant],
        varies: str,
        sample_g: Decimal,
        container: Container,
        scales: Sequence[Scale],
        one_pot: OnePot | None,
        request_key: UUID | None,
    ) -> list[int]:
        """Start a pour for each variant, or the first from one pot, and return their keys."""


pour_day: Provider[PourDay] = Provider()
