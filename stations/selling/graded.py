"""Whether a grade that was given still holds: what happened since, and what the record gives by now."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields, replace
from datetime import datetime
from typing import Any

from core.flow.facts import FlowFacts
from core.selling.grade import GradeEvidence, outdated
from core.workshop.jobs import NEEDS_RETEST
from stations.bench.fixes import unconfirmed_fixes
from stations.bench.models import FaultCase, PowerStop, StartTrial, TestRun
from stations.common import clock
from stations.common.words import lower_first
from stations.selling.models import UnitGrade
from stations.units.models import Content, Finding, Unit
from stations.units.selectors import completeness_of, cosmetics_of
from stations.workshop.models import Job


@dataclass(frozen=True)
class Fixes:
    """What was mended and does not count as mended yet, in words, by unit."""

    temporary: Mapping[int, list[str]]
    unconfirmed: Mapping[int, list[str]]


def fixes_of(units: list[Unit]) -> Fixes:
    """Three queries for all."""
    temporary: dict[int, list[str]] = defaultdict(list)
    rows = Job.objects.temporary_open().filter(unit_id__in=[unit.pk for unit in units])
    for unit_id, title in rows.values_list("unit_id", "title"):
        temporary[unit_id].append(lower_first(title))
    return Fixes(temporary, unconfirmed_fixes(units))


def besides_the_run(units: list[Unit], told: Mapping[int, FlowFacts], fixes: Fixes) -> dict[int, dict[str, Any]]:
    """The evidence for grades that no test run holds, by unit, as fields of GradeEvidence: two queries for all.
    `told` by bench and workshop."""
    ids = [unit.pk for unit in units]
    contents: dict[int, list[Content]] = defaultdict(list)
    for content in Content.objects.filter(unit_id__in=ids):
        contents[content.unit_id].append(content)
    findings: dict[int, list[Finding]] = defaultdict(list)
    for finding in Finding.objects.filter(unit_id__in=ids):
        findings[finding.unit_id].append(finding)
    found = {}
    for unit in units:
        bench, workshop = told[unit.pk].bench, told[unit.pk].workshop
        there = completeness_of(contents[unit.pk])
        found[unit.pk] = {
            "cosmetics": cosmetics_of(findings[unit.pk]).score if unit.looked_over_at else None,
            "completeness": there.percent,
            "not_original": len(there.not_original),
            "copies": there.copies,
            # Of what was never tested nothing was proven before.
            "not_proven": tuple(bench.not_proven) if bench.started else (),
            "worked_since": (*bench.mended, *workshop.not_proven) if bench.started else (),
            "temporary_fixes": len(fixes.temporary.get(unit.pk, ())),
            "unconfirmed_fixes": len(fixes.unconfirmed.get(unit.pk, ())),
            "donor": unit.approach == "donor",
        }
    return found


def to_keep(evidence: GradeEvidence) -> dict[str, Any]:
    """The evidence as plain values, beside the grade that rests on it."""
    return asdict(evidence)


def _kept(evidence: Mapping[str, Any]) -> GradeEvidence:
    """As it was kept; what counts no more today is left out."""
    counts = {one.name for one in fields(GradeEvidence)}
    kept: dict[str, Any] = {
        name: tuple(found) if isinstance(found, list) else found for name, found in evidence.items() if name in counts
    }
    return GradeEvidence(**kept)


def since_graded(
    units: list[Unit], grades: Mapping[int, UnitGrade], told: Mapping[int, FlowFacts], fixes: Fixes
) -> dict[int, str]:
    """Of graded units why their grades hold no longer, in words, by id: eight queries, none where none is graded.

    A new test, fault, start or finding wants another look, whatever comes of it; all else counts where the record gives
    another grade by it. What a grade rested on is not known of the oldest.
    """
    found = _happened({unit_id: row.when for unit_id, row in grades.items()})
    known = [unit for unit in units if unit.pk in grades and unit.pk not in found and grades[unit.pk].evidence]
    for unit_id, now in (besides_the_run(known, told, fixes) if known else {}).items():
        given = _kept(grades[unit_id].evidence)
        if words := outdated(given, replace(given, **now)):
            found[unit_id] = words
    return found


def _happened(given: Mapping[int, datetime]) -> dict[int, str]:
    """What happened to graded units after their grades were given, by id, that the grades do not know: six queries."""
    if not given:
        return {}
    found: dict[int, tuple] = {}

    def note(unit_id: int, when, words: str) -> None:
        if when and unit_id in given and when > given[unit_id] and (unit_id not in found or when > found[unit_id][0]):
            found[unit_id] = (when, words)

    for start in StartTrial.objects.filter(unit_id__in=given, passed=False):
        note(start.unit_id, start.when, f"a start failed on {clock.day_of(start.when):%d %b}")
    for case in FaultCase.objects.filter(unit_id__in=given):
        note(case.unit_id, case.opened_at, f"a fault was opened on {clock.day_of(case.opened_at):%d %b}")
    for stop in PowerStop.objects.filter(unit_id__in=given):
        note(stop.unit_id, stop.when, f"it was stopped on {clock.day_of(stop.when):%d %b}")
    for run in TestRun.objects.filter(unit_id__in=given):
        note(run.unit_id, run.started_at, f"test run {run.number} on {clock.day_of(run.started_at):%d %b}")
    for finding in Finding.objects.filter(unit_id__in=given):
        words = f"{finding.get_kind_display()} was found on {clock.day_of(finding.seen_at):%d %b}"
        note(finding.unit_id, finding.seen_at, words)
    for job in Job.objects.was_done().filter(unit_id__in=given, kind__in=NEEDS_RETEST):
        if job.done_at:
            note(job.unit_id, job.done_at, f"{lower_first(job.title)} on {clock.day_of(job.done_at):%d %b}")
    return {unit_id: words for unit_id, (_, words) in found.items()}
