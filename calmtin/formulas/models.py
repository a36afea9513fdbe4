"""Formulas, their versions and their lines. A poured version never changes."""

from __future__ import annotations

import uuid
from decimal import Decimal
from typing import Any

from django.conf import settings
from django.core.exceptions import PermissionDenied
from django.db import models
from django.db.models import QuerySet
from django.utils.translation import gettext, gettext_lazy

from calmtin.common.owned import Owned, OwnedQuerySet, Record, within
from calmtin.common.triggers import guard, guard_record
from calmtin.core.audiences import AUDIENCE_WORDS
from calmtin.core.data.loader import kinds
from calmtin.core.kinds import Kind
from calmtin.core.limits import BATCH_G, ON_TOP_PCT, OVERRUN_PCT, PERCENT, ROOM_C
from calmtin.core.measured import Measured
from calmtin.core.process.grain import COOLING_NAMES, COOLINGS

POURED = gettext_lazy("A poured version never changes.")


def kind_choices() -> list[tuple[str, str]]:
    """Return the product kinds for a choice field."""
    return [(kind.slug, kind.name) for kind in kinds().values()]


def cooling_choices() -> list[tuple[str, str]]:
    """Return the ways of cooling for a choice field."""
    return [(cooling, COOLING_NAMES[cooling]) for cooling in COOLINGS]


def new_key() -> str:
    """Return a short key that follows a line through the versions."""
    return uuid.uuid4().hex[:12]


class Audience(models.TextChoices):
    """For whom a formula is; the keys are those of the scent ceilings."""

    ADULT_BODY_LEAVE_ON = "adult_body_leave_on", gettext_lazy(AUDIENCE_WORDS["adult_body_leave_on"])
    ADULT_FACE = "adult_face", gettext_lazy(AUDIENCE_WORDS["adult_face"])
    ADULT_LIPS = "adult_lips", gettext_lazy(AUDIENCE_WORDS["adult_lips"])
    SHORT_TERM = "short_term_local_use", gettext_lazy(AUDIENCE_WORDS["short_term_local_use"])
    SENSITIVE = "elderly_or_sensitive", gettext_lazy(AUDIENCE_WORDS["elderly_or_sensitive"])
    PREGNANCY = "pregnancy", gettext_lazy(AUDIENCE_WORDS["pregnancy"])
    CHILD_6 = "child_6_to_15_years", gettext_lazy(AUDIENCE_WORDS["child_6_to_15_years"])
    CHILD_2 = "child_2_to_6_years", gettext_lazy(AUDIENCE_WORDS["child_2_to_6_years"])
    CHILD_3_MONTHS = "child_3_to_24_months", gettext_lazy(AUDIENCE_WORDS["child_3_to_24_months"])
    INFANT = "infant_under_3_months", gettext_lazy(AUDIENCE_WORDS["infant_under_3_months"])


class Season(models.TextChoices):
    """The half of the year that one of a pair is for."""

    SUMMER = "summer", gettext_lazy("summer")
    WINTER = "winter", gettext_lazy("winter")

    @property
    def other(self) -> Season:
        """The other half."""
        return Season.WINTER if self is Season.SUMMER else Season.SUMMER


class SeasonPair(Owned):
    """A summer and a winter version of the same thing; a room's temperature says which is in season."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    summer_from_c = models.FloatField(help_text="of the room")

    class Meta:
        ordering = ["pk"]
        constraints = [*within("season_pair", ROOM_C, "summer_from_c")]

    def __str__(self) -> str:
        return f"summer from {self.summer_from_c} C"

    def in_season(self, room_c: float) -> Season:
        """Return the season that a room of `room_c`, C, is in."""
        return Season.SUMMER if room_c >= self.summer_from_c else Season.WINTER


class Formula(Owned):
    """What a maker is working towards; its versions hold the percentages."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="formulas")
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=20, choices=kind_choices)
    audience = models.CharField(
        gettext_lazy("for whom"), max_length=30, choices=Audience, default=Audience.ADULT_BODY_LEAVE_ON
    )
    sees_sun = models.BooleanField(gettext_lazy("used on skin exposed to sun"), default=True)
    notes = models.TextField(blank=True, max_length=2000)
    came_from = models.ForeignKey(
        "Version", on_delete=models.SET_NULL, null=True, blank=True, related_name="branches"
    )
    created_at = models.DateTimeField(auto_now_add=True)
    touched_at = models.DateTimeField(auto_now=True)
    revision = models.PositiveIntegerField(default=0, help_text="counts the edits of name, kind and notes")
    put_away_at = models.DateTimeField(null=True, blank=True, help_text="out of the lists since then")
    code = models.CharField(
        max_length=8, blank=True, help_text="what its pours are called by, once there is one"
    )

    pair = models.ForeignKey(
        SeasonPair, on_delete=models.SET_NULL, null=True, blank=True, related_name="formulas"
    )
    season = models.CharField(max_length=6, choices=Season, blank=True, help_text="of one of a pair")

    class Meta:
        ordering = ["-touched_at", "-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["pair", "season"], condition=~models.Q(season=""), name="one_formula_per_season"
            ),
            models.UniqueConstraint(
                fields=["owner", "code"], condition=~models.Q(code=""), name="one_formula_per_code"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def name_in_season(self) -> str:
        """Its name, with the season it is for where it is one of a pair."""
        return f"{self.name}, {self.get_season_display()}" if self.season else self.name

    @property
    def kind_facts(self) -> Kind:
        """The kind's usual ranges and target."""
        return kinds()[self.kind]


class VersionQuerySet(OwnedQuerySet):
    """Versions; poured ones stay poured in bulk updates too."""

    def update(self, **values: Any) -> int:
        """Change versions, but never take back that one was poured."""
        if "poured_at" in values and values["poured_at"] is None:
            raise PermissionDenied(POURED)
        return super().update(**values)


class Version(Owned):
    """One set of percentages. `revision` counts its edits, so two tabs cannot collide."""

    OWNER_PATH = "formula__owner"

    formula = models.ForeignKey(Formula, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    parent = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, blank=True)
    batch_g = models.DecimalField(max_digits=9, decimal_places=2, default=Decimal("100"))
    overrun_pct = models.PositiveSmallIntegerField(gettext_lazy("gain in volume by whipping, %"), default=0)
    cooling = models.CharField(max_length=20, choices=cooling_choices, default=COOLINGS[0])
    revision = models.PositiveIntegerField(default=0)
    step = models.PositiveIntegerField(default=0, help_text="the step that it shows now")
    started_at = models.DateTimeField(auto_now_add=True)
    poured_at = models.DateTimeField(null=True, blank=True, help_text="when it was closed for a pour")
    first_poured_at = models.DateTimeField(
        null=True, blank=True, help_text="when a pour of it was first done"
    )

    objects = VersionQuerySet.as_manager()  # type: ignore[misc]

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["formula", "number"], name="one_version_per_number"),
            *within("version", BATCH_G, "batch_g"),
            *within("version", OVERRUN_PCT, "overrun_pct"),
        ]

    def __str__(self) -> str:
        return f"{self.formula} v{self.number}"

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Save, unless that would take back that it was poured."""
        if self.poured_at is None and self.pk and was_poured(self.pk):
            raise PermissionDenied(POURED)
        super().save(*args, **kwargs)

    @property
    def overrun(self) -> float:
        """The gain in volume by whipping as a share: 1.0 doubles it."""
        return self.overrun_pct / 100.0

    @property
    def is_poured(self) -> bool:
        """Whether it is frozen because something is or was poured from it."""
        return self.poured_at is not None

    @property
    def state(self) -> str:
        """The state in words; only a version that was poured is called "poured"."""
        if self.first_poured_at is not None:
            return "poured"
        return gettext("being weighed") if self.is_poured else gettext("not poured yet")


def was_poured(version_pk: int | None) -> bool:
    """Return whether the version with this key is frozen in the database."""
    return QuerySet(Version).filter(pk=version_pk, poured_at__isnull=False).exists()


class LineQuerySet(OwnedQuerySet):
    """Lines; the bulk ways of changing them stop at poured versions too."""

    def _refuse_poured(self) -> None:
        if self.filter(version__poured_at__isnull=False).exists():
            raise PermissionDenied(POURED)

    def bulk_create(self, objs: Any, *args: Any, **kwargs: Any) -> list[Line]:
        """Add lines to drafts only."""
        lines = list(objs)
        if any(was_poured(pk) for pk in {line.version_id for line in lines}):
            raise PermissionDenied(POURED)
        return super().bulk_create(lines, *args, **kwargs)

    def update(self, **values: Any) -> int:
        """Change lines of drafts only."""
        self._refuse_poured()
        return super().update(**values)

    def delete(self) -> tuple[int, dict[str, int]]:
        """Delete lines of drafts only."""
        self._refuse_poured()
        return super().delete()


class Line(Owned):
    """A material and its percentage of the total. One line of a version balances it."""

    OWNER_PATH = "version__formula__owner"

    version = models.ForeignKey(Version, on_delete=models.CASCADE, related_name="lines")
    key = models.CharField(max_length=12, default=new_key)
    position = models.PositiveSmallIntegerField()
    material = models.SlugField(max_length=60)
    percent = models.DecimalField(max_digits=6, decimal_places=3)
    is_balancing = models.BooleanField(default=False)
    is_locked = models.BooleanField(default=False)
    on_top_pct = models.DecimalField(
        max_digits=6, decimal_places=3, null=True, blank=True, help_text="% of the base, if it goes on top"
    )
    typed = models.CharField(max_length=200, blank=True, help_text="the measure as it was written")
    typed_g = models.DecimalField(
        max_digits=9, decimal_places=3, null=True, blank=True, help_text="what the measure weighed then, g"
    )
    low_g = models.DecimalField(
        max_digits=9, decimal_places=3, null=True, blank=True, help_text="the least that the measure may be"
    )
    high_g = models.DecimalField(
        max_digits=9, decimal_places=3, null=True, blank=True, help_text="the most that the measure may be"
    )
    alcohol_pct = models.FloatField(null=True, blank=True, help_text="a tincture's strength by volume")
    alcohol_typed = models.CharField(max_length=20, blank=True, help_text="the strength as it was written")

    objects = LineQuerySet.as_manager()  # type: ignore[misc]

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["version", "key"], name="one_line_per_key"),
            models.UniqueConstraint(
                fields=["version"],
                condition=models.Q(is_balancing=True),
                name="one_balancing_line",
            ),
            *within("line", PERCENT, "percent", "alcohol_pct"),
            *within("line", ON_TOP_PCT, "on_top_pct"),
            models.CheckConstraint(
                condition=models.Q(is_balancing=False) | models.Q(on_top_pct=None),
                name="what_is_on_top_balances_nothing",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.material} {self.percent}"

    @property
    def is_on_top(self) -> bool:
        """Whether it is dosed by the base and goes on top of it."""
        return self.on_top_pct is not None

    @property
    def grams(self) -> Decimal:
        """Its weight in its version's batch, g, not rounded to a scale."""
        return self.version.batch_g * self.percent / 100

    @property
    def measured(self) -> Measured | None:
        """How its amount was measured, if it was; its present weight may differ."""
        if self.typed_g is None:
            # Written down before the grams were kept beside the words: they are believed.
            grams = self.grams
            return Measured(self.typed, grams, grams, grams) if self.typed else None
        low = self.typed_g if self.low_g is None else self.low_g
        return Measured(self.typed, self.typed_g, low, self.typed_g if self.high_g is None else self.high_g)

    @measured.setter
    def measured(self, measured: Measured | None) -> None:
        self.typed = measured.words[:200] if measured else ""
        self.typed_g = measured.grams if measured else None
        self.low_g = measured.low if measured else None
        self.high_g = measured.high if measured else None

    @property
    def measured_in_batch(self) -> Measured | None:
        """How its amount was measured, if the measure still matches its weight in the batch."""
        measured = self.measured
        return measured if measured and measured.says(self.grams) else None

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Save, unless the version has been poured."""
        self._refuse_poured()
        super().save(*args, **kwargs)

    def delete(self, *args: Any, **kwargs: Any) -> tuple[int, dict[str, int]]:
        """Delete, unless the version has been poured."""
        self._refuse_poured()
        return super().delete(*args, **kwargs)

    def _refuse_poured(self) -> None:
        if was_poured(self.version_id):
            raise PermissionDenied(POURED)


class Step(Owned):
    """A draft as it stood after an edit, so that the edit can be undone and done again.

    `came_from` is the step that was shown before it: what was undone and then left
    for something else is still there. The oldest are folded together.
    """

    OWNER_PATH = "version__formula__owner"

    version = models.ForeignKey(Version, on_delete=models.CASCADE, related_name="steps")
    number = models.PositiveIntegerField()
    came_from = models.PositiveIntegerField(null=True)
    state = models.JSONField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["version", "number"], name="one_step_per_number")]

    def __str__(self) -> str:
        return f"{self.version}, step {self.number}"


class Finish(Owned):
    """What one pot of base is finished with: clear, tinted, scented."""

    OWNER_PATH = "formula__owner"

    formula = models.ForeignKey(Formula, on_delete=models.CASCADE, related_name="finishes")
    name = models.CharField(max_length=40)
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["formula", "name"],
                condition=models.Q(removed_at=None),
                name="one_finish_per_name",
            ),
        ]

    def __str__(self) -> str:
        return self.name


class FinishPart(Owned):
    """A material of a finish, in percent of the base that it goes on top of."""

    OWNER_PATH = "finish__formula__owner"

    finish = models.ForeignKey(Finish, on_delete=models.CASCADE, related_name="parts")
    material = models.SlugField(max_length=60)
    percent = models.DecimalField(max_digits=6, decimal_places=3)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["finish", "material"], name="one_part_per_material"),
            models.CheckConstraint(
                condition=models.Q(percent__gt=0) & models.Q(percent__lte=30), name="finish_part_0_to_30"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.material} {self.percent}"


class Acknowledgement(Record):
    """A caution that the maker has seen, with their reason; it stays with the formula."""

    OWNER_PATH = "formula__owner"

    formula = models.ForeignKey(Formula, on_delete=models.CASCADE, related_name="acknowledgements")
    key = models.CharField(max_length=20)
    material = models.SlugField(max_length=60, blank=True)
    level = models.CharField(max_length=5, default="stop", help_text="how strong it was then")
    reason = models.CharField(max_length=200)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.key} {self.material}: {self.reason}"


guard_record("formulas_acknowledgement")
_OF_POURED = (
    "EXISTS (SELECT 1 FROM formulas_version v WHERE v.id = {}.version_id AND v.poured_at IS NOT NULL)"
)
guard(
    "line_insert",
    "INSERT",
    "formulas_line",
    "a poured version never changes",
    when=_OF_POURED.format("NEW"),
)
guard(
    "line_update",
    "UPDATE",
    "formulas_line",
    "a poured version never changes",
    when=_OF_POURED.format("OLD"),
)
guard(
    "line_delete",
    "DELETE",
    "formulas_line",
    "a poured version never changes",
    when=_OF_POURED.format("OLD"),
)
guard(
    "version_update",
    "UPDATE OF batch_g, overrun_pct, cooling, number, formula_id",
    "formulas_version",
    "a poured version never changes",
    when="OLD.poured_at IS NOT NULL AND (NEW.batch_g <> OLD.batch_g"
    " OR NEW.overrun_pct <> OLD.overrun_pct OR NEW.cooling <> OLD.cooling OR NEW.number <> OLD.number"
    " OR NEW.formula_id <> OLD.formula_id)",
)
guard(
    "version_delete",
    "DELETE",
    "formulas_version",
    "a poured version never changes",
    when="OLD.poured_at IS NOT NULL",
)
