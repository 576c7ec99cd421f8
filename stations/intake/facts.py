"""What intake answers for: what is still to record, what was decided, and what was found that holds a unit."""

from django.db.models import prefetch_related_objects

from core.flow.facts import Hold, IntakeFlow
from core.flow.stage import NextKind
from core.intake.completeness import Presence
from core.intake.condition import HAZARDOUS, FindingKind
from core.intake.triage import Path
from core.machine.approach import Approach
from stations.units import stages
from stations.units.models import Content, Finding, Unit


@stages.flow.add("intake")
def intake_flow(units: list[Unit]) -> dict[int, IntakeFlow]:
    """Of every unit: three queries for all. A leak or a swollen cell that is open holds it."""
    prefetch_related_objects(units, "line")
    ids = [unit.pk for unit in units]
    unseen = set(Content.objects.filter(unit_id__in=ids, presence=Presence.UNSEEN).values_list("unit_id", flat=True))
    holds: dict[int, Hold] = {}
    hazards = Finding.objects.filter(unit_id__in=ids, kind__in=HAZARDOUS, status=Finding.Status.OPEN)
    for unit_id, kind, words in hazards.order_by("-id").values_list("unit_id", "kind", "words"):
        what = "leak" if kind == FindingKind.LEAK else FindingKind(kind).label
        holds[unit_id] = Hold(f"{what}: {words}" if words else what, NextKind.INTAKE)
    return {
        unit.pk: IntakeFlow(
            gaps=_gaps(unit, unit.pk in unseen),
            assessed=unit.assessed_at is not None,
            custody=unit.custody,
            donor=unit.approach == Approach.DONOR,
            parked=unit.parked,
            scrapped=unit.scrapped_at is not None,
            returned=unit.returned_at is not None,
            sell_as_is=unit.path == Path.SELL and unit.assessed_at is not None,
            worth=unit.line.worth_likely,
            our_share=unit.our_share,
            hold=holds.get(unit.pk),
        )
        for unit in units
    }


def _gaps(unit: Unit, unseen: bool) -> list[str]:
    """What is still to record before intake can be finished."""
    missing = (
        ("what it is", unit.identified_at is None),
        ("completeness", unseen),
        ("its looks", unit.looked_over_at is None),
        ("approach", not unit.approach),
    )
    return [words for words, open_ in missing if open_]
