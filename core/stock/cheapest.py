"""The cheapest way to get what is wanted: which offers to take from whom, with postage paid once a seller.

Exact by CP-SAT, with the bound it was proven to.
"""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from ortools.sat.python import cp_model

from core.money import ZERO, to_cent

SECONDS = 2.0
MOST_PIECES = 10_000


class OfferError(ValueError):
    """What is wrong with a want or an offer, in words, and at which field."""

    def __init__(self, message: str, at: str = "") -> None:
        super().__init__(message)
        self.at = at


@dataclass(frozen=True)
class Want:
    """So many of something; where not all can be had, what weighs more is got first (weight 1 to 1000)."""

    name: str
    quantity: int = 1
    weight: int = 1

    def __post_init__(self) -> None:
        if not 1 <= self.quantity <= MOST_PIECES:
            raise OfferError(f"From 1 to {MOST_PIECES} of it.", "quantity")
        if not 1 <= self.weight <= 1000:
            raise OfferError("A weight from 1 to 1000.", "weight")


@dataclass(frozen=True)
class Offer:
    """Somebody sells something wanted at so much each, base currency; `most` he has (None: enough), `days` until it is
    here (None: nobody said)."""

    want: str
    seller: str
    each: Decimal
    most: int | None = None
    days: int | None = None

    def __post_init__(self) -> None:
        if self.each < 0:
            raise OfferError("A price may not be below 0.", "each")
        if self.most is not None and self.most < 1:
            raise OfferError("At least one.", "most")
        if self.days is not None and self.days < 0:
            raise OfferError("Days from 0.", "days")


@dataclass(frozen=True)
class Postage:
    """What a seller asks for a parcel, once; nothing from goods worth `free_from`, None for never."""

    amount: Decimal
    free_from: Decimal | None = None

    def __post_init__(self) -> None:
        if self.amount < 0 or (self.free_from is not None and self.free_from < 0):
            raise OfferError("Postage may not be below 0.", "postage")

    def on(self, goods: Decimal) -> Decimal:
        """For a parcel with goods of this worth."""
        return ZERO if self.free_from is not None and goods >= self.free_from else self.amount


@dataclass(frozen=True)
class Basket:
    """What to order: quantities by offer in the order given, what is missing of each want, what it costs delivered.

    `bound`: with as little missing, no basket costs less than this. `one_by_one` is what each want costs by itself from
    whoever is cheapest for it alone, postage each time; None where one can’t be had.
    """

    quantities: tuple[int, ...]
    missing: Mapping[str, int]
    goods: Decimal
    postage: Mapping[str, Decimal]
    bound: Decimal
    one_by_one: Decimal | None

    @property
    def total(self) -> Decimal:
        return self.goods + sum(self.postage.values(), ZERO)

    @property
    def proven(self) -> bool:
        return self.bound >= self.total

    @property
    def within(self) -> float:
        """How far at most the total lies above the best there can be, as a share of it."""
        return float((self.total - self.bound) / self.total) if self.total else 0.0


def cheapest(
    wants: Sequence[Want],
    offers: Sequence[Offer],
    postage: Mapping[str, Postage],
    budget: Decimal | None = None,
    within_days: int | None = None,
    seconds: float = SECONDS,
) -> Basket:
    """The basket that leaves least missing (by weight) and of those costs least.

    `within_days` leaves out what comes later or nobody knows when; `budget` is what may be spent in all. OfferError for
    a seller whose postage nobody stated, and for wants of one name.
    """
    names = [want.name for want in wants]
    if len(set(names)) < len(names):
        raise OfferError("The same thing is wanted twice: add the quantities.", "name")
    for offer in offers:
        if offer.seller not in postage:
            raise OfferError(f"What {offer.seller} asks for postage is not known. Ask before you compare.", "postage")
    timely = [
        o for o in offers if o.want in names and (within_days is None or (o.days is not None and o.days <= within_days))
    ]
    model = cp_model.CpModel()
    quantity = {want.name: want.quantity for want in wants}
    taken = [model.new_int_var(0, min(o.most or MOST_PIECES, quantity[o.want]), "") for o in timely]
    missing = {want.name: model.new_int_var(0, want.quantity, "") for want in wants}
    for want in wants:
        got = [taken[n] for n, offer in enumerate(timely) if offer.want == want.name]
        model.add(sum(got) + missing[want.name] == want.quantity)
    cost = _cost(model, timely, taken, postage, quantity)
    if budget is not None:
        model.add(cost <= _cents(budget))
    lacks = sum(missing[want.name] * want.weight for want in wants)
    # What can’t be had shows at once; the time is for the cost.
    solver = _solver(seconds / 5)
    model.minimize(lacks)
    if solver.solve(model) not in {cp_model.OPTIMAL, cp_model.FEASIBLE}:
        raise OfferError("No way was found in time.")
    model.add(lacks <= round(solver.objective_value))
    model.minimize(cost)
    solver = _solver(seconds * 4 / 5)
    if solver.solve(model) not in {cp_model.OPTIMAL, cp_model.FEASIBLE}:
        raise OfferError("No way was found in time.")
    amounts = {id(offer): solver.value(var) for offer, var in zip(timely, taken, strict=True)}
    found = tuple(amounts.get(id(offer), 0) for offer in offers)
    goods, sent = _delivered(offers, found, postage)
    bound = Decimal(math.ceil(solver.best_objective_bound - 1e-6)) / 100
    lacking = {name: solver.value(var) for name, var in missing.items() if solver.value(var)}
    return Basket(found, lacking, goods, sent, bound, _one_by_one(wants, timely, postage))


def _cost(
    model: cp_model.CpModel,
    offers: Sequence[Offer],
    taken: Sequence[cp_model.IntVar],
    postage: Mapping[str, Postage],
    quantity: Mapping[str, int],
) -> Any:
    """Cents of goods and postage: a seller of whom anything is taken is paid postage, unless it is worth enough."""
    terms: list[Any] = []
    by_seller: dict[str, list[int]] = defaultdict(list)
    for number, offer in enumerate(offers):
        by_seller[offer.seller].append(number)
        terms.append(taken[number] * _cents(offer.each))
    for seller, numbers in by_seller.items():
        asks, used = postage[seller], model.new_bool_var("")
        for number in numbers:
            model.add(taken[number] <= quantity[offers[number].want] * used)
        if asks.free_from is None:
            terms.append(used * _cents(asks.amount))
            continue
        free = model.new_bool_var("")
        goods = sum(taken[number] * _cents(offers[number].each) for number in numbers)
        model.add(goods >= _cents(asks.free_from)).only_enforce_if(free)
        pays = model.new_bool_var("")
        model.add(pays >= used - free)
        terms.append(pays * _cents(asks.amount))
    return cp_model.LinearExpr.sum(terms)


def _delivered(
    offers: Sequence[Offer], quantities: Sequence[int], postage: Mapping[str, Postage]
) -> tuple[Decimal, dict[str, Decimal]]:
    """Worth of the goods, and postage by seller of whom something is taken."""
    goods: dict[str, Decimal] = defaultdict(lambda: ZERO)
    used = set()
    for offer, count in zip(offers, quantities, strict=True):
        if count:
            used.add(offer.seller)
            goods[offer.seller] += to_cent(offer.each * count)
    sent = {seller: asks.on(goods[seller]) for seller, asks in postage.items() if seller in used}
    return sum(goods.values(), ZERO), sent


def _one_by_one(wants: Sequence[Want], offers: Sequence[Offer], postage: Mapping[str, Postage]) -> Decimal | None:
    """Each want from the one seller who is cheapest for all of it, postage each time."""
    whole = ZERO
    for want in wants:
        costs = [
            (goods := to_cent(offer.each * want.quantity)) + postage[offer.seller].on(goods)
            for offer in offers
            if offer.want == want.name and (offer.most is None or offer.most >= want.quantity)
        ]
        if not costs:
            return None
        whole += min(costs)
    return whole


def _cents(amount: Decimal) -> int:
    return int(to_cent(amount) * 100)


def _solver(seconds: float) -> cp_model.CpSolver:
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    solver.parameters.max_time_in_seconds = seconds
    return solver
