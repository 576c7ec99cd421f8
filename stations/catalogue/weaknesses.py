"""What is known to go wrong with machines of a model and parts of a name: data of the shop."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.db.models import Q

from core.bench.fault_library import SYMPTOMS
from core.catalogue.weakness import Concerns
from stations.catalogue.models import MachineModel, Weakness
from stations.catalogue.tested import tested_otherwise
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned

MODEL = HistoryEntry.Subject.MODEL


@dataclass(frozen=True)
class Thing:
    """A machine or a part in it, as a weakness sees it: `part` empty for the machine."""

    part: str = ""
    serial: str = ""
    revision: str = ""


@dataclass(frozen=True)
class KnownToFail:
    """A weakness that concerns something here; `surely` is False where the serial or revision that would tell is not
    known."""

    weakness: Weakness
    of: Thing
    surely: bool

    @property
    def words(self) -> str:
        of = f"{self.of.part}: " if self.of.part else ""
        maybe = "" if self.surely else " (serial or revision not known: may not concern this one)"
        return f"{of}{self.weakness.what}{maybe}"


def suspect_words() -> dict[str, str]:
    """Everything a fault may turn out to be, by code."""
    return {suspect.code: suspect.words for symptom in SYMPTOMS for suspect in symptom.suspects}


def weaknesses_of(models: Collection[int]) -> list[Weakness]:
    """Of machines of these models, and of any: one query."""
    return list(Weakness.objects.filter(Q(model=None) | Q(model__in=models)))


def known_to_fail(
    model: int | None, things: Iterable[Thing], known: Sequence[Weakness] | None = None
) -> list[KnownToFail]:
    """What is known to go wrong with these things, in or of a machine of the model (by its key): one query, none where
    the weaknesses are `known`."""
    things = list(things)
    found = []
    for row in weaknesses_of([model] if model else []) if known is None else known:
        if row.model_id not in {None, model}:
            continue
        spec = Concerns(row.part_words, row.serial_from, row.serial_to, row.revision)
        for thing in things:
            concerns = spec.concerns(thing.part, thing.serial, thing.revision)
            if concerns is not False:
                found.append(KnownToFail(row, thing, concerns is True))
    return found


@dataclass(frozen=True)
class WeaknessDetails:
    """What goes wrong with what: a model, or parts called so; serials and a revision narrow it down, empty for all. It
    makes a suspect so many times likelier, and takes so many minutes to look at."""

    model: MachineModel | None
    what: str
    factor: Decimal
    part_words: str = ""
    serial_from: str = ""
    serial_to: str = ""
    revision: str = ""
    look_at: str = ""
    suspect: str = ""
    minutes: int = 5
    told_by: str = ""


@transaction.atomic
def keep_weakness(person: Person, weakness: Weakness | None, seen_version: int, said: WeaknessDetails) -> None:
    """Write down what is known to go wrong, or put it right."""
    require(person, "change what is known to fail")
    if weakness is None:
        Weakness.objects.create(**vars(said))
        words = f"Known to fail: {said.what}, the suspect × {said.factor:f}"
        history.record(person, "catalogue.keep_weakness", MODEL, said.model.pk if said.model else 0, words)
    else:
        named = f"Known to fail: {weakness.what}"
        history.changed(person, "catalogue.keep_weakness", MODEL, weakness.model_id or 0, named, weakness, vars(said))
        save_versioned(weakness, seen_version, vars(said))
    tested_otherwise()


@transaction.atomic
def drop_weakness(person: Person, weakness: Weakness) -> None:
    """It was none."""
    require(person, "change what is known to fail")
    Weakness.objects.filter(pk=weakness.pk).delete()
    words = f"Not known to fail after all: {weakness.what}"
    history.record(person, "catalogue.drop_weakness", MODEL, weakness.model_id or 0, words)
    tested_otherwise()
