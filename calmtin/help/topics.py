"""Help in its place: a question, what makers hold, what Calm Tin does, and a picture worked out here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

from django.utils.translation import gettext, gettext_noop

from calmtin.accounts.models import Bench
from calmtin.common.material_curve import curve_of
from calmtin.core.audiences import AUDIENCE_WORDS
from calmtin.core.data.loader import ceilings, library
from calmtin.core.engine.blend import blend
from calmtin.core.engine.feel import feels
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.core.packing.keeping import MOST_MONTHS, WET_MONTHS
from calmtin.core.packing.label import PATCH, LabelText
from calmtin.core.packing.layout import Fitted, Shape, fit
from calmtin.core.solver.equivalents import beeswax_for
from calmtin.pictures.curve import SofteningCurve
from calmtin.pictures.labels import label_type
from calmtin.pictures.ladder import Ladder, Pin, ladder
from calmtin.pictures.section import TinSection, tin_section


@dataclass(frozen=True)
class Picture:
    """A picture of the help, of exactly one kind. `bars` are (words, 0 to 1, value)."""

    says: str
    ladder: Ladder | None = None
    curve: SofteningCurve | None = None
    bars: tuple[tuple[str, float, str], ...] = ()
    label: Fitted | None = None
    tins: tuple[tuple[str, TinSection], ...] = ()


# In the order of the index.
TOPICS: dict[str, str] = {
    "firm": gettext_noop("How firm is firm?"),
    "press": gettext_noop("What does a press test say?"),
    "grain": gettext_noop("Why does it go grainy?"),
    "wax": gettext_noop("Can one wax stand in for another?"),
    "rancid": gettext_noop("What goes rancid, and when?"),
    "water": gettext_noop("Why no water, and what a preservative does"),
    "scent": gettext_noop("How much scent?"),
    "butter": gettext_noop("Melted and whipped, or whipped cold?"),
    "starch": gettext_noop("Does starch take the grease away?"),
    "label": gettext_noop("What does a label need?"),
}


def questions() -> dict[str, str]:
    """Return the questions in words, by slug."""
    return {slug: gettext(question) for slug, question in TOPICS.items()}


def picture_of(slug: str, bench: Bench) -> Picture:
    """Return the picture of a topic, worked out by the same engine as every other."""
    return _PICTURES[slug](bench)


def _firm(_: Bench) -> Picture:
    return Picture(
        said(
            "Firmness {rung}: the bar is the prediction, the shaded area its likely range, the light "
            "stripe the target.",
            rung=5.4,
        ),
        ladder=ladder(5.4, 4.7, 6.1, target=(4.5, 6.0)),
    )


def _press(_: Bench) -> Picture:
    pins = [
        Pin(5.0, "keep", gettext("thumb test 5")),
        Pin(5.8, "tweak", said("three press tests {rung}", rung=5.8)),
    ]
    return Picture(
        gettext(
            "A thumb is accurate to about one step, a press test to half a step. Both appear as pins "
            "beside the prediction."
        ),
        ladder=ladder(5.4, 4.7, 6.1, pins=pins),
    )


def _grain(bench: Bench) -> Picture:
    return Picture(
        gettext(
            "Shea butter melts over a wide span. The fats that set last crystallise slowly and grow into "
            "grains."
        ),
        curve=curve_of(library()["shea_refined"], bench),
    )


def _wax(_: Bench) -> Picture:
    shelf = library()
    oil, bee, other = (shelf[slug] for slug in ("olive_oil", "beeswax_yellow", "candelilla_wax"))
    amount = 20.0 / beeswax_for(other, bee, oil)
    return Picture(
        said(
            "As firm as each other in olive oil: 20 % beeswax, and {amount:.0f} % candelilla wax.",
            amount=amount,
        ),
        tins=(("beeswax", _tin(bee, 20.0, oil)), (gettext("candelilla wax"), _tin(other, amount, oil))),
    )


def _tin(wax: Material, percent: float, oil: Material) -> TinSection:
    layers = [(m.slug, m.label, m.layer, pct) for m, pct in ((wax, percent), (oil, 100.0 - percent))]
    return tin_section(layers, width=200.0, height=200.0)


def _rancid(_: Bench) -> Picture:
    shown = ("jojoba_oil", "coconut_rbd", "shea_refined", "olive_oil", "sweet_almond_oil", "hemp_seed_oil")
    found = [library()[slug] for slug in shown]
    months = [(m, m.shelf_life_opened_months or m.shelf_life_months or 0.0) for m in found]
    return Picture(
        gettext("How long an opened bottle keeps. A salve keeps as long as its most fragile main oil."),
        bars=tuple(
            (m.label, told / MOST_MONTHS, said("{told:.0f} months", told=told)) for m, told in months
        ),
    )


def _scent(_: Bench) -> Picture:
    told = [
        (gettext(AUDIENCE_WORDS[slug]), ceiling.total_max_pct)
        for slug, ceiling in ceilings().items()
        if slug in AUDIENCE_WORDS
    ]
    return Picture(
        gettext("The most scent in total, by who it is for. Single scents may have lower limits."),
        bars=tuple((name, min(pct / 5.0, 1.0), said("{pct:g} %", pct=pct)) for name, pct in told),
    )


def _water(_: Bench) -> Picture:
    return Picture(
        gettext(
            "How long an olive oil salve keeps without water, and with a little water and no preservative."
        ),
        bars=(
            (gettext("no water in it"), 12.0 / MOST_MONTHS, gettext("12 months")),
            (
                gettext("honey, aloe or a wet herb in it"),
                WET_MONTHS / MOST_MONTHS,
                gettext("a month, in the fridge"),
            ),
        ),
    )


def _butter(bench: Bench) -> Picture:
    return Picture(
        gettext(
            "Shea by temperature: whipped before it softens, it holds air; once melted, it has to set "
            "again first."
        ),
        curve=curve_of(library()["shea_refined"], bench),
    )


def _starch(bench: Bench) -> Picture:
    shelf = library()
    shea, oil, starch = (shelf[slug] for slug in ("shea_refined", "olive_oil", "arrowroot"))
    bars = []
    for percent in (0.0, 3.0, 6.0, 12.0):
        parts = [(shea, 60.0 - percent / 2.0), (oil, 40.0 - percent / 2.0), (starch, percent)]
        grease = feels(blend([(m, pct) for m, pct in parts if pct > 0.0]), bench.room_c)[2]
        bars.append((said("{percent:g} % arrowroot", percent=percent), grease.level, grease.words))
    return Picture(
        gettext("Grease of a shea and olive butter with more and more starch."), bars=tuple(bars)
    )


def _label(bench: Bench) -> Picture:
    text = LabelText(
        name="Boathouse salve",
        maker=bench.label_maker or gettext("your name"),
        place=bench.label_place or "your address",
        net_g=28.4,
        ingredients=gettext("Olea Europaea (Olive) Fruit Oil, Cera Alba (Beeswax), Citrus Sinensis Oil"),
        allergens=("Limonene",),
        contains=(gettext("bee products"),),
        cautions=(gettext("For the skin only; keep it out of the eyes."),),
        use=gettext("Rub in a little."),
        note="",
        code="BS-01",
        best_before=date(2027, 6, 1),
        opened_months=6,
    )
    return Picture(
        said("What a label usually says, with “{patch}”", patch=PATCH),
        label=fit(text, Shape("round", 60.0, 60.0), label_type()),
    )


_PICTURES: dict[str, Callable[[Bench], Picture]] = {
    "firm": _firm,
    "press": _press,
    "grain": _grain,
    "wax": _wax,
    "rancid": _rancid,
    "water": _water,
    "scent": _scent,
    "butter": _butter,
    "starch": _starch,
    "label": _label,
}
