"""Taking in sales elsewhere: a file is looked at, then taken in whole or not at all."""

import hashlib
import re
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.db.models import Count

from core.buying.manifest import BadLine, ManifestError, Table, decode, guess_columns, read_table
from core.machine.quantities import Mark
from core.selling.sales_file import HEADS, DayOrder, SaleLine, SalesColumn, read_sales
from core.workshop.upgrades.features import FeatureError, read_feature
from stations.buying.rates import known_rate
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.common.currency import base_currency
from stations.common.locking import lock_row
from stations.common.paging import First, first_of
from stations.common.refusals import Refused, reason
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.selling.models import Comparable, ComparableFile

SHOWN = 10


@dataclass(frozen=True)
class Reading:
    """How a file is to be read; `columns` None: guessed by their heads, `model` None: as its column says."""

    columns: dict[SalesColumn, int] | None = None
    mark: Mark = Mark.ASK
    order: DayOrder = DayOrder.ASK
    model: MachineModel | None = None


@dataclass(frozen=True)
class Preview:
    table: Table
    columns: dict[SalesColumn, int]
    good: list[tuple[SaleLine, Comparable]]
    bad: list[BadLine]
    # Sales that are here already, the same in model, day and price: told, and taken in all the same if wished.
    twice: int


@transaction.atomic
def upload(person: Person, name: str, data: bytes) -> ComparableFile:
    """Keep a file for looking at. None of its sales count yet."""
    require(person, "add comparables")
    try:
        text = decode(data)
        read_table(text)
    except ManifestError as problem:
        raise Refused(str(problem), "file") from problem
    digest = hashlib.sha256(data).hexdigest()
    return ComparableFile.objects.create(
        name=name[:120], sha256=digest, text=text, uploaded_at=clock.now(), uploaded_by=person
    )


def taken_before(file: ComparableFile) -> ComparableFile | None:
    same = ComparableFile.objects.filter(sha256=file.sha256, taken_in_at__isnull=False)
    return same.exclude(pk=file.pk).first()


def taken_in() -> First[ComparableFile]:
    """Files whose sales count, the newest first, each with how many (`counting`)."""
    rows = ComparableFile.objects.filter(taken_in_at__isnull=False).annotate(counting=Count("sales"))
    return first_of(rows, SHOWN)


def preview(file: ComparableFile, how: Reading) -> Preview:
    """The table, and what its lines would be: five queries, however long it is, and one for each rate wanted."""
    table = read_table(file.text)
    columns = guess_columns(table.head, HEADS) if how.columns is None else how.columns
    lines, bad = read_sales(table, columns, clock.today(), mark=how.mark, order=how.order)
    by_name = _models()
    rates: dict[tuple[str, object], Decimal | None] = {}
    good = []
    for line in lines:
        try:
            good.append((line, _comparable(line, how.model or _model(line, by_name), rates)))
        except ValueError as problem:
            bad.append(BadLine(line.number, str(problem)))
    here = set(
        Comparable.objects.filter(model__in={row.model_id for _, row in good}).values_list(
            "model_id", "sold_on", "price", "currency"
        )
    )
    twice = sum((row.model_id, row.sold_on, row.price, row.currency) in here for _, row in good)
    return Preview(table, columns, good, sorted(bad, key=lambda line: line.number), twice)


@transaction.atomic
def take_in(person: Person, file: ComparableFile, how: Reading, again: bool = False) -> int:
    """All the sales of a file, or none: a single bad line stops it. Answers how many there were."""
    require(person, "add comparables")
    file = lock_row(ComparableFile.objects.all(), file)
    if file.taken_in_at:
        raise Refused("This file is taken in already.")
    found = preview(file, how)
    if found.bad:
        first = found.bad[0]
        raise Refused(
            f"{len(found.bad)} bad lines; nothing was taken in. The first: line {first.number}, {first.reason}."
        )
    if not again and (before := taken_before(file)):
        when = f" on {clock.day_of(before.taken_in_at):%d %B}" if before.taken_in_at else ""
        raise Refused(f"The same file was taken in{when}. Tick the box if that is meant.")
    if not again and found.twice:
        raise Refused(f"{found.twice} of these sales are here already. Tick the box if they are others all the same.")
    for _, row in found.good:
        row.file = file
    Comparable.objects.bulk_create([row for _, row in found.good], batch_size=1000)
    ComparableFile.objects.filter(pk=file.pk).update(taken_in_at=clock.now())
    words = f"{len(found.good)} sales elsewhere taken in from {file.name}"
    history.record(person, "selling.take_in", HistoryEntry.Subject.SHOP, 0, words)
    return len(found.good)


@transaction.atomic
def take_out(person: Person, file: ComparableFile, why: str) -> int:
    """It was read the wrong way, or is of something else: none of its sales counts any more, and it can be taken in
    anew. Answers how many there were."""
    require(person, "add comparables")
    file, why = lock_row(ComparableFile.objects.all(), file), reason(why)
    if not file.taken_in_at:
        raise Refused("It is not taken in.")
    count, _ = file.sales.all().delete()
    ComparableFile.objects.filter(pk=file.pk).update(taken_in_at=None)
    words = f"{count} sales elsewhere taken out again, of {file.name}: {why}"
    history.record(person, "selling.take_out", HistoryEntry.Subject.SHOP, 0, words, file=file.pk, why=why)
    return count


def _models() -> dict[str, MachineModel | None]:
    """Models by their names in small letters; None where a name alone is that of several."""
    found: dict[str, MachineModel | None] = {}
    for model in MachineModel.objects.all():
        found[str(model).casefold()] = model
        short = model.name.casefold()
        found[short] = model if short not in found else None
    return found


def _model(line: SaleLine, by_name: dict[str, MachineModel | None]) -> MachineModel:
    if not line.model:
        raise ValueError("nothing says which model it is: choose one above for the whole file")
    model = by_name.get(line.model.casefold())
    if model is None:
        raise ValueError(f"“{line.model}” is no model in the bank")
    return model


def _comparable(line: SaleLine, model: MachineModel, rates: dict) -> Comparable:
    base = base_currency()
    currency = line.currency or base
    if (currency, line.sold_on) not in rates:
        known = None if currency == base else known_rate(currency, line.sold_on)
        rates[currency, line.sold_on] = Decimal(1) if currency == base else known.rate if known else None
    rate = rates[currency, line.sold_on]
    if rate is None:
        raise ValueError(f"no rate is known for {currency} on {line.sold_on:%d %B %Y}: fetch the rates first")
    return Comparable(
        model=model,
        sold_on=line.sold_on,
        grade=line.grade.value,
        completeness=line.completeness,
        price=line.price,
        currency=currency,
        rate=rate,
        channel=line.channel,
        auction=line.auction,
        postage=line.postage,
        words=line.words,
        features=_features(line.features),
    )


def _features(typed: str) -> list[str] | None:
    if typed.strip().lower() in {"", "none"}:
        return [] if typed.strip() else None
    try:
        return sorted({read_feature(one).name for one in re.split("[,;|]", typed) if one.strip()})
    except FeatureError as problem:
        raise ValueError(str(problem)) from problem
