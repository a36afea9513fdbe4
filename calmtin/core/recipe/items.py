"""What a recipe was read as: lines with weights, what is to be settled, and remarks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from calmtin.core.messages import Words
from calmtin.core.recipe.grammar import Amount, Phrase
from calmtin.core.recipe.matching import Choice
from calmtin.core.recipe.measures import Weight


@dataclass(frozen=True, slots=True)
class RecipeLine:
    """A parsed line with its weight: `stated` is the text, `question` anything uncertain."""

    text: str
    material: str
    confidence: float
    stated: Amount
    weight: Weight
    question: Words = ""
    others: tuple[Choice, ...] = ()
    strength: str = ""


@dataclass(frozen=True, slots=True)
class Unresolved:
    """A line that the maker must settle: the reason, and the likely meanings."""

    text: str
    reason: Words
    choices: tuple[Choice, ...] = ()


@dataclass(frozen=True, slots=True)
class Remark:
    """A line that is about the whole: how large the batch is."""

    text: str
    batch_g: float


@dataclass(frozen=True, slots=True)
class Recipe:
    """A read recipe: every line of the input but blank ones and headings, in its order."""

    items: tuple[RecipeLine | Unresolved | Remark, ...]

    @property
    def lines(self) -> list[RecipeLine]:
        """The lines that have a weight."""
        return [item for item in self.items if isinstance(item, RecipeLine)]

    @property
    def unresolved(self) -> list[Unresolved]:
        """The lines that are still to be settled."""
        return [item for item in self.items if isinstance(item, Unresolved)]

    def percent_ranges(self) -> list[tuple[float, float, float]]:
        """Return each line's percent of the whole: usual, least, most.

        Least is its low weight beside the others' high ones, and the other way.
        """
        total = sum(line.weight.grams for line in self.lines)
        low = sum(line.weight.low for line in self.lines)
        high = sum(line.weight.high for line in self.lines)
        found = []
        for line in self.lines:
            w = line.weight
            least = w.low / (w.low + high - w.high) if w.low else 0.0
            most = w.high / (w.high + low - w.low) if w.high else 0.0
            found.append((100.0 * w.grams / total if total else 0.0, 100.0 * least, 100.0 * most))
        return found


@dataclass(frozen=True, slots=True)
class Measured:
    """A line with its amounts and a material, before it is weighed."""

    text: str
    choice: Choice
    others: tuple[Choice, ...]
    phrase: Phrase
    doubt: Words = ""

    @property
    def stated(self) -> Amount:
        """The amount that counts."""
        return stated_of(self.phrase.amounts)


def stated_of(amounts: Sequence[Amount]) -> Amount:
    """Return which of a line's amounts counts: a weight before a measure, metric before ounces.

    A percent counts only where nothing else stands.
    """
    with_unit = [amount for amount in amounts if amount.unit is not None] or list(amounts)
    rank = {"g": 0, "kg": 0, "mg": 0, "oz": 1, "lb": 1, "stick": 1, "percent": 3}
    return min(with_unit, key=lambda amount: rank.get(amount.unit or "", 2))
