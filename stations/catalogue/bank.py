"""The model bank: what belongs with a model, and the bank out of and into a file."""

import csv
import io
import json
import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Field

from core.buying.manifest import ManifestError, decode
from core.catalogue.assembly_text import from_data
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.intake.shots import read_shots
from core.machine.mains import read_plate
from core.machine.names import as_seen
from stations.catalogue import fit_sheets
from stations.catalogue.models import ExpectedItem, MachineModel, ModelOffers, ModelStripDown, PartSheet
from stations.catalogue.one_model import put_together
from stations.catalogue.strip_downs import keep_for_model
from stations.common.details import as_kept, names_of
from stations.common.json_text import read_json
from stations.common.refusals import Refused
from stations.common.registry import Registry
from stations.common.spreadsheet import harmless, unmarked
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require

MODEL = HistoryEntry.Subject.MODEL

MOST_MODELS = 2000
LONGEST_NAME = 60
DEAREST = 10**6


@dataclass(frozen=True)
class Expected:
    """One thing that belongs with a model, how much it matters, and what a replacement costs about."""

    name: str
    weight: int = 1
    estimate: Decimal = Decimal(0)

    def __post_init__(self) -> None:
        if not as_seen(self.name) or len(self.name) > LONGEST_NAME:
            raise ValueError(f"a thing that belongs with it has a name of 1 to {LONGEST_NAME} characters")
        if not 1 <= self.weight <= 9:
            raise ValueError(f"{self.name}: a weight from 1 to 9, not {self.weight}")
        if not (self.estimate.is_finite() and 0 <= self.estimate < DEAREST):
            raise ValueError(f"{self.name}: a replacement costs from 0 to {DEAREST - 1:,}")

    def __str__(self) -> str:
        return f"{self.weight} {self.name}" + (f" {self.estimate.normalize():f}" if self.estimate else "")


def read_expected(text: str, separator: str = "\n") -> list[Expected]:
    """Things as people list them, with their weight first and the estimate last: "4 keyboard 25". ValueError names
    the line that can't be read."""
    found: list[Expected] = []
    for number, line in enumerate(text.split(separator), 1):
        words = line.split()
        if not words:
            continue
        estimate = Decimal(0)
        if len(words) > 2 and words[-1].replace(".", "", 1).isdecimal():
            estimate = Decimal(words.pop())
        weight, name = words[0], " ".join(words[1:])
        if not re.fullmatch("[1-9]", weight) or not name:
            raise ValueError(f"Line {number}: a weight from 1 to 9, then the thing, such as: 4 keyboard 25.")
        try:
            found.append(Expected(name, int(weight), estimate))
        except ValueError as problem:
            raise ValueError(f"Line {number}: {problem}.") from problem
    return each_once(found)


def each_once(things: list[Expected]) -> list[Expected]:
    """The same, when no two have the same name as it is seen; ValueError names the one that stands there twice."""
    seen: set[str] = set()
    for thing in things:
        if as_seen(thing.name) in seen:
            raise ValueError(f"{thing.name} stands there twice.")
        seen.add(as_seen(thing.name))
    return things


def expect(model: MachineModel, expected: Iterable[Expected]) -> None:
    """Put these things in the place of what belonged with the model."""
    model.expected.all().delete()
    ExpectedItem.objects.bulk_create(
        ExpectedItem(model=model, name=e.name, weight=e.weight, estimate=e.estimate) for e in expected
    )


@dataclass(frozen=True)
class ModelDetails:
    """A model as it is typed: years it was made, its size in mm, None where nobody said; what its words mean stands at
    the fields of MachineModel."""

    maker: str
    name: str
    form_factor: str
    year_from: int | None
    year_to: int | None
    width_mm: int | None
    height_mm: int | None
    depth_mm: int | None
    supply: str
    battery: str
    drives: int | None
    keeps_data: bool | None
    adapter: str
    photos_wanted: int
    shots: str
    picture_tube: bool | None
    keyboard: bool | None
    needs_cell: bool
    offers: str
    hazards: str
    in_use: bool


# What a file has of a model: all that is typed of it.
FIELDS = names_of(ModelDetails)


# Who goes by what the bank says of a model: told which it is now and what it was called, in the same transaction.
changed: Registry[Callable[[Person, MachineModel, str], None]] = Registry("who goes by the model bank")


@transaction.atomic
def change_model(
    person: Person, model: MachineModel, said: ModelDetails, expected: Sequence[Expected], together: bool = False
) -> MachineModel:
    """Put a model right; answers what it is kept as. Units that are here keep what was expected of them. One that is
    there by that name already is the same one where `together` says so: then what is of the two is of that one."""
    require(person, "change a model")
    called = MachineModel.objects.filter(maker=said.maker, name=said.name).exclude(pk=model.pk)
    pks = sorted([model.pk, *called.values_list("pk", flat=True)])
    held = {row.pk: row for row in MachineModel.objects.select_for_update().filter(pk__in=pks).order_by("pk")}
    if model.pk not in held:
        raise Refused("Somebody put it together with another one meanwhile.")
    model = held.pop(model.pk)
    was, other = str(model), next(iter(held.values()), None)
    if other is not None:
        if not together:
            raise Refused(f"There is a {other} already. Tick the box if they are the same.", "together")
        put_together(model, other, said)
        history.record(person, "catalogue.change_model", MODEL, other.pk, f"{was} put together with {other}")
    else:
        history.changed(person, "catalogue.change_model", MODEL, model.pk, was, model, vars(said))
        things = ", ".join(map(str, expected))
        if things != (before := ", ".join(map(str, _expected_of(model)))):
            words = f"{was}, what belongs with it: {things or 'nothing'}; before: {before or 'nothing'}"
            history.record(person, "catalogue.change_model", MODEL, model.pk, words)
        MachineModel.objects.filter(pk=model.pk).update(**vars(said))
        expect(model, expected)
    kept = MachineModel.objects.get(pk=(other or model).pk)
    for told in changed.values():
        told(person, kept, was)
    return kept


def _expected_of(model: MachineModel) -> list[Expected]:
    return [Expected(e.name, e.weight, e.estimate) for e in model.expected.all()]


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


PART_FIELDS = ("name", "needs")


def part_cells() -> Iterator[tuple[str, str]]:
    """One row a part; what it needs in one cell, as JSON."""
    return ((sheet.name, _json(sheet.needs)) for sheet in PartSheet.objects.iterator(chunk_size=500))


def parts_json() -> str:
    rows = [{"name": sheet.name, "needs": sheet.needs} for sheet in PartSheet.objects.all()]
    return json.dumps({"parts": rows}, ensure_ascii=False, indent=1)


def import_parts(person: Person, data: bytes) -> tuple[int, int]:
    """Sheets of parts from a CSV or JSON file: all of them or none. Answers (new, put right)."""
    require(person, "say what a part needs")
    return _all_or_none(person, data, "parts")


def import_models(person: Person, data: bytes) -> tuple[int, int]:
    """Models from a CSV or JSON file: all of them or none. Answers (new, put right).

    A model that is in the bank already, by maker and name, is put right. Raises Refused naming the first
    model that can't be taken, and what is wrong with it.
    """
    require(person, "import models")
    return _all_or_none(person, data, "models")


@dataclass(frozen=True)
class BankRow:
    """One of a file, by its place in it: whether it would be new, or why it can't be taken."""

    number: int
    name: str
    new: bool = False
    wrong: str = ""


@transaction.atomic
def look_through(person: Person, data: bytes, what: str) -> list[BankRow]:
    """What a file of models or parts would do, line by line; nothing is taken in."""
    require(person, MAY[what])
    found = []
    for number, row in enumerate(_read(data, what), 1):
        name = " ".join(str(row.get(part) or "") for part in ("maker", "name")).strip()
        try:
            with transaction.atomic():
                found.append(BankRow(number, name, _taken(person, row, what)))
        except Refused as problem:
            found.append(BankRow(number, name, wrong=problem.message))
    transaction.set_rollback(True)
    if not found:
        raise Refused(f"There is no {what[:-1]} in the file.", "file")
    return found


MAY = {"models": "import models", "parts": "say what a part needs"}


@transaction.atomic
def _all_or_none(person: Person, data: bytes, what: str) -> tuple[int, int]:
    new = changed = 0
    for number, row in enumerate(_read(data, what), 1):
        try:
            made = _taken(person, row, what)
        except Refused as problem:
            said = f"{what[:-1].capitalize()} {number}: {problem.message} Nothing was imported."
            raise Refused(said, "file") from problem
        new, changed = new + made, changed + (not made)
    if not new + changed:
        raise Refused(f"There is no {what[:-1]} in the file.", "file")
    return new, changed


def _taken(person: Person, row: dict, what: str) -> bool:
    """Take one in; whether it is new. Whatever is wrong with it is a Refused, in words."""
    try:
        return _take(person, row) if what == "models" else _take_part(person, row)
    except (ValueError, TypeError, KeyError, ArithmeticError) as problem:
        raise Refused(f"{problem}.") from problem
    except ValidationError as problem:
        by_field = problem.message_dict if hasattr(problem, "error_dict") else {"": problem.messages}
        words = "; ".join(f"{name}: {' '.join(texts)}".lstrip(": ") for name, texts in by_field.items())
        raise Refused(words) from problem


def _take_part(person: Person, row: dict) -> bool:
    name, needs = str(row.get("name") or ""), row.get("needs") or {}
    there = PartSheet.objects.filter(name=name).first()
    sheet = fit_sheets.read(Needs, read_json(needs) if isinstance(needs, str) else needs)
    fit_sheets.keep_needs(person, there, name, sheet, there.version if there else 0)
    return there is None


def text_of(data: bytes) -> str:
    """A file as text; Refused where it is none."""
    try:
        return decode(data)
    except ManifestError as problem:
        raise Refused(str(problem), "file") from problem


def _read(data: bytes, what: str) -> list[dict]:
    text = text_of(data)
    if text.lstrip()[:1] in {"{", "["}:
        found = read_json(text)
        found = found.get(what) if isinstance(found, dict) else found
        if not isinstance(found, list) or not all(isinstance(row, dict) for row in found):
            raise Refused(f"The file has no list of {what}.", "file")
    else:
        try:
            found = [{name: _cell(cell) for name, cell in row.items()} for row in csv.DictReader(io.StringIO(text))]
        except csv.Error as problem:
            raise Refused(f"This CSV can’t be read: {problem}.", "file") from problem
    if len(found) > MOST_MODELS:
        raise Refused(f"More than {MOST_MODELS:,} {what}. Split the file.", "file")
    return found


def _cell(cell):
    return unmarked(cell) if isinstance(cell, str) else cell


def _take(person: Person, row: dict) -> bool:
    """Store one model; whether it is new."""
    values = {name: _value(name, row[name]) for name in FIELDS if row.get(name) not in (None, "")}
    things = row.get("expected") or []
    if isinstance(things, str):
        expected = read_expected(things, "|")
    else:
        expected = each_once([_expected(thing) for thing in things])
    if not values.get("maker") or not values.get("name"):
        raise ValueError("a model has a maker and a name")
    if values.get("adapter"):
        read_plate(str(values["adapter"]))
    values["shots"] = ", ".join(read_shots(str(values.get("shots", ""))))
    known = MachineModel.objects.filter(maker=values["maker"], name=values["name"]).first()
    model, before = known or MachineModel(), as_kept(ModelDetails, known) if known else None
    for name, value in values.items():
        setattr(model, name, value)
    model.full_clean()
    model.save()
    expect(model, expected)
    if known is None or as_kept(ModelDetails, model) != before:
        history.record(
            person, "catalogue.take", MODEL, model.pk, f"{model} {'put right' if known else 'added'} from a file"
        )
    if known and as_kept(ModelDetails, model) != before:
        for told in changed.values():
            told(person, model, str(model))
    if row.get("strip_down"):
        keep_for_model(person, model, from_data(row["strip_down"]))
    if fit := row.get("fit"):
        offers = fit_sheets.read(Offers, read_json(fit) if isinstance(fit, str) else fit)
        fit_sheets.keep_offers(person, model, offers)
    return known is None


def _expected(thing: object) -> Expected:
    if not isinstance(thing, dict):
        raise ValueError("a thing that belongs with it has a name and a weight")
    return Expected(str(thing["name"]).strip(), int(thing["weight"]), Decimal(str(thing.get("estimate") or 0)))


def _value(name: str, value: object) -> object:
    field = MachineModel._meta.get_field(name)
    if not isinstance(field, Field):
        raise ValueError(f"{name} is no field of a model")
    if field.get_internal_type() == "BooleanField":
        return str(value).strip().lower() in {"true", "1", "yes"}
    return field.to_python(str(value).strip())
