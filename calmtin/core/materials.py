"""What a material is, and where each figure about it comes from."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from calmtin.core.errors import UnknownMaterial
from calmtin.core.messages import Words, gettext_noop, said

Group = Literal[
    "wax",
    "butter",
    "soft_fat",
    "oil",
    "antioxidant",
    "scent",
    "powder",
    "colour",
    "water_bearing",
    "other",
]
GROUPS: tuple[Group, ...] = get_args(Group)

# The six layers of a tin, bottom to top, and the groups that each takes in.
Layer = Literal["wax", "butter", "soft_fat", "oil", "powder", "finishing"]
LAYERS: tuple[Layer, ...] = get_args(Layer)
_LAYER_OF: dict[Group, Layer] = {
    "wax": "wax",
    "butter": "butter",
    "soft_fat": "soft_fat",
    "oil": "oil",
    "powder": "powder",
    "colour": "powder",
    "antioxidant": "finishing",
    "scent": "finishing",
    "water_bearing": "finishing",
    "other": "finishing",
}

# What a material comes as, from what melts soonest to what takes longest.
Form = Literal["shavings", "pellets", "chopped", "block"]
FORMS: tuple[Form, ...] = get_args(Form)
FORM_NAMES: dict[Form, str] = {
    "shavings": gettext_noop("shavings or flakes"),
    "pellets": gettext_noop("pellets"),
    "chopped": gettext_noop("chopped or scooped pieces"),
    "block": gettext_noop("one block"),
}
# How the solids behaviour of a material is known; "estimated" widens the band.
Basis = Literal["fitted", "given", "estimated", "powder", "wet"]
Confidence = Literal["high", "medium", "low"]
Network = Literal["wax", "fat"]


# The tables give melt densities "when melted" without a temperature; they fit 70 C best.
MELT_DENSITY_AT_C = 70.0
# Change of a liquid fat's density, g/ml per C (Bailey; the rule named in materials.csv).
THINNING_PER_C = -0.00068


def warmed_density(density: float, from_c: float, to_c: float) -> float:
    """Return a liquid's density, g/ml, at `to_c` from that at `from_c`.

    >>> round(warmed_density(0.913, 25.0, 70.0), 4)  # sweet almond oil
    0.8824
    """
    return density + THINNING_PER_C * (to_c - from_c)


@dataclass(frozen=True, slots=True)
class Component:
    """One crystallising part: melting point C, enthalpy kJ/mol, molar mass g/mol.

    `strength` is the load that its crystals carry, fat crystals being about 1;
    `network` tells whether they count among the fat crystals, which carry more
    when they are few.
    """

    slug: str
    melt_c: float
    enthalpy_kj_mol: float
    molar_mass: float
    strength: float
    network: Network


@dataclass(frozen=True, slots=True)
class Curve:
    """A published solid fat content curve: percent solid, and its spread, at C."""

    temps_c: tuple[float, ...]
    solid_pct: tuple[float, ...]
    source: str


@dataclass(frozen=True, slots=True)
class Material:
    """A material of the shelf. Densities in g/ml, temperatures in C, uses in %.

    None means "not known", never zero and never "no limit".
    `fractions` are mass fractions of its components and sum to 1; a powder or a
    wet thing has none, because it takes no part in the melt.
    `ln_strength_sd` and `curve_spread_pct` are one standard deviation of ln
    strength, and the points of solid by which lots differ. `viscosity_pa_s` is that of
    its liquid part at 25 C, Pa s; `oil_uptake` the oil that 1 g of a powder takes up
    until it balls, g. `limit_pct` is the most
    that its supplier allows, as the maker has entered it. `made_of` holds materials and shares
    that sum to 1, where it is a blend that is a material by now.
    """

    slug: str
    name: str
    group: Group
    basis: Basis
    fractions: tuple[tuple[Component, float], ...] = ()
    ln_strength_sd: float = 0.15
    curve_spread_pct: float = 0.0
    strength_factor: float = 1.0
    viscosity_pa_s: float = 0.07
    oil_uptake: float = 0.0
    inci: str = ""
    density_solid: float = 0.92
    density_melt: float = 0.885
    bulk_density: float | None = None
    melt_low_c: float | None = None
    melt_high_c: float | None = None
    max_heat_c: float | None = None
    shelf_life_months: float | None = None
    shelf_life_opened_months: float | None = None
    vegan: bool = True
    allergens: tuple[str, ...] = ()
    grain_prone: bool = False
    graininess: float | None = None  # how prone, 0 to 1, shea being 1; None where only that it is
    slow_to_harden: bool = False
    own_scent: bool = False
    skin_feel: str = ""
    typical_low_pct: float | None = None
    typical_high_pct: float | None = None
    limit_pct: float | None = None
    form: Form | None = None  # what it comes as, where its maker says
    notes: Words = ""
    confidence: Confidence = "low"
    source: str = ""
    behaviour_source: Words = ""
    made_of: tuple[tuple[Material, float], ...] = ()

    @property
    def label(self) -> str:
        """The name without the part in brackets, for lines and pictures."""
        return self.name.split("(")[0].strip()

    @property
    def in_words(self) -> str:
        """The label inside a sentence: its first letter small, unless it begins with an acronym."""
        starts_small = self.label[1:2].islower()
        return self.label[0].lower() + self.label[1:] if starts_small else self.label

    @property
    def layer(self) -> Layer:
        """The layer of the tin section that this material lies in."""
        return _LAYER_OF[self.group]

    def has_any(self, avoid: Iterable[str]) -> bool:
        """Return whether it has any of the allergen flags in `avoid`, or is of an animal for "vegan"."""
        return any((not self.vegan) if flag == "vegan" else flag in self.allergens for flag in avoid)

    @property
    def is_filler(self) -> bool:
        """Whether it stiffens by its volume, as powders and pigments do."""
        return self.basis == "powder"

    @property
    def is_wet(self) -> bool:
        """Whether it carries water or does not mix with oil."""
        return self.basis == "wet"


def pure(parts: Sequence[tuple[Material, float]]) -> list[tuple[Material, float]]:
    """Return the masses of pure materials, with every blend resolved into its parts.

    >>> oil = Material("o", "Oil", "oil", "given")
    >>> mint = Material("m", "Mint", "scent", "given")
    >>> left = Material("l", "Left over", "oil", "given", made_of=((oil, 0.9), (mint, 0.1)))
    >>> [(m.slug, mass) for m, mass in pure([(left, 10.0), (oil, 90.0)])]
    [('o', 99.0), ('m', 1.0)]
    """
    found: dict[str, tuple[Material, float]] = {}
    for material, mass in parts:
        inside = pure([(m, mass * share) for m, share in material.made_of]) or [(material, mass)]
        for one, grams in inside:
            found[one.slug] = (one, found[one.slug][1] + grams if one.slug in found else grams)
    return list(found.values())


def percents_of(parts: Sequence[tuple[Material, float]]) -> dict[Material, float]:
    """Return the percent by mass of each material that has any, lines of the same one together.

    >>> oil = Material("o", "Oil", "oil", "given")
    >>> list(percents_of([(oil, 1.0), (oil, 3.0)]).values()), percents_of([(oil, 0.0)])
    ([100.0], {})
    """
    found: dict[Material, float] = {}
    whole = sum(mass for _, mass in parts)
    for material, mass in parts:
        if mass > 0.0:
            found[material] = found.get(material, 0.0) + 100.0 * mass / whole
    return found


class Shelf(Mapping[str, Material]):
    """The materials that a formula may use, by slug, in the order of the craft."""

    def __init__(self, materials: Iterable[Material]) -> None:
        order = {group: place for place, group in enumerate(GROUPS)}
        ranked = sorted(materials, key=lambda m: (order[m.group], m.name.lower()))
        self._by_slug = {material.slug: material for material in ranked}

    def __getitem__(self, slug: str) -> Material:
        try:
            return self._by_slug[slug]
        except KeyError:
            raise UnknownMaterial(
                said(
                    "There is no material called “{slug}” on the shelf. Choose one from the list, or "
                    "add it to the pantry first.",
                    slug=slug,
                ),
                field="material",
                material=slug,
            ) from None

    def __contains__(self, slug: object) -> bool:
        return slug in self._by_slug

    def __iter__(self) -> Iterator[str]:
        return iter(self._by_slug)

    def __len__(self) -> int:
        return len(self._by_slug)
