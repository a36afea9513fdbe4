"""The story of a formula: its pours, the effect of each change, what was dropped and kept."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from calmtin.accounts.models import Bench
from calmtin.checks.queries.compare import kept_of, step_pct
from calmtin.common.templatetags.calm import temp
from calmtin.core.engine.differences import Difference, differences
from calmtin.core.engine.ladder import rung_word
from calmtin.core.materials import Material, Shelf, percents_of
from calmtin.core.messages import said
from calmtin.core.process.checks import in_words
from calmtin.formulas.models import Formula
from calmtin.pours.adapters import IN_THE_POT, dry_parts, overrun_of
from calmtin.pours.models import Check, Kept, Pour
from calmtin.pours.queries.check_views import verdict_of


@dataclass(frozen=True)
class Chapter:
    """A pour of the story: its changes, felt firmness, faults and verdict."""

    pour: Pour
    changed: list[Difference]
    cooled: str
    felt: list[str]
    faults: list[str]
    verdict: str
    notes: list[str]


@dataclass(frozen=True)
class StoryView:
    """The story of a formula, and its composition as it is kept."""

    chapters: list[Chapter]
    kept: Kept | None
    lines: list[tuple[Material, float]]
    dropped: list[Chapter]


def story_view(user: Any, formula: Formula, shelf: Shelf, bench: Bench) -> StoryView:
    """Return the story of a formula, oldest pour first."""
    pours = list(
        Pour.objects.of(user)
        .filter(version__formula=formula, called_off_at=None, poured_at__isnull=False)
        .select_related("version__formula")
        .prefetch_related(*IN_THE_POT, "checks")
        .order_by("poured_at", "pk")
    )
    chapters, before = [], None
    for pour in pours:
        chapters.append(_chapter(pour, before, shelf, bench))
        before = pour
    kept = kept_of(formula.pk)
    lines = []
    if kept:
        made = next((pour for pour in pours if pour.pk == kept.pour_id), None)
        lines = list(percents_of(dry_parts(made, shelf)).items()) if made else []
    dropped = [c for c in chapters if c.verdict == Check.Verdict.DROP]
    return StoryView(chapters, kept, lines, dropped)


def _chapter(pour: Pour, before: Pour | None, shelf: Shelf, bench: Bench) -> Chapter:
    changed: list[Difference] = []
    if before is not None:
        changed = [
            d
            for d in differences(
                dry_parts(before, shelf),
                dry_parts(pour, shelf),
                bench.room_c,
                overrun=overrun_of(pour),
                prior=bench.prior,
                step_pct=max(step_pct(before), step_pct(pour)),
            )
            if not d.gives_way
        ]
    is_new_way = before is not None and before.version.cooling != pour.version.cooling
    checks = [check for check in pour.checks.all() if not check.set_test]
    felt = [
        said(
            "{felt_rung:.1f} at {temp_c}, {rung_word}",
            felt_rung=c.felt_rung,
            temp_c=temp(c.temp_c, bench.temperature_unit),
            rung_word=rung_word(float(c.felt_rung)),
        )
        for c in checks
        if c.felt_rung is not None
    ]
    faults = {
        f"{asks.lower()}: {word}" for c in checks for asks, word, is_bad in in_words(c.signs) if is_bad
    }
    faults |= {words.lower() for c in checks for words in c.bothers}
    return Chapter(
        pour,
        changed,
        pour.version.get_cooling_display() if is_new_way else "",
        felt,
        sorted(faults),
        verdict_of(pour),
        [c.notes for c in checks if c.notes],
    )
