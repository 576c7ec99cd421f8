"""What intake pages read. Query counts don't grow with units."""

from django.db.models import Case, F, Q, When

from core.flow.stage import Station
from core.intake.casing import Face
from core.intake.completeness import Completeness, Presence, completeness
from core.intake.completeness import Content as Ticked
from core.intake.condition import CosmeticScore, FindingKind, Mark, cosmetic_score
from stations.buying.models import LotLine
from stations.intake.models import Finding, Unit


def units():
    """All units with what their rows show.

    The lot comes in a query of its own: joined, the database reads every unit to sort a page of them.
    """
    return Unit.objects.prefetch_related("lot")


def units_at(station: Station):
    """Units at a station: safety holds first, then what wants a decision, then what can go on, then what waits."""
    rank = Case(When(state="hold", then=0), When(state="stuck", then=1), When(state="move", then=2), default=3)
    return units().filter(station=station).order_by(rank, "stage_since", "number")


def find_units(words: str):
    """Units whose serial, name, place or owner holds the words."""
    return units().filter(
        Q(serial__icontains=words)
        | Q(title__icontains=words)
        | Q(place__icontains=words)
        | Q(owner_name__icontains=words)
    )


def lines_to_receive():
    """Lot lines with pieces not yet received, oldest lot first."""
    return LotLine.objects.filter(received__lt=F("quantity")).select_related("lot").order_by("lot__number", "position")


def completeness_of(contents) -> Completeness:
    return completeness([Ticked(c.name, c.weight, Presence(c.presence)) for c in contents])


def cosmetics_of(findings: list[Finding]) -> CosmeticScore:
    """The score of the findings still open; resolved ones and patina take nothing off."""
    return cosmetic_score(
        [
            Mark(FindingKind(f.kind), Face(f.face), f.severity, f.extent_percent / 100)
            for f in findings
            if f.status == Finding.Status.OPEN
        ]
    )
