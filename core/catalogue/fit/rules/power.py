"""The supply: each rail running and at the start, all watts, the least load, connectors; what a machine is fed with."""

from collections.abc import Iterator
from decimal import Decimal

from core.catalogue.fit.answers import Answer, Ask, Finding, Row, Side, ask
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
        yield Row("rails", "", "not known").unknown("measure it, or read its plate", asks)
        return
    if not part.draws:
        return
    if machine.offers.rails is None:
        asks = (Ask(Side.MACHINE, "rails", "", "", "what its supply gives"),)
        yield Row("rails", "not known", "").unknown("read the plate of the supply", asks)
        return
    by_volts = {rail.volts: rail for rail in machine.offers.rails}
    for draw in part.draws:
        rail, needs = by_volts.get(draw.volts), "?" if draw.amps is None else f"{plain(draw.amps)} A"
        if rail is None:
            yield Row(f"{draw.name} V", "none", needs).does_not(f"the supply has no {draw.name} V")
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
            return Row(name, has, needs, at).fits_with(f"a stronger supply: {name} {what}, {of}")
        if not asks:
            so = f"{round(100 * running / usable)} % used" if usable else "nothing to give"
            so += f", {plain(start)} of {plain(rail.amps)} A at the start" if start > running else ""
            if rail.least is not None and running < rail.least:
                return Row(name, has, needs, at).fits_with(
                    f"a load on {name}: {plain(running)} A, the supply wants {plain(rail.least)} A"
                )
            return Row(name, has, needs, at).fits(so)
    has = f"{plain(rail.amps * RUNNING)} A may be drawn" if rail.amps is not None else "not known"
    return Row(name, has, needs, at).unknown("find out", tuple(dict.fromkeys(asks)))


def _watts(machine: Machine, draws: tuple[Draw, ...]) -> Iterator[Finding]:
    supply = machine.supply
    loads = machine.loads.values()
    if supply is None or supply.watts is None:
        record = supply or Supply("supply")
        asks = (ask(Side.MACHINE, "supply", record, "watts"),)
        yield Row("watts in all", "not known", "", "supply").unknown("read its plate", asks)
        return
    drawn = sum((abs(volts) * load.running for volts, load in machine.loads.items()), Decimal(0))
    drawn += sum((abs(draw.volts) * draw.amps for draw in draws if draw.amps is not None), Decimal(0))
    has, needs = f"{plain(supply.watts)} W", f"{plain(round(drawn, 1))} W"
    if drawn > supply.watts:
        yield Row("watts in all", has, needs, "supply").fits_with(f"a stronger supply: {needs} of {has}")
    elif not any(load.asks for load in loads) and all(draw.amps is not None for draw in draws):
        so = f"{round(100 * drawn / supply.watts)} % used"
        yield Row("watts in all", has, needs, "supply").fits(so)


@rule("connectors", "counted; common practice, no source")
def connectors(machine: Machine, part: Needs) -> Iterator[Finding]:
    if part.takes is None and part.drives:
        asks = [Ask(Side.PART, "takes", "", "", "which connectors of the supply it takes")]
        yield Row("connectors", "", "not known").unknown("look at it", asks)
    for takes in part.takes or ():
        kind = takes.name
        if machine.offers.connectors is None or takes.count is None:
            asks = [ask(Side.PART, "takes", takes, "count")] if takes.count is None else []
            if machine.offers.connectors is None:
                asks.append(Ask(Side.MACHINE, "connectors", "", "", "which connectors its supply has"))
            yield Row("connectors", "not known", kind).unknown("count them", asks)
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
                yield Row("connectors", "none", needs).does_not(f"the supply has no {kind} connector")
            else:
                yield Row("connectors", "none", needs).fits_with(path.words, path)
        elif there.count is None:
            asks = [ask(Side.MACHINE, "connectors", there, "count")]
            yield Row("connectors", "not known", needs).unknown("count them", asks)
        elif there.count - used >= takes.count:
            last = f"{kind} connector of the supply" if there.count - used == takes.count else ""
            yield Row("connectors", f"{there.count - used} free", needs).fits("free", last)
        elif there.count == 0:
            yield Row("connectors", "none", needs).does_not(f"the supply has no {kind} connector")
        else:
            yield Row("connectors", f"{max(0, there.count - used)} free", needs).fits_with(
                f"a splitter for a {kind} connector"
            )


_NOT_ON = "It can destroy the machine: don’t switch on."


@rule("what feeds it", "IEC 60038 for mains volts, from memory; AC against DC: common practice, no source")
def what_feeds_it(machine: Machine, part: Needs) -> Iterator[Finding]:
    for gives in part.gives or ():
        supply = machine.supply or Supply("supply")
        needs = f"{plain(gives.volts) if gives.volts is not None else '?'} V {gives.feed or '?'}"
        has = f"{supply.volts or '?'} V {supply.feed or '?'}"
        if supply.feed is not None and gives.feed is not None and supply.feed is not gives.feed:
            yield Row("what feeds it", has, needs, "supply").does_not(
                f"it gives {gives.feed}, the machine wants {supply.feed}", _NOT_ON
            )
        elif supply.volts is not None and gives.volts is not None and gives.volts > supply.volts.high:
            yield Row("what feeds it", has, needs, "supply").does_not(
                f"{plain(gives.volts)} V are more than the {supply.volts} V it is made for", _NOT_ON
            )
        elif None in (supply.feed, supply.volts, gives.feed, gives.volts):
            asks = [ask(Side.MACHINE, "supply", supply, key) for key in ("feed", "volts") if not getattr(supply, key)]
            asks += [ask(Side.PART, "gives", gives, key) for key in ("feed", "volts") if getattr(gives, key) is None]
            yield Row("what feeds it", has, needs, "supply").unknown("read both plates", asks)
        elif supply.volts is not None and gives.volts is not None and not supply.volts.holds(gives.volts):
            few = f"{plain(gives.volts)} V are too few for {supply.volts} V"
            if gives.feed is Feed.AC and gives.volts * TRANSFORMED >= supply.volts.low:
                yield Finding("what feeds it", Answer.WITH, has, needs, few, f"a transformer: {few}", at="supply")
            else:
                yield Row("what feeds it", has, needs, "supply").does_not(few)
        else:
            yield Row("what feeds it", has, needs, "supply").fits("as it should")
