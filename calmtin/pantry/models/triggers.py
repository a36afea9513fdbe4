"""Triggers of the pantry: records stay, and a shelf is put together once for each state."""

from __future__ import annotations

from calmtin.accounts.models import NEW_STATE
from calmtin.common.triggers import follow, guard, guard_record

guard_record("pantry_ownblend")
guard_record("pantry_makingmark")
guard_record("pantry_movement")
guard_record("pantry_withdrawal")
guard_record("pantry_correction")
guard(
    "lot_delete",
    "DELETE",
    "pantry_lot",
    "a lot with movements stays; take it off the shelf instead",
    when="EXISTS (SELECT 1 FROM pantry_movement m WHERE m.lot_id = OLD.id)",
)
# A shelf is put together once for each state of its maker.
for _table in ("pantry_override", "pantry_ownmaterial", "pantry_ownblend"):
    for _event in ("INSERT", "UPDATE"):
        follow(f"{_table}_{_event.lower()}_state", _event, _table, NEW_STATE + "NEW.owner_id")
    follow(f"{_table}_delete_state", "DELETE", _table, NEW_STATE + "OLD.owner_id")
