"""Upgrades of one unit: every part one has or could get, what each is worth to whom, and a set that becomes jobs."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import Enum, auto

from django.db import transaction

from core.catalogue.fit.answers import Answer
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.paths import Converter
from core.catalogue.recipes import JobKind
from core.machine.names import as_seen
from core.money import ZERO
from core.stock.parts import Condition
from core.workshop.labour import labour_cost
from core.workshop.upgrades.best import NO_LIMITS, SECONDS, Chosen, Limits, UpgradeSet, Worth, only_together, pays_most
from core.workshop.upgrades.buyers import Buyer
from core.workshop.upgrades.candidates import Candidate, Kind
from core.workshop.upgrades.features import Feature, brought
from core.workshop.upgrades.instead import reversible
from core.workshop.worth import NOTHING
from stations.catalogue.fit_sheets import needs_of
from stations.catalogue.models import PartSheet
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock.models import StockItem
from stations.units import offers
from stations.units.models import Unit
from stations.workshop import issuing, services
from stations.workshop.buyers import buyers
from stations.workshop.models import Job, WhatIf
from stations.workshop.new_job import NewJob
from stations.workshop.upgrade_parts import MOST, SOURCE, buyers_for, parts_for, planned_for, worth_of
from stations.workshop.worth import appraisal_of


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
    def answer(self) -> Answer:
        return self.candidate.at_best.answer


class Why(Enum):
    """Why a set does not make a machine what it was asked to become: nothing to be had and known to fit does; none does
    with the rest and within the limits; none was found in time that does."""

    NOTHING = auto()
    TOGETHER = auto()
    IN_TIME = auto()


@dataclass(frozen=True)
class Unmet:
    """What it was asked to become and does not; the sheets of parts that would make it so, where nothing had does."""

    feature: Feature
    why: Why
    would: tuple[str, ...] = ()


@dataclass(frozen=True)
class Found:
    """What was worked out for a unit. `price` is None where nothing can be compared: then nothing is worth anything
    known, and `sets` is empty; `caveat` is said after it. `best` is that of the buyer who was chosen, else of who pays
    most."""

    unit: Unit
    machine: Machine
    buyers: tuple[Buyer, ...]
    price: Decimal | None
    caveat: str = ""
    worth: Worth | None = None
    sets: tuple[UpgradeSet, ...] = ()
    best: UpgradeSet | None = None
    rows: tuple[Row, ...] = ()
    limits: Limits = NO_LIMITS
    unmet: tuple[Unmet, ...] = ()

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
        priced.caveat if priced else "",
        worth,
        sets,
        best,
        tuple(_rows(worth, tuple(there.values()), best, limits)),
        limits,
        tuple(_unmet(worth, best, limits)),
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


def _unmet(worth: Worth, best: UpgradeSet, limits: Limits) -> Iterator[Unmet]:
    for feature in best.unmet:
        if worth.brings(feature, best.buyer, limits):
            yield Unmet(feature, Why.TOGETHER if best.unmet_proven else Why.IN_TIME)
        else:
            yield Unmet(feature, Why.NOTHING, tuple(_would_bring(feature)))


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
    unit = lock_row(Unit.objects.all(), unit)
    best, planned = found.best, planned_for(unit, held=True)
    for key in keys:
        if any(as_seen(key) == name or as_seen(key).startswith(f"{name} × ") for name in planned):
            raise Refused(f"{key} is planned already. Finish that job, or close it first.")
    if best is None or not best.chosen:
        raise Refused("No upgrade is in the set: there is nothing to plan.")
    if set(keys) != set(best.keys):
        raise Refused("The best set is another one by now: look at it again, then plan it.")
    keep_what_if(person, found, musts, planned=True)
    return [_job_of(person, unit, found, one) for one in best.chosen]


def _job_of(person: Person, unit: Unit, found: Found, one: Chosen) -> Job:
    candidate, source, best = one.candidate, one.source, found.best
    title = f"Fit {candidate.name}"
    if source.kind in {Kind.SINGLE, Kind.DONOR}:
        title = f"{title}: {source.where}"
    new = NewJob(
        title[:100],
        JobKind.UPGRADE.value,
        candidate.minutes,
        reversible=reversible(candidate.needs.changes),
        source=f"{SOURCE}{PartSheet.objects.get(name=candidate.part.name).pk}",
        said_to_add=_adds_to_the_rest(found.worth, best, candidate) if found.worth and best else None,
        is_weighed=True,
        waiting_for=candidate.part.name[:100] if source.kind is Kind.SELLER else "",
    )
    job = services.open_job(person, unit, new)
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


def kept_for(unit: Unit) -> list[WhatIf]:
    """What was worked out for it before, the newest first."""
    return list(unit.what_ifs.select_related("who")[:6])
