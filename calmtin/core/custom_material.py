"""A material that the library lacks, made from one that it behaves like."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace

from calmtin.core.data.loader import SCENT_VISCOSITY_PA_S, components
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Component, Group, Material, percents_of, pure
from calmtin.core.messages import Message, Words, gettext_noop, said
from calmtin.core.quantities import Degrees

# Nobody has measured it, so strength and curve are known less well than its model's.
LEAST_LN_STRENGTH_SD = 0.35
LEAST_CURVE_SPREAD_PCT = 12.0
MOST_SHIFT_C = 40.0
# What these groups do in a melt is known, whatever a maker says that they behave like.
LIQUID_GROUPS: tuple[Group, ...] = ("scent", "antioxidant")
POWDER_GROUPS: tuple[Group, ...] = ("powder", "colour")
USUAL_UPTAKE = 0.6  # g of oil that 1 g of an unknown powder takes up


def own_material(
    model: Material,
    *,
    slug: str,
    name: str,
    group: Group,
    melt_low_c: float | None = None,
    melt_high_c: float | None = None,
    density: float | None = None,
    strength_pct: float = 100.0,
    allergens: tuple[str, ...] = (),
    vegan: bool = True,
    grain_prone: bool = False,
    limit_pct: float | None = None,
    inci: str = "",
    notes: str = "",
) -> Material:
    """Return a material with its own melting range that otherwise behaves like `model`.

    Its crystals keep the model's spacing, moved by the difference of the middles
    of the two melting ranges, C; without a range they are the model's own, and
    then dissolve and set together with it. Estimated, with a wider band.
    """
    shift = 0.0
    if melt_low_c is not None and melt_high_c is not None:
        if melt_low_c > melt_high_c:
            raise CalmTinError(said("The lower melting temperature must come first."), field="melt_low")
        if model.melt_low_c is not None and model.melt_high_c is not None:
            shift = (melt_low_c + melt_high_c - model.melt_low_c - model.melt_high_c) / 2.0
        if abs(shift) > MOST_SHIFT_C:
            raise CalmTinError(
                Message(
                    "That melts {shift} away from {model}. Choose something that behaves more like it.",
                    shift=Degrees(abs(shift)),
                    model=model.in_words,
                ),
                field="behaves_like",
                limit=MOST_SHIFT_C,
                unit="C",
            )
    moved = abs(shift) >= 0.05
    if group in LIQUID_GROUPS:
        model = _as_liquid(model, group)
    elif group in POWDER_GROUPS:
        model = _as_powder(model)
    return replace(
        model,
        slug=slug,
        name=name,
        inci=inci,
        group=group,
        basis=model.basis if model.basis in ("powder", "wet") else "estimated",
        fractions=tuple(
            (_shifted(component, shift) if moved else component, share)
            for component, share in model.fractions
        ),
        ln_strength_sd=max(model.ln_strength_sd, LEAST_LN_STRENGTH_SD),
        curve_spread_pct=max(model.curve_spread_pct, LEAST_CURVE_SPREAD_PCT),
        strength_factor=model.strength_factor * strength_pct / 100.0,
        density_solid=density or model.density_solid,
        density_melt=model.density_melt * (density / model.density_solid if density else 1.0),
        melt_low_c=melt_low_c if melt_low_c is not None else model.melt_low_c,
        melt_high_c=melt_high_c if melt_high_c is not None else model.melt_high_c,
        allergens=allergens,
        vegan=vegan,
        grain_prone=grain_prone,
        limit_pct=limit_pct,
        notes=notes,
        confidence="low",
        source="the maker's own",
        behaviour_source=_behaves_like(model, shift) if moved else f"behaves like {model.in_words}",
    )


def is_alike(
    one: Sequence[tuple[Material, float]], other: Sequence[tuple[Material, float]], *, points: float
) -> bool:
    """Return whether two blends hold the same materials, each within so many percentage points.

    >>> from calmtin.core.data.loader import library
    >>> wax, oil = library()["beeswax_yellow"], library()["olive_oil"]
    >>> is_alike([(wax, 20.0), (oil, 80.0)], [(wax, 4.1), (oil, 15.9)], points=1.0)
    True
    >>> is_alike([(wax, 20.0), (oil, 80.0)], [(wax, 20.0)], points=1.0)
    False
    """
    mine, theirs = percents_of(pure(one)), percents_of(pure(other))
    return mine.keys() == theirs.keys() and all(
        abs(percent - theirs[material]) <= points for material, percent in mine.items()
    )


def blend_material(parts: Sequence[tuple[Material, float]], *, slug: str, name: str) -> Material:
    """Return a blend as a material, such as leftovers or a dilution in oil.

    Its crystals, density, strength and viscosity are those of what is in it, by mass (volumes add,
    logarithms of strength and viscosity too); powder in it is left out of the melt. It belongs to
    the group that most of it is, has every allergen of its parts, and keeps as short as the shortest.
    Raises `CalmTinError` for nothing, and for what holds no fat at all.
    """
    inside = pure([(m, mass) for m, mass in parts if mass > 0])
    melts = [(m, mass) for m, mass in inside if m.fractions]
    whole, melted = sum(mass for _, mass in inside), sum(mass for _, mass in melts)
    if not melts:
        raise CalmTinError(said("A blend needs at least one oil, butter or wax."), field="parts")
    groups: dict[Group, float] = {}
    components: dict[str, tuple[Component, float]] = {}
    for material, mass in melts:
        groups[material.group] = groups.get(material.group, 0.0) + mass
        for component, share in material.fractions:
            before = components.get(component.slug, (component, 0.0))[1]
            components[component.slug] = (component, before + mass * share / melted)

    def by_mass(figure: Callable[[Material], float]) -> float:
        return sum(mass * figure(m) for m, mass in melts) / melted

    def shortest(figure: Callable[[Material], float | None]) -> float | None:
        return min((f for m, _ in inside if (f := figure(m)) is not None), default=None)

    return Material(
        slug=slug,
        name=name,
        group=max(groups, key=lambda group: groups[group]),
        basis="given",
        fractions=tuple(components.values()),
        ln_strength_sd=by_mass(lambda m: m.ln_strength_sd),
        curve_spread_pct=by_mass(lambda m: m.curve_spread_pct),
        strength_factor=math.exp(by_mass(lambda m: math.log(m.strength_factor))),
        viscosity_pa_s=math.exp(by_mass(lambda m: math.log(m.viscosity_pa_s))),
        inci=", ".join(m.inci for m, _ in sorted(inside, key=lambda part: -part[1]) if m.inci),
        density_solid=whole / sum(mass / m.density_solid for m, mass in inside),
        density_melt=whole / sum(mass / m.density_melt for m, mass in inside),
        max_heat_c=shortest(lambda m: m.max_heat_c),
        shelf_life_months=shortest(lambda m: m.shelf_life_months),
        shelf_life_opened_months=shortest(lambda m: m.shelf_life_opened_months),
        vegan=all(m.vegan for m, _ in inside),
        allergens=tuple(sorted({flag for m, _ in inside for flag in m.allergens})),
        grain_prone=any(m.grain_prone for m, _ in inside),
        source=gettext_noop("the maker's own"),
        behaviour_source=gettext_noop("By mass, from what is in it"),
        made_of=tuple((m, mass / whole) for m, mass in inside),
    )


def _as_liquid(model: Material, group: Group) -> Material:
    """Return a model that is liquid in any room, as a scent, an antioxidant or a preservative is."""
    if model.group == group and model.fractions:
        return model
    thin = SCENT_VISCOSITY_PA_S if group == "scent" else model.viscosity_pa_s
    fractions = ((components()["oil"], 1.0),)
    return replace(model, basis="given", fractions=fractions, strength_factor=1.0, viscosity_pa_s=thin)


def _as_powder(model: Material) -> Material:
    """Return a model that stiffens by its volume, as powders and colours do."""
    if model.is_filler:
        return model
    return replace(model, basis="powder", fractions=(), oil_uptake=USUAL_UPTAKE, strength_factor=1.0)


def _behaves_like(model: Material, shift: float) -> Words:
    by = Degrees(abs(shift), 1)
    if shift > 0:
        return Message("behaves like {model}, moved up by {by}", model=model.in_words, by=by)
    return Message("behaves like {model}, moved down by {by}", model=model.in_words, by=by)


def _shifted(component: Component, shift_c: float) -> Component:
    return replace(component, slug=f"{component.slug}{shift_c:+.1f}", melt_c=component.melt_c + shift_c)
