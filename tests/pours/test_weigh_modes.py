"""A literal maker does what the weigh sheet says, with slips; the record is what is in the pot."""

from __future__ import annotations

import random
from decimal import Decimal

from django.test import TestCase

from calmtin.accounts.queries import bench_of
from calmtin.core.errors import CalmTinError
from calmtin.core.process.weighing import Mode, line_after
from calmtin.pantry.adapters import shelf_for
from calmtin.pours import services
from calmtin.pours.models import Pour, WeighLine
from calmtin.pours.queries.record import PourView, pour_view, pour_with_lines
from calmtin.pours.queries.weigh_rows import comes_to
from tests.bench_data import draft, pour_of, salve
from tests.pours.test_pours import WithPour

STEP = Decimal("0.1")


class Scale:
    """A kitchen scale that does nothing by itself."""

    def __init__(self) -> None:
        self.on_it, self.zero = Decimal(0), Decimal(0)

    def tare(self) -> None:
        self.zero = self.on_it

    @property
    def shows(self) -> Decimal:
        return self.on_it - self.zero


class LiteralMaker(WithPour, TestCase):
    def view(self, at: int | None = None) -> PourView:
        pour = pour_with_lines(self.user, pk=self.pour.pk)
        return pour_view(pour, shelf_for(self.user), bench_of(self.user), at=at)

    def begin(self, way: str) -> None:
        self.pour = pour_of(self.user, self.version)
        services.weigh_into(self.user, self.pour, weighed_into=way)
        self.way, self.pot, self.cups = way, Scale(), dict[int, Scale]()
        self.in_cups = {row.line.position for row in self.view().rows if row.is_in_cup}
        self.inside: dict[int, list[Decimal]] = {line.position: [] for line in self.pour.lines.all()}
        self.begun: int | None = None  # the line since whose beginning nothing was tared

    def save(self, position: int, typed: Decimal, mode: Mode) -> None:
        line = WeighLine.objects.select_related("pour").get(pour=self.pour, position=position)
        told = comes_to(line, typed, mode, shelf_for(self.user))
        services.weigh(self.user, line, typed, mode=mode)
        self.assertIn(f"{self.inside[position][-1].normalize():f} g", told)

    def scale_of(self, place: int) -> Scale:
        """Return the scale as it stands for a line: with the pot on it, or with a cup of its own."""
        if self.way == "cups" or place in self.in_cups:
            return self.cups.setdefault(place, Scale())
        return self.pot

    def runs_on(self, place: int) -> bool:
        return self.way == "run" and place not in self.in_cups

    def pour_in(self, position: int, grams: Decimal) -> None:
        self.scale_of(position).on_it += grams
        self.inside[position].append((self.inside[position] or [Decimal(0)])[-1] + grams)

    def weigh_next(self, view: PourView, slip: Decimal) -> None:
        """Do what the page says of a line that nothing is in of."""
        row = view.next_row
        assert row is not None
        place = row.line.position
        self.cups.pop(place, None)
        scale = self.scale_of(place)
        if not self.runs_on(place):
            scale.tare()
            self.begun = place
            self.pour_in(place, max(row.target_g + slip, STEP))
        else:  # until the scale shows what it should
            self.pour_in(place, max(row.scale_to_g - scale.shows + slip, STEP))
        self.save(place, scale.shows, "shows")

    def top_up(self, place: int, grams: Decimal, mode: Mode) -> None:
        if mode == "add":
            self.begun = None
            if not self.runs_on(place):  # where it runs on, what is added was weighed apart
                self.scale_of(place).tare()
            self.pour_in(place, grams)
            self.save(place, grams, mode)
        elif mode == "shows":
            self.pour_in(place, grams)
            self.save(place, self.scale_of(place).shows, mode)
        else:
            self.pour_in(place, grams)
            self.save(place, self.inside[place][-1], mode)

    def undo(self) -> None:
        line = services.undo_weight(self.user, self.pour)
        if line is not None:
            back = self.inside[line.position].pop()
            before = (self.inside[line.position] or [Decimal(0)])[-1]
            self.scale_of(line.position).on_it -= back - before
            self.begun = None

    def play(self, seed: int, way: str) -> None:
        rng = random.Random(seed)
        self.begin(way)
        for _ in range(12):
            view = self.view()
            done = [place for place, steps in self.inside.items() if steps]
            deed = rng.choice(["weigh", "weigh", "weigh", "top up", "undo", "scale up"])
            if deed == "top up" and done:
                place = rng.choice(done)
                modes: list[Mode] = ["add", "correct"]
                if self.runs_on(place) or self.begun == place:
                    modes.append("shows")
                self.top_up(place, STEP * rng.randint(1, 9), rng.choice(modes))
            elif deed == "undo":
                self.undo()
            elif deed == "scale up" and view.rescue is not None:
                services.scale_up(self.user, self.pour)
            elif view.next_row is not None:
                row = view.next_row
                if row.is_in:  # scaled up since: the page asks for what is to be added
                    self.assertEqual(row.mode, "add")
                    self.top_up(row.line.position, row.lacking, row.mode)
                else:
                    self.weigh_next(view, STEP * rng.randint(-2, 12))
        rows = {row.line.position: row.actual_g for row in self.view().rows}
        held = {place: steps[-1] if steps else None for place, steps in self.inside.items()}
        self.assertEqual(rows, held, f"seed {seed}, {way}")

    def test_the_record_is_what_is_in_the_pot(self) -> None:
        for seed in range(4):
            for way in Pour.Weighing.values:
                with self.subTest(seed=seed, way=way):
                    self.play(seed, way)

    def test_a_running_total_below_what_is_in_is_refused_and_says_what_to_do(self) -> None:
        with self.assertRaises(CalmTinError) as refused:
            line_after("shows", Decimal(12), line_g=Decimal(0), before_g=Decimal("48.1"))
        self.assertEqual(
            str(refused.exception),
            "12 g is less than the 48.1 g that the scale showed before this ingredient. Type what the "
            "scale shows now, or choose Add.",
        )

    def test_what_is_typed_is_said_before_it_is_saved(self) -> None:
        self.begin("pot")
        address = f"/pours/{self.pour.pk}/weigh/0/"
        self.client.post(address, {"grams": "14"})
        for sent, words in (
            ({"grams": "2.1", "mode": "add"}, "14 g in the pot + 2.1 g = 16.1 g · 4 g to go"),
            ({"grams": "+2.1", "mode": "correct"}, "14 g in the pot + 2.1 g = 16.1 g · 4 g to go"),
            ({"grams": "20.1", "mode": "correct"}, "20.1 g instead of 14 g · on target"),
            ({"grams": "21", "mode": "shows"}, "21 g · 0.9 g too much"),
            ({"grams": "heaps", "mode": "add"}, "“heaps” is not a number."),
            ({"grams": "", "mode": "add"}, ""),
        ):
            answer = self.client.get(f"{address}preview/", sent).content.decode()
            self.assertTrue(answer.startswith(words), answer)
        self.assertEqual(self.view(0).rows[0].actual_g, 14)

    def test_the_sheet_follows_the_run_sheet(self) -> None:
        formula = salve(
            self.user,
            "Rudder balm",
            [
                ("lavender", Decimal(1)),
                ("beeswax_yellow", Decimal(20)),
                ("olive_oil", Decimal(69)),
                ("alcohol_tincture", Decimal(10)),
            ],
        )
        self.pour = pour_of(self.user, draft(formula), acknowledged=True)
        view = self.view()
        self.assertEqual(
            [row.line.material for row in view.rows],
            ["alcohol_tincture", "olive_oil", "beeswax_yellow", "lavender"],
        )
        page = self.client.get(f"/pours/{self.pour.pk}/?line=3")
        self.assertContains(page, "Put an empty cup on the scale and tare it.")
        self.assertContains(page, "It goes in last, once the pot has cooled.")
        services.weigh_into(self.user, self.pour, weighed_into="run")
        self.client.post(f"/pours/{self.pour.pk}/weigh/3/", {"grams": "1.1"})
        self.assertEqual(self.view(0).next_row.scale_before_g, 0)  # the scent is not in the pot yet
