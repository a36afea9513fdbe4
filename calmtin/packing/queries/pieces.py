"""Where the pieces of a pour went, how many are left, and what to ask for one."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from calmtin.accounts.models import Bench
from calmtin.core.packing.price import Price, price_of
from calmtin.packing.adapters import standing
from calmtin.packing.models import PackedWith, PieceGone
from calmtin.pantry.queries.lots import cost_of
from calmtin.pours.adapters import finish_withdrawals_of, withdrawals_of
from calmtin.pours.adapters.closed import costs_of_closing
from calmtin.pours.adapters.filled import Filled, filled_of
from calmtin.pours.models import Pour


@dataclass(frozen=True)
class PieceRow:
    """Pieces of one kind: how many are left, how many were weighed too light, the price of one."""

    filled: Filled
    left: int
    to_set_aside: int
    price: Price


@dataclass(frozen=True)
class PiecesView:
    """The pieces of a pour; `unpriced` names materials without a price, so the cost is incomplete."""

    pour: Pour
    rows: list[PieceRow]
    gone: list[PieceGone]
    taken_in: Decimal
    is_unpriced: bool
    packed: list[PackedWith]

    @property
    def wants_labels(self) -> bool:
        """Whether a piece left the house with labels that were meant for oneself."""
        prints = list(self.pour.label_prints.all())
        is_out = any(entry.went in (PieceGone.Went.GIVEN, PieceGone.Went.SOLD) for entry in self.gone)
        return is_out and bool(prints) and bool(prints[-1].text.get("is_own"))

    @property
    def left(self) -> int:
        """How many are left in all."""
        return sum(row.left for row in self.rows)


def pieces_view(pour: Pour, bench: Bench) -> PiecesView:
    """Return where the pieces of a pour went."""
    kinds, gone = filled_of(pour), standing(pour)
    cost = cost_of([*withdrawals_of(pour), *finish_withdrawals_of(pour)], costs_of_closing(pour))
    packed = packed_of(pour)
    whole_g = sum(f.net_g * f.count for f in kinds) or 1.0
    pieces = sum(f.count for f in kinds)
    rows = []
    for f in kinds:
        mine = [entry for entry in gone if entry.position == f.position]
        aside = sum(entry.count for entry in mine if entry.went == PieceGone.Went.ASIDE)
        rows.append(
            PieceRow(
                f,
                f.count - sum(entry.count for entry in mine),
                max(len(f.light) - aside, 0),
                price_of(
                    materials=cost.total,
                    share=Decimal(repr(round(f.net_g / whole_g, 9))),
                    container=f.container.price if f.container else None,
                    label=bench.label_costs,
                    packing=_packing_of(f, packed),
                    hours=pour.hours,
                    hour_costs=bench.hour_costs,
                    margin_pct=bench.margin_pct,
                    pieces=pieces,
                ),
            )
        )
    weighed = {line.material for line in pour.lines.all() if line.weigh_ins.all()}
    return PiecesView(
        pour,
        rows,
        gone,
        sum((entry.paid or Decimal(0) for entry in gone), Decimal(0)),
        not weighed <= set(cost.priced_g),
        packed,
    )


def packed_of(pour: Pour) -> list[PackedWith]:
    """Return what the pieces of a pour are packed with, without what was taken back."""
    entries = list(pour.packed_with.select_related("item"))
    undone = {entry.undoes_id for entry in entries}
    return [entry for entry in entries if entry.undoes_id is None and entry.pk not in undone]


def _packing_of(filled: Filled, packed: list[PackedWith]) -> Decimal | None:
    """Return what the packing of one piece costs: all of it, shared by the pieces; None without any."""
    mine = [entry.costs for entry in packed if entry.position == filled.position]
    return sum(mine, Decimal(0)) / max(filled.count, 1) if mine else None
