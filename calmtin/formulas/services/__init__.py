"""What a maker does to a formula: one function each, atomic, for page and script alike."""

from calmtin.formulas.services.balancing import settle_on_top
from calmtin.formulas.services.drafts import EditedElsewhere, find_line, redo, undo
from calmtin.formulas.services.editing import (
    add_line,
    apply_lines,
    balance_with,
    fit_scents,
    remove_line,
    set_all,
    set_batch,
    set_lock,
    set_percent,
    set_process,
    set_strength,
    trade,
)
from calmtin.formulas.services.finishing import add_finish, branch, remove_finish, restore_finish
from calmtin.formulas.services.starting import (
    acknowledge,
    freeze,
    rename,
    start_formula,
    start_next_version,
)

__all__ = [
    "EditedElsewhere",
    "acknowledge",
    "add_finish",
    "add_line",
    "apply_lines",
    "balance_with",
    "branch",
    "find_line",
    "fit_scents",
    "freeze",
    "redo",
    "remove_finish",
    "remove_line",
    "rename",
    "restore_finish",
    "set_all",
    "set_batch",
    "set_lock",
    "set_percent",
    "set_process",
    "set_strength",
    "settle_on_top",
    "start_formula",
    "start_next_version",
    "trade",
    "undo",
]
