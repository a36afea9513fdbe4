"""Fit the mass fractions of each fat to its published solids curve.

Run `script/fit_solids` after a change to components.csv, behaviour.csv or a curve; it writes
data/fractions.csv, which is all that the engine reads. `script/fit_solids SLUG …` fits only these
materials and leaves the others as they are.
"""

from __future__ import annotations

import csv
import sys
from collections.abc import Collection

import numpy as np
from scipy.optimize import least_squares

from calmtin.core.data.loader import HERE, components, published_curves, read_table
from calmtin.core.engine.solids import Array, saturation, solid_shares
from calmtin.core.materials import Component, Curve

# Pull towards even weights, in points of solid for a whole part of difference:
# enough to settle the weights that the curve leaves free, too weak to bend it.
EVENNESS = 1.0
STARTS = 6


def solid_percent(parts: list[Component], fractions: Array, temps_c: Array) -> Array:
    """Return the percent solid of a neat fat at `temps_c` (t,) for mass `fractions` (k,)."""
    moles = fractions / np.array([c.molar_mass for c in parts])
    held = saturation(
        temps_c,
        np.array([c.melt_c for c in parts]),
        np.array([c.enthalpy_kj_mol for c in parts]),
    )
    return np.asarray(100.0 * solid_shares(moles, held) @ fractions)


def fit(parts: list[Component], curve: Curve) -> Array:
    """Return the mass fractions (k,), positive and summing to 1, that follow `curve`.

    Least squares over a softmax of the weights, from several starts because the
    surface has kinks where a component finishes melting. Deterministic.
    """
    temps, target = np.array(curve.temps_c), np.array(curve.solid_pct)

    def weights(free: Array) -> Array:
        raised = np.exp(free - free.max())
        return np.asarray(raised / raised.sum())

    def misfit(free: Array) -> Array:
        share = weights(free)
        return np.concatenate(
            [solid_percent(parts, share, temps) - target, EVENNESS * (share - 1.0 / len(parts))]
        )

    random = np.random.default_rng(33)
    starts = [np.zeros(len(parts))] + [random.normal(size=len(parts)) for _ in range(STARTS - 1)]
    runs = [least_squares(misfit, start, max_nfev=400) for start in starts]
    return weights(min(runs, key=lambda run: run.cost).x)


def estimated_curve(melt_high_c: float, solid_at_10: float, bend: float) -> Curve:
    """Return a curve for a fat of which only the melting range and class are known.

    S(T) = S10 (1 - u^bend), u = (T - 10) / (melt_high - 10): flat then steep for
    sharp fats (bend 1.5; murumuru and palm kernel follow it within 6 points),
    nearly straight for oil with hydrogenated fat (bend 1.2).
    """
    temps = np.arange(10.0, melt_high_c + 0.1, 5.0)
    u = np.clip((temps - 10.0) / (melt_high_c - 10.0), 0.0, 1.0)
    return Curve(tuple(temps), tuple(solid_at_10 * (1.0 - u**bend)), "estimated from melting range")


def parts_for(rows: str) -> list[Component]:
    """Return the components named by `rows`: slugs and whole families, and the liquid."""
    families = {row["slug"]: row["family"] for row in read_table("components")}
    wanted = rows.split()
    return [
        component
        for slug, component in components().items()
        if slug in wanted or families[slug] in wanted or slug == "oil"
    ]


def main(only: Collection[str] = ()) -> None:
    """Write fractions.csv: fitted, estimated and given fractions of every material, or of `only` some."""
    melt_high = {
        row["slug"]: row["melt_high_c"]
        for row in [*read_table("materials"), *read_table("added_materials")]
    }
    kept = [tuple(row.values()) for row in read_table("fractions")] if only else []
    written: list[tuple[str, ...]] = []
    for row in read_table("behaviour"):
        slug = row["material"]
        if only and slug not in only:
            written += [old for old in kept if old[0] == slug]
        elif row["given"]:
            pairs = [part.split(":") for part in row["given"].split()]
            written += [(slug, name, f"{float(share):.6f}") for name, share in pairs]
        elif row["rows"]:
            parts = parts_for(row["rows"])
            if row["shape"]:
                solid_at_10, bend = map(float, row["shape"].split())
                curve = estimated_curve(float(melt_high[slug]), solid_at_10, bend)
            else:
                curve = published_curves()[slug]
            shares = fit(parts, curve)
            # Crumbs that no curve can see would only slow every prediction down.
            shares = np.where(shares < 0.001, 0.0, shares)
            shares /= shares.sum()
            off = np.abs(solid_percent(parts, shares, np.array(curve.temps_c)) - curve.solid_pct)
            print(f"{slug:22} worst miss {off.max():4.1f} points at {curve.temps_c[off.argmax()]} C")
            written += [
                (slug, part.slug, f"{share:.6f}")
                for part, share in zip(parts, shares, strict=True)
                if share > 0.0
            ]
    with (HERE / "fractions.csv").open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["material", "component", "mass_fraction"])
        writer.writerows(written)


if __name__ == "__main__":
    main(sys.argv[1:])
