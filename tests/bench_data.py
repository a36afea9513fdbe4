"""Makers and formulas for the tests."""

from __future__ import annotations

import re
from collections.abc import Callable
from copy import copy
from decimal import Decimal
from io import BytesIO
from typing import Any

from PIL import Image

from calmtin.accounts.models import Bench, User
from calmtin.common.triggers import guards_open
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.process.fill import Container, Filling, FillPlan, for_containers, melt_of
from calmtin.core.process.losses import Losses
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.queries.stops import StopFirst
from calmtin.formulas.services import acknowledge, start_formula
from calmtin.pantry.adapters import container_for, shelf_for
from calmtin.pours.models import Pour
from calmtin.pours.services.starting import start_pour
from calmtin.pours.services.weighing import finish_weighing, weigh


class FlushesRecords:
    """A test case that flushes the database: the guards of its records stand aside for that."""

    def _fixture_teardown(self) -> None:
        with guards_open("the end of a test"):
            super()._fixture_teardown()


class Reads:
    """A test case that reads pages as a browser does: any white space is one blank."""

    def assertContains(self, response: Any, text: str, count: int | None = None, **kwargs: Any) -> None:  # noqa: N802
        super().assertContains(_flat(response), re.sub(r"\s+", " ", str(text)), count, **kwargs)

    def assertNotContains(self, response: Any, text: str, **kwargs: Any) -> None:  # noqa: N802
        super().assertNotContains(_flat(response), re.sub(r"\s+", " ", str(text)), **kwargs)


def _flat(response: Any) -> Any:
    """Return a response with its white space collapsed, where it is a page."""
    if not response.get("Content-Type", "").startswith("text/html"):
        return response
    shown = copy(response)
    shown._container = [re.sub(rb"\s+", b" ", response.content)]
    return shown


SALVE = [
    ("beeswax_yellow", Decimal(18)),
    ("coconut_rbd", Decimal(12)),
    ("olive_oil", Decimal(69)),
    ("tocopherols_50", Decimal(1)),
]


def maker(name: str = "cox") -> User:
    """Return a maker with a bench of their own."""
    user = User.objects.create_user(name, password="oar-and-tallow-7")
    Bench.objects.create(user=user, is_set_up=True)
    return user


def salve(user: User, name: str = "Thole pin salve", lines: Any = SALVE) -> Formula:
    """Return a formula with one draft."""
    return start_formula(user, name=name, kind="firm_salve", lines=lines)


def draft(formula: Formula) -> Version:
    """Return the formula's newest version."""
    return formula.versions.order_by("-number").first()


def plan_for(user: User, version: Version, into: Container | None = None, *, finish: str = "") -> FillPlan:
    """Plan to fill two tins, or two of another container."""
    parts = composition_of(version, shelf_for(user)).masses
    tin = into or container_for(user, "tin_2oz")
    return for_containers(
        melt_of(parts, set_point_c=set_point_c(blend(parts))),
        [Filling(tin, 2, tin.volume_ml, finish)],
        Losses(cling_share=0.05),
        resolution=Decimal("0.1"),
    )


def past_stops(user: User, formula: Formula, act: Callable[[], Any]) -> Any:
    """Do `act`; where a caution says stop, write down why it goes on and do it again."""
    try:
        return act()
    except StopFirst as refused:
        for stop in refused.stops:
            acknowledge(
                user, formula, key=stop.key, material=stop.material, level="stop", reason="for a test"
            )
    return act()


def pour_of(
    user: User,
    version: Version,
    *,
    done: bool = False,
    acknowledged: bool = False,
    into: Container | None = None,
) -> Pour:
    """Start a pour of two tins; weigh it out on target and close it when `done`.

    `acknowledged`: its maker wrote down first why they go on past each stop.
    """

    def start() -> Pour:
        return start_pour(user, version, plan_for(user, version, into), scale_step_g=Decimal("0.1"))

    pour = past_stops(user, version.formula, start) if acknowledged else start()
    if done:
        for line in pour.lines.all():
            weigh(user, line, line.planned_g)
        finish_weighing(user, pour)
    return pour


def a_picture(width: int = 40, height: int = 30, **saved: object) -> bytes:
    """Return a small JPEG as a phone would send it; `saved` goes to Pillow, such as exif."""
    made = BytesIO()
    Image.new("RGB", (width, height), "tan").save(made, "JPEG", **saved)
    return made.getvalue()
