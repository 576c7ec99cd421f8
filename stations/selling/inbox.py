"""Questions and offers from everywhere in one list: taken in, compared with waiting, answered once."""

from datetime import timedelta
from decimal import Decimal

from django.db import transaction

from core.money import to_cent
from core.selling.grade import Grade
from core.selling.listing import ListingFacts
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.queue.services import put
from stations.selling import telling, wording
from stations.selling.models import Channel, Listing, Offer, Question
from stations.selling.selectors import grade_set
from stations.selling.waiting import Waiting, answer_to, waiting_of
from stations.units.models import Unit

# Pressed twice within this time is once; and a stranger’s page takes so many about one unit, and in all.
QUIET, MOST_ABOUT_A_UNIT, MOST_IN_ALL = timedelta(hours=1), 8, 60


def waiting_now(unit: Unit, listing: Listing, facts: ListingFacts | None = None) -> Waiting | None:
    """What waiting is worth as the record stands; None where nobody can say. `facts` where they were read already."""
    given = grade_set(unit)
    if given is None:
        return None
    return waiting_of(unit, listing, wording.market_now(unit, Grade(given.grade), listing.channel, facts))


def compare(offer: Offer, listing: Listing, waiting: Waiting | None) -> None:
    """Keep with the offer what it leaves and what to say to it."""
    if waiting is None:
        return
    told = answer_to(offer.amount, listing, waiting)
    advice, gain = Offer.Status.DECLINED, Decimal(0)
    if told.take:
        advice, gain = Offer.Status.TAKEN, told.leaves - told.waiting
    elif told.counter:
        more = waiting.left(told.counter) - max(told.waiting, told.leaves)
        advice, gain = Offer.Status.COUNTERED, to_cent(Decimal(repr(told.likely_yes)) * more)
    Offer.objects.filter(pk=offer.pk).update(
        waiting=told.waiting,
        leaves=told.leaves,
        advice=advice,
        advised=told.counter,
        likely_yes=told.likely_yes,
        gain=max(gain, Decimal(0)),
    )


def take_in_offer(
    unit: Unit, channel: Channel | None, remote: str | None, amount: Decimal, who: str, contact: str = ""
) -> str:
    """An offer that came by itself; answers what is wrong with it, in words, or nothing. Nothing is lost of it."""
    given = {"unit": unit, "amount": amount, "buyer": who, "contact": contact, "made_at": clock.now()}
    if remote:
        offer, new = Offer.objects.get_or_create(channel=channel, remote=remote, defaults=given)
    else:
        same = Offer.objects.filter(unit=unit, channel=channel, amount=amount, buyer=who)
        there = same.filter(made_at__gt=clock.now() - QUIET).first()
        offer, new = there or Offer.objects.create(channel=channel, **given), there is None
    listing = Listing.objects.select_related("channel").filter(unit=unit).first()
    if listing is None or not listing.is_live:
        return f"{amount} was offered for it, and it is not on offer."
    if new:
        compare(offer, listing, waiting_now(unit, listing))
    return ""


def take_in_question(
    unit: Unit, channel: Channel | None, remote: str | None, who: str, words: str, contact: str = ""
) -> Question:
    given = {"unit": unit, "who": who, "words": words, "contact": contact, "asked_at": clock.now()}
    if remote:
        return Question.objects.get_or_create(channel=channel, remote=remote, defaults=given)[0]
    same = Question.objects.filter(unit=unit, channel=channel, who=who, words=words)
    return same.filter(asked_at__gt=clock.now() - QUIET).first() or Question.objects.create(channel=channel, **given)


@transaction.atomic
def answer_question(person: Person, question: Question, words: str) -> None:
    """Answer it, once; a marketplace is told."""
    require(person, "answer an offer")
    question = lock_row(Question.objects.select_related("unit"), question)
    words = within(words.strip(), 2000, "answer")
    if question.answered_at:
        raise Refused(f"It was answered before: {question.answer[:200]}")
    if not words:
        raise Refused("Say something to it.", "answer")
    Question.objects.filter(pk=question.pk).update(answer=words, answered_at=clock.now(), answered_by=person)
    history.record(
        person, "selling.answer_question", HistoryEntry.Subject.UNIT, question.unit_id, f"Answered {question.who}"
    )
    if question.remote:
        put(telling.ANSWER, {"kind": "question", "pk": question.pk})


def room_for_more(unit: Unit) -> bool:
    """Whether a stranger’s page takes one more now: it is open to anybody, and nobody should be buried."""
    since = clock.now() - QUIET
    questions, offers = Question.objects.filter(asked_at__gt=since), Offer.objects.filter(made_at__gt=since)
    own = (questions.filter(remote=None), offers.filter(remote=None, made_at__gt=since))
    about = sum(rows.filter(unit=unit).count() for rows in own)
    return about < MOST_ABOUT_A_UNIT and sum(rows.count() for rows in own) < MOST_IN_ALL


@transaction.atomic
def from_the_shop(unit: Unit, who: str, contact: str, words: str, amount: Decimal | None) -> None:
    """What a visitor of the public shop asks or offers. Raises Refused, in words for him."""
    listing = Listing.objects.filter(unit=unit, status=Listing.Status.LIVE).first()
    if listing is None or listing.asking is None:
        raise Refused("It is not for sale any more.")
    if not room_for_more(unit):
        raise Refused("A great many have written in the last hour. Please try again later.")
    channel = Channel.objects.filter(kind=Channel.Kind.SHOP).order_by("id").first()
    if amount is not None and amount > listing.asking:
        raise Refused(f"It costs {listing.asking}: nobody has to offer more.", "amount")
    if amount is not None:
        take_in_offer(unit, channel, None, amount, who, contact)
    if words:
        take_in_question(unit, channel, None, who, words, contact)
