"""Cards: which slot, whether it is long and high enough, what its neighbour leaves of the opening."""

from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal

from core.catalogue.fit.answers import Answer, Ask, Finding, Row, Side, ask, listed, worst
from core.catalogue.fit.kinds import Bus, takes
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Card, Needs
from core.catalogue.fit.offers import Slot
from core.catalogue.fit.rules.register import rule
from core.catalogue.fit.schema import plain

Part = tuple[Answer, tuple[Ask, ...], str]


@dataclass(frozen=True)
class Placing:
    """A card in a slot: what its bus and its size say. `same`: the slot is of its own kind; `out`: what has to leave
    the slot first."""

    slot: Slot
    same: bool
    bus: Part
    size: Part
    out: str

    @property
    def order(self) -> tuple[int, bool, bool, int, int, str]:
        """The best first; of two alike the one that is free, then one of its own kind (which also tells best why it
        does not fit), then the one that wastes least."""
        answer = worst([self.bus[0], self.size[0], Answer.WITH if self.out else Answer.FITS])
        waste = list(Bus).index(self.slot.bus) if self.slot.bus else len(Bus)
        return (answer.rank, bool(self.out), not self.same, waste, len(self.slot.name), self.slot.name)


def placing(machine: Machine, card: Card) -> Placing | None:
    """The best slot for a card; None where there is none at all, or nobody said which there are."""
    return min(
        (_in_slot(machine, slot, card) for slot in machine.offers.slots or ()), key=lambda p: p.order, default=None
    )


def _in_slot(machine: Machine, slot: Slot, card: Card) -> Placing:
    there = [machine.in_place(slot.name)]
    if slot.shares is not None:
        there.append(machine.in_place(slot.shares))
    if card.wide:
        slots = list(machine.offers.slots or ())
        after = slots.index(slot) + 1
        there += [machine.in_place(slots[after].name)] if after < len(slots) else []
    # A wide card, or one that shares an opening, pushes out what sits beside it.
    out = listed(f"{one.name} out of slot {one.at}" for one in there if one is not None)
    return Placing(slot, slot.bus is card.bus, bus_of(slot, card), size_of(slot, card), out)


def bus_of(slot: Slot, card: Card) -> Part:
    """What the bus of a slot says to a card."""
    asks = [ask(Side.MACHINE, "slots", slot, "bus")] if slot.bus is None else []
    asks += [ask(Side.PART, "cards", card, "bus")] if card.bus is None else []
    if slot.bus is None or card.bus is None:
        return Answer.UNKNOWN, tuple(asks), ""
    if not takes(slot.bus, card.bus):
        return Answer.NOT, (), f"{_words(card.bus, card.called)} does not go into {_words(slot.bus, slot.called)}"
    if card.bus is Bus.OWN:
        asks = [ask(Side.MACHINE, "slots", slot, "called")] if slot.called is None else []
        asks += [ask(Side.PART, "cards", card, "called")] if card.called is None else []
        if slot.called is None or card.called is None:
            return Answer.UNKNOWN, tuple(asks), ""
        if slot.called.lower() != card.called.lower():
            return Answer.NOT, (), f"its {card.called} is not this maker’s {slot.called}"
    return _express(slot, card) if card.bus is Bus.PCIE else (Answer.FITS, (), "")


def _express(slot: Slot, card: Card) -> Part:
    asks = [ask(Side.MACHINE, "slots", slot, key) for key in ("generation", "lanes") if getattr(slot, key) is None]
    asks += [ask(Side.PART, "cards", card, key) for key in ("generation", "lanes") if getattr(card, key) is None]
    if slot.generation is not None and card.generation is not None and card.generation > slot.generation:
        return Answer.NOT, (), f"it needs generation {card.generation}, the slot has {slot.generation}"
    if slot.lanes is not None and card.lanes is not None and card.lanes > slot.lanes:
        if slot.open_end is False:
            return Answer.NOT, (), f"it has {card.lanes} lanes, the slot {slot.lanes} and a closed end"
        asks += [ask(Side.MACHINE, "slots", slot, "open end")] if slot.open_end is None else []
    return (Answer.UNKNOWN, tuple(asks), "") if asks else (Answer.FITS, (), "")


def size_of(slot: Slot, card: Card) -> Part:
    """What the room of a slot says to a card."""
    asks: list[Ask] = []
    for key, word in (("length", "long"), ("height", "high")):
        room, wanted = getattr(slot, key), getattr(card, key)
        if room is not None and wanted is not None and wanted > room:
            return Answer.NOT, (), f"it is {plain(wanted)} mm {word}, there are {plain(room)} mm"
        asks += [ask(Side.MACHINE, "slots", slot, key)] if room is None else []
        asks += [ask(Side.PART, "cards", card, key)] if wanted is None else []
    return (Answer.UNKNOWN, tuple(asks), "") if asks else (Answer.FITS, (), "")


@rule("bus and slot", "IEEE P996 draft, PCI Local Bus 2.2, PCI Express Card Electromechanical 2.0, from memory")
def bus_and_slot(machine: Machine, part: Needs) -> Iterator[Finding]:
    for card in part.cards or ():
        wants = _words(card.bus, card.called, card.generation, card.lanes)
        if machine.offers.slots is None:
            which = Ask(Side.MACHINE, "slots", "", "", "which slots it has")
            yield Row("bus and slot", "not known", wants).unknown("say which slots it has", [which])
            return
        best = placing(machine, card)
        if best is None:
            yield Finding("bus and slot", Answer.NOT, "no slots", wants, "look at the ports", "it has no slots")
            return
        answer, asks, why = best.bus
        at = f"slot:{best.slot.name}"
        free = [slot for slot in machine.free_slots if slot.bus == best.slot.bus]
        kind = _words(best.slot.bus, best.slot.called, best.slot.generation, best.slot.lanes)
        has = f"{len(free)} free, {kind}"
        if answer is Answer.FITS and best.out:
            yield Row("bus and slot", has, wants, at).fits_with(best.out)
            return
        if answer is Answer.FITS:
            yield Row("bus and slot", has, wants, at).fits(
                f"takes slot {best.slot.name}", f"free {kind} slot" if len(free) == 1 else ""
            )
            return
        yield Finding("bus and slot", answer, has, wants, why or "find out", why, asks, at)


@rule("length, height", "measured; common practice, no source")
def length_and_height(machine: Machine, part: Needs) -> Iterator[Finding]:
    for card in part.cards or ():
        best = placing(machine, card)
        if best is None:
            return
        answer, asks, why = best.size
        has = f"{_mm(best.slot.length)} × {_mm(best.slot.height)} mm"
        needs = f"{_mm(card.length)} × {_mm(card.height)} mm"
        to_spare = ""
        if answer is Answer.FITS and best.slot.length is not None and card.length is not None:
            to_spare = f"{plain(best.slot.length - card.length)} mm to spare"
        so = to_spare or why or "measure it"
        yield Finding("length, height", answer, has, needs, so, why, asks, f"slot:{best.slot.name}")


def _mm(value: Decimal | None) -> str:
    return "?" if value is None else plain(value)


def _words(bus: Bus | None, called: str | None, generation: int | None = None, lanes: int | None = None) -> str:
    if bus is Bus.OWN:
        return called or "its maker’s own"
    more = f" {generation or '?'}, {lanes or '?'} lanes" if bus is Bus.PCIE and (generation or lanes) else ""
    return f"{bus or 'bus not known'}{more}"
