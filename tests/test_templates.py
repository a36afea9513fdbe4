"""A template names no address of an app above its own: it shows what that app registered for its place."""

from __future__ import annotations

import re

from django.conf import settings
from django.test import SimpleTestCase

MOST_LINES = 80
ORDER = (
    "accounts",
    "help",
    "pantry",
    "formulas",
    "plans",
    "pours",
    "checks",
    "packing",
    "exchange",
    "overview",
)
NAMED = re.compile(rf"""["']({"|".join(ORDER)})[:/][\w./]+["']""")


def reaching_up(app: str, template: str) -> list[str]:
    """Return the addresses and templates of apps above `app` that a template names."""
    return [named[0] for named in NAMED.finditer(template) if ORDER.index(named[1]) > ORDER.index(app)]


class TemplateTests(SimpleTestCase):
    # The frame around every page (calmtin/templates) leads to all parts of the book.
    def test_no_template_names_an_address_of_a_higher_app(self):
        found = {}
        for page in settings.BASE_DIR.rglob("*.html"):
            app = page.relative_to(settings.BASE_DIR).parts[0]
            if app in ORDER and (named := reaching_up(app, page.read_text(encoding="utf-8"))):
                found[page.name] = named
        self.assertEqual(found, {})

    def test_no_template_is_longer_than_a_screen(self):
        lines = {
            page.name: len(page.read_text(encoding="utf-8").splitlines())
            for page in settings.BASE_DIR.rglob("*.html")
        }
        self.assertEqual({name: count for name, count in lines.items() if count > MOST_LINES}, {})

    def test_one_that_does_is_found(self):
        self.assertEqual(
            reaching_up(
                "pantry", "{% url 'pours:list' %}{% url 'pantry:lot' 1 %}{% include 'pours/_a.html' %}"
            ),
            ["'pours:list'", "'pours/_a.html'"],
        )


class StyleTests(SimpleTestCase):
    def test_every_class_of_a_stylesheet_is_used(self):
        written = "".join(
            page.read_text(encoding="utf-8")
            for pattern in ("*.html", "*.py", "*.js")
            for page in settings.BASE_DIR.rglob(pattern)
        )
        used = set(re.findall(r"[\w-]+", written))
        made = ("layer-", "part-", "track-", "is-", "htmx-")  # put together where they are shown
        dead = {
            (sheet.name, name)
            for sheet in settings.BASE_DIR.rglob("*.css")
            if "vendor" not in sheet.parts
            for name in re.findall(r"\.(-?[a-zA-Z_][\w-]*)(?=[^{}]*\{)", sheet.read_text(encoding="utf-8"))
            if name not in used and not name.startswith(made)
        }
        self.assertEqual(dead, set())
