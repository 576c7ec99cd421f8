"""What fits together in one machine, as constraints of CP-SAT: slots, buses, bays, connectors, rails, settings."""

from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal

from ortools.sat.python import cp_model
from ortools.sat.python.cp_model import IntVar, LinearExpr

from core import solving
from core.catalogue.fit.answers import Answer
from core.catalogue.fit.assignment import Impossible, assign, clash, fixed, uses_of
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Drive, Use, Wire, use_choices
from core.catalogue.fit.offers import Bay, DriveBus, Port, Slot
from core.catalogue.fit.rules.drives import drives_on, in_bay, on_bus
from core.catalogue.fit.rules.outside import in_port
from core.catalogue.fit.rules.power import RUNNING
from core.catalogue.fit.rules.slots import bus_of, size_of
from core.workshop.upgrades.candidates import Candidate

# A place (slot, bus, bay, port) with the candidate that adds it; None for one that is in the machine.
_Added = int | None


class Room:
    """The machine with any of the candidates in it. `picked`: a variable each, 1 where it is fitted.

    A place that something sits in is free only for one that takes its place; one of which something is not known is
    no place, unless `maybe`.
    """

    def __init__(
        self, model: cp_model.CpModel, machine: Machine, candidates: Sequence[Candidate], maybe: bool = False
    ) -> None:
        self.model, self.machine, self.candidates, self.maybe = model, machine, candidates, maybe
        self.picked = [model.new_bool_var(one.key) for one in candidates]
        self.out = self._out()
        self._wants()
        self._memory_and_sockets()
        self._slots()
        self._drives()
        self._ports()
        self._connectors()
        self._rails()
        self._settings()

    def any_of(self, variables: Sequence[IntVar]) -> IntVar:
        """1 where one of them is."""
        found = self.model.new_bool_var("")
        self.model.add_max_equality(found, [*variables, self.model.new_constant(0)])
        return found

    def _out(self) -> dict[int, IntVar]:
        """Of what is fitted and may come out: whether it does."""
        by: dict[int, list[IntVar]] = defaultdict(list)
        for one, picked in zip(self.candidates, self.picked, strict=True):
            for place in one.out:
                by[place].append(picked)
        return {place: self.any_of(several) for place, several in by.items()}

    def _wants(self) -> None:
        """What does nothing without another part goes in with it, or where that is in already."""
        there = {fitted.name.lower() for fitted in self.machine.fitted}
        for one, picked in zip(self.candidates, self.picked, strict=True):
            for name in one.needs.wants:
                if name.lower() not in there:
                    others = [x for c, x in zip(self.candidates, self.picked, strict=True) if _is(c, name)]
                    self.model.add(picked <= sum(others))

    def _memory_and_sockets(self) -> None:
        """One filling, one processor a socket, and of what takes the place of something one."""
        alone: dict[str, list[IntVar]] = defaultdict(list)
        for one, picked in zip(self.candidates, self.picked, strict=True):
            if one.needs.modules:
                alone["memory"].append(picked)
            for processor in one.needs.processors or ():
                alone[f"socket {(processor.kind or '').lower()}"].append(picked)
            for place in one.out if not one.filling else ():
                alone[f"fitted {place}"].append(picked)
        for name, several in alone.items():
            kind = name.removeprefix("socket ")
            sockets = [s for s in self.machine.offers.sockets or () if (s.kind or "").lower() == kind]
            self.model.add(sum(several) <= (max(1, len(sockets)) if name.startswith("socket ") else 1))

    def _taken(self, at: str) -> list[IntVar]:
        """One variable that is 1 while anything that sits in a place stays there; none for a free place. Two that were
        written down at the same place count as one."""
        there = [place for place, one in enumerate(self.machine.fitted) if one.at and one.at.lower() == at.lower()]
        stays = []
        for place in there:
            one = self.model.new_bool_var("")
            self.model.add(one == (1 - self.out[place] if place in self.out else 1))
            stays.append(one)
        return [self.any_of(stays)] if stays else []

    def _places(self, group: str) -> list[tuple[object, _Added]]:
        """What the machine has of a group, and what candidates add to it."""
        found: list[tuple[object, _Added]] = [(one, None) for one in getattr(self.machine.offers, group) or ()]
        for number, candidate in enumerate(self.candidates):
            found += [(one, number) for one in getattr(candidate.needs, group, None) or ()]
        return found

    def _seated(self, number: int, options: Sequence[tuple[object, _Added]], held: dict[int, list[IntVar]]) -> None:
        """A candidate sits in one of some places, `held` by what sits in them; a place that is added comes with what
        adds it, which does not sit in it itself."""
        chosen = []
        for place, added in options:
            if added == number:
                continue
            here = self.model.new_bool_var("")
            if added is not None:
                self.model.add(here <= self.picked[added])
            held[id(place)].append(here)
            chosen.append(here)
        self.model.add(sum(chosen) == self.picked[number])

    def _slots(self) -> None:
        if self.machine.offers.slots is None:
            return
        slots: list[tuple[Slot, _Added]] = [(s, by) for s, by in self._places("slots") if isinstance(s, Slot)]
        held: dict[int, list[IntVar]] = defaultdict(list)
        wide: dict[int, list[IntVar]] = defaultdict(list)
        for number, candidate in enumerate(self.candidates):
            for card in candidate.needs.cards or ():
                options = [(slot, by) for slot, by in slots if self._may(bus_of(slot, card)[0], size_of(slot, card)[0])]
                before = {id(slot): len(held[id(slot)]) for slot, _ in options}
                self._seated(number, options, held)
                if card.wide:
                    for slot, _ in options:
                        wide[id(slot)] += held[id(slot)][before[id(slot)] :]
        own = [slot for slot, by in slots if by is None]
        for place, (slot, by) in enumerate(slots):
            inside = [*held[id(slot)], *(self._taken(slot.name) if by is None else ())]
            self.model.add(sum(inside) <= 1)
            if by is None and slot.shares is not None:
                other = next((one for one in own if one.name == slot.shares), None)
                if other is not None:
                    self._exclude(held[id(slot)], held[id(other)], self._taken(slot.name), self._taken(other.name))
            if wide[id(slot)] and by is None and place + 1 < len(own):
                after = own[place + 1]
                self._exclude(wide[id(slot)], held[id(after)], [], self._taken(after.name))

    def _exclude(
        self, here: list[IntVar], there: list[IntVar], taken_here: list[IntVar], taken_there: list[IntVar]
    ) -> None:
        """Of two places that have room for one: what sits in both already stays."""
        self.model.add(sum(here) + sum(there) <= 1)
        self.model.add(sum(here) + sum(taken_there) <= 1)
        self.model.add(sum(there) + sum(taken_here) <= 1)

    def _drives(self) -> None:
        buses = [(b, by) for b, by in self._places("buses") if isinstance(b, DriveBus)]
        bays = [bay for bay in self.machine.offers.bays or () if isinstance(bay, Bay)]
        on: dict[int, list[IntVar]] = defaultdict(list)
        inside: dict[int, list[IntVar]] = defaultdict(list)
        for number, candidate in enumerate(self.candidates):
            for drive in candidate.needs.drives or ():
                if self.machine.offers.buses is not None:
                    self._seated(number, [(bus, by) for bus, by in buses if self._runs(bus, drive)], on)
                if self.machine.offers.bays is not None:
                    fit = [bay for bay in bays if self._may(in_bay(self.machine, bay, drive).answer)]
                    self._seated(number, [(bay, None) for bay in fit], inside)
        for bus, by in buses:
            if bus.units is not None and on[id(bus)]:
                there = drives_on(self.machine, bus) if by is None else []
                # A bus that has too many drives on it already takes no more.
                self.model.add(sum(on[id(bus)]) + self._staying(there) <= max(bus.units, len(there)))
        for bay in bays:
            if inside[id(bay)]:
                self.model.add(sum([*inside[id(bay)], *self._taken(bay.name)]) <= 1)

    def _staying(self, drives: Sequence[tuple[str, Drive]]) -> LinearExpr | int:
        """How many drives stay on a bus."""
        going = [
            self.out[place]
            for place, fitted in enumerate(self.machine.fitted)
            for drive in fitted.needs.drives or ()
            if place in self.out and (fitted.name, drive) in drives
        ]
        return len(drives) - sum(going) if going else len(drives)

    def _runs(self, bus: DriveBus, drive: Drive) -> bool:
        said = on_bus(self.machine, bus, drive)
        return self._may(*(one.answer for one in said if one.rule != "place on the bus"))

    def _may(self, *answers: Answer) -> bool:
        """Whether something goes into a place of which the rules say this."""
        return Answer.NOT not in answers and (self.maybe or Answer.UNKNOWN not in answers)

    def _ports(self) -> None:
        if self.machine.offers.ports is None:
            return
        ports = [(port, by) for port, by in self._places("ports") if isinstance(port, Port)]
        held: dict[int, list[IntVar]] = defaultdict(list)
        for number, candidate in enumerate(self.candidates):
            for wire in candidate.needs.wires or ():
                self._seated(number, [(port, by) for port, by in ports if self._speaks(port, wire)], held)
        for port, by in ports:
            if held[id(port)]:
                self.model.add(sum([*held[id(port)], *(self._taken(port.name) if by is None else ())]) <= 1)

    def _speaks(self, port: Port, wire: Wire) -> bool:
        return self._may(in_port(self.machine, port, wire).answer)

    def _connectors(self) -> None:
        """As many of each kind as there are, with those that splitters add."""
        there = self.machine.offers.connectors
        if there is None:
            return
        kinds = {one.name.lower() for one in there}
        kinds |= {one.name.lower() for c in self.candidates for one in c.needs.connectors or ()}
        takes: dict[str, list[LinearExpr | int]] = defaultdict(list)
        for place, fitted in enumerate(self.machine.fitted):
            for one in fitted.needs.takes or ():
                stays = 1 - self.out[place] if place in self.out else 1
                takes[self._fed_by(one.name, kinds)].append((one.count or 0) * stays)
        now = {kind: len(counts) for kind, counts in takes.items()}
        for candidate, picked in zip(self.candidates, self.picked, strict=True):
            for one in candidate.needs.takes or ():
                takes[self._fed_by(one.name, kinds)].append((one.count or 0) * candidate.count * picked)
        for kind, counts in takes.items():
            if len(counts) == now.get(kind, 0):
                continue
            own = [one.count for one in there if one.name.lower() == kind]
            more = [
                (one.count or 0) * picked
                for candidate, picked in zip(self.candidates, self.picked, strict=True)
                for one in candidate.needs.connectors or ()
                if one.name.lower() == kind
            ]
            if None not in own:
                # More in use than there are: somebody split one and did not write it down. No more go on it.
                used = sum(
                    one.count or 0
                    for fitted in self.machine.fitted
                    for one in fitted.needs.takes or ()
                    if self._fed_by(one.name, kinds) == kind
                )
                self.model.add(sum(counts) <= max(used, sum(count or 0 for count in own)) + sum(more))

    def _fed_by(self, kind: str, kinds: set[str]) -> str:
        """The kind of connector that feeds a part: its own, or one a converter makes it of."""
        if kind.lower() in kinds:
            return kind.lower()
        there = self.machine.offers.connectors or ()
        return next((one.name.lower() for one in there if self.machine.ways.find(one.name, kind)), kind.lower())

    def _rails(self) -> None:
        """Every rail within what may be drawn running and at the start, and all within the watts, in milliamperes."""
        rails = self.machine.offers.rails
        if rails is None:
            return
        watts: list[LinearExpr | int] = []
        for rail in rails:
            running, start, more, asked = _loads(self, rail.volts)
            watts.append(_milli(abs(rail.volts)) * running)
            if rail.amps is None or not asked:
                continue
            # One that is overloaded as it is takes nothing more.
            drawn = self.machine.loads[rail.volts]
            usable, whole = _milli(rail.amps * RUNNING), _milli(rail.amps)
            if _milli(drawn.running) > usable or _milli(drawn.running + drawn.more_at_start) > whole:
                for picked in asked:
                    self.model.add(picked == 0)
                continue
            self.model.add(running <= usable)
            self.model.add(running + start + more <= whole)
        supply = self.machine.supply
        if supply is not None and supply.watts is not None:
            self.model.add(sum(watts) <= max(_milli(supply.watts) * 1000, self._watts_now()))

    def _watts_now(self) -> int:
        return sum(_milli(abs(volts)) * _milli(load.running) for volts, load in self.machine.loads.items())

    def _settings(self) -> None:
        """Interrupts, DMA channels and addresses: every card can be set so that none is in another's way."""
        mine = [
            (place, use) for place, one in enumerate(self.machine.fitted) for use in one.needs.uses or () if use.kind
        ]
        try:
            assign(self.machine, uses_of(self.machine))
        except (Impossible, solving.NotInTime):
            # They stand in each other's way as they are, or may: nothing that takes such a thing goes in beside them.
            for one, picked in zip(self.candidates, self.picked, strict=True):
                if one.needs.uses:
                    self.model.add(picked == 0)
            return
        said: list[tuple[Use, dict[str, IntVar]]] = []
        for place, use in mine:
            there = 1 - self.out[place] if place in self.out else 1
            said.append((use, self._settable(use, there)))
        for one, picked in zip(self.candidates, self.picked, strict=True):
            said += [(use, self._settable(use, picked)) for use in one.needs.uses or () if use.kind]
        for place, (use, options) in enumerate(said):
            for other, others in said[:place]:
                for at, here in options.items():
                    for there_at, there_var in others.items():
                        if clash(use, at, other, there_at):
                            self.model.add_bool_or(here.Not(), there_var.Not())

    def _settable(self, use: Use, there: LinearExpr | int) -> dict[str, IntVar]:
        """A variable for each setting that is not built in the way; one of them is chosen where it is `there`."""
        options = {at: self.model.new_bool_var("") for at in use_choices(use) if not fixed(self.machine, use, at)}
        self.model.add(sum(options.values()) == there)
        return options


def _loads(room: Room, volts: Decimal) -> tuple[LinearExpr | int, LinearExpr | int, LinearExpr | int, list[IntVar]]:
    """Of a rail: running, more at the start of what is in it, of what is picked, and who of these draws of it."""
    load = room.machine.loads[volts]
    running: list[LinearExpr | int] = [_milli(load.running)]
    start: list[LinearExpr | int] = [_milli(load.more_at_start)]
    more: list[LinearExpr | int] = []
    asked = []
    for place, variable in room.out.items():
        for draw in room.machine.fitted[place].needs.draws or ():
            if draw.volts == volts:
                running.append(-_milli(draw.amps or Decimal(0)) * variable)
                start.append(-_milli(draw.more_at_start or Decimal(0)) * variable)
    for candidate, picked in zip(room.candidates, room.picked, strict=True):
        for draw in candidate.needs.draws or ():
            if draw.volts == volts:
                running.append(_milli(draw.amps or Decimal(0)) * candidate.count * picked)
                more.append(_milli(draw.more_at_start or Decimal(0)) * candidate.count * picked)
                asked.append(picked)
    return sum(running), sum(start), sum(more), asked


def _milli(amount: Decimal) -> int:
    return int((amount * 1000).to_integral_value())


def _is(candidate: Candidate, name: str) -> bool:
    return candidate.part.name.lower() == name.lower()
