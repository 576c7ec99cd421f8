"""The settings of a unit: as found, as set to, and put back as it was."""

from django.db import transaction

from core.workshop.settings import SettingKind, read_state
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units.models import Unit
from stations.workshop import services
from stations.workshop.models import Job, Setting


@transaction.atomic
def record_setting(person: Person, unit: Unit, setting: Setting | None, seen_version: int, data: dict) -> None:
    """Record how something is set, or put it right. States are typed as core/workshop/settings.py reads them."""
    require(person, "record settings")
    unit = lock_row(Unit.objects.all(), unit)
    for field in ("was", "set_to"):
        if data[field] or field == "was":
            try:
                read_state(SettingKind(data["kind"]), data[field])
            except ValueError as problem:
                raise Refused(str(problem), field) from problem
    others = unit.settings.filter(name=data["name"]).exclude(pk=setting.pk if setting else 0)
    if others.exists():
        raise Refused(f"{data['name']} is recorded already.", "name")
    if setting is None:
        Setting.objects.create(unit=unit, seen_at=clock.now(), seen_by=person, **data)
    else:
        save_versioned(setting, seen_version, data)
    words = f"{data['name']} was {data['was']}" + (f", set to {data['set_to']}" if data["set_to"] else "")
    history.record(person, "workshop.record_setting", HistoryEntry.Subject.UNIT, unit.pk, words)


@transaction.atomic
def put_back(person: Person, unit: Unit) -> Job:
    """A job to put everything back as it was; refused when nothing was changed."""
    changed = [setting for setting in unit.settings.all() if setting.changed]
    if not changed:
        raise Refused("Everything is as it was.")
    words = ", ".join(f"{setting.name}: {setting.was}" for setting in changed)
    title = f"Put the settings back as they were ({words})"
    data = {"kind": "repair", "title": title if len(title) <= 100 else "Put the settings back as they were"}
    return services.open_job(person, unit, data | {"estimate_minutes": 5 + len(changed), "reversible": True})
