"""What a maker does with the filled tins: labels, pieces and deadlines; one function each, atomic."""

from calmtin.packing.services.deadlines import add_deadline, remove_deadline
from calmtin.packing.services.items import (
    add_packing_item,
    buy_packing,
    pack_with,
    remove_packing_item,
    unpack,
)
from calmtin.packing.services.labels import drop_label_sheet, keep_label_sheet, print_labels
from calmtin.packing.services.pieces import count_hours, send_pieces, undo_piece

__all__ = [
    "add_deadline",
    "add_packing_item",
    "buy_packing",
    "count_hours",
    "drop_label_sheet",
    "keep_label_sheet",
    "pack_with",
    "print_labels",
    "remove_deadline",
    "remove_packing_item",
    "send_pieces",
    "undo_piece",
    "unpack",
]
