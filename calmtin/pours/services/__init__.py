"""What a maker does on pour day and after: one function each, atomic.

Each reads its rows again inside the transaction, so that what it checks is what it
acts on.
"""

from calmtin.pours.services.checking import keep, leave_out, record_check, show_figures
from calmtin.pours.services.counting import keep_leftovers, record_yield, store_at
from calmtin.pours.services.labels import drop_label_sheet, keep_label_sheet, print_labels
from calmtin.pours.services.needs import call_off_need, need_by
from calmtin.pours.services.pieces import bring_back, count_hours, send_pieces
from calmtin.pours.services.planning import dilute
from calmtin.pours.services.rehearsing import (
    act_at_stove,
    clear_scale,
    rehearse,
    rehearse_a_salve,
    throw_away,
)
from calmtin.pours.services.rescuing import add_to_pot, next_from_weights, scale_up
from calmtin.pours.services.running import keep_route, mark_step, read_pot, start_timer, stop_timer
from calmtin.pours.services.series import start_series
from calmtin.pours.services.starting import call_off, start_pour
from calmtin.pours.services.weighing import (
    correct_weight,
    finish_weighing,
    take_back,
    weigh,
    weigh_finish,
    weigh_into,
)

__all__ = [
    "act_at_stove",
    "add_to_pot",
    "bring_back",
    "call_off",
    "call_off_need",
    "clear_scale",
    "correct_weight",
    "count_hours",
    "dilute",
    "drop_label_sheet",
    "finish_weighing",
    "keep",
    "keep_label_sheet",
    "keep_leftovers",
    "keep_route",
    "leave_out",
    "mark_step",
    "need_by",
    "next_from_weights",
    "print_labels",
    "read_pot",
    "record_check",
    "record_yield",
    "rehearse",
    "rehearse_a_salve",
    "scale_up",
    "send_pieces",
    "show_figures",
    "start_pour",
    "start_series",
    "start_timer",
    "stop_timer",
    "store_at",
    "take_back",
    "throw_away",
    "weigh",
    "weigh_finish",
    "weigh_into",
]
