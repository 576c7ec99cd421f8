"""A machine is taken apart, thing by thing, and closed again: what is written while that is done."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.db import transaction

from core.bench.power import Charge, hands_in_refusal
from core.catalogue.assemblies import Assembly, AssemblyError, Fastener, StripDown
from core.catalogue.assembly_text import as_data, from_data
from core.catalogue.changes import without
from core.flow.stage import GONE
from core.workshop.stripdown.fasteners import may_share, tray_for
from core.workshop.stripdown.step import Thing, things_off, things_on
from core.workshop.stripdown.way_back import Unsettled, do_not_close, way_back
from core.workshop.stripdown.way_in import way_in
from stations.bench import power
from stations.catalogue.models import ModelStripDown
from stations.catalogue.strip_downs import checked
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units import photos
from stations.units.models import Unit
from stations.workshop.inside import inside_of
from stations.workshop.models import OpenedAssembly, Opening, UnitStripDown

UNIT = HistoryEntry.Subject.UNIT


def strip_down_of(unit: Unit) -> StripDown:
    """What the unit is put together from: its own, else its model's; empty when neither was recorded. Always as it
    is now."""
    return _put_together(UnitStripDown.objects.filter(unit=unit).first(), unit)


def strip_down_as_read(unit: Unit) -> StripDown:
    """The same, of a unit that was read together with its own and its model's: no query, and put together once."""
    if not hasattr(unit, "_put_together"):
        unit._put_together = _put_together(getattr(unit, "strip_down", None), unit)  # type: ignore[attr-defined]
    return unit._put_together  # type: ignore[attr-defined]


def _put_together(own: UnitStripDown | None, unit: Unit) -> StripDown:
    if own is not None:
        return from_data(own.assemblies)
    model = getattr(unit.model, "strip_down", None) if unit.model else None
    return from_data(model.assemblies) if model else StripDown({})


@transaction.atomic
def keep_strip_down(person: Person, unit: Unit, strip: StripDown, seen_version: int | None, words: str) -> None:
    """Put right what the unit is put together from; its model stays as it is.

    `seen_version` is of the unit's own, 0 when it had none, None when what was read is held since.
    """
    require(person, "take a machine apart and close it")
    unit = lock_row(Unit.objects.all(), unit)
    checked(strip)
    own = UnitStripDown.objects.filter(unit=unit).first()
    if own is None:
        UnitStripDown.objects.create(unit=unit, assemblies=as_data(strip))
    else:
        save_versioned(own, own.version if seen_version is None else seen_version, {"assemblies": as_data(strip)})
    history.record(person, "workshop.keep_strip_down", UNIT, unit.pk, words)


@transaction.atomic
def take_out(person: Person, unit: Unit, name: str) -> None:
    """An assembly is not in this machine after all; what stood on it stands on what it stood on."""
    opening = Opening.objects.filter(open_for=unit, assemblies__name=name).first()
    if opening is not None and opening.assemblies.get(name=name).is_off:
        raise Refused(f"{name} is off and lies in a tray: it is in this machine. Put it on first.")
    strip = strip_down_of(unit)
    if name not in strip.assemblies:
        raise Refused(f"There is no {name} in it.")
    keep_strip_down(person, unit, without(strip, name), None, f"Not in it: {name}")


@transaction.atomic
def put_right(person: Person, unit: Unit, strip: StripDown, seen_version: int, was: str, name: str) -> None:
    """One assembly is added, or put right and perhaps called something else: jobs and an opening follow its name."""
    keep_strip_down(person, unit, strip, seen_version, f"Put together from: {name}")
    if was and was != name:
        unit.jobs.filter(assembly=was).update(assembly=name)
        for opening in Opening.objects.filter(open_for=unit):
            opening.assemblies.filter(name=was).update(name=name)
            opening.targets = [name if one == was else one for one in opening.targets]
            opening.steps = [name if one == was else one for one in opening.steps]
            opening.save()


@transaction.atomic
def open_up(person: Person, unit: Unit, targets: Sequence[str]) -> Opening:
    """Begin to take a machine apart, to reach `targets`; without a strip-down one builds it as one goes."""
    require(person, "take a machine apart and close it")
    unit = lock_row(Unit.objects.select_related("model"), unit)
    if unit.stage in GONE or unit.stage == "listed":
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: it stays closed.")
    if Opening.objects.filter(open_for=unit).exists():
        raise Refused(f"{unit.tag} is open already.")
    strip = strip_down_of(unit)
    if len(strip):
        # From here on what is put right on the model meanwhile changes nothing under anybody’s hands.
        UnitStripDown.objects.get_or_create(unit=unit, defaults={"assemblies": as_data(strip)})
    if len(strip) and not targets:
        raise Refused("Choose what you want to reach.", "targets")
    opening = Opening.objects.create(
        unit=unit,
        targets=list(targets),
        steps=list(_way(strip, targets)),
        opened_at=clock.now(),
        opened_by=person,
        open_for=unit,
    )
    history.record(
        person, "workshop.open_up", UNIT, unit.pk, f"Opened to reach {', '.join(targets) or 'what is inside'}"
    )
    return opening


def _way(strip: StripDown, targets: Sequence[str], off: Sequence[str] = ()) -> tuple[str, ...]:
    if unknown := [name for name in targets if name not in strip.assemblies]:
        raise Refused(f"There is no {unknown[0]} in it.", "targets")
    try:
        return way_in(strip, targets, off=off).steps
    except AssemblyError as problem:
        raise Refused(str(problem), problem.at) from problem


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


def rows_of(opening: Opening, strip: StripDown) -> dict[str, OpenedAssembly]:
    """How far each assembly is off or on again, by name; what the machine no longer has is left out. Counts follow when
    an assembly was put right meanwhile."""
    rows = opening.assemblies.select_related("off_by", "on_by", "tested_by", "photo")
    return {row.name: _fitted(row, strip[row.name]) for row in rows if row.name in strip.assemblies}


def _fitted(row: OpenedAssembly, assembly: Assembly) -> OpenedAssembly:
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


@transaction.atomic
def do_thing(person: Person, opening: Opening, mark: str) -> None:
    """The very next thing is done: a plug, a screw, the clips, the whole. The last one ends the step."""
    require(person, "take a machine apart and close it")
    opening, strip, rows, hand = _held(opening)
    if hand is None:
        raise Refused("There is nothing left to do here.")
    if mark != hand.mark:
        raise Refused(f"That was done already. Next: {hand.thing.said}.")
    if not opening.cautions_read:
        raise Refused("First: unplugged, cells out, strap on.")
    if shut := shut_by_charge(opening.unit, hand.assembly):
        raise Refused(f"{shut} Discharge and measure first.")
    if opening.going_back and hand.row is not None:
        _put_on(person, opening, strip, rows, hand)
    else:
        _take_off(person, opening, hand, _row(opening, strip, hand.assembly.name))


def _take_off(person: Person, opening: Opening, hand: InHand, row: OpenedAssembly) -> None:
    now = clock.now()
    if row.on_at:
        row.off_since = row.off_at = row.on_since = row.on_at = row.on_by = row.tested_at = row.tested_by = None
        row.on_done, row.closed_over = 0, ""
    row.off_done, row.off_since = hand.done + 1, row.off_since or now
    if row.off_done == len(hand.things):
        row.off_at, row.off_by = now, person
    row.save()


def _put_on(person: Person, opening: Opening, strip: StripDown, rows: dict[str, OpenedAssembly], hand: InHand) -> None:
    row, now = rows[hand.assembly.name], clock.now()
    unsettled = speaks_against_closing(opening, strip, rows, row.name)
    if unsettled and not (row.closed_over and not any(one.safety for one in unsettled)):
        raise Refused(f"Don’t close {row.name} yet: {unsettled[0].words}.")
    row.on_done, row.on_since = hand.done + 1, row.on_since or now
    if row.on_done == len(hand.things):
        row.on_at, row.on_by = now, person
    row.save()
    if row.on_at and not any(one.is_off for one in rows.values()):
        _close(person, opening)


def _close(person: Person, opening: Opening) -> None:
    Opening.objects.filter(pk=opening.pk).update(closed_at=clock.now(), open_for=None)
    history.record(person, "workshop.close", UNIT, opening.unit_id, "Closed again")
    own = UnitStripDown.objects.filter(unit=opening.unit).first()
    model = opening.unit.model
    if own is not None and model is not None and not ModelStripDown.objects.filter(model=model).exists():
        # The first of a model that was taken apart says how the others are put together.
        ModelStripDown.objects.create(model=model, assemblies=own.assemblies)


def speaks_against_closing(
    opening: Opening, strip: StripDown, rows: dict[str, OpenedAssembly], name: str
) -> list[Unsettled]:
    """What is not settled under an assembly that is to go on."""
    return do_not_close(strip, name, inside_of(opening.unit, strip, rows, name))


@transaction.atomic
def read_cautions(person: Person, opening: Opening) -> None:
    """Unplugged, cells out, strap on: said once, before the first fastener."""
    require(person, "take a machine apart and close it")
    opening = lock_row(Opening.objects.all(), opening, opening.unit)
    if not opening.cautions_read:
        Opening.objects.filter(pk=opening.pk).update(cautions_read=True)
        history.record(person, "workshop.read_cautions", UNIT, opening.unit_id, "Unplugged, cells out, strap on")


@transaction.atomic
def back_one(person: Person, opening: Opening) -> None:
    """Take the last thing back: it was not done after all."""
    require(person, "take a machine apart and close it")
    opening, _strip, rows, _ = _held(opening)
    if opening.going_back:
        moved = [row for row in rows.values() if row.on_done]
        if not moved:
            raise Refused("Nothing went back on yet.")
        row = max(moved, key=lambda row: (row.on_at is None, row.on_at or row.on_since))
        row.on_done, row.on_at, row.on_by = row.on_done - 1, None, None
    else:
        moved = [row for row in rows.values() if row.off_done and not row.on_at]
        if not moved:
            raise Refused("Nothing came off yet.")
        row = max(moved, key=lambda row: (row.off_at is None, row.off_at or row.off_since))
        row.off_done, row.off_at, row.off_by = row.off_done - 1, None, None
    row.save()


@transaction.atomic
def note_odd(
    person: Person,
    opening: Opening,
    name: str,
    *,
    found: Sequence[int] | None = None,
    added: Sequence[int] | None = None,
    odd: str = "",
    broke: str = "",
    tray: int | None = None,
) -> None:
    """What is not as it should be: fewer fasteners than belong there, tape for a screw, something that broke.

    `found` counts what was there when it was opened, `added` what was put in from elsewhere on the way back.
    """
    require(person, "take a machine apart and close it")
    opening, strip, _, _ = _held(opening)
    if name not in strip.assemblies:
        raise Refused(f"There is no {name} in it.")
    row, assembly = _row(opening, strip, name), strip[name]
    if found is not None:
        row.found = _counted(found, counts(assembly), out=row.off_done, assembly=assembly)
        if row.off_done and row.off_at is None and row.off_done == len(things_off(assembly, row.found)):
            # The last that was there is out, so that it is off.
            row.off_at, row.off_by = clock.now(), person
    if added is not None:
        row.added = _added(added, row.found, counts(assembly))
    if tray is not None and tray != row.tray:
        if not may_share(in_trays(strip, opening, name).get(tray, ()), assembly.fasteners):
            raise Refused(f"Tray {tray} holds look-alikes of another length. Take another one.", "tray")
        row.tray = tray
    row.odd, row.broke = within(odd, 160, "odd"), within(broke, 120, "broke")
    row.save()
    words = "; ".join(filter(None, (row.odd, row.broke and f"broke: {row.broke}", _short(row, assembly))))
    if words:
        history.record(person, "workshop.note_odd", UNIT, opening.unit_id, f"{name}: {words}")


@transaction.atomic
def keep_note(person: Person, opening: Opening, name: str, note: str) -> None:
    """What is to be remembered of an assembly, shown again on the way back; empty takes it away."""
    require(person, "take a machine apart and close it")
    opening, strip, _, _ = _held(opening)
    if name not in strip.assemblies:
        raise Refused(f"There is no {name} in it.")
    row = _row(opening, strip, name)
    row.note = within(note, 200, "note")
    row.save()


def _counted(found: Sequence[int], belong: Sequence[int], out: int, assembly: Assembly) -> list[int]:
    if len(found) != len(belong):
        raise Refused("Say of each kind how many were there.", "found")
    for count, most in zip(found, belong, strict=True):
        if not 0 <= count <= most:
            raise Refused(f"From 0 to {most} were there: more don’t belong there.", "found")
    if out > len(things_off(assembly, found)):
        raise Refused("More are out already than you say were there. Take them back first, with “Back one”.", "found")
    return list(found)


def _added(added: Sequence[int], found: Sequence[int], belong: Sequence[int]) -> list[int]:
    for more, count, most in zip(added, found, belong, strict=True):
        if more < 0 or count + more > most:
            raise Refused(f"{most} belong there and {count} were there: at most {most - count} more.", "added")
    return list(added)


def _short(row: OpenedAssembly, assembly: Assembly) -> str:
    short = sum(counts(assembly)) - sum(row.found)
    return f"{short} short at arrival" if short else ""


@transaction.atomic
def reach_also(person: Person, opening: Opening, name: str) -> None:
    """Something else is to be reached in this opening: the way leads there too."""
    require(person, "take a machine apart and close it")
    opening, strip, rows, _ = _held(opening)
    off = [n for n, row in rows.items() if row.is_off]
    targets = [*opening.targets, *([name] if name not in opening.targets else [])]
    half = [n for n, row in rows.items() if row.off_done and row.off_at is None]
    steps = [*off, *half, *(n for n in _way(strip, targets, off) if n not in half)]
    Opening.objects.filter(pk=opening.pk).update(targets=targets, steps=steps, going_back=False)
    history.record(person, "workshop.reach_also", UNIT, opening.unit_id, f"To be reached too: {name}")


@transaction.atomic
def turn(person: Person, opening: Opening, back: bool) -> None:
    """From the way in to the way back, or round again; never with something half off or half on."""
    require(person, "take a machine apart and close it")
    opening, _, rows, _ = _held(opening)
    half = [r for r in rows.values() if (r.off_done and r.off_at is None) or (r.is_off and r.on_done)]
    if half and opening.going_back != back:
        raise Refused(f"{half[0].name} is half done. Finish it, or take it back with “Back one”.")
    if back and not any(row.is_off for row in rows.values()):
        raise Refused("Nothing is off yet.")
    Opening.objects.filter(pk=opening.pk).update(going_back=back)


@transaction.atomic
def pass_test(person: Person, opening: Opening, name: str) -> None:
    """The test that is due before an assembly is shut in was passed, with it in."""
    require(person, "take a machine apart and close it")
    opening, strip, rows, _ = _held(opening)
    if name not in strip.assemblies or not strip[name].test:
        raise Refused("No test is due there.")
    if name not in rows or rows[name].is_off:
        raise Refused(f"{name} is not in yet.")
    OpenedAssembly.objects.filter(pk=rows[name].pk).update(tested_at=clock.now(), tested_by=person)
    history.record(person, "workshop.pass_test", UNIT, opening.unit_id, f"Passed before closing: {strip[name].test}")


@transaction.atomic
def close_anyway(person: Person, opening: Opening, name: str, reason: str) -> None:
    """Close over what is not settled, with a reason that stays; never over a matter of safety."""
    require(person, "take a machine apart and close it")
    opening, strip, rows, _ = _held(opening)
    if name not in rows or not rows[name].is_off:
        raise Refused(f"{name} is not off.")
    unsettled = speaks_against_closing(opening, strip, rows, name)
    if safety := next((one for one in unsettled if one.safety), None):
        raise Refused(f"{safety.words}. That is for safety, and no reason closes over it.")
    if not reason:
        raise Refused("Say why.", "reason")
    OpenedAssembly.objects.filter(pk=rows[name].pk).update(closed_over=within(reason, 200, "reason"))
    left = "; ".join(one.words for one in unsettled)
    history.record(
        person, "workshop.close_anyway", UNIT, opening.unit_id, f"Closed over: {left}. Why: {reason}", assembly=name
    )


@transaction.atomic
def photograph(person: Person, opening: Opening, name: str, file: object) -> None:
    """How it sits before it comes off, shown again on the way back."""
    require(person, "add photos")
    opening, strip, _, _ = _held(opening)
    if name not in strip.assemblies:
        raise Refused(f"There is no {name} in it.")
    row = _row(opening, strip, name)
    try:
        row.photo, _ = photos.keep_photo(opening.unit, file)
    except photos.picture_files.BadPicture as problem:
        raise Refused(f"The picture was not taken: {problem}.", "photo") from problem
    row.save()


@transaction.atomic
def take_off_unlisted(person: Person, opening: Opening, assembly: Assembly) -> None:
    """Build as one goes: something comes off that no strip-down names yet; it stood on what is off by now."""
    require(person, "take a machine apart and close it")
    opening, strip, _rows, hand = _held(opening)
    if opening.going_back:
        raise Refused("It goes together now. Turn round first.")
    if hand is not None:
        raise Refused(f"First: {hand.thing.said}.")
    keep_strip_down(
        person,
        opening.unit,
        StripDown(dict(strip.assemblies) | {assembly.name: assembly}),
        None,
        f"Found inside: {assembly.name}",
    )
    Opening.objects.filter(pk=opening.pk).update(steps=[*opening.steps, assembly.name])


def _row(opening: Opening, strip: StripDown, name: str) -> OpenedAssembly:
    """The row of an assembly in this opening; the tray it gets is its, for good."""
    row = OpenedAssembly.objects.filter(opening=opening, name=name).first()
    if row is not None:
        return _fitted(row, strip[name])
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


def _held(opening: Opening) -> tuple[Opening, StripDown, dict[str, OpenedAssembly], InHand | None]:
    """The opening as it now is, held, with its machine, its rows and what is in hand; refused once it is closed."""
    opening = lock_row(Opening.objects.select_related("unit__model"), opening, opening.unit)
    if opening.closed_at:
        raise Refused(f"{opening.unit.tag} is closed again.")
    strip = strip_down_of(opening.unit)
    rows = rows_of(opening, strip)
    return opening, strip, rows, in_hand(strip, opening, rows)
