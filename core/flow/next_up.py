"""What to do next: euro unlocked for every hands-on minute, safety first."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from core.flow.stage import State
from core.flow.task import Task
from core.money import ZERO


@dataclass(frozen=True)
class Candidate:
    """One unit's next task, how the unit stands, and the whole days it has stood so; `hands` are the minutes of
    everything that is to be done at it (None: only that task)."""

    task: Task
    state: State
    waited_days: int
    hands: int | None = None

    @property
    def minutes(self) -> int:
        return max(self.task.minutes, self.hands or 0)


@dataclass(frozen=True)
class Ranked:
    candidate: Candidate
    why: str


def next_up(
    candidates: Iterable[Candidate], *, most: int = 4, currency: str = "", minutes_left: int | None = None
) -> tuple[Ranked, ...]:
    """Safety holds first, then what runs by itself and would end today, then by euro per hands-on minute, raised by a
    hundredth for each day waited; of what is left, what nobody put a worth to stands last.

    Waiting and finished units are left out: nothing can be done about them now. Ties go to the lower unit. `currency`
    is how the base currency is written before an amount; `minutes_left` are those until the shop closes (None: nobody
    said when).
    """
    doable = [c for c in candidates if c.state not in {State.WAITING, State.SOLD} and c.task.minutes > 0]
    doable.sort(key=lambda c: (c.state is not State.HOLD, not _ends_today(c, minutes_left), -_pull(c), c.task.unit))
    return tuple(Ranked(c, _why(c, currency, minutes_left)) for c in doable[:most])


def _ends_today(candidate: Candidate, minutes_left: int | None) -> bool:
    task = candidate.task
    return bool(task.alone_minutes) and minutes_left is not None and task.minutes + task.alone_minutes <= minutes_left


def _pull(candidate: Candidate) -> Decimal:
    return (candidate.task.unlocks or ZERO) / candidate.minutes * (1 + Decimal(candidate.waited_days) / 100)


def _why(candidate: Candidate, currency: str, minutes_left: int | None) -> str:
    days = f"{candidate.waited_days} {'day' if candidate.waited_days == 1 else 'days'}"
    if candidate.state is State.HOLD:
        return f"Safety: on hold {days}" if candidate.waited_days else "Safety: on hold since today"
    unlocks = candidate.task.unlocks
    rate = "nobody said what it is worth"
    if unlocks == 0:
        rate = "nothing comes in by it"
    elif unlocks is not None:
        each = unlocks / candidate.minutes
        rate = f"{currency}{each:.{0 if each >= 10 else 1}f} per hands-on minute"
        if candidate.minutes > candidate.task.minutes:
            rate += f", {candidate.minutes} min in all"
    if _ends_today(candidate, minutes_left):
        return f"{rate}; then it runs {candidate.task.alone_minutes} min alone"
    return (
        f"{rate}; waiting {days} for a decision"
        if candidate.state is State.DECISION and candidate.waited_days
        else rate
    )
