"""Consumables of a recipe: from which drawer, by measure; held for the job, and taken step by step."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal
from functools import reduce
from operator import and_

from django.db import transaction
from django.db.models import Q, Sum

from core.catalogue.recipes import Need, Recipe, added_up
from core.machine.names import as_seen
from core.stock.measure import Measure
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.stock.models import StockItem
from stations.stock.selectors import InStock, in_stock
from stations.workshop import issuing
from stations.workshop.models import Job
from stations.workshop.recipe_run import StepOfJob, in_hand, steps_of_job

# What a recipe's units are in those that drawers count in, and how many of them one is.
_COUNTED = {
    "ml": (Measure.ML, Decimal(1)),
    "g": (Measure.GRAM, Decimal(1)),
    "m": (Measure.METRE, Decimal(1)),
    "cm": (Measure.METRE, Decimal("0.01")),
    "pieces": (Measure.PIECE, Decimal(1)),
    "sheets": (Measure.PIECE, Decimal(1)),
}
# What comes from the tap.
_FREE = {"water", "water with washing-up liquid"}
# Other names of the same thing.
_ALSO = {"isopropanol": ("isopropyl alcohol", "ipa")}
MOST = 40
_FINE = Decimal("0.001")


@dataclass(frozen=True)
class Wanted:
    """So much of a consumable, in what its drawer counts in; `found` is None where no drawer has anything called so."""

    need: Need
    amount: Decimal
    found: InStock | None

    @property
    def item(self) -> StockItem | None:
        return self.found.item if self.found else None

    @property
    def words(self) -> str:
        measure, _ = _COUNTED[self.need.unit]
        return measure.words(self.amount)

    @property
    def short(self) -> Decimal:
        """How much of it is not there to be taken."""
        return max(Decimal(0), self.amount - self.item.free) if self.item else self.amount

    @property
    def short_words(self) -> str:
        return self.item.words(self.short) if self.item and self.short else ""

    @property
    def cost(self) -> Decimal | None:
        """At what the drawer cost; None where nobody can say."""
        each = self.found.each if self.found else None
        return each * self.amount / self.found.per if each is not None and self.found else None


def wanted(recipe: Recipe) -> list[Wanted]:
    """What a recipe takes that is measured, with the drawer it comes from: three queries."""
    return _of(recipe.needs)


def _of(needs: Sequence[Need]) -> list[Wanted]:
    measured = [
        need
        for need in needs
        if need.amount and need.name.lower() not in _FREE and need.unit in _COUNTED and _words(need.name)
    ]
    if not measured:
        return []
    any_of = Q()
    for need in measured:
        for name in _names(need):
            any_of |= reduce(and_, (Q(found_by__icontains=word) for word in _words(name)))
    items = [item for item in StockItem.objects.filter(any_of).order_by("name", "id")[: MOST * 5] if not item.faulty]
    chosen = [_drawer_for(need, items) for need in measured]
    stocked = {row.item.pk: row for row in in_stock([item for item in chosen if item])}
    return [
        Wanted(need, _amount(need), stocked[item.pk] if item else None)
        for need, item in zip(measured, chosen, strict=True)
    ]


def _drawer_for(need: Need, items: Sequence[StockItem]) -> StockItem | None:
    """Of those called so and counted as it is measured, the one with the shortest name that has enough, else the one
    that has most: a plainer name is nearer to what was asked for."""
    measure, _ = _COUNTED[need.unit]
    names = [set(_words(name)) for name in _names(need)]

    def called_so(item: StockItem) -> bool:
        return any(name <= set(_words(item.name)) for name in names)

    fitting = [item for item in items if item.counted_in is measure and called_so(item)]
    enough = [item for item in fitting if item.free >= _amount(need)]
    if enough:
        return min(enough, key=lambda item: (len(_words(item.name)), item.pk))
    return max(fitting, key=lambda item: (item.free, -item.pk), default=None)


def _amount(need: Need) -> Decimal:
    measure, each = _COUNTED[need.unit]
    amount = (need.amount or Decimal(0)) * each
    return amount.quantize(Decimal(1) if measure is Measure.PIECE else _FINE, ROUND_CEILING)


def _names(need: Need) -> tuple[str, ...]:
    return need.name, *_ALSO.get(need.name.lower(), ())


def _words(name: str) -> list[str]:
    return re.findall(r"\w+", as_seen(name))


def price_of(name: str, unit: str) -> Decimal | None:
    """What one of a unit costs out of its drawer; None where nobody can say."""
    found = _of([Need(name, Decimal(1), unit)])
    return found[0].cost if found else None


@transaction.atomic
def hold(person: Person, job: Job, recipe: Recipe) -> None:
    """What is free of a plan's consumables is held for its job."""
    for one in sorted(wanted(recipe), key=lambda one: one.item.pk if one.item else 0):
        if one.item and (amount := min(one.amount, one.item.free)) > 0:
            issuing.reserve(person, job, one.item, amount)


def to_take(job: Job, steps: Sequence[StepOfJob]) -> list[Wanted]:
    """What the steps so far and the one in hand take that was not taken yet; what was left out took nothing."""
    now = in_hand(list(steps))
    if now is None or not now.step.needs:
        return []
    so_far = [one.step for one in steps[: now.index + 1] if not (one.row and one.row.left_out)]
    names = {(need.name, need.unit) for need in now.step.needs}
    needs = [need for need in added_up(n for step in so_far for n in step.needs) if (need.name, need.unit) in names]
    taken = dict(
        job.issues.filter(returned_at=None)
        .values_list("item")
        .annotate(taken=Sum("quantity"))
        .values_list("item", "taken")
    )
    own = dict(job.reservations.values_list("item", "quantity"))
    found = []
    for one in _of(needs):
        if one.item is None:
            found.append(one)
            continue
        left = one.amount - taken.get(one.item.pk, Decimal(0))
        # What is held for this very job is there for it.
        one.item.reserved -= own.get(one.item.pk, Decimal(0))
        if left > 0:
            found.append(Wanted(one.need, left, one.found))
    return found


@transaction.atomic
def take(person: Person, job: Job, index: int) -> None:
    """What the step in hand takes goes out of its drawers, onto the unit: all of it, or nothing."""
    job = lock_row(Job.objects.select_related("unit"), job, job.unit)
    steps = steps_of_job(job)
    now = in_hand(steps)
    if now is None or now.index != index:
        raise Refused("Another step is in hand now.")
    out = [one for one in to_take(job, steps) if one.item]
    if not out:
        raise Refused("It was taken already.")
    for one in sorted(out, key=lambda one: one.item.pk):  # type: ignore[union-attr]
        issuing.issue_part(person, job, one.item, one.amount)  # type: ignore[arg-type]
