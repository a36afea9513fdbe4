"""Every sentence of the interface stands in one file, calmtin/locale/en, with nothing else in it."""

from __future__ import annotations

import ast
import re
import shutil
import tempfile
from io import StringIO
from pathlib import Path
from string import Formatter

from django.conf import settings
from django.core.management import call_command
from django.test import SimpleTestCase, override_settings

CATALOGUE = Path("en") / "LC_MESSAGES" / "django.po"
CLASSES = re.compile(r"\{% block body_class %\}\w+\{% endblock %\}")
TRANSLATED = re.compile(
    r"\{% blocktranslate.*?endblocktranslate %\}|\{% translate .*?%\}"
    r"|\{% comment.*?endcomment %\}|\{#.*?#\}|<!doctype html>|<script.*?</script>|<style.*?</style>",
    re.S,
)
SPOKEN = re.compile(
    r'\b(?:aria-label|placeholder|title|alt|data-takes|data-title|data-spoken)="((?:\{[{%].*?[%}]\}|[^"])*)"'
)
CODE = re.compile(r"\{%.*?%\}|\{\{.*?\}\}", re.S)
ELEMENT = re.compile(r"</?[a-zA-Z](?:\"[^\"]*\"|[^<>\"])*>", re.S)
NAME = re.compile(r"[Cc]alm [Tt]in|&[a-z]+;|data-[a-z]+")
WORD = re.compile(r"[A-Za-z’]{3,}")


def entries(catalogue: Path) -> list[str]:
    """Return the entries of a catalogue, without its head."""
    return sorted(catalogue.read_text(encoding="utf-8").split("\n\n")[1:])


def bare_words(template: str) -> list[str]:
    """Return the words of a template that no translation tag holds."""
    text = TRANSLATED.sub(" ", CLASSES.sub(" ", template))
    spoken = " ".join(CODE.sub(" ", value) for value in SPOKEN.findall(text))
    shown = ELEMENT.sub(" ", CODE.sub(" ", text))
    return WORD.findall(NAME.sub(" ", f"{shown} {spoken}"))


class CatalogueTests(SimpleTestCase):
    def test_the_catalogue_holds_every_sentence_and_no_other(self):
        kept = settings.LOCALE_PATHS[0]
        with tempfile.TemporaryDirectory() as folder:
            shutil.copytree(kept, folder, dirs_exist_ok=True)
            with override_settings(LOCALE_PATHS=[folder]):
                call_command("makemessages", verbosity=0, stdout=StringIO())
            self.assertEqual(
                entries(Path(folder) / CATALOGUE),
                entries(kept / CATALOGUE),
                "Run script/manage makemessages and read the entries that it changes.",
            )

    def test_no_template_has_a_sentence_outside_the_catalogue(self):
        found = {
            str(page.relative_to(settings.BASE_DIR)): words
            for page in settings.BASE_DIR.rglob("*.html")
            if (words := bare_words(page.read_text(encoding="utf-8")))
        }
        self.assertEqual(found, {})

    def test_each_sentence_is_given_the_values_that_it_names(self):
        for module in settings.BASE_DIR.rglob("*.py"):
            for call in ast.walk(ast.parse(module.read_text(encoding="utf-8"))):
                if not isinstance(call, ast.Call) or getattr(call.func, "id", "") not in (
                    "Message",
                    "said",
                ):
                    continue
                given = {keyword.arg for keyword in call.keywords}
                if isinstance(call.args[0], ast.Constant) and None not in given:
                    named = {
                        name for _, name, *_ in Formatter().parse(call.args[0].value) if name is not None
                    }
                    self.assertEqual(named, given, f"{module}:{call.lineno}")

    def test_a_bare_word_is_found(self):
        self.assertEqual(
            bare_words('<p title="{{ x }} Weigh">{% if a > b %}Stir{% endif %}</p>'), ["Stir", "Weigh"]
        )
        self.assertEqual(bare_words('<p title="{% translate \'Weigh\' %}">{% translate "Stir" %}</p>'), [])
