"""What a buyer does before the sale: plan a bid, answer questions, decide; and what is learned after."""

from collections.abc import Mapping
from decimal import Decimal
from functools import lru_cache

from django.db import transaction
from django.db.models import Count, Max

from core.buying.bid import BidLine, BidTerms, Case, Forecast, Targets, forecast
from core.buying.landed import Charge
from core.buying.odds import OUTCOMES, STARTING, USUAL, USUAL_HIGH, USUAL_LOW, Learned, Outcome, learn, usual_minutes
from core.money import to_cent
from stations.buying.models import BidPlan, Lot, LotLine, PlanCase, PlanLine, StartingOdds, Supplier, TurnedOut
from stations.buying.services import FIELD_OF, record_lot
from stations.people import clock, history, shop
from stations.people.editing import save_versioned
from stations.people.models import HistoryEntry, Person, Role
from stations.people.permission import require
from stations.people.refusals import Refused


@transaction.atomic
def plan_bid(person: Person, data: dict) -> BidPlan:
    """Start a plan for a lot that is not ours yet."""
    require(person, Role.BUYER, to="plan a bid")
    shop.take_turns()
    number = (BidPlan.objects.aggregate(last=Max("number"))["last"] or 0) + 1
    supplier, _ = Supplier.objects.get_or_create(name=data["supplier_name"].strip())
    values = {name: value for name, value in data.items() if name not in {"supplier_name", "version"}}
    return BidPlan.objects.create(number=number, supplier=supplier, **values)


@transaction.atomic
def change_plan(person: Person, plan: BidPlan, seen_version: int, data: dict) -> None:
    require(person, Role.BUYER, to="change a plan")
    _still_open(plan)
    supplier, _ = Supplier.objects.get_or_create(name=data["supplier_name"].strip())
    values = {name: value for name, value in data.items() if name not in {"supplier_name", "version"}}
    save_versioned(plan, seen_version, {**values, "supplier": supplier})


@transaction.atomic
def add_line(person: Person, plan: BidPlan, data: dict, worth: Decimal) -> PlanLine:
    """Add a line from what can be seen in a minute; its cases are filled in as usual for the claim and the supplier."""
    require(person, Role.BUYER, to="plan a bid")
    _still_open(plan)
    position = (plan.lines.aggregate(last=Max("position"))["last"] or 0) + 1
    line = PlanLine.objects.create(plan=plan, position=position, **data)
    odds = odds_for(plan.supplier, line.claim).odds
    for outcome, share in zip(OUTCOMES, odds, strict=True):
        usual = USUAL[outcome]
        likely = to_cent(worth * Decimal(str(usual.price)))
        PlanCase.objects.create(
            line=line,
            outcome=outcome.value,
            odds=Decimal(str(round(share, 6))),
            low=to_cent(likely * Decimal(str(USUAL_LOW))),
            likely=likely,
            high=to_cent(likely * Decimal(str(USUAL_HIGH))),
            cost=to_cent(worth * Decimal(str(usual.cost))),
            minutes=usual_minutes(outcome, float(worth), float(shop.settings().labour_rate)),
        )
    _touch(plan)
    return line


@transaction.atomic
def change_line(person: Person, line: PlanLine, data: dict, cases: Mapping[Outcome, dict]) -> None:
    """Save a line and its four cases; the odds (shares, 0 to 1) add up to 1."""
    require(person, Role.BUYER, to="plan a bid")
    _still_open(line.plan)
    if abs(sum(case["odds"] for case in cases.values()) - 1) > Decimal("0.0005"):
        total = sum(case["odds"] for case in cases.values()) * 100
        raise Refused(f"The odds add up to {total.normalize():f} %; they must be 100 %.", "odds_works")
    PlanLine.objects.filter(pk=line.pk).update(**data)
    for outcome, case in cases.items():
        PlanCase.objects.filter(line=line, outcome=outcome.value).update(**case)
    _touch(line.plan)


@transaction.atomic
def drop_line(person: Person, line: PlanLine) -> None:
    require(person, Role.BUYER, to="plan a bid")
    _still_open(line.plan)
    line.delete()
    _touch(line.plan)


@transaction.atomic
def answer(person: Person, line: PlanLine, outcome: Outcome) -> None:
    """One piece of the line was looked at: it becomes a line of its own, and the others' odds learn from it.

    With correlation rho the line's odds are worth (1 - rho) / rho pieces; the answer is one more.
    """
    require(person, Role.BUYER, to="plan a bid")
    _still_open(line.plan)
    cases = list(line.cases.all())
    if line.quantity == 1:
        seen, rest = line, None
    else:
        seen = PlanLine.objects.get(pk=line.pk)
        seen.pk = None
        seen.quantity, seen.position = 1, line.position
        seen.save()
        PlanCase.objects.bulk_create(_copy(case, seen) for case in cases)
        PlanLine.objects.filter(pk=line.pk).update(quantity=line.quantity - 1)
        rest = line
    PlanLine.objects.filter(pk=seen.pk).update(seen=True)
    for case in seen.cases.all():
        PlanCase.objects.filter(pk=case.pk).update(odds=Decimal(int(case.outcome == outcome.value)))
    rho = line.rho / 100
    if rest and rho > 0:
        weight = (1 - rho) / rho
        for case in cases:
            learned = (weight * case.odds + (case.outcome == outcome.value)) / (weight + 1)
            PlanCase.objects.filter(pk=case.pk).update(odds=round(learned, 6))
    _touch(line.plan)


@transaction.atomic
def set_limit(person: Person, plan: BidPlan, bid: Decimal) -> None:
    """Write down the most we will bid."""
    require(person, Role.BUYER, to="set our limit")
    _still_open(plan)
    if bid < 0:
        raise Refused("This may not be below 0.", "bid")
    BidPlan.objects.filter(pk=plan.pk).update(bid=bid)


@transaction.atomic
def leave(person: Person, plan: BidPlan) -> None:
    require(person, Role.BUYER, to="decide on a plan")
    _still_open(plan)
    BidPlan.objects.filter(pk=plan.pk).update(status=BidPlan.Status.LEFT, decided_at=clock.now(), decided_by=person)


@transaction.atomic
def buy(person: Person, plan: BidPlan, price: Decimal) -> Lot:
    """We got it at `price` (in the lot's currency): the plan becomes a lot, and its forecast is kept."""
    require(person, Role.BUYER, to="buy a lot")
    plan = BidPlan.objects.select_for_update().get(pk=plan.pk)
    _still_open(plan)
    lines = list(plan.lines.prefetch_related("cases"))
    if not lines:
        raise Refused("The plan has no lines yet.")
    drawn = forecast_of(plan)
    at = drawn.at(price)
    terms = drawn.terms
    header = {
        "title": plan.title,
        "supplier_name": plan.supplier.name,
        "source_kind": "auction",
        "bought_on": clock.today(),
        "arrived_on": None,
        "currency": plan.currency,
        "rate": plan.rate,
        "owner_name": "",
        "note": f"Planned as {plan.code}",
        "price": price,
    }
    charges = {field: getattr(plan, field) for field in FIELD_OF.values() if field != "price"}
    rows = [_lot_line(line, terms) for line in lines]
    lot = record_lot(person, header | charges, rows)
    BidPlan.objects.filter(pk=plan.pk).update(
        status=BidPlan.Status.BOUGHT,
        lot=lot,
        decided_at=clock.now(),
        decided_by=person,
        forecast_worth=to_cent(Decimal(str(drawn.mean))),
        forecast_landed=at.landed,
        forecast_low=to_cent(Decimal(str(at.low)) + at.landed),
        forecast_high=to_cent(Decimal(str(at.high)) + at.landed),
        forecast_hours=to_cent(Decimal(str(drawn.hours))),
    )
    history.record(
        person, HistoryEntry.Subject.LOT, lot.pk, f"Bought as planned in {plan.code}, at {price} {plan.currency}"
    )
    return lot


@transaction.atomic
def turned_out(line: LotLine, unit_number: int, outcome: Outcome) -> None:
    """Told by a later station: this unit of the line turned out so. The latest word counts."""
    if line.lot.in_custody:
        return
    TurnedOut.objects.update_or_create(
        unit_number=unit_number, defaults={"line": line, "outcome": outcome.value, "found_at": clock.now()}
    )


def odds_for(supplier: Supplier, claim: str) -> Learned:
    """Odds for a claim of this supplier, from the table and the shop's own record: two queries."""
    shop_wide, own = dict.fromkeys(OUTCOMES, 0), dict.fromkeys(OUTCOMES, 0)
    rows = (
        TurnedOut.objects.filter(line__claim=claim)
        .values_list("line__lot__supplier", "outcome")
        .annotate(n=Count("id"))
    )
    for supplier_id, outcome, n in rows.order_by():
        shop_wide[Outcome(outcome)] += n
        if supplier_id == supplier.pk:
            own[Outcome(outcome)] += n
    return learn(starting_odds(claim), tuple(shop_wide.values()), tuple(own.values()))


def starting_odds(claim: str) -> tuple[float, ...]:
    """The owner's table for a claim, or the one the application comes with; in the order of OUTCOMES."""
    row = StartingOdds.objects.filter(claim=claim).first()
    if row is None:
        return STARTING.get(claim, STARTING["none"])
    return tuple(float(getattr(row, outcome.value)) / 100 for outcome in OUTCOMES)


@transaction.atomic
def change_starting_odds(person: Person, claim: str, seen_version: int, odds: Mapping[Outcome, Decimal]) -> None:
    """Set the owner's starting odds for a claim, in percent; they add up to 100."""
    require(person, to="change the starting odds")
    if sum(odds.values()) != 100:
        raise Refused(f"The four add up to {sum(odds.values()).normalize():f} %; they must be 100 %.", "works")
    values = {outcome.value: percent for outcome, percent in odds.items()}
    row, made = StartingOdds.objects.get_or_create(claim=claim, defaults=values)
    if not made:
        save_versioned(row, seen_version, values)


def forecast_of(plan: BidPlan) -> Forecast:
    """Draw the plan's lot; the plan's number is the seed, so that it looks the same tomorrow.

    The last few are kept, so that moving the bid only asks the draws anew.
    """
    return _drawn(plan.pk, plan.version, shop.settings().labour_rate)


@lru_cache(maxsize=8)
def _drawn(plan_id: int, version: int, labour_rate: Decimal) -> Forecast:
    plan = BidPlan.objects.get(pk=plan_id, version=version)
    lines = [bid_line(line) for line in plan.lines.prefetch_related("cases")]
    charges = []
    for kind, field in FIELD_OF.items():
        value = getattr(plan, field, None)
        if value:
            charges.append(Charge(kind, percent=value) if field.endswith("_percent") else Charge(kind, amount=value))
    terms = BidTerms(
        fee=float(plan.fee_percent) / 100,
        labour_rate=float(labour_rate),
        lot_rho=float(plan.lot_rho) / 100,
        charges=tuple(charges),
        rate=plan.rate,
    )
    return forecast(lines, terms, seed=plan.number)


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
            Case(float(c.odds) / total, float(c.low), float(c.likely), float(c.high), float(c.cost), float(c.minutes))
            for c in (cases[outcome.value] for outcome in OUTCOMES)
        ),
        float(line.rho) / 100,
    )


def _lot_line(line: PlanLine, terms: BidTerms) -> dict:
    """A plan's line as a line of the lot: what it is worth and costs to finish, on average over its cases."""
    cases = bid_line(line).cases

    def average(amount) -> Decimal:
        return to_cent(Decimal(str(sum(case.odds * amount(case) for case in cases))))

    return {
        "description": line.description,
        "quantity": line.quantity,
        "kind": line.kind,
        "form_factor": line.form_factor,
        "claim": line.claim,
        "claim_words": line.claim_words,
        "weight_kg": None,
        "worth_low": average(lambda c: c.low),
        "worth_likely": average(lambda c: c.likely),
        "worth_high": average(lambda c: c.high),
        "finish_cost": average(lambda c: c.cost + c.minutes / 60 * terms.labour_rate + c.mean_price * terms.fee),
    }


def _copy(case: PlanCase, line: PlanLine) -> PlanCase:
    return PlanCase(
        line=line,
        outcome=case.outcome,
        odds=case.odds,
        low=case.low,
        likely=case.likely,
        high=case.high,
        cost=case.cost,
        minutes=case.minutes,
    )


def _still_open(plan: BidPlan) -> None:
    if plan.status != BidPlan.Status.OPEN:
        raise Refused(f"{plan.code} is {plan.get_status_display()}; it does not change any more.")


def _touch(plan: BidPlan) -> None:
    """A line changed: whoever has the plan open is told, and what was drawn from it is drawn again."""
    plan.refresh_from_db()
    save_versioned(plan, plan.version, {})
