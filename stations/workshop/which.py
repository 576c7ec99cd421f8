"""Which of mine: everything in drawers and donors that has a sheet, ranked for one machine and one use."""

from collections import defaultdict
from dataclasses import dataclass

from core.catalogue.fit.bottleneck import Purpose
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.which import Ranked, ranked
from core.flow.stage import GONE
from core.machine.approach import Approach
from core.stock.parts import Condition
from stations.catalogue.fit_sheets import needs_of, sheets_of, tried_in
from stations.catalogue.models import PartSheet
from stations.stock.models import StockItem
from stations.units.models import Part, Unit

MOST = 1000


@dataclass(frozen=True)
class Mine:
    """A part one has: what it does for the machine, and where one lies, the nearest first."""

    sheet: PartSheet
    ranked: Ranked
    places: tuple[str, ...]


def which_of_mine(unit: Unit, machine: Machine, purpose: Purpose) -> list[Mine]:
    """The best first: five queries, however many parts there are. Faulty ones and what is not ours are left out."""
    places: dict[str, list[str]] = defaultdict(list)
    for item in StockItem.objects.exclude(condition=Condition.FAULTY).filter(quantity__gt=0).order_by("name")[:MOST]:
        if item.free >= 1:
            places[item.name.lower()].append(f"{item.free_amount} in drawer {item.drawer or '–'}")
    loose = Part.objects.filter(unit=None, gone_at=None).exclude(condition=Condition.FAULTY)
    for part in loose.order_by("name", "id")[:MOST]:
        places[part.name.lower()].append(f"{part.code} in drawer {part.drawer or '–'}")
    donors = Part.objects.filter(unit__approach=Approach.DONOR, unit__holding=Unit.Holding.OWNED)
    inside = donors.exclude(unit=unit).exclude(unit__stage__in=GONE).exclude(condition=Condition.FAULTY)
    for part in inside.select_related("unit").order_by("name", "id")[:MOST]:
        places[part.name.lower()].append(f"{part.code} in {part.unit.tag}" if part.unit else part.code)
    sheets = sheets_of(places)
    seen = tried_in(unit.model)
    tried = {name: seen[sheet.pk] for name, sheet in sheets.items() if sheet.pk in seen}
    parts = ((name, needs_of(sheet)) for name, sheet in sheets.items() if not sheet.converts)
    found = ranked(machine, purpose, parts, tried)
    return [Mine(sheets[one.key], one, tuple(places[one.key])) for one in found]
