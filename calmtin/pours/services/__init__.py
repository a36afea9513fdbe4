"""What a maker does on pour day and after: one function each, atomic.

Each reads its rows again inside the transaction, so that what it checks is what it
acts on.
"""

from calmtin.pours.services.checking import record_check
from calmtin.pours.services.counting import keep_leftovers, record_yield, store_at
from calmtin.pours.services.rehearsing import (
    act_at_stove,
    clear_scale,
    delete_rehearsal,
    rehearse,
    rehearse_a_salve,
)
from calmtin.pours.services.rescuing import add_to_pot, next_from_weights, scale_up
from calmtin.pours.services.running import (
    choose_melting,
    keep_route,
    mark_step,
    read_pot,
    start_timer,
    stop_timer,
    weigh_pot,
)
from calmtin.pours.services.series import pour_next_sample, start_series
from calmtin.pours.services.starting import cancel_pour, start_pour
from calmtin.pours.services.weighing import (
    correct_weight,
    finish_weighing,
    undo_weight,
    weigh,
    weigh_finish,
    weigh_into,
)

__all__ = [
    "act_at_stove",
    "add_to_pot",
    "cancel_pour",
    "choose_melting",
    "clear_scale",
    "correct_weight",
    "delete_rehearsal",
    "finish_weighing",
    "keep_leftovers",
    "keep_route",
    "mark_step",
    "next_from_weights",
    "pour_next_sample",
    "read_pot",
    "record_check",
    "record_yield",
    "rehearse",
    "rehearse_a_salve",
    "scale_up",
    "start_pour",
    "start_series",
    "start_timer",
    "stop_timer",
    "store_at",
    "undo_weight",
    "weigh",
    "weigh_finish",
    "weigh_into",
    "weigh_pot",
]
