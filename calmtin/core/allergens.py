"""What people ask to avoid, with its words; materials name these flags in `allergen_flags`."""

from __future__ import annotations

from enum import StrEnum

from calmtin.core.messages import gettext_noop, said


class Allergen(StrEnum):
    """A flag of a material."""

    BEE = "bee"
    COCONUT = "coconut"
    TREE_NUT = "tree_nut"
    SOY = "soy"
    LANOLIN = "lanolin"
    WHEAT = "wheat"
    SESAME = "sesame"

    @property
    def words(self) -> str:
        """The words for it on pages and in cautions."""
        return said(_WORDS[self][0])

    @property
    def on_label(self) -> str:
        """What a label says that the product contains."""
        return said(_WORDS[self][1])


# On pages and in cautions; on a label.
_WORDS = {
    Allergen.BEE: (gettext_noop("bee products"), gettext_noop("bee products")),
    Allergen.COCONUT: (gettext_noop("coconut"), gettext_noop("coconut")),
    Allergen.TREE_NUT: (gettext_noop("nuts"), gettext_noop("tree nuts")),
    Allergen.SOY: (gettext_noop("soy"), gettext_noop("soy")),
    Allergen.LANOLIN: (gettext_noop("lanolin"), gettext_noop("lanolin")),
    Allergen.WHEAT: (gettext_noop("wheat"), gettext_noop("wheat")),
    Allergen.SESAME: (gettext_noop("sesame"), gettext_noop("sesame")),
}
ANIMAL = "vegan"  # the flag by which a search leaves out what is not vegan


def allergen_words(flag: str) -> str:
    """Return the words for a flag, as a page or a caution says it.

    >>> allergen_words("tree_nut"), allergen_words("bee")
    ('nuts', 'bee products')
    """
    return Allergen(flag).words


def avoidable() -> dict[str, str]:
    """Return what a search may leave out, by flag: every allergen, and animal products."""
    return {flag.value: flag.words for flag in Allergen} | {ANIMAL: said("animal products")}
