"""What somebody has in hand in every room: to be taken over or ended when they are out, or leave."""

from collections.abc import Callable
from dataclasses import dataclass

from stations.common.paging import First
from stations.common.registry import Registry
from stations.people.models import Person

# So many of each kind are listed.
MOST = 20


@dataclass(frozen=True)
class InHand:
    """A thing, of what unit, and where it is gone on with."""

    words: str
    about: str
    url: str


kinds: Registry[Callable[[Person], First[InHand]]] = Registry("what somebody has in hand")


def of(person: Person) -> First[InHand]:
    """The first of each kind, and how many there are in all: two queries a kind at most."""
    found = [kind(person) for kind in kinds.values()]
    return First([one for each in found for one in each], sum(each.count for each in found))
