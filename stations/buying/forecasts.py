"""Forecasts of plans: the terms a plan is reckoned by, and how our own lots came out against theirs."""

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, replace
from datetime import date
from decimal import Decimal
from functools import lru_cache
from itertools import chain

from django.db.models import Count, Max, Q

from core.books.held import Left, left_by
from core.buying.bid import Forecast, forecast
from core.buying.calibration import LOOK_BACK, STATED, Calibration, SoldLine, learn_spreads, learn_width
from core.buying.landed import USUAL_CHARGES, Charge, usual_charges
from core.buying.moments import moments
from core.buying.odds import OUTCOMES
from core.buying.planned import BidLine, BidTerms, Case, PlannedTax, Targets
from core.flow.stage import GONE
from core.money import ZERO
from stations.buying.models import BidPlan, Lot, LotCharge, LotLine, PlanLine, TurnedOut
from stations.common import clock
from stations.common.registry import Registry
from stations.ledger.models import Account
from stations.ledger.selectors import by_kind, lots_by_kind
from stations.people import shop_settings
from stations.people.models import ShopSettings

# What answering for a sale is reckoned to cost on average, base currency: whoever answers for sales says it.
cost_after_a_sale: Registry = Registry("what a sale costs after it")
# What sending one piece takes by its shape where that is known, drawn to the usual; base currency.
postage_by_shape: Registry[Callable[[Decimal], Mapping[str, Decimal]]] = Registry("what sending takes by shape")


def forecast_of(plan: BidPlan) -> Forecast:
    """Draw the plan's lot; the plan's number is the seed, so that it looks the same tomorrow.

    The last few are kept, so that moving the bid only asks the draws anew.
    """
    return _drawn(plan.pk, plan.version, terms_of(plan))


@lru_cache(maxsize=8)
def _drawn(plan_id: int, version: int, terms: BidTerms) -> Forecast:
    plan = BidPlan.objects.get(pk=plan_id, version=version)
    return forecast([bid_line(line) for line in plan.lines.prefetch_related("cases")], terms, seed=plan.number)


def terms_of(plan: BidPlan, settings: ShopSettings | None = None) -> BidTerms:
    """What the plan is reckoned by: the settings of today, where they were read already, and what lots so far teach;
    once it is bought, what held then."""
    kept = plan.forecast_terms
    settings = settings or shop_settings.settings()
    if kept:
        return _terms(
            plan, Calibration(**kept["calibration"]), kept["labour_rate"], kept["postage"], kept["after"],
            PlannedTax(kept["scheme"], Decimal(kept["percent"]), kept["premium_counts"]),
            tuple((shape, takes) for shape, takes in kept.get("postages", ())),
        )  # fmt: skip
    # A plan that was bought before terms were kept: what lots taught since is none of its own, and asking that of it
    # would ask it of itself.
    was_bought = plan.status == BidPlan.Status.BOUGHT
    known, after = (STATED, 0.0) if was_bought else _learned()
    return _terms(
        plan,
        known,
        float(settings.labour_rate),
        float(settings.postage if plan.postage is None else plan.postage),
        after,
        PlannedTax(settings.tax_scheme, settings.tax_percent, settings.premium_counts),
        _postages(settings.postage) if plan.postage is None and not was_bought else (),
    )


def _postages(usual: Decimal) -> tuple[tuple[str, float], ...]:
    """What sending takes by shape, of those of which something is known."""
    known = dict(chain.from_iterable(asked(usual).items() for asked in postage_by_shape.values()))
    return tuple((shape, float(takes)) for shape, takes in sorted(known.items()))


def _terms(
    plan: BidPlan,
    known: Calibration,
    labour_rate: float,
    postage: float,
    after: float,
    tax: PlannedTax,
    postages: tuple[tuple[str, float], ...],
) -> BidTerms:
    return BidTerms(
        fee=float(plan.fee_percent) / 100,
        labour_rate=labour_rate,
        lot_rho=float(plan.lot_rho) / 100,
        charges=charges_of(plan),
        rate=plan.rate,
        postage=postage,
        postages=postages,
        after=after,
        tax=tax,
        calibration=known,
    )


def kept_terms(terms: BidTerms) -> dict:
    """What of the terms must be kept with a plan that is bought, since settings and records go on."""
    return {
        "calibration": asdict(terms.calibration),
        "labour_rate": terms.labour_rate,
        "postage": terms.postage,
        "postages": terms.postages,
        "after": terms.after,
        "scheme": str(terms.tax.scheme),
        "percent": str(terms.tax.percent),
        "premium_counts": terms.tax.premium_counts,
    }


def charges_of(plan: BidPlan) -> tuple[Charge, ...]:
    """What comes on top of the price by the terms of the sale."""
    figures = {name: getattr(plan, name) for name in USUAL_CHARGES if name != "price"}
    return usual_charges(figures, plan.premium_bands)


def targets_of(plan: BidPlan) -> Targets:
    return Targets(float(plan.target_margin) / 100, float(plan.loss_limit) / 100, float(plan.target_hourly))


def bid_line(line: PlanLine) -> BidLine:
    """A line as the bid rules see it. Stored odds are rounded; they are brought to sum to 1 again."""
    cases = {case.outcome: case for case in line.cases.all()}
    total = sum(float(case.odds) for case in cases.values())
    return BidLine(
        line.description,
        line.quantity,
        tuple(
            Case(
                float(c.odds) / total,
                float(c.low),
                float(c.likely),
                float(c.high),
                float(c.cost),
                float(c.minutes),
                line.form_factor,
            )
            for c in (cases[outcome.value] for outcome in OUTCOMES)
        ),
        float(line.rho) / 100,
        float(line.look_minutes),
        float(line.look_cost),
        float(line.doubt),
        line.split_from_id or line.pk,
    )


def calibration() -> Calibration:
    """How our plans come out: learned from the newest lots that were planned."""
    return _learned()[0]


def _learned() -> tuple[Calibration, float]:
    """How plans come out, and what answering for a sale costs: worked out anew each day, and whenever something more is
    known to have turned out so."""
    told = TurnedOut.objects.aggregate(n=Count("id"), last=Max("found_at"))
    bought = BidPlan.objects.filter(status=BidPlan.Status.BOUGHT).aggregate(n=Count("id"), last=Max("decided_at"))
    return _learned_by(clock.today(), *told.values(), *bought.values())


@lru_cache(maxsize=4)
def _learned_by(_day: date, *_known: object) -> tuple[Calibration, float]:
    return _calibrated(), float(sum((asked() for asked in cost_after_a_sale.values()), ZERO))


def _calibrated() -> Calibration:
    plans = list(
        BidPlan.objects.filter(status=BidPlan.Status.BOUGHT)
        .select_related("lot")
        .prefetch_related("lines__cases", "lot__units__line")
        .order_by("-decided_at")[:LOOK_BACK]
    )
    sold, settings = _sold_lines(plans), shop_settings.settings()
    known, off = learn_spreads(list(chain.from_iterable(sold.values()))), []
    for closed in closed_plans(plans):
        # Each against what the others teach: a lot never lies far from what was learned of itself.
        others = learn_spreads([line for plan, of in sold.items() if plan != closed.plan.pk for line in of])
        lines = [bid_line(line) for line in closed.plan.lines.all()]
        mean, variance = moments(lines, replace(terms_of(closed.plan, settings), calibration=others))
        if variance > 0:
            off.append((float(closed.left.before_tax) - mean) / variance**0.5)
    return learn_width(known, off)


def _sold_lines(plans: list[BidPlan]) -> dict[int, list[SoldLine]]:
    """For each plan, line by line, what pieces sold for and took, for one planned for how each turned out: four queries
    for all."""
    lots, settings = {plan.lot.pk: plan for plan in plans if plan.lot}, shop_settings.settings()
    pieces = [unit for plan in plans if plan.lot for unit in plan.lot.units.all()]
    sums = by_kind(Account.UNIT, [unit.pk for unit in pieces])
    turned = dict(TurnedOut.objects.filter(line__lot_id__in=lots).values_list("unit_number", "outcome"))
    found: dict[tuple[int, int], tuple[list[float], list[float]]] = defaultdict(lambda: ([], []))
    for unit in pieces:
        plan, money = lots[unit.lot_id], sums[unit.pk]
        sale = -money.get("sale", ZERO) - money.get("refund", ZERO)
        lines = list(plan.lines.all())
        if sale <= 0 or unit.number not in turned or unit.line.position > len(lines):
            continue
        case = next(case for case in lines[unit.line.position - 1].cases.all() if case.outcome == turned[unit.number])
        prices, minutes = found[plan.pk, unit.line.position]
        if mean := (case.low + 4 * case.likely + case.high) / 6:
            prices.append(float(sale / mean))
        rate = terms_of(plan, settings).labour_rate
        if case.minutes and rate and money.get("labour", ZERO) > 0:
            minutes.append(float(money["labour"]) / (case.minutes * rate / 60))
    sold = defaultdict(list)
    for (plan_id, _), (prices, minutes) in found.items():
        sold[plan_id].append(SoldLine(tuple(prices), tuple(minutes)))
    return sold


@dataclass(frozen=True)
class ClosedPlan:
    """A plan whose lot is closed, nothing to receive and every unit gone, and what it left."""

    plan: BidPlan
    left: Left


def closed_plans(plans: list[BidPlan]) -> list[ClosedPlan]:
    """Those of the plans whose lots are closed: four queries for all."""
    ids = [plan.lot.pk for plan in plans if plan.lot]
    units = Lot.objects.filter(pk__in=ids).annotate(
        all=Count("units"), left=Count("units", filter=~Q(units__stage__in=GONE))
    )
    closed = {lot.pk for lot in units if lot.all and not lot.left}
    closed -= set(LotLine.objects.to_come().filter(lot_id__in=ids).values_list("lot_id", flat=True))
    sums, paid = lots_by_kind(ids), defaultdict[tuple[int, str], Decimal](Decimal)
    for lot_id, kind, base in LotCharge.objects.filter(lot_id__in=ids, replaced_at=None).values_list(
        "lot_id", "kind", "base"
    ):
        paid[lot_id, kind] += base
    found, settings = [], shop_settings.settings()
    for plan in plans:
        if plan.lot is None or not plan.lot.priced or plan.lot.pk not in closed:
            continue
        tax = terms_of(plan, settings).tax
        bought_for = sum((paid[plan.lot.pk, kind] for kind in tax.counted), ZERO)
        found.append(ClosedPlan(plan, left_by(sums[plan.lot.pk], plan.lot.landed_total, bought_for, tax)))
    return found
