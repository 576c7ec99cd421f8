"""What a machine offers, drawn from its data: slots, sockets, memory, bays, rails, interrupts, DMA, addresses.

Geometry only. Each block is one drawing for the width it is given; it is called again for another one, never scaled.
What is not known is not drawn. The part that is tried is drawn where the rules put it (`Finding.at`).
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal

from core.catalogue.fit.answers import Answer, Finding, Verdict
from core.catalogue.fit.kinds import Bus
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import MemoryModule, Needs
from core.catalogue.fit.offers import Module, Offers, Slot
from core.catalogue.fit.rules.power import RUNNING
from core.catalogue.fit.schema import block_of, plain, write_size

DESK, PHONE = 528.0, 342.0  # px a block is drawn wide
LETTER, SMALL = 6.6, 5.7  # width of a letter of 12.5 px and of 11 px, on average
ROW = 30.0


@dataclass(frozen=True)
class Rect:
    x: float
    y: float
    w: float
    h: float
    style: str
    title: str = ""
    at: str = ""


@dataclass(frozen=True)
class Text:
    x: float
    y: float
    words: str
    style: str = ""
    anchor: str = "start"


@dataclass(frozen=True)
class Line:
    d: str
    style: str


@dataclass
class Block:
    """One drawing: what it is called, and its shapes in the order they are drawn."""

    name: str
    width: float
    height: float
    rects: list[Rect] = field(default_factory=list)
    lines: list[Line] = field(default_factory=list)
    texts: list[Text] = field(default_factory=list)


@dataclass(frozen=True)
class Drawn:
    """The same blocks for a desk and for a phone."""

    desk: tuple[Block, ...]
    phone: tuple[Block, ...]


def draw(machine: Machine, part: Needs | None = None, verdict: Verdict | None = None) -> Drawn:
    """All blocks there are data for."""
    # Of two findings at a place the worse one says whether the part sits there.
    said = sorted(verdict.findings if verdict else (), key=lambda finding: finding.answer.rank)
    findings = {finding.at: finding for finding in said if finding.at}
    return Drawn(_blocks(machine, part, findings, DESK), _blocks(machine, part, findings, PHONE))


def draw_part(part: Needs) -> Drawn:
    """A part by itself: its card to scale, and what it takes and can be set to."""
    bare = Machine(Offers(devices=()))
    return Drawn(*(tuple(filter(None, _part_blocks(bare, part, width))) for width in (DESK, PHONE)))


def _part_blocks(bare: Machine, part: Needs, width: float) -> tuple[Block | None, ...]:
    kinds = {use.kind for use in part.uses or ()}
    return (
        _card(part, width),
        _numbers(bare, part, {}, "irq", width) if "irq" in kinds else None,
        _numbers(bare, part, {}, "dma", width) if "dma" in kinds else None,
        _addresses(bare, part, width),
    )


def _card(part: Needs, width: float) -> Block | None:
    """A card as seen from its side, in mm; its edge at the foot."""
    card = next(iter(part.cards or ()), None)
    if card is None or card.length is None or card.height is None:
        return None
    scale = min((width - 4) / 340, 1.4)
    long, high = float(card.length) * scale, float(card.height) * scale
    block = Block("card, to scale", width, high + 30, [Rect(2, 2, long, high, "fit-in", f"{card.bus or '?'} card")])
    for start, wide in _connector(card.bus):
        block.rects.append(Rect(12 + start, high - 2, wide, 8, "fit-edge"))
    block.texts.append(Text(12, 22, fitted_into(str(card.bus or "bus not known"), long - 16), "b"))
    block.texts.append(Text(2, high + 24, f"{plain(card.length)} × {plain(card.height)} mm", "mono s"))
    return block


def _blocks(machine: Machine, part: Needs | None, findings: Mapping[str, Finding], width: float) -> tuple[Block, ...]:
    drawn = (
        _slots(machine, part, findings, width),
        _sockets(machine, findings, width),
        _memory(machine, findings, width),
        _bays(machine, findings, width),
        _rails(machine, part, width),
        _numbers(machine, part, findings, "irq", width),
        _numbers(machine, part, findings, "dma", width),
        _addresses(machine, part, width),
    )
    return tuple(block for block in drawn if block is not None)


def fitted_into(words: str, room: float, letter: float = LETTER) -> str:
    """As much of some words as there is room for, in px."""
    most = int(room / letter)
    return words if len(words) <= most else f"{words[: max(0, most - 1)].rstrip()}…" if most > 2 else ""


def _here(findings: Mapping[str, Finding], at: str) -> bool:
    return at in findings and findings[at].answer is not Answer.NOT


def _slots(machine: Machine, part: Needs | None, findings: Mapping[str, Finding], width: float) -> Block | None:
    slots = machine.offers.slots
    if slots is None:
        return None
    if not slots:
        return Block("slots", width, 34, texts=[Text(0, 22, "No slots. Look at the ports.", "soft")])
    left, right = min(86.0, max(26.0, 10 + LETTER * max(len(slot.name) for slot in slots))), 78.0
    room = width - left - right
    longest = max([slot.length for slot in slots if slot.length is not None], default=Decimal(340))
    scale = room / float(longest)
    block = Block("slots", width, 18 + ROW * len(slots) + 22)
    block.texts.append(Text(left, 11, "frame: room for a card; bar: its connector", "soft s"))
    for row, slot in enumerate(slots):
        _slot(block, slot, machine, part, findings, (left, 18 + ROW * row, scale, width))
    foot = 18 + ROW * len(slots) + 10
    block.lines.append(
        Line(f"M{left} {foot}H{left + room}M{left} {foot - 4}v8M{left + room} {foot - 4}v8", "fit-scale")
    )
    block.texts.append(Text(left + room / 2, foot + 11, f"{plain(longest)} mm", "mono s", "middle"))
    return block


def _slot(
    block: Block,
    slot: Slot,
    machine: Machine,
    part: Needs | None,
    findings: Mapping[str, Finding],
    where: tuple[float, float, float, float],
) -> None:
    left, y, scale, width = where
    at = f"slot:{slot.name}"
    room = float(slot.length) * scale if slot.length is not None else width - left - 78
    sits, this = machine.in_place(slot.name), _here(findings, at)
    card = next(iter((part.cards if part and this else sits.needs.cards if sits else None) or ()), None)
    who = "this part" if this else sits.name if sits else ""
    block.texts.append(Text(0, y + 18, fitted_into(slot.name, left - 4), "b"))
    title = f"slot {slot.name}, {slot.bus or 'bus not known'}: {who or 'free'}"
    block.rects.append(Rect(left, y, room, ROW - 6, "fit-free", title, at))
    if who:
        long = min(room, float(card.length) * scale) if card and card.length is not None else room * 0.6
        style = "fit-this" if this else "fit-in"
        block.rects.append(Rect(left, y, long, ROW - 6, style, title, at))
        block.texts.append(Text(left + 6, y + 13, fitted_into(who, long - 10), "t" if this else ""))
        for start, wide in _connector(card.bus if card else slot.bus):
            block.rects.append(Rect(left + 4 + start, y + ROW - 12, min(wide, max(8, long - 8 - start)), 4, "fit-edge"))
    else:
        block.texts.append(Text(left + 6, y + 16, "free", "soft"))
    bus = slot.called or str(slot.bus or "?")
    block.texts.append(Text(width, y + 16, fitted_into(bus, 72), "soft mono s", "end"))


def _connector(bus: Bus | None) -> list[tuple[float, float]]:
    """The pieces of a connector: where each begins, and how long it is."""
    two = {Bus.BIT16, Bus.BIT32, Bus.PCI64, Bus.PCIX}
    if bus is Bus.LOCAL:
        return [(0, 62), (66, 38), (110, 30)]
    return [(0, 62), (66, 38)] if bus in two else [(0, 62)]


def _sockets(machine: Machine, findings: Mapping[str, Finding], width: float) -> Block | None:
    sockets = machine.offers.sockets
    if not sockets:
        return None
    block = Block("sockets", width, 18 + 46)
    each = min(150.0, width / len(sockets))
    for place, socket in enumerate(sockets):
        at, x = f"socket:{socket.name}", place * each
        sits, this = machine.in_place(socket.name), _here(findings, at)
        style = "fit-this" if this else "fit-in" if sits else "fit-free"
        worn = ", stretched" if socket.name.lower() in machine.stretched else ""
        who = "this part" if this else sits.name if sits else "free"
        block.rects.append(Rect(x, 18, each - 10, 40, style, f"{socket.name}: {who}{worn}", at))
        block.texts.append(Text(x, 11, fitted_into(f"{socket.name}{worn}", each - 10), "soft s"))
        block.texts.append(Text(x + 8, 35, fitted_into(who, each - 24), "t" if this else ""))
        runs = f"{plain(socket.bus_now)} MHz bus" if socket.bus_now is not None else socket.kind or ""
        block.texts.append(Text(x + 8, 51, fitted_into(runs, each - 24), "soft s"))
    return block


def _memory(machine: Machine, findings: Mapping[str, Finding], width: float) -> Block | None:
    modules = machine.offers.modules
    if not modules:
        return None
    banks: dict[str, list[Module]] = {}
    for module in modules:
        banks.setdefault(module.bank or module.name, []).append(module)
    wide = (width - 16 * (min(2, len(banks)) - 1)) / min(2, len(banks))
    block, y, lowest = Block("memory", width, 0), 0.0, 0.0
    for place, (bank, inside) in enumerate(sorted(banks.items(), key=lambda pair: min(m.turn or 0 for m in pair[1]))):
        x = (place % 2) * (wide + 16)
        y = lowest if place % 2 == 0 else y
        block.texts.append(Text(x, y + 12, fitted_into(f"bank {bank}: {inside[0].kind or '?'}", wide), "soft s"))
        for row, module in enumerate(inside):
            sits = machine.in_place(module.name)
            this = _here(findings, f"module:{module.name}")
            top = y + 18 + row * 16
            style = "fit-this" if this else "fit-solid" if sits else "fit-free"
            inside_it = next(iter(sits.needs.modules or ()), None) if sits else None
            says = "this part" if this else "free" if not sits else _module_words(inside_it)
            title = f"{module.name}: {sits.name if sits else says}"
            block.rects.append(Rect(x + 26, top, wide - 130, 11, style, title, f"module:{module.name}"))
            block.texts.append(Text(x, top + 10, fitted_into(module.name, 26), "mono s"))
            block.texts.append(Text(x + wide - 90, top + 10, fitted_into(says, 90, SMALL), "t s" if this else "soft s"))
        group = machine.board.group if machine.board and machine.board.group else 1
        for start in range(0, len(inside) if group > 1 else 0, group):
            top, foot = y + 20 + start * 16, y + 27 + (start + group - 1) * 16
            block.lines.append(Line(f"M{x + wide - 100} {top}h5V{foot}h-5", "fit-brace"))
        lowest = max(lowest, y + 24 + len(inside) * 16)
    block.height = lowest
    return block


def _module_words(module: MemoryModule | None) -> str:
    """How large a module is, and its part number; ? for what nobody said."""
    if module is None:
        return "?"
    return " ".join(filter(None, [write_size(module.size) if module.size is not None else "?", module.make]))


def _bays(machine: Machine, findings: Mapping[str, Finding], width: float) -> Block | None:
    bays = machine.offers.bays
    if not bays:
        return None
    each = min(130.0, width / min(4, len(bays)))
    across = max(1, int(width // each))
    block = Block("drive bays", width, 4 + 40 * -(-len(bays) // across))
    for place, bay in enumerate(bays):
        x, y = (place % across) * each, 2 + 40.0 * (place // across)
        at = f"bay:{bay.name}"
        sits, this = machine.in_place(bay.name), _here(findings, at)
        style = "fit-this" if this else "fit-in" if sits else "fit-free"
        who = "this part" if this else sits.name if sits else "free"
        block.rects.append(Rect(x, y, each - 8, 34, style, f"{bay.name}, {bay.size or '?'}: {who}", at))
        block.texts.append(Text(x + 8, y + 14, fitted_into(who, each - 24), "t" if this else ""))
        block.texts.append(Text(x + 8, y + 28, fitted_into(f"{bay.name}, {bay.size or '?'}", each - 24), "soft s"))
    return block


def _rails(machine: Machine, part: Needs | None, width: float) -> Block | None:
    rails = [rail for rail in machine.offers.rails or () if rail.amps]
    if not rails:
        return None
    left, right = 54.0, 146.0 if width > 400 else 48.0
    room = width - left - right
    block = Block("rails", width, 22 + 28 * len(rails))
    block.texts.append(Text(left, 11, "now, this part, more at the start", "soft s"))
    block.texts.append(Text(left + room, 11, "kept in hand", "loss s", "end"))
    adds = {draw.volts: draw for draw in (part.draws if part else None) or ()}
    for row, rail in enumerate(rails):
        amps, load, draw, y = float(rail.amps or 1), machine.loads[rail.volts], adds.get(rail.volts), 18.0 + 28 * row
        scale, usable = room / amps, room * float(RUNNING)
        now = float(load.running)
        more = float(draw.amps or 0) if draw else 0.0
        start = float(load.more_at_start) + float((draw.more_at_start if draw else None) or 0)
        block.texts.append(Text(0, y + 14, f"{rail.name} V", "b"))
        title = f"{rail.name} V: {plain(load.running)} of {plain(rail.amps or Decimal(0))} A"
        block.rects.append(Rect(left, y, room, 18, "fit-line", title, f"rail:{rail.name}"))
        block.rects.append(Rect(left + usable, y, room - usable, 18, "fit-hatch"))
        ends = [min(room, value * scale) for value in (now, now + more, now + more + start)]
        block.rects.append(Rect(left, y, ends[0], 18, "fit-solid"))
        block.rects.append(Rect(left + ends[0], y, ends[1] - ends[0], 18, "fit-dots"))
        block.rects.append(Rect(left + ends[1], y, ends[2] - ends[1], 18, "fit-later"))
        block.lines.append(Line(f"M{left + usable} {y - 2}v22", "fit-limit"))
        share = round(100 * (now + more) / (amps * float(RUNNING)))
        asked = "at least " if load.asks else ""
        words = f"{asked}{plain(Decimal(str(round(now + more, 2))))} of {plain((rail.amps or Decimal(0)) * RUNNING)} A"
        block.texts.append(
            Text(width - 40, y + 14, fitted_into(words, right - 44) if width > 400 else "", "soft mono s", "end")
        )
        block.texts.append(Text(width, y + 14, f"{share} %", "b", "end"))
    return block


def _numbers(
    machine: Machine, part: Needs | None, findings: Mapping[str, Finding], kind: str, width: float
) -> Block | None:
    """Interrupts or DMA channels as cells; on a phone in two rows. An arrow goes where a setting moves one."""
    name, count = ("interrupts", 16) if kind == "irq" else ("DMA", 8)
    if machine.offers.devices is None:
        return None
    rows = 2 if count > 8 and width < 400 else 1
    across = count // rows
    each = min(66.0, width / across)
    block = Block(name, width, rows * 40 + 2)
    taken: dict[str, list[str]] = {}
    for number, taker, _ in machine.taken(kind):
        taken.setdefault(number, []).append(taker)
    uses = [use for use in (part.uses if part else None) or () if use.kind == kind]
    wants = {use.now for use in uses}
    may = {str(int(value)) for use in uses for value in getattr(use, kind)}
    alone = not machine.offers.devices and not machine.fitted
    goes = {finding.at: finding.to for finding in findings.values() if finding.to}
    centre = {str(cell): ((cell % across + 0.5) * each, 14.0 + 40 * (cell // across)) for cell in range(count)}
    for cell, (x, y) in centre.items():
        by, at = taken.get(cell, []), f"{kind}:{cell}"
        comes, clash = at in goes.values(), len(by) + (cell in wants) > 1
        style = "fit-clash" if clash else "fit-this" if cell in wants or comes else "fit-in" if by else "fit-free"
        who = ", ".join([*by, *(["this part"] if cell in wants or comes else [])]) or ("" if alone else "free")
        block.rects.append(Rect(x - each / 2, y, each - 2, 22, style, f"{name} {cell}: {who}", at))
        block.texts.append(Text(x, y - 3, cell, "mono s", "middle"))
        tone = "loss s" if clash else "s" if by or cell in wants or comes else "soft s"
        block.texts.append(
            Text(
                x - 1,
                y + 15,
                fitted_into("clash" if clash else who.replace("this part", "this"), each - 3, SMALL),
                tone,
                "middle",
            )
        )
        if cell in may - wants and not by:
            block.lines.append(Line(f"M{x - each / 2 + 1} {y + 25}h{each - 4}", "fit-may"))
        if at in goes:
            there, below = centre[goes[at].partition(":")[2]]
            block.lines.append(Line(f"M{x} {y + 23}v5H{there}V{below + 23}", "fit-moved"))
    return block


def _addresses(machine: Machine, part: Needs | None, width: float) -> Block | None:
    found: list[tuple[int, int, str, str]] = []
    for device in machine.offers.devices or ():
        found += [(block.first, block.last, device.name, "fit-solid") for block in device.io or ()]
    for fitted in machine.fitted:
        for use in fitted.needs.uses or ():
            if use.io is not None and use.now is not None:
                at = block_of(use.now)
                found.append((at.first, at.last, fitted.name, "fit-solid"))
    for use in (part.uses if part else None) or ():
        if use.io is not None and use.now is not None:
            at = block_of(use.now)
            found.append((at.first, at.last, "this part", "fit-bar"))
    if not found:
        return None
    low = min(first for first, *_ in found) // 64 * 64
    high = (max(last for _, last, *_ in found) // 64 + 1) * 64
    scale = width / (high - low)
    drawn = Block("addresses, hexadecimal", width, 78, rects=[Rect(0, 32, width, 18, "fit-free")])
    ends = [-1.0, -1.0]
    for first, last, name, style in sorted(found):
        x, wide = (first - low) * scale, max(4.0, (last - first + 1) * scale)
        drawn.rects.append(
            Rect(min(x, width - 4), 32, min(wide, width - x), 18, style, f"{first:X} to {last:X}: {name}")
        )
        words = fitted_into(name, 96)
        half = len(words) * LETTER / 2
        middle = min(max(x + wide / 2, half), width - half)
        row = next((row for row, end in enumerate(ends) if middle - half > end + 4), None)
        if row is not None:
            ends[row] = middle + half
            drawn.texts.append(Text(middle, 28.0 - 14 * row, words, "t s" if style == "fit-bar" else "s", "middle"))
    step = next(step for step in (64, 128, 256, 1024, 4096, 2**14, 2**18, 2**28) if (high - low) / step <= width / 48)
    for address in range(-(-low // step) * step, high, step):
        x = (address - low) * scale
        drawn.lines.append(Line(f"M{x} 50v5", "fit-scale"))
        drawn.texts.append(Text(min(max(x, 12), width - 12), 68, f"{address:X}", "mono s", "middle"))
    return drawn


def memory_of(machine: Machine, places: Mapping[str, str] | None = None) -> Drawn:
    """The memory by itself, as it is or as a filling has it (fitted parts by their place in the machine): what moves is
    drawn as what is in hand."""
    seats = {key: socket for socket, key in (places or {}).items()}
    fitted = tuple(
        replace(one, at=seats.get(str(at), "")) if places is not None and one.needs.modules else one
        for at, one in enumerate(machine.fitted)
    )
    moved = {f"module:{now.at}" for was, now in zip(machine.fitted, fitted, strict=True) if was.at != now.at}
    after = replace(machine, fitted=fitted)
    return Drawn(_memory_alone(after, moved, DESK), _memory_alone(after, moved, PHONE))


def _memory_alone(machine: Machine, moved: Collection[str], width: float) -> tuple[Block, ...]:
    block = _memory(machine, {}, width)
    if block is None:
        return ()
    block.rects = [replace(one, style="fit-this" if one.at in moved else one.style) for one in block.rects]
    return (block,)
