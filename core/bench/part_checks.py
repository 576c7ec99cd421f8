"""What is looked at on a part by itself, on a fixture or in a test machine, and what its figures say of it.

The steps are common practice, no source; a limit is that of the interface it names.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from core.safety import Hazard
from core.stock.parts import PartKind

# How far under what such a part should give one is still as it should be, and where it can’t be the part it says it is:
# common practice, no source.
AS_IT_SHOULD, NOT_WHAT_IT_SAYS = Decimal("0.9"), Decimal("0.7")


@dataclass(frozen=True)
class PartCheck:
    """One thing to look at; `unit` where a figure is written down with it."""

    code: str
    words: str
    unit: str = ""
    hazards: tuple[Hazard, ...] = ()


_LOOKS = (
    PartCheck("looks", "No crack, burn, leak, bent pin or worn contact"),
    PartCheck("marks", "Print, date code and body agree: no sanding, no second print, edges as moulded"),
)
_BY_KIND: Mapping[PartKind, tuple[PartCheck, ...]] = {
    PartKind.BOARD: (
        PartCheck("no-short", "No rail is short to ground", "Ω"),
        PartCheck("rails", "Rails within 5 % on the jig", "V", (Hazard.LIVE,)),
        PartCheck("reset", "Clock runs, reset is let go"),
        PartCheck("answers", "It answers on the jig: code, beep or picture"),
    ),
    PartKind.CARD: (
        PartCheck("found", "The test machine finds it"),
        PartCheck("works", "Its own diagnostic, or its port looped back, passes"),
    ),
    PartKind.CHIP: (
        PartCheck("pins", "Every pin there and straight"),
        PartCheck("in-circuit", "In a machine that is known good it does its work for ten minutes"),
        PartCheck("warm", "Warm to the hand, not hot, after ten minutes"),
    ),
    PartKind.MODULE: (
        PartCheck("size", "The test machine counts all of it", "kB"),
        PartCheck("pattern", "Three passes of a memory test without an error"),
    ),
    PartKind.DISK: (
        PartCheck("spins", "It comes up to speed, without scraping or clicking"),
        PartCheck("reads", "Every sector reads: how many do not", "sectors"),
        PartCheck("again", "Read again cold next day: as many"),
    ),
    PartKind.DRIVE: (
        PartCheck("heads", "Heads clean, rails slide"),
        PartCheck("speed", "Speed, within 1.5 % of what it should be", "rpm"),
        PartCheck("reads", "A disk written elsewhere reads to the end"),
        PartCheck("writes", "What it writes another one reads"),
    ),
    PartKind.SUPPLY: (
        PartCheck("discharged", "Discharged, and measured", "V", (Hazard.CHARGE, Hazard.LIVE)),
        PartCheck("rails", "Rails within 5 % under a dummy load", "V", (Hazard.LIVE,)),
        PartCheck("ripple", "Ripple under load", "mV"),
    ),
    PartKind.KEYBOARD: (PartCheck("keys", "Every key answers once: how many do not", "keys"),),
    PartKind.SCREEN: (PartCheck("picture", "A steady picture in the right size", hazards=(Hazard.TUBE, Hazard.LIVE)),),
}


def checks_for(kind: PartKind) -> tuple[PartCheck, ...]:
    """What to look at on a part of this kind, looks first."""
    return (*_LOOKS, *_BY_KIND.get(kind, (PartCheck("works", "It does its work where it is known to be needed"),)))


def outcome(passed: Mapping[str, bool | None], checks: tuple[PartCheck, ...]) -> bool | None:
    """Good when all of them passed, bad when one failed; None while something was not looked at."""
    said = [passed.get(check.code) for check in checks]
    if False in said:
        return False
    return None if None in said else True


def figure_words(measured: Decimal, should: Decimal) -> str:
    """What a figure says against what such a part should give (above 0)."""
    if should <= 0:
        raise ValueError("What it should give is above 0.")
    share = measured / should
    percent = f"{round(100 * share)} % of what it should give"
    if share >= AS_IT_SHOULD:
        return f"as it should: {percent}"
    return f"{percent}: slow" if share >= NOT_WHAT_IT_SAYS else f"{percent}: it may not be what it says it is"


def may_be_fake(measured: Decimal, should: Decimal) -> bool:
    """Whether a figure speaks against the print on the part."""
    return measured / should < NOT_WHAT_IT_SAYS
