"""A pasted recipe on its way to a draft: parsed lines and the maker's answers."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal
from functools import partial
from typing import Any

from django.utils.translation import gettext, gettext_noop

from calmtin.common.numbers import read_box
from calmtin.common.templatetags.calm import grams, weight
from calmtin.core.composition import WHOLE
from calmtin.core.data.loader import drops_per_ml, kinds, synonyms
from calmtin.core.errors import CalmTinError, EmptyFormula
from calmtin.core.limits import BATCH_G, WEIGHT_G
from calmtin.core.materials import Material, Shelf
from calmtin.core.measured import Measured
from calmtin.core.messages import Words, notation_in_force, said
from calmtin.core.process.weighing import share_out
from calmtin.core.recipe.boxes import read_grams
from calmtin.core.recipe.items import RecipeLine, Remark, Unresolved
from calmtin.core.recipe.kind import KindGuess, likely_kind
from calmtin.core.recipe.matching import SURE
from calmtin.core.recipe.measures import Weight
from calmtin.core.recipe.reader import read_recipe, weigh_as
from calmtin.core.recipe.weights import OF_WHICH_BATCH, OF_WHICH_PART
from calmtin.pantry.adapters import shelf_for

LEAVE_OUT = gettext_noop("leave out")
FINEST = Decimal("0.001")


@dataclass(frozen=True)
class PastedRow:
    """One line of the recipe: as parsed and as it stands now.

    `key` follows the text, not the place. `shown` is what its box shows until somebody types
    something else; `news` says that the line was read anew. `words` say what it weighs, which
    a share of the whole does not. `remark` is what a line says of the whole, which is no material.
    """

    key: str
    text: str
    material: Material | None
    grams: Decimal | None
    low: float
    high: float
    is_left_out: bool
    question: Words
    offers: list[Material]
    problem: Words
    typed_grams: str
    shown: str
    news: str = ""
    words: str = ""
    how: Words = ""
    remark: str = ""
    percent: tuple[float, float, float] | None = None

    @property
    def is_settled(self) -> bool:
        """Whether it needs nothing more."""
        settled = self.material is not None and self.grams is not None and not self.problem
        return bool(self.is_left_out or self.remark or settled)

    @property
    def is_kept(self) -> bool:
        """Whether it goes into the draft."""
        return self.is_settled and not self.is_left_out and not self.remark

    @property
    def is_wide(self) -> bool:
        """Whether the measure leaves more than a tenth either way."""
        return self.grams is not None and self.high - self.low > 0.2 * float(self.grams)


@dataclass(frozen=True)
class Pasted:
    """The whole recipe. `asks_batch` where percent stand beside measures and no batch is stated,
    `asks_part` where parts do; `guess` is the kind that it seems to be.
    """

    rows: list[PastedRow]
    guess: KindGuess
    asks_batch: bool = False
    asks_part: bool = False
    problems: Mapping[str, str] = field(default_factory=dict)

    @property
    def is_settled(self) -> bool:
        """Whether it can become a draft."""
        return all(row.is_settled for row in self.rows) and bool(self.kept) and not self.problems

    @property
    def is_news(self) -> bool:
        """Whether a line was read that the maker has not seen yet."""
        return any(row.news for row in self.rows)

    @property
    def kept(self) -> list[PastedRow]:
        """The rows that go into the draft."""
        return [row for row in self.rows if row.is_kept]

    @property
    def batch_g(self) -> Decimal:
        """The total weight."""
        total = sum((row.grams for row in self.kept if row.grams), Decimal(0))
        return min(max(total.quantize(Decimal("0.01")), Decimal(1)), Decimal(50_000))

    def percents(self) -> list[tuple[str, Decimal]]:
        """Return materials and percentages that sum to 100.000; the same material is put together."""
        grams: dict[str, Decimal] = {}
        for row in self.kept:
            if row.material is not None and row.grams is not None:
                grams[row.material.slug] = grams.get(row.material.slug, Decimal(0)) + row.grams
        total = sum(grams.values(), Decimal(0))
        if total <= 0:
            raise EmptyFormula(gettext("This recipe has no weights yet."), field="text")
        exact = [value * WHOLE / total for value in grams.values()]
        exact[-1] = WHOLE - sum(exact[:-1], Decimal(0))
        return list(zip(grams, share_out(exact, FINEST), strict=True))

    def measured(self) -> list[Measured | None]:
        """Return how each line of `percents` was measured, with the range that leaves."""
        rows: dict[str, list[PastedRow]] = {}
        for row in self.kept:
            if row.material is not None:
                rows.setdefault(row.material.slug, []).append(row)
        return [
            Measured.of(
                " + ".join(row.words for row in same if row.words)[:200],
                *(
                    float(sum(value))
                    for value in zip(*((r.grams, r.low, r.high) for r in same), strict=True)
                ),
            )
            for same in rows.values()
        ]


def read_pasted(user: Any, text: str, settled: Mapping[str, str]) -> Pasted:
    """Read `text` against the maker's shelf, with what the form settled for each line.

    `settled` holds material_KEY ("leave out" or a slug), grams_KEY and, as it was shown
    before, was_KEY for the line whose text has that key; `batch` for percentages, `part` for
    what one part weighs, `name` as typed.
    """
    shelf, problems = shelf_for(user), dict[str, str]()
    batch_g = _asked_g(settled, "batch", gettext("The batch"), problems)
    part_g = _asked_g(settled, "part", gettext("One part"), problems)
    recipe = read_recipe(
        text,
        shelf,
        synonyms=synonyms(),
        drops_per_ml=drops_per_ml(),
        notation=notation_in_force(),
        batch_g=batch_g,
        part_g=part_g,
    )
    seen: Counter[str] = Counter()
    rows = []
    for item in recipe.items:
        key = hashlib.sha256(item.text.encode()).hexdigest()[:10]
        seen[key] += 1
        rows.append(_row(f"{key}{seen[key]}", item, shelf, settled))
    reasons = {str(item.reason) for item in recipe.items if isinstance(item, Unresolved)}
    asks = {
        box: str(reason) in reasons or bool(settled.get(box, "").strip())
        for box, reason in (("batch", OF_WHICH_BATCH), ("part", OF_WHICH_PART))
    }
    rows = _with_percents(rows)
    known = [(row.material, float(row.grams)) for row in rows if row.is_kept and row.material and row.grams]
    words = f"{settled.get('name', '')}\n{text}"
    return Pasted(rows, likely_kind(words, known, kinds()), asks["batch"], asks["part"], problems)


def _asked_g(settled: Mapping[str, str], box: str, name: str, problems: dict[str, str]) -> float | None:
    """Return a weight that the page asks for once, g; its error goes into `problems`."""
    if not settled.get(box, "").strip():
        return None
    read = partial(read_grams, settled[box], name=name, low=BATCH_G[0], high=BATCH_G[1])
    told = read_box(problems, box, partial(read, notation=notation_in_force()))
    return None if box in problems else float(told)


def _row(
    key: str, item: RecipeLine | Unresolved | Remark, shelf: Shelf, settled: Mapping[str, str]
) -> PastedRow:
    if isinstance(item, Remark):
        words = said("the whole batch, {Decimal}", Decimal=weight(Decimal(repr(round(item.batch_g, 2)))))
        return PastedRow(key, item.text, None, None, 0.0, 0.0, False, "", [], "", "", "", remark=words)
    read = item if isinstance(item, RecipeLine) else None
    is_new = bool(settled.get("shown")) and f"was_{key}" not in settled
    chosen = settled.get(f"material_{key}") or (read.material if read else _only_choice(item))
    weighed = _weighed(item, shelf, chosen)
    fresh = "" if weighed is None else grams(Decimal(repr(round(weighed.grams, 2))))
    was = settled.get(f"was_{key}", fresh)
    typed = settled.get(f"grams_{key}", fresh)
    if typed == was:
        # Nobody typed anything: what is read now stands, the batch or the material may be another.
        typed = fresh
    news = (
        "changed"
        if is_new
        else said("was {was}", was=was)
        if was != fresh and typed == fresh and was
        else ""
    )
    problem = item.reason if isinstance(item, Unresolved) and not (chosen and typed) else ""
    weight_g = None
    is_left_out = chosen == LEAVE_OUT
    if is_left_out:
        problem = ""
    elif chosen and not problem:
        weight_g, problem = _grams(typed, shelf.get(chosen))
    as_read = weighed is not None and weight_g is not None and typed == fresh
    if as_read and weighed is not None:
        weight_g = Decimal(repr(round(weighed.grams, 2)))
    low, high = (weighed.low, weighed.high) if weighed and as_read else (float(weight_g or 0),) * 2
    slugs = [read.material, *(c.slug for c in read.others)] if read else []
    slugs += [c.slug for c in item.choices] if isinstance(item, Unresolved) else []
    return PastedRow(
        key=key,
        text=item.text,
        material=shelf.get(chosen),
        grams=weight_g,
        low=min(low, float(weight_g or 0)),
        high=max(high, float(weight_g or 0)),
        is_left_out=is_left_out,
        question=read.question if read and as_read and chosen == read.material else "",
        offers=[shelf[slug] for slug in dict.fromkeys(slugs)],
        problem=problem,
        typed_grams=typed,
        shown=fresh,
        news=news,
        how=weighed.how if weighed and as_read else "",
        words="" if read and read.stated.unit in ("part", "percent") else item.text,
    )


def _only_choice(item: RecipeLine | Unresolved) -> str:
    """Return the material of a line that lacks only its weight."""
    if isinstance(item, Unresolved) and len(item.choices) == 1 and item.choices[0].confidence >= SURE:
        return item.choices[0].slug
    return ""


def _weighed(item: RecipeLine | Unresolved, shelf: Shelf, chosen: str) -> Weight | None:
    """Return what a line weighs as the material that was chosen for it."""
    if isinstance(item, RecipeLine) and (
        chosen == item.material or item.stated.unit in ("part", "percent") or chosen not in shelf
    ):
        return item.weight
    if chosen not in shelf:
        return None
    return weigh_as(
        item.text,
        shelf[chosen],
        drops_per_ml=drops_per_ml().get(chosen),
        notation=notation_in_force(),
    )


def _grams(typed: str, material: Material | None) -> tuple[Decimal | None, str]:
    try:
        drops = drops_per_ml().get(material.slug) if material else None
        read = read_grams(
            typed,
            name=gettext("The weight"),
            high=WEIGHT_G[1],
            material=material,
            drops_per_ml=drops,
            notation=notation_in_force(),
        )
    except CalmTinError as refused:
        return None, str(refused)
    return read, ""


def _with_percents(rows: list[PastedRow]) -> list[PastedRow]:
    """Add each kept row's percent of the whole with the range that the measures leave."""
    kept = [row for row in rows if row.is_kept and row.grams is not None]
    total = float(sum(row.grams for row in kept if row.grams is not None))
    low, high = sum(row.low for row in kept), sum(row.high for row in kept)
    found = []
    for row in rows:
        if row not in kept or total <= 0:
            found.append(row)
            continue
        least = row.low / (row.low + high - row.high) if row.low else 0.0
        most = row.high / (row.high + low - row.low) if row.high else 0.0
        share = float(row.grams or 0) / total
        found.append(replace(row, percent=(100 * share, 100 * least, 100 * most)))
    return found
