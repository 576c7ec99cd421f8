"""Where feet, badges and labels sit on machines of a model: measured once, kept with it."""

from django.db import IntegrityError, transaction

from core.machine.casing import Face
from core.workshop.care import CareError
from core.workshop.care.placing import Placed, Stuck
from stations.common import clock
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import Unit
from stations.workshop.care_planning import size_of
from stations.workshop.models import Placement

MOST = 60


def kept(unit: Unit) -> list[Placed]:
    """Of its model, in their order on each face: one query, none where no model is known."""
    return [placed(row) for row in rows(unit)]


def rows(unit: Unit) -> list[Placement]:
    return (
        list(Placement.objects.filter(model=unit.model_id).select_related("measured_by")[:MOST])
        if unit.model_id
        else []
    )


def placed(row: Placement) -> Placed:
    return Placed(Stuck(row.what), Face(row.face), row.left_mm, row.top_mm, row.wide_mm, row.high_mm)


@transaction.atomic
def measure(person: Person, unit: Unit, one: Placed) -> Placement:
    """Keep where something sits, as measured on this unit, with its model."""
    require(person, "record parts")
    size = size_of(unit)
    if unit.model is None or size is None:
        raise Refused("Say which model it is, and how large that is, first: places are kept with it.", "face")
    try:
        one.within(size)
    except CareError as problem:
        raise Refused(str(problem), problem.at) from problem
    if Placement.objects.filter(model=unit.model).count() >= MOST:
        raise Refused(f"{MOST} places of a model at most.", "what")
    try:
        with transaction.atomic():
            row = Placement.objects.create(
                model=unit.model,
                what=one.what.value,
                face=one.face.value,
                left_mm=one.left,
                top_mm=one.top,
                wide_mm=one.wide,
                high_mm=one.high,
                measured_at=clock.now(),
                measured_by=person,
            )
    except IntegrityError as problem:
        raise Refused(f"A {one.what} was measured right there already.", "left") from problem
    words = f"Measured where a {row} sits on {unit.model}"
    history.record(person, "workshop.measure", HistoryEntry.Subject.UNIT, unit.pk, words)
    return row


@transaction.atomic
def drop(person: Person, unit: Unit, pk: int) -> None:
    """One that was measured wrong is kept no longer."""
    require(person, "record parts")
    row = Placement.objects.select_for_update().filter(pk=pk, model=unit.model_id).first()
    if row is None:
        raise Refused("That is kept no longer.")
    words = f"Keeps no longer where a {row} sits on {unit.model}"
    row.delete()
    history.record(person, "workshop.drop", HistoryEntry.Subject.UNIT, unit.pk, words)
