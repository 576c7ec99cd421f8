"""Fault finding: who is suspected, what each result says of them, and the next action that tells most a minute."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from core.bench.search import ways
from core.safety import Hazard, said

Floats = npt.NDArray[np.float64]

# How far a part counts that nobody has ever shown to be good, or that is not from the shelf (judgement; no source).
UNVERIFIED = 0.33
# What mending something takes where nothing else is said: minutes (common practice, no source).
USUAL_REPAIR = 45.0
# Minutes to the end that differ by less than this part of them are as good.
AS_GOOD = 0.003
# Of more loads than that the likeliest are split: 2 to the power of it ways to do it.
MOST_SPLIT = 12
# How an action that mends a suspect is called.
MEND = "mend-"
# One suspect this likely counts as found.
FOUND = 0.9
# A risk of 1 to something irreplaceable weighs like so many minutes of work (common practice, no source).
RISK_MINUTES = 120.0


@dataclass(frozen=True)
class Suspect:
    """A possible cause. `weight` is its prior against the others'; `signs` raise it when they are there.

    `when` says for which machines it is one (see core/bench/conditions.py): no tube, no tube suspected. `repair` is
    how many minutes mending it takes, the start after it too.
    """

    code: str
    words: str
    weight: float
    signs: Mapping[str, float] = field(default_factory=dict)
    when: str = ""
    repair: float = USUAL_REPAIR


@dataclass(frozen=True)
class Action:
    """Something to try. `shows` is how likely its first answer is under each suspect, `otherwise` under the rest.

    No result is certain: every chance lies above 0 and below 1. `risk` is the chance of harming something
    irreplaceable. `needs` a known-good part that stands in. `hazards` bring their cautions, `caution` is its own.
    `changes` names what it changes; with more than one of them a yes says only that it was one of these, and
    the actions `then` tell them apart. `when` says for which machines it is one.
    """

    code: str
    words: str
    yes: str
    no: str
    minutes: float
    shows: Mapping[str, float]
    otherwise: float = 0.05
    risk: float = 0.0
    caution: str = ""
    needs: str = ""
    hazards: tuple[Hazard, ...] = ()
    changes: tuple[str, ...] = ()
    then: tuple[str, ...] = ()
    when: str = ""

    @property
    def mends(self) -> str:
        """The suspect that it mends; empty for one that only looks."""
        return self.code.removeprefix(MEND) if self.code.startswith(MEND) else ""

    @property
    def cautions(self) -> tuple[str, ...]:
        return (*filter(None, [self.caution]), *said(self.hazards))

    def __post_init__(self) -> None:
        if self.minutes <= 0 or not 0 <= self.risk <= 1:
            raise ValueError(f"{self.code}: minutes above 0, risk from 0 to 1.")
        if any(not 0 < chance < 1 for chance in (*self.shows.values(), self.otherwise)):
            raise ValueError(f"{self.code}: no result is certain.")


# What an answer of one's own says of a suspect it points to, against all others (judgement, no source).
POINTS = {"strong": (0.9, 0.1), "weak": (0.7, 0.3)}
# A repair that was made of the right thing works so often (judgement, no source).
MENDED = 0.95
# Faults that come and go: what went away by itself is likelier one of these (judgement, no source).
COMES_AND_GOES = frozenset(
    {"joint", "contact", "thermal", "crack", "connector", "keyconn", "lead", "cable", "near", "moisture", "memory"}
)


def mending(suspect: Suspect) -> Action:
    """Mending a suspect, as an action like others: it works then, or that was not it."""
    return Action(
        MEND + suspect.code,
        f"Mend it now, and start it: {suspect.words}",
        "works then",
        "the same",
        suspect.repair,
        {suspect.code: MENDED},
        0.02,
        caution="Unplugged and discharged while you work on it.",
        hazards=(Hazard.CHARGE, Hazard.STATIC, Hazard.SOLDER),
    )


@dataclass(frozen=True)
class Next:
    """An action worth its minutes: `bits` it is expected to tell and their `share` (0 to 1) of the doubt there is, how
    likely its first answer is, the minutes to the end that are to be expected when beginning with it, and the reason
    in words."""

    action: Action
    bits: float
    share: float
    likely: float
    to_the_end: float

    @property
    def why(self) -> str:
        if self.action.mends:
            return f"it is that {self.likely * 100:.0f} times in 100, and mending takes {self.action.minutes:.0f} min"
        split = f"{self.action.yes} {self.likely * 100:.0f} in 100, {self.action.no} {(1 - self.likely) * 100:.0f}"
        return f"settles {self.share * 100:.0f} % of the doubt in {self.action.minutes:.0f} min: {split}"


def entropy(chances: Sequence[float] | Floats) -> float:
    """Doubt in bits: −Σ p·log2 p (Shannon 1948)."""
    p = np.asarray(chances, dtype=float)
    p = p[p > 0]
    return float(-(p * np.log2(p)).sum())


def priors(
    suspects: Sequence[Suspect],
    signs: Mapping[str, int] | None = None,
    closed: Mapping[str, int] | None = None,
    strength: float = 10.0,
    evidence: Sequence[Mapping[str, float]] = (),
) -> tuple[float, ...]:
    """Where to begin: the library's weights, corrected by the shop's own closed faults of this symptom (Dirichlet, the
    library worth `strength` faults), then raised by what intake found on this unit, then by what the bench knows.

    Each mapping of `evidence` holds how much likelier one thing that is known makes a suspect, by code (above 0,
    1 where it says nothing). Adds up to 1.
    """
    weights = np.array([s.weight for s in suspects], dtype=float)
    p = weights / weights.sum()
    counts = np.array([(closed or {}).get(s.code, 0) for s in suspects], dtype=float)
    p = (strength * p + counts) / (strength + counts.sum())
    for place, suspect in enumerate(suspects):
        for sign, factor in suspect.signs.items():
            if (signs or {}).get(sign):
                p[place] *= factor
        for says in evidence:
            p[place] *= says.get(suspect.code, 1.0)
    return tuple(float(x) for x in p / p.sum())


def chances(action: Action, suspects: Sequence[Suspect], trust: float = 1.0) -> Floats:
    """How likely the first answer is under each suspect. An old or unverified known-good part makes it say less:
    with `trust` under 1 the chances move towards a coin's toss."""
    raw = np.array([action.shows.get(s.code, action.otherwise) for s in suspects])
    return trust * raw + (1 - trust) * 0.5


def after(
    suspects: Sequence[Suspect], before: Sequence[float], action: Action, yes: bool, trust: float = 1.0
) -> tuple[float, ...]:
    """Bayes' theorem: how likely each suspect is once the action has answered. Adds up to 1."""
    shows = chances(action, suspects, trust)
    joint = np.asarray(before) * (shows if yes else 1 - shows)
    return tuple(float(x) for x in joint / joint.sum())


def pointed(
    suspects: Sequence[Suspect], before: Sequence[float], at: str, how: str, away: bool = False
) -> tuple[float, ...]:
    """Bayes' theorem for something tried of one's own: it points at the suspect `at`, or `away` from it.

    `how` is "strong" or "weak" (KeyError otherwise). Adds up to 1.
    """
    likely, otherwise = POINTS[how]
    shows = np.array([likely if s.code == at else otherwise for s in suspects])
    joint = np.asarray(before) * (1 - shows if away else shows)
    return tuple(float(x) for x in joint / joint.sum())


def by_itself(suspects: Sequence[Suspect], before: Sequence[float]) -> tuple[float, ...]:
    """After the fault went away by itself: what comes and goes is twice as likely; nothing is mended by that."""
    joint = np.asarray(before) * np.array([2.0 if s.code in COMES_AND_GOES else 1.0 for s in suspects])
    return tuple(float(x) for x in joint / joint.sum())


def next_actions(
    suspects: Sequence[Suspect],
    now: Sequence[float],
    actions: Sequence[Action],
    trust: Mapping[str, float] | None = None,
    irreplaceable: float = 1.0,
    *,
    mended: Collection[str] = (),
    most: int = 5,
) -> tuple[Next, ...]:
    """What to do next, by the minutes to the end that are to be expected when beginning with it, the least first:
    the `actions`, and mending the suspect with which mending would best begin (core/bench/search.py).

    What was `mended` already is not mended again: it was not that, as far as the search goes. The cost of an action is
    its minutes and the risk to what can't be replaced, weighed by `irreplaceable` (1 usual, 3
    for a conserved machine). `bits` is the doubt that it takes away on average (expected information): of those that
    are as good, the one that tells most comes first.
    """
    p = np.asarray(now, dtype=float)
    shows = np.array([chances(a, suspects, (trust or {}).get(a.code, 1.0)) for a in actions]).reshape(-1, len(p))
    minutes = [a.minutes + a.risk * RISK_MINUTES * irreplaceable for a in actions]
    whole = max(entropy(p), 1e-12)
    left = np.where([s.code in mended for s in suspects], 0.0, p)
    found = []
    for way in ways(left if left.sum() > 0 else p, [s.repair for s in suspects], shows, minutes):
        if way.test is not None:
            action, under = actions[way.test], shows[way.test]
        elif way.suspect is None or suspects[way.suspect].code in mended:
            continue
        else:
            action = mending(suspects[way.suspect])
            under = chances(action, suspects)
        bits = max(0.0, float(_binary(under @ p) - _binary(under) @ p))
        found.append(Next(action, bits, bits / whole, float(under @ p), way.minutes))
    if not found:
        return ()
    level = found[0].to_the_end * (1 + AS_GOOD)
    found.sort(key=lambda one: (0.0, -one.bits) if one.to_the_end <= level else (one.to_the_end, 0.0))
    return tuple(found[:most])


def _binary(p: Floats) -> Floats:
    """Doubt in bits of a two-way answer."""
    q = np.clip(p, 1e-12, 1 - 1e-12)
    return np.asarray(-(q * np.log2(q) + (1 - q) * np.log2(1 - q)))


@dataclass(frozen=True)
class Verdict:
    """Whether to go on looking: the found suspect, the one to mend now since no test pays any more, or why nothing
    can be told; all empty while testing pays. `minutes` is what is to be expected to the end."""

    found: str = ""
    mend: str = ""
    stop: str = ""
    minutes: float = 0.0


def verdict(suspects: Sequence[Suspect], now: Sequence[float], ranked: Sequence[Next]) -> Verdict:
    """What of all that could be done next (`ranked`, from next_actions) is said of the whole. Whether going on pays is
    the question of core/workshop/stopgo.py."""
    top = int(np.argmax(now))
    left = ranked[0].to_the_end if ranked else suspects[top].repair
    if now[top] >= FOUND:
        return Verdict(found=suspects[top].code, minutes=left)
    if not any(one.bits >= 0.01 for one in ranked if not one.action.mends):
        words = (
            "Nothing in the library tells the rest apart. Mend the likeliest, try something of your own, or stop here."
        )
        return Verdict(stop=words, minutes=left)
    if ranked[0].action.mends:
        return Verdict(mend=ranked[0].action.mends, minutes=left)
    return Verdict(minutes=left)


def halving(now: Mapping[str, float]) -> tuple[str, ...]:
    """Which loads to take off together to find a short: those whose chances come nearest to half of all, the fewest of
    them where several do; never all. Of up to MOST_SPLIT of the likeliest every choice is tried.

    With equal loads that is half of them, so n loads take log2 n tries; a load likelier than all others
    together is tried by itself.
    """
    ranked = sorted(now, key=lambda load: (-now[load], load))
    likeliest, whole = ranked[:MOST_SPLIT], sum(now.values())
    picks = np.arange(1, 2 ** len(likeliest) - (len(likeliest) == len(ranked) > 1))
    taken = (picks[:, None] >> np.arange(len(likeliest))) & 1
    off = np.abs(taken @ np.array([now[load] for load in likeliest]) - whole / 2)
    size = taken.sum(axis=1)
    # Chances that differ by rounding alone are the same.
    best = min(range(len(picks)), key=lambda i: (round(float(off[i]) / max(whole, 1e-300), 9), size[i], picks[i]))
    return tuple(load for load, taken_off in zip(likeliest, taken[best], strict=True) if taken_off)


def splits(now: Mapping[str, float]) -> tuple[tuple[str, ...], ...]:
    """Every load taken off by itself, and the halves, their halves and so on: what a search by halving may need."""
    found: dict[tuple[str, ...], None] = {}
    groups = [now] if len(now) > 1 else []
    while groups:
        group = groups.pop()
        half = halving(group)
        rest = tuple(load for load in group if load not in half)
        found.setdefault(half)
        groups += [{load: group[load] for load in part} for part in (half, rest) if len(part) > 1]
    return (*found, *((load,) for load in now if (load,) not in found))


def one_by_one(chance: Sequence[float], minutes: Sequence[float]) -> tuple[int, ...]:
    """The order in which to check suspects one by one, by chance ÷ minutes: the least expected time to find a fault."""
    return tuple(sorted(range(len(chance)), key=lambda i: (-chance[i] / minutes[i], i)))


def expected_minutes(order: Sequence[int], chance: Sequence[float], minutes: Sequence[float]) -> float:
    """Minutes until a single fault is found on average, checking in this order (every check is sure)."""
    spent, total = 0.0, 0.0
    for i in order:
        spent += minutes[i]
        total += chance[i] * spent
    return total


@dataclass(frozen=True)
class KnownGood:
    """A part or fixture that stands in: days since it was last shown to be good (None: never), and uses since."""

    days: int | None
    uses: int

    @property
    def trust(self) -> float:
        """How far its word counts, 0 to 1: halves towards a coin's toss every year, a little with every use.

        Never verified counts a third (judgement; common practice, no source).
        """
        if self.days is None:
            return UNVERIFIED
        return float(0.98 * 0.5 ** (self.days / 365) * 0.995**self.uses)

    @property
    def words(self) -> str:
        if self.days is None:
            return "never shown to be good: its word counts little"
        age = f"shown to be good {self.days} days ago, used {self.uses} times since"
        return age if self.trust > 0.8 else f"{age}: check it first, or trust it less"
