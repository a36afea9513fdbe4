"""Pours side by side: the differences, felt firmness over time, and their effect."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp, weight
from calmtin.core.engine.blend import Blend, Parts, blend
from calmtin.core.engine.differences import Difference, differences, things_changed
from calmtin.core.engine.firmness import read, why_not
from calmtin.core.engine.ladder import rung_word
from calmtin.core.materials import Material, Shelf, percents_of
from calmtin.core.messages import digits, said
from calmtin.core.process.checks import SIGNS
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.queries.readings import CURVE_C, bench_places
from calmtin.pictures.compare import LETTERS, Curves, Felt, TimeLadder, curves, time_ladder
from calmtin.pours.adapters import IN_THE_POT, age_days, dry_parts, is_near_room, overrun_of
from calmtin.pours.models import Check, Kept, Pour
from calmtin.pours.queries.check_views import pressed_rung, verdict_of
from calmtin.pours.queries.prefetching import found_with

MOST = len(LETTERS)


@dataclass(frozen=True)
class Item:
    """A pour, or a version that was not poured, as one column of the comparison."""

    letter: str
    version: Version
    pour: Pour | None
    parts: Parts
    overrun: float
    blended: Blend | None
    predicted: tuple[float, float, float] | None
    checks: list[Check] = field(default_factory=list)

    @property
    def name(self) -> str:
        """Its name on the page."""
        if self.pour:
            return str(self.pour.code)
        return said("{name}, version {number}", name=self.version.formula.name, number=self.version.number)

    @property
    def words(self) -> str:
        """The words of its prediction."""
        return rung_word(self.predicted[0]) if self.predicted else ""

    @property
    def verdict(self) -> str:
        """The newest verdict."""
        return verdict_of(self.pour) if self.pour else ""


@dataclass(frozen=True)
class Pair:
    """What differs from the first column, how many things that is, and which of them matter."""

    item: Item
    found: list[Difference]
    process: list[str]

    @property
    def count(self) -> int:
        """How many things differ."""
        return things_changed(self.found) + len(self.process)

    @property
    def told(self) -> list[Difference]:
        """The differences that were made, without the oil that gave way."""
        return [d for d in self.found if not d.gives_way]


@dataclass(frozen=True)
class Row:
    """A row of the table: its name and its value in each column; `differs` between columns."""

    name: str
    cells: list[str]
    material: Material | None = None


@dataclass(frozen=True)
class CompareView:
    """The comparison of up to six pours or versions."""

    items: list[Item]
    pairs: list[Pair]
    lines: list[Row]
    process: list[Row]
    felt: list[Row]
    ladder: TimeLadder | None
    curves: Curves | None

    @property
    def too_many(self) -> list[Pair]:
        """The columns that differ from the first in more than one thing."""
        return [pair for pair in self.pairs if pair.count > 1]


# What is read of pours that lie beside each other.
BESIDE = (
    *IN_THE_POT,
    "checks",
    "checks__photos",
    "version__lines",
    "readings",
    "fillings",
    "kept",
)


def pours_to_compare(user: Any, numbers: Sequence[int]) -> list[Pour]:
    """Return the maker's own pours of `numbers`, in that order, at most as many as there are letters."""
    pours = Pour.objects.of(user).filter(pk__in=list(numbers)[:MOST], called_off_at=None)
    named = pours.select_related("version__formula", "series")
    found = {pour.pk: pour for pour in found_with(named, *BESIDE)}
    return [found[n] for n in dict.fromkeys(numbers) if n in found]


def newest_of(user: Any, formula_pk: int) -> list[int]:
    """Return the newest pours of a formula, oldest first, as many as a comparison takes."""
    numbers = (
        Pour.objects.of(user)
        .filter(version__formula_id=formula_pk, called_off_at=None, poured_at__isnull=False)
        .order_by("-started_at")
        .values_list("pk", flat=True)[:MOST]
    )
    return list(reversed(numbers))


def compare_view(
    pours: Sequence[Pour], versions: Sequence[Version], shelf: Shelf, bench: Bench
) -> CompareView:
    """Return pours, and versions that were not poured, side by side."""
    items = [_of_pour(n, pour, shelf, bench) for n, pour in enumerate(pours)]
    free = max(MOST - len(items), 0)
    items += [_of_version(len(items) + n, v, shelf, bench) for n, v in enumerate(versions[:free])]
    pairs = [_pair(items[0], item, bench) for item in items[1:]]
    return CompareView(
        items=items,
        pairs=pairs,
        lines=_lines(items, pairs, shelf),
        process=_process(items, bench),
        felt=_felt_rows(items),
        ladder=_ladder(items, bench) if items else None,
        curves=_curves(items, bench),
    )


def _of_pour(n: int, pour: Pour, shelf: Shelf, bench: Bench) -> Item:
    checks = [check for check in pour.checks.all() if not check.set_test]
    return _item(n, pour.version, pour, dry_parts(pour, shelf), overrun_of(pour), bench, checks)


def _of_version(n: int, version: Version, shelf: Shelf, bench: Bench) -> Item:
    return _item(n, version, None, composition_of(version, shelf).masses, version.overrun, bench, [])


def _item(
    n: int,
    version: Version,
    pour: Pour | None,
    parts: Parts,
    overrun: float,
    bench: Bench,
    checks: list[Check],
) -> Item:
    ready = blend(parts, bench.prior) if any(grams > 0 for _, grams in parts) else None
    if ready is not None and why_not(ready):
        ready = None
    predicted = None
    if ready is not None:
        reading = read(ready, [bench.room_c], overrun=overrun)
        predicted = (float(reading.rung[0]), float(reading.low[0]), float(reading.high[0]))
    return Item(LETTERS[n], version, pour, parts, overrun, ready, predicted, checks)


def _pair(first: Item, other: Item, bench: Bench) -> Pair:
    found = differences(
        first.parts,
        other.parts,
        bench.room_c,
        overrun=other.overrun,
        prior=bench.prior,
        step_pct=max(step_pct(first.pour), step_pct(other.pour)),
    )
    process = []
    if first.version.cooling != other.version.cooling:
        process.append(
            said("cooled {get_cooling_display}", get_cooling_display=other.version.get_cooling_display())
        )
    if abs(first.overrun - other.overrun) >= 0.1:
        process.append(
            said(
                "whipped {overrun:.0f} % more, not {overrun2:.0f}",
                overrun=100 * other.overrun,
                overrun2=100 * first.overrun,
            )
        )
    return Pair(other, found, process)


def step_pct(pour: Pour | None) -> float:
    """Return what a step of its scale is of a pour, percent; 0 for a version that was not poured."""
    return float(100 * pour.scale_step_g / pour.batch_g) if pour else 0.0


def _lines(items: Sequence[Item], pairs: Sequence[Pair], shelf: Shelf) -> list[Row]:
    """Return the materials that were changed in any column, in the order of the shelf."""
    tables = [percents_of(item.parts) for item in items]
    changed = {d.material for pair in pairs for d in pair.found}
    changed |= {d.instead_of for pair in pairs for d in pair.found if d.instead_of}
    order = [m for m in shelf.values() if m in changed]
    order += [m for m in changed if m not in order]
    return [
        Row(m.label, [digits(s, ".1f") if (s := table.get(m, 0.0)) else "–" for table in tables], m)
        for m in order
    ]


def _process(items: Sequence[Item], bench: Bench) -> list[Row]:
    """Return what differs in how they were made."""

    def poured_at_c(item: Item) -> str:
        hot = [r.temp_c for r in item.pour.readings.all() if r.place == "pot"] if item.pour else []
        return temp(hot[-1], bench.temperature_unit) if hot else "–"

    told = {
        "Cooled": [item.version.get_cooling_display() for item in items],
        "Whipped": [said("{overrun:.0f} % more", overrun=100 * item.overrun) for item in items],
        "Last in the pot at": [poured_at_c(item) for item in items],
        "Batch": [weight(item.pour.batch_g) if item.pour else "–" for item in items],
        "Into": [item.pour.into if item.pour else "–" for item in items],
    }
    return [Row(name, cells) for name, cells in told.items() if len(set(cells)) > 1]


def _felt_rows(items: Sequence[Item]) -> list[Row]:
    """Return the newest answer to each sign that was looked for, where columns differ or one is a fault."""
    rows = []
    for slug, sign in SIGNS.items():
        newest = [
            next((c.signs[slug] for c in reversed(item.checks) if slug in c.signs), None) for item in items
        ]
        told = [n for n in newest if n is not None]
        is_fault = sign.bad_from is not None and any(n >= sign.bad_from for n in told)
        if told and (len(set(newest)) > 1 or is_fault):
            rows.append(Row(sign.asks, ["–" if n is None else sign.words[n] for n in newest]))
    return rows


def felt_of(check: Check, pour: Pour) -> list[Felt]:
    """Return the firmness of a check: by thumb and by press."""
    found = []
    age = age_days(pour, check)
    pressed = pressed_rung(check)
    for rung, how in ((check.felt_rung, "felt"), (pressed, "pressed")):
        if rung is not None:
            found.append(
                Felt(
                    age,
                    float(rung),
                    said(
                        "{code} {how} {rung:.1f}, {age:.1f} days old",
                        code=pour.code,
                        how=how,
                        rung=float(rung),
                        age=age,
                    ),
                )
            )
    return found


def _felt_in_the_room(item: Item, bench: Bench) -> list[Felt]:
    """Return what was felt and pressed of a pour that speaks for it as it is now."""
    if item.pour is None:
        return []
    return [
        felt
        for check in item.checks
        if is_near_room(check, item.pour, bench.room_c)
        for felt in felt_of(check, item.pour)
    ]


def _ladder(items: Sequence[Item], bench: Bench) -> TimeLadder:
    told = []
    for item in items:
        told.append((item.name, _felt_in_the_room(item, bench), item.predicted))
    return time_ladder(told, target=items[0].version.formula.kind_facts.target)


def _curves(items: Sequence[Item], bench: Bench) -> Curves | None:
    ready = [item for item in items if item.blended is not None]
    if not ready or len(ready) != len(items):
        return None
    told = [
        (item.name, [float(r) for r in read(item.blended, CURVE_C, overrun=item.overrun).rung])
        for item in ready
        if item.blended is not None
    ]
    places = [(c, f"{name} {temp(c, bench.temperature_unit)}") for name, c in bench_places(bench)]
    return curves(told, list(CURVE_C), places)


def kept_of(formula_pk: int) -> Kept | None:
    """Return by which pour a formula is kept; None where it is not, or no longer."""
    newest = (
        Kept.objects.filter(pour__version__formula_id=formula_pk).select_related("pour__version").last()
    )
    return newest if newest is not None and newest.is_kept else None
