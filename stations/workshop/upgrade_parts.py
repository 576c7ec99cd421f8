"""Parts one has or could get for a unit, with a sheet; what they are worth in it, and who would pay for that."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from decimal import Decimal

from core.catalogue.fit.machine import Machine
from core.catalogue.fit.which import with_part
from core.flow.stage import GONE
from core.machine.approach import Approach
from core.machine.names import as_seen
from core.stock.parts import Condition
from core.workshop.upgrades.best import Worth
from core.workshop.upgrades.buyers import Buyer, taught
from core.workshop.upgrades.candidates import Kind, Source, candidates_of
from core.workshop.upgrades.candidates import Part as CouldBe
from core.workshop.upgrades.features import has
from core.workshop.worth import NOTHING, Appraisal
from stations.catalogue.fit_sheets import needs_of, sheets_of, tried_in
from stations.catalogue.models import PartSheet
from stations.ledger.models import Account
from stations.ledger.selectors import balances
from stations.people import shop_settings
from stations.stock.models import PartOffer, StockItem
from stations.stock.selectors import stock_with_value
from stations.units import fitting
from stations.units.models import Part, Unit
from stations.units.parts import fitted_costs
from stations.workshop.buyers import buyers

MOST = 1000
SOURCE = "upgrade:"


def parts_for(unit: Unit, names: Iterable[str] | None = None) -> list[CouldBe]:
    """Every kind of part that has a sheet and lies in a drawer, by itself, in a donor, or is offered by a seller:
    eight queries, however many there are. `names`: only these."""
    only = None if names is None else [*names]

    def of(rows, field="name"):
        return rows if only is None else rows.filter(**{f"{field}__in": only})

    found: dict[str, list[Source]] = defaultdict(list)
    called: set[str] = set()

    def note(name: str, source: Source) -> None:
        called.add(name)
        found[as_seen(name)].append(source)

    items = of(StockItem.objects.exclude(condition=Condition.FAULTY).filter(quantity__gt=0)).order_by("name")[:MOST]
    for item, _, each in stock_with_value(list(items)):
        if item.in_pieces and item.free >= 1 and each is not None:
            where = f"drawer {item.drawer or '–'}"
            note(item.name, Source(Kind.DRAWER, where, round(each, 2), item.pk, int(item.free)))
    loose = list(of(Part.objects.filter(unit=None, gone_at=None).exclude(condition=Condition.FAULTY))[:MOST])
    own = balances(Account.PART, [part.pk for part in loose])
    for part in loose:
        where = f"{part.code}, drawer {part.drawer or '–'}"
        note(part.name, Source(Kind.SINGLE, where, own[part.pk], part.pk, 1))
    donors = Part.objects.filter(unit__approach=Approach.DONOR, unit__holding=Unit.Holding.OWNED)
    donors = donors.exclude(unit=unit).exclude(unit__stage__in=GONE).exclude(condition=Condition.FAULTY)
    inside = list(of(donors).select_related("unit")[:MOST])
    came_with = fitted_costs(inside)
    for part in inside:
        where = f"{part.code} in {part.unit.tag}" if part.unit else part.code
        note(part.name, Source(Kind.DONOR, where, came_with.get(part.pk, part.worth), part.pk, 1))
    for offer in of(PartOffer.objects.select_related("seller"), "want")[:MOST]:
        note(
            offer.want,
            Source(
                Kind.SELLER,
                offer.seller.name,
                offer.each,
                offer.pk,
                offer.most,
                offer.seller.name,
                offer.seller.postage,
                offer.seller.free_from,
            ),
        )
    sheets = sheets_of(called)
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
    planned = planned_for(unit)
    for sheet in (sheets_of(planned.values()) if planned else {}).values():
        needs = needs_of(sheet)
        # Which sockets planned modules go into is worked out when they do.
        machine = machine if needs.modules else with_part(machine, needs, sheet.name)
    return machine, [part for part in parts if as_seen(part.name) not in planned]


def planned_for(unit: Unit, held: bool = False) -> dict[str, str]:
    """The names of the parts that open jobs are to fit, by how they are seen: two queries. `held`: as it is now, for
    one who holds the unit, rather than as it was when the transaction began."""
    jobs = unit.jobs.select_for_update() if held else unit.jobs.all()
    rows = jobs.filter(done_at=None, source__startswith=SOURCE).values_list("source", flat=True)
    keys = [int(number) for source in rows if (number := source.removeprefix(SOURCE)).isdecimal()]
    return {as_seen(name): name for name in PartSheet.objects.filter(pk__in=keys).values_list("name", flat=True)}


def buyers_for(price: Decimal, appraisal: Appraisal) -> dict[str, Buyer]:
    """The buyers as sales of such machines taught them: one query."""
    sold = appraisal.sold()
    return {code: taught(buyer, price, sold) for code, buyer in buyers().items()}


def features_of(unit: Unit) -> list[str] | None:
    """What a unit has of all that buyers look for; None while something of that is not known."""
    machine = fitting.machine_of(unit)
    features = {effect.feature for buyer in buyers().values() for effect in buyer.effects}
    known = {feature.name: has(machine, feature) for feature in features}
    return None if None in known.values() else sorted(name for name, there in known.items() if there)
