"""What a maker has: own materials, lots and their ledger, containers, infusions."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.conf import settings
from django.db import models
from django.utils.translation import gettext_lazy

from calmtin.accounts.models import NEW_STATE
from calmtin.common.numbers import SumGrams
from calmtin.common.owned import Deletable, Owned, Record, days_within, within
from calmtin.common.triggers import follow, guard, guard_record
from calmtin.core import limits
from calmtin.core.materials import FORM_NAMES, GROUPS

GROUP_CHOICES = [(group, group.replace("_", " ")) for group in GROUPS]


def own_slug(key: int) -> str:
    """Return what an own container or sheet is called among those that come along."""
    return f"my_{key}"


def own_key(slug: str) -> int | None:
    """Return the key of an own container or sheet that is called so; None for what comes along.

    >>> own_key(own_slug(12)), own_key("tin_2oz")
    (12, None)
    """
    number = slug.removeprefix("my_")
    return int(number) if slug != number and number.isascii() and number.isdecimal() else None


class OwnMaterial(Deletable):
    """A material that the library lacks. Its slug starts with "my_" and stays its own for good."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    slug = models.SlugField(max_length=60)
    name = models.CharField(max_length=80)
    inci = models.CharField(gettext_lazy("INCI name"), max_length=120, blank=True)
    group = models.CharField(max_length=20, choices=GROUP_CHOICES)
    behaves_like = models.SlugField(max_length=60)
    melt_low_c = models.FloatField(null=True, blank=True)
    melt_high_c = models.FloatField(null=True, blank=True)
    density = models.FloatField(null=True, blank=True)
    strength_pct = models.FloatField(default=100.0)
    allergens = models.CharField(max_length=120, blank=True, help_text="separated by semicolons")
    vegan = models.BooleanField(default=True)
    grain_prone = models.BooleanField(default=False)
    limit_pct = models.FloatField(null=True, blank=True, help_text="the supplier's own limit, %")
    notes = models.TextField(blank=True)
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "slug"], name="one_own_material_per_slug"),
            *within("own_material", limits.MELT_C, "melt_low_c", "melt_high_c"),
            *within("own_material", limits.DENSITY, "density"),
            *within("own_material", limits.STRENGTH_PCT, "strength_pct"),
            *within("own_material", limits.PERCENT, "limit_pct"),
            models.CheckConstraint(
                condition=models.Q(melt_low_c=None, melt_high_c=None)
                | models.Q(melt_low_c__lte=models.F("melt_high_c")),
                name="own_material_melts_upwards",
            ),
        ]

    def __str__(self) -> str:
        return self.name


class Override(Owned):
    """What a maker knows better than the library about one of its materials."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    material = models.SlugField(max_length=60)
    density = models.FloatField(null=True, blank=True)
    strength_pct = models.FloatField(null=True, blank=True)
    typical_low_pct = models.FloatField(null=True, blank=True)
    typical_high_pct = models.FloatField(null=True, blank=True)
    limit_pct = models.FloatField(null=True, blank=True, help_text="the supplier's own limit, %")
    inci = models.CharField(max_length=200, blank=True, help_text="what its bottle says is in it")
    form = models.CharField(
        max_length=8, blank=True, choices=list(FORM_NAMES.items()), help_text="what it comes as"
    )
    notes = models.TextField(blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["owner", "material"], name="one_override_per_material"),
            *within("override", limits.DENSITY, "density"),
            *within("override", limits.STRENGTH_PCT, "strength_pct"),
            *within("override", limits.PERCENT, "typical_low_pct", "typical_high_pct", "limit_pct"),
        ]

    def __str__(self) -> str:
        return f"{self.material}, own figures"


# Lots in the order of use.
FIRST_TO_EXPIRE: list[Any] = [models.F("best_before").asc(nulls_last=True), "bought_on", "pk"]


class Lot(Owned):
    """One purchase of a material. Its balance is the sum of its movements."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="lots")
    material = models.SlugField(max_length=60)
    bought_on = models.DateField()
    amount_g = models.DecimalField(max_digits=10, decimal_places=2)
    typed = models.CharField(max_length=120, blank=True, help_text="the amount as it was typed")
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    best_before = models.DateField(null=True, blank=True)
    opened_on = models.DateField(null=True, blank=True)
    note = models.CharField(max_length=200, blank=True)
    added_at = models.DateTimeField(auto_now_add=True)
    voided_at = models.DateTimeField(null=True, blank=True, help_text="when it was taken off the shelf")

    class Meta:
        ordering = FIRST_TO_EXPIRE
        constraints = [
            *within("lot", limits.LOT_G, "amount_g"),
            *within("lot", limits.PRICE, "price"),
            *days_within("lot", "bought_on", "best_before", "opened_on"),
        ]

    def __str__(self) -> str:
        return f"{self.material}, bought {self.bought_on}"

    @property
    def cost_per_g(self) -> Decimal | None:
        """What a gram of it cost."""
        return None if self.price is None else self.price / self.amount_g


def with_left(lots: models.QuerySet[Lot]) -> models.QuerySet[Any]:
    """Return `lots`, first to expire first, each with `left`, g: the sum of its ledger."""
    # Grouping drops the model's own ordering, so it is said again.
    return lots.annotate(left=SumGrams("movements__grams")).order_by(*FIRST_TO_EXPIRE)


class OwnContainer(Deletable):
    """A container or mould of the maker's own, and how many there are."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    name = models.CharField(max_length=80)
    brim_ml = models.FloatField()
    usual_level_pct = models.FloatField(default=95.0)
    cavities = models.PositiveSmallIntegerField(default=1)
    tare_g = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)
    on_hand = models.PositiveIntegerField(null=True, blank=True)
    price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)
    uses = models.PositiveSmallIntegerField(
        null=True, blank=True, help_text="how many times it is filled before it is worn out"
    )

    class Meta:
        ordering = ["name"]
        constraints = [
            *within("container", limits.BRIM_ML, "brim_ml"),
            *within("container", limits.FILL_PCT, "usual_level_pct"),
            *within("container", limits.CAVITIES, "cavities"),
            *within("container", limits.ON_HAND, "on_hand"),
            *within("container", limits.PRICE, "price"),
            *within("container", limits.USES, "uses"),
            *within("container", limits.WEIGHT_G, "tare_g"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def slug(self) -> str:
        """Its name among the containers of the core."""
        return own_slug(self.pk)

    @property
    def is_reused(self) -> bool:
        """Whether it is used again: a mould, or a container with a number of uses."""
        return self.cavities > 1 or self.uses is not None

    @property
    def price_each(self) -> Decimal | None:
        """What it adds to the price of a piece; nothing where it is reused and its uses are not known."""
        if self.price is None or not self.is_reused:
            return self.price
        return None if self.uses is None else round(self.price / (self.uses * self.cavities), 4)


class Vessel(Owned):
    """A pot to melt in, a bowl to whip in or a jug to pour from, with its volume to the brim."""

    class Use(models.TextChoices):
        POT = "pot", gettext_lazy("pot to melt in")
        BOWL = "bowl", gettext_lazy("bowl to whip in")
        JUG = "jug", gettext_lazy("jug to pour from")
        BATH = "bath", gettext_lazy("water bath, for pots of up to")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    name = models.CharField(max_length=60)
    use = models.CharField(max_length=4, choices=Use, default=Use.POT)
    brim_ml = models.FloatField()

    class Meta:
        ordering = ["use", "brim_ml"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "name"], name="one_vessel_per_name"),
            *within("vessel", limits.BRIM_ML, "brim_ml"),
        ]

    def __str__(self) -> str:
        return self.name


class OwnBlend(Owned):
    """A blend kept as a material: leftovers of a pot, or a dilution in oil. Never changed."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    slug = models.SlugField(max_length=60)
    name = models.CharField(max_length=80)
    parts = models.JSONField(help_text="[slug, percent] of each material that is in it")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["owner", "slug"], name="one_blend_per_slug")]

    def __str__(self) -> str:
        return self.name


guard_record("pantry_ownblend")


class Infusion(Deletable):
    """A dried herb in oil, from start to straining; the strained oil is a lot of its own."""

    class Method(models.TextChoices):
        COLD = "cold", gettext_lazy("cold, for weeks")
        WARM = "warm", gettext_lazy("warm, for hours")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    herb = models.CharField(max_length=80)
    herb_g = models.DecimalField(max_digits=9, decimal_places=2)
    oil = models.SlugField(max_length=60)
    oil_g = models.DecimalField(max_digits=9, decimal_places=2)
    method = models.CharField(max_length=4, choices=Method, default=Method.COLD)
    started_on = models.DateField()
    due_on = models.DateField()
    strained_on = models.DateField(null=True, blank=True)
    recovered_g = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT, null=True, blank=True)

    class Meta:
        ordering = ["-started_on", "-pk"]
        constraints = [
            *within("infusion", limits.HERB_G, "herb_g"),
            *within("infusion", limits.OIL_G, "oil_g"),
            *within("infusion", limits.WEIGHT_G, "recovered_g"),
            *days_within("infusion", "started_on", "due_on", "strained_on"),
        ]

    def __str__(self) -> str:
        return f"{self.herb} in {self.oil}"

    @property
    def ratio(self) -> Decimal:
        """Grams of oil for each gram of dried herb."""
        return self.oil_g / self.herb_g

    @property
    def loss_pct(self) -> Decimal | None:
        """The share of the oil that left in the herb, %."""
        return None if self.recovered_g is None else 100 - 100 * self.recovered_g / self.oil_g


class Withdrawal(Record):
    """What one weighing, addition or infusion took from the shelf, from one lot or several.

    Whatever takes from the shelf refers to its withdrawal, or is referred to by it. `words` are what
    an older ledger called a cause that could not be found any more.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    infusion = models.ForeignKey(
        Infusion, on_delete=models.PROTECT, null=True, blank=True, related_name="withdrawals"
    )
    words = models.CharField(max_length=60, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.words or f"withdrawal {self.pk}"


class Movement(Record):
    """A line of a lot's ledger: written once, never changed; the balance is the sum."""

    class Kind(models.TextChoices):
        BOUGHT = "bought", gettext_lazy("bought")
        WEIGHED = "weighed", gettext_lazy("weighed into a pour")
        PUT_BACK = "put_back", gettext_lazy("put back")
        CORRECTED = "corrected", gettext_lazy("re-weighed")
        USED = "used", gettext_lazy("used otherwise")
        VOIDED = "voided", gettext_lazy("removed from the shelf")

    OWNER_PATH = "lot__owner"

    lot = models.ForeignKey(Lot, on_delete=models.PROTECT, related_name="movements")
    kind = models.CharField(max_length=10, choices=Kind)
    grams = models.DecimalField(max_digits=10, decimal_places=2)
    reason = models.CharField(max_length=200, blank=True)
    withdrawal = models.ForeignKey(
        "Withdrawal",
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="movements",
    )
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["lot", "kind", "withdrawal"],
                condition=models.Q(withdrawal__isnull=False),
                name="one_movement_per_withdrawal",
            ),
            *within("movement", (-limits.LOT_G[1], limits.LOT_G[1]), "grams"),
        ]
        # A balance is summed from the index alone.
        indexes = [models.Index(fields=["lot", "grams"], name="balance_of_lot")]

    def __str__(self) -> str:
        return f"{self.kind} {self.grams} g"


class Correction(Record):
    """What an own material, a container or an infusion was before it was corrected, and why.

    `words` are what an older book called a row that could not be found any more.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    own_material = models.ForeignKey(
        OwnMaterial, on_delete=models.PROTECT, null=True, blank=True, related_name="corrections"
    )
    own_container = models.ForeignKey(
        OwnContainer, on_delete=models.PROTECT, null=True, blank=True, related_name="corrections"
    )
    infusion = models.ForeignKey(
        Infusion, on_delete=models.PROTECT, null=True, blank=True, related_name="corrections"
    )
    words = models.CharField(max_length=80, blank=True)
    was = models.JSONField()
    reason = models.CharField(max_length=200)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(own_material__isnull=False, own_container=None, infusion=None, words="")
                | models.Q(own_material=None, own_container__isnull=False, infusion=None, words="")
                | models.Q(own_material=None, own_container=None, infusion__isnull=False, words="")
                | (models.Q(own_material=None, own_container=None, infusion=None) & ~models.Q(words="")),
                name="a_correction_is_of_one_row",
            )
        ]

    def __str__(self) -> str:
        row = self.own_material or self.own_container or self.infusion or self.words
        return f"{row}: {self.reason}"


class Rendering(Owned):
    """Raw comb rendered to wax: weights in and out, and the resulting lot."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    done_on = models.DateField()
    raw_g = models.DecimalField(max_digits=9, decimal_places=2)
    clean_g = models.DecimalField(max_digits=9, decimal_places=2)
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT)

    class Meta:
        ordering = ["-done_on", "-pk"]
        constraints = [
            *within("rendering", limits.COMB_G, "raw_g", "clean_g"),
            *days_within("rendering", "done_on"),
        ]

    def __str__(self) -> str:
        return f"{self.raw_g} g of comb"

    @property
    def yield_pct(self) -> Decimal:
        """Clean wax as a share of the comb, %."""
        return 100 * self.clean_g / self.raw_g


USUAL_DAYS: dict[Any, timedelta] = {"cold": timedelta(weeks=4), "warm": timedelta(days=1)}


def due_date(method: str, started_on: date) -> date:
    """Return when an infusion started on a day is usually strained."""
    return started_on + USUAL_DAYS[method]


guard_record("pantry_movement")
guard_record("pantry_withdrawal")
guard_record("pantry_correction")
guard(
    "lot_delete",
    "DELETE",
    "pantry_lot",
    "a lot with movements stays; take it off the shelf instead",
    when="EXISTS (SELECT 1 FROM pantry_movement m WHERE m.lot_id = OLD.id)",
)
# A shelf is put together once for each state of its maker.
for _table in ("pantry_override", "pantry_ownmaterial", "pantry_ownblend"):
    for _event in ("INSERT", "UPDATE"):
        follow(f"{_table}_{_event.lower()}_state", _event, _table, NEW_STATE + "NEW.owner_id")
    follow(f"{_table}_delete_state", "DELETE", _table, NEW_STATE + "OLD.owner_id")
