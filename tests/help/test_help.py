"""Help: every question has an answer with a picture, and is reached from what it explains."""

from __future__ import annotations

from django.test import TestCase
from django.urls import reverse

from calmtin.help.topics import TOPICS
from tests.bench_data import Reads, draft, maker, pour_of, salve


class Help(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user)

    def test_every_question_has_words_and_a_picture(self) -> None:
        index = self.client.get(reverse("help:index"))
        for slug, asks in TOPICS.items():
            with self.subTest(slug):
                self.assertContains(index, reverse("help:topic", args=[slug]))
                page = self.client.get(reverse("help:topic", args=[slug]))
                self.assertContains(page, f"<h1>{asks}</h1>")
                self.assertContains(page, "<figcaption")
                self.assertContains(page, "<svg")
        self.assertEqual(self.client.get(reverse("help:topic", args=["nothing"])).status_code, 404)

    def test_a_number_leads_to_what_explains_it(self) -> None:
        formula = salve(self.user)
        pour = pour_of(self.user, draft(formula), done=True)
        line = draft(formula).lines.first()
        for address, slug in (
            (f"/formulas/{formula.pk}/", "firm"),
            (f"/formulas/{formula.pk}/v/1/lines/{line.key}/swap/", "wax"),
            (f"/pours/{pour.pk}/press/", "press"),
            (f"/pours/{pour.pk}/card/", "rancid"),
            (f"/pours/{pour.pk}/labels/", "label"),
        ):
            self.assertContains(self.client.get(address), reverse("help:topic", args=[slug]))
