"""What a unit would be graded and fetch if its record were changed, as it would be sold: what the workshop asks."""

from core.bench.plan import Outcome
from core.intake.completeness import Content, Presence
from core.intake.condition import FindingKind, Mark
from core.machine.casing import Face
from core.selling.appraisal import UnitAppraisal
from stations.selling import market, selectors, wording
from stations.selling.as_recorded import listing_facts
from stations.units.models import Finding, Unit


def appraisal_of(unit: Unit) -> UnitAppraisal:
    """By its record and the comparables of today: on the channel of its listing, with all that its buyer is told."""
    as_tested, told = selectors.newest_run_of(unit), selectors.told_before(unit)
    rows, compared = market.compared_with(unit)
    failed = {code for code, result in as_tested.results.items() if result.outcome == Outcome.FAIL}
    unsafe = {step.check.code for step in as_tested.steps if step.check.safety} & failed
    findings = list(unit.findings.exclude(status=Finding.Status.RESOLVED))
    listing = selectors.listing_of(unit)
    return UnitAppraisal(
        selectors.evidence_of(unit, as_tested, told),
        {c.pk: Content(c.name, c.weight, Presence(c.presence)) for c in unit.contents.all()},
        {
            f.pk: Mark(FindingKind(f.kind), Face(f.face), f.severity, f.extent_percent / 100)
            for f in findings
            if f.is_open
        },
        frozenset(failed),
        compared,
        frozenset(unsafe),
        as_tested.stopped,
        frozenset(unit.faults.filter(closed_at=None).values_list("pk", flat=True)),
        [
            (one, frozenset(row.features), row.buyer)
            for row, one in zip(rows, compared, strict=True)
            if row.features is not None
        ],
        market.features_of(unit),
        listing.channel.name if listing.channel_id else "",
        frozenset(wording.kinds_said(listing_facts(unit, as_tested, told))),
        any(not f.is_open and f.kind != FindingKind.REWORK for f in findings),
    )
