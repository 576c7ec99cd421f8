"""Whether somebody is at work on a unit: a run that is open, a job, a fault. Stations further on register theirs."""

from collections.abc import Callable

from stations.intake.models import Unit
from stations.people.refusals import Refused

Source = Callable[[Unit], str]
_sources: dict[str, Source] = {}


def register(kind: str) -> Callable[[Source], Source]:
    """Add the source of one kind of work: it answers with what is going on, in words such as "a test run is open", or
    empty."""

    def add(source: Source) -> Source:
        _sources[kind] = source
        return source

    return add


def what(unit: Unit, *kinds: str) -> list[str]:
    """Everything that is going on with the unit, in words; only these kinds of work when some are named."""
    return [words for kind, source in _sources.items() if (not kinds or kind in kinds) and (words := source(unit))]


def refuse(unit: Unit, doing: str) -> None:
    """Raise Refused while anything is going on; `doing` begins the sentence: "It can’t be written off"."""
    if going := what(unit):
        raise Refused(f"{doing}: {', '.join(going)}. Finish or end that first.")
