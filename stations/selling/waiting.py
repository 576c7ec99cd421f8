"""What waiting is worth: the pace of sales learned from our own weeks on offer, the plan of prices, offers answered."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from core.money import to_cent
from core.selling.auction import AuctionPlan, plan_auction
from core.selling.grade import Grade
from core.selling.market import PriceBand
from core.selling.price import lowest_for
from core.selling.waiting import (
    WEEKS,
    Answer,
    MarkdownPlan,
    Pace,
    Stay,
    answer,
    ending,
    markdown,
    pace_at,
    price_grid,
)
from stations.common import clock
from stations.selling.market import UnitMarket, unit_books
from stations.selling.models import Channel, Listing, PriceStep
from stations.units.models import Unit

WEEK = 7 * 24 * 3600.0
# The newest stays on offer that are learned from.
NEWEST = 2000
# The lowest price that is looked at, as a share of the likely one.
LOWEST = Decimal("0.3")


def stays() -> list[Stay]:
    """The newest on offer of which it was known what they would likely fetch, whatever became of them: one query."""
    rows = PriceStep.objects.filter(likely__gt=0).order_by("-id")
    told = ("channel_id", "asking", "likely", "begun_at", "ended_at", "sold", "sold_for")
    found = []
    for channel, asking, likely, begun, ended, sold, sold_for in rows.values_list(*told)[:NEWEST]:
        if likely:
            paid = None if sold_for is None else float(sold_for / asking)
            found.append(Stay(channel, float(asking / likely), begun, ended, sold, paid))
    return found


def pace_of(channel: Channel | None) -> Pace:
    """How sales come: learned from our weeks on offer elsewhere first, then from those of the channel. One query."""
    return pace_at(stays(), channel.pk if channel else None, clock.now())


@dataclass(frozen=True)
class Waiting:
    """What a unit brings when it is sold step by step.

    `waiting` is in base currency after everything, `least` the lowest price that is as good; `weekly` the chance of a
    sale in a week at what is asked (None: nothing is asked). While it is on offer nothing dearer than what is asked is
    planned; `bearable` is what one would begin with otherwise. `left`: what a sale at a price leaves; `for_parts`: what
    it fetches so.
    """

    plan: MarkdownPlan
    pace: Pace
    band: PriceBand
    waiting: Decimal
    least: Decimal
    asking: Decimal | None
    weekly: float | None
    stood: int
    bearable: Decimal
    left: Callable[[Decimal], Decimal]
    for_parts: Decimal | None = None

    @property
    def ask_now(self) -> Decimal:
        return self.plan.weeks[0].price

    @property
    def too_cheap(self) -> bool:
        """Nothing says that it could not be offered for more, by more than a fiftieth."""
        return self.asking is not None and self.asking * Decimal("1.02") < self.bearable

    @property
    def over_the_band(self) -> bool:
        return self.asking is not None and self.asking > self.band.high

    @property
    def markdown_due(self) -> bool:
        """More is asked than the plan has for now, by more than a fiftieth."""
        return self.asking is not None and self.asking > self.ask_now * Decimal("1.02")


def waiting_of(unit: Unit, listing: Listing, found: UnitMarket) -> Waiting | None:
    """None where nothing is known of what it fetches, nowhere is set up to sell, or a sale leaves nothing at any price:
    then there is nothing to wait for."""
    band = found.band
    if band is None or listing.channel_id is None:
        return None
    books, pace = unit_books(unit), pace_of(listing.channel)
    settings, left = books.settings, books.leaves(listing.channel)
    prices = _prices(band, listing)
    parts = found.band_at(Grade.PARTS)
    for_parts = parts.likely if parts else None
    after = after_all(unit, left, for_parts)
    stood = weeks_on_offer(listing, clock.now())
    weeks = max(1, WEEKS - stood)
    paid = Decimal(repr(pace.paid))

    def brings(price: Decimal) -> Decimal:
        """What asking that leaves, once a buyer has come."""
        return left(to_cent(price * paid))

    free = markdown(band.likely, prices, brings, pace, weeks=weeks, holding=settings.holding, after=after)
    plan, asked = free, listing.asking
    if listing.is_live and asked and asked < free.weeks[0].price:
        down = [*(price for price in prices if price < asked), asked]
        plan = markdown(band.likely, down, brings, pace, weeks=weeks, holding=settings.holding, after=after)
    waiting = to_cent(Decimal(repr(plan.worth)))
    asking = listing.asking
    weekly = pace.chance(float(asking / band.likely)) if asking else None
    least = lowest_for(waiting, left)
    if least is None or lowest_for(Decimal(0), left) is None:
        return None
    return Waiting(plan, pace, band, waiting, least, asking, weekly, stood, free.weeks[0].price, left, for_parts)


def after_all(unit: Unit, left: Callable[[Decimal], Decimal], for_parts: Decimal | None) -> list[tuple[Decimal, str]]:
    """What is done with it when nobody came, and what that brings; `for_parts`: what it fetches so."""
    selling = [(left(for_parts), "sell it for parts")] if unit.ours and for_parts else []
    return [(Decimal(0), "hold it"), *selling]


def _prices(band: PriceBand, listing: Listing) -> list[Decimal]:
    """Prices that may be advised: none over the band, beyond which no sale tells how long it takes."""
    return price_grid(band.likely * LOWEST, max(band.high, band.likely), ending(listing.channel.price_ends))


def weeks_on_offer(listing: Listing, now: datetime) -> int:
    """Whole weeks in which it could be bought since it was put on offer; 0 while it is not. One query."""
    if not listing.is_live or listing.published_at is None:
        return 0
    stays = PriceStep.objects.filter(unit=listing.unit_id, begun_at__gte=listing.published_at)
    stood = sum(((ended or now) - begun).total_seconds() for begun, ended in stays.values_list("begun_at", "ended_at"))
    return int(stood // WEEK)


def auction_of(listing: Listing, waiting: Waiting, covers: Decimal, weeks: float = 1.0) -> AuctionPlan:
    """What to ask at least if it is sold by auction instead, in a week as is usual; `covers`: its lower floor."""
    prices, left = _prices(waiting.band, listing), waiting.left
    likely, pace, worth = waiting.band.likely, waiting.pace, waiting.waiting
    return plan_auction(likely, prices, left, pace, weeks=weeks, waiting=worth, covers=covers)


def answer_to(offered: Decimal, listing: Listing, waiting: Waiting) -> Answer:
    """What to say to an offer for a unit that is on offer."""
    likely, prices = waiting.band.likely, _prices(waiting.band, listing)
    asking = listing.asking or waiting.ask_now
    return answer(offered, asking, likely, waiting.waiting, waiting.left, waiting.pace, prices)
