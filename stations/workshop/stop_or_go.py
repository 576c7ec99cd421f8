"""Stop or go with the unit in hand: what each way leaves from now on, and until when the answer holds.

Of everything that is open on the unit, one thing is in hand: the job whose clock runs, else the one somebody holds,
else a fault that is looked for, else the first job. Its odds fall with the minutes that brought nothing; what comes
after it is taken as it stands.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from itertools import pairwise, product

from django.db import transaction
from django.db.models import Exists, OuterRef, Sum

from core.flow.stage import GONE
from core.intake.triage import USUAL_EFFORT, Path
from core.money import to_cent
from core.workshop.stopgo import Answer, Stakes, Way, answer, odds_of, per_minute
from core.workshop.worth import NOTHING, Appraisal, Changes, Priced, all_of
from stations.bench.models import FaultCase
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.intake import settling, triage
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import stages
from stations.units.models import Unit
from stations.units.paths import left_of_sales, weigh_paths, with_facts
from stations.workshop import services
from stations.workshop.models import Job, LabourEntry, StopDecision
from stations.workshop.proposals import Offered, Proposals, proposals_of

What = StopDecision.What
# Of what comes after the work in hand so many pieces are taken one by one: 2 to the power of it ways to turn out.
MOST_AFTER = 6
# Between two tries at a fault, what took longer was not spent on it. Common practice, no source.
LONGEST_GAP = 45.0
# Of one recipe, the newest results.
NEWEST = 40
DAYS_A_MONTH = 30
MOST_ASKING = 200


@dataclass(frozen=True)
class StopGo:
    """The question as a page shows it. `answer` None where nobody can say, with `unknown` in words why."""

    unit: Unit
    in_hand: Offered
    gone: int
    spent: Decimal
    ways: tuple[Way, ...]
    answer: Answer | None
    unknown: str
    decided: StopDecision | None
    donor: Unit | None
    now: datetime

    @property
    def turns_at(self) -> datetime | None:
        """When the answer turns, if nothing comes until then; None where no limit is in sight, or it has."""
        limit = self.answer.limit if self.answer else None
        return self.now + timedelta(minutes=limit) if limit else None

    @property
    def limit(self) -> int | None:
        """Whole minutes before the answer turns."""
        return None if self.answer is None or self.answer.limit is None else int(self.answer.limit)

    @property
    def lead(self) -> int:
        return round(abs(self.answer.lead)) if self.answer else 0

    @property
    def asks(self) -> bool:
        """It was gone on with until now, and the time that was given is over."""
        return self.decided is not None and self.decided.ask_at is not None and self.decided.ask_at <= self.now

    @property
    def goes_until(self) -> datetime | None:
        """Until when it was decided to go on."""
        return self.decided.ask_at if self.decided and self.decided.ask_at and not self.asks else None

    @property
    def regret_in_100(self) -> int:
        return round(100 * self.answer.regret) if self.answer else 0


def stop_or_go(unit: Unit) -> StopGo | None:
    """None where nothing is in hand, or it is gone, or not ours."""
    if unit.custody or unit.stage in GONE or unit.parked:
        return None
    proposals = proposals_of(unit)
    in_hand = _in_hand(unit, proposals.all)
    if in_hand is None:
        return None
    gone, now = _gone(in_hand, unit), clock.now()
    appraisal, left = proposals.appraisal, left_of_sales([unit])[unit.pk]
    stop_ways = _stop_ways(unit, appraisal, left)
    decided = StopDecision.objects.filter(unit=unit, of=in_hand.key).select_related("who").first()
    made, unknown = None, ""
    ways = list(stop_ways)
    if in_hand.proposal.weighed and any(way.left is not None for way in stop_ways):
        stop = max(way.left or 0.0 for way in stop_ways)
        stakes, go_way = _stakes(appraisal, left, in_hand, proposals, stop)
        if stakes is None:
            unknown = "There is no sale to compare it with."
        else:
            odds = odds_of(in_hand.proposal.chance, float(max(1, _estimate(in_hand))), _took(in_hand))
            made = answer(odds.after(gone), stakes)
            ways = _with_going_on(stop_ways, made, go_way)
    elif in_hand.proposal.parts is None:
        unknown = "Nobody knows what its parts cost."
    elif not in_hand.proposal.changes.any:
        unknown = "Nothing says what it changes: link the job to what it answers to."
    else:
        unknown = "There is no sale to compare it with."
    return StopGo(unit, in_hand, round(gone), _spent(unit), tuple(ways), made, unknown, decided, _donor(unit), now)


def _in_hand(unit: Unit, offered: Sequence[Offered]) -> Offered | None:
    jobs = [one for one in offered if one.job is not None and one.job.is_open]
    running = (
        LabourEntry.objects.filter(job__unit=unit, running_for__isnull=False).values_list("job", flat=True).first()
    )
    for wanted in (
        lambda one: one.job.pk == running,
        lambda one: one.job.holder_id is not None,
    ):
        if found := next((one for one in jobs if wanted(one)), None):
            return found
    fault = next((one for one in offered if one.key.startswith("fault:")), None)
    return fault or next(iter(jobs), None)


def _gone(one: Offered, unit: Unit) -> float:
    """Minutes that brought no result: of the job, those that were logged and those on a clock that runs; of a fault
    those between its tries."""
    if one.job is not None:
        entries = list(one.job.labour.all())
        logged = sum(entry.minutes for entry in entries if entry.ended_at)
        running = (clock.now() - entry.started_at for entry in entries if entry.ended_at is None)
        return logged + sum(min(passed.total_seconds() / 60, 8 * 60) for passed in running)
    case = FaultCase.objects.filter(open_for=unit).first()
    if case is None:
        return 0.0
    moments = [case.opened_at, *case.tries.order_by("when").values_list("when", flat=True)]
    gaps = ((after - before).total_seconds() / 60 for before, after in pairwise(moments))
    return sum(min(LONGEST_GAP, max(0.0, gap)) for gap in gaps)


def _estimate(one: Offered) -> float:
    """Minutes it was thought to take from its begin: a proposal says what is left of it."""
    return one.job.estimate_minutes if one.job is not None else one.proposal.minutes


def _took(one: Offered) -> list[float]:
    """Minutes of jobs by the same recipe that did what they were for: one query, none without a recipe."""
    if one.recipe is None:
        return []
    rows = Job.objects.filter(recipe=one.recipe.code, worked=True, done_at__isnull=False)
    took = rows.annotate(took=Sum("labour__minutes")).order_by("-id").values_list("took", flat=True)[:NEWEST]
    return [float(minutes) for minutes in took if minutes]


def _minute() -> float:
    return per_minute(float(shop_settings.settings().labour_rate), USUAL_EFFORT.a_month / DAYS_A_MONTH)


def _stop_ways(unit: Unit, appraisal: Appraisal | None, left: Callable[[float], float]) -> list[Way]:
    """What stopping now leaves: sold as it stands, or taken for parts."""
    rate = float(shop_settings.settings().labour_rate) / 60
    now = appraisal.at(NOTHING) if appraisal else None
    offer = USUAL_EFFORT.offer * rate
    as_it_stands = f"Stop, sell it as it stands{now.caveat if now else ''}"
    ways = [Way(as_it_stands, left(float(now.likely)) if now else None, offer)]
    weighed = weigh_paths(list(with_facts(Unit.objects.filter(pk=unit.pk))))
    parts = next((way for one in weighed for way in one.found.ways if way.path is Path.PART_OUT), None)
    if parts is not None:
        spend = parts.hours * 60 * rate
        ways.append(Way("Take it for parts", parts.worth + spend, spend))
    return ways


@dataclass(frozen=True)
class _GoWay:
    """Going on as a line of the table: what comes of it on average, and what is still spent after the work in hand."""

    after: float
    price: Priced | None


def _stakes(
    appraisal: Appraisal | None, left: Callable[[float], float], in_hand: Offered, proposals: Proposals, stop: float
) -> tuple[Stakes | None, _GoWay]:
    """What is left once the work in hand did what it is for: stopping there, or with everything after it, whichever
    leaves more."""
    if appraisal is None:
        return None, _GoWay(0.0, None)
    own = in_hand.proposal.changes
    after = [one for one in proposals.all if one.key != in_hand.key and one.proposal.weighed]
    proof = [one for one in after if one.proposal.changes.tested][:1]
    rest = [
        one
        for one in after
        if not one.proposal.changes.tested and (one.job is not None or one.key in proposals.best.chosen)
    ]
    minute = _minute()
    offer = USUAL_EFFORT.offer * minute
    best: tuple[float, float, float, float, Priced | None] | None = None
    # Nothing after it, only the proof of it, or everything that is open or worth doing beside.
    for chosen in ([], proof, [*rest[:MOST_AFTER], *proof]):
        found = _expected(appraisal, own, chosen, left)
        if found is None:
            continue
        low, likely, high, price = found
        spend = offer + sum(one.proposal.minutes for one in chosen) * minute
        spend += sum(float(one.proposal.parts or 0) for one in chosen)
        if best is None or likely - spend > best[1]:
            best = (low - spend, likely - spend, high - spend, spend, price)
    if best is None:
        return None, _GoWay(0.0, None)
    parts = float(in_hand.proposal.parts or 0)
    low, likely, high, spend, price = best
    stakes = Stakes(stop, likely - parts, min(low, likely) - parts, max(high, likely) - parts, minute)
    return stakes, _GoWay(spend + parts, price)


def _expected(
    appraisal: Appraisal, own: Changes, chosen: Sequence[Offered], left: Callable[[float], float]
) -> tuple[float, float, float, Priced | None] | None:
    """Low, likely, high of what is kept over every way that what comes after may turn out; and the price if all of it
    works. `left` is what a sale at a price leaves."""
    low = likely = high = 0.0
    price = None
    for works in product((True, False), repeat=len(chosen)):
        chance = 1.0
        for one, worked in zip(chosen, works, strict=True):
            chance *= one.proposal.chance if worked else 1 - one.proposal.chance
        priced = appraisal.at(
            all_of([own, *(one.proposal.changes for one, ok in zip(chosen, works, strict=True) if ok)])
        )
        if priced is None:
            return None
        price = price or priced
        low += chance * left(float(priced.low))
        likely += chance * left(float(priced.likely))
        high += chance * left(float(priced.high))
    return low, likely, high, price


def _with_going_on(stop_ways: Sequence[Way], made: Answer, go_way: _GoWay) -> list[Way]:
    """The ways with going on among them, what is still to be spent on each told apart."""
    first, *rest = stop_ways
    price = go_way.price
    span = f", {price.low:.0f}–{price.high:.0f} then{price.caveat}" if price else ""
    going = Way(f"Go on: {made.in_100} in 100 it works{span}", made.go + go_way.after, go_way.after)
    best = max(made.stop, made.go)
    month = Way("Park it for a month", best, USUAL_EFFORT.a_month)
    return [first, going, *rest, month]


def _spent(unit: Unit) -> Decimal:
    """Labour and parts on jobs that are open: gone whatever is decided."""
    spent = Decimal(0)
    for job in unit.jobs.all():
        if job.is_open:
            spent += sum((entry.cost for entry in job.labour.all()), Decimal(0))
            spent += sum((issue.cost for issue in job.issues.all() if issue.returned_at is None), Decimal(0))
    return to_cent(spent)


def _donor(unit: Unit) -> Unit | None:
    """A donor of the same model, whose part might be swapped in: one query."""
    if unit.model_id is None:
        return None
    donors = Unit.objects.filter(model=unit.model_id, approach="donor").exclude(stage__in=GONE).exclude(pk=unit.pk)
    return donors.first()


@transaction.atomic
def decide(person: Person, unit: Unit, what: str, words: str = "") -> StopDecision:
    """Go on, stop, take it for parts or park it: kept with the figures it was decided on.

    Stopping leaves out what is left of jobs that are open, and sends the unit where it is to go.
    """
    require(person, "decide to stop or go on")
    if what not in What.values:
        raise Refused("Go on, stop, for parts, or park.", "what")
    unit = lock_row(Unit.objects.select_related("lot", "line", "model"), unit)
    asked = stop_or_go(unit)
    if asked is None:
        raise Refused("Nothing is in hand on it any more.")
    made = asked.answer
    against = made is not None and made.goes_on != (what == What.GO) and what != What.PARK
    if against and what != What.GO and not words:
        raise Refused(f"Going on leads by {asked.lead}: say why it is stopped.", "words")
    row = StopDecision.objects.create(
        unit=unit,
        about=asked.in_hand.proposal.title[:120],
        of=asked.in_hand.key,
        what=what,
        stop=to_cent(Decimal(str(made.stop))) if made else None,
        go=to_cent(Decimal(str(made.go))) if made else None,
        minutes_gone=asked.gone,
        ask_at=_ask_at(asked) if what == What.GO else None,
        words=within(words, 160, "words"),
        when=asked.now,
        who=person,
    )
    said = f"{row.get_what_display()}: {row.about}" + (f"; {words}" if words else "")
    history.record(person, "workshop.decide", HistoryEntry.Subject.UNIT, unit.pk, said[:200], of=row.of)
    if what == What.PARK:
        settling.park(person, unit, words or f"stopped at: {row.about}"[:120])
    elif what != What.GO:
        _stop_jobs(person, unit, words or "stop or go")
        reason = words or (f"stop or go: it leads by {asked.lead}" if made else "stop or go")
        triage.choose_path(person, unit, Path.SELL.value if what == What.STOP else Path.PART_OUT.value, reason)
    return row


def _ask_at(asked: StopGo) -> datetime:
    """Asked again when the answer turns; against the answer, or with no limit in sight, after an hour."""
    return asked.turns_at or asked.now + timedelta(hours=1)


def _stop_jobs(person: Person, unit: Unit, why: str) -> None:
    """Jobs that are open end here. One that was begun did not do what it was for; the others were never begun."""
    with stages.all_at_the_end():
        for job in Job.objects.filter(unit=unit, done_at=None).order_by("pk"):
            services.end_here(person, job, f"stopped: {why}")


def asking() -> list[StopDecision]:
    """Where going on was decided, the time that was given is over, and what was in hand is still open with nothing
    decided since: it is asked again. The longest over first; three queries."""
    since = StopDecision.objects.filter(unit=OuterRef("unit"), pk__gt=OuterRef("pk"))
    rows = StopDecision.objects.filter(~Exists(since), ask_at__lte=clock.now(), unit__parked="")
    rows = rows.filter(unit__station__in=["bench", "workshop"]).select_related("unit").order_by("-ask_at")[:MOST_ASKING]
    units = [row.unit_id for row in rows]
    open_ = {f"job:{pk}" for pk in Job.objects.filter(unit__in=units, done_at=None).values_list("pk", flat=True)}
    faults = FaultCase.objects.filter(unit__in=units, closed_at=None)
    open_ |= {f"fault:{pk}" for pk in faults.values_list("pk", flat=True)}
    return [row for row in reversed(list(rows)) if row.of in open_]
