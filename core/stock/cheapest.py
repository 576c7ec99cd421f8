"""The cheapest way to get what is wanted: which offers to take from whom, with postage paid once a seller.

A mixed-integer programme, solved exactly by HiGHS with the bound it was proven to: choosing whom to open a parcel
with is facility location, where the relaxation without whole numbers lies close to the truth.
"""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
import numpy.typing as npt
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_matrix, vstack

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

    `bound`: with as little missing, no basket costs less than this. `least_missing`: no basket leaves less missing.
    `one_by_one` is what each want costs by itself from
    whoever is cheapest for it alone, postage each time; None where one can’t be had.
    """

    quantities: tuple[int, ...]
    missing: Mapping[str, int]
    goods: Decimal
    postage: Mapping[str, Decimal]
    bound: Decimal
    one_by_one: Decimal | None
    least_missing: bool = True

    @property
    def total(self) -> Decimal:
        return self.goods + sum(self.postage.values(), ZERO)

    @property
    def proven(self) -> bool:
        return self.least_missing and self.bound >= self.total

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
    programme = _Programme(wants, timely, postage)
    # With as little missing as may be, by weight; then as cheap as may be.
    budget_row = [] if budget is None else [(programme.cost, -np.inf, float(_cents(budget)))]
    least = programme.solve(programme.lacking, budget_row, seconds / 4)
    kept = (programme.lacking, -np.inf, round(float(programme.lacking @ least.x)) + 0.5)
    best = programme.solve(programme.cost, [*budget_row, kept], seconds * 3 / 4)
    amounts = {id(offer): count for offer, count in zip(timely, best.taken, strict=True)}
    found = tuple(amounts.get(id(offer), 0) for offer in offers)
    goods, sent = _delivered(offers, found, postage)
    lacking = {want.name: count for want, count in zip(wants, best.missing, strict=True) if count}
    bound = Decimal(math.ceil(best.bound - 1e-4)) / 100
    least_missing = least.bound > float(programme.lacking @ best.x) - 1 + 1e-4
    return Basket(found, lacking, goods, sent, bound, _one_by_one(wants, timely, postage), least_missing)


Floats = npt.NDArray[np.float64]
# A row of the programme: its coefficients, and between what their sum lies.
Row = tuple[Floats, float, float]


@dataclass(frozen=True)
class _Solved:
    """Whole numbers by variable, how many of each offer and missing of each want, and what no way goes below."""

    x: Floats
    taken: tuple[int, ...]
    missing: tuple[int, ...]
    bound: float


class _Programme:
    """Variables in this order: pieces of each offer, missing of each want, parcels of each seller (0 or 1), those of
    them that pay postage. Money in cents."""

    def __init__(self, wants: Sequence[Want], offers: Sequence[Offer], postage: Mapping[str, Postage]) -> None:
        quantity = {want.name: want.quantity for want in wants}
        sellers = sorted({offer.seller for offer in offers})
        self.offers, self.wants = len(offers), len(wants)
        opened = {seller: self.offers + self.wants + place for place, seller in enumerate(sellers)}
        paid = {seller: place + len(sellers) for seller, place in opened.items()}
        self.size = self.offers + self.wants + 2 * len(sellers)
        most = [min(offer.most or MOST_PIECES, quantity[offer.want]) for offer in offers]
        self.upper = np.array([*most, *quantity.values(), *[1] * (2 * len(sellers))], dtype=float)
        self.cost, self.lacking = np.zeros(self.size), np.zeros(self.size)
        self.lacking[self.offers : self.offers + self.wants] = [want.weight for want in wants]
        self.cost[: self.offers] = [_cents(offer.each) for offer in offers]
        for seller, place in paid.items():
            self.cost[place] = _cents(postage[seller].amount)
        rows = [
            self._row(
                {n: 1 for n, offer in enumerate(offers) if offer.want == want.name} | {self.offers + place: 1},
                want.quantity,
                want.quantity,
            )
            for place, want in enumerate(wants)
        ]
        # Nothing comes without a parcel; a parcel pays unless what is in it is worth enough.
        rows += [self._row({n: 1, opened[offer.seller]: -most[n]}, high=0) for n, offer in enumerate(offers)]
        for seller in sellers:
            free = postage[seller].free_from
            if free is None:
                rows.append(self._row({opened[seller]: 1, paid[seller]: -1}, high=0))
            else:
                goods = {n: float(_cents(offer.each)) for n, offer in enumerate(offers) if offer.seller == seller}
                enough = float(_cents(free))
                rows.append(self._row(goods | {opened[seller]: -enough, paid[seller]: enough}, low=0))
        self.rows = rows

    def _row(self, coefficients: Mapping[int, float], low: float = -np.inf, high: float = np.inf) -> Row:
        row = np.zeros(self.size)
        for place, value in coefficients.items():
            row[place] = value
        return row, low, high

    def solve(self, goal: Floats, more: Sequence[Row], seconds: float) -> _Solved:
        """The way with the least of `goal` that is found in time. OfferError when none was."""
        rows = [*self.rows, *more]
        matrix = vstack([csr_matrix(row) for row, _, _ in rows])
        limits = LinearConstraint(matrix, [low for _, low, _ in rows], [high for _, _, high in rows])
        options = {"time_limit": seconds, "mip_rel_gap": 0.0}
        bounds = Bounds(0, self.upper)
        found = milp(goal, constraints=limits, bounds=bounds, integrality=np.ones(self.size), options=options)
        if found.x is None:
            raise OfferError("No way was found in time.")
        x = np.rint(found.x)
        taken = tuple(int(count) for count in x[: self.offers])
        missing = tuple(int(count) for count in x[self.offers : self.offers + self.wants])
        return _Solved(x, taken, missing, float(found.mip_dual_bound))


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
