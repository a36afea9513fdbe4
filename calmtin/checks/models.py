"""A flare-up that is traced to its cause."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils.translation import gettext_lazy

from calmtin.accounts.models import NEW_STATE
from calmtin.common.owned import Record, days_within
from calmtin.common.triggers import follow, guard_record
from calmtin.core.process.reactions import CALM, REACTED
from calmtin.pours.models import Check


class Reaction(Record):
    """A flare-up whose cause is looked for: the check that tells of it, and what was suspected then."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    of = models.OneToOneField(Check, on_delete=models.PROTECT, related_name="reaction")
    suspects = models.JSONField(default=list, help_text="slugs, in the order in which they are tried")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"flare-up with {self.of.pour.code}"


class PatchTest(Record):
    """One suspected material on a patch of skin, and what it did; the newest of a material counts."""

    class Result(models.TextChoices):
        CALM = CALM, gettext_lazy("nothing happened")
        REACTED = REACTED, gettext_lazy("it reacted")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    reaction = models.ForeignKey(Reaction, on_delete=models.CASCADE, related_name="patches")
    material = models.SlugField(max_length=60)
    tried_on = models.DateField()
    result = models.CharField(max_length=7, choices=Result)
    notes = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [*days_within("patch_test", "tried_on")]

    def __str__(self) -> str:
        return f"{self.material}: {self.result}"


for _table in ("checks_reaction", "checks_patchtest"):
    guard_record(_table)
    # Cautions are put together once for each state of their maker.
    follow(f"{_table}_insert_state", "INSERT", _table, NEW_STATE + "NEW.owner_id")
