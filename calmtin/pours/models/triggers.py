"""What the database itself refuses, and when it notes that a bench has to be calibrated again."""

from calmtin.accounts.models import NEW_STATE
from calmtin.common.triggers import follow, guard, guard_record

guard_record("pours_yield")
guard_record("pours_replan")
guard_record("pours_stepdone")
guard_record("pours_steptimer")
guard_record("pours_potreading")
guard_record("pours_potweight")
guard_record("pours_potaddition")
guard_record("pours_weighin")
guard_record("pours_leftover")
guard_record("pours_finishweighin")
guard_record("pours_check")
guard_record("pours_checkleftout")
guard_record("pours_checkphoto")
guard_record("pours_kept")
# What the bench has taught is worked out again once any of these changed.
_OWNERS = {
    "pours_check": "(SELECT owner_id FROM pours_pour WHERE id = NEW.pour_id)",
    "pours_potaddition": "(SELECT owner_id FROM pours_pour WHERE id = NEW.pour_id)",
    "pours_weighin": "(SELECT p.owner_id FROM pours_pour p JOIN pours_weighline l ON l.pour_id = p.id"
    " WHERE l.id = NEW.line_id)",
    "pours_checkleftout": "(SELECT p.owner_id FROM pours_pour p JOIN pours_check c ON c.pour_id = p.id"
    " WHERE c.id = NEW.of_id)",
}
for _table, _owner in _OWNERS.items():
    follow(f"{_table}_state", "INSERT", _table, NEW_STATE + _owner)
follow(
    "pour_state", "UPDATE OF poured_at, called_off_at, owner_id", "pours_pour", NEW_STATE + "NEW.owner_id"
)
guard("weighline_update", "UPDATE", "pours_weighline", "a weigh sheet never changes")
guard("weighline_delete", "DELETE", "pours_weighline", "a weigh sheet never changes")
guard("pour_delete", "DELETE", "pours_pour", "a pour is never removed")
guard("closing_delete", "DELETE", "pours_closing", "what a closed pour says stays")
guard(
    "pour_update",
    "UPDATE OF poured_at, called_off_at, version_id, owner_id, code, batch_g",
    "pours_pour",
    "a pour that was closed stays so",
    when="(OLD.poured_at IS NOT NULL AND NEW.poured_at IS NULL)"
    " OR (OLD.called_off_at IS NOT NULL AND NEW.called_off_at IS NULL) OR NEW.version_id <> OLD.version_id"
    " OR NEW.owner_id <> OLD.owner_id OR NEW.code <> OLD.code OR NEW.batch_g <> OLD.batch_g",
)
guard(
    "version_unpour",
    "UPDATE OF poured_at",
    "formulas_version",
    "a poured version never changes",
    when="OLD.poured_at IS NOT NULL AND NEW.poured_at IS NULL AND EXISTS"
    " (SELECT 1 FROM pours_pour p WHERE p.version_id = OLD.id AND p.called_off_at IS NULL)",
)
guard(
    "weighin_insert",
    "INSERT",
    "pours_weighin",
    "this pour is closed",
    when="EXISTS (SELECT 1 FROM pours_weighline l JOIN pours_pour p ON p.id = l.pour_id"
    " WHERE l.id = NEW.line_id AND (p.called_off_at IS NOT NULL OR (p.poured_at IS NOT NULL"
    " AND (NEW.reason = '' OR NEW.grams IS NULL))))",
)
