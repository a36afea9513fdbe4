"""One thing changed: the variants of a version that a test against itself is made of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from django.utils.translation import gettext, gettext_noop

from calmtin.accounts.models import Bench
from calmtin.common.notation import Boxes
from calmtin.core.composition import THOUSANDTH, WHOLE, Composition
from calmtin.core.engine.firmness import rung_at
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import BATCH_G
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import notation_in_force, said
from calmtin.core.process.fill import Container
from calmtin.core.process.grain import COOLING_NAMES
from calmtin.core.process.weighing import share_out
from calmtin.core.quantities import Mass
from calmtin.core.units import read_number
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.substitute import stand_ins
from calmtin.pantry.adapters import containers_for
from calmtin.plans.adapters import Variant, at_share, rows_at
from calmtin.plans.queries.rows import sample_container, too_small_for

WAYS = {
    "wax": gettext_noop("More or less wax"),
    "wax_kind": gettext_noop("Another wax"),
    "butter": gettext_noop("Another butter"),
    "cooling": gettext_noop("Another way of cooling"),
    "starch": gettext_noop("With starch"),
    "without": gettext_noop("Without one thing"),
}
STARCH = "arrowroot"
USUAL_SAMPLE_G = Decimal(20)
USUAL_SHIFT, USUAL_STARCH = "+3", "4"


@dataclass(frozen=True)
class Trial:
    """A against B: what differs in words, what each reads, and the variants to start."""

    varies: str
    variants: tuple[Variant, Variant]
    reads: tuple[float | None, float | None]


@dataclass(frozen=True)
class VaryView:
    """The page on which one thing is changed, as typed; without a trial while something is missing."""

    version: Version
    way: str
    ways: Mapping[str, str]
    lines: list[tuple[str, str]]
    others: list[tuple[str, str]]
    boxes: dict[str, str]
    problems: dict[str, str]
    containers: Mapping[str, Container]
    sample_g: Decimal = Decimal(0)
    trial: Trial | None = None


def vary_view(
    user: Any, version: Version, shelf: Shelf, bench: Bench, typed: Mapping[str, str]
) -> VaryView:
    """Return the page for the typed input; errors are shown at their boxes."""
    composition = composition_of(version, shelf)
    way = typed.get("way", "wax") if typed.get("way") in WAYS else "wax"
    lines = _lines(composition, way)
    line = typed.get("line", "") if typed.get("line", "") in dict(lines) else next(iter(dict(lines)), "")
    others = _others(composition, way, line, shelf, version)
    other = (
        typed.get("other", "") if typed.get("other", "") in dict(others) else next(iter(dict(others)), "")
    )
    usual = {
        "by": USUAL_STARCH if way == "starch" else USUAL_SHIFT,
        "container": sample_container(containers_for(user), USUAL_SAMPLE_G),
    }
    boxes = Boxes({"sample": Mass(USUAL_SAMPLE_G)}, typed)
    boxes.update({name: typed.get(name, text) for name, text in usual.items()})
    boxes.update({"line": line, "other": other})
    view = VaryView(version, way, WAYS, lines, others, boxes, {}, containers_for(user))
    problems: dict[str, str] = {}
    sample_g = boxes.grams(problems, "sample", "A sample", low=1.0, high=BATCH_G[1])
    if not problems:
        view = replace(view, sample_g=sample_g)
        chosen = view.containers.get(boxes["container"])
        if chosen and (words := too_small_for(chosen, sample_g)):
            problems["container"] = words
    try:
        trial = _trial(version, composition, shelf, bench, way, boxes)
    except CalmTinError as refused:
        problems["by"] = str(refused)
        trial = None
    return replace(view, problems=problems, trial=None if problems else trial)


def _lines(composition: Composition, way: str) -> list[tuple[str, str]]:
    """Return the lines that a way changes, by key."""
    layers = {"wax": ("wax",), "wax_kind": ("wax",), "butter": ("butter", "soft_fat")}
    if way in ("cooling", "starch"):
        return []
    parts = [
        p for p in composition if p.percent > 0 and p.material.layer in layers.get(way, (p.material.layer,))
    ]
    if way == "without":
        # What is likeliest to be the cause comes first: scents, then what is a known allergen.
        parts.sort(key=lambda p: (p.material.group != "scent", not p.material.allergens))
    return [(p.key, p.material.label) for p in parts]


def _others(
    composition: Composition, way: str, line: str, shelf: Shelf, version: Version
) -> list[tuple[str, str]]:
    if way == "cooling":
        return [(slug, name) for slug, name in COOLING_NAMES.items() if slug != version.cooling]
    if way not in ("wax_kind", "butter") or not line:
        return []
    used = {material.slug for material in composition.materials}
    old = composition[line].material
    return [(m.slug, m.label) for m in stand_ins(old, shelf, avoid=[], used=used, stock=set())]


def _trial(
    version: Version, composition: Composition, shelf: Shelf, bench: Bench, way: str, boxes: dict[str, str]
) -> Trial:
    if way == "cooling":
        words = said("cooled {cooling_names}", cooling_names=COOLING_NAMES[boxes["other"]])  # type: ignore[index]  # from the offer
        same = _reads(version, composition.masses, bench)
        return Trial(words, (Variant(), Variant(cooling=boxes["other"])), (same, same))
    if way != "starch" and not boxes["line"]:
        raise CalmTinError(
            gettext("The formula has none of that. Choose something else to change."), field="by"
        )
    if way in ("wax_kind", "butter"):
        if not boxes["other"]:
            raise CalmTinError(
                gettext("Nothing on your shelf can replace it. Choose something else to change."),
                field="by",
            )
        rows, words = _swapped(composition, boxes["line"], shelf[boxes["other"]])
    elif way == "without":
        rows, words = _without(composition, boxes["line"])
    elif way == "starch":
        rows, words = _with_starch(composition, shelf, _number(boxes["by"], -100.0, 40.0))
    else:
        rows, words = _more(composition, boxes["line"], _number(boxes["by"], -60.0, 60.0))
    after = [(shelf[slug], float(percent)) for _, slug, percent in rows if slug]
    reads = _reads(version, composition.masses, bench), _reads(version, after, bench)
    return Trial(words, (Variant(), Variant(rows=tuple(rows))), reads)


def _number(text: str, low: float, high: float) -> Decimal:
    is_less = text.strip().startswith(("-", "−", "–"))
    told = read_number(
        text.strip().lstrip("+-−–"),
        name=gettext("The change"),
        high=max(high, -low),
        unit="%",
        notation=notation_in_force(),
    )
    return -told if is_less else told


def _reads(version: Version, parts: Sequence[tuple[Material, float]], bench: Bench) -> float | None:
    return rung_at(list(parts), bench.room_c, overrun=version.overrun, prior=bench.prior)


Rows = list[tuple[str, str, Decimal]]


def _more(composition: Composition, key: str, by: Decimal) -> tuple[Rows, str]:
    part = composition[key]
    share = part.percent + by
    if not by or not 0 < share < WHOLE:
        raise CalmTinError(
            said(
                "Type a change in percentage points, such as +3. It is {percent:f} % now.",
                percent=part.percent.normalize(),
            ),
            field="by",
        )
    rows = list(rows_at(composition.parts, at_share(composition.parts, part, share / WHOLE)))
    return rows, said(
        "{in_words} {percent:f} % or {share:f} %",
        in_words=part.material.in_words,
        percent=part.percent.normalize(),
        share=share.normalize(),
    )


def _without(composition: Composition, key: str) -> tuple[Rows, str]:
    part = composition[key]
    rows = rows_at(composition.parts, at_share(composition.parts, part, Decimal(0)))
    return [(k, "" if k == key else slug, p) for k, slug, p in rows], said(
        "without {in_words}", in_words=part.material.in_words
    )


def _swapped(composition: Composition, key: str, new: Material) -> tuple[Rows, str]:
    """Swap one for one: what that does to the firmness is what the test is for."""
    rows = [(p.key, new.slug if p.key == key else p.material.slug, p.percent) for p in composition]
    return rows, said(
        "{in_words} for {in_words2}", in_words=new.in_words, in_words2=composition[key].material.in_words
    )


def _with_starch(composition: Composition, shelf: Shelf, percent: Decimal) -> tuple[Rows, str]:
    if any(p.material.slug == STARCH for p in composition):
        part = next(p for p in composition if p.material.slug == STARCH)
        return _more(composition, part.key, percent)
    if not 0 < percent < WHOLE:
        raise CalmTinError(gettext("Type the percentage of starch, such as 4."), field="by")
    rest = [p.percent * (WHOLE - percent) / WHOLE for p in composition]
    shares = share_out([*rest, percent], THOUSANDTH)
    rows = [(p.key, p.material.slug, s) for p, s in zip(composition, shares[:-1], strict=True)]
    return [*rows, ("+", STARCH, shares[-1])], said(
        "{percent:f} % {in_words} or none", percent=percent.normalize(), in_words=shelf[STARCH].in_words
    )
