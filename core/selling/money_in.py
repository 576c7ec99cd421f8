"""For which sale money came in: what speaks for each, and never more than that. Who books it is a person."""

import re
import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.machine.tags import Tag, TagError, parse_tag

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
    """A sale that money may be for, why, and how much speaks for it."""

    sale: OpenSale
    reasons: tuple[str, ...]
    weight: int


def proposals(amount: Decimal, who: str, words: str, sales: Iterable[OpenSale], most: int = 3) -> list[Proposal]:
    """The likeliest of the open sales for what came in, the one for which most speaks first; only the name of a buyer
    is not enough. With several that nothing tells apart each is proposed and none comes first for a reason."""
    tags, said = _tags(words), f"{who} {words}"
    found = []
    for sale in sales:
        speaks = (
            (BY_NUMBER, "its tag is named", sale.unit in tags),
            (BY_NUMBER, "its receipt is named", _is_number(sale.receipt, said)),
            (BY_AMOUNT, "exactly what is open", sale.owed == amount),
            (BY_NAME, "the buyer’s name", _is_named(sale.buyer, said)),
        )
        weight = sum(much for much, _, so in speaks if so)
        if weight > BY_NAME:
            reasons = [words for _, words, so in speaks if so]
            if who and sale.buyer and not speaks[-1][-1]:
                reasons.append("from another name")
            found.append(Proposal(sale, tuple(reasons), weight))
    found.sort(key=lambda one: (-one.weight, one.sale.unit))
    return found[:most]


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
