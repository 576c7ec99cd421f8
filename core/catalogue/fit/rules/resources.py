"""Interrupts, DMA channels and addresses: whether a card can be set so that nothing clashes."""

from collections.abc import Iterator

from core import solving
from core.catalogue.fit.answers import Answer, Ask, Finding, Row, Side, ask
from core.catalogue.fit.assignment import Impossible, assign, uses_of
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs, Use, use_choices
from core.catalogue.fit.rules.register import rule
from core.catalogue.fit.schema import block_of

_NAMES = {"irq": "interrupt", "dma": "DMA", "io": "addresses"}


@rule("interrupt, DMA, addresses", "interrupt and DMA tables of the PC/AT technical reference, from memory")
def resources(machine: Machine, part: Needs) -> Iterator[Finding]:
    if part.uses is None and part.cards:
        what = Ask(Side.PART, "uses", "", "", "which interrupts, DMA channels and addresses it takes")
        yield Row("interrupt", "", "not known").unknown("look at its jumpers", [what])
    for use in part.uses or ():
        kind = use.kind
        if not kind:
            which = ask(Side.PART, "uses", use, "irq")
            yield Row("interrupt", "", use.name, f"irq:{use.name}").unknown("find out", [which])
            continue
        name, at = _NAMES[kind], f"{kind}:{use.now or use.name}"
        choices = use_choices(use)
        needs = f"{' or '.join(choices)}, set to {use.now or '?'}"
        if machine.offers.devices is None:
            what = Ask(Side.MACHINE, "devices", "", "", "what is built in and which interrupts it takes")
            yield Row(name, "not known", needs, at).unknown("find out", [what])
            continue
        asks = _not_said(machine, kind)
        takers = {choice: taker(machine, kind, choice, bool(use.shared)) for choice in choices}
        taken = ", ".join(f"{choice} is {by}’s" for choice, by in takers.items() if by)
        has = taken or f"{' and '.join(choices)} free"
        free = [choice for choice, by in takers.items() if not by]
        if asks:
            yield Row(name, has, needs, at).unknown("find out", asks)
        elif use.now is None and free:
            now = ask(Side.PART, "uses", use, "now")
            yield Row(name, has, needs, at).unknown(f"look how {use.name} is set", [now])
        elif use.now in free:
            yield Row(name, has, needs, at).fits("as it comes")
        elif free:
            does = f"{use.name} moved from {use.now} to {free[0]}"
            yield Finding(name, Answer.WITH, has, needs, does, does, at=at, to=f"{kind}:{free[0]}")
        else:
            yield _others_move(machine, part, use, has, needs, name, at)


def _not_said(machine: Machine, kind: str) -> tuple[Ask, ...]:
    """Fitted parts of which nobody said what they are set to. What of nobody said anything asks for all of it."""
    asks = []
    for fitted in machine.fitted:
        if fitted.needs.uses is None and (fitted.needs.cards or fitted.needs.nothing_known):
            asks.append(Ask(Side.FITTED, "uses", "", "", f"which interrupts {fitted.name} takes", fitted.name))
        for use in fitted.needs.uses or ():
            if getattr(use, kind) is not None and use.now is None:
                asks.append(ask(Side.FITTED, "uses", use, "now", fitted.name))
    return tuple(asks)


def taker(machine: Machine, kind: str, choice: str, shares: bool) -> str:
    """Who takes what this would be set to; empty when nobody does, or when both share it."""
    if kind != "io":
        found = (by for number, by, shared in machine.taken(kind) if number == choice and not (shares and shared))
        return next(found, "")
    block = block_of(choice)
    for device in machine.offers.devices or ():
        if any(block.meets(one) for one in device.io or ()):
            return device.name
    for fitted in machine.fitted:
        for use in fitted.needs.uses or ():
            if use.io is not None and use.now is not None and block.meets(block_of(use.now)):
                return fitted.label
    return ""


def _others_move(machine: Machine, part: Needs, use: Use, has: str, needs: str, name: str, at: str) -> Finding:
    """Nothing it can be set to is free: perhaps another card can make room."""
    try:
        found = assign(machine, uses_of(machine, part))
    except Impossible:
        return Row(name, has, needs, at).does_not(f"no {name} it can be set to can be made free")
    except solving.NotInTime as problem:
        return Row(name, has, needs, at).unknown(str(problem), ())
    moves = [move for move in found if move.moved]
    return Row(name, has, needs, at).fits_with(
        " and ".join(f"{move.of}: {move.use.name} to {move.to}" for move in moves)
    )
