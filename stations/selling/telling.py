"""Telling a channel what should stand there: by one at a time, always what is so at that moment, until it is so."""

import uuid
from datetime import timedelta

from django.db.models import F, Q

from stations.common import clock
from stations.common.refusals import Refused, shortened
from stations.queue.services import put
from stations.selling import placing, remote
from stations.selling.models import Channel, ChannelMessage, Listing, Offer, Placement, Question
from stations.selling.remote import ChannelTrouble

HELD_FOR = timedelta(seconds=60)
READ = "read a channel"
ANSWER = "answer on a channel"
MOST_TURNS = 10


class NotTold(Refused):
    """Something of ours has to change before the channel can be told; in words."""


def tell(pk: int) -> None:
    """Bring one placement to what is wanted. What is wanted anew meanwhile is told before this ends; who finds that
    somebody else is telling leaves it to him. Raises ChannelTrouble."""
    me = uuid.uuid4().hex
    for _ in range(MOST_TURNS):
        now = clock.now()
        free = Q(held_until=None) | Q(held_until__lt=now)
        if not Placement.objects.filter(free, pk=pk).update(held_by=me, held_until=now + HELD_FOR):
            return
        row = Placement.objects.select_related("channel", "unit").get(pk=pk)
        mine = Placement.objects.filter(pk=pk, held_by=me)
        try:
            told = _as_wanted(row)
        except NotTold as problem:
            mine.update(trouble=shortened(problem.message, 200), held_by="", held_until=None)
            return
        except ChannelTrouble as problem:
            mine.update(trouble=shortened(str(problem), 200), held_by="", held_until=None)
            trouble(row.channel, str(problem))
            raise
        mine.update(stands=row.wanted, confirmed=row.turn, told=told, trouble="", changed_at=clock.now())
        well(row.channel)
        mine.update(held_by="", held_until=None)
        # Whoever found it held in the meantime left his turn to us.
        if not Placement.objects.filter(pk=pk).exclude(confirmed=F("turn")).exists():
            return
    put(placing.TELL, {"placement": pk})


def _as_wanted(row: Placement) -> str:
    """Tell the channel; answers the digest of what stands there then."""
    about = str(row.unit.tag)
    if not row.wanted:
        if row.stands is False:
            return ""
        Placement.objects.filter(pk=row.pk).update(stands=None)
        if remote.end(row.channel, about) == remote.SOLD:
            # It was sold there: what became of that is among its news.
            read_soon(row.channel)
        return ""
    wanted = placing.on_the_channel(row.unit, Listing.objects.get(unit=row.unit), row.channel)
    longest = row.channel.text_length
    if len(wanted["text"]) > longest:
        raise NotTold(f"{len(wanted['text']):,} characters with what must be said; it takes {longest:,}. Shorten them.")
    digest = placing.digest(wanted)
    if row.stands and row.told == digest:
        return digest
    if not row.stands:
        Placement.objects.filter(pk=row.pk).update(stands=None)
    if remote.put(row.channel, about, wanted) == remote.SOLD:
        read_soon(row.channel)
        raise NotTold("It was sold there: what became of that is among its news.")
    return digest


def answer(kind: str, pk: int) -> None:
    """Tell a channel what was answered; once it knows, nothing."""
    now = clock.now()
    if kind == "offer":
        offer = Offer.objects.select_related("channel").filter(pk=pk, told_at=None).first()
        if offer and offer.channel and offer.remote:
            words = {"answer": offer.status, "counter": str(offer.counter or "")}
            _answered(offer.channel, offer.remote, words)
            Offer.objects.filter(pk=pk).update(told_at=now)
    elif kind == "question":
        question = Question.objects.select_related("channel").filter(pk=pk, told_at=None).first()
        if question and question.channel and question.remote:
            _answered(question.channel, question.remote, {"answer": "words", "words": question.answer})
            Question.objects.filter(pk=pk).update(told_at=now)
    else:
        message = ChannelMessage.objects.select_related("channel").filter(pk=pk, told_at=None).first()
        if message:
            _answered(message.channel, message.remote, {"answer": "refuse", "words": message.words})
            ChannelMessage.objects.filter(pk=pk).update(told_at=now)


def _answered(channel: Channel, name: str, words: dict[str, str]) -> None:
    try:
        remote.answer(channel, name, words)
    except ChannelTrouble as problem:
        trouble(channel, str(problem))
        raise
    well(channel)


def read_soon(channel: Channel) -> None:
    """Have its news read; asked for twice, they are read once."""
    put(READ, {"channel": channel.pk}, once=f"read channel {channel.pk}")


def trouble(channel: Channel, words: str) -> None:
    """The channel did not answer, or nonsense; since when is kept."""
    mine = Channel.objects.filter(pk=channel.pk)
    mine.filter(trouble_since=None).update(trouble_since=clock.now())
    mine.update(trouble=shortened(words, 200))


def well(channel: Channel) -> None:
    Channel.objects.filter(pk=channel.pk).update(trouble="", trouble_since=None, answered_at=clock.now())
