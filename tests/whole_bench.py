"""A bench with rows of every kind, on which everything that can be deleted or corrected was."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from calmtin.accounts import services as accounts
from calmtin.accounts.models import User
from calmtin.checks import services as checks_services
from calmtin.core.packing.layout import Shape, Sheet
from calmtin.core.process.route import OwnStep
from calmtin.core.process.scales import Scale
from calmtin.formulas import services as formulas
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula
from calmtin.packing import services as packing_services
from calmtin.pantry import services as pantry
from calmtin.pantry.adapters import container_for, shelf_for
from calmtin.pantry.models import Infusion, Lot
from calmtin.plans.adapters import OnePot, Variant, ladder_variants
from calmtin.pours import services as pours
from calmtin.pours.models import Pour
from tests.bench_data import a_picture, draft, maker, plan_for, pour_of, salve

DAY = date(2026, 5, 1)
PRICE = Decimal("9.50")


def whole_bench(name: str) -> User:
    """Return a maker whose every table has rows, with what was deleted and corrected among them."""
    user = maker(name)
    accounts.add_scale(user, name="Jeweller’s scale", step="0.01", capacity_g=Decimal(200))
    accounts.remove_scale(
        user, accounts.add_scale(user, name="Old scale", step="1", capacity_g=Decimal(2000))
    )
    _materials(user)
    _infusions(user)
    formula = salve(user, "Oarlock hand salve")
    _drafts(user, formula)
    pour = _finished_pour(user, formula)
    _leftovers(user, pour)
    _labels_and_pieces(user, pour)
    _packing(user, pour)
    _series(user)
    _one_pot(user)
    _seasons(user)
    _rehearsals(user)
    _tincture(user)
    return user


def _materials(user: User) -> None:
    for slug in ("beeswax_yellow", "coconut_rbd", "olive_oil", "tocopherols_50", "peppermint"):
        pantry.buy_lot(user, material=slug, amount_g=Decimal(900), price=PRICE, bought_on=DAY)
    mistaken = pantry.buy_lot(user, material="olive_oil", amount_g=Decimal(10), bought_on=DAY)
    pantry.void_lot(user, mistaken, reason="typed twice")
    pantry.restore_lot(user, mistaken)
    pantry.reweigh(user, mistaken, actual_g=Decimal(8), reason="spilled")
    pantry.void_lot(user, mistaken, reason="typed twice after all")
    pantry.correct_lot(user, Lot.objects.of(user).first(), reason="misread", price=Decimal(8))
    pantry.set_own_figures(user, "tocopherols_50", inci="Tocopherol, Helianthus Annuus Seed Oil")
    for given, correct in (("Reed wax", "Reed bed wax"), ("Rush wax", "Rush seed wax")):
        own = pantry.add_material(user, name=given, group="wax", behaves_like="soy_wax")
        facts = {"name": correct, "group": "wax", "behaves_like": "soy_wax"}
        pantry.correct_material(user, own, reason="measured anew", strength_pct=90.0, **facts)
    pantry.delete_material(user, own)
    for given in ("Bailer tin", "Cup"):
        container = pantry.add_container(user, name=given, brim_ml=70.0)
        pantry.correct_container(user, container, reason="filled it", name=given, brim_ml=72.0)
    pantry.delete_container(user, container)
    pantry.add_vessel(user, name="Enamel pot", use="pot", brim_ml=900.0)
    pantry.remove_vessel(user, pantry.add_vessel(user, name="Cracked jug", use="jug", brim_ml=300.0))
    pantry.render_at_once(user, kind="comb", raw_g=Decimal(100), clean_g=Decimal(60), started_on=DAY)
    facts: dict[str, Any] = {"kind": "butter", "material": "shea_refined", "started_on": DAY}
    for _ in range(2):
        butter = pantry.start_rendering(user, raw_g=Decimal(70), **facts)
        pantry.mark_step(user, butter, key="melt")
    pantry.delete_rendering(user, butter)
    # Whole ounces too: a reason that stands in a ledger is not worded anew in other notations.
    done = pantry.render_at_once(user, raw_g=Decimal(180), clean_g=Decimal(170), **facts)
    pantry.correct_rendering(user, done, clean_g=Decimal(85), reason="misread")


def _infusions(user: User) -> None:
    def infuse(herb: str) -> Infusion:
        facts: dict[str, Any] = {"herb_g": Decimal(20), "oil": "olive_oil", "method": "cold"}
        infusion: Infusion = pantry.start_infusion(
            user, herb=herb, oil_g=Decimal(100), started_on=DAY, **facts
        )
        if herb != "yarrow":
            reason = {"reason": "weighed wrong", "started_on": DAY}
            pantry.correct_infusion(user, infusion, herb=herb, oil_g=Decimal(90), **facts, **reason)
        return infusion

    pantry.strain(user, infuse("calendula"), recovered_g=Decimal(80), strained_on=date(2026, 5, 30))
    infuse("plantain")
    for herb in ("comfrey", "yarrow"):
        pantry.delete_infusion(user, infuse(herb))


def _drafts(user: User, formula: Formula) -> None:
    version = draft(formula)
    wax = version.lines.get(material="beeswax_yellow")
    formulas.set_percent(user, version, key=wax.key, percent=Decimal(20), seen=version.revision)
    formulas.acknowledge(user, formula, key="scent", material="peppermint", level="think", reason="mild")
    formulas.add_finish(user, formula, name="minty", parts=[("peppermint", Decimal("0.5"))])
    formulas.remove_finish(
        user, formulas.add_finish(user, formula, name="warm", parts=[("peppermint", Decimal("0.2"))])
    )
    copied = formulas.branch(user, version, name="Backstay balm")
    formulas.archive_formula(user, copied)
    dropped = draft(salve(user, "A mistake"))
    formulas.delete_draft(user, dropped, seen=dropped.revision)
    need = {"what_for": "regatta", "count": 4, "needed_on": timezone.localdate() + timedelta(days=30)}
    for _ in range(2):
        called_off = packing_services.add_deadline(user, formula, **need, today=timezone.localdate())
    packing_services.remove_deadline(user, called_off)


def _finished_pour(user: User, formula: Formula) -> Pour:
    """Return a pour into an own container, over-poured, corrected and added to, with all that follows."""
    version = draft(formula)
    tin = user.owncontainer_set.get()
    into = container_for(user, tin.slug)
    plan = plan_for(user, version, into, finish="minty")
    mint = shelf_for(user)["peppermint"]
    pour: Pour = pours.start_pour(
        user,
        version,
        plan,
        scale_step_g=Decimal("0.1"),
        finish_parts=[("minty", mint, Decimal("0.5"), Decimal("0.6"))],
    )
    lines = list(pour.lines.all())
    pours.weigh(user, lines[0], lines[0].planned_g + 3)
    pours.scale_up(user, pour)
    pours.undo_weight(user, pour)
    for line in lines:
        pours.weigh(user, line, line.planned_g + 1)
    pours.start_timer(user, pour, key="melt", minutes=Decimal(10))
    pours.stop_timer(user, pour, key="melt")
    pours.finish_weighing(user, pour)
    pours.mark_step(user, pour, key="melt", title="Melt", note="slowly")
    pours.read_pot(user, pour, temp_c=70.0)
    pours.keep_route(user, kind="firm_salve", way="pour", steps=[OwnStep("melt", "Melt gently", False)])
    pours.correct_weight(user, lines[0], lines[0].planned_g, reason="misread")
    pours.weigh_finish(user, pour.finish_parts.get(), Decimal("0.6"))
    pours.add_to_pot(user, pour, material="beeswax_yellow", grams=Decimal(2), why="too soft")
    pours.record_yield(user, pour, filled_g=Decimal(100), left_g=Decimal(6), counts={0: 2})
    check = pours.record_check(
        user, pour, temp_c=20.5, felt_rung=Decimal("4.5"), verdict="keep", photo=a_picture()
    )
    checks_services.exclude_check(user, check, reason="cold hands")
    flared = pours.record_check(user, pour, temp_c=20.5, felt_rung=None, signs={"flare_up": "1"})
    reaction = checks_services.trace_reaction(user, flared, suspects=["beeswax_yellow", "olive_oil"])
    checks_services.keep_patch(user, reaction, material="olive_oil", tried_on=DAY, result="calm")
    checks_services.keep(user, pour, why="it glides")
    return pour


def _seasons(user: User) -> None:
    version = draft(salve(user, "Slip salve"))
    formulas.pair_seasons(user, version, season="winter", summer_from_c=24.0)


def _packing(user: User, pour: Pour) -> None:
    item = packing_services.add_packing_item(user, name="Ribbon", on_hand=20, price=Decimal("0.10"))
    packed = packing_services.pack_with(user, pour, position=0, item=item, count=2)
    packing_services.pack_with(user, pour, position=0, item=item, count=3)
    packing_services.unpack(user, packed)
    gone = packing_services.add_packing_item(user, name="Old box")
    packing_services.remove_packing_item(user, gone)


def _one_pot(user: User) -> None:
    version = draft(salve(user, "Sculling salve"))
    wax = version.lines.get(material="beeswax_yellow")
    shares = (Decimal("0.15"), Decimal("0.18"))
    composition = composition_of(version, shelf_for(user))
    variants, varies = ladder_variants(composition, composition[wax.key], shares)
    series = pours.start_series(
        user,
        version,
        variants=variants,
        varies=varies,
        sample_g=Decimal(12),
        container=container_for(user, "jar_15ml"),
        scales=[Scale("kitchen scale", Decimal("0.1"))],
        one_pot=OnePot(wax.key, shares, Decimal(26), Decimal("0.5")),
    )
    pour = series.pours.get()
    for line in pour.lines.all():
        pours.weigh(user, line, line.planned_g)
    pours.finish_weighing(user, pour)
    pours.pour_next_sample(user, pour)


def _leftovers(user: User, pour: Pour) -> None:
    lot = pours.keep_leftovers(user, pour, left_g=Decimal(6), today=DAY)
    pantry.correct_lot(user, lot, reason="a name for it", note="from the regatta")
    again = draft(salve(user, "Leftover balm", [(lot.material, Decimal(50)), ("olive_oil", Decimal(50))]))
    called_off = pours.start_pour(user, again, plan_for(user, again), scale_step_g=Decimal("0.1"))
    for line in called_off.lines.all():
        pours.weigh(user, line, Decimal(1))
    pours.cancel_pour(user, called_off, reason="dropped it")


def _labels_and_pieces(user: User, pour: Pour) -> None:
    def sheet(name: str) -> Sheet:
        page = {"page_w": 210.0, "page_h": 297.0, "columns": 3, "rows": 4, "left_mm": 10.0, "top_mm": 10.0}
        return Sheet(name=name, shape=Shape("round", 60.0, 60.0), across_mm=62.0, down_mm=62.0, **page)

    for name in ("Old reel", "Reel"):
        on = packing_services.keep_label_sheet(user, sheet=sheet(name))
        finish = {"position": 0, "sheet": on.slug, "count": 2, "naming": "common"}
        packing_services.print_labels(user, pour, name=f"Hand salve on {name}", **finish)
        if name == "Old reel":
            packing_services.drop_label_sheet(user, on)
    for _ in range(2):
        gone = packing_services.send_pieces(
            user, pour, position=0, went="given", count=1, on=DAY, who="bow"
        )
    packing_services.undo_piece(user, gone)


def _series(user: User) -> None:
    version = draft(salve(user, "Series salve"))
    pours.start_series(
        user,
        version,
        variants=[Variant(), Variant(cooling="slow_bench")],
        varies="cooling",
        sample_g=Decimal(12),
        container=container_for(user, "tin_2oz"),
        scales=[Scale("kitchen", Decimal("0.1"), Decimal(2000))],
    )


def _rehearsals(user: User) -> None:
    version = draft(salve(user, "Rehearsed salve"))
    for _ in range(2):
        rehearsal = pours.rehearse(
            user, version, plan_for(user, version), scale_step_g=Decimal("0.1"), seed=1
        )
        pours.act_at_stove(user, rehearsal, kind="tare")
    pours.delete_rehearsal(user, rehearsal)


def _tincture(user: User) -> None:
    lines = [("beeswax_yellow", Decimal(20)), ("olive_oil", Decimal(70)), ("alcohol_tincture", Decimal(10))]
    pour = pour_of(user, draft(salve(user, "Tincture salve", lines)), acknowledged=True)
    pours.choose_melting(user, pour, melting="together")
    pours.weigh_pot(user, pour, grams=Decimal("30.4"))
