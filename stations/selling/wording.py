"""How a listing is worded: what must be said of a unit, in which sentences; and what changed in the record since."""

import difflib
from collections.abc import Mapping
from dataclasses import dataclass

from django.db import transaction

from core.bench.plan import Outcome
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
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.common.words import lower_first
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.selling import selectors
from stations.selling.as_recorded import listing_facts
from stations.selling.market import UnitMarket, market_of
from stations.selling.models import Channel, DisclosureWording, Listing, ListingSentence
from stations.units import stages
from stations.units.models import Unit


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
