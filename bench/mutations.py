"""Deliberate faults in secondary promises: how many does the suite catch?

    script/mutations [N]      all, or the N-th only; writes nothing into this checkout

Each fault is one replacement in a copy of the tree; the tests named beside it run there until
the first that fails. A fault that no test sees is printed as MISSED, one that no longer applies as STALE;
either way the command exits 1.
"""

# ruff: noqa: E501  (a fault is read best as one row)
from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
FORMULAS = ("tests.formulas", "tests.exchange.test_files", "tests.core.test_amounts")
SOLVING = (
    "tests.formulas.test_advice",
    "tests.formulas.test_solving",
    "tests.formulas.test_whole",
    "tests.core.test_targets",
    "tests.core.test_reasons",
)
PANTRY = ("tests.pantry", "tests.common")
RECORDS = ("tests.exchange.test_closure", "tests.exchange.test_upgrade", "tests.exchange.test_hostile_files",
           "tests.exchange.test_backups.Interrupted")  # fmt: skip
TYPED = ("tests.core.test_typed_numbers", "tests.test_boxes")
CLOSED = ("tests.pours.test_closed",)
STOPS = ("tests.formulas.test_stops",)
DOORS = ("tests.accounts.test_knocking",)
WEIGHING = (
    "tests.pours.test_weigh_modes",
    "tests.pours.test_pours",
    "tests.pours.test_stages",
    "tests.pours.test_counting",
    "tests.pours.test_at_the_scale",
)
MELTING = ("tests.core.test_heat", "tests.core.test_run_sheet", "tests.core.test_fill", "tests.core.test_doctests",
           "tests.contracts", "tests.pours.test_melting")  # fmt: skip
JOBS = ("tests.core.test_moments", "tests.core.test_reactions", "tests.checks.test_moments", "tests.checks.test_reactions", "tests.plans.test_bases",
        "tests.plans.test_one_pot", "tests.pantry.test_making", "tests.formulas.test_seasons", "tests.packing.test_items",
        "tests.exchange.test_log_csv")  # fmt: skip
PHONE = ("tests.config.test_phone",)
RECIPES = ("tests.core.test_phrasings",)
POURS = (
    "tests.plans",
    "tests.pours",
    "tests.checks",
    "tests.packing",
    "tests.formulas.test_cautions_everywhere",
    "tests.common",
)


@dataclass(frozen=True)
class Fault:
    """A replacement in one file, what it breaks, and where that should be seen."""

    promise: str
    file: str
    was: str
    now: str
    tests: tuple[str, ...]


FAULTS = [
    Fault("a copy keeps whether skin sees the sun", "formulas/services/finishes.py",
          "        sees_sun=of.sees_sun,\n", "", FORMULAS),
    Fault("a copy keeps its notes", "formulas/services/finishes.py", "        notes=of.notes,\n", "", FORMULAS),
    Fault("a copy says what it came from", "formulas/services/finishes.py", "        came_from=version,\n", "", FORMULAS),
    Fault("the next version keeps batch and cooling", "formulas/services/lifecycle.py",
          '("formula", "batch_g", "overrun_pct", "cooling")', '("formula", "overrun_pct")', FORMULAS),
    Fault("a copy in another formula has keys of its own", "formulas/services/lifecycle.py",
          "            line.key = new_key()\n", "            pass\n", FORMULAS),
    Fault("undo brings the lock back", "formulas/services/drafts.py", '    "is_locked",\n', "", FORMULAS),
    Fault("undo brings a tincture's strength back", "formulas/services/drafts.py", '    "alcohol_pct",\n', "", FORMULAS),
    Fault("an edit of another tab is refused", "formulas/services/drafts.py",
          "if version.revision != seen:", "if version.revision < seen:", FORMULAS),
    Fault("a swap drops the words of the old amount", "formulas/services/proposals.py",
          "                    line.measured = None\n", "                    pass\n", FORMULAS),
    Fault("a proposal respects a lock made since", "formulas/services/proposals.py",
          "if held and held.is_locked and", "if held and not held.is_locked and", FORMULAS + SOLVING),
    Fault("an amount in percent drops the words of a measure", "formulas/services/lines.py",
          "        line.measured = None\n", "        pass\n", FORMULAS),
    Fault("grams for all lines set the batch", "formulas/services/lines.py", "        if is_weighed:\n", "        if not is_weighed:\n", FORMULAS),
    Fault("a locked line does not move with all at once", "core/composition.py",
          "if part.is_locked and part.percent != percent:", "if part.is_locked and part.percent > 100:", FORMULAS),
    Fault("taking the balancing line out lets the largest oil balance", "core/composition.py",
          'key=lambda part: (part.material.layer == "oil", part.percent)', "key=lambda part: -part.percent", FORMULAS),
    Fault("the base gives way in its own proportions", "core/composition.py",
          "        free = [part for part in self.base if not part.is_locked]\n        shares",
          "        free = [part for part in self.base if not part.is_locked][:1]\n        shares", FORMULAS),
    Fault("scents are fitted downwards, never up", "formulas/services/lines.py",
          ".quantize(THOUSANDTH, rounding=ROUND_FLOOR)", ".quantize(THOUSANDTH) + THOUSANDTH", FORMULAS),
    Fault("a file keeps what is on top", "exchange/formats/formula.py",
          "line.is_locked, line.on_top_pct = note.locks, note.on_top_pct", "line.is_locked = note.locks", FORMULAS),
    Fault("advice to take less says less", "core/solver/explain.py",
          '"harder" if firmer else "softer"', '"softer" if firmer else "harder"', SOLVING),
    Fault("the miss is told on its right side", "formulas/proposals/wording.py",
          '"below" if missed.reads < missed.wanted else "above"', '"above" if missed.reads < missed.wanted else "below"', SOLVING),
    Fault("what stands in for an antioxidant guards too", "formulas/proposals/substitute.py",
          "return [m for m in fit if m.slug in ANTIOXIDANTS] if old.slug in ANTIOXIDANTS else fit", "return fit", SOLVING),
    Fault("a swap names what allergens it brings", "formulas/proposals/changes.py",
          "for a in sorted(has - had)]", "for a in sorted(had - has)]", SOLVING),
    Fault("a solution beyond the usual range says so", "formulas/proposals/proposal.py",
          "if lines and not low - 0.05 <= share <= high + 0.05:", "if not lines:", SOLVING),
    Fault("a proposal is signed for its state", "formulas/proposals/proposal.py",
          "{version.pk}.{version.revision}", "{version.pk}", SOLVING + FORMULAS),
    Fault("a closed sheet stays closed at its first time", "pours/services/weighing.py",
          "    if pour.poured_at is not None:\n        return pour\n", "", POURS),
    Fault("a corrected weight puts back what the first one took", "pours/services/weighing.py",
          "    _put_back(user, newest)\n    lot = newest", "    lot = newest", PANTRY + POURS),
    Fault("calling off puts the stock back", "pours/services/starting.py",
          "    while undo_weight(user, pour):\n        pass\n", "", POURS),
    Fault("a weighed double scent is told of", "pours/queries/record.py",
          "weighed_cautions(pour, shelf, bench) if weight and not closing else []", "[]", POURS),
    Fault("an infused oil keeps the allergens of its base", "pantry/services/infusing.py",
          'allergens=";".join(base.allergens),', 'allergens="",', PANTRY),
    Fault("the lot that goes off first is used first", "pantry/models/lots.py",
          'models.F("best_before").asc(nulls_last=True)', 'models.F("best_before").desc(nulls_last=True)', PANTRY),
    Fault("a lot that was put back has what was left of it", "pantry/services/lots.py",
          "_enter(lot, Movement.Kind.VOIDED, -balance(lot), reason.strip())", "_enter(lot, Movement.Kind.VOIDED, -lot.amount_g, reason.strip())", PANTRY),
    Fault("a result typed in Fahrenheit is kept in Celsius", "core/units.py",
          "fahrenheit_to_celsius(typed) if is_fahrenheit else typed", "typed", POURS),
    Fault("what a plan lacks is told", "packing/queries/deadlines.py",
          "and grams > left.get(slug, Decimal(0))", "and grams < left.get(slug, Decimal(0))", PANTRY + POURS),
    Fault("a withdrawal is put back once", "pantry/services/lots.py",
          "    if any(movement.kind == back for movement in movements):\n        return\n", "", PANTRY),
    Fault("a deleted material leaves a tombstone", "pantry/services/materials.py", "row.mark_deleted()", "row.delete()", RECORDS),
    Fault("the slug of a deleted material is not given again", "pantry/services/materials.py",
          "taken = set(OwnMaterial.every().of(user)", "taken = set(OwnMaterial.objects.of(user)", PANTRY),
    Fault("a lot is traced to what was left of a pot", "packing/queries/trace_lot.py",
          "[*_infusions(user, infused), *_leftovers(user, taken)]", "[*_infusions(user, infused)]", POURS + RECORDS),
    Fault("a day that no bench sees is refused", "exchange/records/rows.py",
          '        check_day(day, name=gettext("A day in it"))\n', "", RECORDS),
    Fault("a table is refused before it is read", "exchange/records/archive.py",
          'raw.count(b"{") > MOST_OBJECTS', 'raw.count(b"{") > 10**9', RECORDS),
    Fault("a restore that was planned is finished", "exchange/restoring.py",
          "    _carry_out(copy, kept)\n    finished", "    finished", RECORDS),
    Fault("a folder that held a book is not new", "exchange/restoring.py", "    if has_book():\n", "    if True:\n", RECORDS),
    Fault("a reading is never a range", "core/recipe/boxes.py",
          "if phrase.worked_out and (self.is_reading or is_alone):", "if phrase.worked_out and is_alone:", TYPED),
    Fault("a sign that belongs to nothing is asked about", "core/recipe/boxes.py", "    if strange:\n", "    if False:\n", TYPED),
    Fault("a fraction ends before the next digit", "core/recipe/numerals.py", 'f" {digits} ", text)', 'f" {digits}", text)', TYPED),
    Fault("Enter starts no pour", "plans/views/fill.py", "if commits(request) and view.plan", 'if request.method == "POST" and view.plan', ("tests.test_enter",)),
    Fault("a closed pour costs what its lots cost then", "pours/queries/record.py",
          "cost_of(withdrawals_of(pour), costs_of_closing(pour))", "cost_of(withdrawals_of(pour))", CLOSED),
    Fault("a closed pour keeps the name of its formula", "pours/adapters/closed.py",
          "        formula.name, formula.kind = closing.formula_name, closing.kind\n", "        formula.kind = closing.kind\n", CLOSED),
    Fault("a closed pour keeps the names of its materials", "packing/queries/card.py", "    shelf = shelf_of(pour, shelf)\n", "", CLOSED),
    Fault("a stop holds up the start of a pour", "pours/services/starting.py", "        if not is_history:\n", "        if False:\n", STOPS),
    Fault("a stop holds up an addition", "pours/services/rescuing.py", "    if not pour.is_rehearsal:\n        with_it", "    if False:\n        with_it", STOPS),
    Fault("a stop holds up a print of labels", "packing/services/labels.py",
          "    refuse_open_stops(pour.version, inside, bench, batch_g=pour.batch_g)\n", "", STOPS),
    Fault("an address may fail so often", "accounts/login_throttling.py", "failed is not None and failed >= most", "False", DOORS),
    Fault("who waits too long for the hash is told", "accounts/hashers.py", "if not _places.acquire(blocking=False):", "if not _places.acquire():", DOORS),
    Fault("another maker's session is not ended", "accounts/sessions.py", "told.get(SESSION_KEY) == str(user.pk)", "True", DOORS),
    Fault("a lot in an optional place is checked", "pours/services/weighing.py", "read_again(user, line, lot)", "read_again(user, line)", ("tests.common.test_limits",)),
    Fault("what is added comes on top of what is in", "core/process/weighing.py", "        return line_g + typed_g\n", "        return typed_g\n", WEIGHING),
    Fault("a running total is less what was on the scale before", "core/process/weighing.py", "    return typed_g - before_g\n", "    return typed_g\n", WEIGHING),
    Fault("a cup of its own is not in the running total", "pours/adapters/pot.py",
          'if other.pk != line.pk and place_of(shelf[other.material], pour_c=pour_c) != "cup"', "if other.pk != line.pk", WEIGHING),
    Fault("a tincture is weighed first", "pours/services/starting.py",
          "with_tincture=wet),\n", "with_tincture=False),\n", WEIGHING),
    Fault("undo goes back to the weight before", "pours/services/weighing.py", "before = earlier[-1] if earlier else None", "before = None", WEIGHING),
    Fault("undo gives the shelf back what was too much", "pours/services/weighing.py",
          "withdrawal=None if grams is None else _take(user, line, grams, lot),\n    )\n    return line", "withdrawal=None,\n    )\n    return line", WEIGHING),
    Fault("a filled pour leaves the stove", "pours/queries/stages.py", "        .filter(is_in_tins=False)\n", "", WEIGHING),
    Fault("the page of a pour leaves its own pot out", "pours/queries/stages.py", "        .exclude(pk=without)\n", "", WEIGHING),
    Fault("poured is when it was filled", "pours/services/running.py", "pour.poured_at = now_of(pour) if is_done else closing.at", "pass", WEIGHING),
    Fault("what had not set teaches nothing", "checks/adapters.py", "if Moment(check.moment).is_unset:", "if False:", JOBS),
    Fault("a drop is compared with what was in the pot then", "pours/queries/set_tests.py", "actual_parts(pour, shelf, at=check.made_at)", "actual_parts(pour, shelf)", JOBS),
    Fault("an age starts at the last melt", "pours/adapters/pot.py", "check.made_at - melted_at(pour, by=check.made_at)", "check.made_at - (pour.poured_at or pour.started_at)", JOBS),
    Fault("a base is known by what is in it", "pantry/services/blends.py", "if _is_same(shelf[b.slug], inside)", "if b.name == name", JOBS),
    Fault("a pour takes from its base", "plans/queries/fill.py", "lots={BASE: base.lot.pk} if base else _lots(composition, typed)", "lots=_lots(composition, typed)", JOBS),
    Fault("a cake of wax cools before it is scraped", "core/process/making.py", "after=10 * HOURS", "after=0 * HOURS", JOBS),
    Fault("a strained oil keeps no longer than its oil", "core/process/making.py", "known.append(oil)", "pass", JOBS),
    Fault("a price that is not known is not made up", "pantry/services/lots.py", "if taken_g >= whole_g else None", "", JOBS),
    Fault("what was calm is no suspect", "core/process/reactions.py", "if results.get(slug) != CALM]", "]", JOBS),
    Fault("skin rests after a flare-up", "core/process/reactions.py", "[flared_on + REST, ", "[flared_on, ", JOBS),
    Fault("what is in the pot is not taken again", "pours/services/weighing.py", " or line.is_from_pot:", ":", JOBS),
    Fault("a lot is traced through the rest of its pot", "packing/queries/trace_lot.py", "taken.setdefault(pour, Decimal(0))", "pass", JOBS),
    Fault("a deadline plans what is in season", "formulas/queries/seasons.py", "if f.pair and f.season == f.pair.in_season(bench.room_c)", "if f.season == 'winter'", JOBS),
    Fault("a column that is left out is not read", "exchange/formats/spreadsheets.py", 'names.get(n, cell) or f"– {cell}"', "names.get(n) or cell", JOBS),
    Fault("packing goes into the cost of a piece", "packing/queries/pieces.py", "packing=_packing_of(f, packed)", "packing=None", JOBS),
    Fault("a guessed temperature teaches nothing", "checks/adapters.py", "check.why_left_out or _why_it_tells_nothing(check)", "check.why_left_out", WEIGHING),
    Fault("single weights count for themselves", "pours/forms/day.py", "return len(self.pieces.get(position, [])) if typed is None else int(typed)", "return int(typed or 0)", WEIGHING),
    Fault("a count without weights is of planned ones", "pours/forms/day.py", "(filling.each_g if each is None else each)", "(each or 0)", WEIGHING),
    Fault("a pot that was boiled dry keeps longer than a month", "core/process/tincture.py",
          'material = replace(material, basis="powder", group="other")', "pass", MELTING),
    Fault("what is left in a pot by its weight stays in it", "core/process/tincture.py", "(drying.left_g if drying else 0.0)", "0.0", MELTING),
    Fault("what a maker chose is remembered", "pours/services/running.py", "    set_on_bench(user, melting=melting)\n", "", MELTING),
    Fault("nothing goes into a pot that has set", "core/process/steps.py", "(melts_c, sets_c)", "(melts_c,)", MELTING),
    Fault("a block takes longer", "core/process/heat.py", " * SLOWER[form]", "", MELTING),
    Fault("crystals give their heat off", "core/process/heat.py", "(1.0 + around.latent_k * solids", "(1.0 + 0.0 * solids", MELTING),
    Fault("a scale that is plugged in begins from zero", "devices/simulated.py", 'if act.kind in ("tare", "plug_scale")), None)', 'if act.kind == "tare"), None)', MELTING),
    Fault("containers go down by the difference", "pours/services/counting.py", " - before.get(filling.position, 0)", "", WEIGHING),
    Fault("a count that left much out teaches nothing", "core/process/losses.py", " and not is_missing_some(melt, clung)", "", MELTING),
    Fault("a link signs in once", "accounts/pairing.py", "{user.last_login}", "", PHONE),
    Fault("a stranger makes no first account", "accounts/views.py", "    if is_on_the_phone(request):", "    if False:", PHONE),
    Fault("a phone's cookies are secure", "config/phone.py", 'f"{value}; Secure" if name.lower() == "set-cookie" else value', "value", PHONE),
    Fault("a letter for a digit is asked about", "core/recipe/spoken.py", "        doubts.append(said(words, typed=found[1], digits=digits))\n", "", RECIPES),
    Fault("percent that miss 100 are asked about", "core/recipe/weights.py", "question=shared.question or apart", "question=shared.question", RECIPES),
    Fault("neither of two materials vanishes", "core/recipe/lines.py", "for name in names]\n\n    def _is_sure", "for name in names[:1]]\n\n    def _is_sure", RECIPES),
]  # fmt: skip


def main(only: int | None = None) -> int:
    """Try the faults one by one; return how many were missed."""
    caught, missed = 0, 0
    with tempfile.TemporaryDirectory(prefix="calmtin-mutations-") as folder:
        tree = Path(folder) / "tree"
        skip = shutil.ignore_patterns(".git", ".venv*", "var", "__pycache__", ".*_cache", "screenshots")
        shutil.copytree(ROOT, tree, ignore=skip)
        chosen = FAULTS if only is None else FAULTS[only - 1 : only]
        if _fails(tree, tuple(sorted({label for fault in chosen for label in fault.tests}))):
            raise SystemExit("The tests fail as they are; mend that first.")
        for number, fault in enumerate(FAULTS, start=1):
            if only is not None and number != only:
                continue
            file = tree / "calmtin" / fault.file
            if is_stale(fault):
                missed += 1
                print(f"{number:2} STALE   {fault.promise}: {fault.file} no longer holds it", flush=True)
                continue
            before = file.read_text()
            file.write_text(before.replace(fault.was, fault.now))
            fails = _fails(tree, fault.tests)
            file.write_text(before)
            caught, missed = caught + fails, missed + (not fails)
            print(f"{number:2} {'caught' if fails else 'MISSED'}  {fault.promise}", flush=True)
    print(f"{caught} of {caught + missed} faults caught")
    return missed


def is_stale(fault: Fault) -> bool:
    """Return whether the code that a fault replaces is not there any more."""
    file = ROOT / "calmtin" / fault.file
    return not file.exists() or fault.was not in file.read_text()


def _fails(tree: Path, tests: tuple[str, ...]) -> bool:
    """Return whether a test of the changed tree fails."""
    python = ROOT / ".venv" / "bin" / "python"
    command = [python, "manage.py", "test", "--settings", "calmtin.config.test_settings"]
    command += ["--exclude-tag", "browser", "--failfast", *tests]
    return subprocess.run(command, cwd=tree, capture_output=True, check=False).returncode != 0


if __name__ == "__main__":
    sys.exit(min(main(int(sys.argv[1]) if len(sys.argv) > 1 else None), 1))
