"""The market of a unit: sales of its model or its family, what selling takes, and the lowest prices that cover it."""

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from functools import cache
from itertools import chain
from math import log

from core.books.earnings import INCOME, TAKEN_BY_SELLING
from core.intake.triage import USUAL_COMPLETENESS, Prices
from core.selling.disclosure import said_after
from core.selling.grade import Grade, GradeEvidence
from core.selling.grade import grade as grade_of
from core.selling.market import Comparable as Compared
from core.selling.market import Learned, Market, PriceBand, Subject, Weighed
from core.selling.postage import Reckoned, Sent, sent
from core.selling.price import FeesKept, SellingTerms, fee_on, fees_kept, floor_price, left_of, lowest_for, owners_part
from stations.buying.forecasts import cost_after_a_sale, postage_by_shape
from stations.common import clock
from stations.common.registry import Registry
from stations.ledger.models import Account
from stations.ledger.selectors import by_kind
from stations.people import shop_settings
from stations.people.models import ShopSettings
from stations.selling.models import Channel, Comparable, Listing, Sale, UnitGrade
from stations.units import costs, paths
from stations.units.models import Unit
from stations.units.selectors import completeness_of
from stations.workshop import upgrade_parts

# Who knows what answering for a sale of a grade has cost afterwards, on average, in base currency.
answered_for: Registry[Callable[[Grade], Decimal]] = Registry("what sales cost afterwards")

# Who knows what parcels of one thing took to send: (model, shape, base currency), the newest first.
parcels_sent: Registry[Callable[[], Iterable[tuple[int | None, str, Decimal]]]] = Registry("parcels that were sent")

# Kinds of entries that a sale makes: no cost of the unit.
_OF_A_SALE = {*INCOME, *TAKEN_BY_SELLING}

# So many sales of a channel tell what it keeps. Common practice, no source.
NEWEST_SALES = 30

# So many sales of a model are weighed, the newest first.
MOST_COMPARED = 2000


def compared_with(unit: Unit) -> tuple[list[Comparable], list[Compared]]:
    """Sales of the unit's model, as kept and as they are weighed; none for a unit without a model. Where there are none
    of its model, those of its family: the same maker’s of the same shape. What it fetched itself now says nothing
    of what it should have."""
    if unit.model is None:
        return [], []
    its_own = Sale.objects.filter(open_for=unit).exclude(comparable=None).values("comparable_id")
    others = Comparable.objects.filter(price__gt=0).exclude(pk__in=its_own)
    rows = list(others.filter(model_id=unit.model_id)[:MOST_COMPARED])
    if not rows:
        family = {"model__maker": unit.model.maker, "model__form_factor": unit.model.form_factor}
        rows = list(others.filter(**family).select_related("model")[:MOST_COMPARED])
    return rows, [_compared(row, "" if row.model_id == unit.model_id else row.model.name) for row in rows]


def _compared(row: Comparable, model: str = "") -> Compared:
    return Compared(
        row.price * row.rate,
        max(0, (clock.today() - row.sold_on).days),
        Grade(row.grade),
        USUAL_COMPLETENESS if row.completeness is None else row.completeness,
        row.own,
        row.channel,
        row.auction,
        None if row.postage is None else row.postage * row.rate,
        None if row.features is None else frozenset(row.features),
        model,
        None if row.said is None else frozenset(row.said),
    )


def subject_of(unit: Unit, grade: Grade, channel: Channel | None = None, said: frozenset[str] | None = None) -> Subject:
    """What of the unit is priced. Where completeness was not gone through, the usual one is reckoned with."""
    percent = completeness_of(unit.contents.all()).percent
    whole = USUAL_COMPLETENESS if percent is None else percent
    faulty = unit.faults.filter(closed_at=None).exists()
    return Subject(grade, whole, features_of(unit), channel.name if channel else "", said, faulty)


def features_of(unit: Unit) -> frozenset[str] | None:
    """What it has of what buyers look for; None while something of that is not known."""
    found = upgrade_parts.features_of(unit)
    return None if found is None else frozenset(found)


@dataclass(frozen=True)
class UnitMarket:
    """A unit’s market, read once: its sales, the model of them (None without a sale), and what of it is priced;
    `counted`: somebody went through what is there, else the usual completeness is reckoned with."""

    rows: list[Comparable]
    market: Market | None
    subject: Subject
    counted: bool = True

    @property
    def uncounted(self) -> int:
        """Sales of which nobody said what was with it: they too are reckoned with the usual completeness."""
        return sum(row.completeness is None for row in self.rows)

    @property
    def of_family(self) -> bool:
        """There is no sale of its own model."""
        return self.market is not None and all(one.model for one in self.market.comparables)

    @property
    def band(self) -> PriceBand | None:
        return self.market.band(self.subject) if self.market else None

    def band_at(self, grade: Grade) -> PriceBand | None:
        return self.market.band(replace(self.subject, grade=grade)) if self.market else None

    def after(self, was: GradeEvidence, then: GradeEvidence) -> PriceBand | None:
        """With another record: its grade then, and what its buyer is told then."""
        said = None if self.subject.said is None else said_after(self.subject.said, was, then)
        # A fault that is found proves the machine again.
        faulty = self.subject.faulty and bool(then.not_proven)
        subject = replace(self.subject, grade=grade_of(then).grade, said=said, faulty=faulty)
        return self.market.band(subject) if self.market else None

    @property
    def learned(self) -> list[Learned]:
        """What sales say of the ratios where they moved them plainly, the plainest first."""
        found = self.market.learned() if self.market else ()
        told = [one for one in found if abs(log(one.factor / one.table)) > 0.02]
        return sorted(told, key=lambda one: -abs(log(one.factor / one.table)) / one.off)[:6]

    def moves(self, kind: str) -> Learned | None:
        """What sales say of telling a buyer that; None where none of ours says anything of it."""
        found = self.market.learned() if self.market else ()
        return next((one for one in found if one.what == f"said {kind}"), None)

    @property
    def weighed(self) -> tuple[Weighed, ...]:
        return self.market.brought(self.subject) if self.market else ()


def market_of(
    unit: Unit, grade: Grade, channel: Channel | None = None, said: frozenset[str] | None = None
) -> UnitMarket:
    """`channel`: where it is to be sold; `said`: the kinds of what a buyer is told of it."""
    rows, compared = compared_with(unit)
    counted = completeness_of(unit.contents.all()).percent is not None
    return UnitMarket(rows, Market(compared) if compared else None, subject_of(unit, grade, channel, said), counted)


def triage_prices(models: set[int]) -> dict[int, Prices]:
    """What each model fetches, for triage: a query for all. A model with too few sales is left out."""
    rows: dict[int, list[Compared]] = defaultdict(list)
    for row in Comparable.objects.filter(model_id__in=models, price__gt=0):
        rows[row.model_id].append(_compared(row))
    found = {}
    for model_id, compared in rows.items():
        market = Market(compared)
        working, untested, parts = (market.band(Subject(g, 100)) for g in (Grade.B, Grade.UNTESTED, Grade.PARTS))
        if working.few:
            continue
        b, as_found, broken = (float(band.likely) for band in (working, untested, parts))
        a_year = max(-0.5, min(0.5, market.a_year))
        # What all of it fetches against nothing of it, as these sales have it beside the table.
        whole = next(one.factor for one in market.learned() if one.what == "completeness")
        hangs = min(max(1 - 1 / whole, 0.0), 0.9)
        source = f"{len(compared)} sales elsewhere and our own"
        found[model_id] = Prices(b, as_found, broken, a_year, source, hangs)
    return found


def sending(usual: Decimal | None = None) -> Sent:
    """What sending things is reckoned to take: a query, and one for what is usual where that is not given."""
    took = chain.from_iterable(asked() for asked in parcels_sent.values())
    return sent(shop_settings.settings().postage if usual is None else usual, took)


def postage_of(unit: Unit) -> Reckoned:
    """What sending it is reckoned to take, with what that rests on: two queries."""
    return sending().postage(unit.model_id, unit.form_factor)


@postage_by_shape.add("selling")
def postage_of_shapes(usual: Decimal) -> dict[str, Decimal]:
    """What sending takes by shape, of those that were sent: a query."""
    known = sending(usual)
    return {shape: known.postage(None, shape).amount for shape in known.by_shape}


def terms_of(
    channel: Channel, settings: ShopSettings, on: date | None = None, postage: Decimal | None = None
) -> SellingTerms:
    """What selling there takes, today or on another day, `postage` where something is known of what is sent."""
    tax = settings.tax_on(on) if on else settings.tax
    usual = settings.postage if postage is None else postage
    return SellingTerms(channel.fee_percent, channel.fee_fixed, usual, tax.of_an_item, tax.percent)


def fees_kept_by(channel: Channel) -> FeesKept | None:
    """What it kept of its newest sales, beside its terms of today; None while there are few. Two queries."""
    alone = Sale.objects.filter(channel=channel, ended_at=None, bundle=None).order_by("-sold_at")[:NEWEST_SALES]
    sales = [(price, fee - back) for price, fee, back in alone.values_list("price", "fee", "fee_back")]
    return fees_kept(sales, terms_of(channel, shop_settings.settings()))


@cost_after_a_sale.add("selling")
def warranty_of_the_usual() -> Decimal:
    """What answering for a sale is reckoned to cost where its grade is not known yet: as of the usual grade."""
    return answering_for(Grade.B)


@dataclass(frozen=True)
class UnitBooks:
    """What the books say of a unit, read once, and what a sale of it on any channel leaves by that. In base currency:
    `postage` is what sending it is reckoned to take, `purchase` what counts as bought for, `cost` every cost so far but
    what selling takes; `warranties`, what answering for it is reckoned to cost, by unit, is asked for by the first
    floor that is wanted."""

    unit: Unit
    settings: ShopSettings
    postage: Decimal
    purchase: Decimal
    cost: Decimal
    warranties: Callable[[], Mapping[int, Decimal]]

    def leaves(self, channel: Channel) -> Callable[[Decimal], Decimal]:
        """What a sale at a price leaves us after fee, postage, tax and, on commission, the owner’s part."""
        # Asked once: a plan tries some sixty prices.
        commission = self.unit.agreed.commission_percent if self.unit.consigned else None
        purchase, terms = self.purchase, terms_of(channel, self.settings, postage=self.postage)

        def left(price: Decimal) -> Decimal:
            if commission is None:
                return left_of(price, purchase, terms)
            ours = price - owners_part(price, commission)
            return left_of(ours, purchase, terms) - fee_on(price, terms) + fee_on(ours, terms)

        return left

    def floors(self, channel: Channel) -> tuple[Decimal, Decimal]:
        """(covers only what selling itself takes, covers every cost so far, what answering for it is reckoned to cost,
        and the least margin wanted). Raises ValueError where no price on commission covers them."""
        whole = self.cost + self.settings.target_margin + self.warranties().get(self.unit.pk, Decimal(0))
        if self.unit.consigned:
            left = self.leaves(channel)
            least, floor = lowest_for(Decimal(0), left), lowest_for(whole, left)
            if least is None or floor is None:
                raise ValueError(
                    f"Ours are {self.unit.agreed.commission_percent.normalize():f} % of what it fetches, and fee, "
                    "postage and tax take more: no price covers the cost."
                )
            return least, floor
        terms = terms_of(channel, self.settings, postage=self.postage)
        return floor_price(Decimal(0), self.purchase, terms), floor_price(whole, self.purchase, terms)


def books_of(units: Sequence[Unit]) -> dict[int, UnitBooks]:
    """Six queries for all; one more for floors, and what answering for each grade among them asks."""
    ids, settings = [unit.pk for unit in units], shop_settings.settings()
    sums, sends = by_kind(Account.UNIT, ids), sending(settings.postage)
    bought, warranties = costs.purchase_of(units, sums), cache(lambda: _warranties(ids))
    return {
        unit.pk: UnitBooks(
            unit,
            settings,
            sends.postage(unit.model_id, unit.form_factor).amount,
            bought[unit.pk],
            sum((paid for kind, paid in sums[unit.pk].items() if kind not in _OF_A_SALE), Decimal(0)),
            warranties,
        )
        for unit in units
    }


def unit_books(unit: Unit) -> UnitBooks:
    return books_of([unit])[unit.pk]


def _warranties(units: Collection[int]) -> dict[int, Decimal]:
    """What answering for a sale of its grade is reckoned to cost; nothing for one that was not graded."""
    given = dict(UnitGrade.objects.filter(unit_id__in=units).order_by("id").values_list("unit_id", "grade"))
    by_grade = {grade: answering_for(Grade(grade)) for grade in set(given.values())}
    return {unit_id: by_grade[grade] for unit_id, grade in given.items()}


def answering_for(grade: Grade) -> Decimal:
    return sum((asked(grade) for asked in answered_for.values()), Decimal(0))


def usual_channel() -> Channel | None:
    """Where a thing is sold that is not listed yet; None while there is nowhere to sell."""
    return Channel.objects.filter(in_use=True).order_by("id").first()


@paths.leaving.add("selling")
def what_sales_leave(units: list[Unit]) -> dict[int, Callable[[Decimal], Decimal]]:
    """What a sale of each leaves on the channel of its listing, or else on the usual one: nine queries for all."""
    books, usual = books_of(units), usual_channel()
    on = {row.unit_id: row.channel for row in Listing.objects.filter(unit__in=units).select_related("channel")}
    return {
        unit.pk: books[unit.pk].leaves(channel) for unit in units if (channel := on.get(unit.pk) or usual) is not None
    }
