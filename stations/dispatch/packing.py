"""The plan for packing a parcel: what of its things matters, what is to be done, which box, which carrier."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import cached_property

from core.intake.condition import FindingKind
from core.machine.casing import FormFactor
from core.machine.supply import Battery
from core.money import ZERO
from core.selling.carriers import NotTaken, Quote, Tariff, ToSend, quotes
from core.selling.packing import (
    Packed,
    PackFacts,
    PackStep,
    Refusal,
    Size,
    choose_box,
    least_box,
    packing_steps,
    refusals,
)
from stations.dispatch.models import BoxSize, Carrier, CarrierBand, Parcel, tariff_of
from stations.dispatch.terms import terms
from stations.selling.models import Sale
from stations.units import seen
from stations.units.as_it_is import bench_facts
from stations.units.models import Finding, Unit

_LOOSE = frozenset({FindingKind.LOOSE})


def facts_of(unit: Unit, value: Decimal, weight_g: int | None = None) -> PackFacts:
    """What packing one unit depends on: three queries."""
    now = bench_facts(unit)
    opened = list(unit.findings.filter(status=Finding.Status.OPEN))

    def seen(kinds: frozenset[FindingKind]) -> list[str]:
        return [f"{f.get_kind_display()}{', ' + f.words if f.words else ''}" for f in opened if f.kind in kinds]

    return PackFacts(
        form_factor=FormFactor(unit.form_factor),
        tube=now.picture_tube,
        drives=now.drives,
        battery=now.battery,
        external_supply=unit.supply_is_external,
        loose=seen(_LOOSE),
        leaking=seen(frozenset({FindingKind.LEAK})),
        swollen=seen(frozenset({FindingKind.CELL})),
        weight_g=weight_g,
        valuable=value >= terms().two_boxes_from,
    )


@dataclass(frozen=True)
class Step:
    """A step of the plan of one unit, with who did it; `number` of the unit, and the code under which it is kept.
    `not_said`: what is asked of it."""

    number: int
    step: PackStep
    done_by: str = ""

    @property
    def not_said(self) -> list[seen.Asked]:
        return [seen.Asked(self.step.asks, seen.FACTS[self.step.asks])] if self.step.asks else []

    @property
    def key(self) -> str:
        return f"{self.number}-{self.step.code}"

    @property
    def done(self) -> bool:
        return bool(self.done_by)


@dataclass(frozen=True)
class PackPlan:
    """Everything that the packing page of a parcel rests on. `value`: what its things were sold for."""

    parcel: Parcel
    sales: list[Sale]
    facts: Mapping[int, PackFacts]
    boxes: list[BoxSize]
    taken: frozenset[str]

    @property
    def value(self) -> Decimal:
        return sum((sale.costs for sale in self.sales), ZERO)

    @cached_property
    def refusals(self) -> list[tuple[Unit, Refusal]]:
        return [(sale.unit, one) for sale in self.sales for one in refusals(self.facts[sale.unit_id])]

    @cached_property
    def steps(self) -> list[Step]:
        found = []
        for sale in self.sales:
            for step in packing_steps(self.facts[sale.unit_id]):
                # What is said of the whole parcel is done once, with the last thing in it.
                if step.code in _ONCE and sale is not self.sales[-1]:
                    continue
                number = sale.unit.number
                if step.asks and self.parcel.is_closed:
                    # Nobody can look any more.
                    step = replace(step, asks="")
                done = "" if step.asks else self.parcel.done.get(f"{number}-{step.code}", "")
                if step.picture:
                    done = "a picture" if step.picture in self.taken else ""
                found.append(Step(number, step, done))
        return found

    @property
    def next_step(self) -> Step | None:
        return next((step for step in self.steps if not step.done), None)

    @property
    def left(self) -> int:
        return sum(not step.done for step in self.steps)

    @property
    def double(self) -> bool:
        return any(facts.double for facts in self.facts.values())

    @property
    def upright(self) -> bool:
        return any(facts.upright for facts in self.facts.values())

    @property
    def size(self) -> Size | None:
        """As it lies in the box; None while nobody measured. One with a screen lies on it."""
        if self.parcel.size is None:
            return None
        return self.facts[self.sales[0].unit_id].lies(self.parcel.size) if len(self.sales) == 1 else self.parcel.size

    @cached_property
    def proposed(self) -> Packed | None:
        if self.size is None:
            return None
        return choose_box(self.size, [row.box for row in self.boxes], double=self.double, upright=self.upright)

    @property
    def least(self) -> Size | None:
        return least_box(self.size, double=self.double) if self.size else None

    @property
    def packed(self) -> Packed | None:
        """The box that it is in, or that is proposed."""
        if self.parcel.box:
            return Packed(self.parcel.box.box, self.parcel.inner_box.box if self.parcel.inner_box else None)
        return self.proposed

    @property
    def weight_g(self) -> int | None:
        """What the closed parcel weighs, as weighed; else the thing and its boxes; None where nobody knows."""
        if self.parcel.packed_g:
            return self.parcel.packed_g
        packed = self.packed
        return self.parcel.weight_g + packed.weight_g if self.parcel.weight_g and packed else None

    @property
    def cell(self) -> bool:
        return any(facts.battery.has_lithium for facts in self.facts.values())

    @property
    def cell_not_known(self) -> bool:
        """Whether a cell is in it was never recorded; the carrier asks."""
        bare = {FormFactor.CHIP, FormFactor.CABINET, FormFactor.CARD}
        return any(f.battery is Battery.UNKNOWN and f.form_factor not in bare for f in self.facts.values())

    def to_send(self) -> ToSend | None:
        """As carriers are asked; None while size or weight is not known. A cell that was taken out lies beside it."""
        packed, weight = self.packed, self.weight_g
        if packed is None or weight is None:
            return None
        apart = any(step.step.code == "cell" and step.done for step in self.steps) and self.cell
        return ToSend(packed.outer.outer, weight, self.value, cell=self.cell, cell_apart=apart)


_ONCE = frozenset({"gap", "papers", "packed", "close", "inner", "corners"})


def plan_of(parcel: Parcel) -> PackPlan:
    """The plan of a parcel: five queries and three for each thing in it."""
    rows = parcel.items.select_related("sale__unit__model", "sale__channel", "sale__unit__line").order_by("id")
    sales = [item.sale for item in rows]
    weight = parcel.packed_g or parcel.weight_g
    facts = {sale.unit_id: facts_of(sale.unit, sale.costs, weight) for sale in sales}
    whole = sum((sale.costs for sale in sales), ZERO)
    if len(sales) > 1 and whole >= terms().two_boxes_from:
        facts = {unit: replace(one, valuable=True) for unit, one in facts.items()}
    taken = frozenset(parcel.photos.values_list("moment", flat=True))
    return PackPlan(parcel, sales, facts, list(BoxSize.objects.filter(in_use=True)), taken)


def zones() -> list[str]:
    """Every zone that some carrier in use has prices for, by name."""
    rows = CarrierBand.objects.filter(carrier__in_use=True)
    return list(rows.order_by("zone").values_list("zone", flat=True).distinct())


def tariffs(zone: str) -> list[tuple[Carrier, Tariff]]:
    """What every carrier in use asks into a zone: two queries."""
    carriers = Carrier.objects.filter(in_use=True).prefetch_related("bands")
    return [(row, tariff_of(row, [band for band in row.bands.all() if band.zone == zone])) for row in carriers]


def quotes_of(plan: PackPlan, zone: str) -> tuple[list[Quote], list[NotTaken]]:
    """(who takes it, the cheapest first; who does not, and why); nothing while size, weight or zone is not known."""
    parcel = plan.to_send()
    if parcel is None or not zone:
        return [], []
    return quotes((tariff for _, tariff in tariffs(zone)), parcel)
