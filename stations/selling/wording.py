"""What a listing rests on: all that may be said of a unit, and all that must be; how it is worded; what has changed."""

import difflib
from collections.abc import Mapping
from dataclasses import dataclass, replace

from django.db import transaction

from core.bench.plan import Outcome
from core.catalogue.recipes import JobKind
from core.intake.condition import FindingKind
from core.machine.supply import Battery, Supply
from core.selling.disclosure import Disclosure, DisclosureKind, told, with_wordings
from core.selling.grade import Grade
from core.selling.listing import (
    NARRATIVE,
    STANDARD,
    ListingFacts,
    check_sentence,
    disclosures,
    narrative,
    write_title,
)
from core.selling.taking_back import What
from stations.bench.services import latest, steps_of
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.common.words import lower_first
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.selling import selectors
from stations.selling.market import UnitMarket, market_of
from stations.selling.models import Channel, DisclosureWording, Listing, ListingSentence
from stations.selling.selectors import TOLD
from stations.units import stages
from stations.units.as_it_is import facts_with, wanted_adapter
from stations.units.models import Finding, Unit, UnitFact
from stations.units.selectors import completeness_of, said_both_ways
from stations.workshop.attempts import installed
from stations.workshop.firmware import not_as_it_came
from stations.workshop.models import CarePlan, Job

# What a buyer is always told of a surface: it is not as it left the works.
_FINISH = {JobKind.WHITEN.value: "whitened", JobKind.REFINISH.value: "repainted or refinished"}


def _finish(unit: Unit, done: list[Job]) -> list[str]:
    """What of its surface and its parts is not as it left the works, by the jobs that were done. That a finish is the
    original one is told only where somebody looked, and nothing was done to it since: three queries."""
    surface = [job for job in done if job.kind in _FINISH]
    told = [f"{_FINISH[job.kind]}: {_told(job)}" for job in surface]
    said = unit.facts.filter(kind=UnitFact.Kind.FINISH).last()
    if said and not any(job.done_at > said.when for job in surface if job.done_at):
        told.append(said.reading)
    copies = CarePlan.objects.filter(job__in=done, reproduction=True)
    told += [f"reproduction: {part}" for part in copies.values_list("part", flat=True)]
    glued = unit.glue_watches.exclude(held=False)
    return told + [f"glued: {lower_first(words)}" for words in glued.values_list("words", flat=True)]


def _told(job: Job) -> str:
    """A job that was done, with what came of it where that may be told."""
    return f"{lower_first(job.title)}{f' ({job.result})' if job.result and job.publish_result else ''}"


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


def _seen(finding: Finding) -> str:
    return f"{finding.get_kind_display()} on the {finding.face}{', ' + finding.words if finding.words else ''}"


def _data(unit: Unit) -> list[str]:
    """How storage was sanitised, as it was recorded."""
    if unit.data_cleared_at is None:
        return []
    done = HistoryEntry.objects.filter(
        subject=HistoryEntry.Subject.UNIT, subject_id=unit.pk, action="intake.record_sanitisation"
    ).last()
    how = done.data.get("how") if done else ""
    return [f"its storage was sanitised{f' ({how})' if how else ''} on {clock.day_of(unit.data_cleared_at):%d %B %Y}"]


def listing_facts(unit: Unit) -> ListingFacts:
    """All that may be said of a unit, out of the record. What was typed for colleagues is told only where chosen."""
    contents = list(unit.contents.all())
    there = completeness_of(contents)
    done = [job for job in unit.jobs.all() if job.was_done]
    run = unit.runs.order_by("-number").first()
    results = latest(run) if run else {}
    steps = steps_of(run, results) if run else ()
    # A buyer cares what works, not how it was made safe to find out.
    titles = {step.check.code: step.check.title for step in steps if step.check.group in TOLD}

    there_still = [f for f in unit.findings.all() if f.status != Finding.Status.RESOLVED]
    # Nobody is told that something is there which is said to be gone as well.
    doubtful = said_both_ways(there_still, contents)
    kinds = {f.kind for f in there_still if f.status == Finding.Status.OPEN}
    facts = facts_with(unit, kinds, contents)

    def titled(*outcomes: str) -> list[str]:
        return [lower_first(titles[code]) for code, r in results.items() if r.outcome in outcomes and code in titles]

    return replace(
        selectors.offer_facts([unit])[unit.pk],
        year_text=unit.model.years if unit.model else "",
        tested_on=f"on {clock.day_of(run.started_at):%d %B %Y}" if run else "",
        passed=titled("pass"),
        failed=titled("fail"),
        skipped=titled("skip", "waived"),
        work_done=[_told(job) for job in done if job.kind not in _FINISH],
        finish=_finish(unit, done),
        installed=installed(unit),
        workarounds=[job.workaround for job in done if job.workaround],
        against_approach=[
            f"{lower_first(job.title)}, because {job.override_reason}" for job in done if job.override_reason
        ],
        originals=[
            f"what was replaced by “{lower_first(job.title)}”"
            for job in done
            if job.original_kept and job.original_goes
        ],
        findings=[_seen(f) for f in there_still if f.kind != FindingKind.REWORK],
        earlier_work=[_seen(f) for f in there_still if f.kind == FindingKind.REWORK],
        missing=there.missing,
        not_original=[*there.not_original, *not_as_it_came(unit)],
        in_the_box=[
            c.name for c in contents if c.presence in {"present", "not_original", "extra"} and c.name not in doubtful
        ],
        waived_times=selectors.waived_times(steps, results),
        completeness=there.percent,
        mains=unit.mains_words if facts.supply_here is not Supply.NONE else "",
        supply=unit.get_supply_display(),
        stopped=[f"{stop.get_what_display()}, since dealt with" for stop in unit.stops.exclude(ended_at=None)],
        originals_kept=[
            f"what was replaced by “{lower_first(job.title)}”"
            for job in done
            if job.original_kept and job.original_goes is False
        ],
        adapter=[adapter.words] if unit.supply_is_external and (adapter := wanted_adapter(unit)) else [],
        signal=list(dict.fromkeys(unit.facts.filter(kind=UnitFact.Kind.SIGNAL).values_list("reading", flat=True))),
        battery=[_BATTERY[facts.battery]] if facts.battery in _BATTERY else [],
        data=_data(unit),
        wordings={(w.kind, w.what): w.words for w in unit.wordings.all()},
    )


def sentences() -> dict[str, str]:
    """Every sentence of a listing by its code: the shop’s own where there is one. One query."""
    return {**STANDARD, **dict(ListingSentence.objects.values_list("code", "words"))}


def must_say(facts: ListingFacts) -> tuple[Disclosure, ...]:
    """All that must be said of a unit, as it is worded now."""
    return with_wordings(disclosures(facts), facts.wordings)


def said(facts: ListingFacts) -> tuple[str, ...]:
    """What must be said, as buyers read it."""
    return told(must_say(facts), sentences())


def market_now(unit: Unit, grade: Grade, channel: Channel | None, facts: ListingFacts | None = None) -> UnitMarket:
    """The market of a unit as it would be sold on a channel, with all that its buyer is told."""
    kinds = kinds_said(facts or listing_facts(unit))
    return market_of(unit, grade, channel, frozenset(kinds))


def kinds_said(facts: ListingFacts) -> list[str]:
    """Of which kinds something must be said."""
    return sorted({one.kind.value for one in disclosures(facts)})


def told_at_sale(unit: Unit, facts: ListingFacts) -> list[list[str]]:
    """What its buyer was told, what was shown to work and what was repaired, as [what, kind, words]: what a return is
    held against later, however the record reads then."""
    own = sentences()
    found = [
        [What.SAID, one.kind.value, one.worded or own[one.kind.value].replace("{things}", one.what)]
        for one in must_say(facts)
    ]
    report = selectors.report_of(unit)
    for step, result in report.lines if report else ():
        if result and result.outcome == Outcome.PASS:
            off = f" ± {result.uncertainty.normalize():f}" if result.uncertainty else ""
            read = f": {result.reading.normalize():f}{off} {result.reading_unit}" if result.reading is not None else ""
            found.append([What.PASSED, step.check.code, f"{lower_first(step.check.title)}{read}"])
    fixed = unit.faults.filter(closed_at__isnull=False).exclude(fix="")
    found += [[What.FIXED, str(case.pk), str(case.get_symptom_display())] for case in fixed]
    return [[str(part) for part in one] for one in found]


@dataclass(frozen=True)
class Changed:
    """A sentence that the record would word otherwise now; empty where there was or is none. `by_hand`: the seller
    wrote that part anew, so that it can’t be put right by itself."""

    code: str
    was: str
    now: str
    by_hand: bool


def changed(listing: Listing, facts: ListingFacts) -> list[Changed]:
    """What has changed in the record since the words were written."""
    if not listing.text or not listing.written:
        return []
    now, was = narrative(facts, sentences()), dict(listing.written)
    return [
        Changed(code, was.get(code, ""), now.get(code, ""), bool(was.get(code)) and was[code] not in listing.text)
        for code in NARRATIVE
        if was.get(code, "") != now.get(code, "")
    ]


def edits(listing: Listing) -> list[tuple[str, str]]:
    """What the seller made of the words as they were written: pieces, each “same”, “gone” or “new”."""
    before, after = "\n\n".join(listing.written.values()).split(), listing.text.split()
    found: list[tuple[str, str]] = []
    for what, a, b, c, d in difflib.SequenceMatcher(None, before, after, autojunk=False).get_opcodes():
        if what == "equal":
            found.append(("same", " ".join(before[a:b])))
        if what in {"delete", "replace"}:
            found.append(("gone", " ".join(before[a:b])))
        if what in {"insert", "replace"}:
            found.append(("new", " ".join(after[c:d])))
    return found if any(kind != "same" for kind, _ in found) else []


@transaction.atomic
def write_from_facts(person: Person, unit: Unit, listing: Listing) -> Listing:
    """Write title and text anew from the record."""
    require(person, "write a listing")
    stages.refuse_gone(unit, "what was said of it")
    facts = listing_facts(unit)
    parts = narrative(facts, sentences())
    title = write_title(facts, listing.channel.title_length)
    save_versioned(listing, listing.version, {"title": title, "text": "\n\n".join(parts.values()), "written": parts})
    unit_subject = HistoryEntry.Subject.UNIT
    history.record(person, "selling.write_from_facts", unit_subject, unit.pk, "Listing text written from the record")
    stages.refresh(unit)
    return listing


@transaction.atomic
def take_changes(person: Person, unit: Unit, listing: Listing) -> None:
    """Put into the words what has changed in the record; what the seller wrote anew stays."""
    require(person, "write a listing")
    stages.refuse_gone(unit, "what was said of it")
    facts, text = listing_facts(unit), listing.text
    for one in changed(listing, facts):
        if one.was and not one.by_hand:
            text = text.replace(one.was, one.now)
        elif one.now and not one.was:
            text = f"{text}\n\n{one.now}"
    text = "\n\n".join(part.strip() for part in text.split("\n\n") if part.strip())
    save_versioned(listing, listing.version, {"text": text, "written": narrative(facts, sentences())})
    words = "What changed in the record was put into the listing text"
    history.record(person, "selling.take_changes", HistoryEntry.Subject.UNIT, unit.pk, words)
    stages.refresh(unit)


@transaction.atomic
def word_anew(person: Person, unit: Unit, kind: str, what: str, words: str) -> None:
    """Choose the words for one thing that must be said; without words the standard ones are taken again."""
    require(person, "write a listing")
    stages.refuse_gone(unit, "what was said of it")
    words = within(" ".join(words.split()), 400, "words")
    raised = {(one.kind.value, one.what) for one in disclosures(listing_facts(unit))}
    if (kind, what) not in raised:
        raise Refused("The record does not say this any more, or says it otherwise. Look at it again.")
    within(what, 400, "words")
    if words and len(words) < 10:
        raise Refused("Say it in a sentence that a buyer understands, or leave the field empty.", "words")
    mine = [row for row in DisclosureWording.objects.filter(unit=unit, kind=kind) if row.what == what]
    if words == (mine[-1].words if mine else ""):
        return
    DisclosureWording.objects.filter(pk__in=[row.pk for row in mine]).delete()
    if words:
        DisclosureWording.objects.create(unit=unit, kind=kind, what=what, words=words, when=clock.now(), who=person)
    history.record(
        person,
        "selling.word_anew",
        HistoryEntry.Subject.UNIT,
        unit.pk,
        f"Worded for buyers: {words or 'as standard'} ({DisclosureKind(kind).label})"[:400],
    )
    stages.refresh(unit)


@transaction.atomic
def word_sentence(person: Person, code: str, words: str) -> None:
    """A sentence of every listing in the shop’s own words; without words the standard one is taken again."""
    require(person, "word a listing’s sentences")
    if code not in STANDARD:
        raise Refused("There is no such sentence.")
    words = " ".join(words.split())
    if (words or STANDARD[code]) == sentences()[code]:
        return
    # Every text that is out there may read otherwise now.
    Listing.objects.filter(status=Listing.Status.LIVE).update(looked_at=None)
    named = f"Sentence “{_about(code)}”"
    if not words or words == STANDARD[code]:
        ListingSentence.objects.filter(code=code).delete()
        history.record(person, "selling.word_sentence", HistoryEntry.Subject.SHOP, 0, f"{named}: the standard one")
        return
    if problem := check_sentence(code, words):
        raise Refused(problem, "words")
    history.record(person, "selling.word_sentence", HistoryEntry.Subject.SHOP, 0, f"{named}: {words}")
    ListingSentence.objects.update_or_create(code=code, defaults={"words": words})


def in_full(listing: Listing, facts: ListingFacts) -> str:
    """The words of a listing with all that must be said: what leaves the house."""
    return "\n\n".join([listing.text, *said(facts)])


def sentence_rows() -> list[tuple[str, str, str, str]]:
    """(code, what it is about, standard, the shop’s own or empty) of every sentence."""
    own: Mapping[str, str] = dict(ListingSentence.objects.values_list("code", "words"))
    return [(code, _about(code), words, own.get(code, "")) for code, words in STANDARD.items()]


def _about(code: str) -> str:
    return DisclosureKind(code).label if code in set(DisclosureKind) else code.replace("_", " ")
