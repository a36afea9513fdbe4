"""What a maker does with the pantry: one function each, atomic."""

from calmtin.pantry.services.blends import keep_blend
from calmtin.pantry.services.containers import (
    add_container,
    add_vessel,
    buy_containers,
    correct_container,
    delete_container,
    remove_vessel,
)
from calmtin.pantry.services.lots import (
    balance,
    buy_lot,
    correct_lot,
    put_back,
    restore_lot,
    reweigh,
    take_from_stock,
    void_lot,
)
from calmtin.pantry.services.making import (
    correct_infusion,
    delete_infusion,
    render_comb,
    start_infusion,
    strain,
)
from calmtin.pantry.services.materials import (
    add_material,
    correct_material,
    delete_material,
    set_own_figures,
)

__all__ = [
    "add_container",
    "add_material",
    "add_vessel",
    "balance",
    "buy_containers",
    "buy_lot",
    "correct_container",
    "correct_infusion",
    "correct_lot",
    "correct_material",
    "delete_container",
    "delete_infusion",
    "delete_material",
    "keep_blend",
    "put_back",
    "remove_vessel",
    "render_comb",
    "restore_lot",
    "reweigh",
    "set_own_figures",
    "start_infusion",
    "strain",
    "take_from_stock",
    "void_lot",
]
