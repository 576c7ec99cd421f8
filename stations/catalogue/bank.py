"""The model bank: what a model is, and what belongs with it."""

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction

from core.machine.names import as_seen
from stations.catalogue.models import ExpectedItem, MachineModel
from stations.catalogue.one_model import put_together
from stations.common.details import names_of
from stations.common.refusals import Refused
from stations.common.registry import Registry
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require

MODEL = HistoryEntry.Subject.MODEL

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
        if words := contents_changed(model, expected):
            history.record(person, "catalogue.change_model", MODEL, model.pk, f"{was}, {words}")
        MachineModel.objects.filter(pk=model.pk).update(**vars(said))
        expect(model, expected)
    kept = MachineModel.objects.get(pk=(other or model).pk)
    for told in changed.values():
        told(person, kept, was)
    return kept


def contents_changed(model: MachineModel, expected: Sequence[Expected]) -> str:
    """What is said of what belongs with it, and what was, in words; empty where it is the same."""
    was = [Expected(e.name, e.weight, e.estimate) for e in model.expected.all()]
    if sorted(map(str, was)) == sorted(map(str, expected)):
        return ""
    before, things = (", ".join(map(str, one)) for one in (was, expected))
    return f"what belongs with it: {things or 'nothing'}; before: {before or 'nothing'}"
