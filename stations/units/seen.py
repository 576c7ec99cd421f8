"""One fact of a unit, said where somebody has it before their eyes: at a check, while it is packed."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from django.db import transaction

from core.bench.seen import unsaid
from core.machine.mains import Mains
from core.machine.supply import Battery, Supply
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units import stages
from stations.units.as_it_is import bench_facts
from stations.units.models import Unit


@dataclass(frozen=True)
class Fact:
    """What is asked: the field of Unit, its words, the question, and what may be answered, each by what it is typed as.
    `more`: what is none of these is said at intake."""

    field: str
    label: str
    question: str
    answers: dict[str, tuple[str, Any]]
    more: bool = False


def _one_of(kind: type[StrEnum]) -> dict[str, tuple[str, Any]]:
    return {one.value: (one.label, one.value) for one in kind if one.value != "unknown"}  # type: ignore[attr-defined]


_YES_NO = {"yes": ("yes", True), "no": ("no", False)}
# By the names that conditions of checks use.
FACTS = {
    "battery": Fact("battery", "Battery", "What is in it?", _one_of(Battery)),
    "supply": Fact("supply", "PSU", "What feeds it?", _one_of(Supply)),
    "mains": Fact("mains_variant", "Mains input", "What do plate and selector say?", _one_of(Mains)),
    "tube": Fact("picture_tube", "CRT", "Is one in it?", _YES_NO),
    "drives": Fact("drives", "Drives", "How many are in it?", {str(n): (str(n), n) for n in range(5)}, more=True),
    "keyboard": Fact("keyboard", "Keyboard", "Has it one?", _YES_NO),
}


@dataclass(frozen=True)
class Asked:
    """A fact that nobody recorded of a unit, as it is asked."""

    name: str
    fact: Fact

    @property
    def answers(self) -> list[tuple[str, str]]:
        return [(typed, label) for typed, (label, _) in self.fact.answers.items()]


def asked(unit: Unit, names: Iterable[str]) -> list[Asked]:
    """Those of the named facts that nobody recorded; one query."""
    there = unsaid(bench_facts(unit))
    return [Asked(name, FACTS[name]) for name in names if name in there]


@transaction.atomic
def say(person: Person, unit: Unit, name: str, answer: str) -> None:
    """Record what was seen, where nothing was recorded; what is recorded is put right at intake."""
    require(person, "say what was seen of a unit")
    if name not in FACTS or answer not in FACTS[name].answers:
        raise Refused("Say what it is.")
    fact = FACTS[name]
    label, value = fact.answers[answer]
    unit = lock_row(Unit.objects.select_related("model"), unit)
    if not asked(unit, [name]):
        raise Refused(f"{fact.label}: somebody recorded it meanwhile. Where that is not so, put it right at intake.")
    save_versioned(unit, unit.version, {fact.field: value})
    history.record(
        person, "units.say", HistoryEntry.Subject.UNIT, unit.pk, f"{fact.label}, as seen: {label}", **{name: answer}
    )
    stages.refresh(unit)
