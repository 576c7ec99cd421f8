"""What selling has done outside of requests: channels told and read, listings looked at, reservations ended."""

from datetime import timedelta
from typing import Any

from django.db.models import Q

from stations.common import clock
from stations.queue.models import QueuedWork
from stations.queue.services import kinds, put, recurring, told_otherwise
from stations.selling import looking, news, offers, placing, telling
from stations.selling.models import Channel

LOOK = "look at what is on offer"
# How often a channel is read that answers, and one that does not.
READ_EVERY, READ_AGAIN = timedelta(seconds=20), timedelta(minutes=2)
# A reading that went well is nothing to keep.
KEEP_READINGS = timedelta(minutes=10)

told_otherwise.add(telling.READ)


@kinds.add(placing.TELL)
def _tell(about: dict[str, Any]) -> None:
    telling.tell(about["placement"])


@kinds.add(telling.READ)
def _read(about: dict[str, Any]) -> None:
    news.read(Channel.objects.get(pk=about["channel"]))


@kinds.add(telling.ANSWER)
def _answer(about: dict[str, Any]) -> None:
    telling.answer(about["kind"], about["pk"])


@kinds.add(LOOK)
def _look(about: dict[str, Any]) -> None:
    looking.look_at_some()


@recurring.add("reservations")
def _reservations() -> None:
    offers.end_those_that_ran_out()


@recurring.add("listings")
def _listings() -> None:
    if looking.due().exists():
        put(LOOK, {}, once=LOOK)


@recurring.add("channels")
def _channels() -> None:
    """Read those that answer by themselves; what one has not been told, as it did not answer, it is told when it
    does."""
    now = clock.now()
    done = QueuedWork.objects.filter(kind=telling.READ, state=QueuedWork.State.DONE)
    done.filter(ended_at__lt=now - KEEP_READINGS).delete()
    old = Q(asked_at=None) | Q(trouble_since=None, asked_at__lt=now - READ_EVERY) | Q(asked_at__lt=now - READ_AGAIN)
    for channel in Channel.objects.filter(old, kind=Channel.Kind.MARKET, in_use=True):
        # One that was given up is tried again, and seen once.
        given_up = QueuedWork.objects.filter(state=QueuedWork.State.FAILED)
        given_up.filter(kind=telling.READ, about={"channel": channel.pk}).delete()
        telling.read_soon(channel)
        if channel.trouble_since is None:
            for pk in placing.unsettled(channel):
                put(placing.TELL, {"placement": pk}, once=f"tell placement {pk}")
