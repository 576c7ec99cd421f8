"""What the shop learned: what it thought beforehand of prices, waiting, claims, faults and repairs, and what came."""

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from core.bench.assurance import Fate
from core.books.lessons import (
    ASKED,
    Against,
    Awaited,
    Middle,
    Named,
    Share,
    asked,
    awaited,
    came_of,
    middle,
    named,
    share,
)
from stations.bench import fixes
from stations.books.drawing import Span, times
from stations.buying.selectors import ClaimRecord, claims_of
from stations.common import clock
from stations.selling.models import Channel
from stations.selling.waiting import stays

# Times what was expected at the edge of the picture.
FARTHEST = 4.0


@dataclass(frozen=True)
class OnOffer:
    """What was on offer somewhere, or at some prices: of what was sold, what was asked and paid of what was thought
    likely, and how many sales came of those that were to be expected."""

    name: str
    stays: int
    asked: Middle | None
    fetched: Middle | None
    sales: Against | None

    @property
    def span(self) -> Span | None:
        """The sales, drawn."""
        return times(self.sales.low, self.sales.times, self.sales.high, FARTHEST) if self.sales else None


@dataclass(frozen=True)
class Repairs:
    """Of repairs of one symptom (or all), what became of them: of those that were proven how many came back all the
    same, of how many not proven it is known that they came back, and of how many nobody knows."""

    name: str
    proven: Share
    back_unproven: int
    not_known: int

    @property
    def unproven(self) -> int:
        return self.back_unproven + self.not_known

    @property
    def all(self) -> int:
        return self.proven.count + self.unproven


@dataclass(frozen=True)
class Lessons:
    offered: OnOffer
    by_channel: list[OnOffer]
    by_price: list[OnOffer]
    claims: list[ClaimRecord]
    suspects: Named
    repairs: Repairs
    by_symptom: list[Repairs]


def lessons() -> Lessons:
    """Eight queries, however much there is."""
    on_offer = awaited(stays(), clock.now())
    channels, prices = defaultdict(list), defaultdict(list)
    for stay in on_offer:
        channels[stay.channel].append(stay)
        prices[asked(stay.seen.ratio)].append(stay)
    names = dict(Channel.objects.values_list("pk", "name"))
    closed = fixes.closed_faults()
    repaired = defaultdict(list)
    for one in closed:
        if one.case.fix:
            repaired[one.case.get_symptom_display()].append(fixes.fate_of(one))
    every = [fate for fates in repaired.values() for fate in fates]
    return Lessons(
        _offered("all", on_offer),
        sorted((_offered(names[pk], some) for pk, some in channels.items()), key=lambda row: row.name),
        [_offered(words, prices[words]) for _, words in ASKED if prices[words]],
        claims_of(None),
        named([said for one in closed if (said := _first_suspect(one))]),
        _repairs("all", every),
        sorted((_repairs(*row) for row in repaired.items()), key=lambda row: (-row.all, row.name)),
    )


def _offered(name: str, some: list[Awaited]) -> OnOffer:
    sold = [(one.seen.ratio, one.seen.paid) for one in some if one.seen.sold and one.seen.paid is not None]
    fetched = middle(ratio * paid for ratio, paid in sold)
    return OnOffer(name, len(some), middle(ratio for ratio, _ in sold), fetched, came_of(some))


def _first_suspect(one: fixes.Followed) -> tuple[float, bool] | None:
    """How likely the likeliest cause was before anything was tried, and whether it was that; None where either is not
    on record."""
    case = one.case
    if not (case.cause or case.cause_words) or not case.start or not case.suspects:
        return None
    odds, (code, _) = max(zip(case.start, case.suspects, strict=True), key=lambda row: row[0])
    return odds, code == case.cause


def _repairs(name: str, fates: Iterable[Fate]) -> Repairs:
    count = Counter(fates)
    proven = count[Fate.HELD] + count[Fate.BACK_PROVEN]
    return Repairs(name, share(count[Fate.BACK_PROVEN], proven), count[Fate.BACK_UNPROVEN], count[Fate.NOT_KNOWN])
