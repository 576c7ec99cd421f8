"""Whether somebody is at work on a unit: a run that is open, a job, a fault. Rooms further on add theirs."""

from collections.abc import Callable

from stations.common.refusals import Refused
from stations.common.registry import Registry
from stations.units.models import Unit

Source = Callable[[Unit], str]
# Each answers with what is going on, in words such as "a test run is open", or empty.
kinds: Registry[Source] = Registry("work on a unit")


def what(unit: Unit, *of: str) -> list[str]:
    """Everything that is going on with the unit, in words; only these kinds of work when some are named."""
    return [words for kind, source in kinds.items() if (not of or kind in of) and (words := source(unit))]


def refuse(unit: Unit, doing: str) -> None:
    """Raise Refused while anything is going on; `doing` begins the sentence: "It can’t be written off"."""
    if going := what(unit):
        raise Refused(f"{doing}: {', '.join(going)}. Finish or end that first.")
