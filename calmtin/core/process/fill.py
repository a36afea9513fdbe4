"""Containers, how full, how much to melt for them, and what a pot of melt will fill.

One balance holds for every plan: what is weighed is what is filled, what clings, what is
lost in the test, what is driven off, and what is left.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from calmtin.core.containers import container_kind
from calmtin.core.errors import DoesNotFit
from calmtin.core.materials import MELT_DENSITY_AT_C, Material, warmed_density
from calmtin.core.messages import Message, Words, said
from calmtin.core.process.losses import Losses
from calmtin.core.process.tincture import driven_off
from calmtin.core.process.weighing import whole_steps
from calmtin.core.quantities import Mass, Volume

# Nominal fills in grams are meant for a usual balm, g/ml when set.
USUAL_DENSITY = 0.90
POUR_MARGIN_C = 5.0  # how far above the first haze a pot is poured
MOST_CONTAINERS = 500
MOST_BATCH_G = 50_000
# How far whipping misses the volume that it was planned for, share of the gain.
OVERRUN_SPREAD = 0.2


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
    notes: Words = ""
    on_hand: int | None = None
    cavities: int = 1
    price: Decimal | None = None

    @property
    def usual_ml(self) -> float:
        """What it holds when it is filled as usual, ml."""
        return self.volume_ml * self.usual_level

    @property
    def is_mould(self) -> bool:
        """Whether it gives its filling back and can be filled again."""
        return self.cavities > 1 or container_kind(self.kind).is_mould


@dataclass(frozen=True, slots=True)
class Melt:
    """A blend as it is filled: densities in g/ml, whipped if so, and its losses on the way.

    `driven_share` of what is weighed is driven off before the wax goes in, `powder_share` of it
    is powder. `pour_c` is None where nothing sets.
    """

    density_pour: float
    density_set: float
    overrun: float = 0.0
    pour_c: float | None = None
    driven_share: float = 0.0
    powder_share: float = 0.0

    @property
    def shrink(self) -> float:
        """The share of the poured volume that is gone once it has set."""
        return 1.0 - self.density_pour / self.density_set


@dataclass(frozen=True, slots=True)
class Filling:
    """Some containers of one kind, each filled with `each_ml` at the pour.

    `finish` names what their share of the pot is finished with, `on_top_share` of the base it is.
    """

    container: Container
    count: int
    each_ml: float
    finish: str = ""
    on_top_share: float = 0.0

    @property
    def level(self) -> float:
        """How full each is, 0 to 1."""
        return self.each_ml / self.container.volume_ml

    @property
    def level_percent(self) -> float:
        """How full each is, % of the brim."""
        return 100.0 * self.level

    @property
    def is_short(self) -> bool:
        """Whether there are fewer on hand than it takes; a mould can be filled again."""
        on_hand = self.container.on_hand
        return on_hand is not None and on_hand < self.count and not self.container.is_mould

    @property
    def moulds(self) -> int:
        """How many fillings of one mould it takes."""
        return -(-self.count // self.container.cavities)

    @property
    def rounds(self) -> int:
        """How many times all the moulds on hand must be filled."""
        return -(-self.count // (self.container.on_hand or self.count or 1))


@dataclass(frozen=True, slots=True)
class FillPlan:
    """How much to melt, g, and where every gram goes; `batch_g` is the weighed total."""

    fillings: tuple[Filling, ...]
    melt: Melt
    batch_g: Decimal
    clung_g: float
    test_g: float
    driven_off_g: float
    powder_g: float

    @property
    def filled_g(self) -> float:
        """The part of the batch that ends up in containers, without anything on top, g."""
        return sum(self.grams_of(filling) for filling in self.fillings)

    @property
    def left_g(self) -> float:
        """The weight left in the pot or jug, scrapings included, g."""
        gone = self.clung_g + self.test_g + self.driven_off_g + self.powder_g
        return float(self.batch_g) - self.filled_g - gone

    @property
    def count(self) -> int:
        """How many containers are filled."""
        return sum(filling.count for filling in self.fillings)

    def each_g(self, filling: Filling) -> float:
        """Return the weight for one container of a filling, g."""
        return filling.each_ml * self.melt.density_pour

    def grams_of(self, filling: Filling) -> float:
        """Return what of the pot goes into all containers of a filling, g."""
        return filling.count * self.each_g(filling) / (1.0 + filling.on_top_share)

    def dip_ml(self, filling: Filling) -> float:
        """Return the volume that is gone from each container once it has set, ml; whipped, none."""
        return 0.0 if self.melt.overrun else filling.each_ml * max(self.melt.shrink, 0.0)

    def top_up_g(self, filling: Filling) -> float:
        """Return what a second pour into all of a filling takes to fill the dips, g."""
        return filling.count * self.dip_ml(filling) * self.melt.density_pour


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
        raise DoesNotFit(
            said("That is too heavy for a jar of this size. Check the volume and the weight."),
            field="jar_g",
        )
    if overrun > 3.0:
        raise DoesNotFit(
            said("That is too light for a jar of this size. Check the volume and the weight."),
            field="jar_g",
        )
    return max(overrun, 0.0)


def melt_of(
    parts: Sequence[tuple[Material, float]],
    *,
    set_point_c: float | None,
    overrun: float = 0.0,
    alcohol_pct: float | None = None,
) -> Melt:
    """Return a blend as it is filled; `overrun` is the gain in volume by whipping, as a share.

    The pot is poured hot, 5 C above its first haze. A whipped butter is filled cold: its density
    is that of the set blend over 1 + overrun. What never sets is filled as it is.

    >>> from calmtin.core.data.loader import library
    >>> salve = [(library()["beeswax_yellow"], 20.0), (library()["olive_oil"], 80.0)]
    >>> melt = melt_of(salve, set_point_c=58.0)
    >>> round(melt.density_pour, 3), round(melt.density_set, 3), round(melt.shrink, 3)
    (0.877, 0.92, 0.047)
    """
    dry = driven_off(parts, alcohol_pct=alcohol_pct)
    whole, left = sum(mass for _, mass in parts), sum(mass for _, mass in dry)
    pour_c = None if set_point_c is None else set_point_c + POUR_MARGIN_C
    set_density = blend_density(dry)
    return Melt(
        density_pour=set_density / (1.0 + overrun) if overrun else blend_density(dry, pour_c),
        density_set=set_density / (1.0 + overrun),
        overrun=overrun,
        pour_c=pour_c,
        driven_share=1.0 - left / whole,
        powder_share=sum(mass for m, mass in dry if m.is_filler) / whole,
    )


def for_containers(
    melt: Melt, fillings: Sequence[Filling], losses: Losses, *, resolution: Decimal
) -> FillPlan:
    """Return how much to weigh so that all `fillings` are filled, raised to a step of the scale.

    With F filled and overfilled, m the margin, a and b what clings, t the test and d, p the
    shares driven off and lost as powder: batch = (F (1 + m) + a + t) / (1 - b (1 - d) - d - p).
    Raises `DoesNotFit` with the field to change.
    """
    _check(fillings, losses)
    filled = sum(f.count * from_pot_g(melt, f) for f in fillings)
    wanted = (filled + losses.overfill_g) * (1.0 + losses.margin_share) + losses.cling_g + losses.test_g
    lost = losses.cling_share * (1.0 - melt.driven_share) + melt.driven_share
    kept = 1.0 - lost - melt.powder_share * losses.powder_share
    batch = whole_steps(Decimal(repr(wanted / kept)).quantize(Decimal("1e-6")), resolution)
    if batch > MOST_BATCH_G:
        raise DoesNotFit(
            Message(
                "That is a batch of {batch}. Plan at most {most} at once.",
                batch=Mass(batch, 0),
                most=Mass(MOST_BATCH_G),
            ),
            field="count",
            limit=MOST_BATCH_G,
            unit="g",
        )
    return plan_of(melt, fillings, losses, batch)


def usable_g(melt: Melt, losses: Losses, *, batch_g: Decimal) -> float:
    """Return what of a batch may go into containers, g: without its losses, margin and overfill."""
    empty = plan_of(melt, (), losses, batch_g)
    return (empty.left_g + 1e-6) / (1.0 + losses.margin_share) - losses.overfill_g


def from_pot(melt: Melt, offers: Sequence[Filling], losses: Losses, *, batch_g: Decimal) -> FillPlan:
    """Return what a batch fills: containers in the order of `offers`, each up to its count.

    What does not fill another container is left, and the last filling is never begun half. The
    inverse of `for_containers`: its batch fills its own counts. Raises `DoesNotFit`.
    """
    _check(offers, losses)
    usable = usable_g(melt, losses, batch_g=batch_g)
    found = []
    for offer in offers:
        each = from_pot_g(melt, offer)
        count = max(min(offer.count, math.floor(usable / each)), 0)
        usable -= count * each
        if count:
            found.append(replace(offer, count=count))
    return plan_of(melt, found, losses, batch_g)


def whipped_counts(
    melt: Melt, offers: Sequence[Filling], losses: Losses, *, batch_g: Decimal
) -> tuple[int, int]:
    """Return the fewest and the most containers that a whipped batch may fill.

    Whipping gives a fifth more or less of the volume that it was planned for.
    """
    counts = []
    for share in (1.0 - OVERRUN_SPREAD, 1.0 + OVERRUN_SPREAD):
        overrun = melt.overrun * share
        density = melt.density_set * (1.0 + melt.overrun) / (1.0 + overrun)
        other = replace(melt, density_pour=density, density_set=density, overrun=overrun)
        counts.append(from_pot(other, offers, losses, batch_g=batch_g).count)
    return min(counts), max(counts)


def with_batch(plan: FillPlan, losses: Losses, batch_g: Decimal) -> FillPlan:
    """Return a plan with what the scales make of its batch: what that adds is left over."""
    return plan_of(plan.melt, plan.fillings, losses, batch_g)


def from_pot_g(melt: Melt, filling: Filling) -> float:
    """Return what of the pot goes into one container, g."""
    return filling.each_ml * melt.density_pour / (1.0 + filling.on_top_share)


def plan_of(melt: Melt, fillings: Sequence[Filling], losses: Losses, batch_g: Decimal) -> FillPlan:
    """Return the plan that fills these containers from a batch, even where the batch is too small."""
    weighed = float(batch_g)
    driven = weighed * melt.driven_share
    return FillPlan(
        fillings=tuple(fillings),
        melt=melt,
        batch_g=batch_g,
        clung_g=losses.cling_g + losses.cling_share * (weighed - driven),
        test_g=losses.test_g,
        driven_off_g=driven,
        powder_g=weighed * melt.powder_share * losses.powder_share,
    )


def _check(fillings: Sequence[Filling], losses: Losses) -> None:
    """Refuse what no bench does; raises `DoesNotFit` with the field to change."""
    for filling in fillings:
        if not 1 <= filling.count <= MOST_CONTAINERS:
            raise DoesNotFit(
                said("Choose from 1 to {most_containers} containers.", most_containers=MOST_CONTAINERS),
                field="count",
                limit=MOST_CONTAINERS,
            )
        if not 0.05 <= filling.level <= 1.0 + 1e-9:
            raise DoesNotFit(
                Message(
                    "{name}: fill to between 5 and 100 % of its {brim}.",
                    name=filling.container.name,
                    brim=Volume(filling.container.volume_ml),
                ),
                field="level",
                limit=100.0,
                unit="%",
            )
    if not 0.0 <= losses.cling_share <= 0.5:
        raise DoesNotFit(said("Pot loss is from 0 to 50 %."), field="loss", limit=50.0, unit="%")
    if min(losses.cling_g, losses.test_g, losses.overfill_g, losses.margin_share, losses.powder_share) < 0:
        raise DoesNotFit(said("A loss can’t be below 0."), field="loss")
