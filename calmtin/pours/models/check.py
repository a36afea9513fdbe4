"""Checks of a pour: firmness, signs and verdict."""

from __future__ import annotations

from decimal import Decimal
from statistics import median

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Record, within
from calmtin.core import limits
from calmtin.core.engine.press import press_yield
from calmtin.core.process.complaints import Complaint, Feels, complaint_words
from calmtin.core.process.moments import Moment
from calmtin.pours.models.pour import Pour


class Check(Record):
    """A check: felt or pressed firmness at a temperature, signs, a verdict.

    `look` names the look of `core.process.checks` that it answers; `signs` hold the place of the
    word that was picked for each sign.
    """

    class Verdict(models.TextChoices):
        KEEP = "keep", gettext_lazy("Keep")
        TWEAK = "tweak", gettext_lazy("Tweak")
        DROP = "drop", gettext_lazy("Drop")

    class SetTest(models.TextChoices):
        LID = "lid", gettext_lazy("on a cold lid")
        SPOON = "spoon", gettext_lazy("on a cold spoon")
        LIP = "lip", gettext_lazy("on the lip")

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="checks")
    made_at = models.DateTimeField(default=timezone.now)
    temp_c = models.FloatField()
    is_temp_guessed = models.BooleanField(
        default=False, help_text="nobody measured it: the fridge's, that of the skin, or a warm tin's"
    )
    moment = models.CharField(
        max_length=6,
        choices=[(moment.value, moment.words) for moment in Moment],
        blank=True,
        help_text="what it was like when it was felt",
    )
    felt_rung = models.DecimalField(
        max_digits=3,
        decimal_places=1,
        null=True,
        validators=[MinValueValidator(Decimal(0)), MaxValueValidator(Decimal(10))],
    )
    overrun_pct = models.PositiveSmallIntegerField(
        null=True, help_text="gain in volume by whipping, as it was measured, %"
    )
    verdict = models.CharField(max_length=5, choices=Verdict, blank=True)
    feels = models.CharField(
        max_length=8,
        choices=[(feels.value, feels.words) for feels in Feels],
        blank=True,
        help_text="how firm it is for what it is for",
    )
    complaints = models.JSONField(default=list, blank=True, help_text="what bothers")
    set_test = models.CharField(
        max_length=5, choices=SetTest, blank=True, help_text="where a drop was tried before it was poured"
    )
    notes = models.TextField(blank=True)
    look = models.SlugField(max_length=12, blank=True)
    press_g = models.JSONField(
        default=list, blank=True, help_text="the highest readings of a press test, g"
    )
    rod_mm = models.FloatField(null=True, blank=True)
    signs = models.JSONField(default=dict, blank=True)
    who = models.CharField(max_length=40, blank=True, help_text="who tried it; the maker, if empty")

    class Meta:
        ordering = ["pk"]
        constraints = [
            *within("check", limits.CHECK_C, "temp_c"),
            *within("check", limits.RUNG, "felt_rung"),
            *within("check", limits.OVERRUN_PCT, "overrun_pct"),
            *within("check", limits.ROD_MM, "rod_mm"),
        ]

    def __str__(self) -> str:
        return f"{self.pour} at {self.temp_c} C"

    @property
    def why_left_out(self) -> str:
        """Why it is excluded from the calibration; empty if it counts."""
        newest = max(self.left_out.all(), key=lambda entry: entry.pk, default=None)
        return newest.reason if newest else ""

    @property
    def is_unset(self) -> bool:
        """Whether it was felt before it had set: a drop on a lid, a warm tin, butter from the whisk."""
        return bool(self.set_test) or Moment(self.moment).is_unset

    @property
    def moment_words(self) -> str:
        """What it was like when it was felt; nothing where it had set."""
        return Moment(self.moment).words if self.moment else ""

    @property
    def bothers(self) -> list[str]:
        """Its complaints in words."""
        return complaint_words(self.complaints)

    @property
    def irritated(self) -> bool:
        """Whether it tells of a flare-up, as a sign or as a complaint."""
        return bool(self.signs.get("flare_up")) or Complaint.IRRITATES in self.complaints

    @property
    def pressed(self) -> float | None:
        """The yield value of its press test, g/cm2: the middle one of its readings; None without one."""
        if not self.press_g or self.rod_mm is None:
            return None
        return press_yield(median(float(grams) for grams in self.press_g), self.rod_mm)


class CheckPhoto(Record):
    """A photo of a check, re-encoded without its metadata."""

    OWNER_PATH = "of__pour__owner"

    of = models.ForeignKey(Check, on_delete=models.CASCADE, related_name="photos")
    image = models.ImageField(upload_to="checks/%Y/%m", width_field="width", height_field="height")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.of}, picture"


class Kept(Record):
    """That a formula is kept as a pour made it, and why; or no longer. The newest of a formula counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="kept")
    is_kept = models.BooleanField(default=True)
    why = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour}: {'kept' if self.is_kept else 'no longer kept'}"


class CheckLeftOut(Record):
    """A check excluded from the calibration, or included again; the newest entry counts."""

    OWNER_PATH = "of__pour__owner"

    of = models.ForeignKey(Check, on_delete=models.CASCADE, related_name="left_out")
    reason = models.CharField(max_length=200, blank=True, help_text="empty: it counts again")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.of}: {self.reason or 'counts'}"
