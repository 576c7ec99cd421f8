"""Drawings of a set of upgrades: what each adds for each buyer on one scale, spend against budget, value under it."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.workshop.upgrades.best import UpgradeSet
from stations.workshop.upgrades import Row

# A cell of the table: all bars together are this wide, in pixels of its drawing.
BARS = 46.0
SIDE = 270.0
# A segment narrower than this carries no words; beside its amount it has a name where there is room for each letter.
NARROW, LETTER = 26.0, 7.6


@dataclass(frozen=True)
class Scale:
    """One scale for all cells of a table: where zero lies, and pixels for one unit of money."""

    zero: float
    each: float

    def bar(self, money: Decimal) -> tuple[float, float]:
        """Where a bar begins and how wide it is; at least so wide that it is seen."""
        wide = max(1.8, abs(float(money)) * self.each)
        return (self.zero if money >= 0 else self.zero - wide), wide


def scale_of(rows: Sequence[Row]) -> Scale:
    amounts = [float(money) for row in rows for _, money, _ in row.adds if money is not None]
    up, down = max([0.0, *amounts]), -min([0.0, *amounts])
    whole = (up + down) or 1.0
    return Scale(2 + BARS * down / whole, BARS / whole)


@dataclass(frozen=True)
class Segment:
    x: float
    wide: float
    words: str
    labour: bool = False

    @property
    def middle(self) -> float:
        return self.x + self.wide / 2


@dataclass(frozen=True)
class Side:
    """Spend over value. `budget`: where its mark stands, None without one or beyond the drawing; `left`: from where to
    where what is left over goes."""

    spend: tuple[Segment, ...]
    adds: tuple[Segment, ...]
    labour: Segment | None
    budget: float | None
    left: tuple[float, float] | None

    @property
    def left_middle(self) -> float:
        """Where its words stand, within the drawing."""
        return min(SIDE - 46, max(46, sum(self.left) / 2)) if self.left else 0.0


def side_of(best: UpgradeSet, each_adds: Sequence[tuple[str, Decimal]], budget: Decimal | None) -> Side:
    """`each_adds`: what each upgrade of the set adds in turn, by name."""
    parts = [(_short(one.candidate.part.name), one.spend) for one in best.chosen]
    parts += [("postage", best.postage)] if best.postage else []
    spent, value = best.parts + best.labour, best.adds
    widest = max(spent, value, budget or Decimal(0), Decimal(1))
    # A budget far beyond what is spent would squeeze the bars: it stands at the end then.
    if budget is not None and budget > 3 * max(spent, value):
        widest = max(spent, value, Decimal(1))
    pixels = (SIDE - 6) / float(widest)
    spend = _segments([(name, float(amount) * pixels, f"{amount:.0f}") for name, amount in parts], 0)
    after = spend[-1].x + spend[-1].wide + 1.5 if spend else 0.0
    labour = Segment(after, max(2.0, float(best.labour) * pixels), "", True) if best.labour else None
    adds = _segments(
        [(_short(name), float(amount) * pixels, f"{amount:.0f}") for name, amount in each_adds if amount > 0], 0
    )
    left = (float(spent) * pixels, float(value) * pixels) if best.left > 0 else None
    mark = float(budget) * pixels if budget is not None and budget <= widest else None
    return Side(tuple(spend), tuple(adds), labour, mark, left)


def _segments(parts: Sequence[tuple[str, float, str]], x: float) -> list[Segment]:
    found = []
    for name, wide, amount in parts:
        both = f"{name} {amount}"
        words = both if wide > LETTER * len(both) else amount if wide > NARROW else ""
        found.append(Segment(x, max(1.5, wide - 1.5), words))
        x += wide
    return found


def _short(name: str) -> str:
    """The first word of a name, in small letters."""
    return name.split(",")[0].split(" ")[0].lower()
