"""The two of a summer and winter pair, and which of them is in season."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from calmtin.accounts.models import Bench
from calmtin.formulas.models import Formula, Season, SeasonPair


@dataclass(frozen=True)
class SeasonView:
    """A formula of a pair: the other one, the season of the room, and whether this one is in season."""

    formula: Formula
    other: Formula | None
    pair: SeasonPair
    now: Season

    @property
    def is_in_season(self) -> bool:
        """Whether it is the one for the room as it is."""
        return self.formula.season == self.now


def season_view(formula: Formula, bench: Bench) -> SeasonView | None:
    """Return the pair that a formula is one of; None where it is none."""
    pair = formula.pair
    if pair is None:
        return None
    other = pair.formulas.exclude(pk=formula.pk).first()
    return SeasonView(formula, other, pair, pair.in_season(bench.room_c))


def in_season(formulas: Iterable[Formula], bench: Bench) -> dict[int, Formula]:
    """Return, by the key of each of `formulas`, the one of its pair that is in season, or itself."""
    found = {formula.pk: formula for formula in formulas}
    pairs = {formula.pair_id for formula in found.values() if formula.pair_id is not None}
    if not pairs:
        return found
    both = Formula.objects.filter(pair__in=pairs, put_away_at=None).select_related("pair")
    now = {f.pair_id: f for f in both if f.pair and f.season == f.pair.in_season(bench.room_c)}
    return {pk: now.get(formula.pair_id, formula) for pk, formula in found.items()}
