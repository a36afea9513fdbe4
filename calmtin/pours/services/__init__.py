"""What a maker does on pour day and after: one function each, atomic.

Each reads its rows again inside the transaction, so that what it checks is what it
acts on.
"""

from calmtin.pours.services.checking import record_check
from calmtin.pours.services.starting import call_off, start_pour
from calmtin.pours.services.weighing import correct_weight, finish_weighing, take_back, weigh

__all__ = [
    "call_off",
    "correct_weight",
    "finish_weighing",
    "record_check",
    "start_pour",
    "take_back",
    "weigh",
]
