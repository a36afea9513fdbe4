"""The demo bench: the boathouse of Tern Quay, a rowing club that does not exist.

Everything in it is invented. It is built through the same services as a maker's
own book, with dates of its own, so that pours lie in the past.
"""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from typing import Any

from django.db import connection, transaction
from django.utils import timezone

from calmtin.accounts.models import PORTER, Bench, User
from calmtin.accounts.services import DEMO_USER
from calmtin.common.numbers import CENT
from calmtin.core.errors import CalmTinError
from calmtin.exchange.backups import BOOK_MARK, database_file, mark_of
from calmtin.exchange.season import STEP_G, load_season, usual_plan
from calmtin.formulas.models import Version
from calmtin.formulas.services import add_finish, add_line, set_percent, start_formula
from calmtin.packing.services.deadlines import add_deadline
from calmtin.packing.services.labels import print_labels
from calmtin.packing.services.pieces import count_hours, send_pieces
from calmtin.pantry.services.containers import add_container
from calmtin.pantry.services.infusing import start_infusion
from calmtin.pantry.services.lots import buy_lot
from calmtin.pantry.services.materials import add_material, set_own_figures
from calmtin.pours.models import Pour
from calmtin.pours.services.checking import record_check
from calmtin.pours.services.counting import record_yield
from calmtin.pours.services.starting import start_pour
from calmtin.pours.services.weighing import finish_weighing, weigh

FORMULAS: dict[str, tuple[str, dict[str, str]]] = {
    "Bow-light gloss": (
        "gloss",
        {
            "beeswax_white": "8.5",
            "coconut_rbd": "4",
            "castor_oil": "55",
            "jojoba_oil": "31.7",
            "mica": "0.5",
            "tocopherols_50": "0.3",
        },
    ),
    "Cox’s whipped butter": (
        "whipped_butter",
        {
            "shea_refined": "45",
            "mango_butter": "15",
            "coconut_rbd": "12",
            "sunflower_high_oleic": "23.4",
            "arrowroot": "4",
            "tocopherols_50": "0.6",
        },
    ),
    "Slipway foot balm": (
        "firm_salve",
        {
            "beeswax_yellow": "15",
            "shea_unrefined": "12",
            "coconut_virgin": "14",
            "lanolin": "6",
            "olive_oil": "50.8",
            "tocopherols_50": "0.7",
            "tea_tree": "1",
            "peppermint": "0.5",
        },
    ),
    "Regatta lotion bar": (
        "lotion_bar",
        {
            "beeswax_yellow": "30",
            "cocoa_butter": "26",
            "coconut_rbd": "16",
            "sweet_almond_oil": "26.2",
            "tocopherols_50": "0.8",
            "orange_sweet": "1",
        },
    ),
    "Oarlock hand salve": (
        "firm_salve",
        {
            "beeswax_yellow": "17",
            "shea_refined": "10",
            "coconut_rbd": "10",
            "olive_oil": "40",
            "infused_oil": "21.2",
            "tocopherols_50": "0.8",
            "cedarwood_virginia": "1",
        },
    ),
    "Headwind lip stick": (
        "lip_balm",
        {
            "beeswax_yellow": "20",
            "cocoa_butter": "18",
            "shea_refined": "4",
            "coconut_rbd": "18",
            "sweet_almond_oil": "26.2",
            "castor_oil": "12",
            "tocopherols_50": "0.8",
            "peppermint": "1",
        },
    ),
}

SEASON_POURS = 34

# What the bottles say that the tables leave open.
BOTTLES = {
    "tocopherols_50": "Tocopherol (and) Helianthus Annuus (Sunflower) Seed Oil",
    "infused_oil": "Olea Europaea (Olive) Fruit Oil (and) Calendula Officinalis Flower Extract",
    "mica": "Mica (and) CI 77891",
}
# Where the pieces of the kept lip stick went: how, how many, to whom, the price of each, days ago.
GONE = (
    ("aside", 1, "", "", 10),
    ("kept", 4, "", "", 10),
    ("given", 9, "the women’s eight", "", 8),
    ("sold", 5, "boathouse fair", "3.50", 3),
)
NEEDS = (
    ("Headwind lip stick", 24, "the head of the river", 23),
    ("Cox’s whipped butter", 4, "the cox’s birthday", 12),
    ("Regatta lotion bar", 12, "the spring market", 12),
)

FINISHES = {
    "clear": {},
    "tinted": {"iron_oxide": "0.6"},
    "scented": {"spearmint": "0.5"},
}


def refuse_book() -> None:
    """Raise `CalmTinError` where the database is a maker's book: the demo never touches one."""
    file = database_file()
    words = (
        f"{file} is a maker's own database, so the demo leaves it alone. "
        "Unset CALMTIN_DEMO, or let script/demo use its own folder."
    )
    if mark_of(file) == BOOK_MARK:
        raise CalmTinError(words)
    tables = connection.introspection.table_names() if file.exists() else []
    if User._meta.db_table in tables:
        with connection.cursor() as cursor:
            others = "SELECT 1 FROM accounts_user WHERE username <> %s AND username NOT LIKE %s"
            cursor.execute(others, [DEMO_USER, f"{PORTER}%"])
            if cursor.fetchone():
                raise CalmTinError(words)


@transaction.atomic
def load_demo(*, with_season: bool = True) -> bool:
    """Build the demo bench once; return whether it was built now.

    Without its season there are the six formulas and the pours of their stories alone.

    Raises `CalmTinError` when the database has a maker in it.
    """
    if User.objects.exclude(username=DEMO_USER).exists():
        raise CalmTinError("There is a maker's own bench in this database. The demo needs one of its own.")
    if User.objects.filter(username=DEMO_USER).exists():
        return False
    user = User.objects.create_user(username=DEMO_USER, first_name="Tern Quay")
    Bench.objects.create(
        user=user,
        is_set_up=True,
        weighed_into="pot",
        melting="staged",
        cold_name="boathouse",
        hot_name="hot car",
        label_maker="Tern Quay boathouse",
        label_place="Slip 3, Tern Quay",
        currency="£",
        hour_costs=Decimal(12),
        label_costs=Decimal("0.15"),
        margin_pct=35.0,
    )
    made = {
        name: start_formula(
            user, name=name, kind=kind, lines=[(slug, Decimal(percent)) for slug, percent in lines.items()]
        )
        for name, (kind, lines) in FORMULAS.items()
    }
    _stock(user)
    # A season first, from a hidden true bench; the stories below come after it.
    season = ("Cox’s whipped butter", "Slipway foot balm", "Bow-light gloss")
    if with_season:
        load_season(user, [made[name] for name in season], SEASON_POURS)
    # The whipped butter takes its scent on top of the base; the gloss is finished in three ways.
    whip = made["Cox’s whipped butter"].versions.order_by("-number")[0]
    add_line(user, whip, slug="lavender", percent=Decimal(1), on_top=True, seen=whip.revision)
    for name, parts in FINISHES.items():
        doses = [(slug, Decimal(percent)) for slug, percent in parts.items()]
        add_finish(user, made["Bow-light gloss"], name=name, parts=doses)
    # Headwind lip stick: three pours, each from one change, and a fourth version to try.
    stick = made["Headwind lip stick"].versions.get()
    first = _pour(user, stick, "lip_tube_standard", 6, days=40, slips={"beeswax_yellow": "-0.4"})
    _judge(
        user, first, "5.5", 20.5, "tweak", "Bends when it is cold out of the pocket. Wants more wax.", 39
    )
    second_version = _change(user, stick, "beeswax_yellow", "24")
    second = _pour(user, second_version, "lip_tube_standard", 6, days=26)
    _judge(user, second, "7.5", 21.0, "tweak", "Drags on cracked lips. Too much wax now.", 25)
    third_version = _change(user, second_version, "beeswax_yellow", "22")
    third = _pour(user, third_version, "lip_tube_standard", 25, days=12, slips={"cocoa_butter": "0.1"})
    _judge(user, third, "6.5", 21.0, "keep", "Glides, stands up in the wind. No grain after ten days.", 2)
    _change(user, third_version, "castor_oil", "14")
    _pack(user, third)
    # Oarlock hand salve: one kept, one waiting for its first look.
    salve = made["Oarlock hand salve"].versions.get()
    kept = _pour(user, salve, "tin_2oz", 8, days=30)
    _judge(user, kept, "4.5", 19.0, "tweak", "Good on blisters; a little soft by the stove.", 28)
    firmer = _change(user, salve, "beeswax_yellow", "18.5")
    _pour(user, firmer, "tin_2oz", 12, days=1)
    # Regatta lotion bar: on the scale right now, two lines weighed.
    _pour(user, made["Regatta lotion bar"].versions.get(), "mould_round_60ml", 6, days=0, weighed=2)
    day = timezone.localdate()
    for formula, count, what_for, days in NEEDS:
        needed_on = day + timedelta(days=days)
        add_deadline(user, made[formula], what_for=what_for, needed_on=needed_on, count=count, today=day)
    return True


def _pack(user: Any, pour: Pour) -> None:
    """Weigh some pieces of a pour, label them, and say where they went; the lightest is set aside."""
    filling = pour.fillings.get()
    off = ("0.10", "0.05", "0", "-0.05", "-0.60", "0.12")
    record_yield(
        user,
        pour,
        filled_g=(pour.batch_g * Decimal("0.98")).quantize(CENT) - Decimal(2),
        left_g=Decimal(2),
        pieces={filling.position: [filling.each_g + Decimal(grams) for grams in off]},
        counts={filling.position: filling.count},
    )
    count_hours(user, pour, hours=Decimal("2.5"))
    print_labels(
        user,
        pour,
        position=filling.position,
        name="Headwind",
        what="Lip stick",
        use="Stroke onto the lips before you go out.",
        sheet="a4-wrap-56x45",
        count=24,
    )
    for went, count, who, price, days in GONE:
        on = timezone.localdate() - timedelta(days=days)
        paid = Decimal(price) if price else None
        send_pieces(
            user, pour, position=filling.position, went=went, count=count, who=who, price=paid, on=on
        )


def _stock(user: Any) -> None:
    """Fill the pantry: lots that are fresh, old and low, an own wax, an infusion that is due."""
    today = timezone.localdate()
    for slug, inci in BOTTLES.items():
        set_own_figures(user, slug, inci=inci)
    add_material(
        user,
        name="Reed-bed wax",
        group="wax",
        behaves_like="candelilla_wax",
        melt_low_c=64.0,
        melt_high_c=69.0,
        density=0.97,
        notes="Invented for the demo: a plant wax a little softer than candelilla.",
    )
    lots = {
        "beeswax_yellow": ("1000", "19.50", 400, 1200, "1 kg of pellets"),
        "cocoa_butter": ("500", "12.80", 120, 500, "500 g"),
        "shea_refined": ("453.59", "9.90", 200, 30, "1 lb"),
        "coconut_rbd": ("800", "7.20", 60, 400, "800 g"),
        "sweet_almond_oil": ("456.5", "8.40", 90, 180, "500 ml"),
        "castor_oil": ("239.5", "6.10", 30, 300, "250 ml"),
        "tocopherols_50": ("27.9", "5.60", 200, 160, "30 ml"),
        "peppermint": ("9.05", "4.20", 100, 600, "10 ml"),
        "olive_oil": ("911", "9.00", 45, 400, "1 l"),
        "my_reed_bed_wax": ("200", "7.00", 14, 700, "200 g"),
    }
    for slug, (grams, price, days_ago, days_left, typed) in lots.items():
        buy_lot(
            user,
            material=slug,
            amount_g=Decimal(grams),
            price=Decimal(price),
            bought_on=today - timedelta(days=days_ago),
            best_before=today + timedelta(days=days_left),
            typed=typed,
        )
    calendula = {"herb": "calendula", "herb_g": Decimal(40), "oil": "olive_oil", "oil_g": Decimal(300)}
    start_infusion(user, **calendula, method="cold", started_on=today - timedelta(days=30))
    add_container(
        user, name="Shell-house tin", brim_ml=52.1, usual_level_pct=92.0, tare_g=Decimal("14.2"), on_hand=24
    )


def _change(user: Any, version: Version, slug: str, percent: str) -> Version:
    line = version.lines.get(material=slug)
    return set_percent(user, version, key=line.key, percent=Decimal(percent), seen=version.revision)


def _pour(
    user: Any,
    version: Version,
    container_slug: str,
    count: int,
    *,
    days: int,
    slips: dict[str, str] | None = None,
    weighed: int | None = None,
) -> Pour:
    """Weigh out a pour `days` ago, on target but for `slips`; stop after `weighed` lines."""
    plan = usual_plan(user, version, container_slug, count)
    when = timezone.now() - timedelta(days=days, hours=3)
    pour = start_pour(user, version, plan, scale_step_g=STEP_G, started_at=when, is_history=True)
    for line in list(pour.lines.all())[:weighed]:
        weigh(user, line, line.planned_g + Decimal((slips or {}).get(line.material, "0")))
    Version.objects.filter(pk=version.pk).update(poured_at=when)
    if weighed is None:
        finish_weighing(user, pour, poured_at=when + timedelta(minutes=50))
    pour.refresh_from_db()
    version.refresh_from_db()
    return pour


def _judge(
    user: Any, pour: Pour, rung: str, temp_c: float, verdict: str, notes: str, days_ago: int
) -> None:
    made_at = timezone.now() - timedelta(days=days_ago)
    record_check(
        user, pour, temp_c=temp_c, felt_rung=Decimal(rung), verdict=verdict, notes=notes, made_at=made_at
    )
