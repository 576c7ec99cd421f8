"""Processors and clocks: socket, volts, multiplier, what the slowest card costs, sockets that were stretched."""

from collections.abc import Iterator
from decimal import Decimal

from core.catalogue.fit.answers import Answer, Ask, Finding, Row, Side, ask
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Card, Needs, Processor
from core.catalogue.fit.offers import Socket
from core.catalogue.fit.rules.register import best_of, rule, which
from core.catalogue.fit.rules.slots import placing
from core.catalogue.fit.schema import plain

PRACTICE = "common practice, no source"


def mhz(bus: Decimal, multiplier: Decimal) -> Decimal:
    """What a processor runs at: bus × multiplier, to a hundredth of a MHz."""
    return round(bus * multiplier, 2)


def holds(machine: Machine) -> list[tuple[str, Decimal]]:
    """Cards in slots that run at the processor's bus clock, with the fastest clock each runs at."""
    follow = {slot.name.lower() for slot in machine.offers.slots or () if slot.follows}
    return [
        (fitted.name, card.fastest)
        for fitted in machine.fitted
        if fitted.at.lower() in follow
        for card in fitted.needs.cards or ()
        if card.fastest is not None
    ]


def settable(socket: Socket, most: Decimal | None = None, also: tuple[Decimal, ...] | None = None) -> list[Decimal]:
    """Bus clocks the socket can be set to, up to `most`, of those the processor also runs at; slowest first."""
    return [clock for clock in socket.bus or () if (most is None or clock <= most) and (also is None or clock in also)]


@rule("clock", "arithmetic: bus × multiplier; " + PRACTICE)
def clock(machine: Machine, part: Needs) -> Iterator[Finding]:
    for card in part.cards or ():
        best = placing(machine, card)
        if best is not None:
            yield from _card_clock(machine, card, best.slot.name)


def _card_clock(machine: Machine, card: Card, at: str) -> Iterator[Finding]:
    slot = next(slot for slot in machine.offers.slots or () if slot.name == at)
    place = f"slot:{slot.name}"
    socket, processor = machine.processor_in
    runs = socket.bus_now if slot.follows and socket else slot.clock
    wants = f"up to {plain(card.fastest)} MHz" if card.fastest is not None else "not known"
    if runs is None or card.fastest is None:
        asks = [ask(Side.PART, "cards", card, "fastest")] if card.fastest is None else []
        if runs is None and slot.follows and socket:
            asks.append(ask(Side.MACHINE, "sockets", socket, "bus now"))
        elif runs is None:
            asks.append(ask(Side.MACHINE, "slots", slot, "clock"))
        has = f"{plain(runs)} MHz" if runs is not None else "not known"
        yield Row("clock", has, wants, place).unknown("find out", asks)
        return
    has = f"{plain(runs)} MHz"
    if runs <= card.fastest:
        yield Row("clock", has, wants, place).fits("as it is")
        return
    slower = settable(socket, card.fastest, processor.bus if processor else None) if slot.follows and socket else []
    if not slower:
        yield Row("clock", has, wants, place).does_not(
            f"the bus runs at {plain(runs)} MHz, it at {plain(card.fastest)} at most"
        )
        return
    does = f"the bus set to {plain(slower[-1])} MHz"
    multiplier = processor.multiplier if processor else None
    if multiplier is not None:
        now, then = mhz(runs, multiplier), mhz(slower[-1], multiplier)
        does += f", which costs {plain(now - then)} MHz of {plain(now)}"
    yield Row("clock", has, wants, place).fits_with(does)


@rule("processor", "socket and jumper tables of the board; " + PRACTICE)
def processor(machine: Machine, part: Needs) -> Iterator[Finding]:
    for chip in part.processors or ():
        there = machine.offers.sockets
        said = None if there is None else [_in_socket(machine, one, chip) for one in there]
        yield from best_of(said, which("sockets"), "processor", chip.kind or "not known")


def _in_socket(machine: Machine, socket: Socket, one: Processor) -> list[Finding]:
    at = f"socket:{socket.name}"
    if socket.kind is not None and one.kind is not None and socket.kind.lower() != one.kind.lower():
        why = f"it is for {one.kind}, the socket is {socket.kind}"
        return [Row("processor", socket.kind, one.kind, at).does_not(why)]
    said = [_kind(machine, socket, one, at), _volts(socket, one, at), _speed(machine, socket, one, at)]
    said += [_room(socket, one, at), _heat(socket, one, at)]
    return [finding for finding in (*said, _known(machine, one, at), _pins(machine, socket, one, at)) if finding]


def _kind(machine: Machine, socket: Socket, one: Processor, at: str) -> Finding:
    if socket.kind is None or one.kind is None:
        return _ask("processor", socket, one, "kind", "kind", at)
    if sitting := machine.in_place(socket.name):
        return Row("processor", socket.kind, one.kind, at).fits_with(f"{sitting.name} out of {socket.name}")
    return Row("processor", socket.kind, one.kind, at).fits(f"into {socket.name}")


def _volts(socket: Socket, one: Processor, at: str) -> Finding:
    if socket.volts is None or one.volts is None:
        return _ask("core volts", socket, one, "volts", "volts", at)
    has, needs = f"{socket.volts} V", f"{plain(one.volts)} V"
    if socket.volts.holds(one.volts):
        return Row("core volts", has, needs, at).fits("can be set")
    why = f"it wants {needs}, the board gives {has}"
    hazard = "Too many volts destroy it: don’t switch on." if socket.volts.low > one.volts else ""
    return Row("core volts", has, needs, at).does_not(why, hazard)


def _speed(machine: Machine, socket: Socket, one: Processor, at: str) -> Finding:
    if socket.bus is None or one.bus is None or one.multiplier is None or socket.multipliers is None:
        asks = [ask(Side.MACHINE, "sockets", socket, key) for key in ("bus", "multipliers") if not getattr(socket, key)]
        asks += [ask(Side.PART, "processors", one, key) for key in ("bus", "multiplier") if not getattr(one, key)]
        return Row("bus × multiplier", "", "", at).unknown("find out", asks)
    has = f"{', '.join(map(plain, socket.bus))} MHz × {', '.join(map(plain, socket.multipliers))}"
    needs = f"{', '.join(map(plain, one.bus))} MHz × {plain(one.multiplier)}"
    if one.multiplier not in socket.multipliers:
        return Row("bus × multiplier", has, needs, at).does_not(f"the board can’t be set to × {plain(one.multiplier)}")
    slowest = min(holds(machine), key=lambda held: held[1], default=None)
    fast = [bus for bus in settable(socket, None, one.bus) if not one.most or mhz(bus, one.multiplier) <= one.most]
    usable = [bus for bus in fast if slowest is None or bus <= slowest[1]]
    if not usable:
        why = (
            "no bus clock suits both" if not fast else f"{slowest[0] if slowest else ''} holds the bus below all of its"
        )
        return Row("bus × multiplier", has, needs, at).does_not(why)
    runs = mhz(usable[-1], one.multiplier)
    so = f"{plain(usable[-1])} × {plain(one.multiplier)} = {plain(runs)} MHz"
    if slowest and fast[-1] != usable[-1]:
        does = f"{plain(runs)} MHz instead of {plain(mhz(fast[-1], one.multiplier))}: {slowest[0]} holds the bus"
        return Finding("bus × multiplier", Answer.WITH, has, needs, so, does, at=at)
    if one.most and runs < one.most:
        so += f" of {plain(one.most)}: the bus limits it"
    if socket.bus_now is not None and socket.bus_now != usable[-1]:
        return Finding(
            "bus × multiplier", Answer.WITH, has, needs, so, f"the bus set to {plain(usable[-1])} MHz", at=at
        )
    return Row("bus × multiplier", has, needs, at).fits(so)


def _room(socket: Socket, one: Processor, at: str) -> Finding:
    if socket.clear is None or one.height is None:
        return _ask("room above", socket, one, "clear", "height", at)
    has, needs = f"{plain(socket.clear)} mm", f"{plain(one.height)} mm"
    if one.height <= socket.clear:
        return Row("room above", has, needs, at).fits(f"{plain(socket.clear - one.height)} mm to spare")
    return Row("room above", has, needs, at).does_not(f"it is {needs} high, {has} are clear")


def _heat(socket: Socket, one: Processor, at: str) -> Finding:
    if socket.watts is None or one.watts is None:
        return _ask("heat", socket, one, "watts", "watts", at)
    row = Row("heat", f"{plain(socket.watts)} W", f"{plain(one.watts)} W", at)
    return row.fits("carried away") if one.watts <= socket.watts else row.fits_with(f"more cooling over {socket.name}")


def _known(machine: Machine, one: Processor, at: str) -> Finding | None:
    chips = machine.offers.firmware
    if chips == () or not one.step:
        return None
    known = [chip for chip in chips or () if chip.knows is not None]
    if not known:
        asks = tuple(ask(Side.MACHINE, "firmware", chip, "knows") for chip in chips or ()) or (
            Ask(Side.MACHINE, "firmware", "", "", "which firmware it has, and which processors that knows"),
        )
        return Row("firmware knows it", "not known", one.step, at).unknown("look it up", asks)
    has = ", ".join(name for chip in known for name in chip.knows or ())
    if one.step.lower() in {name.lower() for chip in known for name in chip.knows or ()}:
        return Row("firmware knows it", has, one.step, at).fits("known")
    return Row("firmware knows it", has, one.step, at).fits_with(f"firmware that knows {one.step}")


def _pins(machine: Machine, socket: Socket, one: Processor, at: str) -> Finding | None:
    """A socket once spread by thick pins makes contact with nothing else; the first thick ones spread it."""
    worn = socket.name.lower() in machine.stretched
    has = "stretched by thicker pins" if worn else "as made"
    if one.thick_pins is None:
        asks = (ask(Side.PART, "processors", one, "thick pins"),)
        return Row("pins", has, "not known", at).unknown("look at its pins", asks)
    if one.thick_pins and not worn:
        does = "its round pins spreading the socket: nothing else makes contact there afterwards"
        return Finding("pins", Answer.WITH, has, "thicker pins", "spreads the socket", does, at=at)
    if worn and not one.thick_pins:
        return Row("pins", has, "thin pins", at).does_not(
            "the socket was stretched by thicker pins and does not hold thin ones"
        )
    return Row("pins", has, "thicker pins" if one.thick_pins else "thin pins", at).fits("makes contact")


def _ask(rule_name: str, socket: Socket, one: Processor, key: str, own: str, at: str) -> Finding:
    asks = [ask(Side.MACHINE, "sockets", socket, key)] if getattr(socket, key) is None else []
    asks += [ask(Side.PART, "processors", one, own)] if getattr(one, own) is None else []
    has, needs = (("not known" if value is None else str(value)) for value in (getattr(socket, key), getattr(one, own)))
    return Row(rule_name, has, needs, at).unknown("find out", asks)
