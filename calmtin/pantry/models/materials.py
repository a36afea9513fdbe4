"""Materials of a maker's own, and what they know better about others."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Deletable, Owned, within
from calmtin.core import limits
from calmtin.core.materials import FORM_NAMES, GROUPS

GROUP_CHOICES = [(group, group.replace("_", " ")) for group in GROUPS]


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
