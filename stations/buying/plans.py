"""What a buyer does before the sale: plan a bid, answer questions, decide; and what a unit turned out to be."""

from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from decimal import Decimal

from django.db import transaction
from django.db.models import F, Max

from core.buying.landed import Charge, ChargeKind
from core.buying.odds import OUTCOMES, USUAL, USUAL_HIGH, USUAL_LOW, LineOutcome, usual_minutes
from core.buying.planned import BidTerms, Case, expected_minutes, expected_price, sending
from core.buying.questions import BY_CODE, line_posterior
from core.money import ZERO, to_cent
from stations.buying.details import CaseDetails, LineDetails, LotDetails, PlanDetails, PlanLineDetails, SeenPieces
from stations.buying.forecasts import bid_line, charges_of, forecast_of, kept_terms
from stations.buying.models import (
    BidPlan,
    LineAnswer,
    Lot,
    LotLine,
    PlanCase,
    PlanLine,
    SourceKind,
    StartingOdds,
    Supplier,
    ToldOutcome,
    TurnedOut,
)
from stations.buying.record import Record, said_or_usual, starting_table
from stations.buying.services import record_lot
from stations.common import clock
from stations.common.happened import moment_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned

PLAN, SHOP = HistoryEntry.Subject.PLAN, HistoryEntry.Subject.SHOP
# Odds that differ by less are the same: they are typed in percent, and kept as shares.
NEARLY = Decimal("0.0005")


@transaction.atomic
def plan_bid(person: Person, said: PlanDetails) -> BidPlan:
    """Start a plan for a lot that is not ours yet."""
    require(person, "plan a bid")
    shop_settings.take_turns()
    number = (BidPlan.objects.aggregate(last=Max("number"))["last"] or 0) + 1
    supplier, _ = Supplier.objects.get_or_create(name=said.supplier_name.strip())
    plan = BidPlan.objects.create(number=number, supplier=supplier, **said.terms)
    history.record(person, "buying.plan_bid", PLAN, plan.pk, f"Planned: {plan.title}, {supplier.name}")
    return plan


@transaction.atomic
def change_plan(person: Person, plan: BidPlan, seen_version: int, said: PlanDetails) -> None:
    """Put the terms of a plan right while it is open."""
    require(person, "change a plan")
    _still_open(plan)
    supplier, _ = Supplier.objects.get_or_create(name=said.supplier_name.strip())
    new = {**said.terms, "supplier": supplier}
    history.changed(person, "buying.change_plan", PLAN, plan.pk, plan.code, plan, new)
    save_versioned(plan, seen_version, new)


def add_line(person: Person, plan: BidPlan, seen: SeenPieces) -> PlanLine:
    """Add a line from what can be seen in a minute; its cases are filled in as usual for the claim and the supplier."""
    return add_lines(person, plan, [seen])[0]


@transaction.atomic
def add_lines(person: Person, plan: BidPlan, lines: Sequence[SeenPieces]) -> list[PlanLine]:
    """Add lines, as in `add_line`."""
    require(person, "plan a bid")
    _still_open(plan)
    last = plan.lines.aggregate(last=Max("position"))["last"] or 0
    record, labour_rate = Record(plan.supplier), float(shop_settings.settings().labour_rate)
    made: list[PlanLine] = []
    cases: list[PlanCase] = []
    for position, seen in enumerate(lines, last + 1):
        line = PlanLine(plan=plan, position=position, **seen.values)
        learned = record.odds(line)
        line.doubt = Decimal(str(round(learned.open, 4)))
        line.save()
        made.append(line)
        cases += _usual_cases(line, learned.odds, seen.worth or ZERO, labour_rate)
    PlanCase.objects.bulk_create(cases)
    _touch(plan)
    words = ", ".join(f"{line.quantity} × {line.description}" for line in made)
    history.record(person, "buying.add_lines", PLAN, plan.pk, f"Lines added: {words}")
    return made


def _usual_cases(line: PlanLine, odds: Sequence[float], worth: Decimal, labour_rate: float) -> Iterator[PlanCase]:
    for outcome, share in zip(OUTCOMES, odds, strict=True):
        usual = USUAL[outcome]
        likely = to_cent(worth * Decimal(str(usual.price)))
        yield PlanCase(
            line=line,
            outcome=outcome.value,
            odds=Decimal(str(round(share, 6))),
            low=to_cent(likely * Decimal(str(USUAL_LOW))),
            likely=likely,
            high=to_cent(likely * Decimal(str(USUAL_HIGH))),
            cost=to_cent(worth * Decimal(str(usual.cost))),
            minutes=usual_minutes(outcome, float(worth), labour_rate),
        )


@transaction.atomic
def change_line(
    person: Person, line: PlanLine, said: PlanLineDetails, cases: Mapping[LineOutcome, CaseDetails]
) -> None:
    """Save a line and its four cases; the odds add up to 1."""
    require(person, "plan a bid")
    _still_open(line.plan)
    total = sum((case.odds for case in cases.values()), Decimal(0))
    if abs(total - 1) > NEARLY:
        raise Refused(f"The odds add up to {(100 * total).normalize():f} %; they must be 100 %.", "odds_works")
    held = {case.outcome: case for case in line.cases.all()}
    moved = any(abs(case.odds - held[outcome.value].odds) > NEARLY for outcome, case in cases.items())
    if not (
        moved
        or history.says_otherwise(line, vars(said))
        or any(
            {*history.says_otherwise(held[outcome.value], case.values)} - {"odds"} for outcome, case in cases.items()
        )
    ):
        return
    PlanLine.objects.filter(pk=line.pk).update(**vars(said))
    if said.rho != line.rho or moved:
        _typed_anew(line.split_from or line)
    for outcome, case in cases.items():
        PlanCase.objects.filter(line=line, outcome=outcome.value).update(**case.values)
    _touch(line.plan)
    odds = ", ".join(f"{outcome.value} {100 * case.odds:.0f} %, {case.likely}" for outcome, case in cases.items())
    words = f"{said.quantity} × {said.description}: {odds}"
    history.record(person, "buying.change_line", PLAN, line.plan_id, words)


@transaction.atomic
def drop_line(person: Person, line: PlanLine) -> None:
    require(person, "plan a bid")
    _still_open(line.plan)
    line.delete()
    _touch(line.plan)
    words = f"Line taken out: {line.quantity} × {line.description}"
    history.record(person, "buying.drop_line", PLAN, line.plan_id, words)


@transaction.atomic
def answer(person: Person, line: PlanLine, ask: str, said: str) -> None:
    """A question about one piece of the line was answered.

    That piece becomes a line of its own. Its odds, those of every other piece that was asked about, and those of the
    rest follow from all answers together, in whatever order they came.
    """
    require(person, "plan a bid")
    _still_open(line.plan)
    if ask not in BY_CODE or said not in {a.code for a in BY_CODE[ask].answers}:
        raise Refused("Say what the answer was.")
    question = BY_CODE[ask]
    if line.answers.filter(question=ask).exists():
        raise Refused("That is answered already.")
    whole = line.split_from or line
    if whole.before_answers is None:
        begun = {case.outcome: float(case.odds) for case in whole.cases.all()}
        whole.before_answers = {"odds": [begun[one.value] for one in OUTCOMES], "rho": float(whole.rho) / 100}
        whole.before_answers["doubt"] = str(whole.doubt)
        whole.save(update_fields=["before_answers"])
    seen = _split_off(line) if line.quantity > 1 else line
    if question.certain:
        PlanLine.objects.filter(pk=seen.pk).update(seen=True, doubt=0)
    LineAnswer.objects.create(line=seen, question=ask, answer=said, when=clock.now(), who=person)
    _after_answers(PlanLine.objects.get(pk=whole.pk))
    _touch(line.plan)
    words = f"{line.description}: {question.words} {question.answer(said).words}"
    history.record(person, "buying.answer", PLAN, line.plan_id, words)


@transaction.atomic
def not_answered(person: Person, line: PlanLine, ask: str) -> None:
    """That was not the answer, or nobody gave one: the odds are those that the other answers leave, and a piece that
    nothing more was asked about goes back among the others of its line."""
    require(person, "plan a bid")
    _still_open(line.plan)
    gone = line.answers.filter(question=ask).first()
    if gone is None or ask not in BY_CODE:
        raise Refused("Somebody took that answer back already.")
    gone.delete()
    whole = line.split_from or line
    before = whole.before_answers
    if not any(BY_CODE[a.question].certain for a in line.answers.all() if a.question in BY_CODE):
        doubt = (before or {}).get("doubt", "0")
        PlanLine.objects.filter(pk=line.pk).update(seen=False, doubt=Decimal(doubt))
    if before is not None:
        if line.split_from and not line.answers.exists() and _alike(line, whole):
            PlanLine.objects.filter(pk=whole.pk).update(quantity=F("quantity") + 1)
            line.delete()
        _after_answers(PlanLine.objects.get(pk=whole.pk))
    _touch(line.plan)
    words = f"{line.description}: {BY_CODE[ask].words} not answered so after all"
    history.record(person, "buying.not_answered", PLAN, line.plan_id, words)


def _alike(piece: PlanLine, whole: PlanLine) -> bool:
    """Whether a piece is still what it was split off, but for its odds."""

    def said(line: PlanLine) -> list:
        cases = [(c.outcome, c.low, c.likely, c.high, c.cost, c.minutes) for c in line.cases.all()]
        what = [line.description, line.kind, line.form_factor, line.claim, line.claim_words]
        return [*what, line.look_minutes, line.look_cost, sorted(cases)]

    return said(piece) == said(whole)


def _after_answers(whole: PlanLine) -> None:
    """Set the odds of a line and of all pieces that were split off it, by every answer about any of them."""
    pieces = [whole, *whole.pieces.order_by("pk")]
    asked = [one for one in pieces if one.answers.exists()]
    told = [[BY_CODE[a.question].answer(a.answer) for a in one.answers.all() if a.question in BY_CODE] for one in asked]
    before = whole.before_answers or {}
    after = line_posterior(before["odds"], before["rho"], told)
    for one, odds in zip(asked, after.pieces, strict=True):
        _set_odds(one, odds)
    for one in pieces:
        if one not in asked:
            _set_odds(one, after.rest)
    if whole not in asked:
        PlanLine.objects.filter(pk=whole.pk).update(rho=round(Decimal(repr(100 * after.rho)), 2))


def _typed_anew(whole: PlanLine) -> None:
    """Somebody knows better: the odds stand as typed from now on, what was answered before moves them no more, and how
    far our own record is open is no matter."""
    whole.pieces.update(split_from=None)
    PlanLine.objects.filter(pk=whole.pk).update(before_answers=None, doubt=0)


def _split_off(line: PlanLine) -> PlanLine:
    """Make one piece of a line a line of its own."""
    piece = PlanLine.objects.get(pk=line.pk)
    piece.pk, piece.quantity, piece.split_from, piece.before_answers = None, 1, line, None
    piece.save()
    PlanCase.objects.bulk_create(_copy(case, piece) for case in line.cases.all())
    PlanLine.objects.filter(pk=line.pk).update(quantity=line.quantity - 1)
    return piece


def _set_odds(line: PlanLine, odds: Sequence[float]) -> None:
    for outcome, share in zip(OUTCOMES, odds, strict=True):
        line.cases.filter(outcome=outcome.value).update(odds=Decimal(str(round(share, 6))))


@transaction.atomic
def set_limit(person: Person, plan: BidPlan, bid: Decimal) -> None:
    """Write down the most we will bid."""
    require(person, "set our limit")
    _still_open(plan)
    if bid < 0:
        raise Refused("This may not be below 0.", "bid")
    if bid == plan.bid:
        return
    before = "none" if plan.bid is None else plan.bid
    BidPlan.objects.filter(pk=plan.pk).update(bid=bid)
    history.record(person, "buying.set_limit", PLAN, plan.pk, f"Our limit {bid} {plan.currency}; before: {before}")


@transaction.atomic
def leave(person: Person, plan: BidPlan) -> None:
    require(person, "decide on a plan")
    _still_open(plan)
    BidPlan.objects.filter(pk=plan.pk).update(status=BidPlan.Status.LEFT, decided_at=clock.now(), decided_by=person)
    history.record(person, "buying.leave", PLAN, plan.pk, "Not bid for")


@transaction.atomic
def bid_after_all(person: Person, plan: BidPlan) -> None:
    """It was left by mistake, or is for sale again."""
    require(person, "decide on a plan")
    plan = lock_row(BidPlan.objects.all(), plan)
    if plan.status != BidPlan.Status.LEFT:
        raise Refused(f"{plan.code} is {plan.get_status_display()}; only what was left can be bid for again.")
    if plan.went_for is not None or ToldOutcome.objects.filter(line__plan=plan).exists():
        raise Refused("What became of it is written down already. Where that is wrong, take it out first.")
    BidPlan.objects.filter(pk=plan.pk).update(status=BidPlan.Status.OPEN, decided_at=None, decided_by=None)
    history.record(person, "buying.bid_after_all", PLAN, plan.pk, "To be bid for after all")


@transaction.atomic
def buy(person: Person, plan: BidPlan, price: Decimal, source: SourceKind, on: date | None = None) -> Lot:
    """We got it at `price` (in the lot's currency) from such a source, today or on a day before: the plan becomes a
    lot, and its forecast is kept."""
    require(person, "buy a lot")
    plan = lock_row(BidPlan.objects.all(), plan)
    _still_open(plan)
    lines = list(plan.lines.prefetch_related("cases"))
    if not lines:
        raise Refused("The plan has no lines yet.")
    drawn = forecast_of(plan)
    at = drawn.at(price)
    terms = drawn.terms
    said = LotDetails(
        title=plan.title,
        supplier_name=plan.supplier.name,
        source_kind=source,
        bought_on=clock.day_of(moment_on(on)),
        currency=plan.currency,
        rate=plan.rate,
        note=f"Planned as {plan.code}",
        charges=(Charge(ChargeKind.PRICE, amount=price), *charges_of(plan)),
        another=True,  # A plan becomes a lot once.
    )
    lot = record_lot(person, said, [_lot_line(line, terms) for line in lines])
    BidPlan.objects.filter(pk=plan.pk).update(
        status=BidPlan.Status.BOUGHT,
        lot=lot,
        decided_at=clock.now(),
        decided_by=person,
        forecast_worth=to_cent(Decimal(str(at.profit)) + at.landed),
        forecast_landed=at.landed,
        forecast_low=to_cent(Decimal(str(at.low)) + at.landed),
        forecast_high=to_cent(Decimal(str(at.high)) + at.landed),
        forecast_hours=to_cent(Decimal(str(drawn.hours))),
        forecast_terms=kept_terms(terms),
    )
    history.record(person, "buying.buy", PLAN, plan.pk, f"Bought at {price} {plan.currency}: {lot.code}")
    history.record(
        person,
        "buying.buy",
        HistoryEntry.Subject.LOT,
        lot.pk,
        f"Bought as planned in {plan.code}, at {price} {plan.currency}",
    )
    return lot


@transaction.atomic
def record_outcome(line: LotLine, unit_number: int, outcome: LineOutcome, *, tested: bool = True) -> None:
    """Told by a later station: this unit of the line turned out so. The latest word counts for what became of it; what
    it was found to be counts once it was `tested`, and stays what it was if it worked and comes to an end otherwise."""
    if line.lot.in_custody:
        return
    row = TurnedOut.objects.filter(unit_number=unit_number).first() or TurnedOut(unit_number=unit_number)
    ended = outcome in {LineOutcome.PARTS, LineOutcome.WORTHLESS}
    if tested and not (ended and row.found in {LineOutcome.WORKS, LineOutcome.REPAIRABLE}):
        row.found = outcome.value
    row.line, row.outcome, row.found_at = line, outcome.value, clock.now()
    row.save()


@transaction.atomic
def change_starting_odds(
    person: Person, claim: str, kind: str, seen_version: int, odds: Mapping[LineOutcome, Decimal]
) -> None:
    """Set the owner's starting odds for a claim, in percent; they add up to 100. `kind` empty: for every kind."""
    require(person, "change the starting odds")
    total = sum(odds.values(), Decimal(0))
    if total != 100:
        raise Refused(f"The four add up to {total.normalize():f} %; they must be 100 %.", "works")
    values = {outcome.value: percent for outcome, percent in odds.items()}
    before = said_or_usual(starting_table(), claim, kind)
    if not history.says_otherwise(before, values):
        return
    named = f"Starting odds of {claim}{f', {kind}' if kind else ''}"
    history.changed(person, "buying.change_starting_odds", SHOP, 0, named, before, values)
    row, made = StartingOdds.objects.get_or_create(claim=claim, kind=kind, defaults=values)
    if not made:
        save_versioned(row, seen_version, values)


def _lot_line(line: PlanLine, terms: BidTerms) -> LineDetails:
    """A plan's line as a line of the lot: what it is worth and costs to finish, on average over its cases."""
    cases = bid_line(line).cases

    said = line.worth_said

    def average(amount) -> Decimal:
        return to_cent(Decimal(str(sum(case.odds * amount(case) for case in cases))))

    def finishing(case: Case) -> float:
        taken = expected_price(case, terms) * (terms.fee + terms.tax.of_price)
        return case.cost + sending(case, terms) + taken + expected_minutes(case, terms) / 60 * terms.labour_rate

    return LineDetails(
        description=line.description,
        quantity=line.quantity,
        kind=line.kind,
        form_factor=line.form_factor,
        claim=line.claim,
        claim_words=line.claim_words,
        worth_low=average(lambda c: c.low) if said else None,
        worth_likely=average(lambda c: c.likely) if said else None,
        worth_high=average(lambda c: c.high) if said else None,
        finish_cost=average(finishing),
    )


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
    """Refused when the plan is decided; held until the change is made, so that nobody decides it meanwhile."""
    plan = lock_row(BidPlan.objects.all(), plan)
    if plan.settled:
        raise Refused(plan.settled)


def _touch(plan: BidPlan) -> None:
    """A line changed: whoever has the plan open is told, and what was drawn from it is drawn again."""
    plan.refresh_from_db()
    save_versioned(plan, plan.version, {})
