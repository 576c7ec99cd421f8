"""What each upgrade adds for each buyer, and the set that leaves most and fits together, with what is proven of it."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from ortools.sat.python import cp_model
from ortools.sat.python.cp_model import IntVar, LinearExpr

from core import solving
from core.catalogue.fit.answers import listed
from core.catalogue.fit.machine import Machine
from core.money import ZERO
from core.workshop.labour import labour_cost
from core.workshop.upgrades.buyers import Buyer
from core.workshop.upgrades.candidates import Candidate, Source, UpgradeError, each_once, gives, sets, without
from core.workshop.upgrades.features import FROM_CHANGES, Feature, has
from core.workshop.upgrades.room import Room

SECONDS = 3.0
MOST_BUDGET, MOST_MINUTES = Decimal(1_000_000), 100_000


@dataclass(frozen=True)
class Touched:
    """What an upgrade does to a feature: brings it, takes it away, or nobody knows (`changes` None), and what would
    settle that."""

    feature: Feature
    changes: int | None
    money: Decimal
    asks: str = ""


@dataclass(frozen=True)
class ForBuyer:
    """What an upgrade does to the price for one buyer, by itself. `adds` is None while something that this buyer pays
    for is not known: `asks` which. Base currency."""

    buyer: Buyer
    touched: tuple[Touched, ...] = ()

    @property
    def adds(self) -> Decimal | None:
        if any(one.changes is None for one in self.touched):
            return None
        return sum((one.money for one in self.touched), ZERO)

    @property
    def asks(self) -> tuple[str, ...]:
        """What would settle it, each once."""
        return tuple(dict.fromkeys(one.asks for one in self.touched if one.changes is None))

    @property
    def words(self) -> str:
        """In words where there is no more to it: nothing, takes away, not known."""
        if self.adds is None:
            return "not known"
        return "nothing" if not self.adds else "takes away" if self.adds < 0 else ""


@dataclass(frozen=True)
class Chosen:
    """An upgrade of a set, and where its part comes from."""

    candidate: Candidate
    source: Source

    @property
    def spend(self) -> Decimal:
        return (self.source.each or ZERO) * self.candidate.count + (self.candidate.adapters or ZERO)


@dataclass(frozen=True)
class UpgradeSet:
    """The set for a buyer: what it adds to the price, what is spent on it (postage among it), and labour.

    `bound`: no set that fits and keeps to budget and minutes leaves more than this. `unmet`: what it should have become
    and won't with this set; `unmet_proven`: that it can't with any.
    """

    buyer: Buyer
    chosen: tuple[Chosen, ...] = ()
    adds: Decimal = ZERO
    postage: Decimal = ZERO
    labour: Decimal = ZERO
    minutes: int = 0
    bound: Decimal = ZERO
    unmet: tuple[Feature, ...] = ()
    unmet_proven: bool = True

    @property
    def parts(self) -> Decimal:
        return sum((one.spend for one in self.chosen), self.postage)

    @property
    def left(self) -> Decimal:
        return self.adds - self.parts - self.labour

    @property
    def proven(self) -> bool:
        return self.bound <= self.left

    @property
    def better_by(self) -> Decimal:
        """By how much another set may at most be better."""
        return max(ZERO, self.bound - self.left)

    @property
    def keys(self) -> tuple[str, ...]:
        return tuple(one.candidate.key for one in self.chosen)


@dataclass(frozen=True)
class Limits:
    """What may be spent, minutes of hands, and whether what is not known to fit may be chosen. None: no limit."""

    budget: Decimal | None = None
    minutes: int | None = None
    maybe: bool = False

    def __post_init__(self) -> None:
        if self.budget is not None and not 0 <= self.budget <= MOST_BUDGET:
            raise UpgradeError(f"A budget from 0 to {MOST_BUDGET:,}.", "budget")
        if self.minutes is not None and not 0 <= self.minutes <= MOST_MINUTES:
            raise UpgradeError(f"Minutes from 0 to {MOST_MINUTES:,}.", "minutes")


NO_LIMITS = Limits()


class Worth:
    """What upgrades of one machine are worth. `price`: what it should fetch now; `hourly`: an hour of hands.

    What a feature adds is reckoned on that price and added up: so is what is shown.
    """

    def __init__(self, machine: Machine, candidates: Sequence[Candidate], price: Decimal, hourly: Decimal) -> None:
        each_once(candidates)
        self.machine, self.candidates, self.price, self.hourly = machine, tuple(candidates), price, hourly
        self._has: dict[Feature, bool | None] = {}
        self._changes: dict[tuple[str, Feature], int | None] = {}

    def has(self, feature: Feature) -> bool | None:
        """Whether the machine has it as it stands."""
        if feature not in self._has:
            self._has[feature] = has(self.machine, feature)
        return self._has[feature]

    def changes(self, candidate: Candidate, feature: Feature) -> int | None:
        """1 where an upgrade brings a feature, -1 where it takes it away, 0 for neither; None for not known."""
        key = (candidate.key, feature)
        if key not in self._changes:
            self._changes[key] = self._worked_out(candidate, feature)
        return self._changes[key]

    def _worked_out(self, candidate: Candidate, feature: Feature) -> int | None:
        brings, now = gives(self.machine, candidate, feature), self.has(feature)
        if brings:
            return None if now is None else 0 if now else 1
        if brings is None:
            return 0 if now else None
        goes = sets(self.machine, candidate, feature)
        if not goes and candidate.out and now is not False:
            goes = has(without(self.machine, candidate.out), feature) is not True
        return (None if now is None else -1 if now else 0) if goes else 0

    def _asks(self, candidate: Candidate, feature: Feature) -> str:
        """What would settle whether an upgrade changes a feature."""
        if gives(self.machine, candidate, feature) is None:
            measured = f"how much {feature.measure} it makes"
            named_ = "what it changes" if feature.name in FROM_CHANGES else "what it brings a buyer"
            return measured if feature.measure else named_
        return f"whether the machine has {feature} now"

    def for_buyer(self, candidate: Candidate, buyer: Buyer) -> ForBuyer:
        """What an upgrade by itself adds for a buyer, feature by feature."""
        found = []
        for effect in buyer.effects:
            changes, money = self.changes(candidate, effect.feature), effect.at(self.price)
            if changes != 0:
                asks = self._asks(candidate, effect.feature) if changes is None else ""
                found.append(Touched(effect.feature, changes, (changes or 0) * money, asks))
        return ForBuyer(buyer, tuple(found))

    def adds(self, chosen: Collection[Candidate], buyer: Buyer) -> Decimal:
        """What a set adds for a buyer: a feature counts once, whoever brings it."""
        total = ZERO
        for effect in buyer.effects:
            changes = {self.changes(one, effect.feature) for one in chosen}
            now = bool(self.has(effect.feature))
            brought = any(gives(self.machine, one, effect.feature) for one in chosen)
            then = brought or (now and -1 not in changes)
            total += (then - now) * effect.at(self.price)
        return total

    def why_left_out(self, candidate: Candidate, buyer: Buyer, limits: Limits = NO_LIMITS) -> str:
        """Why it is not even considered for a set; empty when it is."""
        if candidate.refused:
            return candidate.refused
        if not candidate.priced or candidate.adapters is None:
            return candidate.why_unpriced
        if not candidate.known_to_fit and not limits.maybe:
            return candidate.at_best.sentence
        asks = self.for_buyer(candidate, buyer).asks
        return f"find out {listed(asks)}" if asks else ""

    def brings(self, feature: Feature, buyer: Buyer, limits: Limits = NO_LIMITS) -> bool:
        """Whether one of those that are considered for a set brings a feature by itself."""
        able = (one for one in self.candidates if not self.why_left_out(one, buyer, limits))
        return any(gives(self.machine, one, feature) for one in able)

    def best(
        self,
        buyer: Buyer,
        limits: Limits = NO_LIMITS,
        musts: Sequence[Feature] = (),
        seconds: float = SECONDS,
        only: Collection[str] | None = None,
    ) -> UpgradeSet:
        """The set that leaves most (CP-SAT) of those that fit together and keep to the limits. What it must become is
        met first, as much of it as can be. `only`: exactly these upgrades, by key."""
        able = [one for one in self.candidates if not self.why_left_out(one, buyer, limits)]
        if only is not None:
            able = [one for one in able if one.key in only]
            if missing := set(only) - {one.key for one in able}:
                raise UpgradeError(f"{', '.join(sorted(missing))}: not to be had, or not known to fit", "set")
        solving = _Solving(self, able, buyer, limits, musts)
        if only is not None:
            for picked in solving.room.picked:
                solving.model.add(picked == 1)
        return solving.solve(seconds)

    def in_turn(self, found: UpgradeSet) -> list[tuple[str, Decimal]]:
        """What each upgrade of a set adds beside those before it, by the name of its part."""
        rows, before = [], ZERO
        for place, one in enumerate(found.chosen):
            so_far = self.adds([other.candidate for other in found.chosen[: place + 1]], found.buyer)
            rows.append((one.candidate.part.name, so_far - before))
            before = so_far
        return rows


class _Solving:
    """One model: who is fitted, where each comes from, which features it then has."""

    def __init__(
        self, worth: Worth, able: Sequence[Candidate], buyer: Buyer, limits: Limits, musts: Sequence[Feature]
    ) -> None:
        self.worth, self.able, self.buyer, self.limits, self.musts = worth, able, buyer, limits, musts
        self.model = cp_model.CpModel()
        self.room = Room(self.model, worth.machine, able, limits.maybe)
        self.spend: list[LinearExpr | int] = []
        self.postage: list[tuple[IntVar, int]] = []
        self.from_: dict[tuple[int, int], IntVar] = {}
        self._sources()
        minutes = sum(one.minutes * picked for one, picked in zip(able, self.room.picked, strict=True))
        if limits.minutes is not None:
            self.model.add(minutes <= limits.minutes)
        if limits.budget is not None:
            self.model.add(sum(self.spend) <= _cents(limits.budget))
        features = list(dict.fromkeys([*(effect.feature for effect in buyer.effects), *musts]))
        self.then = {feature: self._then(feature) for feature in features}

    def _sources(self) -> None:
        """Each chosen one comes from one place; a seller's postage is paid once, and not from so much on."""
        goods: dict[str, list[LinearExpr | int]] = {}
        uses: dict[str, list[IntVar]] = {}
        of: dict[str, Source] = {}
        for number, (one, picked) in enumerate(zip(self.able, self.room.picked, strict=True)):
            chosen = []
            for place, source in enumerate(one.part.sources):
                if source not in one.priced:
                    continue
                var = self.from_[number, place] = self.model.new_bool_var("")
                chosen.append(var)
                cost = _cents((source.each or ZERO) * one.count) * var
                self.spend.append(cost)
                if source.seller:
                    of[source.seller] = source
                    goods.setdefault(source.seller, []).append(cost)
                    uses.setdefault(source.seller, []).append(var)
            self.model.add(sum(chosen) == picked)
            if one.adapters:
                self.spend.append(_cents(one.adapters) * picked)
        for seller, source in of.items():
            amount, pays = _cents(source.postage or ZERO), self.room.any_of(uses[seller])
            if source.free_from is not None and amount:
                free = self.model.new_bool_var("")
                self.model.add(sum(goods[seller]) >= _cents(source.free_from)).only_enforce_if(free)
                paid = self.model.new_bool_var("")
                self.model.add(paid >= pays - free)
                pays = paid
            if amount:
                self.postage.append((pays, amount))
                self.spend.append(amount * pays)

    def _then(self, feature: Feature) -> IntVar:
        """Whether it has a feature in the end."""
        brings, takes = [], []
        for one, picked in zip(self.able, self.room.picked, strict=True):
            if gives(self.worth.machine, one, feature):
                brings.append(picked)
            if self.worth.changes(one, feature) == -1:
                takes.append(picked)
        stays = self.model.new_bool_var("")
        self.model.add(stays == (1 - self.room.any_of(takes) if self.worth.has(feature) else 0))
        return self.room.any_of([*brings, stays])

    def solve(self, seconds: float) -> UpgradeSet:
        unmet_proven = self._meet(seconds)
        price, rate = self.worth.price, self.worth.hourly
        value = sum(
            _cents(effect.at(price)) * (self.then[effect.feature] - bool(self.worth.has(effect.feature)))
            for effect in self.buyer.effects
        )
        labour = sum(
            _cents(labour_cost(one.minutes, rate)) * picked
            for one, picked in zip(self.able, self.room.picked, strict=True)
        )
        # Of sets that leave the same the smaller one: never worth a cent, whatever their number.
        few = len(self.able) + 1
        self.model.maximize((value - labour - sum(self.spend)) * few - sum(self.room.picked))
        try:
            found = solving.solve(self.model, seconds, "set")
        except solving.NotInTime:
            # None is chosen, and all that could be added is the bound.
            unmet = tuple(feature for feature in self.musts if not self.worth.has(feature))
            return UpgradeSet(self.buyer, bound=self._at_most(), unmet=unmet, unmet_proven=not unmet)
        except solving.NoAnswer as problem:
            raise UpgradeError(
                "These do not fit together, or not within the budget and the minutes.", "set"
            ) from problem
        return self._read(found, unmet_proven, few)

    def _meet(self, seconds: float) -> bool:
        """Ask that as much is met of what it must become as was found to be possible; whether no more is."""
        if not self.musts:
            return True
        met = sum(self.then[feature] for feature in self.musts)
        self.model.maximize(met)
        try:
            found = solving.solve(self.model, seconds, "set")
        except solving.NotInTime:
            return False
        except solving.NoAnswer:
            # It is not for what is asked: the set itself, or the limits, can't be.
            return True
        self.model.add(met >= found.value(met))
        return found.proven

    def _at_most(self) -> Decimal:
        """All that this buyer could pay more for what it has not, or without what it has, at no cost."""
        found = ZERO
        for effect in self.buyer.effects:
            money = effect.at(self.worth.price)
            found += max(ZERO, -money if self.worth.has(effect.feature) else money)
        return found

    def _read(self, found: solving.Solved, unmet_proven: bool, few: int) -> UpgradeSet:
        chosen = [
            Chosen(self.able[number], self.able[number].part.sources[place])
            for (number, place), var in self.from_.items()
            if found.value(var)
        ]
        picked = [one.candidate for one in chosen]
        labour = sum((labour_cost(one.minutes, self.worth.hourly) for one in picked), ZERO)
        # The smaller number of upgrades takes less than a cent from what the solver maximises.
        bound = Decimal(int(found.bound + few - 1) // few) / 100
        postage = sum((Decimal(amount) / 100 for var, amount in self.postage if found.value(var)), ZERO)
        unmet = tuple(feature for feature in self.musts if not found.value(self.then[feature]))
        return UpgradeSet(
            self.buyer,
            tuple(chosen),
            self.worth.adds(picked, self.buyer),
            postage,
            labour,
            sum(one.minutes for one in picked),
            bound,
            unmet,
            unmet_proven or not unmet,
        )


def _cents(amount: Decimal) -> int:
    return int((amount * 100).to_integral_value())


def pays_most(sets: Sequence[UpgradeSet]) -> UpgradeSet | None:
    """The set of the buyer who leaves most, with the bound over all of them; None while there is no buyer."""
    if not sets:
        return None
    return replace(max(sets, key=lambda one: one.left), bound=max(one.bound for one in sets))


def only_together(worth: Worth, found: UpgradeSet, limits: Limits = NO_LIMITS) -> Mapping[str, tuple[str, ...]]:
    """Of the upgrades of a set, those that by themselves don't fit or don't pay: the names of those of it that each
    pays with as a pair; where none does, of all the others."""
    chosen = [one.candidate for one in found.chosen] if found.left > 0 else []

    def left(*some: Candidate) -> Decimal | None:
        """What these leave; None where they don't fit."""
        try:
            return worth.best(found.buyer, limits, only=[one.key for one in some]).left
        except UpgradeError:
            return None

    alone = {one.key: left(one) for one in chosen}
    answer: dict[str, tuple[str, ...]] = {}
    for one in chosen:
        if (alone[one.key] or ZERO) > 0:
            continue
        others = [other for other in chosen if other is not one]
        with_one = [other for other in others if (left(one, other) or ZERO) > max(ZERO, alone[other.key] or ZERO)]
        answer[one.key] = tuple(other.name for other in with_one or others)
    return answer
