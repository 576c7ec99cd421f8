"""Memory slot by slot: the filling with the most memory that keeps to the rules, with fewest modules moved."""

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ortools.sat.python import cp_model

from core import solving
from core.catalogue.fit.needs import MemoryModule
from core.catalogue.fit.offers import Board, Module


class CannotFill(ValueError):
    """What would have to be known before a filling can be proposed; in words."""


@dataclass(frozen=True)
class Stick:
    """A module one has: by a key of its own, and the socket it sits in now."""

    key: str
    module: MemoryModule
    at: str = ""


@dataclass(frozen=True)
class Filling:
    """What goes into which socket, by the sticks' keys. `odd`: sticks that stay out for want of others like them;
    `proven`: no filling is better."""

    places: Mapping[str, str]
    size: int
    moved: int
    out: tuple[str, ...]
    odd: tuple[str, ...]
    proven: bool = True


Alike = tuple[object, int, str]


def alike(module: MemoryModule, matched: bool) -> Alike:
    """What modules that go in together have in common."""
    if module.kind is None or module.size is None:
        raise CannotFill(f"Nobody said which module {module.name} is and how large.")
    if matched and module.make is None:
        raise CannotFill(f"Groups must be alike, and nobody said the part number of {module.name}.")
    return module.kind, module.size, (module.make or "") if matched else ""


def groups(board: Board, sockets: Sequence[Module]) -> list[list[Module]]:
    """The sockets that are filled together, in the order they are filled. Raises CannotFill."""
    if board.group is None or board.matched is None:
        raise CannotFill("Nobody said how many modules go in together, and whether they must be alike.")
    banks: dict[str, list[Module]] = defaultdict(list)
    for socket in sockets:
        if socket.kind is None or socket.largest is None:
            raise CannotFill(f"Nobody said which modules socket {socket.name} takes.")
        banks[socket.bank or socket.name].append(socket)
    ordered = sorted(banks.values(), key=lambda bank: min(socket.turn or 0 for socket in bank))
    found = []
    for bank in ordered:
        if len(bank) % board.group:
            raise CannotFill(f"Bank {bank[0].bank or bank[0].name} can’t be filled by {board.group}.")
        found += [bank[at : at + board.group] for at in range(0, len(bank), board.group)]
    return found


def wrongly_filled(board: Board, sockets: Sequence[Module], sticks: Sequence[Stick]) -> list[str]:
    """What of the modules as they sit goes against the rules of the board, in words. Raises CannotFill."""
    at = {stick.at.lower(): stick for stick in sticks if stick.at}
    found, full = [], True
    for group in groups(board, sockets):
        seated = [at.get(socket.name.lower()) for socket in group]
        names = " and ".join(socket.name for socket in group)
        inside = [stick for stick in seated if stick is not None]
        if inside and not full:
            found.append(f"{names} filled before what comes first")
        if inside and len(inside) < len(group):
            found.append(f"{names} go in together, and one of them is empty")
        elif len({alike(stick.module, bool(board.matched)) for stick in inside}) > 1:
            found.append(f"{names} go in together and are not alike")
        full = full and len(inside) == len(group)
    return found


def fill(board: Board, sockets: Sequence[Module], sticks: Sequence[Stick], seconds: float = 2.0) -> Filling:
    """The best filling that is found in time: most memory first, then fewest sticks moved. Raises CannotFill."""
    together = groups(board, sockets)
    if board.most is None or board.soldered is None:
        raise CannotFill("Nobody said how much memory it takes in all, and how much is soldered in.")
    size = board.group or 1
    kinds = {stick.key: alike(stick.module, bool(board.matched)) for stick in sticks}
    model, picks = _picks(together, Counter(kinds.values()), size)
    unit = min((kind[1] for kind in kinds.values()), default=1)
    total = sum(var * (kind[1] * size // unit) for (_, kind), var in picks.items())
    model.add(total <= max(0, board.most - board.soldered) // unit)
    sitting = {stick.at.lower(): kinds[stick.key] for stick in sticks if stick.at}
    stays = sum(
        var * sum(sitting.get(socket.name.lower()) == kind for socket in together[place])
        for (place, kind), var in picks.items()
    )
    model.maximize(total * (len(sticks) + 1) + stays)
    try:
        found = solving.solve(model, seconds, "filling")
    except solving.NotInTime as problem:
        raise CannotFill(str(problem)) from problem
    chosen = {place: kind for (place, kind), var in picks.items() if found.value(var)}
    places = _seated(together, chosen, sticks, kinds)
    seated, used = {name.lower(): key for name, key in places.items()}, set(places.values())
    out = tuple(stick.key for stick in sticks if stick.key not in used)
    count = Counter(kinds.values())
    odd = tuple(key for key in out if count[kinds[key]] % size)
    moved = sum(seated.get(stick.at.lower()) != stick.key if stick.at else stick.key in used for stick in sticks)
    memory = board.soldered + sum(kind[1] * size for kind in chosen.values())
    return Filling(places, memory, moved, out, odd, found.proven)


def _picks(
    together: list[list[Module]], there: Mapping[Alike, int], size: int
) -> tuple[cp_model.CpModel, dict[tuple[int, Alike], cp_model.IntVar]]:
    """Which group is filled with modules of which kind: only with what its sockets take, at most one kind each, none
    before those whose turn comes first, and of no kind more than is there. `size`: sockets of a group."""
    model = cp_model.CpModel()
    picks = {
        (place, kind): model.new_bool_var(f"{place}:{kind}")
        for place, group in enumerate(together)
        for kind in there
        if all(socket.kind is kind[0] and kind[1] <= (socket.largest or 0) for socket in group)
    }
    filled = [sum(var for (at, _), var in picks.items() if at == place) for place in range(len(together))]
    turns = [min(socket.turn or 0 for socket in group) for group in together]
    for place, one in enumerate(filled):
        model.add(one <= 1)
        for before in range(place):
            if turns[before] < turns[place]:
                model.add(filled[before] >= one)
    for kind, count in there.items():
        model.add(sum(var for (_, other), var in picks.items() if other == kind) * size <= count)
    return model, picks


def _seated(
    together: list[list[Module]], chosen: Mapping[int, Alike], sticks: Sequence[Stick], kinds: Mapping[str, Alike]
) -> dict[str, str]:
    """Which stick sits where: one that sits right stays."""
    at = {stick.at.lower(): stick for stick in sticks if stick.at}
    places: dict[str, str] = {}
    open_sockets: list[tuple[str, Alike]] = []
    for place, kind in sorted(chosen.items()):
        for socket in together[place]:
            stick = at.get(socket.name.lower())
            if stick is not None and kinds[stick.key] == kind:
                places[socket.name] = stick.key
            else:
                open_sockets.append((socket.name, kind))
    left = [stick for stick in sticks if stick.key not in places.values()]
    for name, kind in open_sockets:
        stick = next(stick for stick in left if kinds[stick.key] == kind)
        left.remove(stick)
        places[name] = stick.key
    return places
