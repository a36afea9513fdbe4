"""From a pour to what its labels say, and from a print on record back to the very labels."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any, cast

from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.core.containers import container_kind
from calmtin.core.data.loader import scent_facts
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf, percents_of, pure
from calmtin.core.packing.ingredients import Ingredients, ingredients_of
from calmtin.core.packing.label import (
    LabelText,
    Naming,
    cautions_of,
    contains_of,
    ingredients_in,
    net_weight,
)
from calmtin.core.packing.layout import Fitted, Shape, Sheet, fit, plain_sheets
from calmtin.core.packing.pieces import weigh_up
from calmtin.core.process.fill import Container
from calmtin.pantry.adapters import containers_for
from calmtin.pictures.labels import Page, label_type, pages_of
from calmtin.pours.adapters.closed import container_at
from calmtin.pours.adapters.pot import dry_parts, keeping_of, newest_yield, weights_of
from calmtin.pours.models import LabelPrint, LabelSheet, PieceGone, Pour


@dataclass(frozen=True)
class Filled:
    """Filled pieces of one kind: count, net weight of one, and whether it was weighed.

    `light` are too light for what was planned; they are set aside.
    """

    position: int
    container: Container | None
    name: str
    finish: str
    count: int
    net_g: float
    weighed: int
    light: tuple[float, ...]

    @property
    def kind(self) -> str:
        """What kind of container it is; a name that no list has any more is a plain one."""
        return self.container.kind if self.container else ""


def filled_of(pour: Pour) -> list[Filled]:
    """Return the filled pieces by kind; planned figures where nothing was counted or weighed."""
    known = containers_for(pour.owner)
    given = newest_yield(pour)
    weighed = weights_of(given) if given else {}
    counts = {place: int(count) for place, count in given.counts} if given else {}
    found: list[Filled] = []
    for f in pour.fillings.all():
        weights, planned = weighed.get(f.position, []), float(f.each_g)
        light = weigh_up(weights, planned).light if weights else ()
        found.append(
            Filled(
                f.position,
                container_at(pour, len(found), known.get(f.container_slug)),
                f.container_name,
                f.finish,
                counts.get(f.position, f.count),
                net_weight(weights, light, planned),
                len(weights),
                light,
            )
        )
    if not found:  # poured before a plan had several kinds
        each = float(pour.batch_g) * (1.0 - pour.loss) / pour.count
        container = container_at(pour, 0, known.get(pour.container_slug))
        found.append(Filled(0, container, pour.container_name, "", pour.count, each, 0, ()))
    return found


def filled_at(pour: Pour, position: int) -> Filled:
    """Return the pieces of one filling of a pour that was made, or refuse with `CalmTinError`."""
    if pour.is_weighing or pour.called_off_at is not None:
        raise CalmTinError(gettext("Finish the pour before you record pieces."), field="position")
    found = next((filled for filled in filled_of(pour) if filled.position == position), None)
    if found is None:
        raise CalmTinError(gettext("Choose a kind of piece."), field="position")
    return found


def standing(pour: Pour) -> list[PieceGone]:
    """Return the entries of where a pour's pieces went that were not taken back, oldest first."""
    gone = list(pour.pieces_gone.all())
    undone = {entry.undoes_id for entry in gone if entry.undoes_id is not None}
    return [entry for entry in gone if entry.undoes_id is None and entry.pk not in undone]


def parts_by_finish(pour: Pour, shelf: Shelf) -> dict[str, list[tuple[Material, float]]]:
    """Return what the products of a pour are made of, by finish, or the plain pot."""
    base = dry_parts(pour, shelf)
    whole = sum(grams for _, grams in base) or 1.0
    on_top: dict[str, list[tuple[Material, float]]] = {f.finish: [] for f in pour.fillings.all()}
    for part in pour.finish_parts.all():
        share = whole * float(part.percent) / 100.0
        on_top.setdefault(part.finish, []).append((shelf[part.material], share))
    return {finish: [*base, *parts] for finish, parts in (on_top or {"": []}).items()}


def ingredients_by_finish(pour: Pour, shelf: Shelf) -> dict[str, Ingredients]:
    """Return the ingredients of the products of a pour, by finish."""
    facts = scent_facts()
    return {name: ingredients_of(parts, facts) for name, parts in parts_by_finish(pour, shelf).items()}


def label_text(
    pour: Pour, shelf: Shelf, bench: Bench, filled: Filled, *, name: str, use: str, note: str, naming: str
) -> tuple[LabelText, tuple[Material, ...]]:
    """Return all that the labels of some pieces of a pour say; the words are the maker's own.

    Beside it stand the materials of which only the bottle says what is in them.
    """
    parts = parts_by_finish(pour, shelf)[filled.finish]
    inside = percents_of(pure(parts))
    told = ingredients_of(parts, scent_facts())
    keeping = keeping_of(pour, shelf)
    text = LabelText(
        name=name,
        maker=bench.label_maker,
        place=bench.label_place,
        net_g=filled.net_g,
        ingredients=ingredients_in(told, cast(Naming, naming)),
        allergens=told.allergens,
        contains=contains_of(inside),
        cautions=cautions_of(inside, pour.version.formula.audience, scent_facts()),
        use=use,
        note=note,
        code=pour.code,
        best_before=keeping.best_before if keeping else None,
        opened_months=keeping.opened_months if keeping else None,
    )
    return text, told.unclear


def sheets_for(user: Any) -> dict[str, Sheet]:
    """Return the sheets that a maker can print on, their own first, by slug."""
    own = {row.slug: row.sheet for row in LabelSheet.objects.of(user)}
    return own | plain_sheets()


def sheet_named(user: Any, slug: str) -> Sheet:
    """Return one sheet by its slug, or refuse with `CalmTinError`."""
    try:
        return sheets_for(user)[slug]
    except KeyError:
        raise CalmTinError(gettext("Choose a sheet from the list."), field="sheet") from None


def usual_sheet(filled: Filled, bench: Bench) -> str:
    """Return the slug of the plain sheet that suits a container; Letter where degrees are Fahrenheit."""
    page = "letter" if bench.temperature_unit == Bench.TemperatureUnit.FAHRENHEIT else "a4"
    volume = filled.container.volume_ml if filled.container else 30.0
    label = container_kind(filled.kind).label
    if label == "wrap":
        return f"{page}-wrap-56x45" if volume <= 10.0 else f"{page}-wrap-90x45"
    if label == "rectangle":
        return f"{page}-rectangle-64x34"
    width = next((w for most, w in ((8.0, 25), (20.0, 40), (60.0, 50)) if volume <= most), 60)
    return f"{page}-round-{width}x{width}"


def text_json(text: LabelText) -> dict[str, Any]:
    """Return what a label says as it is kept on record."""
    until = text.best_before
    return asdict(text) | {"best_before": until.isoformat() if until else None}


def sheet_json(sheet: Sheet) -> dict[str, Any]:
    """Return a sheet as it is kept on record."""
    return asdict(sheet)


def printed(row: LabelPrint) -> tuple[Sheet, Fitted, list[Page]]:
    """Return the sheet, the label and the pages of a print on record, as they were printed."""
    text, sheet = _text_from(row.text), _sheet_from(row.sheet)
    label = fit(text, sheet.shape, label_type())
    return sheet, label, pages_of(sheet, label, row.count, row.first)


def _text_from(kept: Mapping[str, Any]) -> LabelText:
    until = kept["best_before"]
    lists = {name: tuple(kept[name]) for name in ("allergens", "contains", "cautions")}
    return LabelText(**{**kept, **lists, "best_before": date.fromisoformat(until) if until else None})


def _sheet_from(kept: Mapping[str, Any]) -> Sheet:
    return Sheet(**{**kept, "shape": Shape(**kept["shape"])})
