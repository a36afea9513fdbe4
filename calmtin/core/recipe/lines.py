"""One row of a recipe against the names of a shelf."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from calmtin.core.materials import Shelf
from calmtin.core.messages import Words, gettext_noop, said
from calmtin.core.notation import Notation
from calmtin.core.recipe.grammar import Amount, Phrase, read_phrase, unbulleted
from calmtin.core.recipe.items import Measured, Remark, Unresolved, stated_of
from calmtin.core.recipe.matching import POSSIBLE, SURE, UNLIKELY, Choice, match_names, plain_words
from calmtin.core.recipe.measures import Unit, to_weight
from calmtin.core.recipe.spoken import is_for_pieces, is_heading, put_plainly

USUAL_SCENTS = ("lavender", "orange_sweet", "peppermint")
_ESSENTIAL = re.compile(r"\bessential\b|\beo\b", re.IGNORECASE)
# What a word in an unread name says it must be; nothing of another group is offered for it.
_HINTS: dict[str, tuple[str, ...]] = {
    "preservative": ("other", "water_bearing"), "fragrance": ("scent",), "flavour": ("scent",),
    "flavor": ("scent",), "scent": ("scent",), "absolute": ("scent",), "wax": ("wax",),
    "butter": ("butter", "soft_fat"),
    "powder": ("powder", "colour"), "clay": ("powder",), "mica": ("colour",), "colour": ("colour",),
    "color": ("colour",), "pigment": ("colour",), "dye": ("colour", "water_bearing"),
    "eyeshadow": ("colour",), "blush": ("colour",), "shimmer": ("colour",), "glitter": ("colour",),
    "tincture": ("water_bearing",),
    "oil": ("oil", "scent", "soft_fat", "butter", "antioxidant"),
}  # fmt: skip
_BATCH = re.compile(
    r"^\W*(?:for\s+)?(?:a\s+|the\s+)?(?:total|batch|makes|yields?|in all|all together)\b", re.IGNORECASE
)
_BATCH_WORDS = frozenset("total batch makes yield yields size weight in all together".split())  # noqa: SIM905


_UNIT = (
    r"(?:g|grams?|kg|oz|ounces?|lbs?|ml|cups?|tbsps?|tsps?|(?:table|tea)spoons?|drops?|capsules?|parts?|%)"
    r"(?!\w)"
)
_NUMBER = r"(?:\d[\d.,/½¼¾⅓⅔ -]*|[½¼¾⅓⅔]|\b(?:half an?|an?|one|two|three|four|five|six|eight|ten))\s*"
_AN_AMOUNT = re.compile(rf"\s+(?={_NUMBER}{_UNIT})", re.IGNORECASE)
_TO_AN_AMOUNT = re.compile(rf"\S.*?{_NUMBER}{_UNIT}", re.IGNORECASE)

RIVAL = 0.02  # a name so near to the best is as likely


def _is_settled(choices: Sequence[Choice]) -> bool:
    """Return whether the best of `choices` is sure and has no rival."""
    if not choices or choices[0].confidence < SURE:
        return False
    return all(choice.confidence <= choices[0].confidence - RIVAL for choice in choices[1:])


@dataclass(frozen=True, slots=True)
class Piece:
    """A part of a row that is about one thing: as it is read, as it is shown, and what was guessed."""

    text: str
    shown: str
    doubt: Words = ""


def _in_digits(amount: Amount) -> str:
    """Return an amount so that it can be read again."""
    return f"{amount.value:.10g} {(amount.unit or '').replace('_', ' ')}"


@dataclass(frozen=True, slots=True)
class LineReader:
    """Reads one line against the names of a shelf."""

    shelf: Shelf
    names: Mapping[str, str]
    notation: Notation

    def phrase(self, text: str) -> Phrase:
        """Take a line apart."""
        return read_phrase(unbulleted(text), self.notation)

    def pieces(self, written: str) -> Iterator[Piece]:
        """Split a row that lists several things; a heading is skipped."""
        if is_heading(written):
            return
        row, doubts = put_plainly(written)
        doubt: Words = doubts[0] if doubts else ""
        if spread := self._spread(row):
            yield from (Piece(piece, f"{name} ({written})", doubt) for piece, name in spread)
            return
        if halves := self._halves(row):
            half = said("Half of it each? Change the amounts if not.")
            yield from (Piece(piece, f"{name} ({written})", half) for piece, name in halves)
            return
        pieces = [p for p in re.split(r"\s*(?:;|,(?=\s)|\s\+\s|\s&\s|\sand\s)\s*", row) if p]
        phrases = [self.phrase(piece) for piece in pieces]
        if len(pieces) > 1 and all(p.words and any(a.unit for a in p.amounts) for p in phrases):
            yield from (Piece(piece, piece, doubt) for piece in pieces)
        elif several := self._several(row):
            yield from (Piece(piece, piece, doubt) for piece in several)
        else:
            yield Piece(row, written, doubt)

    def _several(self, row: str) -> list[str]:
        """Return the materials of a row that has nothing between them: "20 g beeswax 30 g shea"."""
        amount_last = _TO_AN_AMOUNT.findall(row)
        for pieces in (_AN_AMOUNT.split(row), amount_last if " ".join(amount_last) == row else []):
            phrases = [self.phrase(piece) for piece in pieces]
            if len(pieces) > 1 and all(
                len(p.amounts) == 1 and p.amounts[0].unit and p.words and self._is_sure(p.words)
                for p in phrases
            ):
                return pieces
        return []

    def _halves(self, row: str) -> list[tuple[str, str]]:
        """Return half an amount for each of the two materials that share it: "2 tbsp of A and B"."""
        phrase = self.phrase(re.sub(r"[\s,]*\bhalf and half\W*$", "", row, flags=re.IGNORECASE))
        names = re.split(r"\s+(?:and|&)\s+", phrase.words)
        if len(names) != 2 or len(phrase.amounts) != 1 or phrase.amounts[0].unit is None:
            return []
        if self._is_sure(phrase.words) or not all(map(self._is_sure, names)):
            return []
        return [(f"half of {_in_digits(phrase.amounts[0])} {name}", name) for name in names]

    def _is_sure(self, words: str) -> bool:
        """Return whether words name one material and nothing else."""
        return _is_settled(self._choices(words))

    def _spread(self, row: str) -> list[tuple[str, str]]:
        """Return the amounts for each of "10 drops each of A and B" or "equal parts A, B and C"."""
        before = re.match(
            r"(?P<amount>.+?)\s+(?:of\s+)?each(?:\s+of)?\s*:?\s+(?P<names>.+)$", row, re.IGNORECASE
        )
        after = re.match(r"(?P<names>.+?)[,:]\s*(?P<amount>[^,:]+?)\s+each\W*$", row, re.IGNORECASE)
        equal = re.match(
            r"\W*(?:in\s+)?equal\s+(?:parts|amounts|quantities)\s*(?:of|:)?\s*(?P<names>.+)$",
            row,
            re.IGNORECASE,
        ) or re.match(
            r"(?P<names>.+?),?\s+(?:in\s+)?equal\s+(?:parts|amounts|quantities)\W*$", row, re.IGNORECASE
        )
        for found, amount in ((before, None), (after, None), (equal, "1 part")):
            if found is None:
                continue
            amount = amount or found["amount"]
            names = [n for n in re.split(r"\s*(?:,|;|&|\band\b)\s*", found["names"]) if n.strip()]
            phrase = self.phrase(amount)
            if len(names) > 1 and phrase.amounts and not phrase.words:
                return [(f"{amount} {name}", name) for name in names]
        return []

    def line(self, piece: Piece) -> Measured | Unresolved | Remark:
        """Return a line with its amounts and material, or why it is not understood."""
        text, shown = piece.text, piece.shown
        phrase = self.phrase(text)
        if is_for_pieces(text) and len(phrase.words.split()) <= 3 and not self._is_sure(phrase.words):
            return Unresolved(
                shown,
                said("That is for single pieces. Leave it out here and add it as a finish of the formula."),
            )
        if phrase.is_minus:
            return Unresolved(shown, said("Is that a minus sign or a dash? An amount can’t be below 0."))
        if not any(amount.unit for amount in phrase.amounts):
            return self._without_amount(phrase, shown)
        stated = stated_of(phrase.amounts)
        if _BATCH.match(text) and stated.is_weight and set(phrase.words.split()) <= _BATCH_WORDS:
            unit: Unit = stated.unit or "g"
            return Remark(shown, to_weight(next(iter(self.shelf.values())), stated.value, unit).grams)
        if not phrase.words:
            return Unresolved(shown, said("Which material is this an amount of?"))
        if phrase.words in ("oil", "eo") and _ESSENTIAL.search(text):
            likely = tuple(Choice(slug, POSSIBLE) for slug in USUAL_SCENTS if slug in self.shelf)
            return Unresolved(shown, said("Which essential oil is it?"), likely)
        choices = self._choices(phrase.words, is_essential=bool(_ESSENTIAL.search(text)))
        if not choices or choices[0].confidence < POSSIBLE:
            reason = said("No material is called “{words}”.", words=phrase.words[:60])
            return Unresolved(shown, reason, tuple(choices[:3]))
        best = choices[0]
        if not _is_settled(choices):
            name, meant = phrase.words[:60], self.shelf[best.slug].label
            reason = (
                said("“{name}” may mean several things.", name=name)
                if len(choices) > 1
                else said("Is “{name}” {meant}?", name=name, meant=meant)
            )
            return Unresolved(shown, reason, tuple(choices[:4]))
        return Measured(shown, best, tuple(choices[1:4]), phrase, piece.doubt)

    def _without_amount(self, phrase: Phrase, shown: str) -> Unresolved:
        choices = self._choices(phrase.words)
        likely = tuple(c for c in choices[:3] if c.confidence >= POSSIBLE)
        if phrase.asides:
            return Unresolved(
                shown,
                said("“{asides}” is a temperature or a time, not an amount.", asides=phrase.asides[0]),
                likely,
            )
        if phrase.amounts:
            number = phrase.amounts[0].written
            return Unresolved(
                shown,
                said("Which unit is {number} in? Grams, cups, spoons, drops or parts?", number=number),
                likely[:1],
            )
        if re.search(r"\b(?:a little|a bit|little|some)\b", shown, re.IGNORECASE):
            return Unresolved(shown, said("That isn’t an amount. Type grams or drops."), likely)
        reason = gettext_noop("There is no amount. Type one, or leave the line out if it isn’t a material.")
        return Unresolved(shown, reason, likely)

    def _choices(self, words: str, *, is_essential: bool = False) -> list[Choice]:
        """Return what the words may mean, nothing of another group than they say.

        An essential oil is a scent, whatever else its name says.
        """
        plain = words.split()
        exact = self.names.get(plain_words(words))
        if exact is None:
            for sign, slug in (("tincture", "alcohol_tincture"), ("infused", "infused_oil")):
                if sign in plain and slug in self.shelf:
                    return [Choice(slug, 1.0)]
        # "Flavour oil" is a flavour before it is an oil.
        hints = [word for word in reversed(plain) if word in _HINTS and word != "oil"] or ["oil"]
        hinted = ("scent",) if is_essential else _HINTS[hints[0]] if hints[0] in plain else None
        choices = match_names(words, self.names)
        if hinted is not None and not (choices and choices[0].confidence == 1.0):
            # The likeliest of that group, however unlike the name is.
            alike = {name: s for name, s in self.names.items() if self.shelf[s].group in hinted}
            return match_names(words, alike)
        choices = [choice for choice in choices if choice.confidence > UNLIKELY]
        if not choices:
            return []
        group, best = self.shelf[choices[0].slug].group, choices[0].confidence
        return [c for c in choices if c.confidence > best - RIVAL or self.shelf[c.slug].group == group]
