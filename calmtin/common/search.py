"""Filtered lists: one form, one look, and the whole query in the address."""

from __future__ import annotations

from typing import Any

import django_filters
from django import forms
from django.core.paginator import Page, Paginator
from django.http import HttpRequest

from calmtin.common.fields import Styled

MOST_WORDS = 8


class SearchForm(Styled, forms.Form):
    """The form of a search: looks like the rest of the bench, and a number brings up its keypad."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for field in self.fields.values():
            if isinstance(field.widget, forms.NumberInput):
                field.widget = forms.TextInput(
                    attrs={**field.widget.attrs, "inputmode": "decimal", "autocomplete": "off"}
                )


class Search(django_filters.FilterSet):  # type: ignore[misc]  # has no stubs
    """A filter form; `is_asked` tells an empty result from an empty bench."""

    FIRST: tuple[str, ...] = ("q", "kind", "verdict")  # the others are behind a fold

    @property
    def first(self) -> list[Any]:
        """The boxes that are used most."""
        return [self.form[name] for name in self.FIRST]

    @property
    def more(self) -> list[Any]:
        """All other boxes."""
        return [box for box in self.form if box.name not in self.FIRST]

    @property
    def asks_more(self) -> bool:
        """Whether one of the other boxes narrows the list."""
        return any(self.data.get(box.name) for box in self.more)

    @property
    def is_asked(self) -> bool:
        """Whether anything narrows the list."""
        return any(value for name, value in self.data.items() if name not in ("page", "show"))


def words_of(asked: str) -> list[str]:
    """Return the search words, at most eight."""
    return asked.split()[:MOST_WORDS]


def paged(request: HttpRequest, rows: Any, per_page: int) -> tuple[Page[Any], str]:
    """Return one page of `rows` and the rest of the query for the other pages' addresses."""
    asked = request.GET.copy()
    asked.pop("page", None)
    asked.pop("show", None)
    return Paginator(rows, per_page).get_page(request.GET.get("page")), asked.urlencode()
