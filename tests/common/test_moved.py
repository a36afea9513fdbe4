"""Addresses of earlier versions still lead to their pages, and carry what a form had in it."""

from __future__ import annotations

import re

from django.test import TestCase
from django.urls import resolve

from calmtin.config.moved import MOVED
from tests.bench_data import maker, salve


class MovedTests(TestCase):
    def setUp(self):
        self.client.force_login(maker())

    def test_every_old_address_leads_to_its_page(self):
        for old, new in MOVED.items():
            address = "/" + re.sub(r"<row:\w+>", "7", old)
            with self.subTest(old):
                answer = self.client.post(f"{address}?back=%2F")
                self.assertEqual(answer.status_code, 308)  # a form is sent on with what was typed
                to, _, query = answer["Location"].partition("?")
                self.assertEqual((resolve(to).view_name, query), (new, "back=%2F"))

    def test_an_old_page_and_an_old_form_still_work(self):
        formula = salve(maker("tern"), "Oarlock hand salve")
        self.client.force_login(formula.owner)
        self.assertContains(
            self.client.get(f"/formulas/{formula.pk}/v/1/trio/", follow=True), "Firmness map"
        )
        self.client.post(f"/formulas/{formula.pk}/put-away/", follow=True)
        formula.refresh_from_db()
        self.assertIsNotNone(formula.put_away_at)
