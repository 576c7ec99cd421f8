"""Drives: interface, place on the bus, bay, plug, size, start, and which disks they exchange."""

from collections.abc import Iterator

from core.catalogue.fit.answers import Answer, Ask, Finding, Row, Side, ask, listed
from core.catalogue.fit.kinds import FORMATS, LOOK_ALIKES, NARROW_TRACKS, BaySize, Interface
from core.catalogue.fit.limits import limit_named
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Drive, Needs
from core.catalogue.fit.offers import Bay, DriveBus
from core.catalogue.fit.paths import end
from core.catalogue.fit.rules.register import best_of, rule, which
from core.catalogue.fit.schema import plain, write_size

# A narrower drive on a wider bus, or the other way: with an adapter, at the pace and width of the narrower one (SCSI
# Parallel Interface, from memory).
_WITH_ADAPTER = frozenset({Interface.SCSI8, Interface.SCSI16})


@rule("drive bus", "SCSI Parallel Interface, ATA, SA400 and ST-506 interface descriptions, from memory")
def drive_bus(machine: Machine, part: Needs) -> Iterator[Finding]:
    for drive in part.drives or ():
        wants = drive.called if drive.interface is Interface.OWN and drive.called else f"{drive.interface or '?'}"
        there = machine.offers.buses
        said = None if there is None else [[*on_bus(machine, one, drive, wants)] for one in there]
        yield from best_of(said, which("buses"), "drive bus", wants)


def on_bus(machine: Machine, bus: DriveBus, drive: Drive, wants: str = "") -> Iterator[Finding]:
    """What a drive bus says to a drive."""
    has = bus.called if bus.interface is Interface.OWN and bus.called else f"{bus.interface or '?'}"
    has, at = f"{bus.name}, {has}", f"bus:{bus.name}"
    answer, asks, words = _interface(bus, drive)
    yield Finding("drive bus", answer, has, wants, words or f"on {bus.name}", words, asks, at)
    if answer is Answer.NOT:
        return
    yield _places(machine, bus, drive, at)
    yield from _plug(machine, bus, drive, at)
    yield from _ends(machine, bus, drive, at)
    yield from _start(bus, drive, at)
    yield from _size(machine, bus, drive, at)


def _interface(bus: DriveBus, drive: Drive) -> tuple[Answer, tuple[Ask, ...], str]:
    asks = [ask(Side.MACHINE, "buses", bus, "interface")] if bus.interface is None else []
    asks += [ask(Side.PART, "drives", drive, "interface")] if drive.interface is None else []
    if bus.interface is None or drive.interface is None:
        return Answer.UNKNOWN, tuple(asks), ""
    if bus.interface is not drive.interface:
        pair = frozenset({bus.interface, drive.interface})
        if pair == _WITH_ADAPTER:
            return Answer.WITH, (), "an adapter between 16 and 8 bits, at the pace of the narrower"
        alike = f": {LOOK_ALIKES[pair]}" if pair in LOOK_ALIKES else ""
        return Answer.NOT, (), f"{drive.interface} does not run on {bus.interface}{alike}"
    if bus.interface is Interface.OWN:
        asks = [ask(Side.MACHINE, "buses", bus, "called")] if bus.called is None else []
        asks += [ask(Side.PART, "drives", drive, "called")] if drive.called is None else []
        if bus.called is None or drive.called is None:
            return Answer.UNKNOWN, tuple(asks), ""
        if bus.called.lower() != drive.called.lower():
            return Answer.NOT, (), f"its {drive.called} is not this maker’s {bus.called}"
    return Answer.FITS, (), ""


def drives_on(machine: Machine, bus: DriveBus) -> list[tuple[str, Drive]]:
    """The drives that are on a bus: those that sit at it by name, and those of its interface where one has it."""
    same = [one for one in machine.offers.buses or () if one.interface is bus.interface]
    return [
        (fitted.name, drive)
        for fitted, drive in machine.drives_in
        if fitted.at.lower() == bus.name.lower() or (drive.interface is bus.interface and same == [bus])
    ]


def _places(machine: Machine, bus: DriveBus, drive: Drive, at: str) -> Finding:
    on = drives_on(machine, bus)
    if bus.units is None:
        asks = (ask(Side.MACHINE, "buses", bus, "units"),)
        return Row("place on the bus", "not known", "one", at).unknown("find out", asks)
    has = f"{max(0, bus.units - len(on))} of {bus.units} free"
    if len(on) >= bus.units:
        does = f"{on[-1][0]} off {bus.name}" if on else ""
        answer = Answer.WITH if on else Answer.NOT
        return Finding("place on the bus", answer, has, "one", does or "none", does or f"{bus.name} takes none", at=at)
    taken = {other.id: name for name, other in on if other.id is not None}
    if drive.id in taken:
        free = next(number for number in range(16) if number not in taken)
        return Row("place on the bus", has, f"set to {drive.id}", at).fits_with(
            f"it set to {free}: {taken[drive.id]} is set to {drive.id}"
        )
    needs = "one" if drive.id is None else f"set to {drive.id}"
    return Row("place on the bus", has, needs, at).fits(
        "free", f"place on {bus.name}" if bus.units - len(on) == 1 else ""
    )


def _plug(machine: Machine, bus: DriveBus, drive: Drive, at: str) -> Iterator[Finding]:
    if bus.plug is None or drive.plug is None:
        asks = [ask(Side.MACHINE, "buses", bus, "plug")] if bus.plug is None else []
        asks += [ask(Side.PART, "drives", drive, "plug")] if drive.plug is None else []
        has, needs = bus.plug or "not known", drive.plug or "not known"
        yield Row("drive plug", has, needs, at).unknown("look at it", asks)
    elif end(bus.plug) == end(drive.plug):
        yield Row("drive plug", bus.plug, drive.plug, at).fits("the same")
    elif path := machine.ways.find(bus.plug, drive.plug):
        loss = f" ({'; '.join(path.losses)})" if path.losses else ""
        yield Finding(
            "drive plug", Answer.WITH, bus.plug, drive.plug, f"{path.words}{loss}", path.words, at=at, path=path
        )
    else:
        yield Row("drive plug", bus.plug, drive.plug, at).does_not(
            f"no adapter from {bus.plug} to {drive.plug} is known"
        )


def _ends(machine: Machine, bus: DriveBus, drive: Drive, at: str) -> Iterator[Finding]:
    if bus.ends is None and bus.interface in _WITH_ADAPTER:
        ends = ask(Side.MACHINE, "buses", bus, "ends")
        yield Row("termination", "not known", "", at).unknown("look at both ends", [ends])
    if not bus.ends:
        return
    there = [name for name, other in drives_on(machine, bus) if other.terminated]
    has = f"{listed(there)} terminated" if there else "no drive terminated"
    if drive.terminated is None:
        asks = (ask(Side.PART, "drives", drive, "terminated"),)
        yield Row("termination", has, "not known", at).unknown("look for its resistors", asks)
    elif drive.terminated and there:
        yield Row("termination", has, "terminated", at).fits_with(
            "its terminator out: only the last on the cable has one"
        )
    elif not drive.terminated and not there:
        yield Row("termination", has, "not terminated", at).fits_with("a terminator at the end of the cable")
    else:
        yield Row("termination", has, "terminated" if drive.terminated else "not", at).fits("as it is")


def _start(bus: DriveBus, drive: Drive, at: str) -> Iterator[Finding]:
    if drive.start is not True:
        return
    if bus.bootable is None:
        asks = (ask(Side.MACHINE, "buses", bus, "bootable"),)
        yield Row("starts from it", "not known", "start", at).unknown("try it", asks)
    elif bus.bootable:
        yield Row("starts from it", "starts from it", "start", at).fits("can")
    else:
        yield Row("starts from it", "does not start from it", "start", at).does_not(
            f"it does not start from {bus.name}"
        )


def _size(machine: Machine, bus: DriveBus, drive: Drive, at: str) -> Iterator[Finding]:
    if drive.size is None:
        return
    limits = [bus.largest, *(chip.largest_disk for chip in machine.offers.firmware or ())]
    known = [limit for limit in limits if limit is not None]
    needs = write_size(drive.size)
    if known and drive.size > min(known):
        counted = limit_named(min(known))
        yield Row("size of the disk", write_size(min(known)), needs, at).fits_with(
            f"only the first {write_size(min(known))} of its {needs}{f' ({counted})' if counted else ''}"
        )
    elif bus.largest is None:
        asks = (ask(Side.MACHINE, "buses", bus, "largest"),)
        yield Row("size of the disk", "not known", needs, at).unknown("find out", asks)
    else:
        yield Row("size of the disk", write_size(min(known)), needs, at).fits("seen whole")


@rule("bay", "EIA-740 and SFF-8501 form factors, from memory")
def bay(machine: Machine, part: Needs) -> Iterator[Finding]:
    for drive in part.drives or ():
        wants = f"{drive.bay or '?'}"
        there = machine.offers.bays
        said = None if there is None else [[in_bay(machine, one, drive, wants)] for one in there]
        yield from best_of(said, which("bays"), "bay", wants)


_WIDTH = {BaySize.IN25: 0, BaySize.IN35: 1, BaySize.IN525: 2, BaySize.IN8: 3}


def in_bay(machine: Machine, one: Bay, drive: Drive, wants: str = "") -> Finding:
    """What a bay says to a drive."""
    has, at = f"{one.name}, {one.size or '?'}", f"bay:{one.name}"
    row = Row("bay", has, wants, at)
    sizes = (one.size, drive.bay)
    if None not in sizes and one.size is not drive.bay and BaySize.OWN in sizes:
        return row.does_not(f"the bay takes only its maker’s own drives: {has}")
    if one.size in _WIDTH and drive.bay in _WIDTH and _WIDTH[drive.bay] > _WIDTH[one.size]:
        return row.does_not(f"a {drive.bay} drive is too wide for a {one.size} bay")
    for key, word in (("height", "high"), ("length", "deep")):
        room, wanted = getattr(one, key), getattr(drive, key)
        if room is not None and wanted is not None and wanted > room:
            return row.does_not(f"it is {plain(wanted)} mm {word}, {plain(room)} mm are there")
    keys = ("size", "height", "length", "rails")
    asks = [ask(Side.MACHINE, "bays", one, key) for key in keys if getattr(one, key) is None]
    asks += [ask(Side.PART, "drives", drive, key) for key in ("bay", "height", "length") if getattr(drive, key) is None]
    if asks:
        return row.unknown("find out", asks)
    withs = [f"{sitting.name} out of the {one.name}"] if (sitting := machine.in_place(one.name)) else []
    withs += [f"a frame from {drive.bay} to {one.size}"] if one.size is not drive.bay else []
    withs += ["rails"] if not one.rails else []
    if withs:
        return row.fits_with(listed(withs))
    free = [bay for bay in machine.offers.bays or () if bay.size is one.size and machine.in_place(bay.name) is None]
    return row.fits(f"into the {one.name}", f"free {one.size} bay" if len(free) == 1 else "")


@rule("disks", "ECMA-70, ECMA-125, ECMA-99, ISO 9529, from memory; narrow tracks: common practice, no source")
def disks(machine: Machine, part: Needs) -> Iterator[Finding]:
    """Which of the disks that its kind exchanges the drive reads and writes. Of a disk drive only."""
    for drive in part.drives or ():
        if drive.reads is None and drive.writes is None:
            continue
        if machine.offers.disks is None:
            asks = (Ask(Side.MACHINE, "disks", "disks", "formats", "which disks its system starts from"),)
            yield Row("disks", "not known", ", ".join(drive.reads or ())).unknown("find out", asks)
            continue
        wanted = [name for one in machine.offers.disks for name in one.formats or ()]
        reads, writes = set(drive.reads or ()), set(drive.writes or ())
        has, gives = ", ".join(map(_size_of, wanted)) or "none", ", ".join(drive.reads or ()) or "not known"
        unread = [name for name in wanted if name not in reads and name not in writes]
        narrow = [name for name in wanted if any((own, name) in NARROW_TRACKS for own in reads | writes)]
        if drive.reads is None or drive.writes is None:
            key = "reads" if drive.reads is None else "writes"
            asks = (ask(Side.PART, "drives", drive, key),)
            yield Row("disks", has, gives).unknown("try one", asks)
        elif wanted and unread == wanted:
            yield Row("disks", has, gives).does_not(
                f"it reads none of the disks that are used with it: {listed(unread)}"
            )
        elif unread:
            yield Row("disks", has, gives).fits_with(f"another drive for {listed(unread)}")
        elif narrow:
            yield Row("disks", has, gives).fits_with(
                f"care: a drive of {listed(narrow)} may not read what this one writes"
            )
        elif only := [name for name in wanted if name not in writes]:
            yield Row("disks", has, gives).fits_with(f"{listed(only)} read, not written")
        else:
            yield Row("disks", has, gives).fits("reads and writes them")


def _size_of(name: str) -> str:
    one = FORMATS.get(name)
    return f"{name} ({one.size:,} B)" if one else name
