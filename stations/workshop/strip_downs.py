"""What a machine is put together from: its own record, or its model’s, and how it is put right."""

from django.db import transaction

from core.catalogue.assemblies import StripDown
from core.catalogue.assembly_text import as_data, from_data
from core.catalogue.changes import without
from stations.catalogue.strip_downs import checked
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units.models import Unit
from stations.workshop.models import OpenedAssembly, Opening, UnitStripDown

UNIT = HistoryEntry.Subject.UNIT


def strip_down_of(unit: Unit) -> StripDown:
    """What the unit is put together from: its own, else its model's; empty when neither was recorded. Always as it
    is now."""
    return _put_together(UnitStripDown.objects.filter(unit=unit).first(), unit)


def strip_down_as_read(unit: Unit) -> StripDown:
    """The same, of a unit that was read together with its own and its model's: no query, and put together once."""
    if not hasattr(unit, "_put_together"):
        unit._put_together = _put_together(getattr(unit, "strip_down", None), unit)  # type: ignore[attr-defined]
    return unit._put_together  # type: ignore[attr-defined]


def _put_together(own: UnitStripDown | None, unit: Unit) -> StripDown:
    if own is not None:
        return from_data(own.assemblies)
    model = getattr(unit.model, "strip_down", None) if unit.model else None
    return from_data(model.assemblies) if model else StripDown({})


@transaction.atomic
def keep_strip_down(person: Person, unit: Unit, strip: StripDown, seen_version: int | None, words: str) -> None:
    """Put right what the unit is put together from; its model stays as it is.

    `seen_version` is of the unit's own, 0 when it had none, None when what was read is held since.
    """
    require(person, "take a machine apart and close it")
    unit = lock_row(Unit.objects.all(), unit)
    checked(strip)
    if as_data(strip) == as_data(strip_down_of(unit)):
        return
    own = UnitStripDown.objects.filter(unit=unit).first()
    if own is None:
        UnitStripDown.objects.create(unit=unit, assemblies=as_data(strip))
    else:
        save_versioned(own, own.version if seen_version is None else seen_version, {"assemblies": as_data(strip)})
    history.record(person, "workshop.keep_strip_down", UNIT, unit.pk, words)


def off_now(unit: Unit) -> set[str]:
    """Which of its assemblies are off just now: one query."""
    rows = OpenedAssembly.objects.filter(opening__open_for=unit)
    return {row.name for row in rows if row.is_off}


@transaction.atomic
def take_out(person: Person, unit: Unit, name: str) -> None:
    """An assembly is not in this machine after all; what stood on it stands on what it stood on."""
    if name in off_now(unit):
        raise Refused(f"{name} is off and lies in a tray: it is in this machine. Put it on first.")
    strip = strip_down_of(unit)
    if name not in strip.assemblies:
        raise Refused(f"There is no {name} in it.")
    keep_strip_down(person, unit, without(strip, name), None, f"Not in it: {name}")


@transaction.atomic
def put_right(person: Person, unit: Unit, strip: StripDown, seen_version: int, was: str, name: str) -> None:
    """One assembly is added, or put right and perhaps called something else: jobs and an opening follow its name."""
    keep_strip_down(person, unit, strip, seen_version, f"Put together from: {name}")
    if was and was != name:
        unit.jobs.filter(assembly=was).update(assembly=name)
        for opening in Opening.objects.filter(open_for=unit):
            opening.assemblies.filter(name=was).update(name=name)
            opening.targets = [name if one == was else one for one in opening.targets]
            opening.steps = [name if one == was else one for one in opening.steps]
            opening.save()
