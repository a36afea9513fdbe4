"""Pours: the plan, the actual weights, and the results.

Weigh-ins and checks are only ever added; the newest one counts and the earlier
ones stay as they were.
"""

from __future__ import annotations

from decimal import Decimal
from statistics import median
from typing import cast

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Owned, OwnedQuerySet, Record, days_within, within
from calmtin.common.triggers import follow, guard, guard_record
from calmtin.core import limits
from calmtin.core.engine.press import press_yield
from calmtin.core.packing.keeping import STORAGE_NAMES
from calmtin.devices.models import Stove
from calmtin.formulas.models import Version
from calmtin.pantry.models import Lot, OwnContainer, Withdrawal, own_slug


class RealPours(models.Manager.from_queryset(OwnedQuerySet)):  # type: ignore[misc]
    """Pours that were poured: a rehearsal is in no list, no plan and no prediction."""

    def get_queryset(self) -> OwnedQuerySet:
        """Leave rehearsals out."""
        return cast(OwnedQuerySet, super().get_queryset().filter(stove=None))


class Series(Owned):
    """Pours that differ in one thing, made for comparison."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="series")
    varies = models.CharField(max_length=200, help_text="what differs, in words")
    started_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.varies


class Pour(Owned):
    """One pour of one version into containers; with a simulated stove it is a rehearsal."""

    class Weighing(models.TextChoices):
        POT = "pot", gettext_lazy("all into one pot, tared between")
        CUPS = "cups", gettext_lazy("each in its own cup")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="pours")
    version = models.ForeignKey(Version, on_delete=models.PROTECT, related_name="pours")
    number = models.PositiveIntegerField(help_text="counts the formula's pours")
    code = models.CharField(max_length=14, help_text="a short name for labels, once on a bench")
    container = models.SlugField(max_length=60, blank=True, help_text="of the library; else empty")
    own_container = models.ForeignKey(
        OwnContainer, on_delete=models.PROTECT, null=True, blank=True, related_name="pours"
    )
    container_name = models.CharField(max_length=80)
    container_ml = models.FloatField()
    count = models.PositiveIntegerField()
    level = models.FloatField(help_text="fill level, 0 to 1")
    loss = models.FloatField(help_text="share that stays in the pot, 0 to 1")
    batch_g = models.DecimalField(max_digits=9, decimal_places=2)
    scale_step_g = models.DecimalField(max_digits=13, decimal_places=11)
    pour_c = models.FloatField(null=True, help_text="none where nothing in it sets")
    clung_g = models.DecimalField(max_digits=9, decimal_places=2, default=0, help_text="planned to cling")
    test_g = models.DecimalField(max_digits=9, decimal_places=2, default=0)
    driven_off_g = models.DecimalField(
        max_digits=9, decimal_places=2, default=0, help_text="spirit and water that leave before the wax"
    )
    powder_g = models.DecimalField(max_digits=9, decimal_places=2, default=0, help_text="lost as dust")
    started_at = models.DateTimeField(default=timezone.now)
    poured_at = models.DateTimeField(null=True, blank=True)
    called_off_at = models.DateTimeField(null=True, blank=True)
    called_off_why = models.CharField(max_length=200, blank=True)
    weighed_into = models.CharField(max_length=4, choices=Weighing, default=Weighing.POT)
    storage = models.CharField(
        max_length=8, default="room", choices=list(STORAGE_NAMES.items()), help_text="where it is kept"
    )
    use_by = models.DateField(
        null=True, blank=True, help_text="when the first of what is in it is past its life"
    )
    hours = models.FloatField(null=True, blank=True, help_text="of work in it, for its price")
    series = models.ForeignKey(
        Series, on_delete=models.PROTECT, null=True, blank=True, related_name="pours"
    )
    stove = models.OneToOneField(
        Stove,
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="pour",
        help_text="of a rehearsal",
    )

    objects = RealPours()  # type: ignore[misc]  # narrower than its parent's

    class Meta:
        ordering = ["-started_at", "-pk"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "code"], name="one_pour_per_code"),
            *within("pour", limits.CONTAINERS, "count"),
            *within("pour", (0.0, 1.0), "level", "loss"),
            *within("pour", limits.BATCH_OF_POUR_G, "batch_g"),
            *within("pour", limits.BRIM_ML, "container_ml"),
            *within("pour", limits.HOURS, "hours"),
        ]

    def __str__(self) -> str:
        return self.code

    @property
    def container_slug(self) -> str:
        """The name of its container among those of the core."""
        return own_slug(self.own_container_id) if self.own_container_id else self.container

    @property
    def is_weighing(self) -> bool:
        """Whether it is still on the scale."""
        return self.poured_at is None and self.called_off_at is None

    @property
    def is_rehearsal(self) -> bool:
        """Whether it is on the simulated stove: it uses no stock and is not learned from."""
        return self.stove_id is not None

    @property
    def into(self) -> str:
        """The containers it was planned for, in words; old pours name only one."""
        told = [str(filling) for filling in self.fillings.all()]
        return ", ".join(told) or f"{self.count} × {self.container_name}"


class Closing(Owned):
    """What a pour says once it is closed, whatever is corrected or renamed afterwards.

    `materials` holds what the shelf said of all that is in it (`pantry.adapters.facts_of`); `planned`
    and `made` the firmness by the plan and by the weights; `cautions` what had to be said, with the
    maker's reason to go on. `containers` are those of its fillings, by position.
    """

    OWNER_PATH = "pour__owner"

    pour = models.OneToOneField(Pour, on_delete=models.PROTECT, related_name="closing")
    formula_name = models.CharField(max_length=80)
    kind = models.CharField(max_length=20)
    audience = models.CharField(max_length=30)
    sees_sun = models.BooleanField()
    currency = models.CharField(max_length=4, blank=True)
    materials = models.JSONField()
    planned = models.JSONField()
    made = models.JSONField()
    cautions = models.JSONField(default=list)
    containers = models.JSONField(default=list)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour} as it was closed"


class ClosingLot(Owned):
    """A lot that a closed pour took from, as it was then: what a gram cost, and its days."""

    OWNER_PATH = "closing__pour__owner"

    closing = models.ForeignKey(Closing, on_delete=models.CASCADE, related_name="lots")
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    amount_g = models.DecimalField(max_digits=10, decimal_places=2)
    bought_on = models.DateField()
    best_before = models.DateField(null=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["closing", "lot"], name="one_closing_lot_per_lot"),
            *within("closing_lot", limits.LOT_G, "amount_g"),
            *within("closing_lot", limits.PRICE, "price"),
            *days_within("closing_lot", "bought_on", "best_before"),
        ]

    def __str__(self) -> str:
        return f"{self.lot} in {self.closing}"


class Leftover(Record):
    """Leftovers of a pot, kept as a lot."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.PROTECT, related_name="leftovers")
    lot = models.OneToOneField(Lot, on_delete=models.PROTECT)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"left over from {self.pour}"


class PourFilling(Owned):
    """Containers of one kind that a pour was planned for; `finish` is what their share is finished with."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="fillings")
    position = models.PositiveSmallIntegerField()
    container = models.SlugField(max_length=60, blank=True, help_text="of the library; else empty")
    own_container = models.ForeignKey(
        OwnContainer, on_delete=models.PROTECT, null=True, blank=True, related_name="fillings"
    )
    container_name = models.CharField(max_length=80)
    container_ml = models.FloatField()
    count = models.PositiveIntegerField()
    each_ml = models.FloatField()
    each_g = models.DecimalField(max_digits=9, decimal_places=2)
    finish = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["pour", "position"], name="one_filling_per_position"),
            *within("pour_filling", limits.CONTAINERS, "count"),
        ]

    def __str__(self) -> str:
        return f"{self.count} × {self.container_name}"

    @property
    def container_slug(self) -> str:
        """The name of its container among those of the core."""
        return own_slug(self.own_container_id) if self.own_container_id else self.container


class PourFinishPart(Owned):
    """An addition to a finish's share of the pot, g."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="finish_parts")
    finish = models.CharField(max_length=40)
    material = models.SlugField(max_length=60)
    percent = models.DecimalField(max_digits=6, decimal_places=3, help_text="of the base beneath it")
    planned_g = models.DecimalField(max_digits=9, decimal_places=2)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.finish}: {self.material} {self.planned_g} g"


class FinishWeighIn(Record):
    """What the scale said for a part of a finish; no grams means it was taken back."""

    OWNER_PATH = "part__pour__owner"

    part = models.ForeignKey(PourFinishPart, on_delete=models.CASCADE, related_name="weigh_ins")
    grams = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    withdrawal = models.OneToOneField(
        Withdrawal, on_delete=models.PROTECT, null=True, blank=True, help_text="what it took from the shelf"
    )
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [*within("finish_weigh_in", limits.WEIGHT_G, "grams")]

    def __str__(self) -> str:
        return f"{self.part}: {self.grams}"


class Replan(Record):
    """A sheet scaled up after an over-pour: what each line comes to from then on; the newest counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="replans")
    factor = models.DecimalField(max_digits=9, decimal_places=5)
    targets = models.JSONField(help_text="grams by the position of a line")
    why = models.CharField(max_length=200)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour} × {self.factor}"


class PotAddition(Record):
    """An addition to a pot after its sheet was closed: by feel, or after melting it again."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="additions")
    material = models.SlugField(max_length=60)
    grams = models.DecimalField(max_digits=9, decimal_places=2)
    why = models.CharField(max_length=200)
    by_feel = models.BooleanField(default=False, help_text="`why` then says it as it was typed")
    withdrawal = models.OneToOneField(
        Withdrawal, on_delete=models.PROTECT, null=True, blank=True, help_text="what it took from the shelf"
    )
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [*within("pot_addition", limits.WEIGHT_G, "grams")]

    def __str__(self) -> str:
        return f"{self.pour}: {self.grams} g of {self.material}"


class Route(Owned):
    """How a maker makes a kind: the steps of its run sheet in their order, renamed, added and left out."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="routes")
    kind = models.SlugField(max_length=40)
    way = models.SlugField(max_length=20, help_text="pour, whip or cold_whip")
    steps = models.JSONField(default=list, help_text="key, title and whether it is left out")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["owner", "kind", "way"], name="one_route_per_kind_and_way")
        ]

    def __str__(self) -> str:
        return f"{self.kind}, {self.way}"


class StepDone(Record):
    """A step of a pour's run sheet that was done, or taken back; the newest of a step counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="steps_done")
    key = models.CharField(max_length=20)
    is_done = models.BooleanField(default=True)
    note = models.CharField(max_length=200, blank=True)
    title = models.CharField(max_length=120, blank=True, help_text="as the sheet called it then")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour}, {self.key}"


class StepTimer(Record):
    """A clock that was started on a step, or was stopped; the newest of a step counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="timers")
    key = models.CharField(max_length=20)
    rings_at = models.DateTimeField(null=True, help_text="none where it was stopped")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour}, {self.key}: {self.rings_at}"


class PotReading(Record):
    """What the thermometer said: in the pot, or of the room that the pot cools in."""

    class Place(models.TextChoices):
        POT = "pot", gettext_lazy("in the pot")
        ROOM = "room", gettext_lazy("in the room")

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="readings")
    place = models.CharField(max_length=4, choices=Place, default=Place.POT)
    temp_c = models.FloatField()
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [*within("pot_reading", limits.CHECK_C, "temp_c")]

    def __str__(self) -> str:
        return f"{self.pour}: {self.temp_c} C"


class Yield(Record):
    """What a pour really gave: grams that were filled and grams that were left; the newest counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="yields")
    filled_g = models.DecimalField(max_digits=9, decimal_places=2)
    left_g = models.DecimalField(max_digits=9, decimal_places=2)
    pieces = models.JSONField(
        default=list, help_text="what single ones weighed: position of the filling and grams"
    )
    counts = models.JSONField(default=list, help_text="how many were filled: position and count")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [*within("yield", limits.WEIGHT_G, "filled_g", "left_g")]

    def __str__(self) -> str:
        return f"{self.pour}: {self.filled_g} g filled, {self.left_g} g left"


class WeighLine(Owned):
    """A line of the weigh sheet: what to weigh, already in steps of the scale."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="lines")
    position = models.PositiveSmallIntegerField()
    key = models.CharField(max_length=12)
    material = models.SlugField(max_length=60)
    percent = models.DecimalField(max_digits=6, decimal_places=3)
    planned_g = models.DecimalField(max_digits=9, decimal_places=2)
    lot = models.ForeignKey(
        Lot, on_delete=models.PROTECT, null=True, blank=True, help_text="the lot chosen to be used first"
    )

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["pour", "position"], name="one_weigh_line_per_position"),
            *within("weigh_line", limits.PERCENT, "percent"),
            *within("weigh_line", limits.WEIGHT_G, "planned_g"),
        ]

    def __str__(self) -> str:
        return f"{self.material} {self.planned_g} g"


class WeighIn(Record):
    """One reading of the scale for a line; no grams means the last one was taken back.

    One with a reason corrects the sheet after it was closed; the reading before it stays.
    """

    OWNER_PATH = "line__pour__owner"

    line = models.ForeignKey(WeighLine, on_delete=models.CASCADE, related_name="weigh_ins")
    grams = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    reason = models.CharField(max_length=200, blank=True, help_text="why a closed sheet was corrected")
    lot = models.ForeignKey(
        Lot,
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        help_text="chosen at the scale, before the sheet's",
    )
    withdrawal = models.OneToOneField(
        Withdrawal, on_delete=models.PROTECT, null=True, blank=True, help_text="what it took from the shelf"
    )
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            *within("weigh_in", limits.WEIGHT_G, "grams"),
        ]

    def __str__(self) -> str:
        return f"{self.line}: {self.grams}"


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


guard_record("pours_yield")
guard_record("pours_replan")
guard_record("pours_stepdone")
guard_record("pours_steptimer")
guard_record("pours_potreading")
guard_record("pours_potaddition")
guard_record("pours_weighin")
guard_record("pours_leftover")
guard_record("pours_finishweighin")
guard_record("pours_check")
guard_record("pours_checkleftout")
guard_record("pours_checkphoto")
guard_record("pours_kept")
# What the bench has taught is worked out again once any of these changed.
_OWNERS = {
    "pours_check": "(SELECT owner_id FROM pours_pour WHERE id = NEW.pour_id)",
    "pours_potaddition": "(SELECT owner_id FROM pours_pour WHERE id = NEW.pour_id)",
    "pours_weighin": "(SELECT p.owner_id FROM pours_pour p JOIN pours_weighline l ON l.pour_id = p.id"
    " WHERE l.id = NEW.line_id)",
    "pours_checkleftout": "(SELECT p.owner_id FROM pours_pour p JOIN pours_check c ON c.pour_id = p.id"
    " WHERE c.id = NEW.of_id)",
}
_NEW_STATE = "UPDATE accounts_user SET log_state = random() WHERE id = "
for _table, _owner in _OWNERS.items():
    follow(f"{_table}_state", "INSERT", _table, _NEW_STATE + _owner)
follow(
    "pour_state", "UPDATE OF poured_at, called_off_at, owner_id", "pours_pour", _NEW_STATE + "NEW.owner_id"
)
for _table in ("pantry_override", "pantry_ownmaterial", "pantry_ownblend"):
    for _event in ("INSERT", "UPDATE"):
        follow(f"{_table}_{_event.lower()}_state", _event, _table, _NEW_STATE + "NEW.owner_id")
    follow(f"{_table}_delete_state", "DELETE", _table, _NEW_STATE + "OLD.owner_id")

guard("weighline_update", "UPDATE", "pours_weighline", "a weigh sheet never changes")
guard("weighline_delete", "DELETE", "pours_weighline", "a weigh sheet never changes")
guard("pour_delete", "DELETE", "pours_pour", "a pour is never removed")
guard("closing_delete", "DELETE", "pours_closing", "what a closed pour says stays")
guard(
    "pour_update",
    "UPDATE OF poured_at, called_off_at, version_id, owner_id, code, batch_g",
    "pours_pour",
    "a pour that was closed stays so",
    when="(OLD.poured_at IS NOT NULL AND NEW.poured_at IS NULL)"
    " OR (OLD.called_off_at IS NOT NULL AND NEW.called_off_at IS NULL) OR NEW.version_id <> OLD.version_id"
    " OR NEW.owner_id <> OLD.owner_id OR NEW.code <> OLD.code OR NEW.batch_g <> OLD.batch_g",
)
guard(
    "version_unpour",
    "UPDATE OF poured_at",
    "formulas_version",
    "a poured version never changes",
    when="OLD.poured_at IS NOT NULL AND NEW.poured_at IS NULL AND EXISTS"
    " (SELECT 1 FROM pours_pour p WHERE p.version_id = OLD.id AND p.called_off_at IS NULL)",
)
guard(
    "weighin_insert",
    "INSERT",
    "pours_weighin",
    "this pour is closed",
    when="EXISTS (SELECT 1 FROM pours_weighline l JOIN pours_pour p ON p.id = l.pour_id"
    " WHERE l.id = NEW.line_id AND (p.called_off_at IS NOT NULL OR (p.poured_at IS NOT NULL"
    " AND (NEW.reason = '' OR NEW.grams IS NULL))))",
)
