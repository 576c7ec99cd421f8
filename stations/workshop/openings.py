"""A machine is taken apart, thing by thing, and closed again: what is written while that is done."""

from collections.abc import Sequence

from django.db import transaction

from core.catalogue.assemblies import Assembly, AssemblyError, StripDown
from core.catalogue.assembly_text import as_data
from core.workshop.stripdown.fasteners import may_share
from core.workshop.stripdown.step import things_off
from core.workshop.stripdown.way_back import Unsettled, do_not_close
from core.workshop.stripdown.way_in import way_in
from stations.catalogue.models import ModelStripDown
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import photos
from stations.units.models import Unit
from stations.workshop import learned
from stations.workshop.in_hand import InHand, counts, held, in_trays, last_done, mark_of_last, row_of, shut_by_charge
from stations.workshop.inside import inside_of
from stations.workshop.models import OpenedAssembly, Opening, UnitStripDown
from stations.workshop.strip_downs import keep_strip_down, strip_down_of

UNIT = HistoryEntry.Subject.UNIT


@transaction.atomic
def open_up(person: Person, unit: Unit, targets: Sequence[str]) -> Opening:
    """Begin to take a machine apart, to reach `targets`; without a strip-down one builds it as one goes."""
    require(person, "take a machine apart and close it")
    unit = lock_row(Unit.objects.select_related("model"), unit)
    if unit.closed_to_work or unit.stage == "listed":
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
        steps=list(_way(unit, strip, targets)),
        opened_at=clock.now(),
        opened_by=person,
        open_for=unit,
    )
    history.record(
        person, "workshop.open_up", UNIT, unit.pk, f"Opened to reach {', '.join(targets) or 'what is inside'}"
    )
    return opening


def _way(unit: Unit, strip: StripDown, targets: Sequence[str], off: Sequence[str] = ()) -> tuple[str, ...]:
    if unknown := [name for name in targets if name not in strip.assemblies]:
        raise Refused(f"There is no {unknown[0]} in it.", "targets")
    try:
        by = learned.known(unit, strip)
        return way_in(by.strip, targets, by.costs, off).steps
    except AssemblyError as problem:
        raise Refused(str(problem), problem.at) from problem


@transaction.atomic
def do_thing(person: Person, opening: Opening, mark: str) -> None:
    """The very next thing is done: a plug, a screw, the clips, the whole. The last one ends the step."""
    require(person, "take a machine apart and close it")
    opening, strip, rows, hand = held(opening)
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
        _take_off(person, opening, hand, row_of(opening, strip, hand.assembly.name))


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
def back_one(person: Person, opening: Opening, mark: str) -> None:
    """Take the last thing back, by its mark: it was not done after all."""
    require(person, "take a machine apart and close it")
    opening, _strip, rows, _ = held(opening)
    row = last_done(opening, rows.values())
    if row is None:
        raise Refused("Nothing went back on yet." if opening.going_back else "Nothing came off yet.")
    if mark != mark_of_last(opening, rows.values()):
        raise Refused(f"Something else was done since, at {row.name}: look whether that is to be taken back.")
    if opening.going_back:
        row.on_done, row.on_at, row.on_by = row.on_done - 1, None, None
    else:
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
    opening, strip, _, _ = held(opening)
    if name not in strip.assemblies:
        raise Refused(f"There is no {name} in it.")
    row, assembly = row_of(opening, strip, name), strip[name]
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
    opening, strip, _, _ = held(opening)
    if name not in strip.assemblies:
        raise Refused(f"There is no {name} in it.")
    row = row_of(opening, strip, name)
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
    opening, strip, rows, _ = held(opening)
    off = [n for n, row in rows.items() if row.is_off]
    targets = [*opening.targets, *([name] if name not in opening.targets else [])]
    half = [n for n, row in rows.items() if row.off_done and row.off_at is None]
    steps = [*off, *half, *(n for n in _way(opening.unit, strip, targets, off) if n not in half)]
    Opening.objects.filter(pk=opening.pk).update(targets=targets, steps=steps, going_back=False)
    history.record(person, "workshop.reach_also", UNIT, opening.unit_id, f"To be reached too: {name}")


@transaction.atomic
def turn(person: Person, opening: Opening, back: bool) -> None:
    """From the way in to the way back, or round again; never with something half off or half on."""
    require(person, "take a machine apart and close it")
    opening, _, rows, _ = held(opening)
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
    opening, strip, rows, _ = held(opening)
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
    opening, strip, rows, _ = held(opening)
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
    opening, strip, _, _ = held(opening)
    if name not in strip.assemblies:
        raise Refused(f"There is no {name} in it.")
    row = row_of(opening, strip, name)
    try:
        row.photo, _ = photos.keep_photo(opening.unit, file)
    except photos.picture_files.BadPicture as problem:
        raise Refused(f"The picture was not taken: {problem}.", "photo") from problem
    row.save()


@transaction.atomic
def take_off_unlisted(person: Person, opening: Opening, assembly: Assembly) -> None:
    """Build as one goes: something comes off that no strip-down names yet; it stood on what is off by now."""
    require(person, "take a machine apart and close it")
    opening, strip, _rows, hand = held(opening)
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
