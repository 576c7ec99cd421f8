"""Two similar machines side by side: which of each pair of parts goes where, and what that leaves."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.machine.names import as_seen
from core.stock.parts import Condition, PartKind


class Choice(StrEnum):
    """What becomes of a pair: both stay, they change places, or the one there goes where none is."""

    STAY = "stay"
    SWAP = "swap"
    MOVE = "move"


@dataclass(frozen=True)
class InPlace:
    """A part where it sits: `own` when it is the machine’s own, `doubted` when it may not be what it says."""

    key: int
    kind: PartKind
    name: str
    condition: Condition = Condition.UNTESTED
    own: bool = False
    doubted: bool = False
    worth: Decimal | None = None

    @property
    def goodness(self) -> tuple[int, bool, bool, Decimal]:
        """Lower is better: what was shown to work, then what is surely what it says, then the machine’s own, then what
        is worth more (common practice, no source)."""
        return self.condition.rank, self.doubted, not self.own, -(self.worth or Decimal(0))


@dataclass(frozen=True)
class Pair:
    """Parts that answer to each other; `here` is in the machine that gets the better ones."""

    here: InPlace | None
    there: InPlace | None
    choice: Choice
    why: str

    @property
    def after(self) -> tuple[InPlace | None, InPlace | None]:
        """What sits here and there once it is done."""
        return (self.here, self.there) if self.choice is Choice.STAY else (self.there, self.here)


def beside(here: Sequence[InPlace], there: Sequence[InPlace], wanted: Iterable[str] = ()) -> tuple[Pair, ...]:
    """What goes where so that of parts of one kind and name the best are here, as many as there are places: those that
    are filled, and those of `wanted` (what is missing here, by name).

    Parts of different names are different things and don’t change places: whether one fits is another question.
    """
    groups: dict[tuple[PartKind, str], tuple[list[InPlace], list[InPlace]]] = defaultdict(lambda: ([], []))
    for side, parts in enumerate((here, there)):
        for part in parts:
            groups[part.kind, as_seen(part.name)][side].append(part)
    missing = [as_seen(name) for name in wanted]
    found = []
    for (_, name), (mine, theirs) in groups.items():
        mine = sorted(mine, key=lambda part: part.goodness, reverse=True)
        theirs = sorted(theirs, key=lambda part: part.goodness)
        for one in mine:
            other = theirs.pop(0) if theirs else None
            found.append(_pair(one, other))
        for other in theirs:
            if name in missing and other.condition is not Condition.FAULTY:
                missing.remove(name)
                found.append(Pair(None, other, Choice.MOVE, "missing here"))
            else:
                found.append(Pair(None, other, Choice.STAY, "none is missing here"))
    return tuple(found)


def _pair(here: InPlace, there: InPlace | None) -> Pair:
    if there is None:
        return Pair(here, None, Choice.STAY, "the other has none")
    if there.goodness >= here.goodness:
        return Pair(here, there, Choice.STAY, "no better" if there.goodness == here.goodness else _why(here, there))
    return Pair(here, there, Choice.SWAP, _why(there, here))


def _why(better: InPlace, worse: InPlace) -> str:
    if better.condition is not worse.condition:
        return f"{better.condition.label} against {worse.condition.label}"
    if better.doubted != worse.doubted:
        return "the other may not be what it says"
    if better.own != worse.own:
        return "the machine’s own"
    return f"worth {better.worth} against {worse.worth if worse.worth is not None else 'nobody said'}"
