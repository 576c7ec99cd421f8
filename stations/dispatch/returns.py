"""Returns: asked for, judged by what was said and shown when it was sold, received, settled; what they teach."""

from collections import Counter
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

from django.db import transaction
from django.db.models import Prefetch

from core.money import ZERO
from core.selling.disclosure import DisclosureKind
from core.selling.taking_back import Case, Reason, Told, Verdict, What, Whose, judge, near
from stations.bench.models import FaultCase, StartTrial
from stations.common import clock
from stations.common.happened import day_said, moment_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason, within
from stations.dispatch import refunds
from stations.dispatch.here_again import mending_of, open_return
from stations.dispatch.models import Refund, Return
from stations.ledger.models import Account, EntryKind, Posting
from stations.ledger.services import Leg, post, reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.selling import payments
from stations.selling.models import Sale
from stations.units import stages
from stations.units.anew import receive_anew

UNIT = HistoryEntry.Subject.UNIT


def told_of(sale: Sale) -> list[Told]:
    """What its buyer was told, what passed and what was repaired, as it stood when it was sold."""
    return [Told(What(what), kind, words) for what, kind, words in sale.told]


def case_of(back: Return) -> Case:
    """A return beside the terms it was sold under; days count from its arrival, else its sending, else the sale."""
    sale = back.sale
    arrived = sale.closed_at if back.comes_back else None
    begun = arrived or sale.sent_at or sale.sold_at
    days = max(0, (clock.day_of(back.asked_at) - clock.day_of(begun)).days)
    about = Told(What(back.about[0]), back.about[1], back.about[2]) if back.about else None
    return Case(Reason(back.reason), about, days, sale.warranty_days, sale.withdrawal_days, sale.costs)


def verdict_of(back: Return) -> Verdict:
    return judge(case_of(back))


def near_of(back: Return) -> list[Told]:
    """What was told that shares words with what the buyer says, the nearest first."""
    return near(back.words, told_of(back.sale))


@transaction.atomic
def ask(
    person: Person, sale: Sale, reason: str, words: str, about: int | None = None, on: date | None = None
) -> Return:
    """Somebody wants to give it back, since today or a day before; `about`: which of what was told, by its place."""
    require(person, "take a return in")
    sale, words = payments.hold(sale), within(words.strip(), 1000, "words")
    if reason not in set(Reason):
        raise Refused("Why does it come back?", "reason")
    if not sale.stands:
        raise Refused(f"The sale ended: {sale.ended_words}.")
    if sale.sent_at is None:
        raise Refused("It was not sent yet: call the sale off instead.")
    if reason == Reason.LOST and sale.closed_at:
        raise Refused("It is said to have arrived. Where that is wrong, take that back first.", "reason")
    if Return.objects.filter(open_for=sale).exists():
        raise Refused("A return of it is open already.")
    asked_at = moment_on(on, sale.sent_at, "sent")
    back = Return(sale=sale, open_for=sale, reason=reason, words=words, asked_at=asked_at, asked_by=person)
    back.about = _about(sale, about)
    back.whose = verdict_of(back).whose
    back.save()
    asked = "To be given back" if Reason(reason).comes_back else "Told by its buyer"
    words = f"{asked}: {back.get_reason_display()}{day_said(asked_at)}"
    history.record(person, "dispatch.ask", UNIT, sale.unit_id, words)
    stages.refresh(sale.unit)
    return back


@transaction.atomic
def is_about(person: Person, back: Return, about: int | None) -> None:
    """Say which of what was told it is about, or that it is about nothing of that."""
    require(person, "take a return in")
    back = open_return(back)
    back.about = _about(back.sale, about)
    back.whose = verdict_of(back).whose
    back.save(update_fields=["about", "whose"])
    words = f"The return is about {back.about[2] if back.about else 'nothing that was told'}"
    history.record(person, "dispatch.is_about", UNIT, back.sale.unit_id, words)


def _about(sale: Sale, about: int | None) -> list[str] | None:
    if about is None:
        return None
    if not 0 <= about < len(sale.told):
        raise Refused("That is not among what was told of it.", "about")
    return sale.told[about]


@transaction.atomic
def not_asked(person: Person, back: Return, why: str) -> None:
    """Nobody asked for it, or its buyer keeps it as it is: it teaches nothing and counts nowhere."""
    require(person, "take a return in")
    back = open_return(back)
    if back.received_at:
        raise Refused("It came back: say first that it did not, or settle it.")
    why, unit = reason(why), back.sale.unit
    back.delete()
    history.record(person, "dispatch.not_asked", UNIT, unit.pk, f"Not to be given back after all: {why}", why=why)
    stages.refresh(unit)


@dataclass(frozen=True)
class Settlement:
    """How a return ends: what is paid back (0: nothing), what of the fee comes back, whether we take the thing back,
    what the way back and the work cost us, what should have been said, what there is to learn; `on` what day it was
    paid back, if that is past."""

    refund: Decimal = ZERO
    fee_back: Decimal = ZERO
    take_back: bool = False
    cost: Decimal = ZERO
    missing: str = ""
    lesson: str = ""
    on: date | None = None


@transaction.atomic
def settle(person: Person, back: Return, chosen: Settlement) -> None:
    """End a return: pay back, take the thing back into the workshop as received anew, keep what it teaches."""
    require(person, "settle a return")
    back = open_return(back)
    sale, verdict = back.sale, verdict_of(back)
    if chosen.take_back and not back.is_here:
        where = "went back to its buyer" if back.went_back_at else "is not here yet: receive it first"
        raise Refused(f"It {where}.", "take_back")
    if back.is_here and not chosen.take_back:
        raise Refused("It is here: take it back, or say first that it went to its buyer again.", "take_back")
    _may_be(chosen)
    _pay_back(person, back, chosen)
    mending = mending_of(back)
    about = What(back.about[0]) if back.about else None
    Return.objects.filter(pk=back.pk).update(
        open_for=None,
        settled_at=clock.now(),
        settled_by=person,
        whose=verdict.whose,
        taken_back=chosen.take_back,
        missing=chosen.missing,
        lesson=within(chosen.lesson.strip(), 300, "lesson") or verdict.lesson,
        warranty=verdict.whose is Whose.OURS and chosen.refund + chosen.cost + mending > 0,
        cost=chosen.cost,
        mending=mending,
        cost_posting=_cost(person, back, chosen.cost),
    )
    if about is What.FIXED and back.reason == Reason.FAULT:
        _counts_against(person, back)
    if chosen.take_back and back.received_at:
        refunds.end_sale(sale, f"given back: {back.get_reason_display()}")
        receive_anew(person, sale.unit, back.received_at)
    elif back.reason == Reason.LOST:
        # Nobody waits for it any more.
        Sale.objects.filter(pk=sale.pk, closed_at=None).update(closed_at=clock.now())
    done = "taken back" if chosen.take_back else "not taken back"
    words = f"Return settled: {chosen.refund} paid back, {done}; {verdict.whose.label}"
    history.record(person, "dispatch.settle", UNIT, sale.unit_id, words, refund=chosen.refund, cost=chosen.cost)
    stages.refresh(sale.unit)


def settled_as(back: Return) -> Settlement:
    """How it ended, by what stands: one query."""
    given = list(back.refunds.standing().order_by("pk"))
    return Settlement(
        refund=sum((one.amount for one in given), ZERO),
        fee_back=sum((one.fee_back for one in given), ZERO),
        take_back=back.taken_back,
        cost=back.cost,
        missing=back.missing,
        lesson=back.lesson,
        on=clock.day_of(given[-1].when) if given else None,
    )


@transaction.atomic
def put_right(person: Person, back: Return, chosen: Settlement, why: str) -> None:
    """It was settled, and other figures are right: what was paid back is taken out of the books and posted anew, so is
    what it cost us. Whether the thing was taken back stays: it is looked over anew since."""
    require(person, "settle a return")
    payments.hold(back.sale)
    back, why = lock_row(Return.objects.select_related("sale__unit", "sale__channel"), back), reason(why)
    if back.is_open:
        raise Refused("It is open still: settle it.")
    _may_be(chosen)
    was = settled_as(back)
    if replace(chosen, take_back=was.take_back) == was:
        raise Refused("So it stands already.")
    if (chosen.refund, chosen.fee_back, chosen.on) != (was.refund, was.fee_back, was.on):
        for given in back.refunds.standing().order_by("-pk"):
            refunds.take_back(person, given, why, instead=True)
        _pay_back(person, back, chosen)
    posting = back.cost_posting
    if chosen.cost != back.cost:
        on = posting.happened_on if posting else None
        if posting:
            reverse_posting(person, posting, why, on)
        posting = _cost(person, back, chosen.cost, on)
    Return.objects.filter(pk=back.pk).update(
        missing=chosen.missing,
        lesson=within(chosen.lesson.strip(), 300, "lesson"),
        warranty=back.whose == Whose.OURS and chosen.refund + chosen.cost + back.mending > 0,
        cost=chosen.cost,
        cost_posting=posting,
    )
    words = f"Return put right: {chosen.refund} paid back, it cost {chosen.cost}; {why}"
    unit = back.sale.unit
    history.record(person, "dispatch.put_right", UNIT, unit.pk, words, refund=chosen.refund, cost=chosen.cost, why=why)
    stages.refresh(unit)


def _may_be(chosen: Settlement) -> None:
    if chosen.cost < 0:
        raise Refused("This may not be below 0.", "cost")
    if chosen.missing and chosen.missing not in set(DisclosureKind):
        raise Refused("Choose from the list.", "missing")
    if chosen.fee_back and not chosen.refund:
        raise Refused("A fee comes back only with a refund.", "fee_back")


def _pay_back(person: Person, back: Return, chosen: Settlement) -> None:
    if not chosen.refund:
        return
    why = f"return: {back.get_reason_display()}"
    refunds.refund(person, back.sale, chosen.refund, why, fee_back=chosen.fee_back, back=back, on=chosen.on)


def _cost(person: Person, back: Return, cost: Decimal, on: date | None = None) -> Posting | None:
    """What the way back and the work cost, on the thing."""
    unit = back.sale.unit
    legs = [
        Leg(Account.UNIT, unit.pk, EntryKind.POSTAGE, cost, unit.lot_id),
        Leg(Account.CASH, 0, EntryKind.POSTAGE, -cost),
    ]
    return post(person, f"return of {unit.tag}", legs, on)


def _counts_against(person: Person, back: Return) -> None:
    """A fix that was taken for good did not hold at the buyer’s: a start that failed, on the day it was told."""
    case = FaultCase.objects.filter(pk=int(back.about[1]), unit=back.sale.unit_id).first() if back.about else None
    if case is None:
        return
    StartTrial.objects.create(
        unit_id=back.sale.unit_id,
        when=back.asked_at,
        passed=False,
        closed=True,
        words=f"at its buyer’s: {case.get_symptom_display()}"[:200],
        who=person,
    )


@dataclass(frozen=True)
class Lessons:
    """What settled returns teach: how many for each reason, which sentences were missing how often, what they cost."""

    reasons: list[tuple[str, int]]
    missing: list[tuple[str, int]]
    settled: int
    cost: Decimal


_REFUNDED = Prefetch("refunds", Refund.objects.standing())


def lessons(most: int = 500) -> Lessons:
    """Of the newest settled returns: two queries."""
    rows = list(Return.objects.filter(settled_at__isnull=False).prefetch_related(_REFUNDED)[:most])
    kinds = Counter(DisclosureKind(row.missing).label for row in rows if row.missing)
    reasons = Counter(str(row.get_reason_display()) for row in rows)
    cost = sum((row.cost + row.mending + sum((one.paid_back for one in row.refunds.all()), ZERO) for row in rows), ZERO)
    return Lessons(reasons.most_common(), kinds.most_common(), len(rows), cost)
