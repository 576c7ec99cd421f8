"""What the workshop has on record of a unit that may have been a slip: settings, what was tried against what, and goes
at an installation that were no failures."""

from django.utils import timezone

from stations.people.models import Person
from stations.people.permissions import require
from stations.units import slips
from stations.units.models import Unit
from stations.workshop.models import InstallAttempt, Setting, SettingTrial

MOST_SLIPS = 10


def settings_of(unit: Unit) -> list[slips.Recorded]:
    """Each with what was tried of it: a switch that is another machine’s, or was never there."""
    rows = [(row, f"{row} {row.was}" + (f", now {row.set_to}" if row.changed else "")) for row in unit.settings.all()]
    return [slips.Recorded(f"setting:{row.pk}", "Setting", words) for row, words in rows]


def no_setting(person: Person, unit: Unit, number: int) -> None:
    require(person, "record settings")
    Setting.objects.filter(pk=number, unit=unit).delete()


def trials_of(unit: Unit) -> list[slips.Recorded]:
    """The last ones; how it is set now stays, and is put right under Settings."""
    rows = SettingTrial.objects.filter(setting__unit=unit).select_related("setting").order_by("-id")[:MOST_SLIPS]
    return [
        slips.Recorded(f"trial:{row.pk}", "Tried", f"{row.setting}, {row.first} against {row.second}: {row.better}")
        for row in rows
    ]


def no_trial(person: Person, unit: Unit, number: int) -> None:
    require(person, "record settings")
    SettingTrial.objects.filter(pk=number, setting__unit=unit).delete()


def failures_of(unit: Unit) -> list[slips.Recorded]:
    """The last goes that failed; one that worked is taken back with its step."""
    rows = InstallAttempt.objects.filter(job__unit=unit, worked=False).order_by("-id")[:MOST_SLIPS]
    return [
        slips.Recorded(f"attempt:{row.pk}", "Failed", f"{row}, {timezone.localtime(row.when):%-d %b %H:%M}")
        for row in rows
    ]


def no_failure(person: Person, unit: Unit, number: int) -> None:
    require(person, "work through a recipe")
    InstallAttempt.objects.filter(pk=number, job__unit=unit, worked=False).delete()
