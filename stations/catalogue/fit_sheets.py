"""What models offer and what parts need, kept; one thing that was not known, answered; what was tried."""

from collections import defaultdict
from collections.abc import Collection, Iterable
from typing import TypeVar

from django.db import transaction

from core.catalogue.fit.machine import Tried as Seen
from core.catalogue.fit.needs import Needs, checked_needs
from core.catalogue.fit.offers import Offers, checked_offers
from core.catalogue.fit.schema import FitError, answered, sheet_data, sheet_from
from core.machine.names import as_seen
from stations.catalogue.models import MachineModel, ModelOffers, PartSheet, Tried
from stations.catalogue.tested import tested_otherwise
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned

MODEL, SHEET = HistoryEntry.Subject.MODEL, HistoryEntry.Subject.SHEET

T = TypeVar("T", Offers, Needs)


def read(kind: type[T], data: object, name: str = "") -> T:
    """A sheet from a file, checked; `name` of the part. Refused in words, at its group."""
    try:
        sheet = sheet_from(kind, data)
        return checked_offers(sheet) if isinstance(sheet, Offers) else checked_needs(sheet, name)
    except FitError as problem:
        raise Refused(str(problem), problem.at) from problem


def offers_of(model: MachineModel | None) -> Offers:
    """What machines of a model offer; nothing known where nobody said: one query at most."""
    kept = ModelOffers.objects.filter(model=model).first() if model else None
    return sheet_from(Offers, kept.offers) if kept else Offers()


def offers_of_each(models: Collection[int]) -> dict[int, Offers]:
    """The same of several models, by key, those that somebody said something of: one query."""
    rows = ModelOffers.objects.filter(model__in=models)
    return {row.model_id: sheet_from(Offers, row.offers) for row in rows}


@transaction.atomic
def keep_offers(person: Person, model: MachineModel, offers: Offers, seen_version: int | None = None) -> None:
    """Put right what a model offers."""
    require(person, "change a model")
    data = sheet_data(read(Offers, sheet_data(offers)))
    kept = ModelOffers.objects.filter(model=model).first()
    if data == (kept.offers if kept else sheet_data(Offers())):
        return
    history.record(person, "catalogue.keep_offers", MODEL, model.pk, f"What {model} offers put down")
    if kept is None:
        ModelOffers.objects.create(model=model, offers=data)
    else:
        save_versioned(kept, kept.version if seen_version is None else seen_version, {"offers": data})
    tested_otherwise()


def needs_of(sheet: PartSheet) -> Needs:
    return sheet_from(Needs, sheet.needs)


def sheets_of(names: Iterable[str]) -> dict[str, PartSheet]:
    """The sheets of parts of these names, by the name as it is seen: to the database, what differs in case or accents
    alone is one name. One query."""
    return {as_seen(sheet.name): sheet for sheet in PartSheet.objects.filter(name__in={*names})}


@transaction.atomic
def keep_needs(person: Person, sheet: PartSheet | None, name: str, needs: Needs, seen_version: int = 0) -> PartSheet:
    """Say what parts of a name are and need, or put it right."""
    require(person, "say what a part needs")
    if not (name := within(" ".join(name.split()), 80, "name")):
        raise Refused("Say which part it is.", "name")
    there = PartSheet.objects.filter(name=name).first()
    if there is not None and there != sheet:
        raise Refused(f"There is a sheet of {name} already.", "name")
    data = sheet_data(read(Needs, sheet_data(needs), name))
    changes = {"name": name, "needs": data, "converts": bool(needs.converts)}
    if sheet is None:
        sheet = PartSheet.objects.create(**changes)
        history.record(person, "catalogue.keep_needs", SHEET, sheet.pk, f"Sheet of {name} added")
        return sheet
    history.changed(person, "catalogue.keep_needs", SHEET, sheet.pk, f"Sheet of {sheet.name}", sheet, changes)
    save_versioned(sheet, seen_version, changes)
    return sheet


@transaction.atomic
def drop_sheet(person: Person, sheet: PartSheet) -> None:
    """There are no such parts: nothing is proposed by it any more. What was tried with it goes first, one by one."""
    require(person, "say what a part needs")
    sheet = lock_row(PartSheet.objects.all(), sheet)
    if sheet.tried.exists():
        raise Refused("What was tried with it is written down here. Drop that first.")
    history.record(person, "catalogue.drop_sheet", SHEET, sheet.pk, f"Sheet of {sheet.name} taken out")
    sheet.delete()


def called_anew(before: str, after: str) -> None:
    """A drawer’s part goes by another name: what is known of it goes along. Others may go by the old name still, in
    machines, so that its sheet stays."""
    known = PartSheet.objects.filter(name=before).first()
    if known and not PartSheet.objects.filter(name=after).exists():
        PartSheet.objects.create(name=after, needs=known.needs, converts=known.converts)


@transaction.atomic
def answer_model(person: Person, model: MachineModel, group: str, name: str, key: str, typed: str) -> None:
    """One field of what a model offers, said where it was asked for. What somebody else said meanwhile stays."""
    require(person, "change a model")
    kept, _ = ModelOffers.objects.get_or_create(model=model)
    kept = ModelOffers.objects.select_for_update().get(pk=kept.pk)
    data = _answered(Offers, kept.offers, group, name, key, typed)
    words = f"What {model} offers: {name} {key} {typed}"
    history.record(person, "catalogue.answer_model", MODEL, model.pk, words)
    save_versioned(kept, kept.version, {"offers": data})


@transaction.atomic
def answer_part(person: Person, part: str, group: str, name: str, key: str, typed: str) -> None:
    """One field of what parts of a name need."""
    require(person, "say what a part needs")
    sheet, _ = PartSheet.objects.get_or_create(name=within(part, 80))
    sheet = PartSheet.objects.select_for_update().get(pk=sheet.pk)
    data = _answered(Needs, sheet.needs, group, name, key, typed, sheet.name)
    words = f"What {sheet.name} needs: {name} {key} {typed}"
    history.record(person, "catalogue.answer_part", SHEET, sheet.pk, words)
    save_versioned(sheet, sheet.version, {"needs": data, "converts": bool(data.get("converts"))})


def _answered(kind: type[T], data: object, group: str, name: str, key: str, typed: str, part: str = "") -> dict:
    try:
        before = sheet_from(kind, data)
        record = next((one for one in getattr(before, group, None) or () if one.name == name), None)
        after = answered(before, group, name, key, typed)
    except FitError as problem:
        raise Refused(f"{problem}.", "answer") from problem
    was = getattr(record, key.replace(" ", "_"), None)
    if was is not None and was != getattr(
        next(o for o in getattr(after, group) if o.name == name), key.replace(" ", "_")
    ):
        raise Refused("Somebody answered this meanwhile, and otherwise. Look again.", "answer")
    return sheet_data(read(kind, sheet_data(after), part))


@transaction.atomic
def keep_tried(person: Person, tried: Tried) -> Tried:
    """Write down that a part ran in machines of a model, or was refused."""
    require(person, "write down what was tried")
    tried.save(force_insert=True)
    history.record(person, "catalogue.keep_tried", SHEET, tried.sheet_id, f"Tried: {tried}")
    return tried


@transaction.atomic
def drop_tried(person: Person, tried: Tried) -> None:
    require(person, "write down what was tried")
    Tried.objects.filter(pk=tried.pk).delete()
    history.record(person, "catalogue.drop_tried", SHEET, tried.sheet_id, f"Not tried after all: {tried}")


def tried_in(model: MachineModel | None, sheet: PartSheet | None = None) -> dict[int, tuple[Seen, ...]]:
    """What was tried in machines of a model, by the key of the part’s sheet: one query."""
    rows = Tried.objects.filter(model=model) if model else Tried.objects.none()
    found: dict[int, list[Seen]] = defaultdict(list)
    for row in rows.filter(sheet=sheet) if sheet else rows:
        found[row.sheet_id].append(Seen(row.runs, row.part_version, row.who, row.on, row.region, row.words))
    return {pk: tuple(seen) for pk, seen in found.items()}
