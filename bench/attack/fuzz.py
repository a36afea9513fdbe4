"""Odd forms and queries to every address: no answer may be a 500."""

from __future__ import annotations

import os
import random
import re
import tempfile
from contextlib import closing
from typing import Any
from urllib.parse import urlencode

from bench.attack.served import Bench, Visitor

REQUESTS, SEED = 1500, 8

NASTY = ["", " ", "0", "-1", "1e308", "-1e308", "NaN", "inf", "9" * 400, "½", "1/0", "1,2,3", "²", "\x00"]
NASTY += ["<script>alert(1)</script>", "{{ 7*7 }}", "'; DROP TABLE x;--", "../../etc/passwd", "=1+1"]
NASTY += ["a" * 5000, "😀" * 50, "9999-12-31", "0001-01-01", "2026-02-30", "12 g", "+3", "+31", "1 oz"]
NASTY += ["5 % on top", "2 parts", "100", "99.9995", "50", "olive_oil", "my_nothing", "beeswax_yellow"]
NASTY += ["keep", "on", "yes", "%%", "\u202e"]


def patterns() -> list[tuple[str, set[str]]]:
    """Return every route with the names of its arguments."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.config.settings")
    os.environ["CALMTIN_DATA"] = tempfile.mkdtemp(prefix="calmtin-none-")
    import django

    django.setup()
    from django.urls import URLResolver, get_resolver

    def walk(resolver: Any, prefix: str) -> list[tuple[str, set[str]]]:
        found = []
        for pattern in resolver.url_patterns:
            route = prefix + str(pattern.pattern)
            found += (
                walk(pattern, route)
                if isinstance(pattern, URLResolver)
                else [(route, set(re.findall(r"<(?:\w+:)?(\w+)>", route)))]
            )
        return found

    return walk(get_resolver(), "")


# What the forms of the pages are called, so that the fuzz reaches past the first check.
FIELDS = """
percent seen material batch_g cooling overrun strength scale other lock key level reason name kind
audience sees_sun notes free place use_stock take show text make rung min_rung hot skin_melt usual
wax butter oil unit was proposal container count level loss grams temp felt_rung verdict q group
mine amount form price bought_on best_before opened_on note act actual fix-amount_g fix-price fix-
bought_on fix-reason void-reason own_figures density strength_pct typical_low_pct limit_pct
behaves_like melt_low melt_high inci allergens vegan brim_ml empty_g full_g usual_level_pct cavities
on_hand herb herb_g oil_g method started_on is_dried recovered_g strained_on raw_g clean_g done_on
pot finish material_0 percent_0 a b why without lot import request_key cold_c room_c hot_c
""".split()  # noqa: SIM905


def fuzz(bench: Bench) -> str:
    """Send odd forms and queries to every address; no answer may be a 500."""
    dice = random.Random(SEED)
    routes = [route for route in patterns() if "sign-out" not in route[0]]
    visitor = Visitor(bench)
    with closing(bench.database()) as book:
        keys = [key for (key,) in book.execute("SELECT key FROM formulas_line")]
        pks = [pk for (pk,) in book.execute("SELECT id FROM formulas_formula")]
    statuses: dict[int, int] = {}
    for n in range(REQUESTS):
        route, _ = routes[n % len(routes)]
        values = {
            "pk": str(dice.choice([*pks, 1, 2, 3, 10**11])), "number": str(dice.choice([1, 1, 2, 99])),
            "key": dice.choice(keys), "slug": dice.choice(["olive_oil", "mica", "my_reed_bed_wax", "x"]),
            "position": str(dice.choice([0, 1, 99])), "of": dice.choice(["probe", "scale", "x"]),
        }  # fmt: skip
        row = str(dice.choice([1, 2, 99]))  # whatever else an address names
        path = "/" + re.sub(
            r"<(?:\w+:)?(\w+)>", lambda found, values=values, row=row: values.get(found[1], row), route
        )
        data = {dice.choice(FIELDS): dice.choice(NASTY) for _ in range(dice.randint(0, 12))}
        way = dice.random()
        if way < 0.35:
            status, page = visitor.get(f"{path}?{urlencode(data, errors='replace')}")
        else:
            headers = {"HX-Request": "true"} if way > 0.7 else {}
            status, page = visitor.post(path, data, **headers)
        if status == 403:  # a sign-in among the attacks changed the token
            visitor = Visitor(bench)
        statuses[status] = statuses.get(status, 0) + 1
        assert status < 500, f"{status} for {path} with {data}\n{page[:2000]}"
        if not n % 500:
            for check in ("/", "/formulas/", "/pantry/", "/pours/"):
                assert visitor.get(check)[0] == 200, check
    return f"{REQUESTS} requests over {len(routes)} addresses, answers {dict(sorted(statuses.items()))}"
