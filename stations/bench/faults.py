"""Finding a fault: open a case from its symptom, try what tells most, log every try, close it with what it was."""

from collections import Counter
from dataclasses import dataclass

from django.db import transaction
from django.db.models import Count, F

from core.bench import codebook
from core.bench.assurance import Condition, Fix, FixStanding, Trial, depends_on, fix_standing
from core.bench.fault_library import BY_CODE, SHORT, Symptom, off_load
from core.bench.suspects import Action, KnownGood, Next, Suspect, Verdict, after, halving, next_actions, priors, verdict
from core.intake.approach import Approach
from stations.bench.models import FaultCase, StartTrial, Try
from stations.bench.models import KnownGood as Stocked
from stations.intake import stages
from stations.intake.models import Finding, Unit
from stations.intake.triage import weigh, with_facts
from stations.people import clock, history, shop
from stations.people.models import HistoryEntry, Person, Role
from stations.people.permission import require
from stations.people.refusals import Refused

UNIT = HistoryEntry.Subject.UNIT
GONE = {"sold", "sent", "closed", "scrapped", "returned"}
# What can't be replaced weighs three times on a machine that is conserved (judgement; common practice, no source).
CONSERVED = 3.0


@transaction.atomic
def open_case(person: Person, unit: Unit, symptom: str, words: str = "", family: str = "", code: str = "") -> FaultCase:
    """Start from a symptom. A beep or code raises its suspects; which firmware it is must be said, not assumed."""
    require(person, Role.TECHNICIAN, to="look for a fault")
    unit = Unit.objects.select_for_update().get(pk=unit.pk)
    if unit.stage in GONE:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: there is no fault to find here.")
    if unit.assessed_at is None:
        raise Refused("Intake is not finished. Don’t power it yet: finish intake first.")
    if symptom not in BY_CODE:
        raise Refused("Choose what it does.", "symptom")
    if FaultCase.objects.filter(open_for=unit).exists():
        raise Refused("A fault is being looked for already. Go on with that one.")
    known = BY_CODE[symptom]
    now = priors(known.suspects, Counter(_signs(unit)), closed_counts(symptom))
    if code:
        now = _by_code(known, now, family, code)
    case = FaultCase.objects.create(
        unit=unit,
        symptom=symptom,
        words=words[:160],
        family=family,
        code=code.strip()[:12],
        now=list(now),
        opened_at=clock.now(),
        opened_by=person,
        open_for=unit,
    )
    history.record(person, UNIT, unit.pk, f"Looking for a fault: {known.words}{'; ' + words if words else ''}")
    stages.refresh(unit)
    return case


def open_one(unit: Unit) -> FaultCase:
    """The fault that is being looked for. Raises Refused when it was closed meanwhile, perhaps by somebody else."""
    case = FaultCase.objects.select_related("unit").filter(open_for=unit).first()
    if case is None:
        raise Refused("No fault is being looked for here any more.")
    return case


def _signs(unit: Unit) -> list[str]:
    return list(unit.findings.filter(status=Finding.Status.OPEN).values_list("kind", flat=True))


def closed_counts(symptom: str) -> dict[str, int]:
    """What this symptom turned out to be in faults the shop has closed: one query."""
    closed = FaultCase.objects.filter(symptom=symptom, closed_at__isnull=False).exclude(cause="")
    return dict(closed.order_by().values_list("cause").annotate(n=Count("id")))


def _by_code(symptom: Symptom, now: tuple[float, ...], family: str, code: str) -> tuple[float, ...]:
    if family not in codebook.BY_CODE:
        raise Refused("The same beep means different things: say which firmware it is.", "family")
    meaning = codebook.look_up(family, code)
    if meaning is None:
        raise Refused("The book does not know this code for this firmware. Leave it empty to go on without.", "code")
    raised = [p * meaning.raises.get(s.code, 1.0) for p, s in zip(now, symptom.suspects, strict=True)]
    return tuple(p / sum(raised) for p in raised)


@dataclass(frozen=True)
class Bar:
    suspect: Suspect
    chance: float


@dataclass(frozen=True)
class Offered:
    """An action to try next, and the known-good parts that could stand in, with how far each can be trusted."""

    next: Next
    stand_ins: tuple[tuple[Stocked, KnownGood], ...]
    tried: str


@dataclass(frozen=True)
class CaseView:
    """An open case as it stands: suspects with the likeliest first, what to try next, and whether to go on at all."""

    case: FaultCase
    bars: tuple[Bar, ...]
    offered: tuple[Offered, ...]
    verdict: Verdict
    tries: tuple[Try, ...]


def look_at(case: FaultCase) -> CaseView:
    """Everything the fault page shows, in a number of queries that does not grow with tries."""
    symptom = BY_CODE[case.symptom]
    tries = tuple(case.tries.select_related("who", "known_good"))
    shelf = known_good_shelf()
    trust = {a.code: _best_trust(shelf, a.needs) for a in symptom.actions if a.needs}
    # What was tried in one setting is not offered again first, but stays open for another setting.
    done = {t.action: t.answer for t in tries}
    fresh = [a for a in actions_of(case) if a.code not in done]
    ranked = next_actions(
        symptom.suspects, case.now, fresh, trust, CONSERVED if case.unit.approach == Approach.CONSERVE else 1.0
    )
    gain = worth_of_repair(case.unit)
    said = verdict(symptom.suspects, case.now, ranked[0] if ranked else None, float(shop.settings().labour_rate), gain)
    bars = [Bar(s, p) for s, p in zip(symptom.suspects, case.now, strict=True)]
    offered = tuple(
        Offered(
            n,
            tuple((k, g) for k, g in shelf if k.stands_in == n.action.needs and n.action.needs),
            done.get(n.action.code, ""),
        )
        for n in ranked
    )
    return CaseView(case, tuple(sorted(bars, key=lambda b: -b.chance)), offered, said, tries)


def actions_of(case: FaultCase) -> tuple[Action, ...]:
    """What can be tried: the library's, or for a short the loads that come nearest to half and each by itself."""
    symptom = BY_CODE[case.symptom]
    if symptom is not SHORT:
        return symptom.actions
    now = dict(zip((s.code for s in symptom.suspects), case.now, strict=True))
    alive = {load: p for load, p in now.items() if p > 0.01}
    half = halving(alive)
    return (off_load(half), *(off_load((load,)) for load in alive if (load,) != half))


def worth_of_repair(unit: Unit) -> float:
    """What a repair gains: a working one's price less that of one sold as it is; 0 when it is not ours to sell."""
    weighed = weigh(list(with_facts(Unit.objects.filter(pk=unit.pk))))
    if not weighed:
        return 0.0 if unit.stage in GONE else float("inf")
    prices = weighed[0].facts.prices
    return max(0.0, prices.working - prices.untested)


def known_good_shelf() -> list[tuple[Stocked, KnownGood]]:
    """Every known-good part with how far its word counts today: one query."""
    today = clock.today()
    return [
        (row, KnownGood((today - row.verified_on).days if row.verified_on else None, row.uses))
        for row in Stocked.objects.all()
    ]


def _best_trust(shelf: list[tuple[Stocked, KnownGood]], needs: str) -> float:
    return max((good.trust for row, good in shelf if row.stands_in == needs), default=1.0)


@transaction.atomic
def record_try(
    person: Person, case: FaultCase, action: str, yes: bool, setting: str = "", known_good: Stocked | None = None
) -> Try:
    """What an action answered: the suspects move by Bayes' theorem, and the try stays in the log with its setting."""
    require(person, Role.TECHNICIAN, to="look for a fault")
    case = FaultCase.objects.select_for_update().select_related("unit").get(pk=case.pk)
    if case.closed_at:
        raise Refused("This fault is closed. Open another one.")
    symptom = BY_CODE[case.symptom]
    chosen = next((a for a in actions_of(case) if a.code == action), None)
    if chosen is None:
        raise Refused("That is nothing to try here.")
    before = case.tries.filter(action=action, setting=setting[:120]).first()
    if before:
        raise Refused(f"Already tried with this setting: {before.answer}. Say what is different this time.", "setting")
    trust = 1.0
    if known_good is not None:
        if known_good.stands_in != chosen.needs:
            raise Refused(f"{known_good.name} does not stand in for that.")
        trust = KnownGood(
            (clock.today() - known_good.verified_on).days if known_good.verified_on else None, known_good.uses
        ).trust
        Stocked.objects.filter(pk=known_good.pk).update(uses=F("uses") + 1)
    now = after(symptom.suspects, case.now, chosen, yes, trust)
    FaultCase.objects.filter(pk=case.pk).update(now=list(now))
    answer = chosen.yes if yes else chosen.no
    tried = Try.objects.create(
        case=case,
        action=chosen.code,
        words=chosen.words[:160],
        yes=yes,
        answer=answer,
        setting=setting[:120],
        known_good=known_good,
        trust=trust,
        after=list(now),
        when=clock.now(),
        who=person,
    )
    history.record(person, UNIT, case.unit_id, f"Tried: {chosen.words}: {answer}")
    return tried


@transaction.atomic
def close_case(person: Person, case: FaultCase, cause: str, cause_words: str, fix: str) -> None:
    """What it was, and what was done. The fix is provisional until it is confirmed from cold and closed up."""
    require(person, Role.TECHNICIAN, to="close a fault")
    case = FaultCase.objects.select_for_update().select_related("unit").get(pk=case.pk)
    if case.closed_at:
        raise Refused("This fault is closed already.")
    codes = {s.code for s in BY_CODE[case.symptom].suspects}
    if cause and cause not in codes:
        raise Refused("Choose what it was, or leave it at “something else”.", "cause")
    if not cause and not cause_words:
        raise Refused("Say in a few words what it was.", "cause_words")
    FaultCase.objects.filter(pk=case.pk).update(
        cause=cause, cause_words=cause_words[:160], fix=fix[:160], closed_at=clock.now(), open_for=None
    )
    was = next((s.words for s in BY_CODE[case.symptom].suspects if s.code == cause), "") or cause_words
    history.record(person, UNIT, case.unit_id, f"Fault found: {was}{'; ' + fix if fix else '; not repaired'}")
    stages.refresh(case.unit)


def trials_of(unit: Unit) -> list[Trial]:
    """Every start of the unit in the order of time."""
    return [_trial(start) for start in unit.starts.all()]


def _trial(start: StartTrial) -> Trial:
    flags = {c for c, there in ((Condition.COLD, start.cold), (Condition.CLOSED, start.closed)) if there}
    return Trial(start.when, frozenset(flags), start.passed)


def fixes_of(unit: Unit, trials: list[Trial]) -> list[tuple[FaultCase, FixStanding]]:
    """Every fix made on the unit and where it stands."""
    closed = unit.faults.filter(closed_at__isnull=False).exclude(fix="")
    return [(case, fix_standing(case.closed_at, trials)) for case in closed]


def hangs_on(trials: list[Trial]) -> str:
    return depends_on(trials)


@stages.register
def fault_stage_facts(units: list[Unit]) -> dict[int, dict]:
    """A fault that is looked for, or a fix that failed again, wants a decision: three queries for all."""
    ids = [unit.pk for unit in units]
    fixed: dict[int, list[FaultCase]] = {}
    facts = {
        case.unit_id: {"failed": [f"fault: {case.get_symptom_display()}"]}
        for case in FaultCase.objects.filter(open_for__in=ids)
    }
    for case in FaultCase.objects.filter(unit_id__in=ids, closed_at__isnull=False).exclude(fix=""):
        fixed.setdefault(case.unit_id, []).append(case)
    if not fixed:
        return facts
    trials: dict[int, list[Trial]] = {}
    for start in StartTrial.objects.filter(unit_id__in=list(fixed)):
        trials.setdefault(start.unit_id, []).append(_trial(start))
    for unit_id, cases in fixed.items():
        last = cases[-1]
        if fix_standing(last.closed_at, trials.get(unit_id, [])).fix is Fix.FAILED:
            facts[unit_id] = {"failed": [f"the fix did not hold: {last.fix}"]}
    return facts


def unconfirmed(unit: Unit) -> int:
    """How many fixes on the unit are not confirmed yet."""
    return sum(standing.fix is not Fix.CONFIRMED for _, standing in fixes_of(unit, trials_of(unit)))


@transaction.atomic
def shelve(person: Person, data: dict) -> Stocked:
    """Put a known-good part, fixture or test machine on the shelf."""
    require(person, Role.TECHNICIAN, to="change the known-good shelf")
    return Stocked.objects.create(**data)


@transaction.atomic
def verify(person: Person, row: Stocked) -> None:
    """It was shown to be good today; its uses count anew."""
    require(person, Role.TECHNICIAN, to="change the known-good shelf")
    Stocked.objects.filter(pk=row.pk).update(verified_on=clock.today(), uses=0)
