"""What a unit would be graded and fetch if its record were changed: by the rules and the comparables of today."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from core.intake.completeness import Completeness, Content, Presence, completeness
from core.intake.condition import Mark, cosmetic_score
from core.intake.triage import USUAL_COMPLETENESS
from core.selling.disclosure import DisclosureKind, said_after
from core.selling.grade import Grade, GradeEvidence, grade, tested
from core.selling.market import Comparable, Market, PriceBand, Subject
from core.workshop.upgrades.buyers import Sold
from core.workshop.worth import Changes, Priced

RETEST = "worked on since it was tested"


@dataclass(frozen=True)
class UnitAppraisal:
    """A unit's record as it is, by number where work can change it; `failed` are the codes of checks that failed,
    `unsafe` those of them that keep people safe, `stopped` whether it was unplugged for what it did, `faults` those
    that are looked for."""

    evidence: GradeEvidence
    contents: Mapping[int, Content]
    findings: Mapping[int, Mark]
    failed: frozenset[str]
    comparables: Sequence[Comparable]
    unsafe: frozenset[str] = frozenset()
    stopped: bool = False
    faults: frozenset[int] = frozenset()
    # Of the comparables with their features said: those, and to which buyer it went.
    told: Sequence[tuple[Comparable, frozenset[str], str]] = ()
    # What it has of what buyers look for; None while nobody said.
    features: frozenset[str] | None = None
    # Where it is to be sold; of which kinds its buyer is told something, and whether that of its defects stays when all
    # open findings are resolved.
    channel: str = ""
    said: frozenset[str] | None = None
    defects_stay: bool = False
    # Many sets of changes come to the same record: each record is graded and priced once.
    _priced: dict[tuple[object, ...], Priced | None] = field(default_factory=dict, init=False, compare=False)
    _bands: dict[tuple[Grade, int, frozenset[str] | None, bool], Priced | None] = field(
        default_factory=dict, init=False, compare=False
    )
    _looks: dict[frozenset[int], int] = field(default_factory=dict, init=False, compare=False)
    _there: dict[tuple[frozenset[int], frozenset[int]], Completeness] = field(
        default_factory=dict, init=False, compare=False
    )

    @cached_property
    def market(self) -> Market | None:
        """None where there is nothing to compare it with."""
        return Market(self.comparables) if self.comparables else None

    def band(self, graded: Grade, percent: int, said: frozenset[str] | None, faulty: bool) -> PriceBand | None:
        subject = Subject(graded, percent, self.features, self.channel, said, faulty)
        return self.market.band(subject) if self.market else None

    def sold(self) -> list[Sold]:
        """Sales with their features said, brought to the grade it has today; their features still in them."""
        if not self.told:
            return []
        graded, percent = grade(self.evidence).grade, self._percent(self.evidence)
        market = Market([replace(one, features=None) for one, _, _ in self.told])
        return [
            Sold(one.adjusted, features, one.weight, buyer)
            for one, (_, features, buyer) in zip(market.brought(Subject(graded, percent)), self.told, strict=True)
        ]

    def at(self, changes: Changes) -> Priced | None:
        """None where there is nothing to compare it with."""
        key = (
            self._cosmetics(changes.findings),
            self._completeness(changes.contents, changes.substituted),
            changes.passed & self.failed,
            len(changes.made_good),
            self.faults <= changes.faults,
            changes.worked,
            changes.tested,
            self.findings.keys() <= changes.findings,
        )
        if key not in self._priced:
            after = self.with_changes(changes)
            said, faulty = self._said(changes, after), not self.faults <= changes.faults
            self._priced[key] = self._price(grade(after).grade, self._percent(after), said, faulty)
        return self._priced[key]

    def _said(self, changes: Changes, after: GradeEvidence) -> frozenset[str] | None:
        """Of which kinds its buyer would be told something."""
        if self.said is None:
            return None
        gone = set()
        if self.findings.keys() <= changes.findings and not self.defects_stay:
            gone.add(DisclosureKind.DEFECT)
        if not self._completeness(changes.contents, changes.substituted).missing:
            gone.add(DisclosureKind.MISSING)
        return said_after(self.said - gone, self.evidence, after)

    def _price(self, graded: Grade, percent: int, said: frozenset[str] | None, faulty: bool) -> Priced | None:
        key = (graded, percent, said, faulty)
        if key not in self._bands:
            band = self.band(*key)
            priced = band and Priced(graded.label, band.low, band.likely, band.high, band.few)
            self._bands[key] = priced or None
        return self._bands[key]

    def _percent(self, evidence: GradeEvidence) -> int:
        return USUAL_COMPLETENESS if evidence.completeness is None else evidence.completeness

    def with_changes(self, changes: Changes) -> GradeEvidence:
        """The evidence as it would be: what nobody went through stays unknown."""
        was, there = self.evidence, self._completeness(changes.contents, changes.substituted)
        mended = len(changes.passed & self.failed)
        after = replace(
            was,
            cosmetics=None if was.cosmetics is None else self._cosmetics(changes.findings),
            completeness=there.percent,
            not_original=len(there.not_original),
            copies=there.copies,
            temporary_fixes=max(0, was.temporary_fixes - len(changes.made_good)),
            steps_failed=was.steps_failed - mended,
            steps_passed=was.steps_passed + mended,
            safety_failed=self.stopped or bool(self.unsafe - changes.passed),
            worked_since=(*was.worked_since, RETEST) if changes.worked and was.works_tried else was.worked_since,
        )
        if not changes.tested:
            return after
        return tested(after, again=was.run_complete or changes.worked, found=self.faults <= changes.faults)

    def _completeness(self, there: frozenset[int], substituted: frozenset[int]) -> Completeness:
        key = (there, substituted - there)
        if key not in self._there:
            become = dict.fromkeys(substituted, Presence.NOT_ORIGINAL) | dict.fromkeys(there, Presence.PRESENT)
            self._there[key] = completeness(
                [replace(c, presence=become[n]) if n in become else c for n, c in self.contents.items()]
            )
        return self._there[key]

    def _cosmetics(self, resolved: frozenset[int]) -> int:
        if resolved not in self._looks:
            left = [mark for number, mark in self.findings.items() if number not in resolved]
            self._looks[resolved] = cosmetic_score(left).score
        return self._looks[resolved]
