"""Take the pictures of docs/screenshots from the demo data; run by script/screenshots only."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

from django.test import tag
from django.utils import timezone

from calmtin.pours.models import Pour
from calmtin.pours.services import read_pot
from tests.browser.base import BrowserCase

RECIPE = """2/3 cup mango butter
60 g beeswax
1 1/2 oz olive oil
three quarters of a cup shea butter (melted)
12-16 drops lavender
5 drops cedarwood
"""
FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"


@tag("screenshots")
class Views(BrowserCase):
    def test_take_them(self) -> None:
        stick = self.formula("Headwind lip stick").pk
        judged = next(p for p in Pour.objects.all() if p.checks.filter(verdict="keep").exists())
        weighing = next(p for p in Pour.objects.all() if p.is_weighing)
        for minute, temp_c in ((12, 84.0), (8, 78.5), (4, 73.4), (0, 69.0)):
            at = timezone.now() - timedelta(minutes=minute)
            read_pot(weighing.owner, weighing, temp_c=temp_c, at=at)
        views = {
            "today": "/",
            "formulas": "/formulas/",
            "formula": f"/formulas/{stick}/",
            "why": f"/formulas/{self.formula('Cox’s whipped butter').pk}/?why=room",
            "new-formula": "/formulas/new/",
            "target": f"/formulas/{stick}/v/4/target/?rung=7.2&min_rung=4&hot=36",
            "trio": f"/formulas/{stick}/v/4/trio/?wax=28&butter=42&oil=30",
            "finishes": f"/formulas/{self.formula('Bow-light gloss').pk}/v/1/finishes/?pot=240",
            "fill": f"/formulas/{stick}/v/4/fill/?pot=250&container_0=lip_tube_standard&count_0=38"
            "&container_1=tin_2oz",
            "weigh": f"/pours/{weighing.pk}/",
            "run": f"/pours/{weighing.pk}/run/",
            "record": f"/pours/{judged.pk}/",
            "history": f"/formulas/{stick}/pours/",
            "pours": "/pours/",
            "settings": "/settings/",
            "pantry": "/pantry/",
            "material": "/pantry/materials/shea_refined/",
            "making": "/pantry/making/",
            "paste": "/formulas/paste/",
        }
        for name, path in views.items():
            page = self.open(path)
            if name == "why":
                page.locator("#reasons").scroll_into_view_if_needed()
            if name == "new-formula":
                page.get_by_label("What do you call it?").fill("Weir lip stick")
                page.get_by_role("radio", name="Lip balm, tube").check()
                page.get_by_role("button", name="Show three formulas").click()
                page.locator(".worked").scroll_into_view_if_needed()
            if name == "paste":
                page.get_by_label("One material a line").fill(RECIPE)
                page.get_by_role("button", name="Read it").click()
            page.evaluate("document.fonts.ready.then(() => true)")
            page.wait_for_timeout(200)
            page.screenshot(path=FOLDER / f"{name}.png")
