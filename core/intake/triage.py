"""What shall become of a machine: every path with what it should leave, and the one fact that would change it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum
from math import log

from core.buying.odds import OUTCOMES, STARTING, LineOutcome


class Path(StrEnum):
    SELL = "sell"
    TEST = "test"
    REFURBISH = "refurbish"
    PART_OUT = "part_out"
    SCRAP = "scrap"
    HOLD = "hold"

    @property
    def label(self) -> str:
        return {
            "sell": "sell as it stands",
            "test": "test and sell",
            "refurbish": "refurbish",
            "part_out": "part out",
            "scrap": "scrap",
            "hold": "hold half a year",
        }[self.value]


# What of a price hangs on all of it being there, where no sale says it (common practice, no source).
HANGS = 0.5


@dataclass(frozen=True)
class Prices:
    """What the model fetches in base currency: working and complete (grade B), untested, for parts.

    `a_year` is how the price moves, as a share; `source` says where they come from; `hangs` (0 to under 1) is the
    share of a price that hangs on all of it being there.
    """

    working: float
    untested: float
    parts: float
    a_year: float = 0.0
    source: str = "the lot’s own estimate"
    hangs: float = HANGS


# What an untested one and one for parts fetch of a working one, where no sale says it (common practice, no source).
UNTESTED, FOR_PARTS = 0.55, 0.22


def estimated(worth: Decimal) -> Prices:
    """Without sales elsewhere: what the lot’s line was thought worth, and of it what is usual."""
    working = float(worth)
    return Prices(working, UNTESTED * working, FOR_PARTS * working)


@dataclass(frozen=True)
class TriageFacts:
    """All that the paths rest on. Odds in the order of OUTCOMES; completeness and cosmetics 0 to 100, None while
    nobody has gone through them: then a usual machine of its kind is taken, and said so. `left`: what a sale at a price
    leaves of it, before labour; where it is not `ours`, it is neither taken for parts nor scrapped."""

    odds: tuple[float, ...]
    prices: Prices
    completeness: int | None = None
    cosmetics: int | None = None
    missing_cost: float = 0.0
    labour_rate: float = 0.0
    left: Callable[[float], float] = float
    faults: int = 0
    missing_unpriced: int = 0
    ours: bool = True

    @property
    def paths(self) -> tuple[Path, ...]:
        """What may become of it at once."""
        return tuple(path for path in open_paths(self.ours) if path is not Path.HOLD)

    @property
    def to_buy(self) -> float:
        """What is missing costs: as estimated, and what nobody estimated as a usual part of its kind."""
        return self.missing_cost + self.missing_unpriced * A_PART * self.prices.working

    @property
    def seen_words(self) -> str:
        """Its state as it is taken, and what of it is only taken for usual."""
        return f"{self._state_words}{self._unpriced_words}"

    @property
    def _unpriced_words(self) -> str:
        n, each = self.missing_unpriced, A_PART * self.prices.working
        parts = "missing part has" if n == 1 else "missing parts have"
        return f"; {n} {parts} no estimate, {each:.0f} each taken: estimate it" if n else ""

    @property
    def _state_words(self) -> str:
        complete = f"{self.completeness} % complete"
        if self.completeness is None:
            complete = f"completeness not gone through, {USUAL_COMPLETENESS} % taken"
        looks = f"cosmetics {self.cosmetics}"
        if self.cosmetics is None:
            looks = f"looks not gone through, {USUAL_COSMETICS} taken"
        return f"{complete}, {looks}"


@dataclass(frozen=True)
class Effort:
    """Hands-on minutes and money of each piece of work, as a shop has learned them; as they stand here common practice,
    no source."""

    offer: int = 20
    test: int = 35
    clean: int = 40
    repair: int = 110
    a_fault: int = 20
    strip: int = 45
    scrap: int = 10
    repair_parts: float = 0.08
    disposal: float = 4.0
    a_month: float = 2.0


# What is taken for a machine that nobody has gone through yet (common practice, no source).
USUAL_COMPLETENESS, USUAL_COSMETICS = 80, 75

USUAL_EFFORT = Effort()
# What a missing part costs that nobody estimated, as a share of a working machine (common practice, no source).
A_PART = 0.06
# Paths of which nothing is left to give back.
OF_OUR_OWN = {Path.PART_OUT, Path.SCRAP}


def open_paths(ours: bool) -> tuple[Path, ...]:
    """What may be chosen for a machine: what is not ours is neither taken for parts nor scrapped."""
    return tuple(path for path in Path if ours or path not in OF_OUR_OWN)


def unfinished(path: str, donor: bool) -> Path | None:
    """What becomes of a machine that it was decided not to finish: sold as it stands, taken for parts or scrapped. None
    for every other. `path` as it was chosen, empty where nobody chose; a `donor` is kept for its parts."""
    if path == Path.SCRAP:
        return Path.SCRAP
    if donor or path == Path.PART_OUT:
        return Path.PART_OUT
    return Path.SELL if path == Path.SELL else None


def fetches(becomes: Path, prices: Prices) -> float:
    """What one fetches that becomes this unfinished, before it was looked at more nearly."""
    return {Path.SELL: prices.untested, Path.PART_OUT: prices.parts}.get(becomes, 0.0)


# A faulty machine, said to be one, against an untested one (common practice, no source).
FAULTY = 0.7


@dataclass(frozen=True)
class Way:
    """One path: what it should leave on average, its hours, and what it leaves for each outcome."""

    path: Path
    worth: float
    hours: float
    by_outcome: tuple[float, ...]

    @property
    def if_it_is(self) -> tuple[tuple[LineOutcome, float], ...]:
        return tuple(zip(OUTCOMES, self.by_outcome, strict=True))


@dataclass(frozen=True)
class Turn:
    """The fact that would change the decision most: if the machine turns out so, another path is better by `gain`."""

    outcome: LineOutcome
    path: Path
    gain: float


@dataclass(frozen=True)
class Triage:
    """Paths best first. `other` is the next best thing to do, `matters` what it is worth to know how it turns out."""

    ways: tuple[Way, ...]
    other: Way
    turn: Turn | None
    matters: float

    @property
    def best(self) -> Way:
        return self.ways[0]

    @property
    def lead(self) -> float:
        """What the best path leaves more than the next best thing to do."""
        return self.best.worth - self.other.worth


def triage(facts: TriageFacts, effort: Effort = USUAL_EFFORT) -> Triage:
    """Weigh every path. Odds add up to 1 (ValueError otherwise)."""
    if len(facts.odds) != len(OUTCOMES) or abs(sum(facts.odds) - 1) > 1e-6:
        raise ValueError("Odds for each outcome, adding up to 1.")
    ways = [_way(path, facts, effort) for path in facts.paths]
    ways.append(_hold(max(ways, key=lambda way: way.worth), facts, effort))
    ranked = tuple(sorted(ways, key=lambda way: -way.worth))
    best = ranked[0]
    turns, informed = [], 0.0
    for place, outcome in enumerate(OUTCOMES):
        path, worth = _best_if(place, facts, effort)
        informed += facts.odds[place] * worth
        gain = worth - best.by_outcome[place]
        if path is not best.path and facts.odds[place] > 0 and gain > 0.5:
            turns.append((facts.odds[place] * gain, Turn(outcome, path, gain)))
    turn = max(turns, key=lambda t: t[0])[1] if turns else None
    # Holding is the best path put off; the lead is over doing something else.
    other = next(way for way in ranked[1:] if way.path is not Path.HOLD)
    return Triage(ranked, other, turn, max(0.0, informed - best.worth))


def _best_if(place: int, facts: TriageFacts, effort: Effort) -> tuple[Path, float]:
    """The best path once it is known how the machine turns out, and what it leaves then; holding is for that path. What
    is known is said to whoever buys it as it stands."""
    known = replace(facts, odds=tuple(float(other == place) for other in range(len(OUTCOMES))))
    ways = [_way(path, known, effort) for path in known.paths]
    there = max(ways, key=lambda way: way.worth)
    held = _held(there.worth, facts, effort)
    return (Path.HOLD, held) if held > there.worth else (there.path, there.worth)


def _way(path: Path, facts: TriageFacts, effort: Effort) -> Way:
    worth, minutes = zip(*(_at(path, outcome, facts, effort) for outcome in OUTCOMES), strict=True)
    left = tuple(w - m / 60 * facts.labour_rate for w, m in zip(worth, minutes, strict=True))
    return Way(path, _mean(facts.odds, left), _mean(facts.odds, minutes) / 60, left)


def _mean(odds: tuple[float, ...], values: tuple[float, ...]) -> float:
    return sum(p * value for p, value in zip(odds, values, strict=True))


def _at(path: Path, outcome: LineOutcome, facts: TriageFacts, effort: Effort) -> tuple[float, float]:
    """(what it leaves before labour, minutes) on this path if the machine turns out so."""
    prices = facts.prices
    as_is = _state(facts.completeness, facts.cosmetics, prices.hangs)
    faulty = max(FAULTY * prices.untested * as_is, prices.parts)
    dead = prices.parts if outcome is LineOutcome.PARTS else 0.3 * prices.parts
    if path is Path.SELL:
        # It fetches the same however it would turn out: what is known of it is said, and nothing else is known.
        return _sold(as_it_stands(facts), facts, effort), effort.offer
    if path is Path.TEST:
        price = {LineOutcome.WORKS: prices.working * as_is, LineOutcome.REPAIRABLE: faulty}.get(outcome, dead)
        return _sold(price, facts, effort), effort.test + effort.offer
    if path is Path.REFURBISH:
        return _refurbished(outcome, dead, facts, effort)
    if path is Path.PART_OUT:
        share = {LineOutcome.WORTHLESS: 0.4, LineOutcome.PARTS: 1.0}.get(outcome, 1.25)
        return _sold(prices.parts * share, facts, effort), effort.strip + effort.offer
    return -effort.disposal, effort.scrap


def _sold(price: float, facts: TriageFacts, effort: Effort) -> float:
    """What a sale leaves; what would cost more to sell than to be rid of is disposed of, or given back."""
    return max(facts.left(price), -effort.disposal if facts.ours else 0.0)


def as_it_stands(facts: TriageFacts) -> float:
    """What a machine fetches without being tested, where all that is known of it is said.

    Never more than an untested one: that it works nobody believes without a test. Else what it is worth to a buyer who
    believes the odds, times what untested machines fetch of that: the less is left open, the less of it is taken off,
    until nothing is for one of which all is known (judgement, no source: buyers take off for what nobody can tell
    them). At the odds of what is usually sold untested it is the untested price; of one known dead, a dead one’s.
    """
    prices, state = facts.prices, _state(facts.completeness, facts.cosmetics, facts.prices.hangs)
    faulty = max(FAULTY * prices.untested * state, prices.parts)
    told = (prices.working * state, faulty, prices.parts, 0.3 * prices.parts)
    usual = STARTING["untested"]
    taken = prices.untested * state / _mean(usual, told) if _mean(usual, told) > 0 else 1.0
    settled = 1 - min(1.0, _open(facts.odds) / _open(usual))
    return min(prices.untested * state, _mean(facts.odds, told) * (taken + (1 - taken) * settled))


def _open(odds: tuple[float, ...]) -> float:
    """How much these odds leave open: their entropy, in nats."""
    return -sum(p * log(p) for p in odds if p > 0)


def _refurbished(outcome: LineOutcome, dead: float, facts: TriageFacts, effort: Effort) -> tuple[float, float]:
    work = effort.test + effort.clean + effort.a_fault * facts.faults + effort.offer
    price = facts.prices.working * _state(100, max(_or_usual(facts.cosmetics, USUAL_COSMETICS), 85))
    finished = _sold(price, facts, effort) - facts.to_buy
    if outcome is LineOutcome.WORKS:
        return finished, work
    if outcome is LineOutcome.REPAIRABLE:
        return finished - effort.repair_parts * facts.prices.working, work + effort.repair
    return _sold(dead, facts, effort), effort.test + effort.offer


def _or_usual(known: int | None, usual: int) -> int:
    return usual if known is None else known


def _state(completeness: int | None, cosmetics: int | None, hangs: float = HANGS) -> float:
    """What is left of a price in this state: so much of it hangs on completeness, three tenths on looks."""
    completeness = _or_usual(completeness, USUAL_COMPLETENESS)
    cosmetics = _or_usual(cosmetics, USUAL_COSMETICS)
    return (1 - hangs + hangs * completeness / 100) * (0.7 + 0.3 * cosmetics / 100)


def _hold(best: Way, facts: TriageFacts, effort: Effort) -> Way:
    """The best path, taken half a year later: the price moves, and the place costs."""
    left = tuple(_held(value, facts, effort) for value in best.by_outcome)
    return Way(Path.HOLD, _mean(facts.odds, left), best.hours, left)


def _held(value: float, facts: TriageFacts, effort: Effort) -> float:
    """What is left of a value in half a year."""
    return value * (1 + facts.prices.a_year / 2 if value > 0 else 1) - 6 * effort.a_month


def seen_odds(odds: tuple[float, ...], signs: Mapping[str, int]) -> tuple[float, ...]:
    """Odds after what was seen at intake: each kind of finding makes the outcomes more or less likely.

    `signs` counts findings by kind. Likelihood ratios against "works" are judgement (common practice, no
    source); each kind counts once, two of them half as much again.
    """
    weights = list(odds)
    for kind, count in signs.items():
        ratios = SIGNS.get(kind)
        if ratios and count:
            power = 1.0 if count == 1 else 1.5
            weights = [w * r**power for w, r in zip(weights, ratios, strict=True)]
    whole = sum(weights)
    return tuple(w / whole for w in weights) if whole > 0 else odds


def shown_odds(odds: tuple[float, ...], works: bool | None) -> tuple[float, ...]:
    """Odds after it was shown to work, or not to; None: neither."""
    if works is None:
        return odds
    if works:
        return tuple(float(outcome is LineOutcome.WORKS) for outcome in OUTCOMES)
    rest = [0.0 if outcome is LineOutcome.WORKS else p for outcome, p in zip(OUTCOMES, odds, strict=True)]
    whole = sum(rest)
    # Of which all was thought to work: how it is broken nobody knows, and the usual way is to repair it.
    return tuple(p / whole for p in rest) if whole > 0 else tuple(float(o is LineOutcome.REPAIRABLE) for o in OUTCOMES)


# How much likelier a finding is in each outcome than on average: works, repairable, parts only, worthless.
SIGNS: Mapping[str, tuple[float, float, float, float]] = {
    "leak": (0.3, 1.1, 1.8, 2.0),
    "swollen": (0.4, 1.4, 1.0, 1.0),
    "rework": (0.6, 1.2, 1.3, 1.2),
    "rust": (0.7, 1.0, 1.4, 1.6),
    "broken": (0.8, 1.0, 1.3, 1.3),
    "crack": (0.85, 1.0, 1.2, 1.3),
    "missing": (0.8, 1.0, 1.3, 1.2),
    "cell": (0.8, 1.1, 1.1, 1.1),
    "noise": (0.7, 1.3, 1.2, 1.1),
}
