"""The log as CSV: all of it out, old notes in, as a whole or not at all."""

from __future__ import annotations

import csv
import io
from datetime import date
from decimal import Decimal
from typing import Any

from django.test import TestCase
from django.utils import timezone

from calmtin.checks import services as checks_services
from calmtin.checks.adapters import seen_on
from calmtin.exchange.formats.log import COLUMNS, export_log, import_log, look_over
from calmtin.formulas.models import Formula
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Movement
from calmtin.pantry.services.lots import buy_lot
from calmtin.pours import services
from calmtin.pours.models import Check, Pour
from tests.bench_data import Reads, draft, maker, pour_of, salve

NOTES = """\
formula,kind,poured,materials,checked,at_c,felt_rung,verdict,grain,notes
Old oar balm,firm_salve,2025-03-02,20 g beeswax yellow; 80 g olive oil,2025-03-04,20,6,tweak,smooth,too hard
Old oar balm,firm_salve,2025-03-02,20 g beeswax yellow; 80 g olive oil,2025-03-09,33,4,,,warm in the hand
Old oar balm,firm_salve,2025-04-02,16 g beeswax yellow; 84 g olive oil,2025-04-03,20,5,keep,smooth,
Stern butter,poured_butter,2025-05-01,60 % shea refined; 40 % olive oil,,-2,7,,gritty,
"""


class Log(TestCase):
    def setUp(self) -> None:
        self.user = maker("stroke")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def rows(self) -> list[dict[str, Any]]:
        return list(csv.DictReader(io.StringIO("".join(export_log(self.user, shelf_for(self.user))))))

    def test_everything_is_in_it_and_nothing_runs_in_a_spreadsheet(self) -> None:
        pour = pour_of(self.user, draft(salve(self.user, "=SUM(A1)")), done=True)
        check = services.record_check(
            self.user, pour, temp_c=19.5, felt_rung=Decimal("5.5"), verdict="keep", notes="@risk, again",
            signs={"grain": 1, "liked": 4}, press_g=[Decimal(50)], rod_mm=3.0, look="day", who="Bow",
        )  # fmt: skip
        checks_services.exclude_check(self.user, check, reason="the wrong tin")
        checks_services.keep(self.user, pour)
        pour_of(self.user, draft(salve(self.user, "Unseen")), done=True)
        first, unseen = self.rows()
        self.assertEqual(tuple(first), COLUMNS)
        names = (
            "formula", "at_c", "felt_rung", "grain", "liked", "press_g", "rod_mm", "verdict", "look", "who",
            "left_out", "kept", "notes",
        )  # fmt: skip
        told = {name: first[name] for name in names}
        self.assertEqual(
            told,
            {
                "formula": "'=SUM(A1)", "at_c": "19.5", "felt_rung": "5.5", "grain": "fine grains",
                "liked": "very much", "press_g": "50", "rod_mm": "3", "verdict": "keep", "look": "day",
                "who": "Bow", "left_out": "the wrong tin", "kept": "yes", "notes": "'@risk, again",
            },
        )  # fmt: skip
        self.assertIn("g beeswax_yellow", first["materials"])
        self.assertEqual((unseen["formula"], unseen["checked"]), ("Unseen", ""))
        answer = self.client.get("/pours.csv")
        self.assertEqual(b"".join(answer.streaming_content).decode().count("\r\n"), 3)

    def test_old_notes_become_pours_that_teach(self) -> None:
        buy_lot(self.user, material="olive_oil", amount_g=Decimal(500), bought_on=date(2026, 1, 1))
        outcomes, pours = look_over(self.user, NOTES)
        self.assertEqual([o.is_wrong for o in outcomes], [False] * 4)
        self.assertEqual(len(pours), 3)
        self.assertIn("adds to a pour of Old oar balm on 2 Mar 2025", outcomes[1].words)
        self.assertFalse(Pour.objects.exists())  # looked over, nothing changed
        import_log(self.user, NOTES)
        made = list(Pour.objects.of(self.user).order_by("poured_at"))
        self.assertEqual([timezone.localdate(p.poured_at).isoformat() for p in made],
                         ["2025-03-02", "2025-04-02", "2025-05-01"])  # fmt: skip
        self.assertEqual(
            [v.number for v in Formula.objects.get(name="Old oar balm").versions.all()], [1, 2]
        )
        seen = seen_on(self.user, shelf_for(self.user))
        self.assertEqual([s.observation.felt for s in seen], [6.0, 4.0, 5.0, 7.0])
        self.assertEqual(seen[3].observation.at_c, -2.0)
        wax = {m.slug: g for m, g in seen[0].observation.parts}
        self.assertEqual(made[0].batch_g, 100)
        self.assertAlmostEqual(wax["beeswax_yellow"] / wax["olive_oil"], 0.25, delta=0.001)
        self.assertEqual(Check.objects.filter(signs__grain=2).count(), 1)
        self.assertFalse(
            Movement.objects.exclude(kind=Movement.Kind.BOUGHT).exists()
        )  # today's lots are left alone

    def test_twice_brought_in_changes_nothing(self) -> None:
        import_log(self.user, NOTES)
        before = (Pour.objects.count(), Check.objects.count(), Formula.objects.count())
        outcomes = import_log(self.user, NOTES)
        self.assertIn("already recorded", outcomes[0].words)
        self.assertEqual((Pour.objects.count(), Check.objects.count(), Formula.objects.count()), before)

    def test_one_wrong_row_and_nothing_comes_in(self) -> None:
        good = NOTES.splitlines()[1]
        for wrong, words in (
            (good.replace("2025-03-02", "a Sunday"), "must be a day such as 2026-05-31"),
            (good.replace("2025-03-02", "2999-03-02"), "must be between"),
            (good.replace("beeswax yellow", "moonwax"), "no material called"),
            (good.replace("20 g", "lots of"), "is not a number"),
            (good.replace(",20,6,", ",,6,"), "give the temperature of the test"),
            (good.replace(",6,tweak", ",16,tweak"), "cannot be above 10"),
            (good.replace("tweak", "meh"), "must be keep, tweak or drop"),
            (good.replace("smooth", "sandy"), "must be one of smooth"),
            (good.replace("firm_salve", "soap"), "must be one of gloss"),
        ):
            with self.subTest(words):
                outcomes = import_log(self.user, NOTES + wrong + "\n")
                self.assertEqual([o.row for o in outcomes if o.is_wrong], [6])
                self.assertIn(words, outcomes[-1].words)
        self.assertFalse(Pour.objects.exists() or Formula.objects.exists())

    def test_a_spreadsheet_as_it_is(self) -> None:
        """Semicolons, other names and cases, decimal commas, Fahrenheit, a kind by name, empty rows."""
        text = (
            "\ufeffRecipe;Date;Type;Ingredients;Temp;Firmness;Comments\r\n"
            "Old oar balm;31.5.2025;Firm salve;20 g beeswax, 80 g olive oil;68 F;5,5;good\r\n;;;;;;\r\n"
        ).replace("beeswax, 80", "beeswax\u003b 80")
        text = text.replace("20 g beeswax; 80 g olive oil", '"20 g beeswax; 80 g olive oil"')
        outcomes = import_log(self.user, text)
        self.assertEqual([(o.row, o.is_wrong) for o in outcomes], [(2, False)], outcomes)
        pour = Pour.objects.get()
        self.assertEqual(timezone.localdate(pour.poured_at), date(2025, 5, 31))
        self.assertEqual(pour.version.formula.kind, "firm_salve")
        made = Check.objects.get()
        self.assertEqual((made.temp_c, made.felt_rung, made.notes), (20.0, Decimal("5.5"), "good"))

    def test_days_that_may_be_read_both_ways_are_asked_about_once(self) -> None:
        text = "formula,poured,materials\nOld oar balm,03/04/2025,20 g beeswax; 80 g olive oil\n"
        page = self.client.post("/pours/import/", {"text": text})
        self.assertContains(page, "day first or month first")
        page = self.client.post("/pours/import/", {"text": text, "dates": "month"})
        self.assertContains(page, 'name="dates" value="month"')
        self.client.post("/pours/import/", {"text": text, "dates": "month", "import": "yes"})
        self.assertEqual(timezone.localdate(Pour.objects.get().poured_at), date(2025, 3, 4))

    def test_every_fault_of_a_row_is_told_at_once(self) -> None:
        text = "formula,kind,poured,materials\n,soap,never,lots of wax\n"
        [outcome] = look_over(self.user, text)[0]
        for words in ("“formula” is empty", "“kind” must be one of", "must be a day", "is not a number"):
            self.assertIn(words, outcome.words)

    def test_the_sample_files_come_in_as_they_are(self) -> None:
        for page in ("/pours/", "/pantry/"):
            sample = self.client.get(f"{page}sample.csv").content.decode()
            looked = self.client.post(f"{page}import/", {"text": sample})
            self.assertContains(looked, "2 rows, no problems")

    def test_the_page_shows_each_row_before_anything_is_brought_in(self) -> None:
        page = self.client.post("/pours/import/", {"text": NOTES})
        self.assertContains(page, "rows, no problems")
        self.assertFalse(Pour.objects.exists())
        self.assertRedirects(
            self.client.post("/pours/import/", {"text": NOTES, "import": "yes"}), "/pours/"
        )
        self.assertEqual(Pour.objects.count(), 3)
        self.assertContains(
            self.client.post("/pours/import/", {"text": "a,b\n1,2\n"}), "No column is called formula"
        )


class ColumnsByHand(Reads, TestCase):
    """A sheet whose columns are called something else is read once each is named."""

    SHEET = "Balm\tMade up\tWhat I used\tThumb\nOar grip\t2026-05-31\t20 g beeswax; 80 g olive oil\t5\n"

    def setUp(self) -> None:
        self.user = maker("cox")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def send(self, **data: str) -> Any:
        return self.client.post("/pours/import/", {"text": self.SHEET, **data})

    def test_what_is_missing_is_asked_with_the_cells_beside_it(self) -> None:
        page = self.send()
        self.assertContains(page, "No column is called formula. Choose which one it is.")
        self.assertContains(page, "20 g beeswax; 80 g olive oil")
        self.assertContains(page, '<label for="column_1">Made up</label>')
        named = {"column_0": "formula", "column_1": "poured", "column_2": "materials"}
        page = self.send(**named, column_3="felt_rung")
        self.assertContains(page, "“at_c” is empty")  # every fault is still told
        page = self.send(**named, column_3="")
        self.assertContains(page, "1 row, no problems")
        self.assertContains(page, "a pour of Oar grip on 31 May 2026, 2 materials")
        self.client.post("/pours/import/", {"text": page.context["text"], "import": "yes"})
        self.assertEqual(Pour.objects.get().version.formula.name, "Oar grip")

    def test_a_guess_can_be_put_right_and_a_column_left_out(self) -> None:
        self.SHEET = "recipe,date,day,ingredients\nOar grip,2026-01-01,2026-05-31,20 g beeswax\n"
        page = self.send()
        self.assertContains(page, "Which column is which")
        self.assertEqual([cell.is_column for cell in page.context["header"]][:2], ["formula", "poured"])
        again = self.send(column_0="formula", column_1="", column_2="poured", column_3="materials")
        self.assertContains(again, "on 31 May 2026")

    def test_what_is_no_header_is_refused_as_before(self) -> None:
        for text in ('"a\nb",c\n1,2\n', "\n", "x" * 20_000 + ",y\n1,2\n"):
            self.SHEET = text
            self.assertEqual(self.send().status_code, 200)
            self.assertFalse(Pour.objects.exists())
