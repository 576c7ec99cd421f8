"""A small queue in the database: put in by requests, worked through by workers on as many machines as there are.

A worker claims by a conditional update with a lease and commits that, *then* works: no row is locked over a slow call,
and a worker that dies only loses its lease. Whatever is done may therefore be done twice, and has to bear it.
"""

import logging
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Any

from django.db import Error, IntegrityError, transaction
from django.db.models import Exists, F, Min, OuterRef, Q, QuerySet

from stations.common import clock
from stations.common.refusals import Refused, shortened
from stations.common.registry import Registry
from stations.people.history import record
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.stopped import SILENT
from stations.queue.models import QueuedWork, WorkerSeen

# What does the work of a kind, given what it is about; found in a module named `work` of each app.
kinds: Registry[Callable[[dict[str, Any]], None]] = Registry("kinds of queued work")

# What is due again and again: each puts in what is due now, under a name of its own (`once`), and nothing twice.
recurring: Registry[Callable[[], None]] = Registry("recurring work")

# Kinds that are asked for again by themselves, and whose failing is told by the room that asks.
told_otherwise: set[str] = set()

State = QueuedWork.State
LEASE = timedelta(minutes=2)
MOST_TRIES = 6
FIRST_PAUSE = timedelta(seconds=5)
# Among so many that are due a worker tries its luck, so that many workers do not all ask for the same one.
LOOK_AT = 8
KEEP_ENDED = timedelta(days=30)

_log = logging.getLogger(__name__)


def put(kind: str, about: dict[str, Any], person: Person | None = None, once: str | None = None) -> QueuedWork:
    """Queue something; `once`: where the same waits already, that is answered. Raises KeyError for an unknown kind."""
    kinds[kind]
    now = clock.now()
    try:
        with transaction.atomic():
            return QueuedWork.objects.create(kind=kind, about=about, put_by=person, put_at=now, due_at=now, once=once)
    except IntegrityError:
        # Asked for by somebody else meanwhile; if it ended in between, this one is new after all.
        there = QueuedWork.objects.filter(once=once).first()
        return there or put(kind, about, person, once)


def claim(worker: str) -> QueuedWork | None:
    """Something that is due, claimed for this worker; None where nothing is. Not to be called within a transaction."""
    now = clock.now()
    due = Q(state=State.WAITING, due_at__lte=now) | Q(state=State.CLAIMED, lease_until__lt=now)
    for pk in QueuedWork.objects.filter(due).order_by("due_at", "id").values_list("pk", flat=True)[:LOOK_AT]:
        taken = QueuedWork.objects.filter(due, pk=pk).update(
            state=State.CLAIMED, claimed_by=worker, lease_until=now + LEASE, tries=F("tries") + 1
        )
        if taken:
            return QueuedWork.objects.get(pk=pk)
    return None


def work_once(worker: str) -> QueuedWork | None:
    """Claim one thing and do it; None where nothing is due. What fails is tried again later, each time after twice the
    pause, and given up in the end."""
    row = claim(worker)
    if row is None:
        return None
    try:
        kinds[row.kind](row.about)
    except Exception as problem:  # whatever a kind of work raises, the worker goes on
        _log.warning("queued work %s failed", row.pk, exc_info=problem)
        _failed(row, str(problem) if isinstance(problem, Refused) else f"{type(problem).__name__}: {problem}")
    else:
        _ended(row, State.DONE)
    row.refresh_from_db()
    return row


def _failed(row: QueuedWork, words: str) -> None:
    if row.tries >= MOST_TRIES:
        _ended(row, State.FAILED, words)
        return
    pause = FIRST_PAUSE * 2 ** (row.tries - 1)
    _mine(row).update(
        state=State.WAITING, due_at=clock.now() + pause, claimed_by="", lease_until=None, error=shortened(words, 300)
    )


def _ended(row: QueuedWork, state: State, words: str = "") -> None:
    _mine(row).update(state=state, ended_at=clock.now(), once=None, lease_until=None, error=shortened(words, 300))


def _mine(row: QueuedWork):
    """Only while the lease is still this worker’s: somebody else may have taken it over."""
    return QueuedWork.objects.filter(pk=row.pk, state=State.CLAIMED, claimed_by=row.claimed_by, tries=row.tries)


def note_worker() -> None:
    """A worker asks for work now."""
    if not WorkerSeen.objects.filter(pk=1).update(at=clock.now()):
        WorkerSeen.objects.get_or_create(pk=1, defaults={"at": clock.now()})


def silent_since() -> datetime | None:
    """Since when no worker has asked for work, where that is long; None else. Before the first was seen, what waits
    longest says it."""
    seen = WorkerSeen.objects.values_list("at", flat=True).first()
    if seen is None:
        seen = QueuedWork.objects.filter(state=State.WAITING).aggregate(first=Min("put_at"))["first"]
    return seen if seen and clock.now() - seen > SILENT else None


def being_done() -> QueuedWork | None:
    """What a worker claimed last and has not ended."""
    return QueuedWork.objects.filter(state=State.CLAIMED).order_by("-lease_until").first()


def given_up() -> "QuerySet[QueuedWork]":
    """What was given up and nobody tells otherwise, the last first; without what was done after all when it was asked
    for anew."""
    done = QueuedWork.objects.filter(
        state=State.DONE, kind=OuterRef("kind"), about=OuterRef("about"), ended_at__gt=OuterRef("ended_at")
    )
    found = QueuedWork.objects.filter(~Exists(done), state=State.FAILED).exclude(kind__in=told_otherwise)
    return found.order_by("-ended_at", "-id")


@transaction.atomic
def leave(person: Person, row: QueuedWork) -> None:
    """What was given up is not to be done any more."""
    require(person, "try queued work again")
    gone, _ = QueuedWork.objects.filter(pk=row.pk, state=State.FAILED).delete()
    if not gone:
        raise Refused("It was not given up, or somebody tried it again already.")
    words = f"Given up for good: {row.kind}. {row.error}"
    record(person, "queue.leave", HistoryEntry.Subject.SHOP, 0, words, about=row.about)


def try_again(person: Person, row: QueuedWork) -> None:
    """What was given up is due now."""
    require(person, "try queued work again")
    changed = QueuedWork.objects.filter(pk=row.pk, state=State.FAILED).update(
        state=State.WAITING, tries=0, due_at=clock.now(), ended_at=None, claimed_by="", error=""
    )
    if not changed:
        raise Refused("It was not given up, or somebody tried it again already.")


def put_recurring() -> None:
    """Put in what is due again; whatever one of them raises, the others and the worker go on."""
    for name, due in recurring.items():
        try:
            due()
        except Error:
            raise
        except Exception as problem:
            _log.warning("recurring work %s failed", name, exc_info=problem)


def forget_old() -> None:
    QueuedWork.objects.filter(ended_at__lt=clock.now() - KEEP_ENDED, state=State.DONE).delete()
