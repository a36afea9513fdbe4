"""Fit the strengths of wax and hard-fat crystals to gels; nothing is typed in by hand.

Run `script/fit_solids` after a change to the law or the grid; it writes data/strengths.csv.
Beeswax is anchored on the tried gels of docs/model.md at 21 C. Each other wax stands between
two kinds of evidence: its hardness beside beeswax in a 10 % gel (the upper end of its range in
waxes.csv, since lean gels carry more than those papers' stirred ones) and the share of
beeswax that makers replace it by (swaps.csv). Hard fats set to a soft paste.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from scipy.optimize import minimize_scalar

from calmtin.core.data.loader import HERE, components, library, read_table
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import yield_values
from calmtin.core.engine.ladder import EXPONENT, raw_rungs
from calmtin.core.materials import Material

AT = np.array([21.0])
OIL = "sunflower_high_oleic"
# Tried gels of docs/model.md: percent of beeswax in oil, rung at 21 C.
BEESWAX = ((5.0, 1.1), (10.0, 2.8), (15.0, 4.1), (20.0, 5.1), (33.0, 7.2), (40.0, 8.1))
# Hard fats in oil: percent, and the rung of the paste that it sets to (soy as tried in docs/model.md).
PASTES = {"soy_wax": (20.0, 2.4), "soy_wax_full": (10.0, 2.2), "berry_wax": (15.0, 2.2)}
OWN = {
    "beeswax_yellow": ("beeswax_64", "beeswax_58"),
    "candelilla_wax": ("candelilla",),
    "carnauba_wax": ("carnauba",),
    "rice_bran_wax": ("rice_bran",),
    "sunflower_wax": ("sunflower",),
    "soy_wax": ("soy_53", "soy_40"),
    "soy_wax_full": ("tristearin",),
    "berry_wax": ("berry",),
}
HARDNESS_SD, SWAP_SD = 0.35, 0.5  # ln of the ratio; rungs


def with_strength(material: Material, names: tuple[str, ...], strength: float) -> Material:
    """Return `material` with another strength of the named components."""
    return replace(
        material,
        fractions=tuple(
            (replace(c, strength=strength) if c.slug in names else c, share)
            for c, share in material.fractions
        ),
    )


def gel(material: Material, percent: float) -> float:
    """Return the raw rung at 21 C of `percent` of a material in oil."""
    parts = [(material, percent), (library()[OIL], 100.0 - percent)]
    return float(raw_rungs(yield_values(blend(parts), AT))[0])


def swap_factor(slug: str) -> float | None:
    """Return by what share of beeswax makers replace it, the middle of swaps.csv."""
    for row in read_table("swaps"):
        if row["from"] == "beeswax_yellow" and row["to"] == slug:
            found = re.match(r"([\d.]+) x", row["factor_or_note"])
            return float(found[1]) if found else None
    return None


def miss_of(slug: str, beeswax: Material) -> Callable[[Material], float]:
    """Return how badly a strength fits the evidence for one material."""
    if slug == "beeswax_yellow":
        return lambda m: sum((gel(m, percent) - rung) ** 2 for percent, rung in BEESWAX)
    if slug in PASTES:
        percent, rung = PASTES[slug]
        return lambda m: (gel(m, percent) - rung) ** 2
    row = next(row for row in read_table("waxes") if row["slug"] == slug)
    harder = np.log10(float(row["rel_hardness_high"])) / (EXPONENT / 10.0)  # rungs
    factor = swap_factor(slug)

    def miss(m: Material) -> float:
        hard = (gel(m, 10.0) - gel(beeswax, 10.0) - harder) / (
            HARDNESS_SD / np.log(10.0) / (EXPONENT / 10.0)
        )
        swap = 0.0 if factor is None else (gel(m, 20.0 * factor) - gel(beeswax, 20.0)) / SWAP_SD
        return float(hard**2 + swap**2)

    return miss


def main() -> None:
    """Write strengths.csv, beeswax first, since the others are held against it."""
    written = []
    beeswax = library()["beeswax_yellow"]
    for slug, names in OWN.items():
        material, miss = library()[slug], miss_of(slug, beeswax)
        best = minimize_scalar(
            lambda s, m=material, n=names, f=miss: f(with_strength(m, n, s)),
            bounds=(0.3, 5.0),
            method="bounded",
        )
        strength = round(float(best.x), 2)
        if slug == "beeswax_yellow":
            beeswax = with_strength(beeswax, names, strength)
        print(f"{slug:18} strength {strength:.2f}, was {components()[names[0]].strength:.2f}")
        written += [(name, f"{strength:.2f}") for name in names]
    with (HERE / "strengths.csv").open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["component", "strength"])
        writer.writerows(written)


if __name__ == "__main__":
    main()
