"""What a label says, in its full words, in fewer, and with all the rest on a slip.

What usually has to be on it follows Regulation (EC) 1223/2009, article 19: content, name, maker,
best before or months once open, cautions, batch, ingredients. Article 19 (2) lets what a small pack
cannot hold stand on an enclosed slip. Rules differ; the maker's authority decides.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from calmtin.core.allergens import Allergen
from calmtin.core.cautions.ceilings import ScentFacts, phototoxic_sum
from calmtin.core.cautions.labelling import OATS, claim_in
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material
from calmtin.core.messages import gettext_noop, said
from calmtin.core.packing.ingredients import Ingredients
from calmtin.core.quantities import OUNCE_G

Naming = Literal["inci", "both", "common"]
NAMINGS: dict[Naming, str] = {
    "inci": gettext_noop("by INCI"),
    "both": gettext_noop("by INCI, common name beside it"),
    "common": gettext_noop("in common words"),
}
Form = Literal["full", "short", "slip", "least", "own"]
FORMS: tuple[Form, ...] = ("full", "short", "slip", "least")
Role = Literal[
    "name", "what", "net", "use", "ingredients", "cautions", "keep", "code", "maker", "slip", "scan"
]
FRONT: tuple[Role, ...] = ("name", "what", "net", "maker", "scan")
# A code that a phone reads from a hand's breadth: modules of a third of a mm, its white edge included.
SCAN_MM = 11.0

USES = {
    "gloss": gettext_noop("Stroke onto the lips."),
    "lip_balm": gettext_noop("Stroke onto the lips as often as you like."),
    "whipped_butter": gettext_noop("Warm a little between the hands and rub it in."),
    "poured_butter": gettext_noop("Warm a little between the hands and rub it in."),
    "soft_salve": gettext_noop("Rub in a little with the fingertips."),
    "firm_salve": gettext_noop("Warm it with a thumb and rub in a little."),
    "lotion_bar": gettext_noop("Warm the bar in your hands and glide it over the skin."),
    "massage_bar": gettext_noop("Glide the warm bar over the skin."),
}
PATCH = gettext_noop("Try a little on the inside of your arm first and wait a day.")
PATCH_SHORT = gettext_noop("Patch test first.")
HEAT = gettext_noop("Keep it out of heat and sun.")


@dataclass(frozen=True, slots=True)
class Block:
    """A part of a label: its words, bold or not, and its relative size.

    A code to scan has its address as its words and a size of its own.
    """

    role: Role
    text: str
    bold: bool = False
    scale: float = 1.0


@dataclass(frozen=True, slots=True)
class LabelText:
    """All that a label may say; `name`, `what`, `maker`, `place`, `use` and `note` are the maker's words.

    `address` is that of the code to scan, empty for none. A label for oneself, `is_own`, says what it
    is and from when; the rest begins where a piece leaves the house.
    """

    name: str
    maker: str
    place: str
    net_g: float
    ingredients: str
    allergens: tuple[str, ...]
    contains: tuple[str, ...]
    cautions: tuple[str, ...]
    use: str
    note: str
    code: str
    best_before: date | None
    opened_months: int | None
    what: str = ""
    made_on: date | None = None
    address: str = ""
    is_own: bool = False

    @property
    def forms(self) -> tuple[Form, ...]:
        """The forms that it may take, the one that says most first."""
        return ("own",) if self.is_own else FORMS

    @property
    def net(self) -> str:
        """The net weight in g and oz."""
        return net_words(self.net_g)

    def blocks(self, form: Form) -> tuple[Block, ...]:
        """Return the parts of the label in one of its forms, from the top down."""
        name = Block("name", self.name, bold=True, scale=1.55)
        what, scan = Block("what", self.what), Block("scan", self.address)
        if form == "own":
            return _told(name, what, Block("code", self._made()), scan)
        net = Block("net", self.net, bold=True)
        maker = Block("maker", ", ".join(filter(None, (self.maker, self.place))))
        code = Block("code", self._code(short=form != "full"))
        if form == "slip":
            rest = Block("slip", said("For everything else, see the slip."))
            return _told(name, what, net, code, maker, rest, scan)
        if form == "least":
            smaller = Block("name", self.name, bold=True, scale=1.1)
            return _told(smaller, net, code, Block("slip", said("See the slip.")), scan)
        ingredients = Block("ingredients", self._ingredients())
        if form == "short":
            cautions = " ".join([*self.cautions[:1], self._contains(), self.note, PATCH_SHORT, HEAT])
            return _told(
                name, what, net, ingredients, Block("cautions", _tidy(cautions)), code, maker, scan
            )
        cautions = " ".join([*self.cautions, self._contains(), self.note, PATCH])
        return _told(
            name,
            what,
            net,
            Block("use", self.use),
            ingredients,
            Block("cautions", _tidy(cautions)),
            Block("keep", HEAT),
            code,
            maker,
            scan,
        )

    def _ingredients(self) -> str:
        """Return the list, the allergens of the scents at its end, where lists have them."""
        told = ", ".join(filter(None, (self.ingredients, *self.allergens)))
        return said("Ingredients: {told}.", told=told) if told else ""

    def _contains(self) -> str:
        return said("Contains {contains}.", contains=", ".join(self.contains)) if self.contains else ""

    def _made(self) -> str:
        """Return when it was made, its batch, and how long it keeps."""
        made = said("made {day}", day=f"{self.made_on:%d %b %Y}".lstrip("0")) if self.made_on else ""
        until = said("best before {month}", month=f"{self.best_before:%b %Y}") if self.best_before else ""
        return " · ".join(part.replace(" ", "\u00a0") for part in (made, self.code, until) if part)

    def _code(self, *, short: bool) -> str:
        until = f"{self.best_before:%b\u00a0%Y}" if self.best_before else ""
        if short:
            months = (
                said("open {opened_months} mo", opened_months=self.opened_months)
                if self.opened_months
                else ""
            )
            told = filter(None, (self.code, f"BB {until}" if until else "", months))
            return " · ".join(part.replace(" ", "\u00a0") for part in told)
        months = (
            said("{opened_months} months", opened_months=self.opened_months)
            if self.opened_months != 1
            else "1 month"
        )
        opened = said("once open, use within {months}", months=months) if self.opened_months else ""
        return " · ".join(
            filter(None, (f"Batch {self.code}", f"best before {until}" if until else "", opened))
        )


def _told(*blocks: Block) -> tuple[Block, ...]:
    return tuple(block for block in blocks if block.text)


def _tidy(words: str) -> str:
    return re.sub(r"\s+", " ", words).strip()


def net_words(net_g: float) -> str:
    """Return a net weight as a label has it: never more than is in it, in g and oz.

    Whole grams from 10 g on, tenths below; ounces with three figures, rounded down too.

    >>> net_words(28.9), net_words(4.26)
    ('28 g (0.98 oz)', '4.2 g (0.14 oz)')
    """
    grams = math.floor(net_g) if net_g >= 10.0 else math.floor(net_g * 10.0 + 1e-9) / 10.0
    ounces = grams / float(OUNCE_G)
    places = 1 if ounces >= 10.0 else 2
    ounces = math.floor(ounces * 10**places + 1e-9) / 10**places
    told = (
        gettext_noop("{grams:g} g ({ounces:.1f} oz)")
        if places == 1
        else gettext_noop("{grams:g} g ({ounces:.2f} oz)")
    )
    return said(told, grams=float(grams), ounces=ounces)


def net_weight(weights_g: Sequence[float], light_g: Sequence[float], planned_g: float) -> float:
    """Return the net weight to declare, g: that of the lightest piece that is not set aside.

    As planned where none was weighed.

    >>> net_weight([30.4, 29.1, 24.0], [24.0], 30.0)
    29.1
    """
    rest = list(weights_g)
    for weight in light_g:
        rest.remove(weight)
    return min(rest, default=planned_g)


def ingredients_in(told: Ingredients, naming: Naming) -> str:
    """Return the list of ingredients as a maker wants it named."""
    if naming == "common":
        return told.by_name
    if naming == "inci":
        return told.by_inci
    return ", ".join(
        entry.inci if entry.common.lower() in entry.inci.lower() else f"{entry.inci} ({entry.common})"
        for entry in told.listed
    )


def refuse_claims(**texts: str) -> None:
    """Refuse words that claim what oils and butters cannot do; `field` of the error says in which text.

    Raises `CalmTinError`.
    """
    for field, text in texts.items():
        found = claim_in(text)
        if found is not None:
            raise CalmTinError(f"{found.title}. {found.words} {found.instead}", field=field)


def contains_of(parts: Iterable[Material]) -> tuple[str, ...]:
    """Return what people ask for that is in it: nuts, bee products, soy; oats with what comes along."""
    used = {material.slug: material for material in parts}
    named = {flag for slug, material in used.items() if slug not in OATS for flag in material.allergens}
    told = {said(Allergen(flag).on_label) for flag in named}
    if Allergen.WHEAT not in named and used.keys() & OATS:
        told.add(said("oats (traces of wheat)"))
    return tuple(sorted(told))


def cautions_of(
    percents: Mapping[Material, float], audience: str, scents: Mapping[str, ScentFacts]
) -> tuple[str, ...]:
    """Return the cautions of a label for its audience and its scents, the one that always stands first.

    `percents` are those of the pure materials. The sun is named only where the scents together pass
    what is known to be safe in it.
    """
    told = [
        said("For the lips.")
        if audience == "adult_lips"
        else said("For the skin only; keep it out of the eyes.")
    ]
    used = [scents[material.slug] for material in percents if material.slug in scents]
    if not audience.startswith(("child", "infant")) and any(_age_matters(facts) for facts in used):
        told.append(said("Not for small children."))
    if audience != "pregnancy" and any(re.search(r"\bavoid\b\.?", f.pregnancy_note, re.I) for f in used):
        told.append(said("Not in pregnancy."))
    if phototoxic_sum(list(percents.items()), scents) > 1.0:
        told.append(said("Keep the skin out of the sun for 12 hours after use."))
    return (*told, said("Keep away from children.")) if audience == "adult_lips" else tuple(told)


def _age_matters(facts: ScentFacts) -> bool:
    return not facts.avoid_under_age.startswith("none")
