"""Looking at a pour again: the schedule, the page, pictures, the press test, the calendar, keeping."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from io import BytesIO
from typing import Any
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone
from icalendar import Calendar
from PIL import Image

from calmtin.accounts.models import User
from calmtin.checks import services as checks_services
from calmtin.checks.adapters import seen_on
from calmtin.checks.queries.compare import kept_of
from calmtin.core.data.loader import library
from calmtin.core.engine.blend import blend
from calmtin.core.errors import CalmTinError
from calmtin.core.process.grain import grain_risk
from calmtin.exchange.formats.log import export_log
from calmtin.formulas.services import add_line
from calmtin.pantry.adapters import shelf_for
from calmtin.pours import services
from calmtin.pours.models import Check, CheckPhoto, Kept, Pour
from tests.bench_data import Reads, a_picture, draft, maker, pour_of, salve


class WithSetPour(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker("stroke")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.formula = salve(self.user)
        self.version = draft(self.formula)
        self.pour = pour_of(self.user, self.version, done=True)
        self.poured(days=2)

    def poured(self, pour: Pour | None = None, **ago: float) -> None:
        Pour.objects.filter(pk=(pour or self.pour).pk).update(poured_at=timezone.now() - timedelta(**ago))
        self.pour.refresh_from_db()

    def look(self, **typed: Any) -> Any:
        return self.client.post(f"/pours/{self.pour.pk}/check/", {"temp": "21", **typed})


class Looking(WithSetPour):
    def test_today_asks_for_the_look_that_is_due_and_says_what_comes(self) -> None:
        today = self.client.get("/")
        self.assertContains(today, f"/pours/{self.pour.pk}/check/?look=day")
        self.assertContains(today, "1-day check")
        self.assertContains(today, "Check now")
        self.look(look="day", felt_rung="5")
        self.assertContains(self.client.get("/"), "1-week check, in")
        self.pour = pour_of(self.user, self.version, done=True)
        self.poured(days=8)
        self.assertContains(self.client.get("/"), f"/pours/{self.pour.pk}/check/?look=week")
        self.look(look="week", felt_rung="5", verdict="drop")
        self.assertNotContains(self.client.get("/"), "?look=")  # nobody looks at what was dropped

    def test_the_list_of_formulas_says_what_is_due_and_leads_there(self) -> None:
        salve(self.user, "Another that nobody poured")
        due = [row.due for row in self.client.get("/formulas/").context["formulas"]]
        self.assertEqual(due, [None, ("Check due: 1-day check", f"/pours/{self.pour.pk}/check/?look=day")])
        self.look(look="day", felt_rung="5")
        self.assertNotContains(self.client.get("/formulas/"), "Due for a look")

    def test_everything_that_was_found_is_kept(self) -> None:
        answer = self.look(
            look="day", felt_rung="5", half="on", verdict="tweak", notes="Soft rim.", who="Bow seat",
            rod="3", press_1="50", press_2="54", press_3="52", sign_grain="1", sign_glide="2",
            sign_liked="3",
        )  # fmt: skip
        self.assertRedirects(answer, f"/pours/{self.pour.pk}/")
        made = Check.objects.get()
        self.assertEqual(made.felt_rung, Decimal("5.5"))
        self.assertEqual(
            (made.look, made.who, made.rod_mm, made.press_g), ("day", "Bow seat", 3.0, [50.0, 54.0, 52.0])
        )
        self.assertEqual(made.signs, {"grain": 1, "glide": 2, "liked": 3})
        page = self.client.get(f"/pours/{self.pour.pk}/")
        self.assertContains(page, "fine grains")
        self.assertContains(page, "firmness <strong>5.7</strong>")
        # The middle reading of the press teaches beside the thumb.
        seen = seen_on(self.user, shelf_for(self.user))
        self.assertEqual([s.observation.instrument for s in seen], ["thumb", "press"])
        self.assertAlmostEqual(
            seen[1].observation.pressed, 1.3 * 52 / (3.141592653589793 * 0.15**2), places=6
        )

    def test_the_page_asks_what_the_look_is_about_first(self) -> None:
        page = self.client.get(f"/pours/{self.pour.pk}/check/?look=skin")
        self.assertContains(page, "Hold it in a closed hand or pocket for half an hour.")
        self.assertContains(page, 'value="33"')
        self.assertEqual([group.asked for group in page.context["form"].groups], [[], [], [], []])
        week = self.client.get(f"/pours/{self.pour.pk}/check/?look=week")
        self.assertContains(week, 'How it looks<span class="quiet">: grain, sweating, bloom</span>')
        asked = [(group.name, group.boxes[0].name) for group in week.context["form"].groups]
        self.assertEqual(asked[:2], [("How it looks", "sign_grain"), ("How it smells", "sign_scent")])
        self.assertEqual(
            asked[2:], [("How well it is liked", "sign_liked"), ("On skin or lips", "sign_glide")]
        )

    def test_a_word_of_the_maker_and_what_bothers_go_wherever_checks_go(self) -> None:
        answer = self.look(felt_rung="4", feels="too_soft", complaints=["sticky", "greasy"])
        self.assertRedirects(answer, f"/pours/{self.pour.pk}/")
        made = Check.objects.get()
        self.assertEqual((made.feels, made.complaints), ("too_soft", ["greasy", "sticky"]))
        for page in (f"/pours/{self.pour.pk}/", f"/pours/{self.pour.pk}/card/"):
            shown = self.client.get(page)
            for words in ("Too soft", "Greasy", "Sticky"):
                self.assertContains(shown, words)
        self.assertContains(self.client.get(f"/pours/{self.pour.pk}/"), "days after pouring")
        card = self.client.get(f"/pours/{self.pour.pk}/card.json").json()["checks"][0]
        self.assertEqual((card["feels"], card["complaints"]), ("too_soft", ["greasy", "sticky"]))
        log = "".join(export_log(self.user, shelf_for(self.user)))
        self.assertIn(",too_soft,greasy; sticky,", log)
        story = self.client.get(f"/formulas/{self.formula.pk}/story/")
        self.assertContains(story, "greasy")
        for wrong in ({"feels": "odd"}, {"complaints": ["ugly"]}):
            self.assertEqual(self.look(**wrong).status_code, 200)
        self.assertEqual(Check.objects.count(), 1)

    def test_irritates_is_a_flare_up(self) -> None:
        self.look(complaints=["irritates"])
        self.assertContains(self.client.get(f"/pours/{self.pour.pk}/"), "Stop using it.")

    def test_a_check_that_is_written_down_later_keeps_its_own_time(self) -> None:
        made_at = timezone.localtime(timezone.now() - timedelta(hours=20)).replace(second=0, microsecond=0)
        self.look(felt_rung="5", made_at=made_at.strftime("%Y-%m-%dT%H:%M"))
        self.assertEqual(Check.objects.get().made_at, made_at)
        for hours, words in ((-60, "It was poured on"), (2, "still to come")):
            at = timezone.localtime(timezone.now() + timedelta(hours=hours)).strftime("%Y-%m-%dT%H:%M")
            refused = self.look(felt_rung="5", notes="kept", made_at=at)
            self.assertContains(refused, words)
            self.assertContains(refused, "kept</textarea>")
        self.assertEqual(Check.objects.count(), 1)

    def test_half_a_press_test_is_refused_with_everything_kept(self) -> None:
        answer = self.look(look="day", press_1="50", notes="kept", sign_grain="2")
        self.assertContains(answer, "Enter the width of the rod")
        self.assertContains(answer, "kept</textarea>")
        self.assertContains(answer, 'name="sign_grain" value="2" checked')
        self.assertFalse(Check.objects.exists())

    def test_a_flare_up_says_what_to_do_and_what_is_new(self) -> None:
        other = pour_of(self.user, self.version, done=True)
        services.record_check(self.user, other, temp_c=21.0, felt_rung=None, signs={"flare_up": "0"})
        draft_ = services.next_from_weights(self.user, self.pour)
        draft_ = add_line(self.user, draft_, slug="peppermint", percent=Decimal(1), seen=draft_.revision)
        self.pour = pour_of(self.user, draft_, done=True)
        self.look(sign_flare_up="2")
        page = self.client.get(f"/pours/{self.pour.pk}/")
        self.assertContains(page, "Stop using it.")
        self.assertContains(page, "Ingredients that you had not used before: peppermint")
        self.assertContains(page, "Find the cause")

    def test_one_test_in_three_pours_is_asked_at_skin_warmth(self) -> None:
        for _ in range(2):
            self.poured(pour_of(self.user, self.version, done=True), days=3)
        self.assertContains(self.client.get("/"), "Warm test")
        services.record_check(self.user, self.pour, temp_c=33.0, felt_rung=Decimal(3), look="skin")
        self.assertNotContains(self.client.get("/"), "Start warm test")

    def test_the_calendar_has_each_look_once_with_its_bell(self) -> None:
        for _ in range(2):
            answer = self.client.get("/checks.ics")
            events = Calendar.from_ical(answer.content).walk("VEVENT")
            self.assertEqual([str(e["uid"]) for e in events], [f"look-{self.pour.pk}-day@calmtin"])
        self.assertIn(self.pour.code, str(events[0]["summary"]))
        self.assertIn(f"/pours/{self.pour.pk}/check/?look=day", str(events[0]["url"]))
        self.assertEqual(len(events[0].walk("VALARM")), 1)
        self.assertEqual(answer["Content-Type"], "text/calendar; charset=utf-8")


class Pictures(WithSetPour):
    def send(self, body: bytes, name: str = "tin.jpg") -> Any:
        return self.look(notes="see", photo=SimpleUploadedFile(name, body, "image/jpeg"))

    def test_it_is_made_again_small_upright_and_without_metadata(self) -> None:
        exif = Image.Exif()
        exif[0x0112] = 6  # lies on its side
        exif[0x010F] = "A camera that tells where it was"
        self.send(a_picture(3000, 1500, exif=exif))
        kept = CheckPhoto.objects.get()
        with Image.open(kept.image) as picture:
            self.assertEqual((picture.format, picture.size), ("JPEG", (800, 1600)))
            self.assertFalse(picture.getexif())
        self.assertEqual((kept.width, kept.height), (800, 1600))
        sent = self.client.get(f"/photos/{kept.pk}/")
        self.assertEqual(sent["Content-Type"], "image/jpeg")
        self.assertNotIn(b"camera", b"".join(sent.streaming_content))
        self.client.force_login(maker("bow"), backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.get(f"/photos/{kept.pk}/").status_code, 404)

    def test_what_is_no_picture_is_refused_with_everything_kept(self) -> None:
        wide = BytesIO()
        Image.new("1", (20_000, 4_000)).save(wide, "PNG")
        for body, words in (
            (b"<svg onload=alert(1)>", "is not a picture that Calm Tin can read"),
            (a_picture()[:200], "is not a picture that Calm Tin can read"),
            (wide.getvalue(), "over 30 million pixels"),
        ):
            with self.subTest(words):
                answer = self.send(body)
                self.assertContains(answer, words)
                self.assertContains(answer, "see</textarea>")
        with patch("calmtin.checks.forms.PICTURE_BYTES", 100):
            self.assertContains(self.send(a_picture()), "larger than 15 MB")
        self.assertFalse(Check.objects.exists() or CheckPhoto.objects.exists())


class Pressing(WithSetPour):
    def test_the_rod_that_suits_and_what_the_readings_say(self) -> None:
        page = self.client.get(f"/pours/{self.pour.pk}/press/")
        self.assertContains(page, "best here", 1)
        page = self.client.get(
            f"/pours/{self.pour.pk}/press/", {"temp": "21", "rod": "3", "press_1": "30", "press_2": "31"}
        )
        self.assertContains(page, "firm in the tin, warms to a swirl")
        self.assertContains(page, "between 4.5 and 5.4")
        apart = self.client.get(
            f"/pours/{self.pour.pk}/press/", {"temp": "21", "rod": "3", "press_1": "10", "press_2": "60"}
        )
        self.assertContains(apart, "Press once more in a fresh place")


class Keeping(WithSetPour):
    def test_a_formula_is_kept_by_a_pour_and_no_longer(self) -> None:
        self.client.post(f"/pours/{self.pour.pk}/final/", {"why": "smooth"})
        self.assertEqual(kept_of(self.formula.pk).pour, self.pour)
        self.assertContains(self.client.get("/formulas/"), "<strong>final</strong>")
        story = self.client.get(f"/formulas/{self.formula.pk}/story/")
        self.assertContains(story, f"Final as made in {self.pour.code}")
        self.assertContains(story, "smooth")
        self.client.post(f"/pours/{self.pour.pk}/final/", {"no_longer": "yes"})
        self.assertIsNone(kept_of(self.formula.pk))
        self.assertEqual(Kept.objects.count(), 2)  # both stay in the log
        with self.assertRaisesMessage(CalmTinError, "Finish the pour first"):
            checks_services.keep(self.user, pour_of(self.user, self.version))

    def test_lists_are_narrowed_by_what_came_of_them(self) -> None:
        services.record_check(
            self.user, self.pour, temp_c=21.0, felt_rung=Decimal("5.5"), verdict="keep",
            signs={"grain": 1}, notes="Oars and wind",
        )  # fmt: skip
        plain = pour_of(self.user, self.version, done=True)
        for asked, count in (
            ("", 2), ("q=wind", 1), ("verdict=keep", 1), ("grain=on", 1), ("felt_from=5&felt_to=6", 1),
            ("felt_from=7", 0), ("material=olive_oil", 2), ("material=castor_oil", 0), ("kind=gloss", 0),
            ("kept=on", 0),
        ):  # fmt: skip
            with self.subTest(asked):
                page = self.client.get(f"/pours/?{asked}")
                self.assertEqual(len(page.context["pours"]), count)
        self.assertEqual(
            {p.pk for p, _ in self.client.get("/pours/").context["pours"]}, {self.pour.pk, plain.pk}
        )
        self.assertEqual(len(self.client.get("/formulas/?verdict=keep").context["formulas"]), 1)
        self.assertEqual(len(self.client.get("/formulas/?verdict=drop").context["formulas"]), 0)
        self.assertEqual(len(self.client.get("/formulas/?rung_from=9").context["formulas"]), 0)
        self.assertEqual(len(self.client.get("/formulas/?rung_to=9").context["formulas"]), 1)


class Taught(WithSetPour):
    def teach(self, count: int = 6) -> None:
        for _ in range(count):
            services.record_check(self.user, self.pour, temp_c=21.0, felt_rung=Decimal(8))

    def room(self) -> float:
        page = self.client.get(f"/formulas/{self.formula.pk}/v/1/")
        return float(page.context["view"].firmness.room.rung)

    def test_predictions_follow_the_bench_and_a_switch_shows_the_book(self) -> None:
        book = self.room()
        self.teach()
        bench = self.room()
        self.assertGreater(bench, book + 0.4)
        page = self.client.get(f"/formulas/{self.formula.pk}/v/1/")
        self.assertContains(page, f"{book:.1f} (likely")
        self.client.post("/calibration/figures/", {"book": "yes", "back": "/calibration/"})
        self.assertEqual(self.room(), book)
        self.client.post("/calibration/figures/", {"back": "//evil.example/"})
        self.assertEqual(self.room(), bench)

    def test_target_and_trio_map_use_what_was_learned(self) -> None:
        def asked() -> tuple[float, list]:
            target = self.client.get(f"/formulas/{self.formula.pk}/v/1/target/", {"rung": "6"})
            wax = next(li for li in target.context["proposal"].lines if li.before.layer == "wax")
            trio = self.client.get(f"/formulas/{self.formula.pk}/v/1/map/")
            return float(wax.now), trio.context["trio"].table

        wax, table = asked()
        self.teach()
        less, firmer = asked()
        self.assertLess(less, wax - 1.0)  # a firmer bench needs less wax for the same rung
        self.assertGreater(firmer[2][1][2], table[2][1][2] + 0.2)

    def test_grain_on_this_bench_counts(self) -> None:
        butter = blend([(library()["shea_refined"], 60.0), (library()["olive_oil"], 40.0)])
        rule = grain_risk(butter, "rest_then_chill")
        often = grain_risk(butter, "rest_then_chill", {"rest_then_chill": (6, 7)})
        never = grain_risk(butter, "rest_then_chill", {"rest_then_chill": (0, 7)})
        self.assertLess(never.risk, rule.risk)
        self.assertGreater(often.risk, rule.risk)
        self.assertAlmostEqual(never.risk, 1.0 / (1.0 / rule.risk + 7))
        self.assertEqual(grain_risk(butter, "slow_bench", {"rest_then_chill": (6, 7)}).seen, (0, 0))

    def test_with_a_long_log_no_page_waits_for_what_it_teaches(self) -> None:
        self.teach(2)
        before = self.room()
        aside: list = []

        class Later:
            def __init__(self, *, target: Any, **_: Any) -> None:
                self.start = lambda: aside.append(target)

        with patch.multiple("calmtin.checks.queries.calibration", LONG_LOG=1, Thread=Later):
            self.teach(4)
            self.assertEqual(self.room(), before)  # what was known before serves meanwhile
            self.assertEqual(len(aside), 1)
            with patch("calmtin.checks.queries.calibration.connections"):
                aside[0]()
            self.assertGreater(self.room(), before + 0.2)
            self.assertEqual(len(aside), 1)

    def test_a_change_of_the_log_is_never_missed(self) -> None:
        self.teach(1)
        first = User.objects.get(pk=self.user.pk).log_state
        check = Check.objects.get()
        checks_services.exclude_check(self.user, check, reason="the wrong tin")
        second = User.objects.get(pk=self.user.pk).log_state
        services.add_to_pot(self.user, self.pour, material="beeswax_yellow", grams=Decimal(5))
        third = User.objects.get(pk=self.user.pk).log_state
        line = self.pour.lines.first()
        services.correct_weight(self.user, line, line.planned_g + 1, reason="misread")
        fourth = User.objects.get(pk=self.user.pk).log_state
        self.assertEqual(len({first, second, third, fourth}), 4)
