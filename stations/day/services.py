"""What people say of a day: hours, promises, parcels, wishes; what begins, ends and slips."""

from calendar import day_name
from dataclasses import dataclass
from datetime import date, datetime, time
from decimal import Decimal

from django.db import IntegrityError, transaction
from django.utils.timezone import localtime

from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.day.gather import NEEDS_LEAVE
from stations.day.models import Arrival, HoursOfDay, PlannedTask, Promise, Record, Wish, WorkingHours
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import may, require
from stations.units.models import Unit

MOST_PRICE = Decimal(100_000)


@dataclass(frozen=True)
class Hours:
    """Of one weekday or day; both ends of the break or neither."""

    begins: time
    ends: time
    break_from: time | None = None
    break_until: time | None = None

    @property
    def words(self) -> str:
        away = f", away {self.break_from:%H:%M} to {self.break_until:%H:%M}" if self.break_from else ""
        return f"{self.begins:%H:%M} to {self.ends:%H:%M}{away}"


def _may_say(person: Person, of: Person) -> None:
    if of.pk == person.pk:
        require(person, "say one’s own hours")
    else:
        require(person, "say when somebody works")


@transaction.atomic
def say_hours(person: Person, of: Person, weekday: int, hours: Hours | None) -> None:
    """When somebody works on a weekday (0 is Monday); None: not at all."""
    _may_say(person, of)
    if not 0 <= weekday <= 6:
        raise Refused("A day of the week.", "weekday")
    if hours is None:
        if WorkingHours.objects.filter(person=of, weekday=weekday).delete()[0]:
            words = f"Not in on {day_name[weekday]}s"
            history.record(person, "day.say_hours", HistoryEntry.Subject.PERSON, of.pk, words)
        return
    _refuse_out_of_order(hours)
    row = WorkingHours.objects.filter(person=of, weekday=weekday).first()
    if row and not history.says_otherwise(row, vars(hours)):
        return
    WorkingHours.objects.update_or_create(person=of, weekday=weekday, defaults=vars(hours))
    words = f"In on {day_name[weekday]}s {hours.words}"
    history.record(person, "day.say_hours", HistoryEntry.Subject.PERSON, of.pk, words)


def _refuse_out_of_order(hours: Hours) -> None:
    if (hours.break_from is None) != (hours.break_until is None):
        raise Refused("A break has a begin and an end.", "break_until")
    moments = [hours.begins, *filter(None, (hours.break_from, hours.break_until)), hours.ends]
    if moments != sorted(set(moments)):
        raise Refused("In order: begin, break, end.", "ends")


NOT_IN = {"begins": None, "ends": None, "break_from": None, "break_until": None}


@transaction.atomic
def say_day(person: Person, of: Person, day: date, hours: Hours | None) -> None:
    """When somebody works on one day, whatever its weekday’s hours are; None: not at all."""
    _may_say(person, of)
    if hours:
        _refuse_out_of_order(hours)
    said = vars(hours) if hours else NOT_IN
    row = HoursOfDay.objects.filter(person=of, day=day).first()
    if row and not history.says_otherwise(row, said):
        return
    HoursOfDay.objects.update_or_create(person=of, day=day, defaults=said)
    words = f"On {day:%-d %b %Y} {'in ' + hours.words if hours else 'not in'}"
    history.record(person, "day.say_day", HistoryEntry.Subject.PERSON, of.pk, words)


@transaction.atomic
def as_usual(person: Person, row: HoursOfDay) -> None:
    """On that day the hours of its weekday hold."""
    _may_say(person, row.person)
    if HoursOfDay.objects.filter(pk=row.pk).delete()[0]:
        words = f"On {row.day:%-d %b %Y} as usual"
        history.record(person, "day.as_usual", HistoryEntry.Subject.PERSON, row.person_id, words)


@transaction.atomic
def promise(person: Person, unit: Unit, by: datetime, words: str, price: Decimal) -> Promise:
    """Say by when a unit is ready, and what breaking that costs."""
    require(person, "make a promise")
    if by <= clock.now():
        raise Refused("That time is over.", "by")
    if not 0 <= price <= MOST_PRICE:
        raise Refused(f"From 0 to {MOST_PRICE:,}.", "price")
    if unit.promises.filter(kept=None).exists():
        raise Refused(f"{unit.tag} has a promise already: settle that first.", "words")
    row = Promise.objects.create(unit=unit, by=by, words=within(words, 80, "words"), price=price, made_by=person)
    history.record(
        person, "day.promise", HistoryEntry.Subject.UNIT, unit.pk, f"Promised: {row.words}, {localtime(by):%d %b %H:%M}"
    )
    return row


@transaction.atomic
def settle_promise(person: Person, row: Promise, kept: bool) -> None:
    require(person, "make a promise")
    if not Promise.objects.filter(pk=row.pk, kept=None).update(kept=kept):
        raise Refused("That is settled already.")
    words = f"Promise {'kept' if kept else 'broken'}: {row.words}"
    history.record(person, "day.settle_promise", HistoryEntry.Subject.UNIT, row.unit_id, words)


@transaction.atomic
def not_settled(person: Person, row: Promise) -> None:
    """It was neither kept nor broken: it stands."""
    require(person, "make a promise")
    if row.unit.promises.filter(kept=None).exists():
        raise Refused(f"{row.unit.tag} has another promise by now: settle that first.")
    if not Promise.objects.filter(pk=row.pk, kept__isnull=False).update(kept=None):
        raise Refused("That is open already.")
    words = f"Promise stands: {row.words}"
    history.record(person, "day.not_settled", HistoryEntry.Subject.UNIT, row.unit_id, words)


@transaction.atomic
def take_back_promise(person: Person, row: Promise) -> None:
    """Nobody was promised that."""
    require(person, "make a promise")
    if not Promise.objects.filter(pk=row.pk, kept=None).delete()[0]:
        raise Refused("That is settled already.")
    words = f"Was not promised: {row.words}"
    history.record(person, "day.take_back_promise", HistoryEntry.Subject.UNIT, row.unit_id, words)


@transaction.atomic
def expect(person: Person, day: date, at: time, words: str, unit: Unit | None = None) -> Arrival:
    """A parcel that comes at about a time."""
    require(person, "plan the day")
    if not words:
        raise Refused("Say what comes.", "what")
    return Arrival.objects.create(day=day, at=at, words=within(words, 60, "what"), unit=unit)


@transaction.atomic
def it_came(person: Person, row: Arrival) -> None:
    require(person, "plan the day")
    Arrival.objects.filter(pk=row.pk, came_at=None).update(came_at=clock.now())


@transaction.atomic
def it_came_not(person: Person, row: Arrival) -> None:
    """It is not here: it is still expected."""
    require(person, "plan the day")
    Arrival.objects.filter(pk=row.pk).update(came_at=None)


@transaction.atomic
def expect_no_more(person: Person, row: Arrival) -> None:
    """It does not come, or was never to."""
    require(person, "plan the day")
    if not Arrival.objects.filter(pk=row.pk, came_at=None).delete()[0]:
        raise Refused("It is here already.")


@transaction.atomic
def wish(
    person: Person, task: PlannedTask, who: Person | None, at: time | None, forbidden: bool = False
) -> Wish | None:
    """Pin a task to somebody, to a time, or keep it off the day; all empty takes the wish back."""
    require(person, "plan the day")
    day = task.plan.day
    if Record.objects.filter(day=day, unit=task.unit_id, code=task.code).exists():
        raise Refused(f"{task.title} has begun: it stays where it is.")
    if who is not None and not may(who, NEEDS_LEAVE[task.kind.split(" ")[0]]):
        raise Refused(f"{who.name} may not do that.", "who")
    if who is None and at is None and not forbidden:
        Wish.objects.filter(day=day, unit=task.unit_id, code=task.code).delete()
        return None
    wanted = {"person": who, "at": at, "forbidden": forbidden, "by": person, "title": task.title}
    row, _ = Wish.objects.update_or_create(day=day, unit=task.unit, code=task.code, defaults=wanted)
    return row


@transaction.atomic
def take_back_wish(person: Person, row: Wish) -> None:
    """It is planned like any other again."""
    require(person, "plan the day")
    Wish.objects.filter(pk=row.pk).delete()


@transaction.atomic
def begin(person: Person, task: PlannedTask) -> Record:
    """A task begins, by whoever says so. Somebody has one in hand at a time."""
    require(person, "begin and end a task")
    unit = lock_row(Unit.objects.all(), task.unit)
    day = task.plan.day
    if day != clock.today():
        raise Refused("That is on another day.")
    if going := Record.objects.filter(person=person, ended_at=None, day=day).first():
        raise Refused(f"You have {going.title} in hand. End that first.")
    try:
        with transaction.atomic():
            return Record.objects.create(
                day=day,
                unit=unit,
                code=task.code,
                kind=task.kind,
                title=task.title,
                person=person,
                planned_at=task.start,
                planned_minutes=task.minutes,
                estimate=task.estimate,
                alone=task.alone,
                near=task.near,
                place=task.place,
                begun_at=clock.now(),
            )
    except IntegrityError as problem:
        raise Refused(f"{task.title} was begun already.") from problem


@transaction.atomic
def not_begun(person: Person, row: Record) -> None:
    """It was begun by a slip: it is still to come."""
    require(person, "begin and end a task")
    row = lock_row(Record.objects.all(), row, row.unit)
    if row.ended_at is not None:
        raise Refused(f"{row.title} ended already.")
    row.delete()


@transaction.atomic
def not_ended(person: Person, row: Record) -> None:
    """It was ended by a slip: it is in hand."""
    require(person, "begin and end a task")
    row = lock_row(Record.objects.all(), row, row.unit)
    if row.day != clock.today():
        raise Refused("That was on another day.")
    if row.ended_at is None:
        raise Refused(f"{row.title} is in hand.")
    if going := Record.objects.filter(person=row.person_id, ended_at=None, day=row.day).first():
        raise Refused(f"{row.person.name} has {going.title} in hand. End that first.")
    Record.objects.filter(pk=row.pk).update(ended_at=None, why_slipped="")


@transaction.atomic
def end(person: Person, row: Record, why_slipped: str = "") -> None:
    """Its hands-on part is over; what it took is learned from."""
    require(person, "begin and end a task")
    row = lock_row(Record.objects.all(), row, row.unit)
    if row.ended_at is not None:
        raise Refused(f"{row.title} ended at {localtime(clock.now()):%H:%M} already.")
    Record.objects.filter(pk=row.pk).update(
        ended_at=max(clock.now(), row.begun_at), why_slipped=within(why_slipped, 120, "why")
    )
