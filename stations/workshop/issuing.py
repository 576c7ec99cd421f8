"""Parts on their way into a machine: held for a job, issued to it, fitted, and back into the drawer."""

import re
from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal

from django.db import transaction
from django.db.models import F
from django.urls import reverse

from core.flow.stage import CLOSED_TO_WORK
from core.machine.names import as_seen
from core.stock.parts import Condition, PartKind
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post, reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock import drawer
from stations.stock.drawer import Freed, Held
from stations.stock.models import StockItem
from stations.units import offers, parts, stages
from stations.units.models import Part, PartMove, Unit
from stations.workshop.approach import Work, check_approach, still_here
from stations.workshop.models import Job, PartIssue, Reservation

UNIT = HistoryEntry.Subject.UNIT
MOST_FREED = 100


@transaction.atomic
def reserve(person: Person, job: Job, item: StockItem, amount: Decimal) -> Reservation:
    """Hold so much of a drawer for a job; more of what it holds already adds to it."""
    require(person, "reserve parts")
    job = _open(job)
    item = drawer.hold_row(item)
    if amount > item.free:
        said = drawer.held_words(item)
        raise Refused(
            f"Only {item.free_amount} free in drawer {item.drawer or '–'}, {item.words(amount)} wanted"
            f"{': ' + said if said else ''}.",
            "quantity",
        )
    row = _hold(person, job, item, amount)
    words = f"{item.words(amount)} × {item.name} held for {job.title}"
    history.record(person, "workshop.reserve", UNIT, job.unit_id, words, part=item.name, quantity=amount)
    return row


def _hold(person: Person, job: Job, item: StockItem, amount: Decimal) -> Reservation:
    StockItem.objects.filter(pk=item.pk).update(reserved=item.reserved + amount)
    row, made = Reservation.objects.get_or_create(
        job=job, item=item, defaults={"quantity": amount, "when": clock.now(), "who": person}
    )
    if not made:
        row.quantity += amount
        row.save()
    return row


@transaction.atomic
def let_go(person: Person, reservation: Reservation) -> None:
    """What was held for a job is free again."""
    require(person, "reserve parts")
    job = reservation.job
    words = f"No longer held for {job.title}: {reservation.item.words(reservation.quantity)} × {reservation.item.name}"
    release(reservation)
    history.record(person, "workshop.let_go", UNIT, job.unit_id, words)


def release(reservation: Reservation, amount: Decimal | None = None) -> None:
    """`amount` of it is held no more; without, all of it."""
    item = drawer.hold_row(reservation.item)
    row = Reservation.objects.select_for_update().filter(pk=reservation.pk).first()
    if row is None:
        raise Refused("That is held no more.")
    going = row.quantity if amount is None else min(amount, row.quantity)
    StockItem.objects.filter(pk=item.pk).update(reserved=item.reserved - going)
    _shrink(row, going)


def _shrink(row: Reservation, amount: Decimal) -> None:
    if amount >= row.quantity:
        row.delete()
    else:
        Reservation.objects.filter(pk=row.pk).update(quantity=row.quantity - amount)


def held_for_jobs(ids: Iterable[int]) -> Mapping[int, list[Held]]:
    """What is held for jobs: one query."""
    found: dict[int, list[Held]] = {}
    for row in Reservation.objects.filter(item__in=list(ids)).select_related("job__unit"):
        by = f"{row.job.unit.tag}, {row.job.title}"
        address = reverse("workshop:job", args=[row.job_id])
        found.setdefault(row.item_id, []).append(Held(row.quantity, by, address))
    return found


@transaction.atomic
def issue_part(person: Person, job: Job, item: StockItem, amount: Decimal | int) -> PartIssue:
    """Take parts out of the drawer and put their cost on the unit: what is free and what is held for this very job."""
    require(person, "issue parts")
    amount = Decimal(amount)
    job = _open(job)
    item = drawer.hold_row(item)
    if item.faulty:
        raise Refused(f"{item.name} in drawer {item.drawer or '–'} is faulty. Found good? Correct it first.", "item")
    if item.modern and job.visible_modern:
        check_approach(person, job.unit, Work(job.kind, None, True, job.override_reason), job.override_reason)
    own = Reservation.objects.select_for_update().filter(job=job, item=item).first()
    cost = drawer.take(item, amount, own.quantity if own else Decimal(0))
    if own:
        _shrink(own, amount)
    legs = [
        Leg(Account.STOCK, item.pk, EntryKind.PART_ISSUED, -cost),
        Leg(Account.UNIT, job.unit_id, EntryKind.PART_ISSUED, cost, job.unit.lot_id),
    ]
    said = item.words(amount)
    posting = post(person, f"{said} × {item.name} into {job.unit.tag}", legs)
    issue = PartIssue.objects.create(
        job=job, item=item, quantity=amount, cost=cost, posting=posting, when=clock.now(), who=person
    )
    offers.got(job.unit, item.name)
    if item.keeps_data:
        # Whatever was sanitised before: this storage was not, and it may hold somebody’s data.
        Unit.objects.filter(pk=job.unit_id).update(storage_added_at=clock.now())
    history.record(
        person,
        "workshop.issue_part",
        UNIT,
        job.unit_id,
        f"Issued {said} × {item.name}, {cost}",
        issue=issue.pk,
        part=item.name,
        quantity=amount,
        cost=cost,
    )
    stages.refresh(job.unit)
    return issue


@transaction.atomic
def fit_issue(person: Person, issue: PartIssue, kind: PartKind, slot: str, serial: str = "") -> Part:
    """One piece that was issued sits in the machine now: it gets a record of its own, with where it came from."""
    require(person, "record parts")
    issue = _held_issue(issue)
    if issue.part_id:
        raise Refused(f"It is in already, as {issue.part}.")
    if issue.quantity != 1 or not issue.item.in_pieces:
        raise Refused("Only a single piece has a place of its own. Issue pieces one by one to say where each sits.")
    item, unit = issue.item, issue.job.unit
    part = parts.new_part(
        parts.Described(
            kind,
            item.name,
            within(serial, 40, "serial"),
            condition=Condition(item.condition),
            keeps_data=True if item.keeps_data else None,
        ),
        unit=unit,
        slot=within(slot, 40, "slot"),
    )
    where = f"{unit.tag}{', ' + slot if slot else ''}"
    # Its cost came with the issue: the posting is that one’s.
    given = {"to_unit": unit, "cost": issue.cost, "posting": issue.posting}
    parts.note_move(person, part, PartMove.Kind.FITTED, f"drawer {item.drawer or '–'}", where, **given)
    PartIssue.objects.filter(pk=issue.pk).update(part=part)
    history.record(person, "workshop.fit_issue", UNIT, unit.pk, f"Fitted {part.name}, {part.code}, {where}")
    return part


@transaction.atomic
def return_part(person: Person, issue: PartIssue) -> None:
    """Put issued parts back in the drawer, at the cost they left with; what is told apart leaves the record."""
    require(person, "return parts")
    issue = _held_issue(issue)
    if issue.part:
        part = parts.hold_part(issue.part)
        if part.unit_id != issue.job.unit_id:
            raise Refused(f"{part} is not in {issue.job.unit.tag} any more: it is moved as a part of its own.")
        if part.serial or part.tests.exists():
            raise Refused(f"{part} has a record of its own: take it out there, it goes with its serial and tests.")
    item = drawer.hold_row(issue.item)
    drawer.put(item, issue.quantity)
    if issue.posting:
        reverse_posting(person, issue.posting, "returned to the drawer")
    PartIssue.objects.filter(pk=issue.pk).update(returned_at=clock.now())
    if issue.part:
        parts.back_with_others(person, issue.part, item)
    history.record(
        person,
        "workshop.return_part",
        UNIT,
        issue.job.unit_id,
        f"Put back {issue.amount} × {item.name}",
        issue=issue.pk,
        part=item.name,
        quantity=issue.quantity,
    )
    stages.refresh(issue.job.unit)


def _held_issue(issue: PartIssue) -> PartIssue:
    still_here(issue.job.unit)
    issue = lock_row(PartIssue.objects.select_related("job__unit", "item", "posting", "part"), issue)
    if issue.returned_at:
        raise Refused("These parts are back in the drawer already.")
    return issue


def _open(job: Job) -> Job:
    still_here(job.unit)
    job = Job.objects.select_related("unit").get(pk=job.pk)
    if not job.is_open:
        raise Refused("This job is done: parts go into open jobs only.")
    return job


def came_for_jobs(person: Person, items: Sequence[StockItem]) -> list[Freed]:
    """Jobs that waited for something called like what came go on, and one of it is held for each while there is one
    free: the longest open first."""
    found = []
    for job in _waiting():
        item = next((item for item in items if waits_for(job, item.name)), None)
        if item is None:
            continue
        Job.objects.filter(pk=job.pk).update(waiting_for="", waiting_until=None, version=F("version") + 1)
        held = "none of it is free"
        if (here := drawer.hold_row(item)).free >= 1:
            # Whoever took it in need not be one who may hold parts for jobs.
            _hold(person, job, here, Decimal(1))
            held = f"{item.words(Decimal(1))} held for it"
        words = f"{item.name} is here: {job.title} can go on"
        history.record(person, "workshop.came_for_jobs", UNIT, job.unit_id, words, job=job.pk, part=item.name)
        stages.refresh(job.unit)
        found.append(Freed(f"{job.unit.tag}: {job.title}, {held}", reverse("workshop:job", args=[job.pk])))
    return found


def hold_waiting(names: Sequence[str]) -> None:
    """Lock the units of the jobs that wait for something called so."""
    units = {job.unit_id for job in _waiting() if any(waits_for(job, name) for name in names)}
    for pk in sorted(units):
        lock_row(Unit.objects.all(), Unit(pk=pk))


def _waiting():
    """Jobs that wait for something, the longest open first."""
    jobs = Job.objects.exclude(unit__stage__in=CLOSED_TO_WORK).filter(done_at=None).exclude(waiting_for="")
    return jobs.select_related("unit").order_by("opened_at", "id")[:MOST_FREED]


def in_use(item: StockItem) -> list[str]:
    """Machines that got pieces of a drawer and still have them, the latest first: one query."""
    rows = PartIssue.objects.filter(item=item, returned_at=None).select_related("job__unit", "item")
    return [f"{row.amount} in {row.job.unit.tag}" for row in rows.order_by("-id")[:MOST_FREED]]


def waits_for(job: Job, name: str) -> bool:
    """Whether a job waits for something called so: every word of it is a word of the name."""
    return bool(job.waiting_for) and set(_words(job.waiting_for)) <= set(_words(name))


def _words(name: str) -> list[str]:
    return re.findall(r"\w+", as_seen(name))
