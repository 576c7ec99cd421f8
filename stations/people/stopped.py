"""What of the house itself has stopped and says nothing any more: told on the floor, before it is missed too late."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from stations.common.registry import Registry
from stations.people.models import Person

# What is slow comes back by itself; what is silent for longer is told (common practice, no source).
SILENT = timedelta(minutes=10)


@dataclass(frozen=True)
class Stopped:
    """What it is, in words, and where somebody sees to it."""

    words: str
    url: str = ""
    way: str = ""


def at(moment: datetime) -> str:
    """A moment by the clock of the shop: Mon 30 Nov 14:20."""
    return f"{timezone.localtime(moment):%a %d %b %H:%M}"


# Of each what there is to tell somebody, who may be able to do something about it.
kinds: Registry[Callable[[Person], list[Stopped]]] = Registry("what may have stopped")


def told_to(person: Person) -> list[Stopped]:
    return [one for kind in kinds.values() for one in kind(person)]
