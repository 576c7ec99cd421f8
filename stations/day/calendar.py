"""Somebody’s plan as an iCalendar file (RFC 5545), and the secret address under which a calendar reads it."""

import hashlib
import secrets
from collections.abc import Iterable
from datetime import UTC, date, timedelta

from django.db import transaction
from icalendar import Calendar, Event

from stations.common import clock
from stations.day import planning
from stations.day.models import CalendarAddress, PlannedTask, PlanOfDay
from stations.people.models import Person
from stations.people.permissions import require

# A feed shows the days that have a plan, from yesterday on.
DAYS_AHEAD = 14


@transaction.atomic
def new_address(person: Person) -> str:
    """A new secret, shown once; the one before is dead. Only its digest is kept."""
    require(person, "have a calendar address")
    secret = secrets.token_urlsafe(32)
    CalendarAddress.objects.update_or_create(
        person=person, defaults={"digest": _digest(secret), "made_at": clock.now()}
    )
    return secret


@transaction.atomic
def no_address(person: Person) -> None:
    """Nobody reads the plan of this person any more."""
    require(person, "have a calendar address")
    CalendarAddress.objects.filter(person=person).delete()


def whose(secret: str) -> Person | None:
    """Whose plan an address shows; None for a wrong or old one, or somebody who is retired."""
    found = CalendarAddress.objects.filter(digest=_digest(secret), person__is_active=True).select_related("person")
    row = found.first()
    return row.person if row else None


def _digest(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def of_day(day: date, person: Person | None = None) -> bytes:
    """The newest plan of a day, of one person or of all."""
    tasks = planning.tasks_of(planning.newest(day))
    return _written(task for task in tasks if person is None or task.person_id == person.pk)


def feed(person: Person) -> bytes:
    """Of one person, the newest plan of each day from yesterday on: three queries."""
    first = clock.today() - timedelta(days=1)
    newest: dict[date, int] = {}
    plans = PlanOfDay.objects.filter(day__range=(first, first + timedelta(days=DAYS_AHEAD)))
    for pk, day in plans.order_by("id").values_list("pk", "day"):
        newest[day] = pk
    tasks = PlannedTask.objects.filter(plan__in=newest.values(), person=person)
    return _written(tasks.select_related("unit", "person", "plan"))


def _written(tasks: Iterable[PlannedTask]) -> bytes:
    """Starts in UTC, so that no zone has to be told. An event keeps its name when the task moves."""
    calendar = Calendar()
    calendar.add("prodid", "-//Wendopolis//Plan of the day//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", "Wendopolis")
    for task in tasks:
        event = Event()
        event.add(
            "uid", f"{task.unit_id}-{task.code.replace(':', '-').replace('/', '-')}-{task.start:%Y%m%d}@wendopolis"
        )
        event.add("dtstamp", task.plan.made_at)
        event.add("dtstart", task.start.astimezone(UTC))
        event.add("dtend", (task.start + timedelta(minutes=task.minutes)).astimezone(UTC))
        event.add("summary", f"{task.unit.tag.short} {task.title}")
        alone = f"\nThen {task.alone} min by itself{', somebody near' if task.near else ''}." if task.alone else ""
        event.add("description", f"{task.person.name}. {task.why}.{alone}")
        calendar.add_component(event)
    return calendar.to_ical()
