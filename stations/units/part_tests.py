"""Tests of a part by itself, and what they correct: a faulty one found good, a good one found bad."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal

from django.db import transaction

from core.bench.part_checks import checks_for, figure_words, may_be_fake, outcome
from core.stock.parts import Condition
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock.models import KnownGood
from stations.units import stages
from stations.units.models import Part, PartTest, Unit
from stations.units.parts import hold_part

PART = HistoryEntry.Subject.PART


@dataclass(frozen=True)
class Seen:
    """What was seen of a part by itself: on which fixture or in which machine, each check by its code (None: not looked
    at) with what was read, and perhaps a figure with what such a part should give."""

    passed: Mapping[str, bool | None]
    values: Mapping[str, str] = field(default_factory=dict)
    fixture: KnownGood | None = None
    in_unit: Unit | None = None
    words: str = ""
    figure: str = ""
    measured: Decimal | None = None
    should_give: Decimal | None = None


@dataclass(frozen=True)
class Tested:
    """What came of it: the test, and what rested on the opposite and is to be looked at again."""

    test: PartTest
    rested: tuple[str, ...] = ()


@transaction.atomic
def test_part(person: Person, part: Part, seen: Seen) -> Tested:
    """Record a test: a good part is tested, a bad one faulty, whatever it was before; the record of before is
    overruled, never removed."""
    require(person, "test a part")
    part = hold_part(part)
    if part.gone_at:
        raise Refused(f"It is gone: {part.gone_words}.")
    if seen.fixture and seen.fixture.bad_since:
        raise Refused(f"{seen.fixture.name} was found bad: it proves nothing.", "fixture")
    if (seen.measured is None) != (seen.should_give is None) or (seen.measured is not None and not seen.figure):
        raise Refused("A figure is what was measured, how much, and how much it should be: all three.", "figure")
    if seen.should_give is not None and seen.should_give <= 0:
        raise Refused("What it should give is above 0.", "should_give")
    checks = checks_for(part.is_what)
    good = outcome(seen.passed, checks)
    if good is None and True not in seen.passed.values():
        raise Refused("Nothing was looked at: say of one check at least what came of it.")
    results = {
        check.code: {"passed": seen.passed.get(check.code), "value": seen.values.get(check.code, "")[:40]}
        for check in checks
    }
    doubt = part.doubt
    if seen.measured is not None and seen.should_give and may_be_fake(seen.measured, seen.should_give):
        doubt = doubt or f"{seen.figure}: {figure_words(seen.measured, seen.should_give)}"[:160]
    test = PartTest.objects.create(
        part=part,
        fixture=seen.fixture,
        in_unit=seen.in_unit,
        results=results,
        good=good,
        figure=within(seen.figure, 40, "figure"),
        measured=seen.measured,
        should_give=seen.should_give,
        words=within(seen.words, 200, "words"),
        when=clock.now(),
        who=person,
    )
    rested: tuple[str, ...] = ()
    condition = part.condition
    if good is not None:
        condition = (Condition.TESTED if good else Condition.FAULTY).value
        rested = _overrule(part, test)
    Part.objects.filter(pk=part.pk).update(condition=condition, doubt=doubt)
    said = {True: "good", False: "bad", None: "not settled"}[good]
    where = f" on {seen.fixture.name}" if seen.fixture else f" in {seen.in_unit.tag}" if seen.in_unit else ""
    history.record(person, "units.test_part", PART, part.pk, f"Tested{where}: {said}", test=test.pk, good=good)
    if part.unit:
        stages.refresh(part.unit)
    return Tested(test, rested)


def _overrule(part: Part, test: PartTest) -> tuple[str, ...]:
    """Earlier tests that said the opposite count no more; answers what rested on them, in words."""
    earlier = part.tests.exclude(pk=test.pk).filter(good=not test.good, overruled="")
    first = earlier.order_by("id").first()
    if first is None:
        return ()
    earlier.update(overruled=f"found {'good' if test.good else 'bad'} on {clock.today():%d %b %Y}")
    counted = f"when it counted as {'bad' if test.good else 'good'}"
    return tuple(
        f"{move.to_unit.tag}: fitted {clock.day_of(move.when):%d %b %Y}, {counted}"
        for move in part.moves.filter(when__gte=first.when, to_unit__isnull=False).select_related("to_unit")
        if move.to_unit
    )


def tests_withdrawn(person: Person, fixture: KnownGood, since: datetime | None, why: str) -> list[str]:
    """Tests made on something that was found bad prove nothing: what was tested on it is not tested any more."""
    rows = PartTest.objects.filter(fixture=fixture, overruled="").select_related("part__unit")
    if since is not None:
        rows = rows.filter(when__gte=since)
    found = []
    for test in rows:
        PartTest.objects.filter(pk=test.pk).update(overruled=why[:160])
        if not test.part.tests.filter(overruled="", good__isnull=False).exists():
            Part.objects.filter(pk=test.part_id).update(condition=Condition.UNTESTED.value)
        history.record(person, "units.tests_withdrawn", PART, test.part_id, f"A test of it counts no more: {why}")
        found.append(f"the test of {test.part}")
        if test.part.unit:
            stages.refresh(test.part.unit)
    return found
