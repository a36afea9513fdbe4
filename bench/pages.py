"""Print what a page update costs on the server, beside a bare page. Run with `script/bench`."""

from __future__ import annotations

import os
import statistics
import tempfile
import time
from collections.abc import Callable
from datetime import date
from decimal import Decimal

os.environ["CALMTIN_DATA"] = tempfile.mkdtemp(prefix="calmtin-bench-")
os.environ["CALMTIN_DEMO"] = "1"
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.config.settings")

import django

django.setup()

from django.core.management import call_command  # noqa: E402
from django.test import Client  # noqa: E402

from calmtin.accounts.models import User  # noqa: E402
from calmtin.config.serve import gather_static  # noqa: E402
from calmtin.core.data.loader import library  # noqa: E402
from calmtin.exchange.demo import load_demo  # noqa: E402
from calmtin.formulas.models import Formula  # noqa: E402
from calmtin.formulas.services import start_formula  # noqa: E402
from calmtin.pantry.services import buy_lot  # noqa: E402


def median_ms(work: Callable[[], object], times: int = 20) -> float:
    """Return the median of `times` timings of `work`, in milliseconds."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append((time.perf_counter() - start) * 1000.0)
    return statistics.median(taken)


def large_plan(user: User) -> str:
    """Return the address of a plan for 8 kinds of containers, with 30 lines and 200 lots behind it."""
    slugs = [slug for slug, m in library().items() if m.layer in ("wax", "butter", "soft_fat", "oil")][:30]
    made = start_formula(user, name="Thirty lines", kind="firm_salve", batch_g=Decimal(2000))
    version = made.versions.get()
    percents = [Decimal("3.3")] * 29 + [Decimal("4.3")]
    for position, (slug, percent) in enumerate(zip(slugs, percents, strict=True)):
        version.lines.create(position=position, material=slug, percent=percent)
    for n in range(200):
        buy_lot(user, material=slugs[n % 30], amount_g=Decimal(20 + n), bought_on=date(2026, 5, 1))
    names = ("tin_1oz", "tin_2oz", "jar_30ml", "jar_60ml", "lip_tube_standard", "mould_30ml")
    names += ("jar_120ml", "canning_half_pint")
    rows = [f"container_{n}={slug}&count_{n}={3 + n}" for n, slug in enumerate(names)]
    return f"/formulas/{made.pk}/v/1/fill/?pot=2000&{'&'.join(rows)}"


def main() -> None:
    """Time one edit of a line, the whole formula page, and a page with no prediction."""
    call_command("migrate", verbosity=0)
    gather_static()
    load_demo()
    formula = Formula.objects.get(name="Headwind lip stick")
    version = formula.versions.last()
    line = version.lines.get(material="castor_oil")
    browser = Client(SERVER_NAME="localhost", headers={"HX-Request": "true"})
    browser.force_login(formula.owner, backend="django.contrib.auth.backends.ModelBackend")
    address = f"/formulas/{formula.pk}/v/{version.number}/"
    edits = iter(range(10_000))

    def edit() -> None:
        version.refresh_from_db()
        percent = 10 + next(edits) % 5
        answer = browser.post(
            f"{address}lines/{line.key}/percent/", {"percent": percent, "seen": version.revision}
        )
        assert answer.status_code == 200

    edit()
    print(f"one edit with new numbers and pictures  {median_ms(edit):7.1f} ms")
    print(f"the formula page                        {median_ms(lambda: browser.get(address)):7.1f} ms")
    ask = f"{address}target/?rung=7.2&min_rung=4&hot=36"
    print(f"a target solved, with its page          {median_ms(lambda: browser.get(ask)):7.1f} ms")
    plan = large_plan(formula.owner)
    print(f"a plan: 8 containers, 30 lines, 200 lots {median_ms(lambda: browser.get(plan)):6.1f} ms")
    print(f"a bare page (settings)                  {median_ms(lambda: browser.get('/settings/')):7.1f} ms")


if __name__ == "__main__":
    main()
