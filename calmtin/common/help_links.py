"""Links from a number to what explains it: the help registers its questions, every page may ask."""

from __future__ import annotations

from collections.abc import Mapping

from django.urls import reverse
from django.utils.translation import gettext

_questions: dict[str, tuple[str, str]] = {}


def register_topics(view: str, questions: Mapping[str, str]) -> None:
    """Make `questions`, by slug, known to all pages; `view` shows the answer to one."""
    _questions.update({slug: (view, question) for slug, question in questions.items()})


def question_of(slug: str) -> str:
    """Return a question in words."""
    return gettext(_questions[slug][1])


def answer_address(slug: str) -> str:
    """Return the address of the page that answers a question."""
    return reverse(_questions[slug][0], args=[slug])
