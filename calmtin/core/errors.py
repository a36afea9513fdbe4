"""One root error for everything the core refuses.

The fields come first, for a caller that wants to place the message beside the
right box; the sentence is for the person and always says what to do next.
"""

from __future__ import annotations

from calmtin.core.messages import Words


class CalmTinError(ValueError):
    """A refusal that a maker can act on.

    `field` names what was wrong ("percent", "count"), `material` the slug it
    belongs to, `limit` and `unit` the bound that was passed, where there is one.
    """

    def __init__(
        self,
        sentence: Words,
        *,
        field: str = "",
        material: str = "",
        limit: float | None = None,
        unit: str = "",
    ) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.field = field
        self.material = material
        self.limit = limit
        self.unit = unit

    def __str__(self) -> str:
        return str(self.sentence)


class UnreadableNumber(CalmTinError):
    """The typed text is not a number that can be used here."""


class UnknownMaterial(CalmTinError, KeyError):
    """No material of this name on the shelf; a KeyError too, so that a shelf is a mapping."""


class EmptyFormula(CalmTinError):
    """There is nothing to work with: no line has any weight."""


class DoesNotAddUp(CalmTinError):
    """Percentages or masses that cannot be made to sum to the whole."""


class DoesNotFit(CalmTinError):
    """Amounts that the containers, the pot or the scale cannot take."""


class BadFormulaFile(CalmTinError):
    """A formula file that cannot be read as `calmtin.formula`."""
