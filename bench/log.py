"""Print what the pages of the log cost with 40 pours and with 2,000, beside a bare page.

Run with `PYTHONPATH=. .venv/bin/python bench/log.py`. The pours are those of the demo's season, copied
with other dates and other answers (seed 7); 2,000 pours have 10,000 observations.
"""

from __future__ import annotations

import os
import tempfile
import time
from datetime import timedelta

os.environ["CALMTIN_DATA"] = tempfile.mkdtemp(prefix="calmtin-bench-")
os.environ["CALMTIN_DEMO"] = "1"
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.config.settings")

import django

django.setup()

import numpy as np  # noqa: E402
from django.core.management import call_command  # noqa: E402
from django.db import connection, transaction  # noqa: E402
from django.test import Client  # noqa: E402

from bench.pages import median_ms  # noqa: E402
from calmtin.accounts.models import User  # noqa: E402
from calmtin.config.serve import gather_static  # noqa: E402
from calmtin.exchange.demo import load_demo  # noqa: E402
from calmtin.formulas.models import Formula  # noqa: E402
from calmtin.pours.models import Check, Pour, WeighIn, WeighLine  # noqa: E402
from calmtin.pours.queries.compare import newest_of  # noqa: E402
from calmtin.pours.queries.taught import forget, lesson_of  # noqa: E402
from calmtin.pours.services import record_check  # noqa: E402

POURS, CHECKS_EACH, SEED = 2_000, 5, 7


@transaction.atomic
def grow(user: User, wanted: int) -> None:
    """Copy the maker's poured pours until there are `wanted`, each with five answers of a thumb."""
    rng = np.random.default_rng(SEED)
    seeds = list(
        Pour.objects.of(user)
        .filter(poured_at__isnull=False, called_off_at=None)
        .prefetch_related("lines__weigh_ins", "checks")
    )
    seeds = [pour for pour in seeds if any(c.felt_rung is not None for c in pour.checks.all())]
    have = Pour.objects.of(user).count()
    for n in range(have, wanted):
        like = seeds[n % len(seeds)]
        back = timedelta(days=float(rng.uniform(40.0, 1_000.0)))
        lines = list(like.lines.all())
        felt = [c for c in like.checks.all() if c.felt_rung is not None]
        began, poured = like.started_at - back, like.poured_at - back
        copy = Pour.objects.get(pk=like.pk)
        copy.pk, copy.number, copy.code = None, 1_000 + n, f"G{n}"
        copy.started_at, copy.poured_at = began, poured
        copy.use_by = like.use_by - back if like.use_by else None
        copy.save(force_insert=True)
        made = WeighLine.objects.bulk_create(
            WeighLine(
                pour=copy,
                position=line.position,
                key=line.key,
                material=line.material,
                percent=line.percent,
                planned_g=line.planned_g,
            )
            for line in lines
        )
        # A closed sheet takes no readings: the guard is told that they are corrections.
        WeighIn.objects.bulk_create(
            WeighIn(line=line, grams=line.planned_g, reason="copied") for line in made
        )
        Check.objects.bulk_create(
            Check(
                pour=copy,
                temp_c=seen.temp_c,
                felt_rung=min(max(seen.felt_rung + int(rng.integers(-1, 2)), 0), 10),
                verdict=seen.verdict,
                signs=seen.signs,
                notes=seen.notes,
                made_at=poured + timedelta(days=1 + k),
            )
            for k, seen in enumerate((felt * CHECKS_EACH)[:CHECKS_EACH])
        )


def figures(user: User, browser: Client) -> dict[str, tuple[float, int]]:
    """Return the cost of each page, ms, and how many queries it takes."""
    formula = Formula.objects.get(name="Headwind lip stick")
    tick = "&".join(f"p={pk}" for pk in newest_of(user, formula.pk))
    version = formula.versions.last()
    pages = {
        "a bare page (settings)": "/settings/",
        "Today": "/",
        "the log": "/pours/",
        "the log, searched": "/pours/?material=beeswax_yellow&verdict=keep",
        "what it has taught": "/learned/",
        "compare": f"/compare/?{tick}",
        "a formula": f"/formulas/{formula.pk}/v/{version.number}/",
        "the next pour": f"/formulas/{formula.pk}/next/",
    }
    found = {}
    for name, address in pages.items():
        assert browser.get(address).status_code == 200, address
        asked: list[str] = []

        def count(execute, sql, *rest, asked=asked):  # type: ignore[no-untyped-def]
            asked.append(sql)
            return execute(sql, *rest)

        with connection.execute_wrapper(count):
            browser.get(address)
        found[name] = (median_ms(lambda address=address: browser.get(address), 10), len(asked))
    return found


def learning(user: User) -> tuple[float, float]:
    """Return how long learning takes from nothing, and after one more answer, ms."""
    forget()
    begun = time.perf_counter()
    lesson_of(User.objects.get(pk=user.pk))
    cold = (time.perf_counter() - begun) * 1000.0
    pour = Pour.objects.of(user).filter(poured_at__isnull=False, called_off_at=None).first()
    record_check(user, pour, temp_c=21.0, felt_rung=5)
    begun = time.perf_counter()
    lesson_of(User.objects.get(pk=user.pk))
    return cold, (time.perf_counter() - begun) * 1000.0


def main() -> None:
    """Measure the demo's season, then the same bench grown to 2,000 pours."""
    call_command("migrate", verbosity=0)
    gather_static()
    load_demo()
    user = User.objects.get()
    browser = Client(SERVER_NAME="localhost")
    browser.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
    few = figures(user, browser)
    few_learning = learning(user)
    grow(user, POURS)
    many = figures(user, browser)
    many_learning = learning(user)
    answers = Check.objects.filter(felt_rung__isnull=False).count()
    bare = many["a bare page (settings)"][0]
    print(f"{Pour.objects.count()} pours, {answers} answers; a bare page takes {bare:.1f} ms")
    print(f"{'page':26} {'40 pours':>12} {'grown':>12} {'ratio to a bare page':>22} {'queries':>8}")
    for name, (ms, count) in many.items():
        print(f"{name:26} {few[name][0]:9.1f} ms {ms:9.1f} ms {ms / bare:21.1f}x {count:8}")
    for words, at in (("learning, from nothing", 0), ("learning, one more answer", 1)):
        print(
            f"{words:26} {few_learning[at]:9.1f} ms {many_learning[at]:9.1f} ms"
            f" {many_learning[at] / bare:21.1f}x"
        )


if __name__ == "__main__":
    main()
