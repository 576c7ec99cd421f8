"""The supply: each rail running and at the start, all watts, the least load, connectors; what a machine is fed with."""

from collections.abc import Iterator
from decimal import Decimal

from core.catalogue.fit.answers import Answer, Ask, Finding, Side, ask
from core.catalogue.fit.kinds import Feed
from core.catalogue.fit.machine import Load, Machine
from core.catalogue.fit.needs import Draw, Needs
from core.catalogue.fit.offers import Rail, Supply
from core.catalogue.fit.rules.register import rule
from core.catalogue.fit.schema import plain

# What of a rail's rating may be drawn all the time: common practice, no source.
RUNNING = Decimal("0.8")
# Up to so many times mains volts are transformed up: 100 V to 240 V (IEC 60038, from memory).
TRANSFORMED = Decimal("2.4")


@rule("rails", "running sum up to 80 % of the rating, at the start all of it: common practice, no source")
def rails(machine: Machine, part: Needs) -> Iterator[Finding]:
    if part.draws is None:
        asks = (Ask(Side.PART, "draws", "", "", "what it draws of which rail"),)
        yield Finding("rails", Answer.UNKNOWN, "", "not known", "measure it, or read its plate", asks=asks)
        return
    if not part.draws:
        return
    if machine.offers.rails is None:
        asks = (Ask(Side.MACHINE, "rails", "", "", "what its supply gives"),)
        yield Finding("rails", Answer.UNKNOWN, "not known", "", "read the plate of the supply", asks=asks)
        return
    by_volts = {rail.volts: rail for rail in machine.offers.rails}
    for draw in part.draws:
        rail, needs = by_volts.get(draw.volts), "?" if draw.amps is None else f"{plain(draw.amps)} A"
        if rail is None:
            why = f"the supply has no {draw.name} V"
            yield Finding(f"{draw.name} V", Answer.NOT, "none", needs, why, why)
        else:
            yield _rail(rail, machine.loads[rail.volts], draw, needs)
    yield from _watts(machine, part.draws)


def _rail(rail: Rail, load: Load, draw: Draw, needs: str) -> Finding:
    name, at = f"{rail.name} V", f"rail:{rail.name}"
    asks = [*load.asks]
    asks += [ask(Side.MACHINE, "rails", rail, "amps")] if rail.amps is None else []
    asks += [ask(Side.PART, "draws", draw, "amps")] if draw.amps is None else []
    running = load.running + (draw.amps or Decimal(0))
    start = running + load.more_at_start + (draw.more_at_start or Decimal(0))
    if rail.amps is not None:
        usable = rail.amps * RUNNING
        has = f"{plain(load.running)} + {needs} of {plain(usable)} A"
        # Too much of what is known is too much, whatever is not known beside it.
        if running > usable or start > rail.amps:
            what = f"{plain(running)} A" if running > usable else f"{plain(start)} A at the start"
            of = f"{plain(usable)} A may be drawn" if running > usable else f"{plain(rail.amps)} A it gives"
            does = f"a stronger supply: {name} {what}, {of}"
            return Finding(name, Answer.WITH, has, needs, does, does, at=at)
        if not asks:
            so = f"{round(100 * running / usable)} % used" if usable else "nothing to give"
            so += f", {plain(start)} of {plain(rail.amps)} A at the start" if start > running else ""
            if rail.least is not None and running < rail.least:
                does = f"a load on {name}: {plain(running)} A, the supply wants {plain(rail.least)} A"
                return Finding(name, Answer.WITH, has, needs, does, does, at=at)
            return Finding(name, Answer.FITS, has, needs, so, at=at)
    has = f"{plain(rail.amps * RUNNING)} A may be drawn" if rail.amps is not None else "not known"
    return Finding(name, Answer.UNKNOWN, has, needs, "find out", asks=tuple(dict.fromkeys(asks)), at=at)


def _watts(machine: Machine, draws: tuple[Draw, ...]) -> Iterator[Finding]:
    supply = machine.supply
    loads = machine.loads.values()
    if supply is None or supply.watts is None:
        record = supply or Supply("supply")
        asks = (ask(Side.MACHINE, "supply", record, "watts"),)
        yield Finding("watts in all", Answer.UNKNOWN, "not known", "", "read its plate", asks=asks, at="supply")
        return
    drawn = sum((abs(volts) * load.running for volts, load in machine.loads.items()), Decimal(0))
    drawn += sum((abs(draw.volts) * draw.amps for draw in draws if draw.amps is not None), Decimal(0))
    has, needs = f"{plain(supply.watts)} W", f"{plain(round(drawn, 1))} W"
    if drawn > supply.watts:
        does = f"a stronger supply: {needs} of {has}"
        yield Finding("watts in all", Answer.WITH, has, needs, does, does, at="supply")
    elif not any(load.asks for load in loads) and all(draw.amps is not None for draw in draws):
        so = f"{round(100 * drawn / supply.watts)} % used"
        yield Finding("watts in all", Answer.FITS, has, needs, so, at="supply")


@rule("connectors", "counted; common practice, no source")
def connectors(machine: Machine, part: Needs) -> Iterator[Finding]:
    for takes in part.takes or ():
        kind = takes.name
        if machine.offers.connectors is None or takes.count is None:
            asks = [ask(Side.PART, "takes", takes, "count")] if takes.count is None else []
            if machine.offers.connectors is None:
                asks.append(Ask(Side.MACHINE, "connectors", "", "", "which connectors its supply has"))
            yield Finding("connectors", Answer.UNKNOWN, "not known", kind, "count them", asks=tuple(asks))
            continue
        there = next((one for one in machine.offers.connectors if one.name.lower() == kind.lower()), None)
        used = sum(
            other.count or 0
            for fitted in machine.fitted
            for other in fitted.needs.takes or ()
            if other.name.lower() == kind.lower()
        )
        needs = f"{takes.count} × {kind}"
        if there is None:
            path = next(
                (p for one in machine.offers.connectors if (p := machine.ways.find(one.name, kind)) is not None), None
            )
            if path is None:
                why = f"the supply has no {kind} connector"
                yield Finding("connectors", Answer.NOT, "none", needs, why, why)
            else:
                yield Finding("connectors", Answer.WITH, "none", needs, path.words, path.words)
        elif there.count is None:
            asks = [ask(Side.MACHINE, "connectors", there, "count")]
            yield Finding("connectors", Answer.UNKNOWN, "not known", needs, "count them", asks=tuple(asks))
        elif there.count - used >= takes.count:
            yield Finding("connectors", Answer.FITS, f"{there.count - used} free", needs, "free")
        elif there.count == 0:
            why = f"the supply has no {kind} connector"
            yield Finding("connectors", Answer.NOT, "none", needs, why, why)
        else:
            does = f"a splitter for a {kind} connector"
            yield Finding("connectors", Answer.WITH, f"{max(0, there.count - used)} free", needs, does, does)


_NOT_ON = "It can destroy the machine: don’t switch on."


@rule("what feeds it", "IEC 60038 for mains volts, from memory; AC against DC: common practice, no source")
def what_feeds_it(machine: Machine, part: Needs) -> Iterator[Finding]:
    for gives in part.gives or ():
        supply = machine.supply or Supply("supply")
        needs = f"{plain(gives.volts) if gives.volts is not None else '?'} V {gives.feed or '?'}"
        has = f"{supply.volts or '?'} V {supply.feed or '?'}"
        if supply.feed is not None and gives.feed is not None and supply.feed is not gives.feed:
            why = f"it gives {gives.feed}, the machine wants {supply.feed}"
            yield Finding("what feeds it", Answer.NOT, has, needs, why, why, at="supply", hazard=_NOT_ON)
        elif supply.volts is not None and gives.volts is not None and gives.volts > supply.volts.high:
            why = f"{plain(gives.volts)} V are more than the {supply.volts} V it is made for"
            yield Finding("what feeds it", Answer.NOT, has, needs, why, why, at="supply", hazard=_NOT_ON)
        elif None in (supply.feed, supply.volts, gives.feed, gives.volts):
            asks = [ask(Side.MACHINE, "supply", supply, key) for key in ("feed", "volts") if not getattr(supply, key)]
            asks += [ask(Side.PART, "gives", gives, key) for key in ("feed", "volts") if getattr(gives, key) is None]
            yield Finding(
                "what feeds it", Answer.UNKNOWN, has, needs, "read both plates", asks=tuple(asks), at="supply"
            )
        elif supply.volts is not None and gives.volts is not None and not supply.volts.holds(gives.volts):
            few = f"{plain(gives.volts)} V are too few for {supply.volts} V"
            if gives.feed is Feed.AC and gives.volts * TRANSFORMED >= supply.volts.low:
                yield Finding("what feeds it", Answer.WITH, has, needs, few, f"a transformer: {few}", at="supply")
            else:
                yield Finding("what feeds it", Answer.NOT, has, needs, few, few, at="supply")
        else:
            yield Finding("what feeds it", Answer.FITS, has, needs, "as it should", at="supply")
