"""Filter the list of pours: a form and its query in one."""

from __future__ import annotations

from typing import Any

import django_filters
from django import forms
from django.db.models import OuterRef, Q, QuerySet, Subquery
from django.utils.formats import date_format
from django.utils.translation import gettext_lazy

from calmtin.common.fields import LongSelect
from calmtin.common.numbers import whole_number
from calmtin.common.search import Search, SearchForm, words_of
from calmtin.core.data.loader import kinds
from calmtin.pantry.models import Lot, Movement
from calmtin.pours.models import Check, FinishWeighIn, Kept, PotAddition, Pour, WeighIn

DAY = forms.DateInput(attrs={"type": "date"})


def with_outcome(pours: QuerySet[Any]) -> QuerySet[Any]:
    """Annotate pours with their newest verdict and felt rung, and whether they are kept."""
    checks = Check.objects.filter(pour=OuterRef("pk"), set_test="").order_by("-pk")
    return pours.annotate(
        last_verdict=Subquery(checks.exclude(verdict="").values("verdict")[:1]),
        last_felt=Subquery(checks.filter(felt_rung__isnull=False).values("felt_rung")[:1]),
        is_kept=Subquery(Kept.objects.filter(pour=OuterRef("pk")).order_by("-pk").values("is_kept")[:1]),
    )


class PourFilter(Search):
    """Pours by words, kind, material, lot, verdict, felt rung, day, grain, and whether they are kept."""

    q = django_filters.CharFilter(method="by_words", label=gettext_lazy("Search"))
    kind = django_filters.ChoiceFilter(
        field_name="version__formula__kind",
        choices=lambda: [(k.slug, k.name) for k in kinds().values()],
        label=gettext_lazy("Kind"),
        empty_label=gettext_lazy("any"),
    )
    material = django_filters.ChoiceFilter(
        method="by_material", label=gettext_lazy("With"), empty_label=gettext_lazy("any"), widget=LongSelect
    )
    lot = django_filters.ChoiceFilter(
        method="by_lot", label=gettext_lazy("Lot"), empty_label=gettext_lazy("any"), widget=LongSelect
    )
    verdict = django_filters.ChoiceFilter(
        field_name="last_verdict",
        choices=Check.Verdict.choices,
        label=gettext_lazy("Verdict"),
        empty_label=gettext_lazy("any"),
    )
    felt_from = django_filters.NumberFilter(
        field_name="last_felt", lookup_expr="gte", label=gettext_lazy("Felt from")
    )
    felt_to = django_filters.NumberFilter(
        field_name="last_felt", lookup_expr="lte", label=gettext_lazy("to")
    )
    since = django_filters.DateFilter(
        field_name="started_at", lookup_expr="date__gte", label=gettext_lazy("Since"), widget=DAY
    )
    until = django_filters.DateFilter(
        field_name="started_at", lookup_expr="date__lte", label=gettext_lazy("Until"), widget=DAY
    )
    grain = django_filters.BooleanFilter(
        method="by_grain", label=gettext_lazy("Grain seen"), widget=forms.CheckboxInput
    )
    kept = django_filters.BooleanFilter(
        method="by_kept", label=gettext_lazy("Kept"), widget=forms.CheckboxInput
    )

    class Meta:
        model = Pour
        form = SearchForm
        fields: list[str] = []

    def __init__(self, data: Any, *, user: Any, materials: list[tuple[str, str]], shelf: Any) -> None:
        queryset = with_outcome(Pour.objects.of(user))
        super().__init__(data, queryset=queryset)
        self.filters["material"].extra["choices"] = materials
        self.filters["lot"].extra["choices"] = self._lots(user, shelf)

    def _lots(self, user: Any, shelf: Any) -> list[tuple[str, str]]:
        """Return the lots to choose from: those of the chosen material, or of the chosen lot's."""
        asked = whole_number(self.data.get("lot"))
        of_material = Q(material=self.data.get("material") or "")
        if asked is not None:
            of_material |= Q(material__in=Lot.objects.of(user).filter(pk=asked).values("material"))
        elif not self.data.get("material"):
            return []
        lots = Lot.objects.of(user).filter(of_material).order_by("-pk")
        return [
            (str(lot.pk), f"{shelf[lot.material].label}, {date_format(lot.bought_on, 'j M Y')}")
            for lot in lots
            if lot.material in shelf
        ]

    @property
    def more(self) -> list[Any]:
        """All other boxes; lots are offered once a material is chosen."""
        return [box for box in super().more if box.name != "lot" or self.filters["lot"].extra["choices"]]

    def by_words(self, pours: QuerySet[Any], _: str, words: str) -> QuerySet[Any]:
        """Pours whose formula, code or notes have all of the words."""
        for word in words_of(words):
            noted = Check.objects.filter(notes__icontains=word).values("pour")
            pours = pours.filter(
                Q(version__formula__name__icontains=word) | Q(code__icontains=word) | Q(pk__in=noted)
            )
        return pours

    def by_material(self, pours: QuerySet[Any], _: str, slug: str) -> QuerySet[Any]:
        """Pours with a material: weighed, added later, or in a finish."""
        return pours.filter(
            Q(pk__in=Pour.objects.filter(lines__material=slug).values("pk"))
            | Q(pk__in=Pour.objects.filter(additions__material=slug).values("pk"))
            | Q(pk__in=Pour.objects.filter(finish_parts__material=slug).values("pk"))
        )

    def by_lot(self, pours: QuerySet[Any], _: str, lot: str) -> QuerySet[Any]:
        """Pours that took from a lot, by the pantry's ledger."""
        took = Movement.objects.filter(lot_id=lot, kind=Movement.Kind.WEIGHED).values("withdrawal")
        weighed = WeighIn.objects.filter(withdrawal__in=took)
        finished = FinishWeighIn.objects.filter(withdrawal__in=took)
        added = PotAddition.objects.filter(withdrawal__in=took)
        return pours.filter(
            Q(pk__in=weighed.values("line__pour"))
            | Q(pk__in=finished.values("part__pour"))
            | Q(pk__in=added.values("pour"))
        )

    def by_grain(self, pours: QuerySet[Any], _: str, is_asked: bool) -> QuerySet[Any]:
        """Pours in which grain was seen."""
        seen = Check.objects.filter(signs__grain__gte=1).values("pour")
        return pours.filter(pk__in=seen) if is_asked else pours

    def by_kept(self, pours: QuerySet[Any], _: str, is_asked: bool) -> QuerySet[Any]:
        """Pours that a formula is kept by."""
        return pours.filter(is_kept=True) if is_asked else pours
