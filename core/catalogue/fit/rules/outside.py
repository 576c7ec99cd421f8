"""What is plugged in from outside: keyboards, mice, lines; and screens, with line and field rates."""

from collections.abc import Iterator

from core.catalogue.fit.answers import Answer, Finding, Row, Side, ask
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs, Screen, Wire
from core.catalogue.fit.offers import Picture, Port
from core.catalogue.fit.paths import Path, Rates, end
from core.catalogue.fit.rules.register import best_of, rule, which
from core.catalogue.fit.schema import plain

DESTROYS = "It can destroy the screen: don’t switch on."


@rule("port", "plug and protocol as printed; common practice, no source")
def port(machine: Machine, part: Needs) -> Iterator[Finding]:
    for wire in part.wires or ():
        wants = f"{wire.protocol or '?'}, {wire.plug or '?'}"
        there = machine.offers.ports
        said = None if there is None else [[in_port(machine, one, wire, wants)] for one in there]
        yield from best_of(said, which("ports"), "port", wants)


def in_port(machine: Machine, one: Port, wire: Wire, wants: str = "") -> Finding:
    """What a port says to what is plugged in."""
    has, at = f"{one.protocol or '?'}, {one.plug or '?'}", f"port:{one.name}"
    speaks = (one.protocol or "").lower() == (wire.protocol or "").lower()
    if one.protocol is not None and wire.protocol is not None and not speaks:
        return Row("port", has, wants, at).does_not(
            f"it speaks {wire.protocol}, the port {one.protocol}: that it sometimes answers proves nothing"
        )
    asks = [ask(Side.MACHINE, "ports", one, key) for key in ("protocol", "plug") if getattr(one, key) is None]
    asks += [ask(Side.PART, "wires", wire, key) for key in ("protocol", "plug") if getattr(wire, key) is None]
    if one.plug is None or wire.plug is None or asks:
        return Row("port", has, wants, at).unknown("find out", asks)
    if sitting := machine.in_place(one.name):
        return Row("port", has, wants, at).fits_with(f"{sitting.name} out of {one.name}")
    if end(one.plug) == end(wire.plug):
        same = [
            two
            for two in machine.offers.ports or ()
            if two.protocol == one.protocol and end(two.plug or "") == end(one.plug)
        ]
        free = [two for two in same if machine.in_place(two.name) is None]
        return Row("port", has, wants, at).fits(
            f"into {one.name}", f"free {one.protocol} port" if len(free) == 1 else ""
        )
    path = machine.ways.find(one.plug, wire.plug)
    if path is None:
        return Row("port", has, wants, at).does_not(f"no adapter from {one.plug} to {wire.plug} is known")
    return Row("port", has, wants, at).fits_with(path.words, path)


@rule("picture", "ITU-R BT.1700 for 15.625/50 and 15.734/59.94; VESA 640 × 480 for 31.469/59.94; from memory")
def picture(machine: Machine, part: Needs) -> Iterator[Finding]:
    for screen in part.screens or ():
        wants = f"{screen.plug or '?'}, {', '.join(screen.signals or ('?',))}; {_rates(screen)}"
        there = machine.offers.pictures
        said = None if there is None else [[on_screen(machine, one, screen, wants)] for one in there]
        yield from best_of(said, which("pictures"), "picture", wants)


def on_screen(machine: Machine, one: Picture, screen: Screen, wants: str = "") -> Finding:
    """One picture on a screen: as it is, through converters, or not."""
    at = f"picture:{one.name}"
    has = f"{one.plug or '?'}, {one.signal or '?'}; {_khz(one.line)} kHz, {_khz(one.field)} Hz"
    asks = [ask(Side.MACHINE, "pictures", one, k) for k in ("plug", "signal") if getattr(one, k) is None]
    asks += [ask(Side.PART, "screens", screen, k) for k in ("plug", "signals") if getattr(screen, k) is None]
    if one.end is None or screen.plug is None or screen.signals is None:
        return Row("picture", has, wants, at).unknown("look at both plugs", asks)
    given = Rates(one.line, one.field)
    wanted = [f"{screen.plug}/{signal}" for signal in screen.signals]
    if any(end(goal) == end(one.end) for goal in wanted):
        direct = _locks(one, screen, given, has, wants, at, None)
        if direct.answer is not Answer.NOT:
            return direct
    else:
        direct = None
    takes = lambda rates: taken(screen, rates) is not False  # noqa: E731
    ways = [
        way for goal in wanted for way in machine.ways.several(one.end, goal, given=given, takes=takes) if way.steps
    ]
    if ways:
        best = min(ways, key=lambda way: (len(way.losses), len(way.steps)))
        return _locks(one, screen, best.rates(given), has, wants, at, best)
    if direct is not None:
        return direct
    why = f"no way from {one.end} to {' or '.join(wanted)} is known"
    if blind := next((way for goal in wanted for way in machine.ways.several(one.end, goal, most=1)), None):
        return _locks(one, screen, blind.rates(given), has, wants, at, blind)
    return Row("picture", has, wants, at).does_not(why)


def taken(screen: Screen, rates: Rates) -> bool | None:
    """Whether a screen locks to these; None where something is not known."""
    known = [
        None if span is None or value is None else span.holds(value)
        for span, value in ((screen.line, rates.line), (screen.field, rates.field))
    ]
    return False if False in known else None if None in known else True


def _locks(one: Picture, screen: Screen, rates: Rates, has: str, wants: str, at: str, path: Path | None) -> Finding:
    """What the screen does with the rates that come to it, through converters or straight."""
    if screen.line is not None and rates.line is not None and not screen.line.holds(rates.line):
        why = f"{_khz(rates.line)} kHz on a screen for {screen.line} kHz"
        if screen.fixed is not False:
            return Row("picture", has, wants, at).does_not(why, DESTROYS)
        return Finding("picture", Answer.NOT, has, wants, why, f"no lock: {why}", at=at)
    if screen.field is not None and rates.field is not None and not screen.field.holds(rates.field):
        return Row("picture", has, wants, at).does_not(
            f"no lock, the picture rolls: {_khz(rates.field)} Hz on a screen for {screen.field} Hz"
        )
    asks = [ask(Side.PART, "screens", screen, key) for key in ("line", "field") if getattr(screen, key) is None]
    asks += [ask(Side.MACHINE, "pictures", one, key) for key in ("line", "field") if getattr(rates, key) is None]
    if asks:
        why = "measure the rates before it is switched on"
        return Row("picture", has, wants, at).unknown(why, asks)
    if path is None:
        return Row("picture", has, wants, at).fits("locks")
    loss = f" ({'; '.join(path.losses)})" if path.losses else ""
    return Row("picture", has, wants, at).fits_with(f"{path.words}{loss}", path)


def _rates(screen: Screen) -> str:
    return f"{screen.line or '?'} kHz, {screen.field or '?'} Hz"


def _khz(value: object) -> str:
    return "?" if value is None else plain(value)  # type: ignore[arg-type]
