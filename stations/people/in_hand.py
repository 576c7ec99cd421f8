"""What somebody has in hand in every room: to be taken over or ended when they are out, or leave."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from stations.common.registry import Registry
from stations.people.models import Person

# The longest ago first, of each kind; nobody has more in hand that they know of.
MOST = 20


@dataclass(frozen=True)
class InHand:
    """A thing, of what unit, and where it is gone on with."""

    words: str
    about: str
    url: str


kinds: Registry[Callable[[Person], Sequence[InHand]]] = Registry("what somebody has in hand")


def of(person: Person) -> list[InHand]:
    """A query for each kind."""
    return [one for kind in kinds.values() for one in kind(person)]
