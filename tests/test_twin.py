"""Two benches, one truth: every page of a bench in ounces says what it says in grams.

The pages are found by their links, so that a new page is among them without being listed.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import timedelta
from decimal import Decimal
from itertools import pairwise, zip_longest
from typing import Any
from unittest import mock

import lxml.html
from django.db import transaction
from django.test import SimpleTestCase, TestCase, override_settings
from django.utils import timezone

from calmtin.accounts.models import Bench, User
from calmtin.core.quantities import FLUID_OUNCE_ML, OUNCE_G, Mass
from calmtin.formulas.models import FinishPart, Formula, Line, Version
from calmtin.formulas.proposals import turns
from calmtin.packing.models import PieceGone
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot, OwnContainer, OwnMaterial
from calmtin.plans.queries import fill
from calmtin.plans.queries.fill import fill_view
from calmtin.pours.models import (
    Check,
    FinishWeighIn,
    PotAddition,
    PotReading,
    Pour,
    PourFilling,
    PourFinishPart,
    WeighIn,
    WeighLine,
    Yield,
)
from tests.bench_data import draft, maker, salve
from tests.crawl import crawl
from tests.exchange.test_records import InAFolder
from tests.test_enter import EnterKey
from tests.whole_bench import whole_bench

NUMBER = re.compile(r"[−+-]?\d[\d,]*(?:\.\d+)?")
UNIT = re.compile(r"(?:(?:–| to | and )[\d.,]+)?\s?(fl oz|ml|(?:g|oz)(?!/)|°[CF]?)(?!\w)")
BOTH = re.compile(r"\bg\b(?!/).*\boz\b|\boz\b.*\bg\b(?!/)", re.S)  # what says both is for everybody
ALONE = re.compile(r"\b(?:fl oz|ml|g|oz)\b(?!/)|°[CF]")
POINT = re.compile(r"\d\.\d")
# What is not a number in a bench's notation: a version, an address, a slug, and what the maker typed.
NO_NUMBER = re.compile(r"\d+\.\d+\.\d+|https?://\S+")
MONEY = re.compile(r"£(?=\d)|(?<=\d) kr\b")
GRAMS = {"scale_step": "0.01", "temperature_unit": "C"}
OUNCES = {"scale_step": "0.001oz", "temperature_unit": "F"}
COMMAS = GRAMS | {"decimal_comma": True, "cups": "metric", "currency": "kr"}
COARSE_GRAMS = {"scale_step": "1", "temperature_unit": "C"}
COARSE_OUNCES = {"scale_step": "0.05oz", "temperature_unit": "F"}
# Pages and parts that are the same for everybody: the settings offer all units, a label says both, a
# placeholder shows that any unit may be typed, and the hour goes on while a page is drawn.
SAME = ("placeholder", "code ")
OFFERS_UNITS = {"/settings/", "/first/"}
# What a scale rounds to is another step on each; these words say how it comes out.
OF_THE_SCALE = re.compile(
    r"one step of|filled to|by rounding to a step|comes? closer to|^[−+]?\d\.\d %$|\d\d?:\d\d"
)
SHARE_ON_THE_SCALE = re.compile(r"actual %$")
# The thermometer of a rehearsal, in a pot that goes on cooling.
OF_THE_STOVE = re.compile(r"^[\d.]+°$")
# How long ago, or until when: the hour goes on while hundreds of pages are drawn.
THE_HOUR = re.compile(r"\d+\s(?:minute|hour)s?(?=\sago)|(?<=in )\d+\s(?:minute|hour)s?")
# A note that a service wrote into the record when it happened, which says both units.
OF_THE_RECORD = re.compile(r"left in the herb")
# "2 oz tin", "Half-pint (8 oz) canning jar": a name of a container, not a weight of anything.
NAME = re.compile(
    r"\(?\d+(?:\.\d+)? (?:ml|oz)\)?(?= (?:[a-z-]+ )?(?:tin|jar|pot|tube|bottle|mould|cup|class)(?:e?s)?\b)"
    r"|(?:(?<=tube )|(?<=tube, )|(?<=bottle ))\d+ (?:ml|oz)",
    re.I,
)
RATES = (1 / OUNCE_G, OUNCE_G / 100)


@dataclass(frozen=True)
class Told:
    """A piece of text of a page: where it stands, under which heading or label, and its words."""

    where: str
    heading: str
    words: str

    @property
    def shape(self) -> str:
        """Return it with a mark for each number and unit."""
        words = NUMBER.sub("#", NAME.sub("", self.words))
        return re.sub(r"# ?U|#°", "#U", ALONE.sub("U", words))

    @property
    def numbers(self) -> list[tuple[Decimal, int, str]]:
        """Return each number, how many decimals it has, and the unit behind it."""
        found = []
        words = NAME.sub("", self.words)
        for number in NUMBER.finditer(words):
            text = number[0].replace(",", "").replace("−", "-")
            unit = UNIT.match(words, number.end())
            found.append((Decimal(text), len(text.partition(".")[2]), unit[1] if unit else ""))
        return found


def pieces(page: Any) -> Iterator[Told]:
    """Yield every piece of text that a reader meets: words, boxes, titles, and what is read aloud."""
    main = page.find(".//main")
    if main is None:
        return
    labels = {label.get("for"): _flat(label) for label in main.iter("label") if label.get("for")}
    for one in main.iter():
        if not isinstance(one.tag, str) or one.tag in ("script", "style"):
            continue
        where = f"{one.tag} {one.get('class') or one.get('name') or ''}"
        for name in ("placeholder", "title", "aria-label", "alt"):
            if one.get(name):
                yield Told(f"{where} {name}", "", one.get(name))
        if one.tag == "input" and one.get("type", "text") == "text" and one.get("value"):
            beside = _flat(one.getnext()) if one.getnext() is not None else (one.tail or "").strip()
            label = f"{_column(one)} {labels.get(one.get('id'), '')}".strip()
            heading = beside if ALONE.fullmatch(beside) else label
            yield Told(where, heading, one.get("value"))
        for text in (one.text, *(child.tail for child in one)):
            if text and text.strip():
                yield Told(where, _column(one), THE_HOUR.sub("some minutes", " ".join(text.split())))


def with_units(told: Iterator[Told]) -> list[Told]:
    """Return pieces of which a bare number knows the unit that stands in the next piece."""
    found = list(told)
    for n, (one, after) in enumerate(pairwise(found)):
        if one.numbers and not one.numbers[-1][2] and (unit := ALONE.match(after.words)):
            found[n] = replace(one, heading=unit[0])
    return found


def _column(one: Any) -> str:
    """Return the heading of the column that something stands in."""
    cell = next((c for c in one.iterancestors("td") if c is not None), one if one.tag == "td" else None)
    table = next(cell.iterancestors("table"), None) if cell is not None else None
    if table is None or table.find("thead") is None:
        return ""
    place = sum(int(before.get("colspan") or 1) for before in cell.itersiblings(preceding=True))
    heads = [
        _flat(head)
        for head in table.find("thead").iter("th", "td")
        for _ in range(int(head.get("colspan") or 1))
    ]
    return heads[place] if place < len(heads) else ""


def _flat(one: Any) -> str:
    return " ".join(one.text_content().split())


def differences(grams: list[Told], ounces: list[Told]) -> Iterator[str]:
    """Yield what a page in ounces says otherwise than the same page in grams."""
    mine, theirs = ([t for t in told if not _is_same_for_all(t)] for told in (grams, ounces))
    if [t.shape for t in mine] != [t.shape for t in theirs]:
        odd = {t.shape for t in mine} ^ {t.shape for t in theirs}
        yield f"other words: {sorted(odd)[:4]}"
        return
    for one, other in zip(mine, theirs, strict=True):
        for (a, a_places, a_unit), (b, b_places, b_unit) in zip(one.numbers, other.numbers, strict=True):
            unit, unit_there = a_unit or _unit_of(one.heading), b_unit or _unit_of(other.heading)
            if not _agree(a, a_places, unit, b, b_places, unit_there):
                yield f"{one.where} [{one.heading}] {one.words!r}, [{other.heading}] {other.words!r}"


def _is_same_for_all(told: Told) -> bool:
    patterns = (OF_THE_SCALE, OF_THE_STOVE, OF_THE_RECORD, BOTH)
    return (
        any(part in told.where for part in SAME)
        or any(pattern.search(NAME.sub("", told.words)) for pattern in patterns)
        or bool(SHARE_ON_THE_SCALE.search(told.heading))
    )


def _unit_of(heading: str) -> str:
    """Return the unit that a heading or a label ends in: "a sample weighs, oz"."""
    found = re.search(r"(?:^|, |^\S+ )(g|oz|ml|fl oz|°[CF])(?!\w)", heading)
    return found[1] if found else ""


def _agree(a: Decimal, a_places: int, unit: str, b: Decimal, b_places: int, unit_there: str) -> bool:
    """Whether two numbers are one, each within its rounding."""
    slack = Decimal(10) ** -b_places * Decimal("0.51")
    mine = Decimal(10) ** -a_places * Decimal("0.51")
    if (a, unit, b, unit_there) == (100, "g", 1, "oz"):
        return True  # what prices are told for
    if (unit, unit_there) == ("g", "oz"):  # a line may lie one step of the finer scale beside it
        return abs(a / OUNCE_G - b) <= slack + (mine + Decimal("0.03")) / OUNCE_G
    if (unit, unit_there) == ("ml", "fl oz"):
        return abs(a / FLUID_OUNCE_ML - b) <= slack + mine / FLUID_OUNCE_ML
    if unit.startswith("°") and unit_there.startswith("°"):
        scaled = a * Decimal("1.8")
        return min(abs(scaled + 32 - b), abs(scaled - b)) <= slack + mine * 2
    if unit or unit_there:
        return False
    # What stands without a unit is no quantity, or a weight beside one of its column, or a price of 100 g.
    return a == b or any(abs(a * rate - b) <= slack + (mine + Decimal("0.03")) * rate for rate in RATES)


@override_settings(DEMO=False)
class EveryPage(InAFolder, TestCase):
    unlinked = EnterKey.unlinked

    def setUp(self) -> None:
        super().setUp()
        # A search that a busy machine cuts short proposes something else: here each goes to its end.
        unhurried = mock.patch.object(turns, "DEADLINE_S", 600.0)
        unhurried.start()
        self.addCleanup(unhurried.stop)
        self.user = whole_bench("stroke")
        # What was poured is cold by now: a tin that cools says another temperature each minute.
        Pour.objects.exclude(poured_at=None).update(poured_at=timezone.now() - timedelta(days=3))
        User.objects.filter(pk=self.user.pk).update(is_staff=True)
        User.objects.create_user("bow", password="oar-and-tallow-7")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def pages(self, **units: Any) -> dict[str, list[Told]]:
        Bench.objects.filter(user=self.user).update(**units)
        return {at: with_units(pieces(page)) for at, page in crawl(self.client, "/", *self.unlinked())}

    def test_each_says_in_any_notation_what_it_says_in_grams_with_points(self) -> None:
        points = self.pages(**GRAMS, decimal_comma=False, cups="us", currency="£")
        with self.subTest("ounces"):
            self._ounces(points, self.pages(**OUNCES))
        with self.subTest("commas"):
            self._commas(points, self.pages(**GRAMS, decimal_comma=True, cups="metric", currency="kr"))

    def _ounces(self, grams: dict[str, list[Told]], ounces: dict[str, list[Told]]) -> None:
        self.assertEqual(grams.keys(), ounces.keys())
        self.assertGreater(len(grams), 80)
        wrong = {
            at: found
            for at in grams
            if at not in OFFERS_UNITS and (found := list(differences(grams[at], ounces[at])))
        }
        self.maxDiff = None
        self.assertEqual(wrong, {})
        weights = sum(1 for told in ounces.values() for t in told for n in t.numbers if n[2] == "oz")
        self.assertGreater(weights, 150)

    def _commas(self, points: dict[str, list[Told]], commas: dict[str, list[Told]]) -> None:
        self.assertEqual(points.keys(), commas.keys())
        wrong = {}
        for at in points:
            if at in OFFERS_UNITS:
                continue
            pairs = zip_longest(points[at], commas[at])
            wrong[at] = [(a and a.words, b and b.words) for a, b in pairs if not _is_said_with_commas(a, b)]
        self.maxDiff = None
        self.assertEqual({at: found for at, found in wrong.items() if found}, {})
        told = sum(1 for found in commas.values() for t in found if re.search(r"\d,\d", t.words))
        self.assertGreater(told, 150)


def _is_said_with_commas(one: Told | None, other: Told | None) -> bool:
    """Whether a piece of text is the same but for the signs in its numbers, and the sign of money."""
    if one is None or other is None:
        return False
    if OF_THE_RECORD.search(one.words):
        return one == other
    if POINT.search(NO_NUMBER.sub("", other.words)):
        return False
    back = re.sub(r"(?<=\d)[,\u202f](?=\d)", lambda sign: "." if sign[0] == "," else ",", other.words)
    back = re.sub(r"(?<=\d); (?=\d)", ", ", back)  # numbers in a row
    return MONEY.sub("", back) == MONEY.sub("", one.words) or any(
        pattern.search(one.words) for pattern in (OF_THE_SCALE, OF_THE_STOVE)
    )


class OneStory(TestCase):
    """A maker types one story into two benches, each in its own units: the books hold the same facts."""

    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user)

    def number(self, digits: str) -> str:
        return digits.replace(".", ",") if self.has_commas else digits

    def weight(self, grams: str) -> str:
        """Return a weight as this bench's maker types it, to four digits of an ounce."""
        return self.number(grams if self.unit == "g" else f"{Decimal(grams) / OUNCE_G:.4f}")

    def warmth(self, degrees_c: str) -> str:
        return self.number(
            degrees_c if self.unit == "g" else f"{Decimal(degrees_c) * Decimal('1.8') + 32:.1f}"
        )

    def volume(self, ml: str) -> str:
        return self.number(ml if self.unit == "g" else f"{Decimal(ml) / FLUID_OUNCE_ML:.4f}")

    def send(self, address: str, **typed: str) -> Any:
        page = self.client.post(address, typed, follow=True)
        self.assertEqual(page.status_code, 200, address)
        return page

    def fill_in(self, page: Any, press: str = "", **typed: str) -> Any:
        """Return the page that follows when some boxes are filled in and the others left as shown."""
        document = lxml.html.fromstring(page.content.decode())
        document.make_links_absolute(page.request["PATH_INFO"])
        form = next(f for f in document.forms if set(typed) <= set(f.fields.keys()))
        values = {name: value for name, value in form.fields.items() if value is not None} | typed
        to = form.action or page.request["PATH_INFO"]
        page = self.client.post(to, values | ({press: "yes"} if press else {}), follow=True)
        document = lxml.html.fromstring(page.content.decode())
        wrong = [_flat(one) for one in document.find_class("wrong")]
        self.assertEqual((page.status_code, wrong), (200, []), to)
        return page

    def set_up(self, units: dict[str, Any]) -> None:
        self.unit = "oz" if units["scale_step"].endswith("oz") else "g"
        self.has_commas = "decimal_comma" in units
        Bench.objects.filter(user=self.user).update(**units)

    def tell(self, units: dict[str, Any]) -> list[Any]:
        """Live through the story, and return what the book holds then, in grams and C."""
        self.set_up(units)
        bought = {
            "amount": f"{self.weight('500')} {self.unit}",
            "bought_on": "2026-05-01",
            "price": "$9.50",
        }
        self.send("/pantry/materials/beeswax_yellow/", **bought)
        melts = {"melt_low": self.warmth("50"), "melt_high": self.warmth("54")}
        self.send("/pantry/materials/new/", name="Reed wax", group="wax", behaves_like="soy_wax", **melts)
        tin = {"name": "Bailer tin", "brim_ml": self.volume("72"), "usual_level_pct": "95", "cavities": "1"}
        self.send("/pantry/containers/", **tin, price="0,85 €", empty_g=self.weight("14"))
        formula = salve(self.user)
        here = f"/formulas/{formula.pk}/v/1/"
        seen = draft(formula).revision
        self.send(f"{here}batch/", batch_g=self.weight("160"), seen=str(seen))
        rows = {"container_0": "tin_1oz", "count_0": "", "fill_0": "", "way": "pot"}
        self.send(f"{here}fill/", **self.as_shown(f"{here}fill/"), **rows)
        pour = Pour.objects.latest("pk")
        for line in pour.lines.all():
            more = Decimal("1.5") if line.position == 2 else Decimal(0)  # over-poured
            typed = self.weight(f"{line.planned_g + more:f}")
            self.send(f"/pours/{pour.pk}/weigh/{line.position}/", grams=typed)
        self.send(f"/pours/{pour.pk}/finish/")
        self.send(f"/pours/{pour.pk}/reading/", temp=self.warmth("71"))
        counted = {"count_0": str(pour.fillings.get().count), "left_g": self.weight("3.25")}
        self.send(f"/pours/{pour.pk}/count/", each_0=self.weight("26.4"), **counted)
        looked = {"temp": self.warmth("21"), "felt_rung": "5", "rod": "12", "press_1": self.weight("812")}
        jar = {"jar_ml": self.volume("30"), "jar_g": self.weight("24.6")}
        self.send(f"/pours/{pour.pk}/check/", **looked, **jar)
        return self.facts(formula)

    def as_shown(self, address: str) -> dict[str, str]:
        """Return the losses of the plan as its page shows them, untouched."""
        form = lxml.html.fromstring(self.client.get(address).content.decode()).get_element_by_id(
            "fill-form"
        )
        wanted = ("pot", "cling_g", "cling_pct", "test_g", "overfill_g", "margin_pct", "powder_pct")
        return {name: form.fields[name] for name in wanted if form.fields.get(name) is not None}

    def facts(self, formula: Any) -> list[Any]:
        version = formula.versions.latest("pk")
        bench, shelf = Bench.objects.get(user=self.user), shelf_for(self.user)
        plan = fill_view(self.user, version, shelf, bench, {})
        assert plan.plan is not None
        rows = [
            Lot.objects.values_list("amount_g", "price"),
            OwnMaterial.objects.values_list("melt_low_c", "melt_high_c"),
            OwnContainer.objects.values_list("brim_ml", "tare_g", "price"),
            WeighIn.objects.values_list("grams"),
            Pour.objects.values_list("batch_g", "test_g"),
            PourFilling.objects.values_list("count", "each_ml"),
            PotReading.objects.values_list("temp_c"),
            Yield.objects.values_list("filled_g", "left_g"),
            Check.objects.values_list("temp_c", "overrun_pct"),
        ]
        self.assertTrue(all(table.exists() for table in rows))
        told = [[float(n or 0) for n in row] for table in rows for row in table.order_by("pk")]
        learned = [plan.losses.cling_g, 100 * plan.losses.cling_share, plan.losses.test_g]
        page = self.client.get("/pours/", {"show": Pour.objects.latest("pk").pk})
        firmness = page.context["beside"].firmness
        counts = [filling.count for filling in (*plan.plan.fillings, *PourFilling.objects.order_by("pk"))]
        return [*told, learned, [firmness.room.rung], counts]

    def book(self, units: dict[str, Any], tell: Callable[[dict[str, Any]], list[Any]]) -> list[Any]:
        """Return the facts of a story told in these units; the book is empty again afterwards."""
        with transaction.atomic():
            facts = tell(units)
            transaction.set_rollback(True)
        return facts

    def tell_the_rest(self, units: dict[str, Any]) -> list[Any]:
        """Paste a recipe, finish half of it, pour, save and pack it, and plan what comes next."""
        self.set_up(units)
        in_the_pot = {"beeswax": "30.5", "olive oil": "90.25", "shea butter": "40", "vitamin E": "1.6"}
        text = "\n".join(f"{self.weight(grams)} {self.unit} {name}" for name, grams in in_the_pot.items())
        read = self.client.post("/formulas/paste/", {"text": text})
        self.fill_in(read, "make", text=text, name="Gunwale salve", kind="firm_salve")
        formula = Formula.objects.get(name="Gunwale salve")
        here = f"/formulas/{formula.pk}/v/1/"
        target = self.client.get(f"{here}target/", {"rung": self.number("5.5"), "hot": self.warmth("38")})
        self.fill_in(target, proposal=target.context["proposal"].token)
        for name, share in (("minty", "0.5"), ("clear", "")):
            self.fill_in(
                self.client.get(f"{here}finishes/"),
                name=name, material_0="peppermint" if share else "", percent_0=self.number(share),
            )  # fmt: skip
        into = {"container_0": "tin_1oz", "count_0": "3", "fill_0": self.weight("24"), "finish_0": "minty"}
        into |= {"container_1": "tin_1oz", "count_1": "2", "fill_1": "", "finish_1": "clear"}
        plan = self.client.get(f"{here}fill/", into | {"way": "containers"})
        self.fill_in(plan, container_0="tin_1oz")
        pour = Pour.objects.latest("pk")
        for line in pour.lines.all():
            self.send(f"/pours/{pour.pk}/weigh/{line.position}/", grams=self.weight(f"{line.planned_g:f}"))
        self.send(f"/pours/{pour.pk}/finish/")
        part = pour.finish_parts.get()
        self.send(
            f"/pours/{pour.pk}/finish/{part.pk}/", grams=self.weight("0.45"), after="0", step="finish-0"
        )
        record = self.client.get(f"/pours/{pour.pk}/", {"wanted": self.number("6.2")})
        self.fill_in(record, material=record.context["rescue"].ways[0].addition.material.slug)
        counted = {"left_g": self.weight("6.5"), "pieces_0": " ".join(map(self.weight, ("24", "23.8")))}
        self.fill_in(self.client.get(f"/pours/{pour.pk}/"), **counted, count_0="2", to_pantry="on")
        self.fill_in(self.client.get(f"/pours/{pour.pk}/card/"), storage="cool")
        gone = {"went": "sold", "position": "0", "price": self.number("3.75"), "on": "2026-06-01"}
        self.fill_in(self.client.get(f"/pours/{pour.pk}/pieces/"), **gone)
        self.fill_in(self.client.get("/deadlines/"), what_for="the regatta", needed_on="2099-06-01")
        shares = "; ".join(map(self.number, ("18.5", "21", "24")))
        series = self.client.get(f"{here}series/", {"shares": shares, "sample": self.weight("12.5")})
        self.fill_in(series, shares=shares)
        self.fill_in(self.client.get(f"{here}vary/"), sample=self.weight("12"), by=self.number("+2.5"))
        bench, shelf = Bench.objects.get(user=self.user), shelf_for(self.user)
        left = fill_view(self.user, formula.versions.latest("pk"), shelf, bench, {})
        assert left.plan is not None
        rows = [
            Line.objects.filter(version__formula=formula, version__number=1).values_list("percent"),
            WeighLine.objects.values_list("planned_g"),
            Version.objects.filter(formula=formula).values_list("batch_g"),
            Pour.objects.values_list("batch_g", "test_g"),
            PourFilling.objects.values_list("count", "each_ml", "each_g"),
            FinishPart.objects.values_list("percent"),
            PourFinishPart.objects.values_list("planned_g"),
            FinishWeighIn.objects.values_list("grams"),
            PotAddition.objects.values_list("grams"),
            Yield.objects.values_list("filled_g", "left_g"),
            PieceGone.objects.values_list("count", "price"),
            Lot.objects.values_list("amount_g"),
        ]
        self.assertEqual([table.model.__name__ for table in rows if not table.exists()], [])
        told = [[float(n or 0) for n in row] for table in rows for row in table.order_by("pk")]
        return [*told, [left.losses.cling_g, left.plan.batch_g]]

    def test_on_coarse_scales_the_counts_and_the_firmness_are_the_same(self) -> None:
        grams, ounces = (self.book(units, self.tell) for units in (COARSE_GRAMS, COARSE_OUNCES))
        self.assertEqual(grams[-1], ounces[-1])
        self.assertAlmostEqual(grams[-2][0], ounces[-2][0], delta=0.1)

    def test_it_is_the_same_in_all(self) -> None:
        for tell in (self.tell, self.tell_the_rest):
            grams = self.book(GRAMS, tell)
            for units in (OUNCES, COMMAS):
                told = self.book(units, tell)
                self.assertEqual([len(row) for row in grams], [len(row) for row in told])
                for mine, theirs in zip(grams, told, strict=True):
                    for a, b in zip(mine, theirs, strict=True):
                        self.assertAlmostEqual(a, b, delta=0.03, msg=f"{units}: {mine} {theirs}")


class LeftAsShown(TestCase):
    """A box that was left as it was shown is what it stood for, also where that has changed since."""

    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user)
        Bench.objects.filter(user=self.user).update(scale_step="0.1oz")

    def test_a_loss_of_a_fill_plan(self) -> None:
        formula = salve(self.user)
        here = f"/formulas/{formula.pk}/v/1/fill/"
        form = lxml.html.fromstring(self.client.get(here).content.decode()).get_element_by_id("fill-form")
        boxes = {name: value for name, value in form.fields.items() if value is not None}
        self.assertEqual(boxes["cling_g"], "0.035")
        for sealed, loss_g in ((boxes["shown"], 1.0), ("", 0.99), (boxes["shown"][:-1] + "x", 0.99)):
            learned = fill.USUAL_LOSSES | {"cling_g": Mass(3.0)}  # in another tab, meanwhile
            with mock.patch.object(fill, "USUAL_LOSSES", learned):
                page = self.client.get(here, {**boxes, "shown": sealed})
            self.assertEqual(round(page.context["view"].losses.cling_g, 2), loss_g)

    def test_a_weight_of_a_form(self) -> None:
        self.client.post(
            "/pantry/containers/",
            {
                "name": "Bailer tin",
                "brim_ml": "2",
                "empty_g": "0.5",
                "usual_level_pct": "95",
                "cavities": "1",
            },
        )
        row = OwnContainer.objects.get()
        OwnContainer.objects.filter(pk=row.pk).update(tare_g=Decimal("14.00"), brim_ml=60.0)
        page = self.client.get(f"/pantry/containers/{row.pk}/")
        forms = lxml.html.fromstring(page.content.decode()).forms
        fields = next(form.fields for form in forms if {"empty_g", "reason"} <= set(form.fields.keys()))
        boxes = {name: value for name, value in fields.items() if value is not None}
        self.client.post(f"/pantry/containers/{row.pk}/", {**boxes, "name": "Bail", "reason": "a slip"})
        row.refresh_from_db()
        self.assertEqual((row.name, row.tare_g, row.brim_ml), ("Bail", Decimal("14.00"), 60.0))


class TheTestItself(SimpleTestCase):
    """It fails when one default, one heading or one sentence is put back to a bare number."""

    PAGE = (
        "<html><body><main><table><thead><tr><th>Scent</th><th>{head}</th></tr></thead><tr><td>rose</td><td>{cell}</td>"
        "</tr></table><label for='a'>a sample weighs, {head}</label><input id='a' value='{box}'>"
        "<p>Weigh {said}.</p><svg aria-label='flows at {at}'></svg></main></body></html>"
    )
    GRAMS = {"head": "g", "cell": "12.04", "box": "12", "said": "36 g", "at": "38 °C"}
    OUNCES = {"head": "oz", "cell": "0.425", "box": "0.423", "said": "1.27 oz", "at": "100.4 °F"}

    def found(self, **wrong: str) -> list[str]:
        told = [
            with_units(pieces(lxml.html.fromstring(self.PAGE.format(**values))))
            for values in (self.GRAMS, self.OUNCES | wrong)
        ]
        return list(differences(*told))

    def test_what_is_right_passes_and_each_bare_number_is_found(self) -> None:
        self.assertEqual(self.found(), [])
        for wrong in (
            {"cell": "12.04"}, {"head": "g"}, {"box": "12"}, {"said": "36 g"}, {"said": "36 oz"},
            {"at": "38 °F"}, {"at": "38 °C"}, {"box": "0.5"},
        ):  # fmt: skip
            with self.subTest(wrong):
                self.assertNotEqual(self.found(**wrong), [])
