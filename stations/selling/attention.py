"""What waits for a seller: what to do first, offers and questions, what is due, and where a channel needs a hand."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import F
from django.urls import reverse

from core.flow.stage import Station
from core.money import to_cent
from stations.common.paging import rows_of
from stations.common.registry import Registry
from stations.selling.models import Channel, ChannelMessage, Listing, Offer, Placement, Question
from stations.selling.placing import NOT_AS_WANTED
from stations.units.models import Unit
from stations.units.selectors import strongest

# What it takes to do one (common practice, no source), in minutes.
MINUTES = {"answer": 2, "price": 1, "words": 2}
SHOWN = 10


@dataclass(frozen=True)
class Due:
    """What waits after sales: in words, how much of it, where it is done; `pressing`: somebody is kept waiting."""

    words: str
    count: int
    address: str
    pressing: bool = False


# Who sees to what was sold: parcels, money, returns.
after_sales: Registry[Callable[[], list[Due]]] = Registry("what waits after sales")


def due() -> list[Due]:
    """All that waits after sales, nothing where nothing does."""
    return [one for asked in after_sales.values() for one in asked() if one.count]


@dataclass(frozen=True)
class ToDo:
    """One thing to do for a unit: what it brings more than leaving it, in how many minutes; None where nobody can
    say."""

    unit: Unit
    words: str
    address: str
    gain: Decimal | None
    minutes: int
    a_minute: Decimal | None


def first(most: int = 8) -> list[ToDo]:
    """What brings most for its minutes, over all that selling does: four queries, and those of `strongest`."""
    found = [*_offers(most), *_markdowns(most), *_next_steps(most)]
    return sorted(found, key=lambda one: -(one.a_minute or 0))[:most]


def _of(unit: Unit, words: str, address: str, gain: Decimal, minutes: int) -> ToDo:
    return ToDo(unit, words, address, gain, minutes, to_cent(gain / minutes))


def _offers(most: int) -> Iterable[ToDo]:
    rows = Offer.objects.filter(status=Offer.Status.OPEN, gain__gt=0).select_related("unit")
    for offer in rows.order_by("-gain")[:most]:
        words = f"Take {offer.amount} of {offer.buyer}" if offer.to_take else f"Ask {offer.advised} of {offer.buyer}"
        there = reverse("selling:answer", args=[offer.pk])
        yield _of(offer.unit, words, there, offer.gain or Decimal(0), MINUTES["answer"])


def _markdowns(most: int) -> Iterable[ToDo]:
    for listing in rows_of(keys(markdowns().filter(gains__gt=0))[:most], WITH_UNIT):
        there = reverse("selling:unit", args=[listing.unit.number]) + "#plan"
        words = f"Ask {listing.ask_now} instead of {listing.asking}"
        yield _of(listing.unit, words, there, listing.gains or Decimal(0), MINUTES["price"])


def _next_steps(most: int) -> Iterable[ToDo]:
    for unit in strongest(Unit.objects.filter(station=Station.SELLING), most):
        minutes = max(1, unit.next_minutes + unit.minutes_ahead)
        there = reverse("selling:unit", args=[unit.number])
        words = unit.next_step[:1].upper() + unit.next_step[1:]
        if unit.pull is not None:
            pull = to_cent(Decimal(repr(float(unit.pull))))
            yield ToDo(unit, words, there, to_cent(pull * minutes), minutes, pull)


WITH_UNIT = Listing.objects.select_related("unit", "channel")


def keys(rows):
    """Which of them, without reading any."""
    return rows.values_list("pk", flat=True)


def live():
    return Listing.objects.filter(status=Listing.Status.LIVE)


def markdowns():
    """On offer for more than the plan has for now."""
    return live().filter(gains__isnull=False, asking__gt=F("ask_now")).order_by("-gains")


def stale():
    """On offer in words that the record has left behind."""
    return live().filter(stale__gt=0).order_by("-stale", "-id")


def needs_somebody():
    """What channels told that was refused, can’t be read, or waits for a decision."""
    outcomes = ChannelMessage.Outcome
    rows = ChannelMessage.objects.filter(outcome__in=[outcomes.WAITS, outcomes.REFUSED, outcomes.UNREAD])
    return rows.filter(settled_at=None).select_related("channel", "unit")


def to_do_by_hand():
    """Put up, change or take down where somebody does that."""
    rows = Placement.objects.filter(channel__kind__in=[Channel.Kind.HAND, Channel.Kind.FAIR])
    return _unsettled(rows)


def maybe_up():
    """On marketplaces that have not confirmed that it is taken down."""
    rows = Placement.objects.filter(channel__kind=Channel.Kind.MARKET, wanted=False)
    return rows.exclude(stands=False).select_related("channel", "unit").order_by("changed_at")


def in_trouble():
    return Channel.objects.filter(in_use=True, trouble_since__isnull=False)


def _unsettled(rows):
    return rows.filter(NOT_AS_WANTED).select_related("channel", "unit__listing").order_by("changed_at")


def waiting_offers():
    """Offers that nobody answered, the best to take first."""
    rows = Offer.objects.filter(status=Offer.Status.OPEN).select_related("unit__listing", "channel")
    return rows.order_by(F("gain").desc(nulls_last=True), "id")


def waiting_questions():
    return Question.objects.filter(answered_at=None).select_related("unit", "channel").order_by("id")
