"""What the bench's own test pours have taught: said and felt, in words, and what it changes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from calmtin.accounts.models import Bench
from calmtin.core.engine.bands import Prior
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import read, why_not
from calmtin.core.engine.learning import G, Learned, learn
from calmtin.core.materials import Shelf
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula
from calmtin.pictures.scatter import Scatter, said_and_felt
from calmtin.pours.adapters import Seen, seen_on
from calmtin.pours.models import Check

WORTH_SAYING = 0.2  # rungs
SURE = 1.0  # standard deviations that it lies from nothing
MOST_FORMULAS = 30


@dataclass(frozen=True)
class Answer:
    """A check beside what the book says of that pour, and what is said of it now."""

    check: Check
    book: float
    now: float
    is_doubtful: bool
    is_left_out: bool
    why: str


@dataclass(frozen=True)
class Word:
    """Something learned, in words, with what says so."""

    words: str
    because: str


@dataclass(frozen=True)
class Before:
    """A formula before and after: rungs at room temperature with their 80 % bands."""

    formula: Formula
    book: tuple[float, float, float]
    now: tuple[float, float, float]


@dataclass(frozen=True)
class LearnedView:
    """The page of what the bench has taught."""

    answers: list[Answer]
    pours: int
    picture: Scatter | None
    words: list[Word]
    formulas: list[Before]
    doubtful: list[Answer]

    @property
    def is_little(self) -> bool:
        """Whether so little was felt that a few more pours would tell most."""
        return self.pours < 3


def learned_view(user: Any, shelf: Shelf, bench: Bench) -> LearnedView:
    """Return what the checks of a maker's real pours teach."""
    seen = seen_on(user, shelf)
    prior = learn([s.observation for s in seen], excluded=[n for n, s in enumerate(seen) if s.left_out])
    learned = prior if isinstance(prior, Learned) else None
    doubtful = set(learned.doubtful) if learned else set()
    answers = [_answer(s, prior, n in doubtful) for n, s in enumerate(seen)]
    marks = [
        (a.book, float(a.check.felt_rung or 0), _label(a), a.is_doubtful, a.is_left_out) for a in answers
    ]
    offset = learned.offset if learned else 0.0
    picture = said_and_felt(
        marks, half_band=1.2, offset=offset, summary=f"{len(marks)} checks: what was said and what was felt"
    )
    return LearnedView(
        answers=answers,
        pours=len({a.check.pour_id for a in answers if not a.is_left_out}),
        picture=picture if answers else None,
        words=_words(learned, seen, shelf) if learned else [],
        formulas=_formulas(user, shelf, bench, prior) if learned else [],
        doubtful=[a for a in answers if a.is_doubtful or a.is_left_out],
    )


def _answer(seen: Seen, prior: Prior, is_doubtful: bool) -> Answer:
    o = seen.observation
    blended = blend(o.parts)
    book, now = (
        float(
            read(
                blended,
                [o.at_c],
                overrun=o.overrun,
                age_days=o.age_days,
                careless=o.careless,
                prior=p,
            ).rung[0]
        )
        for p in (Prior(), prior)
    )
    return Answer(seen.check, book, now, is_doubtful, bool(seen.left_out), seen.left_out)


def _label(answer: Answer) -> str:
    check = answer.check
    return f"{check.pour.code}: said {answer.book:.1f}, felt {check.felt_rung}"


def _words(learned: Learned, seen: list[Seen], shelf: Shelf) -> list[Word]:
    """Return what was learned that is worth saying, the largest first."""
    found: list[tuple[float, Word]] = []
    thumb = learned.of("offset", "thumb")
    if thumb and _says(thumb):
        rungs, sd = thumb
        count = sum(1 for s in seen if not s.left_out)
        because = f"{count} thumb tests say so · between {rungs - sd:+.1f} and {rungs + sd:+.1f}"
        found.append((abs(rungs), Word(f"Your thumb calls things {_rungs(rungs)} than the book.", because)))
    for kind, slug in learned.names:
        told = learned.of(kind, slug)
        if kind != "strength" or told is None or slug not in shelf:
            continue
        rungs, sd = G * told[0], G * told[1]
        if _says((rungs, sd)):
            pours = {
                s.check.pour_id
                for s in seen
                if not s.left_out and any(m.slug == slug for m, _ in s.observation.parts)
            }
            because = f"{len(pours)} pour{'s' if len(pours) != 1 else ''} with it · give or take {sd:.1f}"
            words = (
                f"Your {shelf[slug].in_words} sets {_rungs(rungs)} than the book, where it carries alone."
            )
            found.append((abs(rungs), Word(words, because)))
    return [word for _, word in sorted(found, key=lambda pair: -pair[0])]


def _says(told: tuple[float, float]) -> bool:
    return abs(told[0]) >= WORTH_SAYING and abs(told[0]) >= SURE * told[1]


def _rungs(rungs: float) -> str:
    return f"{abs(rungs):.1f} rung{'s' if abs(rungs) >= 1.05 else ''} {'firmer' if rungs > 0 else 'softer'}"


def _formulas(user: Any, shelf: Shelf, bench: Bench, prior: Prior) -> list[Before]:
    """Return what the maker's newest versions read by the book and by the bench."""
    formulas = Formula.objects.of(user).filter(put_away_at=None).prefetch_related("versions__lines")
    found = []
    for formula in formulas[:MOST_FORMULAS]:
        version = max(formula.versions.all(), key=lambda v: v.number)
        masses = composition_of(version, shelf).masses
        if not any(grams > 0 for _, grams in masses) or why_not(blend(masses)):
            continue
        blended = blend(masses)
        book, now = (
            read(blended, [bench.room_c], overrun=version.overrun, prior=p) for p in (Prior(), prior)
        )
        found.append(
            Before(formula, *((float(r.rung[0]), float(r.low[0]), float(r.high[0])) for r in (book, now)))
        )
    return found
