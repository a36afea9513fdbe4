"""How much more of a scent a pot takes: exactly until its first ceiling."""

from __future__ import annotations

from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from calmtin.core.cautions.ceilings import headroom_g, limit_of, phototoxic_sum, scent_total
from calmtin.core.data.loader import ceilings, library, scent_facts

SHELF = library()
SCENTS = sorted((m for m in SHELF.values() if m.group == "scent"), key=lambda m: m.slug)


class Headroom(TestCase):
    @settings(max_examples=100, deadline=None)
    @given(
        st.lists(
            st.tuples(st.sampled_from(SCENTS), st.floats(0.0, 0.4)),
            min_size=1,
            max_size=4,
            unique_by=lambda part: part[0].slug,
        ),
        st.sampled_from(sorted(ceilings())),
        st.booleans(),
    )
    def test_so_much_more_fills_a_ceiling_and_no_more_does(
        self, scents: list, audience: str, sees_sun: bool
    ) -> None:
        material = scents[0][0]
        masses = [(SHELF["olive_oil"], 100.0), *scents]
        facts, ceiling = scent_facts(), ceilings()[audience]
        room = headroom_g(masses, material, facts, ceiling, sees_sun=sees_sun)

        def used(more: float) -> float:
            """The fullest ceiling, as a share, once so much more is in."""
            parts = [(m, g + more if m is material else g) for m, g in masses]
            whole = sum(g for _, g in parts)
            percents = [(m, 100.0 * g / whole) for m, g in parts]
            own = limit_of(material, facts)
            mine = next(p for m, p in percents if m is material)
            sun = phototoxic_sum(percents, facts) if sees_sun and _is_phototoxic(material.slug) else 0.0
            limits = [scent_total(percents) / ceiling.total_max_pct if ceiling.total_max_pct else 0.0, sun]
            return max(limits + ([mine / own] if own else []))

        if room.grams > 0.0:
            self.assertAlmostEqual(used(room.grams), 1.0, places=6)
        elif ceiling.total_max_pct:
            self.assertGreaterEqual(used(0.0), 1.0 - 1e-9)


def _is_phototoxic(slug: str) -> bool:
    known = scent_facts().get(slug)
    return bool(known and known.phototoxic_max_pct)
