"""What the workshop answers on its own page: what do I do with my hands now?"""

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from django.db.models import ExpressionWrapper, F, FloatField, Q, Sum
from django.urls import reverse

from core.flow.awaited import ASK_AFTER
from core.flow.stage import CLOSED_TO_WORK, State, Station
from stations.bench import timers
from stations.common import clock
from stations.common.paging import first_of
from stations.ledger.models import Account, EntryKind, LedgerEntry
from stations.stock.models import PartOrder, StockItem
from stations.units.models import Unit
from stations.workshop.issuing import waits_for
from stations.workshop.models import Job, JobStep

MOST = 40


@dataclass(frozen=True)
class Running:
    """Something that runs by itself on a unit, and when it wants somebody."""

    unit: Unit
    title: str
    begun: datetime
    until: datetime
    address: str

    @property
    def over(self) -> bool:
        return self.until <= clock.now()

    @property
    def share(self) -> float:
        """Of its time that is gone, 0 to 1."""
        whole = (self.until - self.begun).total_seconds()
        return min(1.0, max(0.0, (clock.now() - self.begun).total_seconds() / whole)) if whole > 0 else 1.0


def running() -> list[Running]:
    """Steps of recipes and of test plans that run by themselves, those that want somebody first: two queries."""
    steps = JobStep.objects.filter(alone_until__isnull=False, done_at=None, left_out="", job__done_at=None)
    found = [
        Running(step.job.unit, step.job.title, step.alone_from, step.alone_until, _job(step.job))
        for step in steps.select_related("job__unit")[:MOST]
        if step.alone_from and step.alone_until
    ]
    found += [
        Running(
            timer.run.unit,
            timer.title,
            timer.started_at,
            timer.ends_at,
            f"{reverse('bench:unit', args=[timer.run.unit.number])}?step={timer.code}",
        )
        for timer in timers.running()[:MOST]
    ]
    return sorted(found, key=lambda one: one.until)


def can_go_on():
    """Open jobs nothing speaks against, by what they were said to add for a minute of hands; unknown comes last."""
    rate = ExpressionWrapper(F("said_to_add") * 1.0 / F("estimate_minutes"), output_field=FloatField())
    jobs = _here().awake().filter(decision="")
    asleep = JobStep.objects.filter(alone_until__gt=clock.now(), done_at=None, left_out="").values("job_id")
    jobs = jobs.exclude(pk__in=asleep).annotate(rate=rate, minutes=Sum("labour__minutes"))
    return jobs.order_by(F("rate").desc(nulls_last=True), "opened_at", "id")


def waiting():
    """Open jobs that wait, by the day on which they come back."""
    return first_of(_here().waiting().order_by(F("waiting_until").asc(nulls_last=True), "opened_at"), MOST)


def to_decide():
    """Units in the workshop that wait for a decision or stand on hold."""
    units = Unit.objects.filter(station=Station.WORKSHOP, state__in=[State.HOLD, State.DECISION])
    return first_of(units.select_related("lot").order_by("stage_since", "number"), MOST)


def standing_by():
    """Units in the workshop that wait and have no job that says so: parked, or kept for their parts."""
    units = Unit.objects.filter(station=Station.WORKSHOP, state=State.WAITING).exclude(
        jobs__done_at=None, jobs__isnull=False
    )
    return first_of(units.order_by("stage_since", "number"), MOST)


def came_in() -> list[tuple[StockItem, list[Job]]]:
    """Parts that were bought into drawers today, with the jobs that wait for something of that name: two queries."""
    bought = LedgerEntry.objects.filter(account=Account.STOCK, kind=EntryKind.PURCHASE, happened_on__gte=clock.today())
    items = list(StockItem.objects.filter(pk__in=bought.values("account_id"))[:MOST])
    waits = list(_here().filter(done_at=None).exclude(waiting_for="")[:200]) if items else []
    return [(item, [job for job in waits if waits_for(job, item.name)]) for item in items]


def expected_parcels():
    """Orders that are due today or late, also those of which no day was said, the latest first: two queries."""
    today = clock.today()
    late = Q(expected_on__lte=today) | Q(expected_on=None, ordered_on__lt=today - ASK_AFTER)
    rows = PartOrder.objects.filter(late, arrived_at=None, called_off="")
    rows = rows.select_related("seller").prefetch_related("lines__item").order_by("expected_on", "number")
    return first_of(rows, MOST)


def rate_of(job: Job) -> Decimal | None:
    """What it was said to add for a minute of hands; None where nobody said."""
    return None if job.said_to_add is None else job.said_to_add / job.estimate_minutes


def _here():
    return Job.objects.exclude(unit__stage__in=CLOSED_TO_WORK).select_related("unit")


def _job(job: Job) -> str:
    return reverse("workshop:job", args=[job.pk])
