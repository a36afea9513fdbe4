"""What a maker does to a formula: one function each, atomic, for page and script alike."""

from calmtin.formulas.services.balancing import settle
from calmtin.formulas.services.batch import set_batch, set_process, set_strength
from calmtin.formulas.services.drafts import EditedElsewhere, find_line, redo, undo
from calmtin.formulas.services.finishes import add_finish, branch, remove_finish, restore_finish
from calmtin.formulas.services.lifecycle import (
    acknowledge,
    archive_formula,
    delete_draft,
    freeze,
    mark_poured,
    rename,
    restore_formula,
    start_formula,
    start_next_version,
    thaw,
)
from calmtin.formulas.services.lines import (
    add_line,
    balance_with,
    confirm_weight,
    fit_scents,
    remove_line,
    set_all,
    set_lock,
    set_percent,
    set_weight,
    trade,
)
from calmtin.formulas.services.proposals import apply_lines
from calmtin.formulas.services.seasons import pair_seasons, part_seasons, set_switch

__all__ = [
    "EditedElsewhere",
    "acknowledge",
    "add_finish",
    "add_line",
    "apply_lines",
    "archive_formula",
    "balance_with",
    "branch",
    "confirm_weight",
    "delete_draft",
    "find_line",
    "fit_scents",
    "freeze",
    "mark_poured",
    "pair_seasons",
    "part_seasons",
    "redo",
    "remove_finish",
    "remove_line",
    "rename",
    "restore_finish",
    "restore_formula",
    "set_all",
    "set_batch",
    "set_lock",
    "set_percent",
    "set_process",
    "set_strength",
    "set_switch",
    "set_weight",
    "settle",
    "start_formula",
    "start_next_version",
    "thaw",
    "trade",
    "undo",
]
