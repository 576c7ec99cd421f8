"""The words for where a unit stands. How it gets there: core/flow/rules."""

from dataclasses import dataclass
from datetime import date
from enum import StrEnum


class Station(StrEnum):
    BUYING = "buying"
    INTAKE = "intake"
    BENCH = "bench"
    WORKSHOP = "workshop"
    SELLING = "selling"
    BOOKS = "books"

    @property
    def label(self) -> str:
        return self.value.capitalize()


class Stage(StrEnum):
    RECEIVED = "received"
    ASSESSED = "assessed"
    ON_BENCH = "on_bench"
    IN_WORKSHOP = "in_workshop"
    PROVEN = "proven"
    GRADED = "graded"
    LISTED = "listed"
    SOLD = "sold"
    SENT = "sent"
    CLOSED = "closed"
    BACK = "back"
    PARKED = "parked"
    DONOR = "donor"
    SCRAPPED = "scrapped"
    RETURNED = "returned"

    @property
    def bought(self) -> bool:
        """Somebody bought it, wherever it is."""
        return self in {Stage.SOLD, Stage.SENT, Stage.CLOSED, Stage.BACK}

    @property
    def gone(self) -> bool:
        """It is somebody else’s, left the house or is no longer a unit: nothing is decided of it any more."""
        return self.bought or self in {Stage.SCRAPPED, Stage.RETURNED}

    @property
    def left(self) -> bool:
        """It stands nowhere here any more; what is sold does, until it is sent or handed over, and once it is back."""
        return self.gone and self not in {Stage.SOLD, Stage.BACK}

    @property
    def closed_to_work(self) -> bool:
        """Neither bench nor workshop works at it; what its buyer sent back may be mended for them."""
        return self.gone and self is not Stage.BACK

    @property
    def label(self) -> str:
        return {
            "back": "back from its buyer",
            "on_bench": "on the bench",
            "in_workshop": "in the workshop",
            "returned": "returned to owner",
        }.get(self.value, self.value)


GONE = frozenset(stage for stage in Stage if stage.gone)
LEFT = frozenset(stage for stage in Stage if stage.left)
BOUGHT = frozenset(stage for stage in Stage if stage.bought)
CLOSED_TO_WORK = frozenset(stage for stage in Stage if stage.closed_to_work)


class State(StrEnum):
    """How the unit stands on its rail."""

    MOVING = "move"
    WAITING = "wait"
    DECISION = "stuck"
    HOLD = "hold"
    SOLD = "sold"

    @property
    def label(self) -> str:
        return {
            "move": "moving",
            "wait": "waiting",
            "stuck": "needs a decision",
            "hold": "safety hold",
            "sold": "done",
        }[self.value]


class NextKind(StrEnum):
    """What the next step is, and so which page it is done on."""

    INTAKE = "intake"
    BENCH = "bench"
    WORKSHOP = "workshop"
    SELLING = "selling"
    LISTING = "listing"
    SALE = "sale"
    BOOKS = "books"
    NONE = "none"


@dataclass(frozen=True)
class UnitStatus:
    """Stage, station and state, with the reason and the next step in words and in hands-on minutes; `again_on` is the
    next day on which it may stand otherwise though nobody does anything. `minutes_ahead` are those that usually follow
    the next step; `pull` is what it is to bring for each minute of all of them, in base currency; None where nothing is
    to be done at it in the house."""

    stage: Stage
    station: Station
    state: State
    reason: str
    next_step: str
    next_kind: NextKind
    minutes: int = 0
    minutes_ahead: int = 0
    again_on: date | None = None
    pull: float | None = None
