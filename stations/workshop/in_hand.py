"""How far an opening is: what is off, what is in hand, what comes next."""

from collections.abc import Iterable
from dataclasses import dataclass

from core.bench.power import Charge, hands_in_refusal
from core.catalogue.assemblies import Assembly, Fastener, StripDown
from core.workshop.stripdown.fasteners import tray_for
from core.workshop.stripdown.step import Thing, things_off, things_on
from core.workshop.stripdown.way_back import way_back
from stations.bench import power
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import shop_settings
from stations.units.models import Unit
from stations.workshop.models import OpenedAssembly, Opening
from stations.workshop.strip_downs import strip_down_of


@dataclass(frozen=True)
class InHand:
    """The assembly in hand: its row if it has one yet, all that is done with it, and how much of that is done."""

    assembly: Assembly
    row: OpenedAssembly | None
    things: tuple[Thing, ...]
    done: int

    @property
    def thing(self) -> Thing:
        return self.things[self.done]

    @property
    def mark(self) -> str:
        """Names this very press, so that a second one, or another person’s, does not count as the next."""
        return f"{self.assembly.name}:{self.done}:{self.things[self.done].said}"


def last_done(opening: Opening, rows: Iterable[OpenedAssembly]) -> OpenedAssembly | None:
    """Of what the last thing was done, on the way one is on; None where nothing was yet."""
    if opening.going_back:
        on = [row for row in rows if row.on_done]
        return max(on, key=lambda row: (row.on_at is None, row.on_at or row.on_since), default=None)
    off = [row for row in rows if row.off_done and not row.on_at]
    return max(off, key=lambda row: (row.off_at is None, row.off_at or row.off_since), default=None)


def mark_of_last(opening: Opening, rows: Iterable[OpenedAssembly]) -> str:
    """Names the thing that would be taken back, so that nobody takes back what another one did since."""
    row = last_done(opening, rows)
    return f"{row.name}:{row.on_done if opening.going_back else row.off_done}" if row else ""


def rows_of(opening: Opening, strip: StripDown) -> dict[str, OpenedAssembly]:
    """How far each assembly is off or on again, by name; what the machine no longer has is left out. Counts follow when
    an assembly was put right meanwhile."""
    rows = opening.assemblies.select_related("off_by", "on_by", "tested_by", "photo")
    return {row.name: fitted(row, strip[row.name]) for row in rows if row.name in strip.assemblies}


def fitted(row: OpenedAssembly, assembly: Assembly) -> OpenedAssembly:
    belong = counts(assembly)
    if len(row.found) != len(belong):
        row.found, row.added = belong, [0] * len(belong)
    row.found = [min(found, most) for found, most in zip(row.found, belong, strict=True)]
    row.added = [min(added, most - found) for added, found, most in zip(row.added, row.found, belong, strict=True)]
    off, on = len(things_off(assembly, row.found)), len(things_on(assembly, there(row)))
    row.off_done = off if row.off_at else min(row.off_done, off - 1)
    row.on_done = on if row.on_at else min(row.on_done, on - 1)
    return row


def there(row: OpenedAssembly) -> list[int]:
    """Fasteners that can go back, by group: what was found and what was added."""
    return [found + added for found, added in zip(row.found, row.added, strict=True)]


def in_hand(strip: StripDown, opening: Opening, rows: dict[str, OpenedAssembly]) -> InHand | None:
    """What is next: on the way in the next of the steps, on the way back the next of an order that can be."""
    if opening.going_back:
        half = [name for name, row in rows.items() if row.is_off and row.on_done]
        left = half or back_order(strip, rows)
        if not left:
            return None
        row = rows[left[0]]
        return InHand(strip[row.name], row, things_on(strip[row.name], there(row)), row.on_done)
    half = [name for name, row in rows.items() if row.off_done and row.off_at is None]
    left = half or [name for name in opening.steps if name in strip.assemblies and not _was_off(rows, name)]
    if not left:
        return None
    found_row = rows.get(left[0])
    assembly = strip[left[0]]
    found = found_row.found if found_row else counts(assembly)
    # What was off and is on again comes off from the beginning.
    done = found_row.off_done if found_row and not found_row.on_at else 0
    return InHand(assembly, found_row, things_off(assembly, found), done)


def back_order(strip: StripDown, rows: dict[str, OpenedAssembly]) -> list[str]:
    return way_back(strip, [name for name, row in rows.items() if row.is_off and name in strip.assemblies])


def counts(assembly: Assembly) -> list[int]:
    """Fasteners that belong there, by group."""
    return [group.count for group in assembly.fasteners]


def _was_off(rows: dict[str, OpenedAssembly], name: str) -> bool:
    return name in rows and rows[name].is_off


def shut_by_charge(unit: Unit, assembly: Assembly) -> str:
    """Why hands may not go in there now: not discharged and measured since it had power, or not today."""
    if not assembly.charge:
        return ""
    kinds = {charge.kind: charge for charge in power.charges_of(unit)}
    charge = kinds.get(assembly.charge.value, Charge(assembly.charge.value, None))
    done = clock.day_of(charge.discharged_at) if charge.discharged_at else None
    return hands_in_refusal(charge, power.last_power(unit), clock.today(), done)


def row_of(opening: Opening, strip: StripDown, name: str) -> OpenedAssembly:
    """The row of an assembly in this opening; the tray it gets is its, for good."""
    row = OpenedAssembly.objects.filter(opening=opening, name=name).first()
    if row is not None:
        return fitted(row, strip[name])
    belong = counts(strip[name])
    tray = tray_for(strip[name].fasteners, in_trays(strip, opening), shop_settings.settings().trays)
    return OpenedAssembly(opening=opening, name=name, tray=tray, found=belong, added=[0] * len(belong))


def in_trays(strip: StripDown, opening: Opening, but: str = "") -> dict[int, list[Fastener]]:
    """What lies in each tray of the opening, or did; `but` for one assembly."""
    taken: dict[int, list[Fastener]] = {}
    for name, tray in opening.assemblies.values_list("name", "tray"):
        if name != but:
            taken.setdefault(tray, []).extend(strip[name].fasteners if name in strip.assemblies else ())
    return taken


def held(opening: Opening) -> tuple[Opening, StripDown, dict[str, OpenedAssembly], InHand | None]:
    """The opening as it now is, held, with its machine, its rows and what is in hand; refused once it is closed."""
    opening = lock_row(Opening.objects.select_related("unit__model"), opening, opening.unit)
    if opening.closed_at:
        raise Refused(f"{opening.unit.tag} is closed again.")
    strip = strip_down_of(opening.unit)
    rows = rows_of(opening, strip)
    return opening, strip, rows, in_hand(strip, opening, rows)
