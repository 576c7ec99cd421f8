"""The settings of a unit: as found, as set to, and put back as it was."""

from dataclasses import asdict, dataclass
from decimal import Decimal

from django.db import transaction

from core.workshop.settings import Judged, SettingKind, better, read_state
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units.models import Unit
from stations.workshop import services
from stations.workshop.models import Job, Setting, SettingTrial
from stations.workshop.new_job import NewJob


@dataclass(frozen=True)
class SetAs:
    """A switch, link or firmware by its name: how it was found, how it is set now (empty: as found), what that means.
    States are typed as core/workshop/settings.py reads them."""

    name: str
    kind: str
    was: str
    set_to: str = ""
    means: str = ""


@transaction.atomic
def record_setting(person: Person, unit: Unit, setting: Setting | None, seen_version: int, seen: SetAs) -> None:
    """Record how something is set, or put it right."""
    require(person, "record settings")
    unit = lock_row(Unit.objects.all(), unit)
    for field, typed in (("was", seen.was), ("set_to", seen.set_to)):
        if typed or field == "was":
            try:
                read_state(SettingKind(seen.kind), typed)
            except ValueError as problem:
                raise Refused(str(problem), field) from problem
    others = unit.settings.filter(name=seen.name).exclude(pk=setting.pk if setting else 0)
    if others.exists():
        raise Refused(f"{seen.name} is recorded already.", "name")
    if setting is None:
        Setting.objects.create(unit=unit, seen_at=clock.now(), seen_by=person, **asdict(seen))
    else:
        save_versioned(setting, seen_version, asdict(seen))
    words = f"{seen.name} was {seen.was}" + (f", set to {seen.set_to}" if seen.set_to else "")
    history.record(person, "workshop.record_setting", HistoryEntry.Subject.UNIT, unit.pk, words)


@dataclass(frozen=True)
class Tried:
    """Two states of a setting as they were tried. `better`: what eye or ear says; with two values it is worked out."""

    first: str
    second: str
    judged: Judged
    what: str
    first_value: Decimal | None = None
    second_value: Decimal | None = None
    more_is_better: bool = True
    better: str = ""


@transaction.atomic
def try_against(person: Person, setting: Setting, tried: Tried) -> SettingTrial:
    """Two states tried against one another; the better one is what it is set to now."""
    require(person, "record settings")
    setting = lock_row(Setting.objects.select_related("unit"), setting, setting.unit)
    for field in ("first", "second"):
        try:
            read_state(SettingKind(setting.kind), getattr(tried, field))
        except ValueError as problem:
            raise Refused(str(problem), field) from problem
    if tried.first == tried.second:
        raise Refused("That is the same state twice.", "second")
    found = tried.better
    if tried.judged is Judged.NUMBER:
        if tried.first_value is None or tried.second_value is None:
            raise Refused("Measure both.", "first_value" if tried.first_value is None else "second_value")
        found = better(tried.first_value, tried.second_value, tried.more_is_better)
    if found not in SettingTrial.Better.values:
        raise Refused("Say which is better.", "better")
    by_number = tried.judged is Judged.NUMBER
    trial = SettingTrial.objects.create(
        setting=setting,
        first=tried.first,
        second=tried.second,
        judged=tried.judged.value,
        what=within(tried.what, 60, "what"),
        first_value=tried.first_value if by_number else None,
        second_value=tried.second_value if by_number else None,
        better=found,
        when=clock.now(),
        who=person,
    )
    if found != "neither":
        state = tried.first if found == "first" else tried.second
        save_versioned(setting, setting.version, {"set_to": "" if state == setting.was else state})
    words = f"Tried {setting.name}, {tried.first} against {tried.second}, {tried.what}: {found}"
    history.record(person, "workshop.try_against", HistoryEntry.Subject.UNIT, setting.unit_id, words[:200])
    return trial


@transaction.atomic
def put_back(person: Person, unit: Unit) -> Job:
    """A job to put everything back as it was; refused when nothing was changed."""
    changed = [setting for setting in unit.settings.all() if setting.changed]
    if not changed:
        raise Refused("Everything is as it was.")
    words = ", ".join(f"{setting.name}: {setting.was}" for setting in changed)
    title = f"Put the settings back as they were ({words})"
    new = NewJob(
        title if len(title) <= 100 else "Put the settings back as they were",
        estimate_minutes=5 + len(changed),
        reversible=True,
    )
    return services.open_job(person, unit, new)
