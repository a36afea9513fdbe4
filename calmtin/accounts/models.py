"""Who works here, and what their bench is like."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from decimal import Decimal
from typing import Any, ClassVar, cast

from django.contrib.auth.models import AbstractUser, UserManager
from django.db import models
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Owned, within
from calmtin.common.registry import Provider
from calmtin.core.cached import cached_property
from calmtin.core.engine.bands import Prior
from calmtin.core.limits import BUYING_DAYS, COLD_C, HOT_C, MARGIN_PCT, PRICE, ROOM_C, WEIGHT_G
from calmtin.core.notation import Notation, ScaleUnit, System, TemperatureUnit
from calmtin.core.process.grain import GrainLog
from calmtin.core.process.reactions import Suspect
from calmtin.core.process.steps import MELTING_NAMES
from calmtin.core.process.weighing import WEIGHING_NAMES
from calmtin.core.quantities import OUNCE_G


def _nothing_learned(_: User) -> tuple[Prior | None, GrainLog]:
    return None, {}


# What a maker's checks have taught: the prior of their bench, and in how many pours grain was seen.
learned: Provider[Callable[[User], tuple[Prior | None, GrainLog]]] = Provider(_nothing_learned)


def _nothing_suspected(_: User) -> Mapping[str, Suspect]:
    return {}


# What a maker's flare-ups have brought under suspicion, by material.
suspected: Provider[Callable[[User], Mapping[str, Suspect]]] = Provider(_nothing_suspected)


# What the names of porters begin with, who hold the rows of a file on their way in and are no makers (see
# exchange.records.import_holder). No maker's name has a blank in it.
PORTER = "a porter, "


class Makers(UserManager["User"]):
    """Makers, each with their bench: every page that knows who asks needs both."""

    use_in_migrations = False

    def get_queryset(self) -> models.QuerySet[User]:
        """Return makers together with their benches; porters are not among them."""
        return super().get_queryset().exclude(username__startswith=PORTER).select_related("bench")


# What a trigger does when a maker's materials, figures or log changed; the maker's key follows it.
NEW_STATE = "UPDATE accounts_user SET log_state = random() WHERE id = "


class User(AbstractUser):
    """A maker. `is_staff` marks who manages the household: adds makers, gives new passwords."""

    objects: ClassVar[Makers] = Makers()

    # Kept by the database itself (see NEW_STATE): another number after each change of what the
    # maker's log teaches, 0 while there is none.
    log_state = models.BigIntegerField(default=0, db_default=0, editable=False)
    # Set for requests that change nothing: what was read with the maker then holds to their end.
    asks_only = False

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Save, but leave the state of the log to the database."""
        if not self._state.adding and kwargs.get("update_fields") is None:
            names = {field.name for field in self._meta.concrete_fields}
            kwargs["update_fields"] = names - {"id", "log_state"}
        super().save(*args, **kwargs)


def step_in_g(step: str) -> Decimal:
    """Return a choice of `Bench.ScaleStep` in grams."""
    number = Decimal(step.removesuffix("oz"))
    return number * OUNCE_G if step.endswith("oz") else number


class Bench(Owned):
    """A maker's bench: its temperatures, its scale and the units they read."""

    OWNER_PATH = "user"

    class TemperatureUnit(models.TextChoices):
        CELSIUS = "C", gettext_lazy("Celsius")
        FAHRENHEIT = "F", gettext_lazy("Fahrenheit")

    class ScaleStep(models.TextChoices):
        GRAM = "1", gettext_lazy("1 g")
        HALF = "0.5", gettext_lazy("0.5 g")
        TENTH = "0.1", gettext_lazy("0.1 g")
        HUNDREDTH = "0.01", gettext_lazy("0.01 g")
        OUNCE_TENTH = "0.1oz", gettext_lazy("0.1 oz")
        OUNCE_TWENTIETH = "0.05oz", gettext_lazy("0.05 oz")
        OUNCE_HUNDREDTH = "0.01oz", gettext_lazy("0.01 oz")
        OUNCE_THOUSANDTH = "0.001oz", gettext_lazy("0.001 oz")

    class Cups(models.TextChoices):
        US = "us", gettext_lazy("US (237 ml)")
        IMPERIAL = "imperial", gettext_lazy("imperial (284 ml)")
        METRIC = "metric", gettext_lazy("metric (250 ml)")

    class Theme(models.TextChoices):
        LIGHT = "light", gettext_lazy("light")
        DARK = "dark", gettext_lazy("dark")
        AUTO = "auto", gettext_lazy("as on this device")

    user = models.OneToOneField(User, on_delete=models.CASCADE)
    cold_c = models.FloatField(gettext_lazy("cold room"), default=8.0)
    room_c = models.FloatField("room", default=21.0)
    hot_c = models.FloatField(gettext_lazy("hot day"), default=45.0)
    cold_name = models.CharField("called", max_length=20, default="cold room")
    hot_name = models.CharField("called", max_length=20, default="hot car")
    temperature_unit = models.CharField(
        max_length=1, choices=TemperatureUnit, default=TemperatureUnit.CELSIUS
    )
    scale_step = models.CharField(max_length=8, choices=ScaleStep, default=ScaleStep.TENTH)
    decimal_comma = models.BooleanField(
        gettext_lazy("decimals with a comma"),
        null=True,
        default=None,
        help_text="as the browser's language does, if empty",
    )
    cups = models.CharField(gettext_lazy("cups and spoons"), max_length=8, choices=Cups, default=Cups.US)
    letter_keys = models.BooleanField(gettext_lazy("single-letter shortcuts"), default=True)
    label_maker = models.CharField("maker", max_length=60, blank=True)
    label_place = models.CharField("place", max_length=80, blank=True)
    label_address = models.URLField(
        max_length=120, blank=True, help_text="where the codes on labels lead: the bench's own address"
    )
    currency = models.CharField(max_length=4, blank=True)
    hour_costs = models.DecimalField(
        gettext_lazy("an hour of work costs"), max_digits=7, decimal_places=2, null=True, blank=True
    )
    label_costs = models.DecimalField(
        gettext_lazy("a label and its packing cost"), max_digits=7, decimal_places=2, null=True, blank=True
    )
    margin_pct = models.FloatField(gettext_lazy("margin for a stall, %"), default=40.0)
    buying_days = models.PositiveSmallIntegerField(gettext_lazy("days from order to bench"), default=7)
    time_zone = models.CharField(max_length=60, blank=True)
    theme = models.CharField(max_length=5, choices=Theme, default=Theme.LIGHT)
    is_set_up = models.BooleanField(default=False, help_text="its maker was asked about scale and room")
    weighed_into = models.CharField(
        gettext_lazy("weighed"),
        max_length=4,
        blank=True,
        choices=list(WEIGHING_NAMES.items()),
        help_text="as its maker last chose; not asked yet, if empty",
    )
    melting = models.CharField(
        gettext_lazy("melted"),
        max_length=8,
        blank=True,
        choices=list(MELTING_NAMES.items()),
        help_text="as its maker last chose; not asked yet, if empty",
    )
    by_the_book = models.BooleanField(gettext_lazy("use standard figures"), default=False)

    class Meta:
        constraints = [
            *within("bench", COLD_C, "cold_c"),
            *within("bench", ROOM_C, "room_c"),
            *within("bench", HOT_C, "hot_c"),
            *within("bench", PRICE, "hour_costs", "label_costs"),
            *within("bench", MARGIN_PCT, "margin_pct"),
            *within("bench", BUYING_DAYS, "buying_days"),
        ]

    @cached_property
    def _taught(self) -> tuple[Prior | None, GrainLog]:
        return learned()(self.user)

    @property
    def learned_prior(self) -> Prior | None:
        """The prior learned from the maker's own test pours; None without any."""
        return self._taught[0]

    @property
    def grain_log(self) -> GrainLog:
        """In how many of the maker's own pours grain was seen, by how they were cooled."""
        return self._taught[1]

    @property
    def prior(self) -> Prior | None:
        """The prior that predictions use: the learned one, or None for standard figures."""
        return None if self.by_the_book else self.learned_prior

    @cached_property
    def suspects(self) -> Mapping[str, Suspect]:
        """What is suspected of a flare-up, by material."""
        return suspected()(self.user)

    @property
    def scale_step_g(self) -> Decimal:
        """The smallest step that the kitchen scale shows, in grams."""
        return step_in_g(self.scale_step)

    @property
    def scale_unit(self) -> ScaleUnit:
        """What the kitchen scale shows: grams or ounces."""
        return "oz" if self.scale_step.endswith("oz") else "g"

    def notation(self, *, decimal_comma: bool = False) -> Notation:
        """How amounts are written here; the comma is the browser's until the bench says."""
        comma = decimal_comma if self.decimal_comma is None else self.decimal_comma
        unit = cast(TemperatureUnit, self.temperature_unit)
        return Notation(comma, cast(System, self.cups), self.scale_unit, unit)


class FineScale(Owned):
    """A finer scale: its maximum, and the weight it is accurate from."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="fine_scales")
    name = models.CharField(max_length=40)
    step = models.CharField(max_length=8, choices=Bench.ScaleStep, default=Bench.ScaleStep.HUNDREDTH)
    capacity_g = models.DecimalField(max_digits=8, decimal_places=2)
    least_g = models.DecimalField(
        max_digits=8, decimal_places=2, null=True, blank=True, help_text="ten steps, if empty"
    )

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "name"], name="one_scale_per_name"),
            *within("fine_scale", WEIGHT_G, "capacity_g", "least_g"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def step_g(self) -> Decimal:
        """Its step in grams."""
        return step_in_g(self.step)
