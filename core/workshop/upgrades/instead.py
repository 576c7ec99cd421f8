"""What else would do for a thing that is missing: the original, one of its time, a modern one, one that is made."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from core.catalogue.fit.answers import Answer, Verdict
from core.catalogue.fit.kinds import Origin
from core.catalogue.fit.needs import Change, Needs
from core.catalogue.fit.rules import judge
from core.catalogue.recipes import JobKind
from core.machine.approach import Approach
from core.money import ZERO
from core.workshop.jobs import refusal
from core.workshop.labour import labour_cost
from core.workshop.upgrades.best import ForBuyer, Worth
from core.workshop.upgrades.buyers import Buyer
from core.workshop.upgrades.candidates import Candidate

TREATED = tuple(one for one in Approach if one is not Approach.DONOR)


@dataclass(frozen=True)
class Allowed:
    """What an approach says to it: the verdict of the rules under it, and why it is against the approach."""

    approach: Approach
    verdict: Verdict
    refused: str

    @property
    def words(self) -> str:
        """Why not, or with what; empty where it is simply right."""
        if self.refused:
            return self.refused
        said = [one for one in self.verdict.findings if one.rule == "approach" and one.answer is not Answer.FITS]
        return "; ".join(one.so for one in said)

    @property
    def answer(self) -> Answer:
        if self.refused:
            return Answer.NOT
        said = [one.answer for one in self.verdict.findings if one.rule == "approach"]
        return max(said, key=lambda one: one.rank, default=Answer.FITS)


@dataclass(frozen=True)
class Price:
    """What one way adds for a buyer, with that the machine is whole again (None: not known), less part and labour."""

    buyer: Buyer
    adds: Decimal | None
    left: Decimal | None


@dataclass(frozen=True)
class Instead:
    """One way. `lifts`: what it does to the price that the thing is there again, before any buyer's taste."""

    candidate: Candidate
    origin: Origin | None
    lifts: Decimal | None
    prices: tuple[Price, ...]
    allowed: tuple[Allowed, ...]

    @property
    def cost(self) -> Decimal | None:
        return self.candidate.cheapest

    @property
    def best_price(self) -> Price | None:
        known = [one for one in self.prices if one.left is not None]
        return max(known, key=lambda one: one.left or ZERO, default=None)

    @property
    def fits(self) -> bool:
        return not self.candidate.refused


def serving(needs: Needs, thing: str) -> bool:
    """Whether a part does the work of a thing of this name."""
    return any(one.name.lower() == thing.lower() for one in needs.serves or ())


def alternatives(
    worth: Worth, thing: str, buyers: Sequence[Buyer], lifts: Mapping[Origin, Decimal | None]
) -> list[Instead]:
    """Every way to have the thing again, those that fit first and of these the one that leaves most. `lifts`: by how
    much the price rises once it is there, by where it stands to the machine."""
    found = []
    for one in worth.candidates:
        served = next((s for s in one.needs.serves or () if s.name.lower() == thing.lower()), None)
        if served is None:
            continue
        lift = lifts.get(served.origin) if served.origin else None
        prices = tuple(_price(worth, one, lift, worth.for_buyer(one, buyer)) for buyer in buyers)
        found.append(Instead(one, served.origin, lift, prices, tuple(_allowed(worth, one, served.origin))))
    return sorted(
        found, key=lambda one: (not one.fits, -((one.best_price and one.best_price.left) or 0), one.candidate.key)
    )


def _price(worth: Worth, one: Candidate, lift: Decimal | None, said: ForBuyer) -> Price:
    if lift is None or said.adds is None:
        return Price(said.buyer, None, None)
    adds, cost = said.adds + lift, one.cheapest
    return Price(said.buyer, adds, None if cost is None else adds - cost - labour_cost(one.minutes, worth.hourly))


def _allowed(worth: Worth, one: Candidate, origin: Origin | None) -> list[Allowed]:
    kind = JobKind.UPGRADE if origin in {Origin.MODERN, Origin.MADE} else JobKind.REPAIR
    found = []
    for approach in TREATED:
        verdict = judge(replace(worth.machine, approach=approach), one.needs)
        # Out of sight is said by the rule: only what changes the machine for good, or a modification, is refused.
        found.append(Allowed(approach, verdict, refusal(approach, kind, reversible(one.needs.changes), False)))
    return found


def reversible(changes: Sequence[Change] | None) -> bool | None:
    """Whether what it changes can be undone; None while nobody said."""
    known = [change.reversible for change in changes] if changes is not None else [None]
    return False if False in known else None if None in known else True
