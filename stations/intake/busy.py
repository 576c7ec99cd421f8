"""Whether somebody is at work on a unit: a run that is open, a job, a fault. Stations further on register theirs."""

from collections.abc import Callable

from stations.intake.models import Unit
from stations.people.refusals import Refused

Source = Callable[[Unit], str]
_sources: list[Source] = []


def register(source: Source) -> Source:
    """Add a source: it answers with what is going on, in words such as "a test run is open", or empty."""
    if source not in _sources:
        _sources.append(source)
    return source


def what(unit: Unit) -> list[str]:
    """Everything that is going on with the unit, in words."""
    return [words for source in _sources if (words := source(unit))]


def refuse(unit: Unit, doing: str) -> None:
    """Raise Refused while anything is going on; `doing` begins the sentence: "It can’t be written off"."""
    if going := what(unit):
        raise Refused(f"{doing}: {', '.join(going)}. Finish or end that first.")
