"""How Calm Tin speaks: no sentence that was reworded comes back, in pages, messages or docs."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from django.test import SimpleTestCase

from calmtin.common.glossary import meanings

ROOT = Path(__file__).parents[1]
# Sentences, and parts of sentences, that read as translated.
REWORDED = (
    "Leave it as it is", "Leave, keep the weights", "Leave, all is kept", "Keep this", "Keep it, next",
    "Take the closest", "That is my bench", "More to narrow it by", "Ask for less", "Old notes, CSV",
    "Take everything along", "Take a file in", "Look it over", "Put it away", "Bring it back",
    "What did it give?", "How did it turn out?", "It is at, ", "Pressed with a thumb it", "Log it",
    "Too soft, or too hard?", "What would do it?", "It sets in the jug", "what does not like it hot",
    "Scent, last of all", "Something is needed", "No longer needed", "never want the bench together",
    "Order what is short", "Some went", "To whom", "Where the pieces go", "Of the price that is yours",
    "so it cost more than told", "without a price:", "I have so much of one thing",
    "they dip as they set", "the sums do not believe", "thumb or material", "than the book",
    "it is the likelier of the two", "One more like this", "What would tell most",
    "this bench is known well", "one test in three pours tells", "Nothing is due", "Start with one tin",
    "It takes and counts nothing", "Add line by line by weight", "the balancing line gives way",
    "so it stays as it is", "no one can say which of them it was", "in type of", "Weigh a few pieces",
    "Most first, below", "Only the bottle says", "the address is not quite right", "stumbled over this",
    "Somebody has this name", "let anyone in any more", "is no volume", "has any weight yet",
    "finds its own kind", "What this bench has taught", "What they have taught", "By the book",
    "by the book", "80 % band", "in which 8 of 10 lie", "called off", "Take it back",
    "takes and teaches nothing", "the sums", "Where every gram goes", "Trio map", "nothing wrong",
    "Taken in:",
)  # fmt: skip


def sources() -> Iterator[tuple[str, str]]:
    """Yield every source whose words somebody reads, its lines joined and its tags taken out."""
    for path in (*ROOT.glob("calmtin/**/*.html"), *ROOT.glob("calmtin/**/*.py"), *ROOT.glob("docs/*.md")):
        if "migrations" in path.parts:
            continue
        text = path.read_text()
        if path.suffix == ".html":
            text = re.sub(r"<[^>]*>", " ", text)
        elif path.suffix == ".py":
            text = re.sub(r'""".*?"""', "", text, flags=re.DOTALL)
            text = re.sub(r'"\s*\n\s*f?"', "", text)
        yield str(path.relative_to(ROOT)), " ".join(text.split())


class Voice(SimpleTestCase):
    def test_what_was_reworded_does_not_come_back(self) -> None:
        found = [(name, words) for name, text in sources() for words in REWORDED if words in text]
        self.assertEqual(found, [])


class Terms(SimpleTestCase):
    """Each word that a page explains is in the glossary once, and each of the glossary's is explained."""

    def test_the_glossary_and_the_pages_name_the_same_words(self) -> None:
        pages = "".join(path.read_text() for path in ROOT.glob("calmtin/**/*.html"))
        used = re.findall(r'{% term "([^"]+)"', pages)
        self.assertEqual(sorted(set(used)), sorted(meanings()))
        self.assertTrue(all(meaning and "|" not in meaning for meaning in meanings().values()))
