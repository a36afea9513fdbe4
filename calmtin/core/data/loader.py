"""Read the tables: typed, checked, cached. An empty cell is None, never zero."""

from __future__ import annotations

import csv
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import replace
from functools import cache
from pathlib import Path
from statistics import mean
from types import MappingProxyType
from typing import Any, cast

from calmtin.core.cautions.ceilings import Ceiling, LimitStatus, ScentFacts
from calmtin.core.data.marked import marked
from calmtin.core.kinds import Kind
from calmtin.core.materials import (
    GROUPS,
    MELT_DENSITY_AT_C,
    Basis,
    Component,
    Confidence,
    Curve,
    Group,
    Layer,
    Material,
    Network,
    Shelf,
    warmed_density,
)
from calmtin.core.process.fill import USUAL_DENSITY, Container

HERE = Path(__file__).parent
SCENT_VISCOSITY_PA_S = 0.003  # thin as water or a little more
USUAL_VISCOSITY_PA_S = 0.07  # of a seed oil at 25 C, and of melted fat and wax carried on to there


def read_table(name: str) -> list[dict[str, str]]:
    """Return the rows of `name`.csv as they stand in the file."""
    with (HERE / f"{name}.csv").open(newline="", encoding="utf-8") as file:
        return list(csv.DictReader(file))


def _number(cell: str) -> float | None:
    return float(cell) if cell.strip() else None


@cache
def components() -> Mapping[str, Component]:
    """Return the component grid by slug, with the fitted strengths in place of the first guesses."""
    fitted = {row["component"]: float(row["strength"]) for row in read_table("strengths")}
    return MappingProxyType(
        {
            row["slug"]: Component(
                row["slug"],
                float(row["melt_c"]),
                float(row["enthalpy_kj_mol"]),
                float(row["molar_mass_g_mol"]),
                fitted.get(row["slug"], float(row["strength"])),
                cast(Network, row["network"]),
            )
            for row in read_table("components")
        }
    )


@cache
def fractions() -> Mapping[str, tuple[tuple[Component, float], ...]]:
    """Return each material's components and mass fractions (fitted by `core.fitting`)."""
    found: dict[str, list[tuple[Component, float]]] = defaultdict(list)
    for row in read_table("fractions"):
        found[row["material"]].append((components()[row["component"]], float(row["mass_fraction"])))
    return MappingProxyType({slug: tuple(parts) for slug, parts in found.items()})


@cache
def published_curves() -> Mapping[str, Curve]:
    """Return the curve that each fat is held to: model.md's own, else solids.csv's."""
    points: dict[str, list[tuple[float, float]]] = defaultdict(list)
    sources: dict[str, str] = {}
    for row in read_table("solids"):
        points[row["slug"]].append((float(row["temp_c"]), float(row["sfc_pct"])))
        sources[row["slug"]] = row["source"]
    own = read_table("model_curves")
    for slug in dict.fromkeys(row["slug"] for row in own):
        points[slug] = []
        sources[slug] = "pulsed NMR, tempered where it matters (docs/model.md)"
    for row in own:
        points[row["slug"]].append((float(row["temp_c"]), float(row["sfc_pct"])))
    return MappingProxyType(
        {
            slug: Curve(
                tuple(temp for temp, _ in sorted(pairs)),
                tuple(solid for _, solid in sorted(pairs)),
                sources[slug],
            )
            for slug, pairs in points.items()
        }
    )


@cache
def library() -> Shelf:
    """Return the shipped library: every material and scent of the tables."""
    rows = read_table("materials")
    # Means of the table as it came, so that correcting or adding one row does not move its neighbours.
    solid = _group_means(rows, "density_25c_g_ml")
    melt = _group_means(rows, "density_melt_g_ml")
    rows += read_table("added_materials")
    scents = read_table("scents")
    by_slug = {row["slug"]: row for row in [*rows, *scents]}
    for edit in read_table("edits"):
        by_slug[edit["slug"]][edit["field"]] = edit["value"]
    behaviour = {row["material"]: row for row in read_table("behaviour")}
    traits = _traits()
    return Shelf(
        [
            replace(_material(row, behaviour[row["slug"]], solid, melt), **traits.get(row["slug"], {}))
            for row in rows
        ]
        + [_scent(row) for row in scents]
    )


def _traits() -> Mapping[str, dict[str, Any]]:
    """Return the traits of materials: how grainy, whether slow to harden, whether it has its own scent."""
    found: dict[str, dict[str, Any]] = defaultdict(dict)
    for row in read_table("traits"):
        graded = row["trait"] == "graininess"
        found[row["material"]][row["trait"]] = float(row["value"]) if graded else row["value"] == "1"
    return found


def _group_means(rows: list[dict[str, str]], column: str) -> dict[str, float]:
    known: dict[str, list[float]] = defaultdict(list)
    for row in rows:
        if row[column]:
            known[row["group"]].append(float(row[column]))
    return {group: mean(values) for group, values in known.items()}


def _material(
    row: dict[str, str],
    behaviour: dict[str, str],
    solid_means: dict[str, float],
    melt_means: dict[str, float],
) -> Material:
    group = cast(Group, row["group"])
    assert group in GROUPS, group
    solid = _number(row["density_25c_g_ml"]) or solid_means[group]
    melt = _number(row["density_melt_g_ml"]) or melt_means.get(group)
    if melt is None:
        # Liquids are given at 25 C and thin out as they warm; powders stay as they are.
        melt = solid if behaviour["basis"] == "powder" else warmed_density(solid, 25.0, MELT_DENSITY_AT_C)
    return Material(
        slug=row["slug"],
        name=row["name"],
        inci=row["inci"],
        group=group,
        basis=cast(Basis, behaviour["basis"]),
        fractions=fractions().get(row["slug"], ()),
        ln_strength_sd=_number(behaviour["ln_strength_sd"]) or 0.0,
        curve_spread_pct=_number(behaviour["curve_spread_pct"]) or 0.0,
        viscosity_pa_s=_number(behaviour["viscosity_pa_s"]) or USUAL_VISCOSITY_PA_S,
        oil_uptake=_number(behaviour["oil_uptake_g_g"]) or 0.0,
        density_solid=solid,
        density_melt=melt,
        bulk_density=_number(row["bulk_density_g_ml"]),
        melt_low_c=_number(row["melt_low_c"]),
        melt_high_c=_number(row["melt_high_c"]),
        max_heat_c=_number(row["max_heat_c"]),
        shelf_life_months=_number(row["shelf_life_months_unopened"]),
        shelf_life_opened_months=_number(row["shelf_life_months_opened"]),
        vegan=row["vegan"] == "yes",
        allergens=tuple(a for a in row["allergen_flags"].split(";") if a and a != "none"),
        grain_prone=row["grain_prone"] == "yes",
        skin_feel=row["skin_feel"],
        typical_low_pct=_number(row["typical_use_low_pct"]),
        typical_high_pct=_number(row["typical_use_high_pct"]),
        notes=marked(row["notes"]),
        confidence=cast(Confidence, row["confidence"]),
        source=row["source"],
        behaviour_source=marked(behaviour["source"]),
    )


def _scent(row: dict[str, str]) -> Material:
    density = _number(row["density_20c_g_ml"]) or 0.9
    return Material(
        slug=row["slug"],
        name=row["name"],
        inci=row["latin"],
        group="scent",
        basis="given",
        fractions=((components()["oil"], 1.0),),
        viscosity_pa_s=SCENT_VISCOSITY_PA_S,
        density_solid=density,
        density_melt=warmed_density(density, 20.0, MELT_DENSITY_AT_C),
        typical_low_pct=0.1,
        typical_high_pct=_number(row["dermal_max_pct"]),
        notes=marked(row["skin_note"]),
        confidence=cast(Confidence, row["confidence"]),
        source=row["source"],
        behaviour_source="Liquid at any room temperature",
    )


@cache
def kinds() -> Mapping[str, Kind]:
    """Return the product kinds with their starting ranges, in order of firmness."""
    found: dict[str, Kind] = {}
    for row in read_table("kinds"):
        ranges: dict[Layer, tuple[float, float]] = {
            layer: (float(row[f"{layer}_low"]), float(row[f"{layer}_high"]))
            for layer in ("wax", "butter", "soft_fat", "oil", "powder")
        }
        found[row["slug"]] = Kind(
            slug=row["slug"],
            name=row["name"],
            ranges=MappingProxyType(ranges),
            target=(float(row["target_low"]), float(row["target_high"])),
            hold_c=_number(row["hold_c"]),
            hold_rung=_number(row["hold_rung"]),
        )
    return MappingProxyType(found)


@cache
def containers() -> Mapping[str, Container]:
    """Return the shipped containers whose size is known, by slug.

    Where only a nominal fill is known, that fill counts as the container's volume
    and its usual level is full; a nominal fill in grams is taken at the density
    of a usual balm.
    """
    found: dict[str, Container] = {}
    for row in read_table("containers"):
        brim, fill = _number(row["brim_volume_ml"]), _number(row["usual_net_fill"])
        if fill is None:
            continue
        fill_ml = fill / USUAL_DENSITY if row["fill_unit"] == "g" else fill
        volume = brim or fill_ml
        found[row["slug"]] = Container(
            slug=row["slug"],
            name=row["name"],
            kind=row["kind"],
            volume_ml=volume,
            usual_level=min(1.0, fill_ml / volume),
            is_nominal=brim is None,
            notes=marked(row["notes"]),
        )
    return MappingProxyType(found)


@cache
def synonyms() -> Mapping[str, str]:
    """Return other common names of the library's materials, each with its slug."""
    return MappingProxyType(
        {name: row["slug"] for row in read_table("synonyms") for name in row["names"].split("|")}
    )


@cache
def drops_per_ml() -> Mapping[str, tuple[float, float, float]]:
    """Return each scent's drops a ml: usual, least, most."""
    found = {}
    for row in read_table("scents"):
        usual = _number(row["drops_per_ml"])
        if usual is not None:
            low, high = _number(row["drops_per_ml_low"]), _number(row["drops_per_ml_high"])
            found[row["slug"]] = (usual, low or usual, high or usual)
    return MappingProxyType(found)


@cache
def scent_facts() -> Mapping[str, ScentFacts]:
    """Return the facts known about each scent of the library."""
    return MappingProxyType(
        {
            row["slug"]: ScentFacts(
                slug=row["slug"],
                dermal_max_pct=_number(row["dermal_max_pct"]),
                dermal_max_status=cast(LimitStatus, row["dermal_max_status"]),
                phototoxic_max_pct=_number(row["phototoxic_max_pct"])
                if row["phototoxic"] == "yes"
                else None,
                lip_note=row["lip_note"],
                avoid_under_age=row["avoid_under_age"],
                pregnancy_note=row["pregnancy_note"],
                skin_note=row["skin_note"],
                allergens=tuple(a.strip() for a in row["fragrance_allergens"].split(";") if a.strip()),
                flash_c=_number(row["flash_point_c"]),
            )
            for row in read_table("scents")
        }
    )


@cache
def ceilings() -> Mapping[str, Ceiling]:
    """Return the scent ceilings by audience."""
    return MappingProxyType(
        {
            row["audience"]: Ceiling(row["audience"], float(row["total_max_pct"]), row["notes"])
            for row in read_table("scent_ceilings")
        }
    )
