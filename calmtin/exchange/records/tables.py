"""Which tables travel, in which order, and what a row of each may hold.

Every row has a key, `ORIGIN-NUMBER`: the bench that made it and its number there. It keeps the key
wherever it goes, so that nothing is ever doubled. The schemas are made from the models, so that they
cannot fall behind them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.db import models

from calmtin.accounts.models import FineScale
from calmtin.checks import models as checks
from calmtin.common.owned import Owned
from calmtin.core.cached import cached_property
from calmtin.core.process.checks import SIGNS
from calmtin.core.process.complaints import Complaint
from calmtin.core.process.heat import GRID_C
from calmtin.devices.models import Stove, StoveAct
from calmtin.formulas import models as formulas
from calmtin.formulas.services.drafts import OF_LINE, OF_VERSION
from calmtin.packing import models as packing
from calmtin.pantry import models as pantry
from calmtin.pours import models as pours

KEY = r"^[0-9a-f]{12}-[0-9]{1,18}$"
MOST_ROWS = 100_000
MOST_TEXT = 20_000


@dataclass(frozen=True)
class Table:
    """A table that travels.

    `natural` are the fields by which a row that is here already is known though it never travelled;
    rows that are `part_of` another come with it or not at all; `later` are set once all rows are in,
    `goes_on` are facts that may have come to be known elsewhere.
    """

    name: str
    model: type[Owned]
    natural: tuple[str, ...] = ()
    part_of: str = ""
    later: tuple[str, ...] = ()
    goes_on: tuple[str, ...] = ()

    @cached_property
    def fields(self) -> list[Any]:
        """The columns that travel: all but its number here and its owner."""
        owner = self.model.OWNER_PATH
        return [f for f in self.model._meta.concrete_fields if not f.primary_key and f.name != owner]

    @cached_property
    def hangs_on(self) -> list[tuple[str, str]]:
        """The foreign keys that must exist when a row is created, with their tables."""
        found = [f for f in self.fields if f.is_relation and f.name not in self.later]
        return [(f.name, TABLE_OF[f.related_model].name) for f in found]


TABLES: tuple[Table, ...] = (
    Table("fine_scales", FineScale, natural=("name",)),
    Table("own_materials", pantry.OwnMaterial),
    Table("own_figures", pantry.Override, natural=("material",)),
    Table("own_blends", pantry.OwnBlend),
    Table("containers", pantry.OwnContainer),
    Table("vessels", pantry.Vessel, natural=("name",)),
    Table("label_sheets", packing.LabelSheet, natural=("name",)),
    Table("lots", pantry.Lot, goes_on=("opened_on", "voided_at")),
    Table("infusions", pantry.Infusion, goes_on=("strained_on", "recovered_g", "lot", "deleted_at")),
    Table("renderings", pantry.Rendering, goes_on=("done_on", "clean_g", "lot", "deleted_at")),
    Table("withdrawals", pantry.Withdrawal),
    Table("making_marks", pantry.MakingMark),
    Table("corrections", pantry.Correction),
    Table("season_pairs", formulas.SeasonPair),
    Table("formulas", formulas.Formula, later=("came_from",)),
    Table(
        "versions",
        formulas.Version,
        later=("parent", "poured_at"),
        goes_on=("poured_at", "first_poured_at"),
    ),
    Table("lines", formulas.Line, part_of="version"),
    Table("steps", formulas.Step, part_of="version"),
    Table("finishes", formulas.Finish, natural=("formula", "name", "removed_at")),
    Table("finish_parts", formulas.FinishPart, part_of="finish"),
    Table("acknowledgements", formulas.Acknowledgement),
    Table("stoves", Stove),
    Table("stove_acts", StoveAct, part_of="stove"),
    Table("series", pours.Series),
    Table(
        "pours",
        pours.Pour,
        later=("poured_at", "called_off_at", "rest_of"),
        goes_on=("poured_at", "called_off_at", "called_off_why", "use_by"),
    ),
    Table("closings", pours.Closing, natural=("pour",)),
    Table("closing_lots", pours.ClosingLot, part_of="closing"),
    Table("leftovers", pours.Leftover, natural=("lot",)),
    Table("fillings", pours.PourFilling, part_of="pour"),
    Table("pour_finish_parts", pours.PourFinishPart, part_of="pour"),
    Table("weigh_lines", pours.WeighLine, part_of="pour"),
    Table("weigh_ins", pours.WeighIn),
    Table("finish_weigh_ins", pours.FinishWeighIn),
    Table("replans", pours.Replan),
    Table("additions", pours.PotAddition),
    Table("routes", pours.Route, natural=("kind", "way")),
    Table("steps_done", pours.StepDone),
    Table("timers", pours.StepTimer),
    Table("readings", pours.PotReading),
    Table("pot_weights", pours.PotWeight),
    Table("yields", pours.Yield),
    Table("checks", pours.Check),
    Table("photos", pours.CheckPhoto),
    Table("kept", pours.Kept),
    Table("left_out", pours.CheckLeftOut),
    Table("reactions", checks.Reaction, natural=("of",)),
    Table("patch_tests", checks.PatchTest),
    Table("label_texts", packing.LabelText, natural=("formula", "finish")),
    Table("label_prints", packing.LabelPrint),
    Table("pieces_gone", packing.PieceGone),
    Table("packing_items", packing.PackingItem),
    Table("packed_with", packing.PackedWith),
    Table("needs", packing.Need, goes_on=("called_off_at",)),
    Table("movements", pantry.Movement),
)
TABLE_OF: Mapping[type[models.Model], Table] = {table.model: table for table in TABLES}
TABLE_NAMED: Mapping[str, Table] = {table.name: table for table in TABLES}

# Fields that hold the name of a material, which may be the maker's own.
MATERIALS = frozenset({"material", "oil"})
_NUMBER = {"type": "string", "pattern": r"^-?[0-9]{1,14}(\.[0-9]{1,12})?$"}
_ANY = {"type": ["string", "number", "boolean", "null"], "maxLength": 2000}
_PLACE = {"type": "integer", "minimum": 0, "maximum": 32767}


def _pairs(first: Any, second: Any) -> dict[str, Any]:
    """Return the schema of a list of pairs."""
    pair = {"type": "array", "prefixItems": [first, second], "minItems": 2, "maxItems": 2}
    return {"type": "array", "items": pair, "maxItems": 500}


_STATE_LINE = {
    "type": "object",
    "properties": dict.fromkeys(OF_LINE, _ANY),
    "required": ["key", "material", "percent"],
    "additionalProperties": False,
}
_LENGTHS = ("page_w", "page_h", "left_mm", "top_mm", "across_mm", "down_mm")
_LABEL_SHEET = {
    "type": "object",
    "properties": {
        **{name: {"type": "number"} for name in _LENGTHS},
        "name": {"type": "string", "maxLength": 80},
        "columns": {"type": "integer", "minimum": 1, "maximum": 100},
        "rows": {"type": "integer", "minimum": 1, "maximum": 100},
        "shape": {
            "type": "object",
            "properties": {
                "kind": {"enum": ["round", "rectangle", "wrap"]},
                "width_mm": {"type": "number", "minimum": 5, "maximum": 500},
                "height_mm": {"type": "number", "minimum": 5, "maximum": 500},
            },
            "required": ["kind", "width_mm", "height_mm"],
            "additionalProperties": False,
        },
    },
    "additionalProperties": False,
}
_LABEL_SHEET["required"] = list(_LABEL_SHEET["properties"])  # type: ignore[call-overload]
_WORDS = {"type": "string", "maxLength": 5000}
_LISTED = {"type": "array", "items": {"type": "string", "maxLength": 200}, "maxItems": 100}
_LABEL_TEXT = {
    "type": "object",
    "properties": {
        **dict.fromkeys(("name", "maker", "place", "ingredients", "use", "note", "code"), _WORDS),
        **dict.fromkeys(("allergens", "contains", "cautions"), _LISTED),
        "net_g": {"type": "number", "minimum": 0},
        "best_before": {"type": ["string", "null"], "pattern": r"^\d{4}-\d\d-\d\d$"},
        "opened_months": {"type": ["integer", "null"], "minimum": 0, "maximum": 100},
    },
    "additionalProperties": False,
}
_LABEL_TEXT["required"] = list(_LABEL_TEXT["properties"])  # type: ignore[call-overload]
# A label that was printed before version 1.1 says none of these.
_LABEL_TEXT["properties"] |= {  # type: ignore[operator]
    **dict.fromkeys(("what", "address"), _WORDS),
    "made_on": {"type": ["string", "null"], "pattern": r"^\d{4}-\d\d-\d\d$"},
    "is_own": {"type": "boolean"},
}

_NAME = {"type": "string", "maxLength": 120}
_OWN_ROW = {"anyOf": [{"type": "null"}, {"type": "object", "maxProperties": 30}]}
_MATERIAL = {
    "type": "object",
    "properties": {
        "name": _NAME,
        "inci": {"type": "string", "maxLength": 400},
        "allergens": _LISTED,
        **dict.fromkeys(("own", "figures", "blend"), _OWN_ROW),
    },
    "additionalProperties": False,
}
_MATERIAL["required"] = list(_MATERIAL["properties"])  # type: ignore[call-overload]
_AT_PLACE = {
    "type": "object",
    "properties": {"name": _NAME, **{key: {"type": "number"} for key in ("temp_c", "rung", "low", "high")}},
    "required": ["name", "temp_c", "rung", "low", "high"],
    "additionalProperties": False,
}
_KEPT_READING = {
    "type": "object",
    "properties": {"reason": _WORDS, "places": {"type": "array", "items": _AT_PLACE, "maxItems": 10}},
    "additionalProperties": False,
}
_KEPT_CAUTION = {
    "type": "object",
    "properties": dict.fromkeys(
        ("level", "key", "material", "title", "words", "instead", "rule", "reason"), _WORDS
    ),
    "additionalProperties": False,
}
_KEPT_CAUTION["required"] = list(_KEPT_CAUTION["properties"])  # type: ignore[call-overload]
_KEPT_CONTAINER = {
    "type": "object",
    "properties": {
        "kind": _NAME,
        "volume_ml": {"type": "number", "minimum": 0},
        "price": {"anyOf": [{"type": "null"}, _NUMBER]},
    },
    "required": ["kind", "volume_ml", "price"],
    "additionalProperties": False,
}

# What the columns that hold more than one value may hold.
INSIDE: Mapping[tuple[str, str], dict[str, Any]] = {
    ("own_blends", "parts"): _pairs({"type": "string", "maxLength": 60}, {"type": "number", "minimum": 0}),
    ("stoves", "solids"): {
        "type": "array",
        "items": {"type": "number", "minimum": 0, "maximum": 1},
        "minItems": len(GRID_C),
        "maxItems": len(GRID_C),
    },
    ("reactions", "suspects"): _LISTED,
    ("series", "one_pot"): {
        "anyOf": [
            {"type": "null"},
            {
                "type": "object",
                "properties": {
                    "key": {"type": "string", "maxLength": 12},
                    "shares": {"type": "array", "items": _NUMBER, "minItems": 2, "maxItems": 20},
                    "sample_g": _NUMBER,
                    "lost_g": _NUMBER,
                },
                "required": ["key", "shares", "sample_g", "lost_g"],
                "additionalProperties": False,
            },
        ]
    },
    ("corrections", "was"): {"type": "object", "additionalProperties": _ANY, "maxProperties": 40},
    ("steps", "state"): {
        "type": "object",
        "properties": {
            **dict.fromkeys(OF_VERSION, _ANY),
            "lines": {"type": "array", "items": _STATE_LINE, "maxItems": 200},
        },
        "required": ["lines"],
        "additionalProperties": False,
    },
    ("replans", "targets"): {
        "type": "object",
        "propertyNames": {"pattern": "^[0-9]{1,5}$"},
        "additionalProperties": _NUMBER,
        "maxProperties": 200,
    },
    ("routes", "steps"): {
        "type": "array",
        "maxItems": 100,
        "items": {
            "type": "array",
            "prefixItems": [
                {"type": "string", "maxLength": 60},
                {"type": "string", "maxLength": 120},
                {"type": "boolean"},
            ],
            "minItems": 3,
            "maxItems": 3,
        },
    },
    ("yields", "pieces"): _pairs(_PLACE, {"type": "array", "items": _NUMBER, "maxItems": 500}),
    ("yields", "counts"): _pairs(_PLACE, _PLACE),
    ("checks", "press_g"): {
        "type": "array",
        "items": {"type": "number", "minimum": 0, "maximum": 1e6},
        "maxItems": 20,
    },
    ("checks", "signs"): {
        "type": "object",
        "properties": {
            slug: {"type": "integer", "minimum": 0, "maximum": len(sign.words) - 1}
            for slug, sign in SIGNS.items()
        },
        "additionalProperties": False,
    },
    ("checks", "complaints"): {
        "type": "array",
        "items": {"enum": [str(complaint) for complaint in Complaint]},
        "uniqueItems": True,
    },
    ("closings", "materials"): {
        "type": "object",
        "additionalProperties": _MATERIAL,
        "propertyNames": {"pattern": "^[a-z0-9_-]{1,60}$"},
        "maxProperties": 300,
    },
    ("closings", "planned"): _KEPT_READING,
    ("closings", "made"): _KEPT_READING,
    ("closings", "cautions"): {"type": "array", "items": _KEPT_CAUTION, "maxItems": 100},
    ("closings", "containers"): {"type": "array", "items": _KEPT_CONTAINER, "maxItems": 50},
    ("label_prints", "text"): _LABEL_TEXT,
    ("label_prints", "sheet"): _LABEL_SHEET,
}


def schema_of(table: Table) -> dict[str, Any]:
    """Return the JSON Schema (2020-12) of a table's file: a list of rows."""
    properties: dict[str, Any] = {"_key": {"type": "string", "pattern": KEY}}
    for field in table.fields:
        properties[field.name] = _schema_of_field(table, field)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Calm Tin records: {table.name}",
        "type": "array",
        "maxItems": MOST_ROWS,
        "items": {
            "type": "object",
            "properties": properties,
            "required": list(properties),
            "additionalProperties": False,
        },
    }


def _schema_of_field(table: Table, field: Any) -> dict[str, Any]:
    """Return what a column may hold."""
    told = INSIDE.get((table.name, field.name)) or _plain(field)
    if field.null:
        return {"anyOf": [told, {"type": "null"}]}
    return told


def _plain(field: Any) -> dict[str, Any]:
    """Return the schema of a column with one value."""
    if field.is_relation:
        return {"type": "string", "pattern": KEY}
    if isinstance(field, models.FileField):
        return {"type": "string", "pattern": r"^photos/[0-9a-f]{12}-[0-9]{1,18}\.jpg$"}
    if isinstance(field, models.BooleanField):
        return {"type": "boolean"}
    if isinstance(field, models.IntegerField):
        low = 0 if field.get_internal_type().startswith("Positive") else -(2**31)
        return {"type": "integer", "minimum": low, "maximum": 2**31 - 1}
    if isinstance(field, models.FloatField):
        return {"type": "number"}
    if isinstance(field, models.DecimalField):
        return _NUMBER
    if isinstance(field, models.DateTimeField):
        return {"type": "string", "format": "date-time", "maxLength": 40}
    if isinstance(field, models.DateField):
        return {"type": "string", "format": "date", "maxLength": 10}
    if field.choices:
        offered = [value for value, _ in field.flatchoices]
        return {"enum": offered if "" in offered or not field.blank else ["", *offered]}
    return {"type": "string", "maxLength": field.max_length or MOST_TEXT}
