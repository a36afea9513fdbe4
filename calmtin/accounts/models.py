"""Who works here, and what their bench is like."""

from decimal import Decimal

from django.contrib.auth.models import AbstractUser
from django.db import models

from calmtin.common.owned import Owned, within
from calmtin.core.limits import COLD_C, HOT_C, ROOM_C


class User(AbstractUser):
    """A maker. `is_staff` marks who keeps the household: adds makers, gives new passwords."""


class Bench(Owned):
    """A maker's bench: its temperatures, its scale and the units they read."""

    OWNER_PATH = "user"

    class TemperatureUnit(models.TextChoices):
        CELSIUS = "C", "Celsius"
        FAHRENHEIT = "F", "Fahrenheit"

    class ScaleStep(models.TextChoices):
        GRAM = "1", "1 g"
        HALF = "0.5", "0.5 g"
        TENTH = "0.1", "0.1 g"
        HUNDREDTH = "0.01", "0.01 g"

    user = models.OneToOneField(User, on_delete=models.CASCADE)
    cold_c = models.FloatField("cold room", default=8.0)
    room_c = models.FloatField("room", default=21.0)
    hot_c = models.FloatField("hot day", default=45.0)
    cold_name = models.CharField("called", max_length=20, default="cold room")
    hot_name = models.CharField("called", max_length=20, default="hot car")
    temperature_unit = models.CharField(
        max_length=1, choices=TemperatureUnit, default=TemperatureUnit.CELSIUS
    )
    scale_step = models.CharField(max_length=4, choices=ScaleStep, default=ScaleStep.TENTH)
    letter_keys = models.BooleanField("keys of one letter", default=True)

    class Meta:
        constraints = [
            *within("bench", COLD_C, "cold_c"),
            *within("bench", ROOM_C, "room_c"),
            *within("bench", HOT_C, "hot_c"),
        ]

    @property
    def scale_step_g(self) -> Decimal:
        """The smallest step that the scale shows, in grams."""
        return Decimal(self.scale_step)
