"""An upgrade that could be made: a part, or several alike, where one can be had, and what they change."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum

from core.catalogue.fit.answers import Answer, Verdict
from core.catalogue.fit.filling import CannotFill, Filling, Stick, fill
from core.catalogue.fit.machine import Fitted, Machine, Tried
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.rules import judge
from core.catalogue.fit.which import same_socket
from core.catalogue.fit.within import clock_in, put_in, with_added
from core.money import ZERO
from core.workshop.upgrades.features import Feature, Measure, brought, reaches

# Minutes of hands to fit something and see that it runs, by what it goes in as. Common practice, no source.
FIT_MINUTES = {"modules": 10, "cards": 15, "processors": 20, "drives": 25}
OTHERWISE = 10


class UpgradeError(ValueError):
    """What is wrong with an upgrade, a budget or minutes; `at` says which."""

    def __init__(self, message: str, at: str = "") -> None:
        super().__init__(message)
        self.at = at


class Kind(StrEnum):
    """Where one can be had."""

    DRAWER = "drawer"
    SINGLE = "single"
    DONOR = "donor"
    SELLER = "seller"


@dataclass(frozen=True)
class Source:
    """Where one can be had, and at how much each (base currency; None: nobody knows). `number` is its key there;
    `most`: so many there are, None for enough; `postage`: what a parcel of this seller costs."""

    kind: Kind
    where: str
    each: Decimal | None
    number: int = 0
    most: int | None = None
    seller: str = ""
    postage: Decimal | None = ZERO
    free_from: Decimal | None = None

    @property
    def here(self) -> bool:
        return self.kind is not Kind.SELLER

    @property
    def priced(self) -> bool:
        return self.each is not None and self.postage is not None


@dataclass(frozen=True)
class Part:
    """A kind of part one has or could get, and what was tried of it in such machines."""

    name: str
    needs: Needs
    sources: tuple[Source, ...]
    tried: tuple[Tried, ...] = ()


@dataclass(frozen=True)
class Candidate:
    """A part, or `count` of them, as an upgrade of one machine. `alone` is what the rules say of it as the machine
    stands, `at_best` with all in it that other candidates add. `filling`: memory slot by slot, with the whole memory
    it makes; `out`: places among the fitted of what comes out for it. `adapters` is what converters for it cost."""

    key: str
    part: Part
    alone: Verdict
    at_best: Verdict
    minutes: int
    count: int = 1
    filling: Filling | None = None
    out: frozenset[int] = frozenset()
    adapters: Decimal | None = ZERO

    @property
    def name(self) -> str:
        return f"{self.count} × {self.part.name}" if self.count > 1 else self.part.name

    @property
    def needs(self) -> Needs:
        return self.part.needs

    @property
    def priced(self) -> tuple[Source, ...]:
        """Where enough of it can be had at a price that is known."""
        return tuple(one for one in self.part.sources if one.priced and (one.most is None or one.most >= self.count))

    @property
    def cheapest(self) -> Decimal | None:
        """What it costs by itself with its converters, landed; None where no price is known."""
        if self.adapters is None:
            return None
        found = [self._by_itself(source) for source in self.priced]
        return min(found) + self.adapters if found else None

    @property
    def why_unpriced(self) -> str:
        """Why nobody knows what it costs."""
        if not self.part.sources:
            return "nobody known has one"
        if self.adapters is None:
            return "what a converter for it costs is not known"
        most = max((one.most or 0 for one in self.part.sources if one.priced), default=0)
        return f"only {most} to be had in one place" if 0 < most < self.count else "what it costs is not known"

    def _by_itself(self, source: Source) -> Decimal:
        goods = (source.each or ZERO) * self.count
        free = source.free_from is not None and goods >= source.free_from
        return goods if free else goods + (source.postage or ZERO)

    @property
    def refused(self) -> str:
        """Why it does not fit whatever else is fitted; empty when it may."""
        return self.at_best.sentence if self.at_best.answer is Answer.NOT else ""

    @property
    def known_to_fit(self) -> bool:
        return self.at_best.answer in {Answer.FITS, Answer.WITH}


def candidates_of(machine: Machine, parts: Sequence[Part]) -> list[Candidate]:
    """Every part as an upgrade of the machine, memory in as many modules as go in together."""
    found: list[Candidate] = []
    added = [
        part for part in parts if part.needs.slots or part.needs.buses or part.needs.ports or part.needs.connectors
    ]
    for part in parts:
        alone = judge(replace(machine, tried=part.tried), part.needs)
        offers = machine.offers
        for other in added:
            if other is not part:
                offers = with_added(offers, other.name, other.needs)
        helped = offers is not machine.offers
        at_best = judge(replace(machine, offers=offers, tried=part.tried), part.needs) if helped else alone
        if part.needs.modules:
            found += _memory(machine, part, alone)
        else:
            found.append(
                Candidate(
                    part.name,
                    part,
                    alone,
                    at_best,
                    minutes_to_fit(part.needs),
                    out=_out(machine, part.needs),
                    adapters=_adapters(at_best),
                )
            )
    return found


def minutes_to_fit(needs: Needs) -> int:
    """As its sheet has it, else as usual for what it goes in as."""
    said = next((change.minutes for change in needs.changes or () if change.minutes is not None), None)
    return said or next((minutes for group, minutes in FIT_MINUTES.items() if getattr(needs, group)), OTHERWISE)


def _adapters(verdict: Verdict) -> Decimal | None:
    """What the converters cost that it needs; None where a price is not known."""
    prices = [path.price for path in verdict.paths]
    return None if None in prices else sum((price for price in prices if price is not None), ZERO)


def _out(machine: Machine, needs: Needs) -> frozenset[int]:
    """What it takes the place of: a processor in its socket, and what its sheet says by name."""
    named = {change.replaces.lower() for change in needs.changes or () if change.replaces}
    return frozenset(
        place
        for place, fitted in enumerate(machine.fitted)
        if same_socket(machine, fitted, needs) or fitted.name.lower() in named
    )


# What the filling answers for all of the modules together, and the rules for one of them.
_OF_ALL = frozenset({"groups", "memory in all"})


def _memory(machine: Machine, part: Part, alone: Verdict) -> list[Candidate]:
    """The fillings with more memory than now, in groups; where none can be worked out, one module with why."""
    verdict = Verdict(tuple(one for one in alone.findings if one.rule not in _OF_ALL and not _only_full(one)))
    board, sockets = machine.board, machine.offers.modules
    one = Candidate(part.name, part, alone, alone, minutes_to_fit(part.needs))
    if verdict.answer is Answer.NOT or board is None or not sockets or not board.group:
        return [one]
    inside = [(place, module) for place, fitted in enumerate(machine.fitted) for module in fitted.needs.modules or ()]
    sticks = [Stick(str(place), module, machine.fitted[place].at) for place, module in inside]
    module = (part.needs.modules or ())[0]
    found: list[Candidate] = []
    before = 0
    try:
        before = fill(board, sockets, sticks).size
        for count in range(board.group, len(sockets) + 1, board.group):
            new = [Stick(f"new {number}", replace(module, name=part.name)) for number in range(count)]
            filling = fill(board, sockets, [*sticks, *new])
            if filling.size > before and all(stick.key not in filling.out for stick in new):
                before = filling.size
                out = frozenset(int(key) for key in filling.out if key.isdecimal())
                key = f"{part.name} × {count}"
                minutes = minutes_to_fit(part.needs)
                found.append(Candidate(key, part, verdict, verdict, minutes, count, filling, out))
    except CannotFill:
        return [one]
    return found or [one]


def _only_full(finding: object) -> bool:
    """A socket that is taken: the filling says what comes out."""
    return getattr(finding, "rule", "") == "memory socket" and getattr(finding, "answer", None) is Answer.WITH


def gives(machine: Machine, candidate: Candidate, feature: Feature) -> bool | None:
    """Whether the machine has a feature by this upgrade: None while that is not known. False says only that it is not
    this that brings it."""
    needs = candidate.needs
    if feature.measure is None:
        return brought(needs, feature)
    if feature.measure is Measure.MEMORY:
        return reaches(feature, candidate.filling.size) if candidate.filling else (None if needs.modules else False)
    if feature.measure is Measure.DISPLAY:
        sizes = [card.display for card in needs.cards or () if card.display is not None]
        return any(reaches(feature, size) for size in sizes)
    if feature.measure is Measure.DISK:
        disks = [drive for drive in needs.drives or () if drive.reads is None and drive.writes is None]
        return None if any(drive.size is None for drive in disks) else any(reaches(feature, d.size) for d in disks)
    if candidate.needs.processors and _main(machine, needs):
        after = clock_in(without(machine, candidate.out, Fitted(candidate.name, needs, _main(machine, needs))))
        return None if after is None else reaches(feature, after[1])
    return False


def _main(machine: Machine, needs: Needs) -> str:
    """The socket a processor goes into, by its name; empty where none is for it."""
    kinds = {one.kind.lower() for one in needs.processors or () if one.kind}
    return next((one.name for one in machine.offers.sockets or () if one.kind and one.kind.lower() in kinds), "")


def sets(machine: Machine, candidate: Candidate, feature: Feature) -> bool:
    """Whether it alone decides a measure: the memory of a filling, the clock of a processor."""
    if feature.measure is Measure.MEMORY:
        return candidate.filling is not None
    return feature.measure is Measure.PROCESSOR and gives(machine, candidate, feature) is False and bool(candidate.out)


def without(machine: Machine, out: Iterable[int], more: Fitted | None = None) -> Machine:
    """The machine with some of what is fitted out, and perhaps something else in."""
    left = set(out)
    fitted = tuple(one for place, one in enumerate(machine.fitted) if place not in left)
    bare = replace(machine, fitted=fitted)
    return put_in(bare, more) if more else bare


def each_once(candidates: Sequence[Candidate]) -> None:
    """Raises UpgradeError for two of one key."""
    seen: set[str] = set()
    for one in candidates:
        if one.key in seen:
            raise UpgradeError(f"{one.key} stands there twice", one.key)
        seen.add(one.key)
