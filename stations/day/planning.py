"""Plans of days: asked for, worked out by a worker, kept; the last one stays in use meanwhile."""

from collections.abc import Mapping
from datetime import date, datetime, timedelta
from typing import Any

from django.db import transaction

from core.flow.dayplan.checker import problems
from core.flow.dayplan.problem import DayPlan, Placed
from core.flow.dayplan.reasons import why_then
from core.flow.dayplan.solve import plan_day
from stations.common import clock
from stations.common.currency import before_amounts
from stations.common.refusals import Refused, shortened
from stations.day.gather import Gathered, gather, moment_of
from stations.day.models import LEFT_TITLE, PlannedTask, PlanOfDay, Record
from stations.people.models import Person
from stations.people.permissions import require
from stations.queue import services as queue
from stations.queue.models import QueuedWork

KIND = "plan the day"
# How long a worker looks for a better plan; it stops once nothing better can be.
SECONDS = 4.0
# A start that moves by less is not worth a word.
MOVED = timedelta(minutes=10)


def ask(person: Person, day: date) -> QueuedWork:
    """Have a day planned anew: by a worker, while the last plan stays in use. Asked for twice it is planned once."""
    require(person, "plan the day")
    if day < clock.today():
        raise Refused("That day is over.")
    return queue.put(KIND, {"day": day.isoformat(), "by": person.pk}, person, once=f"{KIND}: {day}")


def being_planned(day: date) -> QueuedWork | None:
    """What was asked for and is not there yet, or was given up: one query."""
    row = QueuedWork.objects.filter(kind=KIND, about__day=day.isoformat()).first()
    return row if row is not None and not (row.ended and not row.given_up) else None


def newest(day: date) -> PlanOfDay | None:
    return PlanOfDay.objects.filter(day=day).select_related("made_by").first()


def tasks_of(plan: PlanOfDay | None) -> list[PlannedTask]:
    """In order of their begin: one query."""
    if plan is None:
        return []
    return list(plan.tasks.select_related("unit", "person"))


def make(about: Mapping[str, Any]) -> None:
    """What a worker does: gather, plan, keep. A plan that breaks a rule is never kept."""
    day = date.fromisoformat(about["day"])
    moment = clock.now()
    gathered = gather(day, moment)
    if not gathered.problem.workers:
        raise Refused("Nobody works on that day: say who does, and when.")
    plan = plan_day(gathered.problem, seconds=SECONDS)
    if wrong := problems(gathered.problem, plan.placed):
        raise Refused(f"This plan does not hold: {wrong[0]}")
    keep(gathered, plan, moment, about.get("by"))


@transaction.atomic
def keep(gathered: Gathered, plan: DayPlan, moment: datetime, by: int | None) -> PlanOfDay:
    before = {(row.unit_id, row.code): row for row in tasks_of(newest(gathered.day))}
    row = PlanOfDay.objects.create(
        day=gathered.day,
        made_at=moment,
        made_by=Person.objects.filter(pk=by or 0).first(),
        released=plan.released,
        most=round(plan.most),
        gap=plan.gap,
        idle=plan.idle,
        broken=plan.broken,
        left=[[task.unit, shortened(task.title, LEFT_TITLE), task.minutes] for task in plan.left],
        beside=gathered.beside,
    )
    PlannedTask.objects.bulk_create(_row(row, gathered, plan, one, before) for one in plan.placed)
    return row


def _row(
    plan: PlanOfDay,
    gathered: Gathered,
    found: DayPlan,
    one: Placed,
    before: Mapping[tuple[int, str], PlannedTask],
) -> PlannedTask:
    task, unit = gathered.tasks[one.task.key], gathered.units[one.task.unit]
    start = moment_of(one.start, gathered.day)
    was = before.get((unit.pk, task.code))
    return PlannedTask(
        plan=plan,
        unit=unit,
        code=task.code,
        kind=task.kind,
        title=shortened(task.title, 120),
        person_id=one.who,
        start=start,
        minutes=one.until - one.start,
        estimate=task.minutes,
        alone=task.alone_minutes,
        near=task.near,
        place=one.task.place,
        why=shortened(why_then(found, one, before_amounts()), 120),
        promised=moment_of(one.task.promised, gathered.day) if one.task.promised is not None else None,
        needs=list(task.needs),
        before=was.start if was and abs(was.start - start) >= MOVED else None,
        pinned=one.task.pinned_who is not None or one.task.pinned_at is not None,
    )


def going_on(day: date) -> list[Record]:
    """What was begun on a day, whether it ended or not: one query."""
    return list(Record.objects.filter(day=day).select_related("unit", "person"))
