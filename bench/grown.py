"""Print what every main page costs on a bench after three years, beside a bare page.

Run with `script/bench --grown`. The bench is the demo's season, copied with other dates and other
answers (seed 7) until one maker has 2,000 pours with 10,000 checks, 400 formulas and 1,500 lots; two
more makers carry the season in from the file that the first one takes along.
"""

from __future__ import annotations

import gc
import os
import subprocess
import sys
import tempfile
import time
from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from io import BytesIO
from pathlib import Path
from statistics import median
from typing import Any

DATA = Path(tempfile.mkdtemp(prefix="calmtin-bench-"))
os.environ["CALMTIN_DATA"] = str(DATA)
os.environ["CALMTIN_DEMO"] = "1"
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.config.settings")

import django  # noqa: E402

django.setup()

import numpy as np  # noqa: E402
from django.core.management import call_command  # noqa: E402
from django.db import connection, transaction  # noqa: E402
from django.db.models import Model  # noqa: E402
from django.test import Client  # noqa: E402

from calmtin.accounts.models import User  # noqa: E402
from calmtin.checks.queries.calibration import forget, lesson_of  # noqa: E402
from calmtin.checks.queries.compare import newest_of  # noqa: E402
from calmtin.config.serve import gather_static  # noqa: E402
from calmtin.exchange.demo import load_demo  # noqa: E402
from calmtin.exchange.records.reading import import_records  # noqa: E402
from calmtin.exchange.records.writing import write_records  # noqa: E402
from calmtin.exchange.upkeep import study_book  # noqa: E402
from calmtin.formulas.models import Formula, Line, Step, Version  # noqa: E402
from calmtin.packing import models as after  # noqa: E402
from calmtin.pantry.models import Lot, Movement, Withdrawal, with_left  # noqa: E402
from calmtin.pours.models import Check, Pour  # noqa: E402
from calmtin.pours.models import pour as parts  # noqa: E402
from calmtin.pours.services import record_check  # noqa: E402

POURS, CHECKS, FORMULAS, LOTS, SEED = 2_000, 10_000, 400, 1_500, 7
OF_A_POUR: tuple[type[Any], ...] = (
    parts.PourFilling,
    parts.StepDone,
    parts.PotReading,
    parts.Yield,
    parts.Kept,
    after.PieceGone,
)
BARE = "/settings/"
WORDS = ("keel", "rudder", "thwart", "slipway", "boathouse", "mooring", "tiller", "gunwale", "sculler")


def copied(row: Any, back: timedelta, **changes: Any) -> Any:
    """Return an unsaved copy of a row with its days and times `back` earlier, and `changes`."""
    told = {field.attname: getattr(row, field.attname) for field in row._meta.concrete_fields}
    told.pop(row._meta.pk.attname)
    for name, value in told.items():
        if isinstance(value, date | datetime):
            told[name] = value - back
    return type(row)(**told | changes)


def bulk(rows: Iterable[Model]) -> list[Any]:
    """Save copies of one kind at once."""
    rows = list(rows)
    return list(type(rows[0])._base_manager.bulk_create(rows, batch_size=400)) if rows else []


def grow_formulas(user: User, wanted: int, rng: np.random.Generator) -> None:
    """Copy the maker's formulas with all their versions, lines and steps until there are `wanted`."""
    seeds = list(Formula.objects.of(user).prefetch_related("versions__lines", "versions__steps"))
    for n in range(Formula.objects.of(user).count(), wanted):
        like, back = seeds[n % len(seeds)], timedelta(days=float(rng.uniform(0.0, 1_000.0)))
        word = WORDS[n % len(WORDS)]
        made = copied(like, back, name=f"{like.name}, {word} {n}"[:80], code=f"X{n}")
        made.save()
        made_of: dict[int, Version] = {}
        for version in like.versions.order_by("number"):
            copy = copied(version, back, formula_id=made.pk, parent_id=None, poured_at=None)
            copy.save()
            made_of[version.pk] = copy
        for kind in (Line, Step):
            bulk(
                copied(row, back, version_id=made_of[row.version_id].pk)
                for row in kind.objects.filter(version__formula=like)
            )
        # Last, as when it is poured: a poured version takes no lines.
        for version in like.versions.filter(poured_at__isnull=False):
            Version.objects.filter(pk=made_of[version.pk].pk).update(poured_at=version.poured_at - back)


def grow_lots(user: User, wanted: int, rng: np.random.Generator) -> None:
    """Copy the maker's lots until there are `wanted`."""
    seeds = list(Lot.objects.of(user).filter(voided_at=None).prefetch_related("movements"))
    for n in range(Lot.objects.of(user).count(), wanted):
        like, back = seeds[n % len(seeds)], timedelta(days=int(rng.uniform(0.0, 1_000.0)))
        lot = copied(like, back)
        lot.save()
        bought = like.movements.get(kind=Movement.Kind.BOUGHT)
        bulk([copied(bought, back, lot_id=lot.pk)])


def grow_pours(user: User, wanted: int, checks: int, rng: np.random.Generator) -> None:
    """Copy the maker's poured pours, over all their formulas, until there are `wanted` with `checks`."""
    seeds = list(
        Pour.objects.of(user)
        .filter(poured_at__isnull=False, called_off_at=None)
        .select_related("version")
        .prefetch_related("lines__weigh_ins", "checks")
    )
    seeds = [pour for pour in seeds if any(c.felt_rung is not None for c in pour.checks.all())]
    rows = {
        kind: {s.pk: list(kind._base_manager.filter(pour=s, **_taking_nothing_back(kind))) for s in seeds}
        for kind in OF_A_POUR
    }
    lots: dict[str, list[Lot]] = defaultdict(list)
    for lot in Lot.objects.of(user).filter(voided_at=None):
        lots[lot.material].append(lot)
    have = Pour.objects.of(user).count()
    each = -(-(checks - Check.objects.of(user).count()) // (wanted - have))
    same: dict[int, list[int]] = {
        s.pk: list(
            Version.objects.filter(
                formula__owner=user,
                number=s.version.number,
                formula__name__startswith=s.version.formula.name.split(",")[0],
            ).values_list("pk", flat=True)
        )
        for s in seeds
    }
    for n in range(have, wanted):
        like = seeds[n % len(seeds)]
        back = timedelta(days=float(rng.uniform(40.0, 1_000.0)))
        versions = same[like.pk]
        changes = {"version_id": versions[n % len(versions)], "number": 1_000 + n, "code": f"G{n}"}
        pour = copied(like, back, **changes, series_id=None)
        pour.save()
        lines = list(like.lines.all())
        made = bulk(copied(line, back, pour_id=pour.pk) for line in lines)
        # A closed sheet takes no readings: the guard is told that they are corrections.
        weighed = bulk(
            copied(
                row,
                back,
                line_id=copy.pk,
                lot_id=None,
                reason="copied",
                withdrawal_id=Withdrawal.objects.create(owner=user).pk
                if row.grams and lots[copy.material]
                else None,
            )
            for line, copy in zip(lines, made, strict=True)
            for row in line.weigh_ins.all()
        )
        bulk(taken for entry in weighed if (taken := taken_from(lots[entry.line.material], entry, n)))
        for kind in OF_A_POUR:
            bulk(copied(row, back, pour_id=pour.pk) for row in rows[kind][like.pk])
        felt = [c for c in like.checks.all() if c.felt_rung is not None]
        bulk(
            copied(
                seen,
                back,
                pour_id=pour.pk,
                felt_rung=min(max(seen.felt_rung + int(rng.integers(-1, 2)), 0), 10),
                made_at=pour.poured_at + timedelta(days=1 + k),
            )
            for k, seen in enumerate((felt * each)[:each])
        )


def taken_from(lots: list[Lot], entry: Any, n: int) -> Movement | None:
    """Return what a reading took from one of the lots of its material."""
    if entry.withdrawal is None:
        return None
    return Movement(
        lot=lots[n % len(lots)],
        kind=Movement.Kind.WEIGHED,
        grams=-entry.grams,
        withdrawal=entry.withdrawal,
    )


def use_up(user: User) -> None:
    """Leave something in a tenth of the lots: the others were used up."""
    rows = []
    for n, lot in enumerate(with_left(Lot.objects.of(user))):
        if n % 10 and lot.left:
            rows.append(Movement(lot=lot, kind=Movement.Kind.USED, grams=-lot.left, reason="gone"))
        elif lot.left < 0:
            grams = lot.amount_g / 2 - lot.left
            rows.append(Movement(lot=lot, kind=Movement.Kind.CORRECTED, grams=grams, reason="re-weighed"))
    bulk(rows)


def _taking_nothing_back(kind: type[Model]) -> dict[str, Any]:
    return {"undoes": None} if kind is after.PieceGone else {}


def more_makers(user: User, names: Iterable[str]) -> None:
    """Let other makers carry the first one's season in."""
    file = BytesIO()
    write_records(user, file)
    for name in names:
        import_records(User.objects.create_user(username=name), file)


def pages_of(user: User) -> dict[str, str]:
    """Return the address of each main page."""
    formula = Formula.objects.get(owner=user, name="Headwind lip stick")
    version = formula.versions.last()
    assert version is not None
    pour = Pour.objects.of(user).filter(checks__isnull=False, version__formula=formula).first()
    assert pour is not None
    tick = "&".join(f"p={pk}" for pk in newest_of(user, formula.pk))
    of, here, done = f"/formulas/{formula.pk}/", f"/formulas/{formula.pk}/v/{version.number}/", pour.pk
    return {
        "settings": BARE,
        "Today": "/",
        "ready by": "/deadlines/",
        "formulas": "/formulas/",
        "formulas, searched": "/formulas/?q=keel",
        "a formula": here,
        "its target": f"{here}target/?rung=7.2&min_rung=4&hot=36",
        "its trio map": f"{here}trio/",
        "its versions": f"{of}versions/",
        "its fill plan": f"{here}fill/",
        "its pours": f"{of}pours/",
        "the next pour": f"{of}next/",
        "compare": f"/compare/?{tick}",
        "the log": "/pours/",
        "the log, searched": "/pours/?material=beeswax_yellow&verdict=keep",
        "a poured pour": f"/pours/{done}/",
        "its card": f"/pours/{done}/card/",
        "its pieces": f"/pours/{done}/pieces/",
        "its labels": f"/pours/{done}/labels/",
        "what the bench has taught": "/calibration/",
        "pantry": "/pantry/",
        "pantry, searched": "/pantry/?q=bees",
        "a material": "/pantry/materials/beeswax_yellow/",
        "the calendar file": "/checks.ics",
    }


@dataclass(frozen=True)
class Cost:
    """What a page costs: ms, times a bare page, queries, bytes."""

    ms: float
    ratio: float
    queries: int
    size: int


def figures(browser: Client, pages: dict[str, str]) -> dict[str, Cost]:
    """Return what each page costs."""
    found = {}
    for name, address in pages.items():
        answer = browser.get(address)
        assert answer.status_code == 200, (address, answer.status_code)
        asked: list[str] = []

        def count(execute, sql, *rest, asked=asked):  # type: ignore[no-untyped-def]
            asked.append(sql)
            return execute(sql, *rest)

        with connection.execute_wrapper(count):
            browser.get(address)
        size = len(answer.getvalue() if answer.streaming else answer.content)
        # A bare page in between: a machine's pace changes within a run.
        mine, bare = [], []
        for _ in range(12):
            mine.append(timed(lambda address=address: browser.get(address)))
            bare.append(timed(lambda: browser.get(BARE)))
        found[name] = Cost(median(mine), median(mine) / median(bare), len(asked), size)
    return found


def settled_figures(user: User, browser: Client) -> dict[str, Cost]:
    """Return what each page costs once what the log teaches is known, as it is while a server runs."""
    forget()
    lesson_of(User.objects.get(pk=user.pk))
    gc.collect()
    gc.freeze()  # as the server does
    return figures(browser, pages_of(user))


def learning(user: User) -> tuple[float, float]:
    """Return how long learning takes from nothing, and after one more answer, ms."""
    forget()
    cold = timed(lambda: lesson_of(User.objects.get(pk=user.pk)))
    pour = Pour.objects.of(user).filter(poured_at__isnull=False, called_off_at=None).first()
    assert pour is not None
    record_check(user, pour, temp_c=21.0, felt_rung=Decimal(5))
    return cold, timed(lambda: lesson_of(User.objects.get(pk=user.pk)))


def timed(work: Callable[[], object]) -> float:
    """Return how long `work` takes once, ms."""
    begun = time.perf_counter()
    work()
    return (time.perf_counter() - begun) * 1000.0


def book_opens() -> tuple[float, float]:
    """Return how long all migrations take on an empty book, and a start with a grown one, s."""
    empty = tempfile.mkdtemp(prefix="calmtin-bench-")

    def run(data: str, *words: str) -> float:
        told = {**os.environ, "CALMTIN_DATA": data, "CALMTIN_DEMO": "0"}
        return timed(lambda: subprocess.run([sys.executable, *words], env=told, check=True)) / 1000.0

    migrating = run(empty, "manage.py", "migrate", "--verbosity=0")
    opens = "from calmtin.config import serve; import django; django.setup(); serve._open_book(fresh=False)"
    return migrating, run(str(DATA), "-c", opens)


def grown_user() -> User:
    """Build the bench and return the maker whose it is."""
    call_command("migrate", verbosity=0)
    gather_static()
    load_demo()
    user = User.objects.get()
    more_makers(user, ("second", "third"))
    return user


def grow(user: User) -> None:
    """Grow the season to three years."""
    rng = np.random.default_rng(SEED)
    with transaction.atomic():
        grow_formulas(user, FORMULAS, rng)
        grow_lots(user, LOTS, rng)
        grow_pours(user, POURS, CHECKS, rng)
        use_up(user)
    study_book()


def main() -> None:
    """Measure the demo's season, then the same bench grown."""
    user = grown_user()
    browser = Client(SERVER_NAME="localhost")
    browser.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
    few, few_learning = settled_figures(user, browser), learning(user)
    print(f"growing took {timed(lambda: grow(user)) / 1000:.0f} s", file=sys.stderr)
    many, many_learning = settled_figures(user, browser), learning(user)
    size = (DATA / "calmtin.sqlite3").stat().st_size / 1e6
    print(
        f"{Pour.objects.count()} pours, {Check.objects.count()} checks, {Formula.objects.count()} formulas,"
    )
    print(f"{Lot.objects.count()} lots, {User.objects.count()} makers; the database is {size:.0f} MB.\n")
    print("| page | the demo’s season | grown | to a bare page | queries | kB |")
    print("|---|---|---|---|---|---|")
    for name, cost in many.items():
        row = [name, f"{few[name].ms:.0f} ms", f"{cost.ms:.0f} ms", f"{cost.ratio:.1f}x", cost.queries]
        print("|", " | ".join(map(str, [*row, round(cost.size / 1e3)])), "|")
    migrating, opening = book_opens()
    print(f"\nMigrating an empty book takes {migrating:.1f} s, opening the grown one {opening:.1f} s.\n")
    print("| | the demo’s season | grown |\n|---|---|---|")
    for name, at in (("learning, from nothing", 0), ("learning, one more answer", 1)):
        print(f"| {name} | {few_learning[at]:.0f} ms | {many_learning[at]:.0f} ms |")


if __name__ == "__main__":
    main()
