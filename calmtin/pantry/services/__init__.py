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
from calmtin.pantry.services.infusing import (
    correct_infusion,
    correct_strained,
    delete_infusion,
    start_infusion,
    strain,
)
from calmtin.pantry.services.lots import (
    balance,
    buy_lot,
    correct_lot,
    make_lot,
    put_back,
    restore_lot,
    reweigh,
    take_from_stock,
    void_lot,
)
from calmtin.pantry.services.materials import (
    add_material,
    correct_material,
    delete_material,
    set_own_figures,
)
from calmtin.pantry.services.rendering import (
    correct_rendering,
    delete_rendering,
    finish_rendering,
    mark_step,
    render_at_once,
    start_rendering,
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
    "correct_rendering",
    "correct_strained",
    "delete_container",
    "delete_infusion",
    "delete_material",
    "delete_rendering",
    "finish_rendering",
    "keep_blend",
    "make_lot",
    "mark_step",
    "put_back",
    "remove_vessel",
    "render_at_once",
    "restore_lot",
    "reweigh",
    "set_own_figures",
    "start_infusion",
    "start_rendering",
    "strain",
    "take_from_stock",
    "void_lot",
]
