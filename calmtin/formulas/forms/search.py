"""Filter the list of formulas: a form and its query in one."""

from __future__ import annotations

from typing import Any

import django_filters
from django import forms
from django.db.models import QuerySet, Subquery
from django.utils.translation import gettext_lazy

from calmtin.common.fields import LongSelect
from calmtin.common.search import Search, SearchForm, words_of
from calmtin.core.data.loader import kinds
from calmtin.formulas.models import Formula, Line
from calmtin.formulas.queries.lists import in_use, newest_version, with_outcome

VERDICTS = [
    ("keep", gettext_lazy("Keep")),
    ("tweak", gettext_lazy("Tweak")),
    ("drop", gettext_lazy("Drop")),
]


class FormulaFilter(Search):
    """Formulas by words, kind, material, rung, verdict, and whether they are kept.

    The rungs are worked out, not stored: `rungs` is what was asked of them.
    """

    q = django_filters.CharFilter(method="by_words", label=gettext_lazy("Search"))
    kind = django_filters.ChoiceFilter(
        choices=lambda: [(k.slug, k.name) for k in kinds().values()],
        label=gettext_lazy("Kind"),
        empty_label=gettext_lazy("any"),
    )
    material = django_filters.ChoiceFilter(
        method="by_material", label=gettext_lazy("With"), empty_label=gettext_lazy("any"), widget=LongSelect
    )
    rung_from = django_filters.NumberFilter(method="later", label=gettext_lazy("Firmness from"))
    rung_to = django_filters.NumberFilter(method="later", label=gettext_lazy("to"))
    verdict = django_filters.ChoiceFilter(
        method="by_verdict",
        choices=VERDICTS,
        label=gettext_lazy("Verdict"),
        empty_label=gettext_lazy("any"),
    )
    kept = django_filters.BooleanFilter(
        method="by_kept", label=gettext_lazy("Kept"), widget=forms.CheckboxInput
    )

    class Meta:
        model = Formula
        form = SearchForm
        fields: list[str] = []

    def __init__(self, data: Any, *, user: Any, materials: list[tuple[str, str]]) -> None:
        super().__init__(data, queryset=in_use(user))
        self.filters["material"].extra["choices"] = materials

    @property
    def rungs(self) -> tuple[float, float] | None:
        """The range of firmness that was asked for; None if none was."""
        data = self.form.cleaned_data if self.form.is_valid() else {}
        low, high = data.get("rung_from"), data.get("rung_to")
        if low is None and high is None:
            return None
        return float(low or 0), float(10 if high is None else high)

    def by_words(self, formulas: QuerySet[Formula], _: str, words: str) -> QuerySet[Formula]:
        """Formulas whose names or notes have all of the words."""
        for word in words_of(words):
            formulas = formulas.filter(name__icontains=word) | formulas.filter(notes__icontains=word)
        return formulas

    def by_material(self, formulas: QuerySet[Formula], _: str, slug: str) -> QuerySet[Formula]:
        """Formulas whose newest version has a material."""
        return formulas.annotate(at=Subquery(newest_version())).filter(
            at__in=Line.objects.filter(material=slug).values("version")
        )

    def by_verdict(self, formulas: QuerySet[Any], _: str, verdict: str) -> QuerySet[Any]:
        """Formulas whose newest verdict is this one."""
        return with_outcome(formulas).filter(last_verdict=verdict)

    def by_kept(self, formulas: QuerySet[Any], _: str, is_asked: bool) -> QuerySet[Any]:
        """Formulas that are kept as a pour made them."""
        return with_outcome(formulas).filter(is_kept=True) if is_asked else formulas

    def later(self, formulas: QuerySet[Formula], _: str, __: Any) -> QuerySet[Formula]:
        """Leave filtering by firmness to the caller, who computes it."""
        return formulas
