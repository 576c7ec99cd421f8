"""All that may be said of units, out of the record: what their listings rest on."""

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from core.catalogue.recipes import JobKind
from core.flow.facts import FlowFacts
from core.intake.condition import FindingKind
from core.machine.supply import Battery, Supply
from core.selling.listing import ListingFacts
from stations.common import clock
from stations.common.words import lower_first
from stations.people.models import HistoryEntry
from stations.selling import selectors
from stations.selling.selectors import TOLD, Tested
from stations.units.as_it_is import facts_with, wanted_adapter
from stations.units.models import Content, Finding, Unit, UnitFact
from stations.units.selectors import completeness_of, said_both_ways
from stations.workshop.attempts import installed_in
from stations.workshop.firmware import not_as_it_came
from stations.workshop.models import GlueWatch, Job

# What is read of each unit: whoever asks of several loads them with it, so that it is read for all at once.
READ = ("contents", "findings", "jobs", "stops", "facts", "wordings")

# What a buyer is always told of a surface: it is not as it left the works.
_FINISH = {JobKind.WHITEN.value: "whitened", JobKind.REFINISH.value: "repainted or refinished"}

# What a buyer is told of the cell; nothing where there is none and was none.
_BATTERY = {
    Battery.UNKNOWN: "whether there is a cell in it is not known",
    Battery.OUT: "taken out; it has to be fitted anew",
    Battery.NICD: "a rechargeable cell is in it, which can leak: have it looked at",
    Battery.LITHIUM: "a lithium cell is in it: it is sent, kept and discarded by local rules",
    Battery.BOTH: "a rechargeable pack is in it, which can leak: have it looked at; and a lithium cell, which is sent,"
    " kept and discarded by local rules",
    Battery.ALKALINE: "alkaline cells are in it, which can leak: take them out for storing",
}


def listing_facts(unit: Unit, tested: Tested | None = None, told: FlowFacts | None = None) -> ListingFacts:
    """All that may be said of a unit. What was typed for colleagues is told only where chosen. The newest run, and what
    was told before (`selectors.told_before`), where they were read already."""
    return listing_facts_of(
        [unit], None if tested is None else {unit.pk: tested}, None if told is None else {unit.pk: told}
    )[unit.pk]


def listing_facts_of(
    units: list[Unit],
    tested: Mapping[int, Tested] | None = None,
    told: Mapping[int, FlowFacts] | None = None,
) -> dict[int, ListingFacts]:
    """The same of several; loaded with READ, in a number of queries that does not grow with them."""
    tested = selectors.newest_runs(units) if tested is None else tested
    offered, besides = selectors.offer_facts(units, told), _besides(units)
    return {unit.pk: _recorded(unit, offered[unit.pk], tested[unit.pk], besides[unit.pk]) for unit in units}


@dataclass(frozen=True)
class _Besides:
    """What the record holds of a unit beside what READ names, in words."""

    installed: list[str]
    firmware: list[str]
    reproductions: list[str]
    glued: list[str]
    sanitised: str


def _besides(units: Sequence[Unit]) -> dict[int, _Besides]:
    """Seven queries for all."""
    installed, firmware, sanitised = installed_in(units), not_as_it_came(units), _sanitised(units)
    copies: dict[int, list[str]] = defaultdict(list)
    for job in Job.objects.was_done().filter(unit__in=units, care__reproduction=True).select_related("care"):
        copies[job.unit_id].append(f"reproduction: {job.care.part}")
    glued: dict[int, list[str]] = defaultdict(list)
    for watch in GlueWatch.objects.filter(unit__in=units).exclude(held=False):
        glued[watch.unit_id].append(f"glued: {lower_first(watch.words)}")
    return {
        one.pk: _Besides(installed[one.pk], firmware[one.pk], copies[one.pk], glued[one.pk], sanitised.get(one.pk, ""))
        for one in units
    }


def _sanitised(units: Sequence[Unit]) -> dict[int, str]:
    """How storage was sanitised, as it was recorded: one query, none where none was."""
    cleared = {unit.pk: unit.data_cleared_at for unit in units if unit.data_cleared_at}
    if not cleared:
        return {}
    done = HistoryEntry.objects.filter(
        subject=HistoryEntry.Subject.UNIT, subject_id__in=cleared, action="intake.record_sanitisation"
    )
    how = {entry.subject_id: entry.data.get("how") for entry in done.order_by("id")}
    return {
        unit_id: f"its storage was sanitised{f' ({how[unit_id]})' if how.get(unit_id) else ''}"
        f" on {clock.day_of(when):%d %B %Y}"
        for unit_id, when in cleared.items()
    }


def _recorded(unit: Unit, offered: ListingFacts, tested: Tested, besides: _Besides) -> ListingFacts:
    contents = list(unit.contents.all())
    there = completeness_of(contents)
    done = [job for job in unit.jobs.all() if job.was_done]
    results = tested.results
    # A buyer cares what works, not how it was made safe to find out.
    titles = {step.check.code: step.check.title for step in tested.steps if step.check.group in TOLD}

    there_still = [f for f in unit.findings.all() if f.status != Finding.Status.RESOLVED]
    # Nobody is told that something is there which is said to be gone as well.
    doubtful = said_both_ways(there_still, contents)
    kinds = {f.kind for f in there_still if f.status == Finding.Status.OPEN}
    facts, said = facts_with(unit, kinds, contents), list(unit.facts.all())

    def titled(*outcomes: str) -> list[str]:
        return [lower_first(titles[code]) for code, r in results.items() if r.outcome in outcomes and code in titles]

    return replace(
        offered,
        year_text=unit.model.years if unit.model else "",
        tested_on=f"on {clock.day_of(tested.run.started_at):%d %B %Y}" if tested.run else "",
        passed=titled("pass"),
        failed=titled("fail"),
        skipped=titled("skip", "waived"),
        work_done=[_told(job) for job in done if job.kind not in _FINISH],
        finish=[*_surface(done, said), *besides.reproductions, *besides.glued],
        installed=besides.installed,
        workarounds=[job.workaround for job in done if job.workaround],
        against_approach=[
            f"{lower_first(job.title)}, because {job.override_reason}" for job in done if job.override_reason
        ],
        originals=_originals(done, go=True),
        originals_kept=_originals(done, go=False),
        findings=[_seen(f) for f in there_still if f.kind != FindingKind.REWORK],
        earlier_work=[_seen(f) for f in there_still if f.kind == FindingKind.REWORK],
        missing=there.missing,
        not_original=[*there.not_original, *besides.firmware],
        in_the_box=_in_the_box(contents, doubtful),
        waived_times=selectors.waived_times(tested.steps, results),
        completeness=there.percent,
        mains=unit.mains_words if facts.supply_here is not Supply.NONE else "",
        supply=unit.get_supply_display(),
        stopped=[f"{stop.get_what_display()}, since dealt with" for stop in unit.stops.all() if stop.ended_at],
        adapter=[adapter.words] if unit.supply_is_external and (adapter := wanted_adapter(unit)) else [],
        signal=list(dict.fromkeys(fact.reading for fact in said if fact.kind == UnitFact.Kind.SIGNAL)),
        battery=[_BATTERY[facts.battery]] if facts.battery in _BATTERY else [],
        data=[besides.sanitised] if besides.sanitised else [],
        wordings={(w.kind, w.what): w.words for w in unit.wordings.all()},
    )


def _surface(done: Sequence[Job], said: Sequence[UnitFact]) -> list[str]:
    """What of its surface is not as it left the works, by the jobs that were done. That a finish is the original one is
    told only where somebody looked, and nothing was done to it since."""
    surface = [job for job in done if job.kind in _FINISH]
    told = [f"{_FINISH[job.kind]}: {_told(job)}" for job in surface]
    looked = next((fact for fact in reversed(said) if fact.kind == UnitFact.Kind.FINISH), None)
    if looked and not any(job.done_at > looked.when for job in surface if job.done_at):
        told.append(looked.reading)
    return told


def _originals(done: Sequence[Job], *, go: bool) -> list[str]:
    """Originals that were kept and go to the buyer, or stay here."""
    return [
        f"what was replaced by “{lower_first(job.title)}”"
        for job in done
        if job.original_kept and job.original_goes is go
    ]


def _in_the_box(contents: Sequence[Content], doubtful: Collection[str]) -> list[str]:
    return [c.name for c in contents if c.presence in {"present", "not_original", "extra"} and c.name not in doubtful]


def _told(job: Job) -> str:
    """A job that was done, with what came of it where that may be told."""
    return f"{lower_first(job.title)}{f' ({job.result})' if job.result and job.publish_result else ''}"


def _seen(finding: Finding) -> str:
    return f"{finding.get_kind_display()} on the {finding.face}{', ' + finding.words if finding.words else ''}"
