"""For which sale money came in: what speaks for each, and never more than that. Who books it is a person."""

import re
import unicodedata
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.machine.tags import Tag, TagError, parse_tag
from core.money import ZERO

# How a tag is written by people who copy it: W-0147-X, W147, w 0147.
_TAGS = re.compile(r"(?<![0-9A-Za-z])W[-\s]?\d{1,9}(?:[-\s][0-9A-Z](?![0-9A-Za-z]))?(?![0-9])", re.IGNORECASE)
_SHORTEST_NAME = 3
# What speaks how much (common practice, no source): the number of the paper or the tag more than any amount.
BY_NUMBER, BY_AMOUNT, BY_NAME = 4, 2, 1


@dataclass(frozen=True)
class OpenSale:
    """A sale of which something is open: `owed` of it (above 0), the number of the `unit` and of the `receipt` that was
    written for it, both as printed or empty."""

    key: int
    unit: int
    receipt: str
    buyer: str
    owed: Decimal

    @property
    def tag(self) -> Tag:
        return Tag(self.unit)


@dataclass(frozen=True)
class Proposal:
    """What money may be for, one sale or several that were paid together, why, and how much speaks for it."""

    sales: tuple[OpenSale, ...]
    reasons: tuple[str, ...]
    weight: int

    @property
    def owed(self) -> Decimal:
        return _owed(self.sales)

    @property
    def buyer(self) -> str:
        return self.sales[0].buyer

    @property
    def tags(self) -> str:
        """Of what it is, the first three by name."""
        more = len(self.sales) - 3
        return ", ".join(str(sale.tag) for sale in self.sales[:3]) + (f" and {more} more" if more > 0 else "")


def proposals(amount: Decimal, who: str, words: str, sales: Sequence[OpenSale], most: int = 3) -> list[Proposal]:
    """The likeliest of the open sales for what came in, the one for which most speaks first; only the name of a buyer
    is not enough. Several together are proposed where it is exactly what is open of them."""
    tags, said = _tags(words), f"{who} {words}"
    found = []
    for some in [*((sale,) for sale in sales), *_paid_together(amount, sales, tags)]:
        its = "its" if len(some) == 1 else "their"
        named = _is_named(some[0].buyer, said)
        speaks = (
            (BY_NUMBER, f"{its} tag is named", all(sale.unit in tags for sale in some)),
            (BY_NUMBER, f"{its} receipt is named", all(_is_number(sale.receipt, said) for sale in some)),
            (BY_AMOUNT, "exactly what is open", _owed(some) == amount),
            (BY_NAME, "the buyer’s name", named),
        )
        weight = sum(much for much, _, so in speaks if so)
        if weight > BY_NAME:
            reasons = [reason for _, reason, so in speaks if so]
            if who and some[0].buyer and not named:
                reasons.append("from another name")
            found.append(Proposal(some, tuple(reasons), weight))
    found.sort(key=lambda one: (-one.weight, one.sales[0].unit))
    return found[:most]


def _owed(some: Iterable[OpenSale]) -> Decimal:
    return sum((sale.owed for sale in some), ZERO)


def _paid_together(amount: Decimal, sales: Sequence[OpenSale], tags: set[int]) -> list[tuple[OpenSale, ...]]:
    """Several sales of which that is open together: those of one buyer, or those whose tags are named."""
    heaps: dict[object, list[OpenSale]] = defaultdict(list)
    for sale in sorted(sales, key=lambda sale: sale.unit):
        if buyer := tuple(_plain(sale.buyer)):
            heaps[buyer].append(sale)
        if sale.unit in tags:
            heaps["named"].append(sale)
    found = {tuple(heap): None for heap in heaps.values() if len(heap) > 1 and _owed(heap) == amount}
    return list(found)


def plain(found: Sequence[Proposal]) -> bool:
    """Whether more speaks for the first than for any other, and more than that the amount is the same."""
    return bool(found) and found[0].weight > max([BY_AMOUNT, *(one.weight for one in found[1:2])])


def _tags(words: str) -> set[int]:
    """The units that are named; a tag with a wrong check character names none."""
    found = set()
    for written in _TAGS.findall(words):
        try:
            tag = parse_tag(written)
        except TagError:
            continue
        if tag:
            found.add(tag.number)
    return found


def _is_number(receipt: str, said: str) -> bool:
    """Whether the number of a paper stands there, as a number of its own."""
    return bool(receipt) and re.search(rf"(?<!\d){re.escape(receipt)}(?!\d)", said) is not None


def _is_named(buyer: str, said: str) -> bool:
    """Whether every part of a buyer’s name that is longer than an initial stands there, in any order."""
    parts = [part for part in _plain(buyer.partition(",")[0]) if len(part) >= _SHORTEST_NAME]
    return bool(parts) and set(parts) <= set(_plain(said))


def _plain(words: str) -> list[str]:
    """The words without case and accents."""
    apart = unicodedata.normalize("NFKD", words)
    return re.findall(r"\w+", "".join(c for c in apart if not unicodedata.combining(c)).casefold())
