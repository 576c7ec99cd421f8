"""Which of mine: everything in drawers and donors that has a sheet, ranked for one machine and one use."""

from dataclasses import dataclass

from core.catalogue.fit.bottleneck import Purpose
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.which import Ranked, ranked
from core.machine.names import as_seen
from core.workshop.upgrades.candidates import Kind, Source
from stations.catalogue.fit_sheets import sheets_of
from stations.catalogue.models import PartSheet
from stations.units.models import Unit
from stations.workshop.upgrade_parts import parts_for


@dataclass(frozen=True)
class Mine:
    """A part one has: what it does for the machine, and where one lies, the nearest first."""

    sheet: PartSheet
    ranked: Ranked
    places: tuple[str, ...]


def which_of_mine(unit: Unit, machine: Machine, purpose: Purpose) -> list[Mine]:
    """The best first, in a number of queries that does not grow. Faulty ones and what is not ours are left out."""
    parts = {part.name: part for part in parts_for(unit) if any(source.here for source in part.sources)}
    sheets = sheets_of(parts)
    tried = {name: part.tried for name, part in parts.items() if part.tried}
    found = ranked(machine, purpose, ((name, part.needs) for name, part in parts.items()), tried)
    return [
        Mine(sheets[as_seen(one.key)], one, tuple(_place(s) for s in parts[one.key].sources if s.here)) for one in found
    ]


def _place(source: Source) -> str:
    return f"{source.most} in {source.where}" if source.kind is Kind.DRAWER else source.where
