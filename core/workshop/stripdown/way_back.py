"""The way back: in which order it goes together again, and what must not be closed yet."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from core.catalogue.assemblies import StripDown
from core.catalogue.orders import on_order
from core.workshop.stripdown.way_in import Costs, at_one_side, way_in


def way_back(strip: StripDown, off: Collection[str]) -> list[str]:
    """An order to put all that is off back on, by the ways it stands on and the putting-on rules.

    Raises AssemblyError naming the ring when there is none.
    """
    return on_order(strip, off, at_one_side(strip, inside_first=True))


class What(StrEnum):
    """What is not settled under an assembly."""

    NOT_IN = "not in"
    JOB = "job"
    TEST = "test"
    SAFETY = "safety"


@dataclass(frozen=True)
class Unsettled:
    """One thing that speaks against closing: what, where (an assembly), in words, and minutes it takes if known.

    A safety matter can't be closed over, whatever the reason.
    """

    what: What
    at: str
    words: str
    minutes: int = 0

    @property
    def safety(self) -> bool:
        return self.what is What.SAFETY


@dataclass(frozen=True)
class Inside:
    """How it looks in the machine: what is `off`; jobs open by assembly (title, minutes); tests due that were not
    passed since it was open; what is `lost`: earth straps, insulators, fuses known to be missing.

    Plugs and fasteners need no place here: an assembly is on only once each of its own was put in.
    """

    off: frozenset[str] = frozenset()
    jobs: Mapping[str, tuple[tuple[str, int], ...]] | None = None
    tests_due: frozenset[str] = frozenset()
    lost: frozenset[str] = frozenset()


def do_not_close(strip: StripDown, name: str, inside: Inside) -> list[Unsettled]:
    """What must be settled before `name` goes on: everything it shuts in. Safety first, then in the order of layers."""
    found: list[Unsettled] = []
    under = sorted(strip.under(name), key=lambda n: (strip[n].layer, strip[n].x_from))
    for below in under:
        found += _at(strip, below, inside)
    for needed in sorted(strip[name].on_after & inside.off - set(under)):
        found.append(_missing(strip, needed))
    return sorted(found, key=lambda unsettled: not unsettled.safety)


def _at(strip: StripDown, below: str, inside: Inside) -> Iterable[Unsettled]:
    assembly = strip[below]
    if below in inside.lost or (below in inside.off and assembly.must_be_in):
        yield Unsettled(What.SAFETY, below, f"{below} is missing: this can’t be closed over", assembly.minutes_on)
    elif below in inside.off:
        yield _missing(strip, below)
    for title, minutes in (inside.jobs or {}).get(below, ()):
        yield Unsettled(What.JOB, below, f"Still to be done there: {title}", minutes)
    if below in inside.tests_due and assembly.test:
        yield Unsettled(What.TEST, below, f"Due before it closes: {assembly.test}")


def _missing(strip: StripDown, name: str) -> Unsettled:
    what = What.SAFETY if strip[name].must_be_in else What.NOT_IN
    return Unsettled(what, name, f"{name} is not in", strip[name].minutes_on)


def minutes_if_closed_too_soon(strip: StripDown, unsettled: Iterable[Unsettled], costs: Costs | None = None) -> int:
    """What it costs to open and close it again for these, from closed: minutes of hands."""
    return way_in(strip, {u.at for u in unsettled}, costs).minutes if unsettled else 0
