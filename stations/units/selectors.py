"""What intake pages read. Query counts don't grow with units."""

from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, fields
from decimal import Decimal
from urllib.parse import urlencode

from django.db.models import Case, Count, Q, QuerySet, Sum, When, prefetch_related_objects

from core.flow.stage import CLOSED_TO_WORK, GONE, LEFT, Stage, State, Station
from core.intake.completeness import Completeness, Presence, completeness, there_and_gone
from core.intake.completeness import Content as Ticked
from core.intake.condition import CosmeticScore, FindingKind, Mark, Term, cosmetic_score
from core.machine.approach import Approach
from core.machine.casing import Face
from core.machine.quantities import QuantityError, TwoMeanings, read_number
from stations.common.refusals import Refused
from stations.common.typed import whole_number
from stations.common.words import words_in
from stations.units.models import Content, Finding, Unit, WantedPart


def units():
    """All units with what their rows show.

    The lot comes in a query of its own: joined, the database reads every unit to sort a page of them.
    """
    return Unit.objects.prefetch_related("lot")


# Sold and not closed, here, on their way or here again; while it is worked at it is counted there.
TO_SETTLE = Q(stage__in=[Stage.SOLD, Stage.SENT, Stage.BACK], station=Station.BOOKS)


def units_at(station: Station):
    """Units at a station: safety holds first, then what wants a decision, then what can go on, then what waits."""
    rank = Case(When(state="hold", then=0), When(state="stuck", then=1), When(state="move", then=2), default=3)
    return units().filter(station=station).order_by(rank, "stage_since", "number")


# In which states a unit is that something is to be done at, the first first.
TO_DO = (State.HOLD, State.DECISION, State.MOVING)


def strongest(rows: QuerySet[Unit], most: int) -> list[Unit]:
    """The `most` of these units of each state whose next step brings most for its minutes: one query, by an index."""
    each = [rows.filter(state=state, pull__isnull=False).order_by("-pull")[:most] for state in TO_DO]
    found = list(each[0].union(*each[1:], all=True))
    prefetch_related_objects(found, "findings", "contents")
    return found


def same_serial(unit: Unit, most: int = 4) -> list[Unit]:
    """Others with its serial, newest first, that may be of its model: the same machine here again, or one plate read
    wrong. One query, none without a serial."""
    if not unit.serial:
        return []
    rows = Unit.objects.filter(serial=unit.serial).exclude(pk=unit.pk)
    if unit.model_id:
        rows = rows.filter(Q(model=None) | Q(model=unit.model_id))
    return list(rows.select_related("model", "lot").order_by("-number")[:most])


def find_units(words: str):
    """Units that hold each of the words in their serial, name, place or owner."""
    return units().filter(words_in(words, "serial", "title", "place", "owner_name"))


# What a unit may be picked out by besides where it stands.
FLAGS = {
    "held": ("held up", Q(state__in=["hold", "stuck"])),
    "open": ("intake not finished", Q(assessed_at=None)),
    "data": ("may hold data", Q(data_cleared_at=None) & (Q(data_on_board=True) | Q(data_on_board=None, drives__gt=0))),
    "not_ours": ("not ours", ~Q(holding="owned")),
    "undecided": ("no path chosen", Q(path="", assessed_at=None)),
    "parked": ("parked", ~Q(parked="")),
}


@dataclass(frozen=True)
class UnitFilter:
    """What the list of units is narrowed to; unknown values narrow nothing."""

    q: str = ""
    station: str = ""
    lot: str = ""
    model: str = ""
    approach: str = ""
    place: str = ""
    flag: str = ""

    @classmethod
    def read(cls, asked: Mapping[str, str]) -> "UnitFilter":
        return cls(**{field.name: asked.get(field.name, "").strip()[:80] for field in fields(cls)})

    @property
    def query(self) -> str:
        """The filter as it goes on in an address; empty where all are shown."""
        asked = {name: value for name, value in asdict(self).items() if value}
        return f"&{urlencode(asked)}" if asked else ""

    def units(self):
        """The units it lets through, newest first."""
        found = find_units(self.q) if self.q else units()
        if self.station in set(Station):
            found = found.filter(station=self.station)
        if (lot := whole_number(self.lot.upper().removeprefix("L-"))) is not None:
            found = found.filter(lot__number=lot)
        if (model := whole_number(self.model)) is not None:
            found = found.filter(model_id=model)
        if self.approach in set(Approach):
            found = found.filter(approach=self.approach)
        if self.place:
            found = found.filter(place=self.place)
        if self.flag in FLAGS:
            found = found.filter(FLAGS[self.flag][1])
        return found.order_by("-number")


def wanted(done_without: bool = False):
    """Things missing or wrong on units that are here, the weightiest first: those that they don't do without, or do."""
    return (
        Content.objects.filter(presence__in=[Presence.MISSING, Presence.WRONG], done_without=done_without)
        .exclude(unit__stage__in=GONE)
        .select_related("unit__lot")
        .order_by("-weight", "unit__number", "id")
    )


def wanted_parts():
    """Parts that are wanted for units that are here, the longest wanted first."""
    rows = WantedPart.objects.filter(got_at=None).exclude(unit__stage__in=CLOSED_TO_WORK)
    return rows.select_related("unit__lot", "unit__model", "who").order_by("since", "id")


def wanted_total() -> tuple[Decimal, int]:
    """What is wanted costs about so much in all; of so many of it nobody said."""
    rows = wanted().order_by().aggregate(total=Sum("estimate"), unsaid=Count("id", filter=Q(estimate=0)))
    return rows["total"] or Decimal(0), rows["unsaid"]


def places():
    """Every place with how many units stand there, and how many of them are held up."""
    here = Unit.objects.exclude(stage__in=LEFT).exclude(place="")
    held = Count("id", filter=Q(state__in=["hold", "stuck"]))
    return here.values("place").annotate(count=Count("id"), held=held).order_by("place")


def amount_in(text: str) -> Decimal:
    """An amount as typed; Refused when it is none."""
    try:
        amount = read_number(text.strip() or "0")
    except TwoMeanings as problem:
        raise Refused(str(problem), "estimate") from problem
    except QuantityError as problem:
        raise Refused("Type an amount, for example 12.50.", "estimate") from problem
    if not 0 <= amount < 10**6:
        raise Refused("Type an amount from 0 to under 1,000,000.", "estimate")
    return round(amount, 2)


def completeness_of(contents) -> Completeness:
    return completeness(_ticked(contents))


def _ticked(contents: Iterable[Content]) -> list[Ticked]:
    return [Ticked(c.name, c.weight, Presence(c.presence)) for c in contents]


def said_both_ways(findings: Iterable[Finding], contents: Iterable[Content]) -> dict[str, str]:
    """What is ticked as there and a finding says is gone, with the words of that."""
    gone = [f.words for f in findings if f.kind == FindingKind.MISSING and f.status != Finding.Status.RESOLVED]
    return there_and_gone(gone, _ticked(contents))


def with_doubts(units: list[Unit]) -> set[int]:
    """Of which units something is on record both ways, by their ids: a query, and one more where anything is said to
    be gone."""
    gone: dict[int, list[Finding]] = {}
    for finding in Finding.objects.filter(unit__in=units, kind=FindingKind.MISSING):
        gone.setdefault(finding.unit_id, []).append(finding)
    contents: dict[int, list[Content]] = {unit_id: [] for unit_id in gone}
    for content in Content.objects.filter(unit_id__in=gone) if gone else ():
        contents[content.unit_id].append(content)
    return {unit_id for unit_id, found in gone.items() if said_both_ways(found, contents[unit_id])}


def cosmetics_of(findings: list[Finding]) -> CosmeticScore:
    """The score of the findings still open; resolved ones and patina take nothing off."""
    return cosmetic_score(
        [Mark(FindingKind(f.kind), Face(f.face), f.severity, f.extent_percent / 100) for f in _open(findings)]
    )


def terms_by_finding(findings: list[Finding], score: CosmeticScore) -> dict[int, Term]:
    """What each open finding takes off, before a face saturates."""
    return {finding.pk: term for finding, term in zip(_open(findings), score.terms, strict=True)}


def _open(findings: list[Finding]) -> list[Finding]:
    return [finding for finding in findings if finding.status == Finding.Status.OPEN]
