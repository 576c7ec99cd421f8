"""Which jobs are worth doing: what each adds, which only pay together, and the set that leaves most.

Expected values over every way the jobs may turn out: exact over all subsets up to twelve, beyond that greedy by pairs.
"""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from functools import cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from core.catalogue.assemblies import StripDown
from core.money import ZERO, to_cent
from core.workshop.labour import labour_cost
from core.workshop.stripdown.openings import of_each_way
from core.workshop.stripdown.way_in import Costs
from core.workshop.worth import NOTHING, Appraisal, Changes, Priced

MOST_EXACT = 12
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Proposal:
    """A job that could be done: hands-on minutes of its own, what its parts cost (None: nobody knows), the chance (0 to
    1) that it does what it is for, what it changes then, and the assembly it is on. `key` tells it from the others.

    `weighed` is False where it cannot be said what it changes: then it is shown, and adds nothing known.
    """

    key: str
    title: str
    minutes: int
    changes: Changes = NOTHING
    parts: Decimal | None = ZERO
    chance: float = 1.0
    place: str = ""

    def __post_init__(self) -> None:
        if not 0 <= self.chance <= 1:
            raise ValueError("A chance from 0 to 1.")
        if self.minutes < 0 or (self.parts is not None and self.parts < 0):
            raise ValueError("Neither minutes nor parts below 0.")

    @property
    def weighed(self) -> bool:
        return self.parts is not None and self.changes.any


# Of a set of proposals by bits, proposal 0 the lowest: minutes in and back, and breakage in base currency.
Opening = Callable[[int], tuple[int, Decimal]]


def no_opening(bits: int) -> tuple[int, Decimal]:
    """Nothing has to be opened."""
    return 0, ZERO


@dataclass(frozen=True)
class Adds:
    """What a set of jobs adds, in base currency: `gain` expected, less parts, labour and breakage. `minutes` are hands,
    `opening` of them the way in and back."""

    gain: Decimal = ZERO
    parts: Decimal = ZERO
    labour: Decimal = ZERO
    breakage: Decimal = ZERO
    minutes: int = 0
    opening: int = 0

    @property
    def whole(self) -> Decimal:
        return self.gain - self.parts - self.labour - self.breakage

    @property
    def pays(self) -> bool:
        return self.whole > 0


@dataclass(frozen=True)
class Weighed:
    """A proposal with what it adds by itself, and what it leads to; `with_rest` is what the best set would lose
    without it, None when it is not in it."""

    proposal: Proposal
    alone: Adds | None
    leads_to: Priced | None = None
    with_rest: Decimal | None = None
    only_with: tuple[str, ...] = ()


@dataclass(frozen=True)
class Best:
    """Proposals, those of the best set first, then by what each adds; `set_adds` is what the set adds."""

    now: Priced | None
    proposals: tuple[Weighed, ...] = ()
    chosen: tuple[str, ...] = ()
    set_adds: Adds = field(default_factory=Adds)
    leads_to: Priced | None = None
    exact: bool = True


def best_set(
    proposals: Sequence[Proposal],
    appraisal: Appraisal,
    hourly: Decimal,
    opening: Opening = no_opening,
    of_price: float = 1.0,
) -> Best:
    """What each adds, and the set that leaves most. `hourly` is what an hour of hands costs, base currency; `of_price`
    the share of a price that is ours to gain, 0 to 1: less than all where it is sold for its owner.

    What cannot be weighed comes last, with nothing said of it; where nothing can be compared, that is all of them.
    """
    now = appraisal.at(NOTHING)
    able = [place for place, proposal in enumerate(proposals) if proposal.weighed and now is not None]
    if now is None or not able:
        return Best(now, tuple(Weighed(proposal, None) for proposal in proposals))
    weighing = _Weighing([proposals[place] for place in able], able, appraisal, hourly, opening, of_price)
    count = len(able)
    exact = count <= MOST_EXACT
    chosen = weighing.best_of_all() if exact else weighing.greedy()
    singles = [weighing.adds(1 << place) for place in range(count)]
    together = weighing.only_together(singles)
    whole = weighing.adds(chosen)
    found = []
    for place, proposal in enumerate(weighing.proposals):
        within = bool(chosen >> place & 1)
        rest = whole.whole - weighing.adds(chosen & ~(1 << place)).whole if within else None
        leads_to = appraisal.at(proposal.changes)
        found.append(Weighed(proposal, singles[place], leads_to, rest, together.get(place, ())))
    found.sort(key=lambda one: (one.with_rest is None, -(one.with_rest or 0), -(one.alone.whole if one.alone else 0)))
    others = [Weighed(proposal, None) for place, proposal in enumerate(proposals) if place not in able]
    reached = Changes()
    for one in found:
        if one.with_rest is not None:
            reached |= one.proposal.changes
    keys = tuple(one.proposal.key for one in found if one.with_rest is not None)
    return Best(now, (*found, *others), keys, whole, appraisal.at(reached), exact)


def opening_for(
    proposals: Sequence[Proposal],
    strip: StripDown,
    costs: Costs,
    off: Collection[str] = (),
    targets: Collection[str] = (),
) -> Opening:
    """What the way in and back adds for any of the proposals together, over what is off or to be reached anyway.

    A place that is not in the machine costs nothing to reach.
    """
    places = list(dict.fromkeys(one.place for one in proposals if one.place in strip.assemblies))
    if not places:
        return no_opening
    each = of_each_way(strip, places, costs, off, targets)
    bit = [1 << places.index(one.place) if one.place in places else 0 for one in proposals]

    @cache
    def reaching(there: int) -> tuple[int, Decimal]:
        minutes, weight = each(there)
        return minutes, to_cent(Decimal(weight - 100 * minutes) * costs.hourly / 6000)

    @cache
    def there(bits: int) -> int:
        lowest = bits & -bits
        return there(bits ^ lowest) | bit[lowest.bit_length() - 1] if bits else 0

    return lambda bits: reaching(there(bits))


class _Weighing:
    """Values of sets of proposals by bits, each worked out once."""

    def __init__(
        self,
        proposals: Sequence[Proposal],
        places: Sequence[int],
        appraisal: Appraisal,
        hourly: Decimal,
        opening: Opening,
        of_price: float,
    ) -> None:
        self.proposals, self.places = proposals, places
        self.appraisal, self.hourly, self.opening, self.of_price = appraisal, hourly, opening, of_price
        self._changes: dict[int, Changes] = {0: NOTHING}
        self._likely: dict[int, float] = {}
        self._adds: dict[int, Adds] = {}

    def likely(self, bits: int) -> float:
        """What of it should come to us when exactly these have done what they are for."""
        if bits not in self._likely:
            priced = self.appraisal.at(self._changed(bits))
            self._likely[bits] = self.likely(0) if priced is None else self.of_price * float(priced.likely)
        return self._likely[bits]

    def _changed(self, bits: int) -> Changes:
        if bits not in self._changes:
            lowest = bits & -bits
            self._changes[bits] = self._changed(bits ^ lowest) | self.proposals[lowest.bit_length() - 1].changes
        return self._changes[bits]

    def adds(self, bits: int) -> Adds:
        """What a set adds, over every way its jobs may turn out."""
        if bits not in self._adds:
            self._adds[bits] = self._priced(bits, self._expected(bits) - self.likely(0))
        return self._adds[bits]

    def _expected(self, bits: int) -> float:
        """What it should fetch on average once these were tried: 2^n ways to turn out, those of more than twelve with
        the likeliest taken for certain."""
        members = sorted(_members(bits), key=lambda place: self.proposals[place].chance)
        open_ones, sure = members[:MOST_EXACT], sum(1 << place for place in members[MOST_EXACT:])
        likely = np.array([self.likely(sure | _bits(open_ones, index)) for index in range(1 << len(open_ones))])
        return float(turned_out(likely, [self.proposals[place].chance for place in open_ones])[-1])

    def _priced(self, bits: int, gain: float) -> Adds:
        members = [self.proposals[place] for place in _members(bits)]
        there = sum(1 << self.places[place] for place in _members(bits))
        way, breakage = self.opening(there)
        minutes = sum(proposal.minutes for proposal in members) + way
        return Adds(
            to_cent(Decimal(gain)),
            sum((proposal.parts or ZERO for proposal in members), ZERO),
            labour_cost(minutes, self.hourly),
            breakage,
            minutes,
            way,
        )

    def best_of_all(self) -> int:
        """Over all subsets; of equal ones the smaller."""
        count = len(self.proposals)
        every = range(1 << count)
        values = turned_out(np.array([self.likely(bits) for bits in every]), [p.chance for p in self.proposals])
        costs = _sums([float(p.parts or 0) for p in self.proposals])
        minutes = _sums([float(p.minutes) for p in self.proposals])
        there = np.array(_sums([1 << place for place in self.places]), dtype=np.int64)
        way, broken = np.array([self.opening(int(bits)) for bits in there], dtype=np.float64).T
        left = values - self.likely(0) - costs - broken - (minutes + way) * float(self.hourly) / 60
        best = int(np.argmax(np.round(left, 6) - 1e-9 * _sums([1.0] * count)))
        return best if left[best] > 0 else 0

    def greedy(self) -> int:
        """The better of two: begun with nothing, and begun with all and rid of what does not pay beside the others, one
        at a time. The second finds what only pays where many are done together."""
        kept = (1 << len(self.proposals)) - 1
        while kept:
            worst = min((1 << place for place in _members(kept)), key=lambda one: self._raises(kept & ~one, one))
            if self._raises(kept & ~worst, worst) > 0:
                break
            kept &= ~worst
        return max(self._filled(0), self._filled(kept), key=lambda chosen: self.adds(chosen).whole)

    def _filled(self, chosen: int) -> int:
        """Add what raises it most, one at a time, a pair where no single one does; what is in is taken as done."""
        while True:
            left = [place for place in range(len(self.proposals)) if not chosen >> place & 1]
            singles = [1 << place for place in left]
            best = max(singles, key=lambda more: self._raises(chosen, more), default=0)
            if not best or self._raises(chosen, best) <= 0:
                pairs = [1 << one | 1 << other for one, other in combinations(left, 2)]
                best = max(pairs, key=lambda more: self._raises(chosen, more), default=0)
            if not best or self._raises(chosen, best) <= 0:
                return chosen
            chosen |= best

    def _raises(self, chosen: int, more: int) -> float:
        """By how much a few more raise what is left, when those chosen have done what they are for."""
        members = list(_members(more))
        likely = np.array([self.likely(chosen | _bits(members, index)) for index in range(1 << len(members))])
        gain = float(turned_out(likely, [self.proposals[place].chance for place in members])[-1]) - self.likely(chosen)
        before, after = self._priced(chosen, 0), self._priced(chosen | more, 0)
        return gain + float(after.whole - before.whole)

    def only_together(self, singles: Sequence[Adds]) -> dict[int, tuple[str, ...]]:
        """Those that pay in a pair and by themselves don't, with the titles of what they pay with."""
        found: dict[int, tuple[str, ...]] = {}
        losing = [place for place, adds in enumerate(singles) if not adds.pays]
        for one, other in combinations(losing, 2):
            if self.adds(1 << one | 1 << other).pays:
                found[one] = (*found.get(one, ()), self.proposals[other].title)
                found[other] = (*found.get(other, ()), self.proposals[one].title)
        return found


def turned_out(values: Floats, chances: Sequence[float]) -> Floats:
    """From what each set of jobs gives when exactly those succeed, what each set of jobs gives on average when tried.

    Both by bits, 2^n long. For each job in turn: p × with it + (1 - p) × without.
    """
    whole = values.astype(np.float64).copy()
    for place, likely in enumerate(chances):
        pairs = whole.reshape(-1, 2, 1 << place)
        pairs[:, 1] = likely * pairs[:, 1] + (1 - likely) * pairs[:, 0]
    return whole


def _members(bits: int) -> Sequence[int]:
    return [place for place in range(bits.bit_length()) if bits >> place & 1]


def _bits(members: Sequence[int], index: int) -> int:
    return sum(1 << place for number, place in enumerate(members) if index >> number & 1)


def _sums(values: Sequence[float]) -> Floats:
    """Of every set of the values, by bits."""
    whole = np.zeros(1)
    for value in values:
        whole = np.concatenate([whole, whole + value])
    return whole
