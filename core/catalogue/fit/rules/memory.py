"""Memory modules: kind, size, speed, in groups; and whether a picture has room in display memory."""

from collections.abc import Iterator

from core.catalogue.fit.answers import Answer, Ask, Finding, Row, Side, ask
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import MemoryModule, Needs
from core.catalogue.fit.offers import Board, Module
from core.catalogue.fit.rules.register import best_of, rule, which
from core.catalogue.fit.schema import plain, write_size


@rule("memory socket", "JEDEC module outlines by their pins; common practice, no source")
def memory_socket(machine: Machine, part: Needs) -> Iterator[Finding]:
    for module in part.modules or ():
        wants = f"{module.kind or '?'}, {_size(module.size)}"
        there = machine.offers.modules
        said = None if there is None else [[_in_socket(machine, one, module, wants)] for one in there]
        yield from best_of(said, which("modules"), "memory socket", wants)


def _in_socket(machine: Machine, socket: Module, module: MemoryModule, wants: str) -> Finding:
    has, at = f"{socket.kind or '?'} up to {_size(socket.largest)}", f"module:{socket.name}"
    row = Row("memory socket", has, wants, at)
    if socket.kind is not None and module.kind is not None and socket.kind is not module.kind:
        return row.does_not(f"{module.kind} does not go into {socket.kind}")
    if socket.largest is not None and module.size is not None and module.size > socket.largest:
        return row.does_not(f"{write_size(module.size)} in one module, {write_size(socket.largest)} is the most")
    if socket.clear is not None and module.height is not None and module.height > socket.clear:
        return row.does_not(f"it is {plain(module.height)} mm high, {plain(socket.clear)} mm are clear")
    asks = [ask(Side.MACHINE, "modules", socket, key) for key in ("kind", "largest", "clear") if _none(socket, key)]
    asks += [ask(Side.PART, "modules", module, key) for key in ("kind", "size", "height") if _none(module, key)]
    if asks:
        return row.unknown("find out", asks)
    if sitting := machine.in_place(socket.name):
        return row.fits_with(f"{sitting.name} out of {socket.name}")
    return row.fits(f"into {socket.name}")


@rule("memory as a whole", "common practice, no source")
def memory_as_a_whole(machine: Machine, part: Needs) -> Iterator[Finding]:
    if not part.modules or machine.offers.modules == ():
        return
    board = machine.board
    if board is None:
        asks = (Ask(Side.MACHINE, "board", "board", "most", "how much memory it takes in all"),)
        yield Row("memory as a whole", "not known", "").unknown("find out", asks)
        return
    for module in part.modules:
        yield from (_total(machine, board, module), _speed(board, module), _volts(board, module))
        yield from (_parity(board, module), _group(machine, board, module))


def _total(machine: Machine, board: Board, module: MemoryModule) -> Finding:
    name = "memory in all"
    sizes = [board.soldered, *(one.size for _, one in machine.modules_in), module.size]
    if board.most is None or None in sizes:
        asks = [ask(Side.MACHINE, "board", board, key) for key in ("soldered", "most") if _none(board, key)]
        asks += [ask(Side.PART, "modules", module, "size")] if module.size is None else []
        asks += [
            ask(Side.FITTED, "modules", one, "size", fitted.name)
            for fitted, one in machine.modules_in
            if one.size is None
        ]
        return Row(name, _size(board.most), _size(module.size)).unknown("find out", asks)
    total = sum(size for size in sizes if size is not None)
    has, needs = f"up to {write_size(board.most)}", write_size(total)
    if total <= board.most:
        return Row(name, has, needs).fits(f"{needs} then")
    if module.size is not None and module.size <= board.most and machine.modules_in:
        return Row(name, has, needs).fits_with(f"a smaller module out: {needs} is more than {write_size(board.most)}")
    return Row(name, has, needs).does_not(f"{needs} in all is more than {write_size(board.most)}")


def _speed(board: Board, module: MemoryModule) -> Finding:
    if board.slowest is None or module.speed is None:
        return _ask("memory speed", board, module, "slowest", "speed")
    has, needs = f"{plain(board.slowest)} ns or faster", f"{plain(module.speed)} ns"
    if module.speed <= board.slowest:
        return Row("memory speed", has, needs).fits("fast enough")
    return Row("memory speed", has, needs).does_not(f"{needs} is slower than the {plain(board.slowest)} ns it wants")


def _volts(board: Board, module: MemoryModule) -> Finding:
    if board.volts is None or module.volts is None:
        return _ask("memory volts", board, module, "volts", "volts")
    has, needs = f"{plain(board.volts)} V", f"{plain(module.volts)} V"
    if board.volts == module.volts:
        return Row("memory volts", has, needs).fits("the same")
    why = f"it is a {needs} module, the board gives {has}"
    hazard = "Wrong volts destroy the module: don’t switch on." if board.volts > module.volts else ""
    return Row("memory volts", has, needs).does_not(why, hazard)


def _parity(board: Board, module: MemoryModule) -> Finding:
    if board.parity is None or module.parity is None:
        return _ask("parity", board, module, "parity", "parity")
    has = "wants parity" if board.parity else "wants none"
    needs = "with parity" if module.parity else "without parity"
    if board.parity and not module.parity:
        return Finding("parity", Answer.NOT, has, needs, "it stops at the first start", "it has no parity")
    return Row("parity", has, needs).fits("as it should" if board.parity == module.parity else "not used")


def _group(machine: Machine, board: Board, module: MemoryModule) -> Finding:
    name = "groups"
    if board.group is None or board.matched is None:
        asks = tuple(ask(Side.MACHINE, "board", board, key) for key in ("group", "matched") if _none(board, key))
        return Row(name, "not known", "").unknown("find out", asks)
    alike = [one for _, one in machine.modules_in if one.size == module.size]
    alike = [one for one in alike if not board.matched or (one.make is not None and one.make == module.make)]
    more = -(len(alike) + 1) % board.group
    has = "one by one" if board.group == 1 else f"in groups of {board.group}{', alike' if board.matched else ''}"
    if not more:
        return Row(name, has, "this one").fits("the group is full")
    if board.matched and module.make is None:
        asks = (ask(Side.PART, "modules", module, "make"),)
        return Row(name, has, "part number not known").unknown("read its label", asks)
    return Row(name, has, f"{len(alike) + 1} like it").fits_with(f"{more} more like it")


@rule("display memory", "arithmetic: points × bits ÷ 8")
def display_memory(machine: Machine, part: Needs) -> Iterator[Finding]:
    for mode in part.modes or ():
        board, wants = machine.board, mode.memory
        if board is None or board.display is None or wants is None:
            asks = [ask(Side.PART, "modes", mode, key) for key in ("width", "height", "bits") if _none(mode, key)]
            if board is None:
                asks.append(Ask(Side.MACHINE, "board", "board", "display", "how much display memory it has"))
            elif board.display is None:
                asks.append(ask(Side.MACHINE, "board", board, "display"))
            so, needs = "find out", f"{wants:,} B" if wants else "?"
            yield Row("display memory", "not known", needs).unknown(so, asks)
            continue
        has, needs = write_size(board.display), f"{wants:,} B for {mode.name}"
        if wants <= board.display:
            yield Row("display memory", has, needs).fits(f"{100 * wants // board.display} % of it")
        elif board.display_most is None:
            asks = [ask(Side.MACHINE, "board", board, "display most")]
            yield Row("display memory", has, needs).unknown("find out", asks)
        elif wants <= board.display_most:
            yield Row("display memory", has, needs).fits_with(f"display memory made {write_size(board.display_most)}")
        else:
            yield Row("display memory", f"up to {write_size(board.display_most)}", needs).does_not(
                f"{mode.name} takes {wants:,} B, {write_size(board.display_most)} is the most"
            )


def _none(record: object, key: str) -> bool:
    return getattr(record, key) is None


def _size(size: int | None) -> str:
    return "?" if size is None else write_size(size)


def _ask(name: str, board: Board, module: MemoryModule, key: str, own: str) -> Finding:
    asks = [ask(Side.MACHINE, "board", board, key)] if _none(board, key) else []
    asks += [ask(Side.PART, "modules", module, own)] if _none(module, own) else []
    return Row(name, "", "").unknown("find out", asks)
