"""What channels tell: each thing kept once, however often it is told, and gone through; a unit is sold once."""

import hashlib
import json
from datetime import date, timedelta

from django.db import transaction

from core.machine.tags import TagError, parse_tag
from core.selling.channel import ChannelNews, Nonsense, Told, read_news
from stations.common import clock
from stations.common.currency import base_currency
from stations.common.locking import lock_row
from stations.common.refusals import Refused, shortened
from stations.people.models import Person, Role
from stations.people.permissions import may, require
from stations.queue.services import put
from stations.selling import holding, inbox, payments, placing, remote, services, telling
from stations.selling.models import Channel, ChannelMessage, Payment, Sale
from stations.selling.remote import ChannelTrouble
from stations.units.models import Unit

Outcome = ChannelMessage.Outcome
# What was paid for there is held for its buyer until somebody has decided.
HELD_FOR = timedelta(days=60)


def read(channel: Channel) -> None:
    """Keep what is new, go through it, and only then remember how far we read. Raises ChannelTrouble."""
    Channel.objects.filter(pk=channel.pk).update(asked_at=clock.now())
    try:
        found, upto = remote.news(channel)
    except ChannelTrouble as problem:
        telling.trouble(channel, str(problem))
        raise
    telling.well(channel)
    for raw in found:
        keep(channel, raw)
    for message in channel.messages.filter(outcome=Outcome.NEW).order_by("id"):
        try:
            go_through(message)
        except (Refused, ValueError, ArithmeticError) as problem:
            # One that breaks keeps back none of the others.
            _ended(message, Outcome.WAITS, f"It could not be taken in: {problem}")
    # One that counts anew has forgotten us: everything is read again, and what is here already is known.
    Channel.objects.filter(pk=channel.pk).update(read_to=0 if upto < channel.read_to else upto)


def keep(channel: Channel, raw: object) -> ChannelMessage:
    """As it came, once; what can’t be read is kept too, for somebody to look at."""
    try:
        news = read_news(raw)
        name, kind, words, outcome = news.remote, news.kind.value, "", Outcome.NEW
    except Nonsense as problem:
        body = json.dumps(raw, sort_keys=True, default=str)
        name, kind = hashlib.sha256(body.encode()).hexdigest(), "unread"
        words, outcome, raw = shortened(str(problem), 300), Outcome.UNREAD, body[:2000]
    row, _ = ChannelMessage.objects.get_or_create(
        channel=channel,
        kind=kind,
        remote=name,
        defaults={"raw": raw, "came_at": clock.now(), "outcome": outcome, "words": words},
    )
    return row


@transaction.atomic
def go_through(message: ChannelMessage) -> None:
    """Take it in, refuse it, or leave it for somebody to decide; once."""
    news, channel = read_news(message.raw), message.channel
    unit = _unit(news.about)
    if unit is None and news.about:
        _ended(message, Outcome.WAITS, f"It is about “{news.about}”, which is nothing of ours.")
        return
    if unit:
        unit = lock_row(Unit.objects.all(), unit)
    message = lock_row(ChannelMessage.objects.select_related("channel__set_up_by"), message)
    if message.outcome != Outcome.NEW:
        return
    message.unit = unit
    if news.currency and news.currency != base_currency():
        _ended(message, Outcome.WAITS, f"It is in {news.currency}; we reckon in {base_currency()}.")
    elif unit is None or news.kind is Told.PAYOUT:
        _paid_out(message, news)
    elif news.kind is Told.SALE:
        _sold(message, news, unit)
    elif news.kind is Told.OFFER and news.amount:
        told = inbox.take_in_offer(unit, channel, news.remote, news.amount, news.who)
        _ended(message, Outcome.DONE if not told else Outcome.WAITS, told or "Among the offers.")
    else:
        inbox.take_in_question(unit, channel, news.remote, news.who, news.words)
        _ended(message, Outcome.DONE, "Among the questions.")


def _unit(about: str) -> Unit | None:
    try:
        tag = parse_tag(about)
    except TagError:
        return None
    return Unit.objects.filter(number=tag.number).first() if tag else None


def _ended(message: ChannelMessage, outcome: str, words: str) -> None:
    ChannelMessage.objects.filter(pk=message.pk).update(outcome=outcome, words=shortened(words, 300), unit=message.unit)


def _sold(message: ChannelMessage, news: ChannelNews, unit: Unit) -> None:
    """The first sale counts, and what was held for somebody else before; a later one is refused there."""
    if earlier := Sale.objects.filter(open_for=unit).first():
        _refuse(message, f"Second sale: it was sold to {earlier.buyer} on {earlier.channel} before.")
        return
    held = holding.reserved(unit)
    if held and held.buyer.casefold() != news.who.casefold():
        _refuse(message, f"Second sale: it is held for {held.buyer}.")
        return
    try:
        with transaction.atomic():
            _record(message, news, unit)
    except Refused as problem:
        if not held:
            holding.hold(_in_whose_name(message), unit, news.who, clock.now() + HELD_FOR, news.amount)
            placing.settle(unit)
        _ended(message, Outcome.WAITS, f"Sold there to {news.who} for {news.amount}. {problem.message}")


def _record(message: ChannelMessage, news: ChannelNews, unit: Unit) -> None:
    _sell(_in_whose_name(message), message.channel, news, unit)
    _ended(message, Outcome.DONE, f"Sold for {news.amount} to {news.who}.")


def _sell(person: Person, channel: Channel, news: ChannelNews, unit: Unit) -> None:
    if news.amount is None:
        raise Refused("It does not say for how much.")
    on = _day_of(news, unit)
    services.sell(person, unit, news.amount, news.who, None, channel=channel, fee=news.fee, remote=news.remote, on=on)


def _day_of(news: ChannelNews, unit: Unit) -> date | None:
    """The day on which it happened there, by our calendar: where it is tomorrow already it was today, and nothing of a
    lot was sold before that was bought."""
    return max(min(news.on, clock.today()), unit.lot.bought_on) if news.on else None


def _in_whose_name(message: ChannelMessage) -> Person:
    """Who connected the channel, while here and allowed to sell; else an owner: it was sold there all the same."""
    connected = message.channel.set_up_by
    if connected and connected.is_active and may(connected, "record a sale"):
        return connected
    return Person.objects.filter(roles__role=Role.OWNER, is_active=True).order_by("pk")[0]


def _refuse(message: ChannelMessage, words: str) -> None:
    _ended(message, Outcome.REFUSED, words)
    put(telling.ANSWER, {"kind": "message", "pk": message.pk})


def _paid_out(message: ChannelMessage, news: ChannelNews) -> None:
    """What a marketplace paid out, beside the sale it is for."""
    sale = _sale_of(message)
    if sale is None or news.amount is None:
        _ended(message, Outcome.WAITS, f"{news.amount} was paid out, and no sale says for what.")
        return
    if not sale.stands:
        _ended(message, Outcome.WAITS, f"{news.amount} was paid out; the sale ended: {sale.ended_words}.")
        return
    Sale.objects.filter(pk=sale.pk).update(paid_out=news.amount)
    if news.amount == sale.passed_on:
        if sale.owed:
            on = _day_of(news, sale.unit)
            payments.take_payment(_in_whose_name(message), sale, sale.owed, Payment.How.CHANNEL, on)
        _ended(message, Outcome.DONE, f"{news.amount} was paid out.")
    else:
        _ended(message, Outcome.WAITS, f"{news.amount} was paid out; {sale.passed_on} was due after its fee.")


def _sale_of(message: ChannelMessage) -> Sale | None:
    """The last sale of what it is about there."""
    rows = Sale.objects.filter(unit=message.unit, channel=message.channel) if message.unit else Sale.objects.none()
    return rows.order_by("-id").first()


@transaction.atomic
def take_payout(person: Person, message: ChannelMessage) -> None:
    """What was paid out is right, and the channel kept the rest: its fee is put right, and the sale is paid."""
    require(person, "take a payment")
    message = _waiting(message)
    news, sale = read_news(message.raw), _sale_of(message)
    if news.kind is not Told.PAYOUT or news.amount is None or sale is None:
        raise Refused("It is no payout for a sale of ours: set it aside.")
    sale = payments.hold(sale)
    if not sale.stands:
        raise Refused(f"The sale ended: {sale.ended_words}. Pay it back there, and set this aside.")
    if sale.paid:
        raise Refused(f"{sale.paid} came in for it before: look on the page of its sale, and set this aside.")
    if news.amount > sale.costs:
        raise Refused(f"It costs {sale.costs}, and more was paid out: ask there, and set this aside.")
    if (kept := sale.costs - news.amount) != sale.fee_kept:
        payments.correct_fee(person, sale, kept, f"{news.amount} was paid out")
    payments.take_payment(person, sale, sale.owed, Payment.How.CHANNEL, _day_of(news, sale.unit))
    _settled(person, message, Outcome.DONE, f"{news.amount} was paid out; the channel kept {kept}.")


@transaction.atomic
def take(person: Person, message: ChannelMessage) -> None:
    """Record a sale that waited for somebody."""
    require(person, "record a sale")
    message = _waiting(message)
    news = read_news(message.raw)
    if news.kind is not Told.SALE or message.unit is None or news.amount is None:
        raise Refused("This is no sale of ours: set it aside.")
    if news.currency != base_currency():
        raise Refused("It is in another currency: record the sale by hand, in ours, and set this aside.")
    _sell(person, message.channel, news, message.unit)
    _settled(person, message, Outcome.DONE, f"Sold for {news.amount} to {news.who}.")


@transaction.atomic
def refuse(person: Person, message: ChannelMessage) -> None:
    """Refuse a sale that waited; its buyer is let go, and the channel is told."""
    require(person, "record a sale")
    message = _waiting(message)
    if message.kind != Told.SALE:
        raise Refused("This is no sale: set it aside.")
    if message.unit is not None:
        held = holding.reserved(message.unit)
        if held and held.buyer == read_news(message.raw).who:
            holding.end_reservation(held, "its sale was refused")
            placing.settle(message.unit)
    _settled(person, message, Outcome.REFUSED, message.words)
    put(telling.ANSWER, {"kind": "message", "pk": message.pk})


@transaction.atomic
def set_aside(person: Person, message: ChannelMessage) -> None:
    """Say that somebody has seen to it."""
    require(person, "record a sale")
    message = lock_row(ChannelMessage.objects.all(), message)
    if message.settled_at or message.outcome not in {Outcome.WAITS, Outcome.REFUSED, Outcome.UNREAD}:
        raise Refused("Somebody saw to it already.")
    _settled(person, message, message.outcome, message.words)


def _waiting(message: ChannelMessage) -> ChannelMessage:
    if message.unit is not None:
        lock_row(Unit.objects.all(), message.unit)
    message = lock_row(ChannelMessage.objects.select_related("channel", "unit"), message)
    if message.outcome != Outcome.WAITS or message.settled_at:
        raise Refused("Somebody decided that already.")
    return message


def _settled(person: Person, message: ChannelMessage, outcome: str, words: str) -> None:
    ChannelMessage.objects.filter(pk=message.pk).update(
        outcome=outcome, words=shortened(words, 300), settled_at=clock.now(), settled_by=person
    )
