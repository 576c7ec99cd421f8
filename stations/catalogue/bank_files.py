"""The model bank out of and into a file, and the sheets of parts: looked at first, then all of it or nothing.

A file says what stands in it: of a model that is here, a column it does not have stays as it is, and an empty cell says
that nobody knows, or that there is none. A strip-down, and what a model offers, are put in and never taken out.
"""

import csv
import io
import json
from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal
from typing import NamedTuple

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Field

from core.buying.manifest import ManifestError, decode, read_table
from core.catalogue.assembly_text import from_data
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.intake.shots import read_shots
from core.machine.mains import read_plate
from stations.catalogue import fit_sheets
from stations.catalogue.bank import (
    FIELDS,
    MODEL,
    Expected,
    changed,
    contents_changed,
    each_once,
    expect,
    read_expected,
)
from stations.catalogue.models import MachineModel, ModelOffers, ModelStripDown, PartSheet
from stations.catalogue.strip_downs import keep_for_model
from stations.common.json_text import read_json
from stations.common.refusals import Refused
from stations.common.spreadsheet import harmless, unmarked
from stations.people import history
from stations.people.models import Person
from stations.people.permissions import require

MOST_MODELS = 2000
# Columns of a model beside its own fields, and those of a sheet of a part.
BESIDE = ("expected", "fit", "strip_down")
PART_FIELDS = ("name", "needs")
COLUMNS = {"models": (*FIELDS, *BESIDE), "parts": PART_FIELDS}
MAY = {"models": "import models", "parts": "say what a part needs"}


def rows() -> list[dict]:
    """Every model as it is exported."""
    models = MachineModel.objects.prefetch_related("expected")
    return [
        {name: getattr(model, name) for name in FIELDS}
        | {
            "expected": [
                {"name": e.name, "weight": e.weight, "estimate": f"{e.estimate:.2f}"} for e in model.expected.all()
            ]
        }
        for model in models
    ]


def as_json() -> str:
    """All of the bank; a strip-down, which no CSV has room for, is in this one only."""
    offers = _offers()
    put_together = {(s.model.maker, s.model.name): s.assemblies for s in ModelStripDown.objects.select_related("model")}
    found = rows()
    for row in found:
        if assemblies := put_together.get((row["maker"], row["name"])):
            row["strip_down"] = assemblies
        if fit := offers.get((row["maker"], row["name"])):
            row["fit"] = fit
    return json.dumps({"models": found}, ensure_ascii=False, indent=1)


def as_csv() -> str:
    """One row a model; what belongs with it in one cell, with bars between; what it offers in one, as JSON."""
    out, offers = io.StringIO(), _offers()
    writer = csv.DictWriter(out, [*FIELDS, "expected", "fit"])
    writer.writeheader()
    for row in rows():
        things = [Expected(e["name"], e["weight"], Decimal(e["estimate"])) for e in row["expected"]]
        fit = offers.get((row["maker"], row["name"]))
        cells = {**row, "expected": " | ".join(map(str, things)), "fit": _json(fit) if fit else ""}
        writer.writerow({name: harmless(cell) for name, cell in cells.items()})
    return out.getvalue()


def _offers() -> dict[tuple[str, str], dict]:
    """What is known of what models offer, by maker and name: one query."""
    rows = ModelOffers.objects.select_related("model")
    return {(row.model.maker, row.model.name): row.offers for row in rows if row.offers}


def _json(data: object) -> str:
    return json.dumps(data, ensure_ascii=False)


def part_cells() -> Iterator[tuple[str, str]]:
    """One row a part; what it needs in one cell, as JSON."""
    return ((sheet.name, _json(sheet.needs)) for sheet in PartSheet.objects.iterator(chunk_size=500))


def parts_json() -> str:
    rows = [{"name": sheet.name, "needs": sheet.needs} for sheet in PartSheet.objects.all()]
    return json.dumps({"parts": rows}, ensure_ascii=False, indent=1)


@dataclass(frozen=True)
class BankRow:
    """One of a file, by its place in it: whether it would be new, or as it is here already, or why it can't be taken;
    `unread`, what stands in it under names that nothing here has."""

    number: int
    name: str
    new: bool = False
    same: bool = False
    wrong: str = ""
    unread: tuple[str, ...] = ()


class TakenIn(NamedTuple):
    """How many of a file were new, how many were put right, and how many were here so already."""

    new: int = 0
    changed: int = 0
    same: int = 0

    def __str__(self) -> str:
        return f"{self.new} new, {self.changed} put right{f', {self.same} as they were' if self.same else ''}."


@transaction.atomic
def look_through(person: Person, data: bytes, what: str) -> list[BankRow]:
    """What a file of models or parts would do, one by one; nothing is taken in."""
    require(person, MAY[what])
    found = []
    for number, row in enumerate(_read(data, what), 1):
        name = " ".join(str(row.get(part) or "") for part in ("maker", "name")).strip()
        unread = tuple(sorted({str(column) for column in row} - {*COLUMNS[what]}))
        try:
            with transaction.atomic():
                new, same = _taken(person, row, what)
                found.append(BankRow(number, name, new, same, unread=unread))
        except Refused as problem:
            found.append(BankRow(number, name, wrong=problem.message))
    transaction.set_rollback(True)
    if not found:
        raise Refused(f"There is no {what[:-1]} in the file.", "file")
    return found


def import_parts(person: Person, data: bytes) -> TakenIn:
    """Sheets of parts from a CSV or JSON file: all of them or none."""
    require(person, "say what a part needs")
    return _all_or_none(person, data, "parts")


def import_models(person: Person, data: bytes) -> TakenIn:
    """Models from a CSV or JSON file: all of them or none.

    A model that is in the bank already, by maker and name, is put right. Raises Refused naming the first model that
    can't be taken, and what is wrong with it.
    """
    require(person, "import models")
    return _all_or_none(person, data, "models")


@transaction.atomic
def _all_or_none(person: Person, data: bytes, what: str) -> TakenIn:
    found = []
    for number, row in enumerate(_read(data, what), 1):
        try:
            found.append(_taken(person, row, what))
        except Refused as problem:
            said = f"{what[:-1].capitalize()} {number}: {problem.message} Nothing was imported."
            raise Refused(said, "file") from problem
    if not found:
        raise Refused(f"There is no {what[:-1]} in the file.", "file")
    new, same = sum(new for new, _ in found), sum(same for _, same in found)
    return TakenIn(new, len(found) - new - same, same)


def _taken(person: Person, row: dict, what: str) -> tuple[bool, bool]:
    """Take one in; whether it is new, and whether it was here so already. What is wrong is a Refused, in words."""
    try:
        return _take(person, row) if what == "models" else _take_part(person, row)
    except (ValueError, TypeError, KeyError, ArithmeticError) as problem:
        raise Refused(f"{problem}.") from problem
    except ValidationError as problem:
        by_field = problem.message_dict if hasattr(problem, "error_dict") else {"": problem.messages}
        words = "; ".join(f"{name}: {' '.join(texts)}".lstrip(": ") for name, texts in by_field.items())
        raise Refused(words) from problem


def _take_part(person: Person, row: dict) -> tuple[bool, bool]:
    name, needs = str(row.get("name") or ""), row.get("needs")
    if name and not needs:
        raise ValueError("nothing says what it is and needs")
    there = PartSheet.objects.filter(name=name).first()
    before = there.needs if there else None
    sheet = fit_sheets.read(Needs, read_json(needs) if isinstance(needs, str) else needs or {})
    kept = fit_sheets.keep_needs(person, there, name, sheet, there.version if there else 0)
    return there is None, kept.needs == before


def text_of(data: bytes) -> str:
    """A file as text; Refused where it is none."""
    try:
        return decode(data)
    except ManifestError as problem:
        raise Refused(str(problem), "file") from problem


def _read(data: bytes, what: str) -> list[dict]:
    """Each with what the file says of it, and nothing where it says nothing."""
    text = text_of(data)
    if text.lstrip()[:1] in {"{", "["}:
        found = read_json(text)
        found = found.get(what) if isinstance(found, dict) else found
        if not isinstance(found, list) or not all(isinstance(row, dict) for row in found):
            raise Refused(f"The file has no list of {what}.", "file")
    else:
        found = _table(text, what)
    if len(found) > MOST_MODELS:
        raise Refused(f"More than {MOST_MODELS:,} {what}. Split the file.", "file")
    return found


def _table(text: str, what: str) -> list[dict]:
    try:
        table = read_table(text)
    except ManifestError as problem:
        raise Refused(str(problem), "file") from problem
    # A column that nothing says the name of is not read, and that is told.
    head = [name.lower() or f"column {place}" for place, name in enumerate(table.head, 1)]
    if twice := {name for name in head if head.count(name) > 1}:
        raise Refused(f"The head names {', '.join(sorted(twice))} twice.", "file")
    found = []
    for row, line in zip(table.rows, table.numbers, strict=True):
        if any(row[len(head) :]):
            more = len(row) - len(head)
            raise Refused(f"Line {line} has {more} more cells than the head: quote what has commas in it.", "file")
        found.append({name: unmarked(cell) for name, cell in zip(head, row, strict=False)})
    return found


def _take(person: Person, row: dict) -> tuple[bool, bool]:
    """Store one model; whether it is new, and whether it was here so already."""
    maker, name = (str(row.get(one) or "").strip() for one in ("maker", "name"))
    if not maker or not name:
        raise ValueError("a model has a maker and a name")
    known = MachineModel.objects.filter(maker=maker, name=name).first()
    model, before = known or MachineModel(), _as_it_is(known) if known else None
    for field in (one for one in FIELDS if one in row):
        setattr(model, field, _value(field, row[field], getattr(model, field)))
    if model.adapter:
        read_plate(model.adapter)
    model.shots = ", ".join(read_shots(model.shots))
    model.full_clean()
    if known is None:
        model.save()
        history.record(person, "catalogue.take", MODEL, model.pk, f"{model} added from a file")
    else:
        new = {field: getattr(model, field) for field in FIELDS}
        history.changed(person, "catalogue.take", MODEL, model.pk, f"{model}, from a file", model, new)
        model.save()
    if "expected" in row:
        things = _things(row["expected"])
        if known and (words := contents_changed(model, things)):
            history.record(person, "catalogue.take", MODEL, model.pk, f"{model}, from a file, {words}")
        expect(model, things)
    if row.get("strip_down"):
        keep_for_model(person, model, from_data(row["strip_down"]))
    if fit := row.get("fit"):
        offers = fit_sheets.read(Offers, read_json(fit) if isinstance(fit, str) else fit)
        fit_sheets.keep_offers(person, model, offers)
    same = before is not None and _as_it_is(model) == before
    if known and not same:
        for told in changed.values():
            told(person, model, str(model))
    return known is None, same


def _as_it_is(model: MachineModel) -> tuple:
    """All that a file can say of it: four queries."""
    model = MachineModel.objects.get(pk=model.pk)
    return (
        [getattr(model, field) for field in FIELDS],
        list(model.expected.values_list("name", "weight", "estimate")),
        list(ModelStripDown.objects.filter(model=model).values_list("assemblies", flat=True)),
        list(ModelOffers.objects.filter(model=model).values_list("offers", flat=True)),
    )


def _things(said: object) -> list[Expected]:
    """What belongs with it: bars between in a cell, or a list."""
    if isinstance(said, str):
        return read_expected(said, "|")
    return each_once([_expected(thing) for thing in (said if isinstance(said, list) else [said] if said else [])])


def _expected(thing: object) -> Expected:
    if not isinstance(thing, dict):
        raise ValueError("a thing that belongs with it has a name and a weight")
    return Expected(str(thing["name"]).strip(), int(thing["weight"]), Decimal(str(thing.get("estimate") or 0)))


_SAID = {"true": True, "1": True, "yes": True, "false": False, "0": False, "no": False}


def _value(name: str, said: object, before: object) -> object:
    """What a cell says. An empty one says that nobody knows; what can’t be empty stays as it was."""
    field = MachineModel._meta.get_field(name)
    if not isinstance(field, Field):
        raise ValueError(f"{name} is no field of a model")
    text = "" if said is None else str(said).strip()
    if not text:
        if field.null:
            return None
        return "" if field.blank and isinstance(before, str) else before
    if field.get_internal_type() == "BooleanField":
        if text.lower() not in _SAID:
            raise ValueError(f"{name}: yes or no, not “{text[:20]}”")
        return _SAID[text.lower()]
    return field.to_python(text)
