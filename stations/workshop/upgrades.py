"""Upgrades of one unit: every part one has or could get, what each is worth to whom, and a set that becomes jobs."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import cached_property

from django.db import transaction

from core.catalogue.fit.answers import Answer
from core.catalogue.fit.kinds import Origin
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.paths import Converter
from core.catalogue.fit.which import with_part
from core.catalogue.recipes import JobKind
from core.flow.stage import GONE
from core.machine.approach import Approach
from core.money import ZERO, to_cent
from core.stock.parts import Condition
from core.workshop.labour import labour_cost
from core.workshop.upgrades.best import NO_LIMITS, SECONDS, Chosen, Limits, UpgradeSet, Worth, only_together, pays_most
from core.workshop.upgrades.buyers import Buyer, taught
from core.workshop.upgrades.candidates import Candidate, Kind, Source, UpgradeError, candidates_of
from core.workshop.upgrades.candidates import Part as CouldBe
from core.workshop.upgrades.features import Feature, brought, has
from core.workshop.upgrades.instead import Instead, alternatives, reversible, serving
from core.workshop.worth import NOTHING, Appraisal, Changes
from stations.catalogue.fit_sheets import needs_of, sheets_of, tried_in
from stations.catalogue.models import PartSheet
from stations.common import clock
from stations.common.refusals import Refused
from stations.ledger.models import Account
from stations.ledger.selectors import balances
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock.models import PartOffer, StockItem
from stations.stock.selectors import stock_with_value
from stations.units import fitting, offers
from stations.units.models import Content, Part, Unit
from stations.units.parts import fitted_costs
from stations.workshop import issuing, services
from stations.workshop.buyers import buyers
from stations.workshop.models import Job, WhatIf
from stations.workshop.worth import appraisal_of

MOST = 1000
SOURCE = "upgrade:"


@dataclass(frozen=True)
class Row:
    """An upgrade as the page lists it: for each buyer what it adds; why it is left out for the chosen one."""

    candidate: Candidate
    adds: tuple[tuple[Buyer, Decimal | None, str], ...]
    left_out: str
    chosen: Chosen | None = None
    only_with: tuple[str, ...] = ()
    lacks: tuple[str, ...] = ()

    @property
    def may_be_chosen(self) -> bool:
        return not self.left_out

    @property
    def answer(self) -> Answer:
        return self.candidate.at_best.answer


@dataclass(frozen=True)
class Found:
    """What was worked out for a unit. `price` is None where nothing can be compared: then nothing is worth anything
    known, and `sets` is empty. `best` is that of the buyer who was chosen, else of who pays most."""

    unit: Unit
    machine: Machine
    buyers: tuple[Buyer, ...]
    price: Decimal | None
    grade: str = ""
    worth: Worth | None = None
    sets: tuple[UpgradeSet, ...] = ()
    best: UpgradeSet | None = None
    rows: tuple[Row, ...] = ()
    limits: Limits = NO_LIMITS
    # Of what it must become and can't: sheets of parts that would bring it, by feature.
    would: tuple[tuple[Feature, tuple[str, ...]], ...] = ()

    @cached_property
    def scale(self) -> Decimal:
        """The largest amount in the table, for the bars."""
        amounts = [abs(money) for row in self.rows for _, money, _ in row.adds if money is not None]
        return max(amounts, default=ZERO)

    def _of_the_buyer(self) -> list[tuple[Row, Decimal]]:
        """What can be chosen and is not, with what each adds for the buyer of the set."""
        code = self.best.buyer.code if self.best else ""
        said = [(row, next((money for one, money, _ in row.adds if one.code == code), None)) for row in self.rows]
        return [(row, money) for row, money in said if money is not None and not row.left_out and not row.chosen]

    @property
    def takes_away(self) -> list[str]:
        """Upgrades that take from what this buyer pays, by name."""
        return [row.candidate.name for row, money in self._of_the_buyer() if money < 0]

    @property
    def too_dear(self) -> list[str]:
        """Upgrades that add something for this buyer, and less than they cost with the time."""
        if self.worth is None:
            return []
        hourly = self.worth.hourly
        return [
            row.candidate.name
            for row, money in self._of_the_buyer()
            if 0 < money < (row.candidate.cheapest or ZERO) + labour_cost(row.candidate.minutes, hourly)
        ]

    @property
    def worth_then(self) -> Decimal:
        """What it should fetch with the set, from the buyer it is made for."""
        return (self.price or ZERO) + (self.best.adds if self.best else ZERO)


def parts_for(unit: Unit, names: Iterable[str] | None = None) -> list[CouldBe]:
    """Every kind of part that has a sheet and lies in a drawer, by itself, in a donor, or is offered by a seller:
    eight queries, however many there are. `names`: only these."""
    only = None if names is None else [*names]

    def of(rows, field="name"):
        return rows if only is None else rows.filter(**{f"{field}__in": only})

    found: dict[str, list[Source]] = defaultdict(list)
    items = of(StockItem.objects.exclude(condition=Condition.FAULTY).filter(quantity__gt=0)).order_by("name")[:MOST]
    for item, _, each in stock_with_value(list(items)):
        if item.in_pieces and item.free >= 1 and each is not None:
            where = f"drawer {item.drawer or '–'}"
            found[item.name.lower()].append(Source(Kind.DRAWER, where, round(each, 2), item.pk, int(item.free)))
    loose = list(of(Part.objects.filter(unit=None, gone_at=None).exclude(condition=Condition.FAULTY))[:MOST])
    own = balances(Account.PART, [part.pk for part in loose])
    for part in loose:
        where = f"{part.code}, drawer {part.drawer or '–'}"
        found[part.name.lower()].append(Source(Kind.SINGLE, where, own[part.pk], part.pk, 1))
    donors = Part.objects.filter(unit__approach=Approach.DONOR, unit__holding=Unit.Holding.OWNED)
    donors = donors.exclude(unit=unit).exclude(unit__stage__in=GONE).exclude(condition=Condition.FAULTY)
    inside = list(of(donors).select_related("unit")[:MOST])
    came_with = fitted_costs(inside)
    for part in inside:
        where = f"{part.code} in {part.unit.tag}" if part.unit else part.code
        found[part.name.lower()].append(Source(Kind.DONOR, where, came_with.get(part.pk, part.worth), part.pk, 1))
    for offer in of(PartOffer.objects.select_related("seller"), "want")[:MOST]:
        found[offer.want.lower()].append(
            Source(
                Kind.SELLER,
                offer.seller.name,
                offer.each,
                offer.pk,
                offer.most,
                offer.seller.name,
                offer.seller.postage,
                offer.seller.free_from,
            )
        )
    sheets = sheets_of(found)
    tried = tried_in(unit.model)
    return [
        CouldBe(sheet.name, needs_of(sheet), tuple(found[name]), tried.get(sheet.pk, ()))
        for name, sheet in sorted(sheets.items())
        if not sheet.converts
    ]


def worth_of(unit: Unit, parts: Sequence[CouldBe], appraisal: Appraisal | None) -> tuple[Machine, Worth | None]:
    """The unit with what is planned for it, and what these parts are worth in it; None where nothing compares."""
    machine, parts = _with_planned(unit, fitting.machine_of(unit), parts)
    priced = appraisal.at(NOTHING) if appraisal else None
    if priced is None:
        return machine, None
    rate = shop_settings.settings().labour_rate
    return machine, Worth(machine, candidates_of(machine, parts), priced.likely, rate)


def _with_planned(unit: Unit, machine: Machine, parts: Sequence[CouldBe]) -> tuple[Machine, Sequence[CouldBe]]:
    """What open jobs are to fit counts as in it, and is proposed no more: two queries."""
    planned = _planned(unit)
    for name, sheet in (sheets_of(planned) if planned else {}).items():
        needs = needs_of(sheet)
        # Which sockets planned modules go into is worked out when they do.
        machine = machine if needs.modules else with_part(machine, needs, name)
    return machine, [part for part in parts if part.name.lower() not in planned]


def _planned(unit: Unit) -> set[str]:
    """The names of the parts that open jobs are to fit, in small letters: one query."""
    rows = unit.jobs.filter(done_at=None, source__startswith=SOURCE).values_list("source", flat=True)
    return {source.removeprefix(SOURCE).lower() for source in rows}


def buyers_for(price: Decimal, appraisal: Appraisal) -> dict[str, Buyer]:
    """The buyers as sales of such machines taught them: one query."""
    sold = appraisal.sold()
    return {code: taught(buyer, price, sold) for code, buyer in buyers().items()}


def found_for(unit: Unit, buyer: str = "", limits: Limits = NO_LIMITS, musts: Sequence[Feature] = ()) -> Found:
    """Everything the page shows. `buyer`: for whom, by code; empty for who pays most."""
    appraisal = appraisal_of(unit)
    machine, worth = worth_of(unit, parts_for(unit), appraisal)
    if worth is None or appraisal is None:
        return Found(unit, machine, tuple(buyers().values()), None)
    there = buyers_for(worth.price, appraisal)
    asked = [there[buyer]] if buyer in there else list(there.values())
    sets = tuple(worth.best(one, limits, musts, SECONDS / len(asked)) for one in asked)
    best = pays_most(sets)
    if best is None:
        return Found(unit, machine, (), worth.price)
    priced = appraisal.at(NOTHING)
    return Found(
        unit,
        machine,
        tuple(there.values()),
        worth.price,
        priced.grade if priced else "",
        worth,
        sets,
        best,
        tuple(_rows(worth, tuple(there.values()), best, limits)),
        limits,
        tuple((feature, tuple(_would_bring(feature))) for feature in best.unmet),
    )


def _rows(worth: Worth, there: Sequence[Buyer], best: UpgradeSet, limits: Limits) -> list[Row]:
    """Those of the set first, then by what each leaves by itself for this buyer, those that can't be chosen last."""
    chosen = {one.candidate.key: one for one in best.chosen}
    only_with = only_together(worth, best, limits)
    rows = []
    for one in worth.candidates:
        said = [worth.for_buyer(one, buyer) for buyer in there]
        rows.append(
            Row(
                one,
                tuple((buyer, each.adds, each.words) for buyer, each in zip(there, said, strict=True)),
                worth.why_left_out(one, best.buyer, limits),
                chosen.get(one.key),
                only_with.get(one.key, ()),
                one.at_best.lasts,
            )
        )

    def order(row: Row) -> tuple[bool, bool, Decimal, str]:
        adds = next(money for buyer, money, _ in row.adds if buyer.code == best.buyer.code)
        net = (adds or ZERO) - (row.candidate.cheapest or ZERO) - labour_cost(row.candidate.minutes, worth.hourly)
        return (row.chosen is None, bool(row.left_out), -net, row.candidate.key)

    return sorted(rows, key=order)


def _would_bring(feature: Feature) -> list[str]:
    """Sheets of parts that would bring a feature, though nobody known has one at a price: one query."""
    rows = PartSheet.objects.filter(converts=False).order_by("name")[:MOST]
    return [sheet.name for sheet in rows if brought(needs_of(sheet), feature)][:6]


@transaction.atomic
def keep_what_if(person: Person, found: Found, musts: Sequence[Feature] = (), planned: bool = False) -> WhatIf:
    """Keep a set as it was worked out, with its figures."""
    require(person, "keep a what-if")
    best = found.best
    if best is None or found.price is None:
        raise Refused("Nothing can be compared with it: there is no set to keep.")
    chosen = [
        {
            "key": one.candidate.key,
            "name": one.candidate.name,
            "from": one.source.where,
            "spend": str(one.spend),
        }
        for one in best.chosen
    ]
    row = WhatIf.objects.create(
        unit=found.unit,
        buyer=best.buyer.name,
        budget=found.limits.budget,
        within_minutes=found.limits.minutes,
        musts=[feature.name for feature in musts],
        chosen=chosen,
        price=found.price,
        adds=best.adds,
        parts=best.parts,
        labour=best.labour,
        minutes=best.minutes,
        planned=planned,
        when=clock.now(),
        who=person,
    )
    words = f"What if: {row.names} for {best.buyer.name}, {best.left} left over"
    unit = found.unit
    history.record(person, "workshop.keep_what_if", HistoryEntry.Subject.UNIT, unit.pk, words[:400], what_if=row.pk)
    return row


@transaction.atomic
def plan_set(person: Person, unit: Unit, found: Found, keys: Sequence[str], musts: Sequence[Feature] = ()) -> list[Job]:
    """Make jobs of a set, hold what lies in drawers, and put what is sold elsewhere on the wanted list.

    `keys` is the set the person saw: refused when another one is the best by now, so that nothing else is done.
    """
    require(person, "open a job")
    best, planned = found.best, _planned(unit)
    for key in keys:
        if key.partition(" × ")[0].lower() in planned:
            raise Refused(f"{key} is planned already. Finish that job, or close it first.")
    if best is None or not best.chosen:
        raise Refused("No upgrade is in the set: there is nothing to plan.")
    if set(keys) != set(best.keys):
        raise Refused("The best set is another one by now: look at it again, then plan it.")
    keep_what_if(person, found, musts, planned=True)
    return [_job_of(person, unit, found, one) for one in best.chosen]


def _source_of(name: str) -> str:
    return f"{SOURCE}{name}"[:60]


def _job_of(person: Person, unit: Unit, found: Found, one: Chosen) -> Job:
    candidate, source, best = one.candidate, one.source, found.best
    title = f"Fit {candidate.name}"
    if source.kind in {Kind.SINGLE, Kind.DONOR}:
        title = f"{title}: {source.where}"
    data = {
        "kind": JobKind.UPGRADE.value,
        "title": title[:100],
        "estimate_minutes": candidate.minutes,
        "reversible": reversible(candidate.needs.changes),
        "source": _source_of(candidate.part.name),
        "said_to_add": _adds_to_the_rest(found.worth, best, candidate) if found.worth and best else None,
        "waiting_for": candidate.part.name[:100] if source.kind is Kind.SELLER else "",
    }
    job = services.open_job(person, unit, data)
    if source.kind is Kind.DRAWER:
        issuing.reserve(person, job, StockItem.objects.get(pk=source.number), Decimal(candidate.count))
    elif source.kind is Kind.SELLER:
        offers.want_part(person, unit, candidate.part.name, candidate.count, f"for {best.buyer.name}" if best else "")
    for step in (step for path in candidate.at_best.paths for step in path.steps):
        _get_converter(person, job, unit, step)
    return job


def _get_converter(person: Person, job: Job, unit: Unit, step: Converter) -> None:
    """One that lies here is held with the part, another is wanted."""
    rows = StockItem.objects.filter(name=step.part).exclude(condition=Condition.FAULTY)
    item = next((row for row in rows if row.free >= 1), None) if step.here else None
    if item is not None:
        issuing.reserve(person, job, item, Decimal(1))
    else:
        offers.want_part(person, unit, step.part, 1, f"with {job.title}"[:120])


def _adds_to_the_rest(worth: Worth, best: UpgradeSet, candidate: Candidate) -> Decimal:
    """What the set would lose without it, less what it costs."""
    rest = [one.candidate for one in best.chosen if one.candidate is not candidate]
    spend = next(one.spend for one in best.chosen if one.candidate is candidate)
    lost = best.adds - worth.adds(rest, best.buyer)
    return lost - spend - labour_cost(candidate.minutes, worth.hourly)


def features_of(unit: Unit) -> list[str] | None:
    """What a unit has of all that buyers look for; None while something of that is not known."""
    machine = fitting.machine_of(unit)
    features = {effect.feature for buyer in buyers().values() for effect in buyer.effects}
    known = {feature.name: has(machine, feature) for feature in features}
    return None if None in known.values() else sorted(name for name, there in known.items() if there)


def instead_of(unit: Unit, content: Content) -> tuple[list[Instead], Decimal | None, tuple[Buyer, ...]]:
    """Ways to have a missing thing again, what the unit should fetch now (None: nothing to compare), and the buyers."""
    appraisal = appraisal_of(unit)
    names = _sheets_serving(content.name)
    parts = {part.name: part for part in parts_for(unit, names)}
    # One that nobody known has is a way too, with a price that is not known.
    sheets = sheets_of(names)
    could = [parts.get(sheet.name) or CouldBe(sheet.name, needs_of(sheet), ()) for sheet in sheets.values()]
    machine, worth = worth_of(unit, could, appraisal)
    there = tuple(buyers().values())
    if worth is None or appraisal is None:
        unpriced = Worth(machine, candidates_of(machine, could), ZERO, shop_settings.settings().labour_rate)
        return alternatives(unpriced, content.name, there, {}), None, there
    there = tuple(buyers_for(worth.price, appraisal).values())
    return alternatives(worth, content.name, there, _lifts(appraisal, content, worth.price)), worth.price, there


def _sheets_serving(thing: str) -> list[str]:
    """Parts whose sheets say that they do the work of a thing: one query."""
    rows = PartSheet.objects.filter(needs__has_key="serves").order_by("name")[:MOST]
    return [sheet.name for sheet in rows if serving(needs_of(sheet), thing)]


def _lifts(appraisal: Appraisal, content: Content, price: Decimal) -> Mapping[Origin, Decimal | None]:
    """By how much the price rises with the thing there again, the original or another."""
    found: dict[Origin, Decimal | None] = {}
    for origin in Origin:
        numbers = frozenset({content.pk})
        original = origin is Origin.ORIGINAL
        then = appraisal.at(Changes(contents=numbers) if original else Changes(substituted=numbers))
        found[origin] = then.likely - price if then else None
    return found


@dataclass(frozen=True)
class Doubt:
    """More would be spent than it adds, with the numbers; `buyer` is who pays most for it."""

    name: str
    cost: Decimal
    adds: Decimal
    buyer: str

    @property
    def words(self) -> str:
        if self.adds < 0:
            return f"{self.name} costs {self.cost} and takes {-self.adds} from the price, whoever buys it."
        said = (
            f"adds {self.adds} for the buyer who pays most for it ({self.buyer})"
            if self.adds
            else "adds nothing for any buyer"
        )
        return f"{self.name} costs {self.cost} and {said}."


def doubt_of(unit: Unit, name: str, cost: Decimal, changes: Changes = NOTHING) -> Doubt | None:
    """Whether a part costs more than it adds for every buyer; None where it does not, or where that is not known.
    `changes`: what the job it is for changes of the record beside."""
    sheet = sheets_of([name]).get(name.lower())
    appraisal = appraisal_of(unit) if sheet else None
    if sheet is None or appraisal is None:
        return None
    could = [CouldBe(sheet.name, needs_of(sheet), (Source(Kind.DRAWER, "", cost),))]
    _, worth = worth_of(unit, could, appraisal)
    then = appraisal.at(replace(changes, worked=False)) if changes.any else None
    if worth is None:
        return None
    lift = then.likely - worth.price if then else ZERO
    best: tuple[Decimal, str] | None = None
    for buyer in buyers_for(worth.price, appraisal).values():
        several = [worth.for_buyer(one, buyer).adds for one in worth.candidates]
        if not several or None in several:
            return None
        adds = max(one for one in several if one is not None) + lift
        best = max(best, (adds, buyer.name)) if best else (adds, buyer.name)
    return Doubt(name, to_cent(cost), best[0], best[1]) if best and best[0] < cost else None


def limits_of(budget: Decimal | None, minutes: int | None, maybe: bool = False) -> Limits:
    """Refused at the field."""
    try:
        return Limits(budget, minutes, maybe)
    except UpgradeError as problem:
        raise Refused(str(problem), problem.at) from problem


def kept_for(unit: Unit) -> list[WhatIf]:
    """What was worked out for it before, the newest first."""
    return list(unit.what_ifs.select_related("who")[:6])
