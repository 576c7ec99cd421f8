"""What has to come out first, what the approach allows, firmware of the part itself, and what others tried."""

from collections.abc import Iterator

from core.catalogue.fit.answers import INSIDE, TRIED, Answer, Ask, Finding, Row, Side, ask
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Change, Needs
from core.catalogue.fit.rules.register import rule
from core.machine.approach import Approach

PRACTICE = "common practice, no source"
# What a part goes in as, by the group of its needs.
_GOES_IN = {"cards": "card", "processors": "processor", "modules": "memory module", "drives": "drive"}


@rule("what is in it", "what is not written down takes slots, rails and interrupts too")
def what_is_in_it(machine: Machine, part: Needs) -> Iterator[Finding]:
    if not (part.takes or part.uses or part.draws or any(getattr(part, group) for group in _GOES_IN)):
        return
    row = Row("what is in it", f"{len(machine.fitted)} part{'' if len(machine.fitted) == 1 else 's'} written down", "")
    if machine.whole:
        yield row.fits("all of it, as somebody said")
    else:
        inside = Ask(Side.UNIT, "unit", "unit", INSIDE, "whether all that is in it is written down")
        yield row.unknown("look inside, then say so", [inside])


@rule("must come out first", PRACTICE)
def must_come_out_first(machine: Machine, part: Needs) -> Iterator[Finding]:
    goes = {word for group, word in _GOES_IN.items() if getattr(part, group)}
    if not goes:
        return
    for removal in machine.offers.removals or ():
        if removal.into is None or removal.sits is None:
            asks = [
                ask(Side.MACHINE, "removals", removal, key) for key in ("sits", "into") if not getattr(removal, key)
            ]
            yield Row("must come out first", removal.name, "").unknown("look it up", asks)
        elif removal.into.lower() in goes:
            there = machine.in_place(removal.sits) is not None
            row = Row("must come out first", f"{removal.name} in it" if there else f"no {removal.name}", "")
            if not there:
                yield row.fits("nothing in the way")
            elif removal.stays:
                yield row.does_not(f"the {removal.name} stands in the way and can’t be taken out")
            else:
                yield row.fits_with(f"the {removal.name} taken out first, and back in afterwards")


@rule("approach", "AIC Code of Ethics on reversibility, from memory; period-correct: " + PRACTICE)
def approach(machine: Machine, part: Needs) -> Iterator[Finding]:
    goes_in = any(getattr(part, group) for group in _GOES_IN)
    # Of what goes in and nobody said anything about it is asked too: a modern part, or one that changes it for good.
    for change in (Change("it"),) if part.changes is None and goes_in else part.changes or ():
        replaces = f"its own {change.replaces} kept with it" if change.replaces else ""
        needs = " and ".join(
            filter(
                None, ["changes it for good" if change.reversible is False else "", "modern" if change.modern else ""]
            )
        )
        if machine.approach is None:
            how = Ask(Side.UNIT, "unit", "unit", "approach", "how it is treated")
            yield Row("approach", "not said", needs).unknown("choose the approach", [how])
            continue
        has = machine.approach.label
        keys = [key for key in ("reversible", "modern") if getattr(change, key) is None]
        strict = machine.approach in {Approach.CONSERVE, Approach.PERIOD}
        if machine.approach is Approach.CONSERVE and change.reversible is False:
            yield Row("approach", has, needs).does_not(f"{has}: only work that can be undone")
        elif strict and keys:
            asks = tuple(ask(Side.PART, "changes", change, key) for key in keys)
            yield Row("approach", has, needs).unknown("find out", asks)
        elif machine.approach is Approach.PERIOD and change.modern:
            yield Row("approach", has, needs).fits_with(f"it out of sight{' and ' + replaces if replaces else ''}")
        elif replaces and machine.approach is not Approach.DONOR:
            yield Row("approach", has, needs).fits_with(replaces)
        else:
            yield Row("approach", has, needs).fits("as it is treated")


@rule("firmware of the part", PRACTICE)
def firmware(machine: Machine, part: Needs) -> Iterator[Finding]:
    for chip in part.firmware or ():
        needs = f"{chip.wants} or newer" if chip.wants is not None else "not known"
        has = str(chip.version) if chip.version is not None else "not read"
        if chip.version is None or chip.wants is None:
            asks = tuple(ask(Side.PART, "firmware", chip, k) for k in ("version", "wants") if getattr(chip, k) is None)
            less = f"; below {chip.wants} it {chip.less}" if chip.wants is not None and chip.less else ""
            yield Row("firmware", has, needs).unknown(f"read the label on {chip.name}{less}", asks)
        elif chip.version >= chip.wants:
            since = f" of {chip.newest_on}" if chip.newest_on else ""
            newer = chip.newest is not None and chip.newest > chip.version
            so = f"does all; {chip.newest}{since} is the newest" if newer and chip.newest else "does all"
            yield Row("firmware", has, needs).fits(so)
        elif chip.newest is not None and chip.newest < chip.wants:
            yield Row("firmware", has, needs).does_not(
                f"it {chip.less or 'does less'}, and nothing newer than {chip.newest} is known"
            )
        else:
            yield Row("firmware", has, needs).fits_with(f"firmware {needs}; as it is it {chip.less or 'does less'}")


@rule("tried", "what people wrote down here, with who and when")
def tried(machine: Machine, part: Needs) -> Iterator[Finding]:
    """Evidence: what others saw speaks for or against, in the region it was seen in. It makes nothing fit."""
    for one in machine.tried:
        version = f"{one.version} " if one.version else ""
        words = f"{one.who}, {one.on:%-d %B %Y}: {version}{'ran' if one.runs else 'refused'}"
        words += f"; {one.words}" if one.words else ""
        if one.region and machine.region and one.region != machine.region:
            so = f"seen in {one.region}; here it is {machine.region}: try it"
            asks = (Ask(Side.UNIT, "unit", "unit", TRIED, f"whether it runs in {machine.region}"),)
            yield Row("whether it runs", words, "").unknown(so, asks)
        elif one.runs:
            yield Row("whether it runs", words, "").fits("it ran")
        elif any(other.runs and other.version != one.version for other in machine.tried):
            does = f"another version than {one.version or 'the one that was refused'}"
            yield Finding("whether it runs", Answer.WITH, words, "", "it was refused", does)
        else:
            asks = (Ask(Side.UNIT, "unit", "unit", TRIED, "whether it runs in this one"),)
            yield Row("whether it runs", words, "").unknown("it was refused: try it", asks)
