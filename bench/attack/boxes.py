"""Odd text in every number and text box of every form: no 500, and no grams that nobody typed."""

from __future__ import annotations

import random
import re
import unicodedata
from collections.abc import Iterator
from decimal import Decimal
from urllib.parse import urljoin

import lxml.html

from bench.attack.fuzz import NASTY
from bench.attack.served import Bench, Visitor, open_pour

REQUESTS, WEIGHTS, SEED = 5000, 600, 11
LOOKS_EVERY = 20  # of the answers that lead to another page, every twentieth is followed
MOST_S, MOST_MB = 2.0, 600
NUMBERS = [
    "12·5",
    "12:5",
    "12 . 5",
    "5 ㎏",
    "1_2",
    "0x10",
    "5*5",
    "2-30",
    "5 mg",
    "2026-02-30",
    "20+16",
    "５．５",
]
NUMBERS += [
    "²",
    "①",
    "½",
    "1½2",
    "1e5",
    "0.004",
    "-0",
    "−3",
    "١٢٫٥",
    "12,5",
    "1 lb 5 oz",
    "3/4",
    "12½",
    "½ tsp",
]
NOT_SENT = ("/sign-out/", "/settings/sessions/", "/settings/password/", "/demo/", "throw-away", "/delete/")
FILES = (".zip", ".csv", ".json", ".ics", "/csv/", ".pdf", ".png", ".svg")
_PLAIN = re.compile(r"\+? ?(\d+(?:[.,]\d+)?|[.,]\d+) ?(g|kg|oz)?")
_GRAMS = {"g": Decimal(1), "kg": Decimal(1000), "oz": Decimal("28.349523125")}


def strange(dice: random.Random) -> str:
    """Return a number with something of Unicode before, between or after its digits."""
    while unicodedata.category(c := chr(dice.randrange(0x20, 0x3000)))[0] not in "MNPSZ":
        pass
    return dice.choice([f"{c}12", f"1{c}2", f"12{c}", f"12 {c}", f"12{c} g"])


def forms_of(page: str, address: str) -> Iterator[tuple[str, dict[str, str], list[str]]]:
    """Yield where each form of a page posts, what its controls hold, and the names of its boxes."""
    tree = lxml.html.fromstring(page)
    for form in tree.iter("form"):
        posts = form.get("hx-post") or (form.get("action") or address if form.method == "POST" else None)
        if posts is None:
            continue
        data, boxes = {}, []
        for control in form.inputs:
            if not control.name:
                continue
            data[control.name] = str(control.value or "")
            if control.tag == "textarea" or control.get("type", "text") in ("text", "date"):
                boxes.append(control.name)
        if boxes:
            yield urljoin(address, posts), data, boxes


def pages(visitor: Visitor) -> dict[str, str]:
    """Return the pages that links lead to, two of a kind at the most."""
    waiting, found, kinds = ["/"], {}, {}  # type: ignore[var-annotated]
    while waiting and len(found) < 140:
        address = waiting.pop(0)
        kind = re.sub(r"\d+", "N", re.sub(r"lines/\w+", "lines/K", address.partition("?")[0]))
        if (
            address in found
            or kinds.get(kind, 0) >= 2
            or address.endswith((".zip", ".csv", ".json", ".ics", "/csv/"))
        ):
            continue
        status, page = visitor.get(address)
        if status != 200 or "<main" not in page:
            continue
        kinds[kind] = kinds.get(kind, 0) + 1
        found[address] = page
        for link in lxml.html.fromstring(page).iter("a"):
            to = urljoin(address, link.get("href") or "").partition("#")[0]
            if to.startswith("/") and not to.startswith("/static/"):
                waiting.append(to)
    return found


def meant(text: str) -> set[Decimal] | None:
    """Return what a plain weight may come to, g; None for what is none, which is not to be recorded."""
    plain = "".join(str(unicodedata.decimal(c, c)) for c in text).translate(
        {0xFF0E: ".", 0x66B: ".", 0xFF0C: ","}
    )
    found = _PLAIN.fullmatch(" ".join(plain.split()).rstrip(".,;)( "))
    if found is None:
        return None
    number = Decimal(found[1].replace(",", "."))
    return {
        (number * _GRAMS[found[2] or "g"]).quantize(Decimal("0.01")),
    }


def boxes(bench: Bench) -> str:
    """Fill every box with odd text, one at a time, and send its form."""
    dice, visitor = random.Random(SEED), Visitor(bench)
    found = [form for address, page in pages(visitor).items() for form in forms_of(page, address)]
    found = [form for form in found if not any(part in form[0] for part in NOT_SENT)]
    visitor.longest, statuses, most_cpu = 0.0, {}, 0.0  # type: ignore[var-annotated]
    for n in range(REQUESTS):
        address, data, names = found[n % len(found)]
        text = dice.choice([dice.choice(NASTY), dice.choice(NUMBERS), strange(dice)])
        cpu = bench.cpu_s()
        told = {**data, dice.choice(names): text}
        status, page = visitor.post(address, told, follows=n % LOOKS_EVERY == 0)
        most_cpu = max(most_cpu, bench.cpu_s() - cpu)
        statuses[status] = statuses.get(status, 0) + 1
        assert status < 500, f"{status} for {address} with {text!r}\n{page[-1500:]}"
    memory = bench.most_memory_mb()
    assert memory < MOST_MB and most_cpu < MOST_S, (memory, most_cpu)
    return (
        f"{REQUESTS} over {len(found)} forms, answers {dict(sorted(statuses.items()))}; at most "
        f"{most_cpu:.1f} s of CPU and {memory:.0f} MB"
    )


def weights(bench: Bench) -> str:
    """Type odd text into the weigh box: only what was typed is recorded."""
    dice, visitor, pour = random.Random(SEED), Visitor(bench), open_pour(bench)
    newest, kept, wrong = "SELECT id, grams FROM pours_weighin ORDER BY id DESC LIMIT 1", 0, []
    before = bench.ask(newest)
    for _ in range(WEIGHTS):
        text = dice.choice([dice.choice(NUMBERS), strange(dice)])
        visitor.post(f"/pours/{pour}/weigh/0/", {"grams": text}, **{"HX-Request": "true"})
        now = bench.ask(newest)
        if now == before:
            continue
        before, kept = now, kept + 1
        grams = Decimal(str(now[0][1])).quantize(Decimal("0.01"))
        allowed = meant(text)
        is_fraction = any(c in text for c in "½¼¾⅓⅔⅛⅜⅝⅞⅕⅖⅗⅘⅙⅚⅒/⁄") or "lb" in text
        if not is_fraction and (allowed is None or grams not in allowed):
            wrong.append((text, str(grams)))
    assert kept and not wrong, (kept, wrong)
    return f"{WEIGHTS} odd texts, {kept} of them weights; none recorded that nobody typed"
