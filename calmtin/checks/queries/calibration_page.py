"""The calibration page: predicted and felt firmness, and the learned changes in words."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
from django.db.models import prefetch_related_objects
from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.checks.adapters import Seen
from calmtin.checks.queries.calibration import Lesson, lesson_of
from calmtin.common.templatetags.calm import signed
from calmtin.core.engine.bands import Prior
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import Reading, read, why_not
from calmtin.core.engine.ladder import to_rungs
from calmtin.core.engine.learning import G, Learned
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import counted, said
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.queries.lists import newest_of
from calmtin.pictures.scatter import Scatter, said_and_felt
from calmtin.pours.models import Check

WORTH_SAYING = 0.2  # rungs
SURE = 1.0  # standard deviations that it lies from nothing
MOST_FORMULAS = 30
MOST_TOGETHER = 3
MOST_ANSWERS = 60  # the newest ones, on the page and in its picture
PULLS_HARD = 0.25  # rungs


@dataclass(frozen=True)
class Answer:
    """A thumb or press test with the standard prediction of its pour and the present one.

    `pull` is by how many rungs it moves what is said of its own pour.
    """

    check: Check
    told: float
    is_press: bool
    book: float
    now: float
    pull: float
    is_doubtful: bool
    is_left_out: bool
    why: str


@dataclass(frozen=True)
class Word:
    """Something learned, in words, with its evidence."""

    words: str
    because: str


Banded = tuple[float, float, float]  # rungs: said, lowest, highest


@dataclass(frozen=True)
class Before:
    """A formula before and after: rungs at room temperature with their 80 % bands."""

    formula: Formula
    book: Banded
    now: Banded


@dataclass(frozen=True)
class LearnedView:
    """The calibration page."""

    answers: list[Answer]
    count: int
    pours: int
    picture: Scatter | None
    words: list[Word]
    formulas: list[Before]
    doubtful: list[Answer]
    pulling: list[Answer]
    skin_tests: int

    @property
    def is_little(self) -> bool:
        """Whether there are so few tests that a few more would change most."""
        return self.pours < 3


def learned_view(user: Any, shelf: Shelf, bench: Bench) -> LearnedView:
    """Return the calibration from the tests of a maker's real pours."""
    lesson = lesson_of(user)
    learned, seen = lesson.learned, lesson.seen
    doubtful = set(learned.doubtful) if learned else set()
    newest = list(enumerate(seen))[-MOST_ANSWERS:]
    told_of = [n for n in doubtful if n < len(seen) - MOST_ANSWERS]
    pulls = learned.pulls if learned else {}
    answers = {n: _answer(s, lesson, n in doubtful, pulls.get(n, 0.0)) for n, s in newest}
    far = {n: _answer(seen[n], lesson, True, pulls.get(n, 0.0)) for n in told_of}
    marks = [(a.book, a.told, _label(a), a.is_doubtful, a.is_left_out) for a in answers.values()]
    picture = said_and_felt(
        marks,
        half_band=1.2,
        offset=learned.offset if learned else 0.0,
        summary=_summary([a for a in answers.values() if not a.is_left_out]),
    )
    counted = [s for s in seen if not s.left_out]
    hard = [a for a in answers.values() if abs(a.pull) >= PULLS_HARD and not a.is_doubtful]
    return LearnedView(
        answers=list(reversed(answers.values())),
        count=len(seen),
        pours=len({s.check.pour_id for s in counted}),
        picture=picture if answers else None,
        words=_words(learned, lesson, shelf) if learned else [],
        formulas=_formulas(user, shelf, bench, lesson) if learned else [],
        doubtful=[*far.values(), *(a for a in answers.values() if a.is_doubtful or a.is_left_out)],
        pulling=sorted(hard, key=lambda a: -abs(a.pull))[:3],
        skin_tests=sum(1 for s in counted if s.check.temp_c >= 30.0),
    )


def _answer(seen: Seen, lesson: Lesson, is_doubtful: bool, pull: float) -> Answer:
    o = seen.observation

    def said() -> tuple[float, float]:
        """Return its standard prediction and the present one."""
        at: dict[str, Any] = {"overrun": o.overrun, "age_days": o.age_days, "careless": o.careless}
        book, now = (read(blend(o.parts, p), [o.at_c], **at) for p in (None, lesson.prior))
        return float(book.rung[0]), float(now.rung[0])

    book, now = lesson.once(("answer", seen.check.pk), said)
    is_press = o.pressed is not None
    told = float(to_rungs(np.array(o.pressed))) if is_press else float(o.felt or 0.0)
    return Answer(
        seen.check, told, is_press, book, now, pull, is_doubtful, bool(seen.left_out), seen.left_out
    )


def _summary(answers: list[Answer]) -> str:
    """Return the text alternative of the picture of predicted and felt firmness."""
    far = [a.told - a.book for a in answers]
    if not far:
        return gettext("No test yet")
    middle = float(np.median(far))
    return said(
        "{far} tests, predicted and felt. Half of them felt more than {rungs} than predicted; "
        "differences range from {far2} to {far3}",
        far=len(far),
        rungs=_rungs(middle),
        far2=signed(min(far)),
        far3=signed(max(far)),
    )


def _label(answer: Answer) -> str:
    check, how = answer.check, "pressed" if answer.is_press else "felt"
    return said(
        "{code}: predicted {book:.1f}, {how} {told:.1f}",
        code=check.pour.code,
        book=answer.book,
        how=how,
        told=answer.told,
    )


def _words(learned: Learned, lesson: Lesson, shelf: Shelf) -> list[Word]:
    """Return the learned changes worth mentioning, largest first."""
    found: list[tuple[float, Word]] = []
    seen = lesson.seen
    thumb = learned.of("offset", "thumb")
    if thumb and _says(thumb):
        rungs, sd = thumb
        count = sum(1 for s in seen if not s.left_out and s.observation.felt is not None)
        because = said(
            "{count} thumb tests · between {rungs} and {rungs2}",
            count=count,
            rungs=signed(rungs - sd),
            rungs2=signed(rungs + sd),
        )
        found.append(
            (
                abs(rungs),
                Word(said("Your thumb finds balms {rungs} than standard.", rungs=_rungs(rungs)), because),
            )
        )
    press = learned.of("offset", "press")
    if press and any(s.observation.pressed is not None for s in seen) and _says(press):
        rungs, sd = press
        because = said(
            "your rod and hand · between {rungs} and {rungs2}",
            rungs=signed(rungs - sd),
            rungs2=signed(rungs + sd),
        )
        found.append(
            (
                abs(rungs),
                Word(said("Your press tests read {rungs} than standard.", rungs=_rungs(rungs)), because),
            )
        )
    for kind, slug in learned.names:
        if kind == "strength" and slug in shelf:
            word = _strength_word(learned, lesson, shelf[slug])
            if word:
                found.append(word)
    if not thumb or not _says(thumb):
        found += _together(learned, lesson, shelf)
    return [word for _, word in sorted(found, key=lambda pair: -pair[0])]


def _strength_word(learned: Learned, lesson: Lesson, material: Material) -> tuple[float, Word] | None:
    """Return the learned change of one material's strength, if it is certain enough."""
    told = learned.of("strength", material.slug)
    if told is None or not _says((G * told[0], G * told[1])):
        return None
    rungs, sd = G * told[0], G * told[1]
    words = said(
        "Your {in_words} sets {rungs} than standard where it is the main wax or butter.",
        in_words=material.in_words,
        rungs=_rungs(rungs),
    )
    return abs(rungs), Word(
        words, said("{pours_with} · ±{sd:.1f}", pours_with=_pours_with(lesson, material), sd=sd)
    )


def _together(learned: Learned, lesson: Lesson, shelf: Shelf) -> list[tuple[float, Word]]:
    """Return the combined change of thumb and main material while no pour separates the two."""
    found = []
    for kind, slug in learned.names:
        if kind != "strength" or slug not in shelf or shelf[slug].group not in ("wax", "butter"):
            continue
        both = learned.sum_of({("offset", "thumb"): 1.0, ("strength", slug): G})
        alone = learned.of("strength", slug)
        if both and _says(both) and alone and not _says((G * alone[0], G * alone[1])):
            words = said(
                "Balms with your {in_words} feel {rungs} than standard.",
                in_words=shelf[slug].in_words,
                rungs=_rungs(both[0]),
            )
            because = said(
                "{pours_with} · not yet clear whether this is your thumb or the material",
                pours_with=_pours_with(lesson, shelf[slug]),
            )
            found.append((abs(both[0]), Word(words, because)))
    return sorted(found, key=lambda pair: -pair[0])[:MOST_TOGETHER]


def _pours_with(lesson: Lesson, material: Material) -> str:
    count = lesson.pours_with.get(material, 0)
    return counted(count, "{count} pour with it", "{count} pours with it")


def _says(told: tuple[float, float]) -> bool:
    return abs(told[0]) >= WORTH_SAYING and abs(told[0]) >= SURE * told[1]


def _rungs(rungs: float) -> str:
    return said(
        "{rungs:.1f} {side}",
        rungs=abs(rungs),
        side="firmer" if rungs > 0 else "softer",
    )


def _formulas(user: Any, shelf: Shelf, bench: Bench, lesson: Lesson) -> list[Before]:
    """Return the firmness of the maker's newest versions, standard and calibrated."""
    versions = newest_of(Formula.objects.of(user).filter(put_away_at=None)[:MOST_FORMULAS])
    prefetch_related_objects(versions, "lines")
    found = []
    for version in versions:
        rests_on = "version", version.pk, version.revision, version.overrun_pct, bench.room_c
        said = lesson.once(rests_on, partial(_before_and_now, version, shelf, bench, lesson.prior))
        if said is not None:
            found.append(Before(version.formula, *said))
    return found


def _before_and_now(
    version: Version, shelf: Shelf, bench: Bench, prior: Prior
) -> tuple[Banded, Banded] | None:
    """Return a version's firmness, standard and calibrated; None without a prediction."""
    masses = composition_of(version, shelf).masses
    if not any(grams > 0 for _, grams in masses) or why_not(blend(masses)):
        return None
    book, now = (read(blend(masses, p), [bench.room_c], overrun=version.overrun) for p in (None, prior))
    return _banded(book), _banded(now)


def _banded(read_at: Reading) -> Banded:
    return float(read_at.rung[0]), float(read_at.low[0]), float(read_at.high[0])
