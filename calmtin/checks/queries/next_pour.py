"""The next pour of a formula: what to change and why, its chances, and the most useful test."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.checks.queries.compare import kept_of
from calmtin.common.templatetags.calm import temp
from calmtin.core.composition import Composition
from calmtin.core.engine.blend import Blend, blend
from calmtin.core.engine.firmness import SKIN_C, read, why_not
from calmtin.core.engine.next_pour import Test, chance_within, narrowings
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Shelf
from calmtin.core.messages import said
from calmtin.core.process.complaints import Feels
from calmtin.core.solver.problem import Target
from calmtin.core.solver.search import Stop, never
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.proposals.proposal import Proposal
from calmtin.formulas.proposals.target import propose_target
from calmtin.pours.adapters import is_near_room
from calmtin.pours.models import Check, Pour
from calmtin.pours.queries.check_views import verdict_of

LIKELIER = 0.05  # by which a change must be likelier to be worth it
AIMS_WELL = 0.25  # rungs from the middle of the band, within which nothing is changed
SURE_ENOUGH = 0.8  # from which one more like this is the better pour
WORTH_TELLING = 0.05  # rungs of the band
MOST_TRIED = 3  # single lines, before everything may move
LIKED_HALF = 0.7  # rungs either side of a pour that was kept


@dataclass(frozen=True)
class Telling:
    """A test that could be made, and how wide the band at the target is after it."""

    words: str
    width: float
    gain: float


@dataclass(frozen=True)
class NextPour:
    """The proposed next pour, compared with pouring the last one again."""

    formula: Formula
    version: Version
    wanted: tuple[float, float]
    because: list[str]
    reads: tuple[float, float, float]
    chance_same: float
    proposal: Proposal | None
    chance_change: float
    width: float
    tellings: list[Telling]

    @property
    def is_change_better(self) -> bool:
        """Whether to take the change: it is likelier right by enough, and one more is not likely right."""
        is_likelier = self.proposal is not None and self.chance_change > self.chance_same + LIKELIER
        return is_likelier and self.chance_same < SURE_ENOUGH

    @property
    def tells_little(self) -> bool:
        """Whether no single test would narrow the band by enough to say."""
        return all(telling.gain < WORTH_TELLING for telling in self.tellings)

    @property
    def advice(self) -> str:
        """Which step is worth taking, in one sentence."""
        if self.is_change_better:
            return gettext("Recommended: make the change.")
        if self.chance_same >= SURE_ENOUGH:
            return gettext("Recommended: pour it again unchanged. It is probably on target.")
        return gettext(
            "Recommended: pour it again unchanged and test it carefully. No change is more likely to "
            "be on target."
        )


def next_pour(
    user: Any, formula: Formula, shelf: Shelf, bench: Bench, *, stop: Stop = never
) -> NextPour | None:
    """Return what to pour next; None where there is nothing that can be predicted yet."""
    version = max(formula.versions.prefetch_related("lines"), key=lambda v: v.number)
    composition = composition_of(version, shelf)
    if not any(grams > 0 for _, grams in composition.masses):
        return None
    now = blend(composition.masses, bench.prior)
    if why_not(now):
        return None
    overrun, room_c = version.overrun, bench.room_c
    wanted, because = _wanted(user, formula, bench)
    reading = read(now, [room_c], overrun=overrun)
    reads = (float(reading.rung[0]), float(reading.low[0]), float(reading.high[0]))
    middle = sum(wanted) / 2.0
    because += _said(user, formula, bench, wanted)
    proposal = None
    if abs(reads[0] - middle) > AIMS_WELL:
        proposal = _one_change(version, composition, shelf, bench, Target(middle, room_c), stop)
    changed = _blend_of(proposal, bench) if proposal else None
    best = changed or now
    same, change = (chance_within(b, room_c, wanted, overrun=overrun) for b in (now, best))
    width, tellings = _tellings(best, now, changed, bench, overrun)
    return NextPour(formula, version, wanted, because, reads, same, proposal, change, width, tellings)


def _one_change(
    version: Version, composition: Composition, shelf: Shelf, bench: Bench, target: Target, stop: Stop
) -> Proposal | None:
    """Return the best change that is still informative: one structuring line against the oil.

    Only where no single line gets there, everything moves.
    """
    oils = [p for p in composition if p.material.layer == "oil" and not p.is_locked]
    oil = max(oils, key=lambda p: p.percent, default=None)
    firm = [p for p in composition if p.material.layer in ("wax", "butter") and not p.is_locked]
    firm.sort(key=lambda p: (p.material.layer != "wax", -p.percent))
    ways: list[dict[str, tuple[float, float]]] = [
        {p.key: (float(p.percent), float(p.percent)) for p in composition if p not in (line, oil)}
        for line in firm[:MOST_TRIED]
        if oil is not None
    ]
    for spans in [*ways, {}]:
        try:
            found = propose_target(version, shelf, bench, target, spans, stop=stop, with_ways_out=False)
        except CalmTinError:
            continue
        if found.changed and (found.is_met or not spans):
            return found
    return None


def _blend_of(proposal: Proposal, bench: Bench) -> Blend:
    return blend([(line.shown, float(line.now)) for line in proposal.lines if line.after], bench.prior)


def _tellings(
    best: Blend, now: Blend, changed: Blend | None, bench: Bench, overrun: float
) -> tuple[float, list[Telling]]:
    """Return the likely range at the target now, and after each test, most useful first."""
    room, warm = temp(bench.room_c, bench.temperature_unit), temp(SKIN_C, bench.temperature_unit)
    tests = [
        (
            said("Pour it again unchanged and test it at {room}", room=room),
            Test(now, bench.room_c, "thumb", overrun),
        ),
        (
            said("Test the last pour at {warm}, in a closed hand", warm=warm),
            Test(now, SKIN_C, "thumb", overrun),
        ),
        (gettext("Do a press test on the last pour"), Test(now, bench.room_c, "press", overrun)),
    ]
    if changed is not None:
        tests.insert(
            0,
            (
                said("Make the change and test it at {room}", room=room),
                Test(changed, bench.room_c, "thumb", overrun),
            ),
        )
    width, after = narrowings(Test(best, bench.room_c, "thumb", overrun), [test for _, test in tests])
    found = [Telling(words, then, width - then) for (words, _), then in zip(tests, after, strict=True)]
    return width, sorted(found, key=lambda telling: telling.width)


def _wanted(user: Any, formula: Formula, bench: Bench) -> tuple[tuple[float, float], list[str]]:
    """Return the target range at room temperature, and its reason: the kind's, or a kept pour."""
    low, high = formula.kind_facts.target
    kept = kept_of(formula.pk)
    liked = (
        Check.objects.of(user)
        .filter(pour__version__formula=formula, pour__called_off_at=None, verdict=Check.Verdict.KEEP)
        .values("pour")
    )
    of_liked = (
        Check.objects.of(user)
        .filter(felt_rung__isnull=False, set_test="", pour__in=[kept.pour_id] if kept else liked)
        .select_related("pour")
        .prefetch_related("pour__additions")
        .order_by("-pk")
    )
    felt = next((check for check in of_liked if is_near_room(check, check.pour, bench.room_c)), None)
    if felt:
        rung = float(felt.felt_rung)
        wanted = (max(rung - LIKED_HALF, 0.0), min(rung + LIKED_HALF, 10.0))
        told = gettext("is final") if kept else gettext("was one to keep")
        return wanted, [
            said(
                "{code} {told} and felt {rung:.1f}: aim for {wanted:.1f}–{wanted2:.1f}.",
                code=felt.pour.code,
                told=told,
                rung=rung,
                wanted=wanted[0],
                wanted2=wanted[1],
            )
        ]
    return (low, high), [
        said(
            "Target for a {kind}: {low:.1f}–{high:.1f}.",
            kind=formula.kind_facts.short_name.lower(),
            low=low,
            high=high,
        )
    ]


def _said(user: Any, formula: Formula, bench: Bench, wanted: tuple[float, float]) -> list[str]:
    """Return what the last pours said, in a sentence each."""
    pours = (
        Pour.objects.of(user)
        .filter(version__formula=formula, called_off_at=None, poured_at__isnull=False)
        .prefetch_related("checks", "additions")
        .order_by("-poured_at")[:3]
    )
    told = []
    for pour in pours:
        felt = [
            float(c.felt_rung)
            for c in pour.checks.all()
            if c.felt_rung is not None and is_near_room(c, pour, bench.room_c)
        ]
        if not felt:
            continue
        verdict = verdict_of(pour)
        told.append(
            said(
                "{code} felt {felt:.1f}, {side}; your verdict: {verdict}.",
                code=pour.code,
                felt=felt[-1],
                side=_side(pour, felt[-1], wanted),
                verdict=verdict or gettext("none yet"),
            )
        )
        bothers = {words for check in pour.checks.all() for words in check.bothers}
        if bothers:
            words = ", ".join(sorted(bothers)).lower()
            told.append(said("{code}, what bothered you: {words}.", code=pour.code, words=words))
    return told


def _side(pour: Pour, felt: float, wanted: tuple[float, float]) -> str:
    """Return which way a pour is off: by the maker's own word, or by its target where there is none."""
    own = next((check.feels for check in reversed(list(pour.checks.all())) if check.feels), "")
    if own:
        return Feels(own).words.lower()
    if felt < wanted[0]:
        return gettext("too soft")
    return gettext("too firm") if felt > wanted[1] else gettext("on target")
