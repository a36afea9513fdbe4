"""Thirty pours by a scripted maker over the pages: the record is what an observer with a scale wrote down.

The maker slips, tops up, corrects, takes back, is interrupted, presses twice, adds by feel, mends the pot
and finishes one pot in two ways, in grams and in ounces; the observer only looks at scale and clock.
"""

from __future__ import annotations

import os
import random
from datetime import datetime, timedelta
from decimal import ROUND_HALF_UP, Decimal
from typing import Any
from unittest import mock

from django.test import TestCase
from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.core.quantities import OUNCE_G
from calmtin.formulas.services import add_finish
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.adapters import actual_parts, newest_reading
from calmtin.pours.models import Pour, WeighIn
from calmtin.pours.queries.record import pour_with_lines
from tests.bench_data import draft, maker, salve

# Three show every kind of trouble in both units; CALMTIN_POURS=30 plays them all, which takes minutes.
POURS = int(os.environ.get("CALMTIN_POURS", "3"))
CENT = Decimal("0.01")


class Observer:
    """Somebody who writes down what the scale and the clock show, and nothing else."""

    def __init__(self) -> None:
        self.lines: dict[str, list[Decimal]] = {}
        self.added: dict[str, Decimal] = {}
        self.finishes: dict[int, Decimal] = {}
        self.done: dict[str, datetime] = {}
        self.left_g = self.filled_g = Decimal(0)

    def held(self) -> dict[str, Decimal]:
        found = {slug: readings[-1] for slug, readings in self.lines.items()}
        for slug, grams in self.added.items():
            found[slug] = found.get(slug, Decimal(0)) + grams
        return found


class ThirtyPours(TestCase):
    def setUp(self) -> None:
        self.user = maker("cox")
        self.client.force_login(self.user)
        self.now = timezone.now()
        clock = mock.patch("django.utils.timezone.now", lambda: self.now)
        clock.start()
        self.addCleanup(clock.stop)

    # The bench: what lies on the scale is a whole number of its steps, typed in its own unit.

    def use_scale(self, *, ounces: bool) -> None:
        Bench.objects.filter(user=self.user).update(
            scale_step="0.05oz" if ounces else "0.1",
            weighed_into=self.chance.choice(["pot", "cups"]),
            melting=self.chance.choice(["staged", "together"]),
        )
        self.unit_g = OUNCE_G if ounces else Decimal(1)
        self.step = Decimal("0.05") if ounces else Decimal("0.1")

    def steps_of(self, grams: Decimal) -> int:
        return max(int((grams / self.unit_g / self.step).to_integral_value(ROUND_HALF_UP)), 1)

    def typed(self, steps: int) -> str:
        return f"{steps * self.step:f}"

    def grams(self, steps: int) -> Decimal:
        return (steps * self.step * self.unit_g).quantize(CENT, ROUND_HALF_UP)

    def pass_time(self) -> None:
        self.now += timedelta(minutes=self.chance.randint(1, 9), seconds=self.chance.randint(0, 59))

    def post(self, path: str, **data: object) -> Any:
        self.pass_time()
        answer = self.client.post(f"{self.address}{path}", data, HTTP_HX_REQUEST="true")
        self.interrupt()
        return answer

    def interrupt(self) -> None:
        """Leave the page, look at another, or come back to it the next moment: nothing may come of it."""
        if self.chance.random() < 0.3:
            self.client.get(self.chance.choice(["/", "/pours/", self.address, f"{self.address}run/"]))

    def view(self, at: str = "") -> Any:
        return self.client.get(f"{self.address}{at}").context["view"]

    # The maker.

    def weigh(self, row: Any, steps: int, mode: str) -> None:
        sent = {"grams": self.typed(steps), "mode": mode, "after": str(row.after)}
        path = f"weigh/{row.line.position}/"
        self.post(path, **sent)
        if self.chance.random() < 0.2:  # pressed twice, or sent again because the answer was lost
            before = WeighIn.objects.count()
            self.post(path, **sent)
            self.assertEqual(WeighIn.objects.count(), before)
        inside = self.saw.lines.setdefault(row.line.material, [])
        total = self.grams(steps) + (inside[-1] if mode == "add" and inside else 0)
        if not inside or inside[-1] != total:
            inside.append(total)

    def take_back(self) -> None:
        newest = WeighIn.objects.order_by("pk").last()
        if newest is None or newest.undoes_id is not None:
            return
        self.post("undo/", after=str(newest.pk))
        inside = self.saw.lines[newest.line.material]
        inside.pop()
        if not inside:
            del self.saw.lines[newest.line.material]

    def weigh_all(self) -> None:
        while (view := self.view()).next_row is not None:
            row, deed = view.next_row, self.chance.random()
            if view.rescue is not None and deed < 0.5:
                self.post("scale-up/")
            elif deed < 0.1 and self.saw.lines:
                self.take_back()
            elif row.is_in:
                self.weigh(row, self.steps_of(row.lacking), "add")
            else:
                slip = self.chance.choice([0, 0, 0, 1, -1, self.steps_of(row.target_g) // 6])
                part = self.chance.choice([1, 1, 1, 2])
                steps = max(self.steps_of(row.target_g) // part + slip, 1)
                self.weigh(row, steps, "shows")
                if part == 2:  # some now, the rest after the telephone
                    again = self.view(f"?line={row.line.position}").next_row
                    self.weigh(again, max(self.steps_of(again.lacking), 1), "add")
                if self.chance.random() < 0.15:
                    again = self.view(f"?line={row.line.position}").next_row
                    self.weigh(again, steps + 2, "correct")

    def cook(self) -> None:
        while (now := self.view("run/").next_step) is not None:
            key = now.step.key
            if self.chance.random() < 0.5:
                self.post("reading/", temp=str(self.chance.randint(50, 80)))
            if key == "test":
                self.post("set-test/", set_test="lid", felt_rung="4")
                self.mend()
            for row in self.view("run/").finish_rows:
                steps = self.steps_of(row.part.planned_g)
                self.post(f"finish/{row.part.pk}/", grams=self.typed(steps), after=str(row.after))
                self.saw.finishes[row.part.pk] = self.grams(steps)
            if key == "cool" and self.chance.random() < 0.5:
                self.post("run/fill/", undo="yes")
                del self.saw.done["fill"]
                continue
            self.post(f"run/{key}/")
            self.saw.done[key] = self.now

    def mend(self) -> None:
        if self.chance.random() < 0.5:
            steps = self.steps_of(Decimal(2))
            unit = "g" if self.unit_g == 1 else "oz"
            self.post("feel/", material="olive_oil", amount=f"{self.typed(steps)} {unit}")
            self.note_addition("olive_oil", self.grams(steps))
        if self.chance.random() < 0.4:
            steps = self.steps_of(Decimal(3))
            self.post("add/", material="beeswax_yellow", grams=self.typed(steps), why="too soft")
            self.note_addition("beeswax_yellow", self.grams(steps))

    def note_addition(self, slug: str, grams: Decimal) -> None:
        self.saw.added[slug] = self.saw.added.get(slug, Decimal(0)) + grams

    def count(self) -> None:
        sent, whole = {}, Decimal(0)
        for filling in self.pour_now().fillings.all():
            steps = max(self.steps_of(filling.each_g * Decimal("0.9")), 1)
            sent |= {
                f"count_{filling.position}": str(filling.count),
                f"each_{filling.position}": self.typed(steps),
            }
            whole += filling.count * self.grams(steps)
        self.saw.filled_g = whole
        self.post("count/", **sent, left_g="")

    def pour_now(self) -> Pour:
        return pour_with_lines(self.user, pk=self.pour.pk)

    def play(self, seed: int) -> None:
        self.chance, self.saw = random.Random(seed), Observer()
        self.use_scale(ounces=seed % 2 == 1)
        wax, shea = self.chance.randint(14, 24), self.chance.randint(0, 20)
        lines = (
            [("beeswax_yellow", Decimal(wax)), ("shea_refined", Decimal(shea))]
            if shea
            else [("beeswax_yellow", Decimal(wax))]
        )
        lines += [("tocopherols_50", Decimal(1)), ("olive_oil", Decimal(99 - wax - shea))]
        formula = salve(self.user, f"Thwart salve {seed}", lines)
        boxes = {"container_0": "tin_2oz", "count_0": "3", "way": "containers"}
        if seed % 3 == 0:
            add_finish(self.user, formula, name="minty", parts=[("peppermint", Decimal("0.5"))])
            boxes |= {"finish_0": "minty", "container_1": "tin_1oz", "count_1": "2"}
        self.client.post(f"/formulas/{formula.pk}/v/{draft(formula).number}/fill/", boxes)
        self.pour = Pour.objects.get(version__formula=formula)
        self.address = f"/pours/{self.pour.pk}/"
        self.weigh_all()
        self.post("finish/")
        self.cook()
        self.count()
        self.compare()

    def compare(self) -> None:
        pour = self.pour_now()
        parts = actual_parts(pour, shelf_for(self.user))
        record = {m.slug: Decimal(repr(grams)).quantize(CENT) for m, grams in parts}
        self.assertEqual(record, self.saw.held())
        marks = {mark.key: mark.at for mark in pour.steps_done.all() if mark.is_done}
        for key, at in self.saw.done.items():
            self.assertLess(abs(marks[key] - at), timedelta(minutes=1), key)
        self.assertEqual(pour.poured_at, marks["fill"])
        weighed = {part.pk: newest_reading(part).grams for part in pour.finish_parts.all()}
        self.assertEqual(weighed, self.saw.finishes)
        self.assertEqual(pour.yields.get().filled_g, self.saw.filled_g)

    def test_each_record_is_what_was_seen(self) -> None:
        for seed in range(POURS):
            with self.subTest(seed=seed):
                self.play(seed)
