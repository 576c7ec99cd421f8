"""The stage column: worked out in core/flow from what every station has recorded."""

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import fields, replace
from datetime import datetime
from typing import Any

from django.db import transaction

from core.flow.facts import FlowFacts
from core.flow.rules import unit_status
from core.flow.stage import GONE, UnitStatus
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.common.refusals import Refused, shortened
from stations.common.registry import Registry
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.units.models import Unit

# Who answers for which part of FlowFacts: for a list of units, by unit id, in a number of queries that does not grow
# with the list; nothing for a unit it knows nothing of.
flow: Registry[Callable[[list[Unit]], Mapping[int, Any]]] = Registry("facts of flow")
# Those whose part rests on what the stations before them told, which they are given, so that nothing is asked twice.
resting: Registry[Callable[[list[Unit], Mapping[int, FlowFacts]], Mapping[int, Any]]] = Registry("facts on facts")

# Who wants to know that something of units changed, once their stage is up to date, in the same transaction.
moved: Registry[Callable[[list[Unit]], None]] = Registry("who follows units")

# Units whose stage is brought up to date later, by id, with the moment it is for; nothing where it is done at once.
_later: ContextVar[dict[int, tuple[Unit, datetime]] | None] = ContextVar("stages to bring up to date", default=None)


def facts_of(units: list[Unit], before: str = "") -> dict[int, FlowFacts]:
    """Everything the stages of these units rest on; `before`: only what stations before this one answer for."""
    facts = {unit.pk: FlowFacts() for unit in units}
    for part in fields(FlowFacts):
        if part.name == before:
            break
        told = resting[part.name](units, facts) if part.name in resting else flow[part.name](units)
        facts |= {one: replace(facts[one], **{part.name: told[one]}) for one in facts if one in told}
    return facts


def unit_statuses(units: list[Unit]) -> dict[int, UnitStatus]:
    return {unit_id: unit_status(facts) for unit_id, facts in facts_of(units).items()}


def refresh(*units: Unit, read_again: bool = True) -> None:
    """Bring the stage columns up to date; called by every service that changed a fact, in its transaction. What was
    given is as it stands then, unless it is not to be `read_again`: of many, each takes a query."""
    if (later := _later.get()) is not None:
        later |= {unit.pk: (unit, clock.now()) for unit in units}
        return
    fresh = list(
        Unit.objects.filter(pk__in=[unit.pk for unit in units]).select_related("lot", "line", "model", "owners_terms")
    )
    for unit_id, stands in unit_statuses(fresh).items():
        unit = next(u for u in fresh if u.pk == unit_id)
        changed = apply(unit, stands)
        if changed:
            Unit.objects.filter(pk=unit.pk).update(**changed)
            for name, value in changed.items():
                setattr(unit, name, value)
    for follow in moved.values():
        follow(fresh)
    for unit in units if read_again else ():
        unit.refresh_from_db()


def refuse_gone(unit: Unit, what: str, field: str | None = None) -> None:
    """What left the house, or is no unit any more, is as it went: nothing is decided of it afterwards."""
    if unit.gone:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: {what} stays as it was.", field)


def worth_corrected(lines: list[int]) -> None:
    """What is to be done at units of these lines is worth another sum."""
    of_worth = Unit.objects.select_for_update().filter(line_id__in=lines, pull__isnull=False)
    refresh(*of_worth.order_by("pk"), read_again=False)


def model_changed(person: Person, model: MachineModel, was: str) -> None:
    """What the bank says of a model is otherwise: units that are here are called as it is, where they were called as
    it was, and stand where they stand by it now."""
    units = list(Unit.objects.select_for_update().filter(model=model).exclude(stage__in=GONE).order_by("pk"))
    for unit in units:
        if unit.title == was != str(model):
            Unit.objects.filter(pk=unit.pk).update(title=str(model))
            words = f"Called {model}, was {was}"
            history.record(person, "units.model_changed", HistoryEntry.Subject.UNIT, unit.pk, words)
    refresh(*units, read_again=False)


def stand_anew() -> None:
    """What is to be done at units takes another time from now on: each is worked out anew as soon as somebody looks."""
    Unit.objects.filter(pull__isnull=False).update(again_on=clock.today())


def day_has_come() -> None:
    """Bring up to date what stands otherwise since today: what waited until now, what passed its date. One query on
    most days; called by the pages that show where units stand."""
    due = list(Unit.objects.filter(again_on__lte=clock.today()).values_list("pk", flat=True)[:200])
    if due:
        with transaction.atomic():
            refresh(*Unit.objects.select_for_update().filter(pk__in=due).order_by("pk"), read_again=False)


@contextmanager
def all_at_the_end() -> Iterator[None]:
    """Stages are brought up to date once, when what is within is done: for work of which nobody sees the middle."""
    later: dict[int, tuple[Unit, datetime]] = {}
    token = _later.set(later)
    try:
        yield
    finally:
        _later.reset(token)
    for unit, moment in later.values():
        with clock.at(moment):
            refresh(unit)


def apply(unit: Unit, stands: UnitStatus) -> dict:
    """The columns in which the unit differs from where it stands."""
    wanted: dict[str, object] = {
        "stage": stands.stage.value,
        "station": stands.station.value,
        "state": stands.state.value,
        "stage_reason": shortened(stands.reason, 200),
        "next_step": shortened(stands.next_step, 120),
        "next_kind": stands.next_kind.value,
        "next_minutes": stands.minutes,
        "minutes_ahead": stands.minutes_ahead,
        "again_on": stands.again_on,
        "pull": stands.pull,
    }
    changed = {name: value for name, value in wanted.items() if getattr(unit, name) != value}
    if changed.keys() & {"stage", "state"}:
        changed["stage_since"] = clock.now()
    return changed
