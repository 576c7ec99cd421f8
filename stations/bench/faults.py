"""Finding a fault: open a case from its symptom, try what tells most, log every try, close it with what it was."""

from collections import Counter
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.db.models import F, Max

from core.bench import codebook
from core.bench.assurance import Fix
from core.bench.checks import BenchFacts
from core.bench.fault_library import BY_CODE, LOADS, SHORT, Symptom, load_action, near_tube, off_load, symptoms_for
from core.bench.known import SLOWER, Known, from_clashes, from_earlier, from_steps
from core.bench.suspects import (
    MEND,
    POINTS,
    UNVERIFIED,
    Action,
    Suspect,
    after,
    by_itself,
    mending,
    pointed,
    priors,
    splits,
)
from stations.bench import fixes
from stations.bench.benchmarks import benchmarks_of
from stations.bench.library import COMES_WITH
from stations.bench.models import FaultCase, StepResult, Try
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock import shelf
from stations.stock.models import KnownGood as Stocked
from stations.units import stages
from stations.units.as_it_is import bench_facts, fails_in
from stations.units.fitting import clashes_in, machine_of
from stations.units.models import Finding, Unit

BY_ITSELF = "went away by itself"
MOST_SUSPECTS = 20
UNIT = HistoryEntry.Subject.UNIT


@transaction.atomic
def open_case(person: Person, unit: Unit, symptom: str, words: str = "", family: str = "", code: str = "") -> FaultCase:
    """Start from a symptom, and from all that is known: steps, findings, what is missing, earlier faults, benchmarks.

    A beep or code raises its suspects; which firmware it is must be said, not assumed.
    """
    require(person, "look for a fault")
    unit = lock_row(Unit.objects.select_related("model"), unit)
    if unit.closed_to_work:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: there is no fault to find here.")
    if unit.assessed_at is None:
        raise Refused("Intake is not finished. Don’t power it yet: finish intake first.")
    facts = bench_facts(unit)
    known = {s.code: s for s in symptoms_for(facts)}.get(symptom)
    if known is None:
        raise Refused("Choose the symptom.", "symptom")
    if FaultCase.objects.filter(open_for=unit).exists():
        raise Refused("A fault is being looked for already. Go on with that one.")
    said = known_of(unit)
    closed = fixes.causes_found(symptom)
    now = priors(known.suspects, _signs(unit, facts), closed, evidence=tuple(one.says for one in said))
    if code:
        now = _by_code(known, now, family, code)
    codes = {suspect.code for suspect in known.suspects}
    case = FaultCase.objects.create(
        unit=unit,
        symptom=symptom,
        words=within(words, 160),
        family=family,
        code=within(code.strip(), 12, "code"),
        suspects=[[s.code, s.words] for s in known.suspects],
        start=list(now),
        known=[one.words for one in said if codes & set(one.says)],
        now=list(now),
        opened_at=clock.now(),
        opened_by=person,
        open_for=unit,
    )
    history.record(
        person, "bench.open_case", UNIT, unit.pk, f"Looking for a fault: {known.words}{'; ' + words if words else ''}"
    )
    stages.refresh(unit)
    return case


def known_of(unit: Unit) -> tuple[Known, ...]:
    """What the bench knows of a unit already: its newest results, earlier faults, benchmarks that came out slower.

    Steps from before the last repair are of another machine: what failed then says nothing now.
    """
    mended = unit.faults.filter(closed_at__isnull=False).exclude(fix="").aggregate(at=Max("closed_at"))["at"]
    newest: dict[str, StepResult] = {}
    for result in StepResult.objects.filter(run__unit=unit).order_by("id"):
        newest[result.code] = result
    outcomes = [
        (code, COMES_WITH[code].title, result.outcome)
        for code, result in newest.items()
        if code in COMES_WITH and not (result.outcome == "fail" and mended and result.when < mended)
    ]
    earlier = [
        (case.cause, case.was, status.fix is Fix.CONFIRMED)
        for case, status in fixes.fixes_of(unit, fixes.trials_of(unit))
    ]
    slower = [b for b in benchmarks_of(unit) if b.compared and b.compared.verdict == "slower" and not b.compared.few]
    benchmarks = [Known(f"slower than before: {b.name}", SLOWER) for b in slower]
    weak = [
        Known(f"known to fail: {one.words}", {one.weakness.suspect: float(one.weakness.factor)})
        for one in fails_in(unit)
        if one.surely and one.weakness.suspect
    ]
    clashes = from_clashes(clashes_in(machine_of(unit)))
    return (*from_steps(outcomes), *from_earlier(earlier), *benchmarks, *weak, *clashes)


def open_one(unit: Unit) -> FaultCase:
    """The fault that is being looked for. Raises Refused when it was closed meanwhile, perhaps by somebody else."""
    case = FaultCase.objects.select_related("unit").filter(open_for=unit).first()
    if case is None:
        raise Refused("No fault is being looked for here any more.")
    return case


def _signs(unit: Unit, facts: BenchFacts) -> Counter:
    """What raises suspects: kinds of open findings, things that are missing, a switch that needs its cell."""
    kinds = unit.findings.filter(status=Finding.Status.OPEN).values_list("kind", flat=True)
    signs = Counter([*kinds, *(f"missing {name}" for name in facts.missing)])
    if facts.keyboard is False:
        signs["missing keyboard"] += 1
    if facts.needs_cell:
        signs["needscell"] += 1
    return signs


def _by_code(symptom: Symptom, now: tuple[float, ...], family: str, code: str) -> tuple[float, ...]:
    if family not in codebook.BY_CODE:
        raise Refused("The same beep means different things: say which firmware it is.", "family")
    meaning = codebook.look_up(family, code)
    if meaning is None:
        raise Refused("The book does not know this code for this firmware. Leave it empty to go on without.", "code")
    raised = [p * meaning.raises.get(s.code, 1.0) for p, s in zip(now, symptom.suspects, strict=True)]
    return tuple(p / sum(raised) for p in raised)


def suspects_of(case: FaultCase) -> tuple[Suspect, ...]:
    """Whom this case suspects, in the order of its odds; those the shop added itself at the end."""
    by_code = {s.code: s for s in BY_CODE[case.symptom].suspects}
    return tuple(by_code.get(code, Suspect(code, words, 1.0)) for code, words in case.suspect_words.items())


def actions_of(case: FaultCase) -> tuple[Action, ...]:
    """What can be tried on this unit: the library's, or for a short the loads by halves and each by itself."""
    symptom = BY_CODE[case.symptom]
    if symptom is not SHORT:
        return symptom.for_facts(bench_facts(case.unit)).actions
    now = dict(zip((s.code for s in suspects_of(case)), case.now, strict=True))
    alive = {load: p for load, p in now.items() if p > 0.01 and load in LOADS}
    return tuple(off_load(loads) for loads in splits(alive))


def _actions(case: FaultCase) -> dict[str, Action]:
    """Every action by its code, whether it is still proposed or not: two queries at most."""
    return {action.code: action for action in (*BY_CODE[case.symptom].actions, *actions_of(case))}


def _action(case: FaultCase, actions: dict[str, Action], code: str) -> Action | None:
    """The action of that code: a try can always be recorded, also when it left the list, and so can mending."""
    mended = {MEND + suspect.code: suspect for suspect in suspects_of(case)}.get(code)
    if mended:
        return mending_of(case, mended)
    return actions.get(code) or (load_action(code) if BY_CODE[case.symptom] is SHORT else None)


def mending_of(case: FaultCase, suspect: Suspect) -> Action:
    """Mending a suspect on this very unit, with its cautions."""
    return near_tube(mending(suspect)) if bench_facts(case.unit).tube else mending(suspect)


def _open(case: FaultCase) -> FaultCase:
    case = lock_row(FaultCase.objects.select_related("unit__model"), case, case.unit)
    if case.closed_at:
        raise Refused("This fault is closed. Open another one.")
    return case


@transaction.atomic
def record_try(
    person: Person,
    case: FaultCase,
    action: str,
    yes: bool | None,
    setting: str = "",
    known_good: Stocked | None = None,
    varied: str = "",
) -> Try:
    """What an action answered: the suspects move by Bayes' theorem, and the try stays in the log with its setting.

    `yes` None: it went away by itself. A part that is not from the shelf counts no more than one never verified.
    """
    require(person, "look for a fault")
    case = _open(case)
    chosen = _action(case, _actions(case), action)
    if chosen is None:
        raise Refused("That is nothing to try here.")
    before = case.tries.filter(action=action, setting=setting, withdrawn_at=None).first()
    if before:
        raise Refused(f"Already tried with this setting: {before.answer}. Say what is different this time.", "setting")
    trust = UNVERIFIED if chosen.needs else 1.0
    if known_good is not None:
        if known_good.stands_in != chosen.needs:
            raise Refused(f"{known_good.name} does not stand in for that.")
        if not known_good.in_use:
            raise Refused(f"{known_good.name} is not on the shelf any more.")
        if known_good.bad_since:
            raise Refused(f"{known_good.name} was found bad: it stands in for nothing.")
        trust = shelf.trust_of(known_good).trust
        Stocked.objects.filter(pk=known_good.pk).update(uses=F("uses") + 1)
    answer = {True: chosen.yes, False: chosen.no, None: BY_ITSELF}[yes]
    return _log(
        person,
        case,
        action=chosen.code,
        words=chosen.words,
        yes=yes,
        answer=answer,
        setting=within(setting, 120, "setting"),
        varied=within(varied, 120, "varied"),
        known_good=known_good,
        trust=trust,
    )


@transaction.atomic
def not_tried(person: Person, tried: Try, why: str) -> None:
    """A wrong answer was pressed, or it was another machine: it counts no more, and the odds are worked out anew."""
    require(person, "look for a fault")
    case = _open(tried.case)
    why = reason(why)
    if not Try.objects.filter(pk=tried.pk, withdrawn_at=None).update(withdrawn_at=clock.now(), withdrawn_why=why):
        raise Refused("It counts no more already.")
    _replay(case)
    words = f"Not so: {tried.words}: {tried.answer}; {why}"
    history.record(person, "bench.not_tried", UNIT, case.unit_id, words, tried=tried.pk, why=why)


@dataclass(frozen=True)
class OwnTry:
    """Something tried that the library has not: what, what it answered, what was varied and how all else was set.

    It may point at a suspect or away from it, strongly or weakly; `new_suspect` adds a cause of one's own.
    """

    words: str
    answer: str
    varied: str = ""
    setting: str = ""
    points_at: str = ""
    points_how: str = ""
    points_away: bool = False
    new_suspect: str = ""


@transaction.atomic
def record_own(person: Person, case: FaultCase, tried: OwnTry) -> Try:
    """Keep something tried that the library has not."""
    require(person, "look for a fault")
    case = _open(case)
    if not tried.words:
        raise Refused("Say what was tried.", "words")
    if not tried.answer:
        raise Refused("Say what came of it.", "answer")
    points_at, how = tried.points_at, tried.points_how
    if tried.new_suspect:
        points_at = _add_suspect(case, tried.new_suspect)
    if points_at and points_at not in case.suspect_words:
        raise Refused("Choose one of the suspects, or none.", "points_at")
    if points_at and how not in POINTS:
        raise Refused("How strongly does it say so?", "points_how")
    return _log(
        person,
        case,
        words=within(tried.words, 160, "words"),
        answer=within(tried.answer, 160, "answer"),
        setting=within(tried.setting, 120, "setting"),
        varied=within(tried.varied, 120, "varied"),
        points_at=points_at,
        points_how=how if points_at else "",
        points_away=bool(tried.points_away) and bool(points_at),
    )


def _add_suspect(case: FaultCase, words: str) -> str:
    """A cause of one's own joins the suspects, at the share of one among all; answers its code."""
    suspects = list(case.suspect_words.items())
    for code, known in suspects:
        if known.lower() == words.lower():
            return code
    if len(suspects) >= MOST_SUSPECTS:
        raise Refused(f"{MOST_SUSPECTS} suspects at most. Close the fault with what it was, in words.", "new_suspect")
    code = f"own-{len(suspects) + 1}"
    share = 1 / (len(suspects) + 1)
    start = [p * (1 - share) for p in (case.start or case.now)] + [share]
    case.suspects, case.start = [*suspects, [code, within(words, 160, "new_suspect")]], start
    FaultCase.objects.filter(pk=case.pk).update(suspects=case.suspects, start=start)
    _replay(case)
    return code


def _log(person: Person, case: FaultCase, **data) -> Try:
    tried = Try.objects.create(case=case, after=[], when=clock.now(), who=person, **data)
    _replay(case)
    tried.refresh_from_db()
    history.record(person, "bench.log", UNIT, case.unit_id, f"Tried: {tried.words}: {tried.answer}")
    return tried


def _replay(case: FaultCase) -> None:
    """Work the odds out anew from where the case began, with every try that still counts; each keeps where it led."""
    suspects, actions = suspects_of(case), _actions(case)
    now = tuple(case.start or priors(suspects))
    for tried in case.tries.order_by("id"):
        if tried.withdrawn_at is None:
            now = _after(case, suspects, actions, now, tried)
        if tried.after != list(now):
            Try.objects.filter(pk=tried.pk).update(after=list(now))
    case.now = list(now)
    FaultCase.objects.filter(pk=case.pk).update(now=case.now)


def _after(
    case: FaultCase,
    suspects: tuple[Suspect, ...],
    actions: dict[str, Action],
    now: tuple[float, ...],
    tried: Try,
) -> tuple[float, ...]:
    if tried.action and tried.yes is None:
        return by_itself(suspects, now)
    if tried.action and tried.yes is not None:
        action = _action(case, actions, tried.action)
        return after(suspects, now, action, tried.yes, tried.trust) if action else now
    if tried.points_at:
        return pointed(suspects, now, tried.points_at, tried.points_how, tried.points_away)
    return now


@transaction.atomic
def close_case(person: Person, case: FaultCase, cause: str, cause_words: str, fix: str) -> None:
    """What it was, and what was done. The fix is provisional until it is confirmed from cold and closed up."""
    require(person, "close a fault")
    case = lock_row(FaultCase.objects.select_related("unit"), case, case.unit)
    if case.closed_at:
        raise Refused("This fault is closed already.")
    words = case.suspect_words
    if cause and cause not in words:
        raise Refused("Choose what it was, or leave it at “something else”.", "cause")
    if not cause and not cause_words:
        raise Refused("Say in a few words what it was.", "cause_words")
    FaultCase.objects.filter(pk=case.pk).update(
        cause=cause,
        cause_words=within(cause_words, 160, "cause_words"),
        fix=within(fix, 160, "fix"),
        closed_at=clock.now(),
        open_for=None,
    )
    was = words.get(cause, "") or cause_words
    history.record(
        person,
        "bench.close_case",
        UNIT,
        case.unit_id,
        f"Fault found: {was}{'; ' + fix if fix else '; not repaired'}",
        case=case.pk,
        cause=cause,
        fix=fix,
    )
    stages.refresh(case.unit)


@transaction.atomic
def reopen_case(person: Person, case: FaultCase, why: str) -> None:
    """It was closed by mistake, or was something else: it is looked for again, from where its tries led."""
    require(person, "close a fault")
    case = lock_row(FaultCase.objects.select_related("unit__model"), case, case.unit)
    if case.closed_at is None:
        raise Refused("This fault is being looked for.")
    if case.unit.closed_to_work:
        raise Refused(f"{case.unit.tag} is {case.unit.get_stage_display()}: there is no fault to find here.")
    if FaultCase.objects.filter(open_for=case.unit).exists():
        raise Refused("Another fault is being looked for. Close that one first.")
    why = reason(why)
    again = {"closed_at": None, "open_for": case.unit, "cause": "", "cause_words": "", "fix": ""}
    FaultCase.objects.filter(pk=case.pk).update(**again)
    _replay(case)
    words = f"Not found after all: {case.get_symptom_display()}, said to be {case.was}; {why}"
    history.record(person, "bench.reopen_case", UNIT, case.unit_id, words, case=case.pk, why=why)
    stages.refresh(case.unit)


def tries_withdrawn(person: Person, row: Stocked, since: datetime | None, why: str) -> list[str]:
    """Every try that rested on it no longer counts: open faults are worked out anew, closed ones keep their log,
    marked."""
    rested = Try.objects.filter(known_good=row, withdrawn_at=None).select_related("case__unit__model")
    if since is not None:
        rested = rested.filter(when__gte=since)
    cases = {tried.case_id: tried.case for tried in rested}
    found = [f"“{tried.words}” on {tried.case.unit.tag}" for tried in rested]
    Try.objects.filter(pk__in=[tried.pk for tried in rested]).update(withdrawn_at=clock.now(), withdrawn_why=why)
    for case in cases.values():
        if case.closed_at is None:
            _replay(case)
        words = f"{row.name} was found bad: what was tried with it is withdrawn"
        history.record(person, "bench.tries_withdrawn", UNIT, case.unit_id, words)
    return found
