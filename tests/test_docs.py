"""Documents name files, commands and links that are there."""

from __future__ import annotations

import re
from pathlib import Path

from django.core.management import get_commands
from django.test import SimpleTestCase

ROOT = Path(__file__).parents[1]
DOCUMENTS = [
    ROOT / "README.md",
    ROOT / "CONTRIBUTING.md",
    ROOT / "THIRD_PARTY.md",
    *ROOT.glob("docs/**/*.md"),
]
LINK = re.compile(r"\]\((?!https?:|#)([^)#]+)(?:#[^)]*)?\)")
FILE = re.compile(r"`((?:[\w.-]+/)*[\w.-]+\.(?:py|md|csv|json|html|css|js|po|toml|txt|in))`")
SCRIPT = re.compile(r"`?(script/[a-z_]+)")
COMMAND = re.compile(r"script/manage ([a-z_]+)")
# Files that a reader makes or is sent, not ours.
NOT_OURS = re.compile(
    r"^(?:log-of-test-pours|settings|manifest|formula|restore|calm-tin|records/photos)\.json$|TABLE"
)


def is_there(name: str, document: Path) -> bool:
    """Return whether a file is named as it lies in the tree, from the root, the package or the document."""
    starts = (ROOT, ROOT / "calmtin", ROOT / "calmtin" / "core", document.parent)
    return any((start / name).exists() for start in starts) or any(ROOT.glob(f"calmtin/**/{name}"))


class DocumentTests(SimpleTestCase):
    def test_links_and_files_are_there(self):
        for document in DOCUMENTS:
            text = document.read_text(encoding="utf-8")
            links = [name for name in LINK.findall(text) if not (document.parent / name).exists()]
            files = [
                name
                for name in FILE.findall(text)
                if not NOT_OURS.search(name) and not is_there(name, document)
            ]
            with self.subTest(document.name):
                self.assertEqual((links, files), ([], []))

    def test_scripts_and_commands_are_there(self):
        known = set(get_commands())
        for document in DOCUMENTS:
            text = document.read_text(encoding="utf-8")
            with self.subTest(document.name):
                self.assertEqual([name for name in SCRIPT.findall(text) if not (ROOT / name).exists()], [])
                self.assertEqual([name for name in COMMAND.findall(text) if name not in known], [])

    def test_every_screenshot_is_shown(self):
        readme = (ROOT / "README.md").read_text(encoding="utf-8")
        kept = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
        self.assertEqual(set(re.findall(r"screenshots/([\w-]+\.png)", readme)), kept)
        self.assertLess(len(kept), 20)

    def test_a_file_that_is_missing_is_found(self):
        self.assertFalse(is_there("core/finish/label.py", ROOT / "README.md"))
        self.assertTrue(is_there("core/packing/label.py", ROOT / "README.md"))
