"""Containers, how full, and how much to melt for them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.errors import DoesNotFit
from calmtin.core.materials import MELT_DENSITY_AT_C, Material, warmed_density
from calmtin.core.process.weighing import whole_steps

# Nominal fills in grams are meant for a usual balm, g/ml when set.
USUAL_DENSITY = 0.90
POUR_MARGIN_C = 5.0  # how far above the first haze a pot is poured
MOST_CONTAINERS = 500
MOST_BATCH_G = 50_000


@dataclass(frozen=True, slots=True)
class Container:
    """A container or a cavity: ml to the brim, and the part of it usually filled.

    A mould has several `cavities`, `on_hand` counting them all, and can be filled again.
    """

    slug: str
    name: str
    kind: str
    volume_ml: float
    usual_level: float
    is_nominal: bool
    notes: str = ""
    on_hand: int | None = None
    cavities: int = 1


@dataclass(frozen=True, slots=True)
class FillPlan:
    """What to melt. Densities g/ml, masses g; `batch_g` is whole steps of the scale."""

    container: Container
    count: int
    level: float
    loss: float
    pour_c: float | None
    density_pour: float
    density_set: float
    overrun: float
    each_ml: float
    each_g: float
    poured_g: float
    batch_g: Decimal

    @property
    def is_short(self) -> bool:
        """Whether there are fewer containers on hand than it takes; a mould can be filled again."""
        on_hand, is_mould = self.container.on_hand, self.container.cavities > 1
        return on_hand is not None and on_hand < self.count and not is_mould

    @property
    def moulds(self) -> int:
        """How many fillings of one mould it takes."""
        return -(-self.count // self.container.cavities)

    @property
    def rounds(self) -> int:
        """How many times all the moulds on hand must be filled."""
        return -(-self.count // (self.container.on_hand or self.count))

    @property
    def shrink(self) -> float:
        """The share of the poured volume that is gone once it has set."""
        return 1.0 - self.density_pour / self.density_set

    @property
    def shrink_percent(self) -> float:
        """The shrinkage in percent of the poured volume."""
        return 100.0 * self.shrink

    @property
    def level_percent(self) -> float:
        """The fill level in percent of the container."""
        return 100.0 * self.level

    @property
    def loss_percent(self) -> float:
        """What stays in the pot in percent of the melt."""
        return 100.0 * self.loss


def blend_density(parts: Sequence[tuple[Material, float]], temp_c: float | None = None) -> float:
    """Return the density, g/ml, of masses of materials: set, or melted at `temp_c`.

    Specific volumes add: 1/rho = sum w_i / rho_i. Melt densities are taken at 70 C
    and thin out by 0.00068 g/ml per C; powders do not.
    """
    total = sum(mass for _, mass in parts)
    volume = 0.0
    for material, mass in parts:
        density = material.density_solid
        if temp_c is not None and not material.is_filler:
            density = warmed_density(material.density_melt, MELT_DENSITY_AT_C, temp_c)
        volume += mass / density
    return total / volume


def overrun_of_jar(parts: Sequence[tuple[Material, float]], jar_ml: float, net_g: float) -> float:
    """Return the gain in volume by whipping from one jar that was weighed full, as a share.

    overrun = density unwhipped x ml / grams - 1; a little below 0 counts as 0. Raises
    `DoesNotFit` where the jar cannot hold so much.

    >>> from calmtin.core.data.loader import library
    >>> round(overrun_of_jar([(library()["shea_refined"], 1.0)], 100.0, 61.0), 2)
    0.51
    """
    overrun = blend_density(parts) * jar_ml / net_g - 1.0
    if overrun < -0.15:
        raise DoesNotFit("So much does not fit into that jar. Check the ml and the grams.", field="jar_g")
    if overrun > 3.0:
        raise DoesNotFit("So little is in that jar? Check the ml and the grams.", field="jar_g")
    return max(overrun, 0.0)


def plan_fill(
    parts: Sequence[tuple[Material, float]],
    container: Container,
    *,
    count: int,
    level: float,
    loss: float,
    set_point_c: float | None,
    resolution: Decimal,
    overrun: float = 0.0,
) -> FillPlan:
    """Return how much to melt for `count` containers filled to `level` (0 to 1).

    `loss` (0 to below 1) is the share of the melt that stays in the pot. The pot
    is poured hot, so the level is that of the melt; it sinks as it sets.

    A whipped butter is filled cold and whipped: its density is that of the set
    blend over 1 + `overrun`. What never sets (`set_point_c` None) is filled as it is.

    Each is volume x level x density at the pour; the batch is that times the
    count, over 1 - loss, raised to a whole step of the scale.
    """
    if not 1 <= count <= MOST_CONTAINERS:
        raise DoesNotFit(
            f"Choose from 1 to {MOST_CONTAINERS} containers.", field="count", limit=MOST_CONTAINERS
        )
    if not 0.05 <= level <= 1.0:
        raise DoesNotFit(
            "Fill to between 5 and 100 % of the container.", field="level", limit=100.0, unit="%"
        )
    if not 0.0 <= loss <= 0.5:
        raise DoesNotFit("Pot loss is from 0 to 50 %.", field="loss", limit=50.0, unit="%")
    pour_c = None if set_point_c is None else set_point_c + POUR_MARGIN_C
    density = blend_density(parts) / (1.0 + overrun) if overrun else blend_density(parts, pour_c)
    each_ml = container.volume_ml * level
    poured = each_ml * density * count
    batch = whole_steps(Decimal(repr(poured / (1.0 - loss))).quantize(Decimal("1e-6")), resolution)
    if batch > MOST_BATCH_G:
        raise DoesNotFit(
            f"That is {batch / 1000:.0f} kg of melt. Plan at most {MOST_BATCH_G // 1000} kg at once.",
            field="count",
            limit=MOST_BATCH_G,
            unit="g",
        )
    return FillPlan(
        container=container,
        count=count,
        level=level,
        loss=loss,
        pour_c=pour_c,
        density_pour=density,
        density_set=blend_density(parts) / (1.0 + overrun),
        overrun=overrun,
        each_ml=each_ml,
        each_g=each_ml * density,
        poured_g=poured,
        batch_g=batch,
    )
