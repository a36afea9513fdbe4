"""Import a records file: add new rows, leave existing ones unchanged, duplicate nothing."""

from __future__ import annotations

import logging
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from itertools import compress
from typing import IO, Any

from django.core.exceptions import ValidationError
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import IntegrityError, transaction
from django.db.models import Count, Max, QuerySet
from django.utils.translation import gettext

from calmtin.accounts.models import Bench, User
from calmtin.common.photos import kept_as_sent
from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.exchange.models import Carried
from calmtin.exchange.records.archive import Archive, BadRecords, open_records
from calmtin.exchange.records.import_holder import dismiss, hand_over, hire
from calmtin.exchange.records.rows import Keys, read_value, rows_of
from calmtin.exchange.records.staging import Staged, add_bit_by_bit, numbers, without_lock
from calmtin.exchange.records.tables import MATERIALS, TABLE_NAMED, TABLES, Table
from calmtin.formulas.models import Formula, Version
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot, OwnBlend, OwnMaterial
from calmtin.pours.models import Pour

log = logging.getLogger("calmtin")

FIRST_CODE_CHARS = 6
RENAMED_SHOWN = 12  # new names that are listed


@dataclass
class Report:
    """The result of an import: added, known, differing and skipped rows, and new names."""

    added: Counter[str] = field(default_factory=Counter)
    known: int = 0
    differ: Counter[str] = field(default_factory=Counter)
    left: int = 0
    renamed: list[tuple[str, str]] = field(default_factory=list)

    @property
    def words(self) -> str:
        """The result in words."""
        if not self.added:
            return gettext("Everything in this file is already here. Nothing was changed.")
        told = [_counted(n, name) for name, n in self.added.items() if name in SAID]
        rest = sum(n for name, n in self.added.items() if name not in SAID)
        told += [_counted(rest, gettext("other records"))] if rest else []
        return f"{', '.join(told)}."

    @property
    def renamed_shown(self) -> list[tuple[str, str]]:
        """The first of the new names."""
        return self.renamed[:RENAMED_SHOWN]

    @property
    def renamed_more(self) -> int:
        """How many further ones there are."""
        return max(0, len(self.renamed) - RENAMED_SHOWN)

    @property
    def differing(self) -> str:
        """The existing rows that differ from the file, in words."""
        return ", ".join(_counted(n, name) for name, n in self.differ.items())


SAID = ("formulas", "versions", "lots", "pours", "checks", "photos")


def _counted(n: int, name: str) -> str:
    """Return how many rows of a table, as a maker calls them: "1 check", "12 weigh ins"."""
    words = {"photos": "pictures"}.get(name, name.replace("_", " "))
    return f"{n} {words if n != 1 else words.removesuffix('s')}"


def import_records(user: Any, file: IO[bytes], *, only_look: bool = False) -> Report:
    """Take in everything of a file of records that is not here yet, all or nothing.

    What is here already stays as it is, also where the file tells otherwise. With `only_look` all of
    it is tried and nothing kept. Raises `BadRecords` where the file is not sound, and then nothing
    was changed.
    """
    archive = open_records(file)
    coming = RecordsImport(user, archive)
    is_kept = False
    try:
        coming.make()
        if not only_look:
            coming.say_keys()
        coming.bring()
        with transaction.atomic():
            coming.take_over()
            if only_look:
                transaction.set_rollback(True)
        is_kept = not only_look
    except BadRecords:
        raise
    except CalmTinError as refused:
        raise BadRecords(str(refused)) from None
    except (IntegrityError, ValidationError, ValueError, ArithmeticError, LookupError) as error:
        log.warning("a file of records was refused: %s", type(error).__name__)
        raise BadRecords(
            gettext(
                "Its rows contradict each other or your records. Export everything again from the "
                "other bench."
            )
        ) from None
    finally:
        coming.clear_away(is_kept=is_kept)
    return coming.report


def _bench_as_it_is(user: Any) -> list[tuple[int, int | None]]:
    """Return a fingerprint of a bench that changes when rows are added: counts and newest keys."""
    told = (table.model.every().of(user).aggregate(n=Count("pk"), newest=Max("pk")) for table in TABLES)
    return [(each["n"], each["newest"]) for each in told]


class RecordsImport:
    """A file on its way in.

    All of it is read, made and laid ready first, which takes long and holds nobody up. While a row is
    written, other makers wait. So the keys go in bit by bit: a key whose row never came is no key, and
    the next file with it replaces it. Then the rows, bit by bit too, under a porter. At last the bench
    gets them all at once, with the rows that hang on what is here already.
    """

    def __init__(self, user: Any, archive: Archive) -> None:
        self.user, self.archive = user, archive
        self.keys: Keys | None = None
        self.report = Report()
        self.rows: dict[tuple[str, str], int] = {}  # by table and key: the row here
        self.new: dict[tuple[str, str], Any] = {}
        self.left: set[tuple[str, str]] = set()  # part of something that is here already
        self.materials: dict[str, str] = {}
        self.stored: list[str] = []
        self.carried: list[Carried] = []
        self.names: dict[Any, set[Any]] = {}  # that are taken here, by kind
        self.natures: dict[tuple[Any, ...], int] = {}  # new rows that are known by their nature
        self.before: list[tuple[int, int | None]] = []
        self.numbers: Iterator[int] = iter(())
        self.going_on: list[tuple[Table, list[Any], Mapping[str, Any]]] = []
        self.porter: User | None = None
        self.hanging: set[tuple[str, str]] = set()  # new rows that hang on what is here already
        self.staged: list[Staged] = []
        self.staged_hanging: list[Staged] = []
        self.staged_later: list[Staged] = []
        self.staged_keys: Staged | None = None
        self.keys_said = 0

    def make(self) -> None:
        """Create the new rows in the order of the tables, with their future keys, in staging."""
        self.keys = Keys(self.user)
        self.before = _bench_as_it_is(self.user)
        for table in TABLES:
            self._table(table)
        of_table: dict[tuple[str, bool], list[Any]] = defaultdict(list)
        for place, row in self.new.items():
            of_table[place[0], place in self.hanging].append(row)
        self._may_go_on()
        # Those that come from one bench stand beside each other, which is quicker to write.
        self.carried.sort(key=lambda carried: (carried.table, carried.key))
        mine = numbers(Carried._meta.db_table, len(self.carried))
        for carried in self.carried:
            carried.pk = next(mine)
        with without_lock():
            for (name, is_hanging), rows in of_table.items():
                where, what = (self.staged_hanging, "hanging") if is_hanging else (self.staged, "coming")
                where.append(Staged.lay(f"{what}_{name}", rows))
            for table in TABLES:
                self._later(table)
            if self.carried:
                self.staged_keys = Staged.lay("coming_keys", self.carried)

    def say_keys(self) -> None:
        """Write which row will have which key."""
        if self.staged_keys is not None:
            add_bit_by_bit([self.staged_keys], replace=True)
            self.keys_said = len(self.carried)

    def bring(self) -> None:
        """Write the independent rows under the import holder."""
        add_bit_by_bit(self.staged)

    def take_over(self) -> None:
        """Hand the imported rows over to the bench and update the existing ones."""
        if _bench_as_it_is(self.user) != self.before or self._my_keys().count() != self.keys_said:
            raise BadRecords(
                gettext("Your records changed while the file was being read. Send the file again.")
            )
        self._settings()
        for staged in self.staged_hanging:
            staged.add()
        for staged in self.staged_later:
            staged.change()
        if self.porter is not None:
            hand_over(self.porter, self.user)
        for table, columns, row in self.going_on:
            self._catch_up(table, columns, row)
        # What cannot be reckoned with is not taken in.
        shelf_for(User.objects.get(pk=self.user.pk))

    def clear_away(self, *, is_kept: bool) -> None:
        """Remove the staged rows, and everything written of a file that was not imported."""
        keys = filter(None, [self.staged_keys])
        for staged in (*self.staged, *self.staged_hanging, *self.staged_later, *keys):
            staged.drop()
        if self.porter is not None:
            dismiss(self.porter)
        if not is_kept:
            for name in self.stored:
                default_storage.delete(name)
            self._my_keys().delete()

    def _my_keys(self) -> QuerySet[Carried]:
        """Return the keys of this file that are written; another one of the same rows replaces them."""
        if self.staged_keys is None:
            return Carried.objects.none()
        return Carried.objects.filter(pk__range=(self.staged_keys.first, self.staged_keys.last))

    def _settings(self) -> None:
        """Set a bench up as the other one was, where nothing was made at it yet."""
        is_fresh = not Formula.objects.of(self.user).exists() and not Lot.objects.of(self.user).exists()
        if not is_fresh:
            return
        bench = Bench.objects.get_or_create(user=self.user)[0]
        for name, value in self.archive.settings.items():
            column: Any = Bench._meta.get_field(name)
            is_empty = value in (None, "") and (column.null or column.empty_strings_allowed)
            setattr(bench, name, value if is_empty else column.clean(value, bench))
        bench.save()

    def _table(self, table: Table) -> None:
        told = self.archive.rows[table.name]
        if table.name == "withdrawals":
            told = self._withdrawals_of_new_rows(told)
        known = self._known(table, [row["_key"] for row in told])
        if len(known) < len(told):
            self.numbers = numbers(table.model._meta.db_table, len(told) - len(known))
        if known:
            self._compare(table, told, known)
        for row in told:
            if row["_key"] in known:
                self.rows[table.name, row["_key"]] = known[row["_key"]]
            elif self._comes_with_what_is_here(table, row):
                self.left.add((table.name, row["_key"]))
                self.report.left += 1
            else:
                self._add(table, row)

    def _withdrawals_of_new_rows(self, told: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Return the withdrawals that a new row refers to; those of known rows are here already."""
        wanted: set[str | None] = set()
        for name in ("weigh_ins", "finish_weigh_ins", "additions", "movements"):
            rows = self.archive.rows[name]
            known = self._known(TABLE_NAMED[name], [row["_key"] for row in rows])
            wanted.update(row["withdrawal"] for row in rows if row["_key"] not in known)
        known = self._known(TABLE_NAMED["withdrawals"], [row["_key"] for row in told])
        return [row for row in told if row["_key"] in wanted or row["_key"] in known]

    def _known(self, table: Table, keys: list[str]) -> dict[str, int]:
        """Return which rows of a table are here, by key."""
        assert self.keys is not None
        maybe = {key: row for key in keys if (row := self.keys.row_of(table.name, key)) is not None}
        here = set(table.model.every().of(self.user).values_list("pk", flat=True)) if maybe else set()
        return {key: row for key, row in maybe.items() if row in here}

    def _compare(self, table: Table, told: list[dict[str, Any]], known: Mapping[str, int]) -> None:
        """Count the known rows, and those that differ from the file."""
        assert self.keys is not None
        here = {row["_key"]: row for row in rows_of(self.user, table, self.keys, set(known.values()))}
        for row in told:
            if row["_key"] in known:
                self.report.known += 1
                if here.get(row["_key"]) != row:
                    self.report.differ[table.name] += 1

    def _comes_with_what_is_here(self, table: Table, row: Mapping[str, Any]) -> bool:
        """Whether a row depends on an existing one that changes only as a whole, or was skipped."""
        for name, target in self._targets(table, row):
            if target in self.left:
                return True
            if name == table.part_of and target not in self.new:
                self._find(*target)
                return True
        return False

    def _targets(self, table: Table, row: Mapping[str, Any]) -> Iterator[tuple[str, tuple[str, str]]]:
        """Yield the rows that a row depends on from the start, with their columns."""
        for name, of in table.hangs_on:
            if row[name] is not None:
                yield name, (of, row[name])

    def _find(self, table: str, key: str) -> int:
        """Return the existing row with a key; raises `BadRecords` if there is none."""
        found = self.rows.get((table, key))
        if found is None:
            raise BadRecords(
                said(
                    "It refers to {table} {key}, which is not in it.",
                    table=table.replace("_", " "),
                    key=key,
                )
            )
        return found

    def _add(self, table: Table, row: Mapping[str, Any]) -> None:
        """Add a row, unless one that is the same by its nature is here."""
        place = table.name, row["_key"]
        values: dict[str, Any] = {}
        for column in table.fields:
            value = None if column.name in table.later else row[column.name]
            values[column.attname] = read_value(column, value, self._find)
        self._materials(table, values)
        nature = self._nature(table, values)
        same = self._same(table, nature) if nature else None
        if same is not None:
            self._learn(table, row["_key"], same)
            self.report.known += 1
            return
        self._rename(table, values)
        if table.name == "photos":
            values["image"] = self._store(row["image"])
        targets = [target for _, target in self._targets(table, row)]
        if any(target not in self.new or target in self.hanging for target in targets):
            self.hanging.add(place)
        if table.model.OWNER_PATH == "owner":
            values["owner_id"] = self.user.pk if place in self.hanging else self._porter()
        made: Any = table.model(**values)
        made.pk = next(self.numbers)
        for column in table.fields:
            if not column.is_relation and values[column.attname] not in column.empty_values:
                column.run_validators(values[column.attname])
        self._learn(table, row["_key"], made.pk)
        self.new[place] = made
        if nature:
            self.natures[nature] = made.pk
        self.report.added[table.name] += 1

    def _porter(self) -> int:
        if self.porter is None:
            self.porter = hire()
        return int(self.porter.pk)

    def _learn(self, table: Table, key: str, row: int) -> None:
        assert self.keys is not None
        self.rows[table.name, key] = row
        self.keys.learn(table.name, key, row)
        self.carried.append(Carried(owner=self.user, table=table.name, key=key, row=row))

    def _nature(self, table: Table, values: Mapping[str, Any]) -> tuple[Any, ...]:
        """Return what identifies a row beyond its key, such as a scale's name; usually nothing."""
        names = {f.name: f.attname for f in table.fields}
        told = ((names[name], values[names[name]]) for name in table.natural)
        return (table.name, *told) if table.natural else ()

    def _same(self, table: Table, nature: tuple[Any, ...]) -> int | None:
        """Return a row, here or new, that is the same by its nature."""
        if nature in self.natures:
            return self.natures[nature]
        nothing = {f"{name}__isnull": True for name, value in nature[1:] if value is None}
        asked = {name: value for name, value in nature[1:] if value is not None}
        found = table.model.every().of(self.user).filter(**asked, **nothing).first()
        return None if found is None else found.pk

    def _materials(self, table: Table, values: dict[str, Any]) -> None:
        """Translate material slugs to this bench's; raises `BadRecords` for an unknown one."""
        for name in MATERIALS & values.keys():
            values[name] = self._material(values[name])
        if table.name == "own_materials" and values["behaves_like"] not in library():
            raise BadRecords(
                said(
                    "{name} behaves like {model}, which is not a known material.",
                    name=values["name"],
                    model=values["behaves_like"],
                )
            )
        if table.name == "own_blends":
            values["parts"] = [[self._material(slug), percent] for slug, percent in values["parts"]]
        if table.name == "reactions":
            values["suspects"] = [self._material(slug) for slug in values["suspects"]]
        if table.name == "closings":
            values["materials"] = {self._material(slug): told for slug, told in values["materials"].items()}
        if table.name == "steps":
            for line in values["state"]["lines"]:
                line["material"] = self._material(line["material"])

    def _material(self, slug: Any) -> str:
        found = self.materials.get(slug, slug)
        if not isinstance(found, str) or (found not in library() and slug not in self.materials):
            raise BadRecords(said("It contains an unknown material: {slug}.", slug=str(slug)[:60]))
        return found

    def _rename(self, table: Table, values: dict[str, Any]) -> None:
        """Give a row a name of its own where its name is taken here by something else."""
        if table.name in ("own_materials", "own_blends"):
            slug = values["slug"]
            values["slug"] = self.materials[slug] = self._claim("materials", slug, 56)
        elif table.name == "formulas" and values["code"]:
            values["code"] = self._claim("formulas", values["code"], FIRST_CODE_CHARS)
        elif table.name == "versions":
            told = values["number"]
            taken = self._names(("versions", values["formula_id"]))
            values["number"] = next(n for n in range(told, 2**31) if n not in taken)
            taken.add(values["number"])
            if values["number"] != told:
                self.report.renamed.append(
                    (
                        said("version {number}", number=told),
                        said("version {number}", number=values["number"]),
                    )
                )
        elif table.name == "pours":
            told_code = values["code"]
            values["code"] = self._claim("pours", told_code, 11)
            if values["code"] != told_code:
                self.report.renamed.append((told_code, values["code"]))

    def _claim(self, what: str, name: str, most: int) -> str:
        """Return a name that nothing here has, and take it: as it is, or with a number after it."""
        taken = self._names(what)
        free = name
        if name in taken:
            free = next(n for k in range(2, 10_000) if (n := f"{name[:most]}_{k}") not in taken)
        taken.add(free)
        return free

    def _names(self, what: Any) -> set[Any]:
        """Return the names of a kind that are taken here; read once, and kept up as rows are added."""
        if what not in self.names:
            self.names[what] = self._read_names(what)
        return self.names[what]

    def _read_names(self, what: Any) -> set[Any]:
        if what == "materials":
            own = OwnMaterial.every().of(self.user).values_list("slug", flat=True)
            return {*own, *OwnBlend.objects.of(self.user).values_list("slug", flat=True), *library()}
        if what == "formulas":
            return set(Formula.objects.of(self.user).values_list("code", flat=True))
        if what == "pours":
            return set(Pour.every().of(self.user).values_list("code", flat=True))
        return set(Version.objects.filter(formula=what[1]).values_list("number", flat=True))

    def _store(self, name: str) -> str:
        """Store a picture, re-encoded if it was not made by Calm Tin."""
        sent = kept_as_sent(self.archive.photos[name])
        stored = default_storage.save(f"checks/in/{name.removeprefix('photos/')}", ContentFile(sent))
        self.stored.append(stored)
        return stored

    def _later(self, table: Table) -> None:
        """Set the columns that depend on other rows: parents, and that a version was poured."""
        columns = [column for column in table.fields if column.name in table.later]
        told = []
        for row in self.archive.rows[table.name] if columns else ():
            made = self.new.get((table.name, row["_key"]))
            if made is not None and any(row[column.name] is not None for column in columns):
                for column in columns:
                    setattr(made, column.attname, read_value(column, row[column.name], self._find))
                told.append(made)
        if told:
            self.staged_later.append(Staged.lay(f"later_{table.name}", told, columns))

    def _may_go_on(self) -> None:
        """Find open rows that the file knows as finished: poured, opened, strained."""
        for table in TABLES:
            columns = [column for column in table.fields if column.name in table.goes_on]
            if not columns:
                continue
            kept = table.model.every().of(self.user).values_list("pk", *(c.attname for c in columns))
            is_open = {pk: [value in (None, "") for value in values] for pk, *values in kept}
            for row in self.archive.rows[table.name]:
                here = is_open.get(self.rows.get((table.name, row["_key"]), 0), ())
                if any(row[column.name] not in (None, "") for column in compress(columns, here)):
                    self.going_on.append((table, columns, row))

    def _catch_up(self, table: Table, columns: list[Any], row: Mapping[str, Any]) -> None:
        here = table.model.every().of(self.user).get(pk=self.rows[table.name, row["_key"]])
        if isinstance(here, Pour) and not here.is_weighing:
            return  # it was closed here in its own way
        told = {
            column.attname: read_value(column, row[column.name], self._find)
            for column in columns
            if getattr(here, column.attname) in (None, "") and row[column.name] not in (None, "")
        }
        if not told:
            return
        if table.name == "versions" and "poured_at" in told:
            self._refuse_other_lines(row, here)
        table.model.every().filter(pk=here.pk).update(**told)
        self.report.added[f"{table.name}, gone on"] += 1

    def _refuse_other_lines(self, row: Mapping[str, Any], here: Any) -> None:
        """Refuse to close a draft here that is another than the one that was poured."""
        there = sorted(
            (line["material"], line["percent"])
            for line in self.archive.rows["lines"]
            if line["version"] == row["_key"]
        )
        mine = sorted((line.material, f"{line.percent:f}") for line in here.lines.all())
        if [(self.materials.get(slug, slug), percent) for slug, percent in there] != mine:
            raise BadRecords(
                said(
                    "Version {number} of {formula} was poured there and changed here since. Start a "
                    "new version here from it and set this one back to what was poured.",
                    number=here.number,
                    formula=here.formula,
                )
            )
