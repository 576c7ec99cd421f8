"""The whole record of a unit as JSON, out and in; its form is published in docs/unit.schema.json."""

import json
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from functools import cache
from pathlib import Path

import jsonschema
from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Model

from core.machine.approach import Approach
from core.machine.casing import FormFactor, faces_of
from core.machine.names import as_seen
from core.machine.tags import Tag
from core.stock.parts import Condition, PartKind
from stations.buying.models import LotLine
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.common.json_text import read_json
from stations.common.refusals import Refused
from stations.intake import services
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import parts, stages
from stations.units.models import Content, Finding, OwnersTerms, Unit, UnitFact

FORMAT = "wendopolis-unit-1"
PLAIN = (
    "title",
    "form_factor",
    "serial",
    "mains",
    "mains_variant",
    "adapter_polarity",
    "supply",
    "battery",
    "picture_tube",
    "drives",
    "keyboard",
    "place",
    "approach",
    "approach_reason",
    "holding",
    "owner_name",
    "data_on_board",
    "data_note",
    "data_keep",
    "path",
    "path_reason",
)
DECIMALS = ("adapter_volts", "adapter_amps")
AGREED = ("agreement", "refused_work")
EARLIEST = datetime(1970, 1, 1, tzinfo=UTC)
MOST_BYTES = 2 * 1024 * 1024


@cache
def schema() -> dict:
    return json.loads((Path(settings.ROOT) / "docs" / "unit.schema.json").read_text(encoding="utf-8"))


def export(unit: Unit) -> dict:
    """Everything intake knows of a unit. Photos are named, not carried."""
    record: dict[str, object] = {
        "format": FORMAT,
        "tag": str(unit.tag),
        "lot": unit.lot.code,
        "line": unit.line.description,
    }
    record |= {name: getattr(unit, name) for name in PLAIN}
    record |= {name: None if getattr(unit, name) is None else str(getattr(unit, name)) for name in DECIMALS}
    agreed = unit.agreed
    record |= {name: getattr(agreed, name) for name in AGREED} | {"commission_percent": str(agreed.commission_percent)}
    record["model"] = {"maker": unit.model.maker, "name": unit.model.name} if unit.model else None
    record["received_at"] = unit.received_at.isoformat()
    record["stage"] = unit.stage
    record["contents"] = [
        {
            "name": c.name,
            "weight": c.weight,
            "presence": c.presence,
            "estimate": str(c.estimate),
            "done_without": c.done_without,
        }
        for c in unit.contents.all()
    ]
    record["parts"] = [
        {
            "kind": p.kind,
            "name": p.name,
            "serial": p.serial,
            "revision": p.revision,
            "slot": p.slot,
            "setting": p.setting,
            "condition": p.condition,
            "worth": None if p.worth is None else str(p.worth),
            "original": p.original,
            "keeps_data": p.keeps_data,
            "doubt": p.doubt,
        }
        for p in unit.parts.all()
    ]
    record["findings"] = [
        {
            "face": f.face,
            "x": f.x,
            "y": f.y,
            "kind": f.kind,
            "severity": f.severity,
            "extent_percent": f.extent_percent,
            "extent_mm": f.extent_mm,
            "words": f.words,
            "status": f.status,
            "seen_at": f.seen_at.isoformat(),
        }
        for f in unit.findings.all()
    ]
    record["facts"] = [
        {
            "kind": f.kind,
            "on_what": f.on_what,
            "typed": f.typed,
            "reading": f.reading,
            "dated": f.dated.isoformat() if f.dated else None,
            "repair": f.repair,
        }
        for f in unit.facts.all()
    ]
    record["photos"] = [{"name": p.original_name, "sha256": p.sha256, "shot": p.shot} for p in unit.photos.all()]
    record["history"] = [
        {"when": entry.when.isoformat(), "who": entry.who.name, "words": entry.words}
        for entry in history.of("unit", unit.pk)
    ]
    return record


def as_text(unit: Unit) -> str:
    return json.dumps(export(unit), ensure_ascii=False, indent=1)


def read(data: bytes) -> dict:
    """A record that keeps to the published form. Raises Refused, naming where it does not."""
    if len(data) > MOST_BYTES:
        raise Refused("A record is 2 MB at most.", "file")
    try:
        record = read_json(data.decode("utf-8-sig"))
    except UnicodeDecodeError as problem:
        raise Refused("This is no UTF-8 text.", "file") from problem
    # Days alone: which other formats it judges hangs on what else is installed, and moments are read here (`_moment`).
    validator = jsonschema.Draft202012Validator(schema(), format_checker=jsonschema.FormatChecker(["date"]))
    wrong = next(iter(validator.iter_errors(record)), None)
    if wrong is not None:
        where = "/".join(map(str, wrong.absolute_path)) or "the whole"
        raise Refused(f"Not a record of a unit: {where}: {wrong.message[:200]}", "file")
    return record


@transaction.atomic
def import_record(person: Person, line: LotLine, record: dict) -> Unit:
    """Receive one more piece of a lot's line as the record says; its tag is a new one. Photos are not carried."""
    require(person, "import a unit")
    model = None
    if record["model"]:
        model = MachineModel.objects.filter(**record["model"]).first()
    (unit,) = services.receive(person, line, 1, model, record["place"])
    values = {name: record[name] for name in PLAIN} | {name: record[name] for name in DECIMALS}
    if unit.lot.in_custody and record["holding"] != Unit.Holding.CUSTODY:
        raise Refused("This lot is in custody: the record says its unit is not.", "file")
    values["identified_at"] = clock.now()
    for name in ("approach", "holding"):
        values[name] = values[name] or getattr(unit, name)
    if values["holding"] == Unit.Holding.CUSTODY and values["approach"] not in {"", Approach.CONSERVE}:
        raise Refused("In custody only conserving work may be done: the record says otherwise.", "file")
    if values["holding"] != Unit.Holding.OWNED and values["approach"] == Approach.DONOR:
        raise Refused("Only what is ours is taken for parts: the record says otherwise.", "file")
    for name, value in values.items():
        setattr(unit, name, value)
    _check(unit, "the unit")
    unit.save(update_fields=values)
    if not unit.ours:
        agreed = OwnersTerms(unit=unit, commission_percent=record["commission_percent"])
        for name in AGREED:
            setattr(agreed, name, record[name])
        _check(agreed, "the unit")
        agreed.save()
    unit.contents.all().delete()
    Content.objects.bulk_create(_contents(unit, record["contents"]))
    Finding.objects.bulk_create(_findings(person, unit, record["findings"]))
    facts = [UnitFact(unit=unit, when=clock.now(), who=person, **fact) for fact in record["facts"]]
    for number, fact in enumerate(facts):
        _check(fact, f"facts/{number}")
    UnitFact.objects.bulk_create(facts)
    for seen in record.get("parts", []):
        worth = Decimal(seen["worth"]) if seen["worth"] is not None else None
        known = {**seen, "kind": PartKind(seen["kind"]), "condition": Condition(seen["condition"]), "worth": worth}
        slot = known.pop("slot")
        parts.record_part(person, parts.Place(unit, slot), parts.Described(**known))
    was = f", there {record['tag']}" if record["tag"] != str(Tag(unit.number)) else ""
    history.record(person, "intake.import_record", HistoryEntry.Subject.UNIT, unit.pk, f"Taken in from a record{was}")
    stages.refresh(unit)
    return unit


def _contents(unit: Unit, listed: list[dict]) -> list[Content]:
    made, names = [], set()
    for number, thing in enumerate(listed):
        where = f"contents/{number}"
        content = Content(unit=unit, **thing)
        _check(content, where)
        if as_seen(content.name) in names:
            raise Refused(f"Not a record of a unit: {where}: {content.name} stands there twice.", "file")
        names.add(as_seen(content.name))
        made.append(content)
    return made


def _findings(person: Person, unit: Unit, listed: list[dict]) -> list[Finding]:
    made, faces = [], set(faces_of(FormFactor(unit.form_factor)))
    for number, seen in enumerate(listed):
        where = f"findings/{number}"
        if seen["face"] not in faces:
            raise Refused(
                f"Not a record of a unit: {where}: a {unit.get_form_factor_display()} has no {seen['face']}.", "file"
            )
        finding = Finding(unit=unit, seen_by=person, **{**seen, "seen_at": _moment(seen["seen_at"], where)})
        _check(finding, where)
        made.append(finding)
    return made


def _moment(words: str, where: str) -> datetime:
    """A moment with its zone, not before there were computers nor after today."""
    try:
        moment = datetime.fromisoformat(words)
    except ValueError:
        moment = None
    if moment is None or moment.tzinfo is None or not EARLIEST <= moment <= clock.now() + timedelta(days=1):
        raise Refused(
            f"Not a record of a unit: {where}: {words[:40]} is no moment it can have been seen at, such as "
            "2026-05-01T14:30:00+02:00.",
            "file",
        )
    return moment


def _check(row: Model, where: str) -> None:
    """The row keeps to its own fields and constraints; Refused says which it does not."""
    try:
        row.full_clean(exclude={"unit", "seen_by", "who"}, validate_unique=False)
    except ValidationError as problem:
        words = "; ".join(f"{name}: {' '.join(texts)}" for name, texts in problem.message_dict.items())
        raise Refused(f"Not a record of a unit: {where}: {words}".replace("__all__: ", ""), "file") from problem
