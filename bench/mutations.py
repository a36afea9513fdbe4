"""Deliberate faults in secondary promises: how many does the suite catch?

    script/mutations [N]      all, or the N-th only; writes nothing into this checkout

Each fault is one replacement in a copy of the tree; the tests named beside it run there until
the first that fails. A fault that no test sees is printed as MISSED.
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
POURS = ("tests.pours", "tests.formulas.test_cautions_everywhere", "tests.common")


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
          'line.typed = line.typed if (line.material, line.percent) == (slug, percent) else ""', "pass", FORMULAS),
    Fault("a proposal respects a lock made since", "formulas/services/proposals.py",
          "if held and held.is_locked and", "if held and not held.is_locked and", FORMULAS + SOLVING),
    Fault("an amount in percent drops the words of a measure", "formulas/services/lines.py",
          "line.typed = typed[:200]", "line.typed = typed[:200] or line.typed", FORMULAS),
    Fault("grams for all lines set the batch", "formulas/services/lines.py", 'if unit == "g":', 'if unit == "part":', FORMULAS),
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
          "        _put_back(user, newest)\n        reading", "        reading", PANTRY + POURS),
    Fault("calling off puts the stock back", "pours/services/starting.py",
          "    while take_back(user, pour):\n        pass\n", "", POURS),
    Fault("a weighed double scent is told of", "pours/queries/record.py",
          "_cautions(pour, shelf, bench) if weight else []", "[]", POURS),
    Fault("an infused oil keeps the allergens of its base", "pantry/services/making.py",
          'allergens=";".join(base.allergens),', 'allergens="",', PANTRY),
    Fault("the lot that goes off first is used first", "pantry/models.py",
          'models.F("best_before").asc(nulls_last=True)', 'models.F("best_before").desc(nulls_last=True)', PANTRY),
    Fault("a lot that was put back has what was left of it", "pantry/services/lots.py",
          "_enter(lot, Movement.Kind.VOIDED, -balance(lot), reason.strip())", "_enter(lot, Movement.Kind.VOIDED, -lot.amount_g, reason.strip())", PANTRY),
    Fault("a result typed in Fahrenheit is kept in Celsius", "pours/forms.py",
          'fahrenheit_to_celsius(typed) if self.unit == "F" else typed', "typed", POURS),
    Fault("what a plan lacks is told", "pours/queries/fill.py",
          "if left.get(part.material.slug, grams) < grams", "if left.get(part.material.slug, grams) > grams", PANTRY + POURS),
]  # fmt: skip


def main(only: int | None = None) -> int:
    """Try the faults one by one; return how many were missed."""
    caught, missed = 0, 0
    with tempfile.TemporaryDirectory(prefix="calmtin-mutations-") as folder:
        tree = Path(folder) / "tree"
        skip = shutil.ignore_patterns(".git", ".venv*", "var", "__pycache__", ".*_cache", "screenshots")
        shutil.copytree(ROOT, tree, ignore=skip)
        if _fails(tree, tuple(sorted({label for fault in FAULTS for label in fault.tests}))):
            raise SystemExit("The tests fail as they are; mend that first.")
        for number, fault in enumerate(FAULTS, start=1):
            if only is not None and number != only:
                continue
            file = tree / "calmtin" / fault.file
            before = file.read_text()
            if before.count(fault.was) < 1:
                raise SystemExit(f"{number}: {fault.file} no longer holds what this fault replaces")
            file.write_text(before.replace(fault.was, fault.now))
            fails = _fails(tree, fault.tests)
            file.write_text(before)
            caught, missed = caught + fails, missed + (not fails)
            print(f"{number:2} {'caught' if fails else 'MISSED'}  {fault.promise}", flush=True)
    print(f"{caught} of {caught + missed} faults caught")
    return missed


def _fails(tree: Path, tests: tuple[str, ...]) -> bool:
    """Return whether a test of the changed tree fails."""
    python = ROOT / ".venv" / "bin" / "python"
    command = [python, "manage.py", "test", "--settings", "calmtin.config.test_settings"]
    command += ["--exclude-tag", "browser", "--failfast", *tests]
    return subprocess.run(command, cwd=tree, capture_output=True, check=False).returncode != 0


if __name__ == "__main__":
    sys.exit(min(main(int(sys.argv[1]) if len(sys.argv) > 1 else None), 1))
