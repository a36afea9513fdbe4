"""A pour on one page, for the folder and as JSON, with how long it keeps and why."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.checks.queries.compare import kept_of
from calmtin.core.data.marked import as_marked
from calmtin.core.engine.ladder import rung_word
from calmtin.core.materials import Material, Shelf, percents_of, pure
from calmtin.core.packing.ingredients import Ingredients, inci_names
from calmtin.core.packing.keeping import SMELLS, STORAGE_NAMES, Keeping
from calmtin.core.process.checks import in_words
from calmtin.packing.adapters import ingredients_by_finish, standing
from calmtin.packing.models import LabelPrint, PieceGone
from calmtin.pantry.models import Lot
from calmtin.pours.adapters import actual_parts, age_days, keeping_of, lots_of_pours
from calmtin.pours.adapters.closed import lots_as_closed, shelf_of
from calmtin.pours.adapters.filled import Filled, filled_of
from calmtin.pours.models import Check, Pour
from calmtin.pours.queries.record import PourView, pour_view

FORMAT, VERSION = "calmtin.pour", 1


@dataclass(frozen=True)
class CardLine:
    """A material of the pot: weight, share, and the lot most of it came from."""

    material: Material
    grams: float
    percent: float
    lot: Lot | None

    @property
    def inci(self) -> str:
        """Its INCI names, without the remarks of the tables."""
        return " (and) ".join(inci_names(self.material))


@dataclass(frozen=True)
class Card:
    """The batch card of a pour."""

    view: PourView
    lines: list[CardLine]
    inside: list[tuple[Material, float]]
    labels: list[tuple[str, Ingredients]]
    keeping: Keeping | None
    storages: list[tuple[str, str]]
    checks: list[tuple[Check, float, str, list[tuple[str, str, bool]]]]
    filled: list[Filled]
    gone: list[PieceGone]
    prints: list[LabelPrint]
    is_kept: bool
    smells: str = SMELLS


def card_of(pour: Pour, shelf: Shelf, bench: Bench) -> Card:
    """Return the batch card of a pour that was poured."""
    shelf = shelf_of(pour, shelf)
    parts = [(material, grams) for material, grams in actual_parts(pour, shelf) if grams > 0]
    percents = percents_of(parts)
    view = pour_view(pour, shelf, bench)
    lots = lots_as_closed(pour, lots_of_pours([pour], view.cost.taken).get(pour.pk, {}))
    # A leftover that went in is told as what it is made of, for whoever asks what is in a jar.
    inside = percents_of(pure(parts))
    kept = kept_of(pour.version.formula_id) if pour.kept.all() else None
    return Card(
        view=view,
        lines=[CardLine(m, grams, percents[m], lots.get(m.slug)) for m, grams in parts],
        labels=list(ingredients_by_finish(pour, shelf).items()),
        inside=sorted(inside.items(), key=lambda pair: -pair[1]) if len(inside) != len(parts) else [],
        keeping=keeping_of(pour, shelf, lots),
        storages=[(slug, name) for slug, name in STORAGE_NAMES.items()],
        checks=[
            (
                check,
                age_days(pour, check),
                "" if check.felt_rung is None else rung_word(float(check.felt_rung)),
                in_words(check.signs),
            )
            for check in pour.checks.all()
            if not check.set_test
        ],
        filled=filled_of(pour),
        gone=standing(pour),
        prints=list(pour.label_prints.all()),
        is_kept=kept is not None and kept.pour_id == pour.pk,
    )


def card_json(card: Card) -> dict[str, Any]:
    """Return the card as JSON holds it (docs/formats.md): grams, days and times in ISO 8601, degrees C."""
    pour, keeping = card.view.pour, card.keeping
    return {
        "format": FORMAT,
        "version": VERSION,
        "code": pour.code,
        "formula": {
            "name": pour.version.formula.name,
            "kind": pour.version.formula.kind,
            "version": pour.version.number,
            "cooling": pour.version.cooling,
            "whipped_pct": pour.version.overrun_pct,
        },
        "poured_at": _time(pour.poured_at),
        "called_off": pour.called_off_why or None,
        "into": [
            {"container": f.container_name, "count": f.count, "each_g": float(f.each_g), "finish": f.finish}
            for f in pour.fillings.all()
        ],
        "lines": [
            {
                "material": line.material.slug,
                "name": line.material.name,
                "inci": line.inci,
                "grams": round(line.grams, 2),
                "percent": round(line.percent, 3),
                "lot": None
                if line.lot is None
                else {
                    "number": line.lot.pk,
                    "bought_on": line.lot.bought_on.isoformat(),
                    "best_before": line.lot.best_before.isoformat() if line.lot.best_before else None,
                },
            }
            for line in card.lines
        ],
        "day": [
            {"at": _time(e.at), "what": e.what, "note": e.note, "temp_c": e.temp_c}
            for e in card.view.events
        ],
        "given": None
        if card.view.given is None
        else {"filled_g": float(card.view.given.filled_g), "left_g": float(card.view.given.left_g)},
        "keeps": None
        if keeping is None
        else {
            "best_before": keeping.best_before.isoformat(),
            "opened_months": keeping.opened_months,
            "storage": pour.storage,
            "because": [as_marked(reason) for reason in keeping.reasons],
        },
        "checks": [
            {
                "at": _time(check.made_at),
                "age_days": round(age, 2),
                "look": check.look,
                "temp_c": check.temp_c,
                "felt_rung": None if check.felt_rung is None else float(check.felt_rung),
                "press_g": check.press_g,
                "rod_mm": check.rod_mm,
                "signs": check.signs,
                "verdict": check.verdict,
                "feels": check.feels,
                "complaints": check.complaints,
                "who": check.who,
                "notes": check.notes,
            }
            for check, age, _, __ in card.checks
        ],
        "pieces": [
            {
                "container": f.name,
                "finish": f.finish,
                "count": f.count,
                "net_g": round(f.net_g, 2),
                "weighed": f.weighed,
                "light_g": list(f.light),
            }
            for f in card.filled
        ],
        "went": [
            {
                "position": entry.position,
                "went": entry.went,
                "count": entry.count,
                "who": entry.who,
                "price": None if entry.price is None else float(entry.price),
                "on": entry.on.isoformat(),
                "note": entry.note,
            }
            for entry in card.gone
        ],
        "printed": [
            {"at": _time(p.at), "count": p.count, "finish": p.finish, "text": p.text} for p in card.prints
        ],
        "labels": [
            {
                "finish": finish,
                "ingredients": [
                    {"inci": e.inci, "common": e.common, "percent": round(e.percent, 3)}
                    for e in told.listed
                ],
                "fragrance_allergens": list(told.allergens),
            }
            for finish, told in card.labels
        ],
        "kept": card.is_kept,
    }


def _time(at: Any) -> str | None:
    return None if at is None else timezone.localtime(at).isoformat(timespec="seconds")
