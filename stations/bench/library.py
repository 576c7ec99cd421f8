"""The checks in force: those the application comes with, and the shop's own laid over them."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from decimal import Decimal

from django.db import transaction

from core.bench.check_library import LIBRARY
from core.bench.checks import BenchFacts, Check, CheckKind, Group, Limits
from core.bench.conditions import ConditionError, holds
from core.bench.optional_checks import OPTIONAL
from core.machine.approach import Approach
from core.machine.casing import FormFactor
from core.machine.supply import Battery, Supply
from core.safety import Hazard
from stations.bench.models import BenchCheck
from stations.catalogue.models import MachineModel
from stations.catalogue.weaknesses import KnownToFail
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units import stages

CHECK = HistoryEntry.Subject.CHECK

COMES_WITH = {check.code: check for check in (*LIBRARY, *OPTIONAL)}
# Codes of the steps that are a machine's first power, and of those that discharge something, with what.
FIRST_POWER = {code for code, check in COMES_WITH.items() if check.first_power}
DISCHARGES = {code: check.discharges for code, check in COMES_WITH.items() if check.discharges}
RESTS = {check.code for check in OPTIONAL}
# Which values conditions may name.
KNOWN = {
    "supply": frozenset(Supply),
    "battery": frozenset(Battery),
    "form": frozenset(FormFactor),
    "approach": frozenset(Approach),
}


def library() -> tuple[Check, ...]:
    """Every check in force: one query. A row of the shop's takes the place of the check with its code."""
    rows = {row.code: row for row in BenchCheck.objects.select_related("model")}
    in_library = {check.code for check in LIBRARY}
    own = [_check(row) for code, row in rows.items() if row.active and code not in in_library]
    there = [
        _check(rows[c.code]) if c.code in rows else c for c in LIBRARY if c.code not in rows or rows[c.code].active
    ]
    return (*there, *own)


def looks_for_known(known: Iterable[KnownToFail]) -> tuple[Check, ...]:
    """A look for each thing that is known to go wrong with a unit or a part in it."""
    found: dict[int, list[KnownToFail]] = {}
    for one in known:
        if one.weakness.look_at:
            found.setdefault(one.weakness.pk, []).append(one)
    return tuple(
        Check(
            f"known-{pk}",
            Group.LOOK,
            f"Known to fail: {ones[0].weakness.what}"[:120],
            f"{ones[0].weakness.look_at}.",
            why="; ".join(dict.fromkeys(one.words for one in ones))
            + (f". Told by {ones[0].weakness.told_by}." if ones[0].weakness.told_by else "."),
            hazards=(Hazard.CHARGE, Hazard.STATIC),
            minutes=ones[0].weakness.minutes,
        )
        for pk, ones in found.items()
    )


def row_for(code: str) -> BenchCheck | None:
    """The shop's row for a check, not yet saved when there is none; None for a code nobody knows."""
    row = BenchCheck.objects.filter(code=code).first()
    check = COMES_WITH.get(code)
    if row or check is None:
        return row
    limits = check.limits
    return BenchCheck(
        code=check.code,
        group=check.group.value,
        title=check.title,
        instruction=check.instruction,
        why=check.why,
        caution=check.caution,
        when=check.when,
        kind=check.does.value,
        low=limits.low if limits else None,
        nominal=limits.nominal if limits else None,
        high=limits.high if limits else None,
        unit=limits.unit if limits else "",
        needs=check.needs,
        gate=check.gate,
        safety=check.safety,
        minutes=check.minutes,
        alone_minutes=check.alone_minutes,
        active=check.code not in RESTS,
    )


def resting() -> list[Check | BenchCheck]:
    """What is at hand and on no plan: retired by the shop, or never turned on."""
    rows = {row.code: row for row in BenchCheck.objects.all()}
    return [*(c for c in OPTIONAL if c.code not in rows), *(row for row in rows.values() if not row.active)]


def _check(row: BenchCheck) -> Check:
    """The shop's check; what comes with the application keeps its hazards, and what it rests on, whatever its words."""
    comes_with = COMES_WITH.get(row.code)
    limits = Limits(row.low, row.high, row.unit, row.nominal) if row.low is not None and row.high is not None else None
    bare = Check(row.code, Group(row.group), row.title, row.instruction)
    return replace(
        comes_with or bare,
        group=Group(row.group),
        title=row.title,
        instruction=row.instruction,
        when=row.when,
        caution=row.caution,
        limits=limits,
        gate=row.gate,
        safety=row.safety,
        minutes=row.minutes,
        alone_minutes=row.alone_minutes,
        why=row.why,
        needs=row.needs,
        kind=CheckKind(row.kind),
        for_model=str(row.model) if row.model else "",
    )


@dataclass(frozen=True)
class CheckDetails:
    """A check in the shop's words: for which machines (see core/bench/conditions), limits in `unit`, None where it has
    none; minutes of hands, and those it runs alone."""

    model: MachineModel | None
    group: str
    title: str
    instruction: str
    why: str
    caution: str
    when: str
    kind: str
    low: Decimal | None
    nominal: Decimal | None
    high: Decimal | None
    unit: str
    needs: str
    minutes: int
    alone_minutes: int
    gate: bool
    safety: bool
    active: bool


@transaction.atomic
def save_check(person: Person, code: str, seen_version: int, said: CheckDetails) -> BenchCheck:
    """Add a check, or put one in the shop's own words. What keeps people safe is never weakened."""
    require(person, "change the checks")
    try:
        holds(said.when, BenchFacts().named, KNOWN)
    except ConditionError as problem:
        raise Refused(str(problem), "when") from problem
    comes_with = COMES_WITH.get(code)
    if comes_with and comes_with.safety:
        for name, kept in (
            ("safety", said.safety),
            ("gate", said.gate or not comes_with.gate),
            ("active", said.active),
        ):
            if not kept:
                raise Refused("This check keeps people safe: it stays in use, a gate and a safety check.", name)
        if comes_with.caution and not said.caution:
            raise Refused("A safety check carries its caution.", "caution")
        if said.model:
            raise Refused("A safety check stays for the machines it is for.", "model")
        if said.when != comes_with.when:
            raise Refused("A safety check stays for the machines it is for.", "when")
    by_plate = comes_with and comes_with.plate
    if said.kind in {CheckKind.MEASURE, CheckKind.LOAD} and said.high is None and not by_plate:
        raise Refused("A step that measures has limits.", "high")
    if said.high is not None and not said.unit:
        raise Refused("In which unit? V, Ω, A, W, Hz.", "unit")
    row = BenchCheck.objects.filter(code=code).first()
    # One that comes with us becomes the shop's own by a change, not by a look.
    if comes_with and row is None and (as_it_is := row_for(code)) and not history.says_otherwise(as_it_is, vars(said)):
        return as_it_is
    if row is None:
        row = BenchCheck.objects.create(code=code, **vars(said))
        words = f"Check “{said.title}” {'put in our own words' if comes_with else 'added'}"
        history.record(person, "bench.save_check", CHECK, row.pk, words, code=code)
    else:
        history.changed(person, "bench.save_check", CHECK, row.pk, f"Check “{row.title}”", row, vars(said))
        save_versioned(row, seen_version, vars(said))
    stages.stand_anew()
    return row
