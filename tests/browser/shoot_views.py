"""Take the pictures of docs/screenshots from the demo data; run by script/screenshots only."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from pathlib import Path

from django.test import tag
from django.utils import timezone

from calmtin.devices.adapters import SimulatedBench
from calmtin.pours.models import Pour
from calmtin.pours.services import act_at_stove, finish_weighing, mark_step, read_pot, rehearse, weigh
from tests.bench_data import plan_for
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
    with_season = True

    def rehearsed(self) -> Pour:
        """Return a rehearsal of the hand salve that cools on the bench."""
        version = self.formula("Oarlock hand salve").versions.last()
        user = version.formula.owner
        pour: Pour = rehearse(user, version, plan_for(user, version), scale_step_g=Decimal("0.1"), seed=3)
        for line in pour.lines.all():
            weigh(user, line, line.planned_g)
        finish_weighing(user, pour)
        act_at_stove(user, pour, kind="bath", value=120.0)
        act_at_stove(user, pour, kind="skip", value=2400.0)
        for key in ("ready", "melt_wax", "melt_butter", "oils"):
            mark_step(user, pour, key=key)
        act_at_stove(user, pour, kind="bench", value=120.0)
        for _ in range(5):
            act_at_stove(user, pour, kind="skip", value=150.0)
            read_pot(user, pour, temp_c=SimulatedBench(pour.stove).thermometer.read().temp_c)
        mark_step(user, pour, key="late")
        return pour

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
            "labels": f"/pours/{Pour.objects.get(code='HL-03').pk}/labels/",
            "deadlines": "/deadlines/",
            "target": f"/formulas/{stick}/v/4/target/?rung=7.2&min_rung=4&hot=36",
            "map": f"/formulas/{stick}/v/4/map/?wax=28&butter=42&oil=30",
            "fill": f"/formulas/{stick}/v/4/fill/?pot=250&container_0=lip_tube_standard&count_0=38"
            "&container_1=tin_2oz",
            "weigh": f"/pours/{weighing.pk}/",
            "run": f"/pours/{weighing.pk}/run/",
            "rehearsal": f"/pours/{self.rehearsed().pk}/run/",
            "record": f"/pours/{judged.pk}/",
            "history": f"/formulas/{self.formula('Slipway foot balm').pk}/pours/",
            "calibration": "/calibration/",
            "next": f"/formulas/{self.formula('Oarlock hand salve').pk}/next/",
            "pours": "/pours/",
            "pantry": "/pantry/",
            "paste": "/formulas/paste/",
        }
        for name, path in views.items():
            page = self.open(path)
            if name == "paste":
                page.get_by_label("One material per line").fill(RECIPE)
                page.get_by_role("button", name="Read recipe").click()
            page.evaluate("document.fonts.ready.then(() => true)")
            page.wait_for_timeout(200)
            page.screenshot(path=FOLDER / f"{name}.png")
        due = Pour.objects.get(code="OH-02")
        page = self.open(f"/pours/{due.pk}/check/?look=day", self.phone())
        page.evaluate("document.fonts.ready.then(() => true)")
        page.get_by_role("radio", name="5 firm in the tin").tap()
        page.wait_for_timeout(200)
        page.screenshot(path=FOLDER / "check.png")
