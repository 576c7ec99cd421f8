"""Whether what was shown on the bench still holds: everything that happened since may take it away."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True)
class Since:
    """Something that happened to a machine: when, and what, in words to follow "not proven:"."""

    when: datetime
    words: str


@dataclass(frozen=True)
class Proof:
    """`passed_at`: when the newest test plan was passed to its end; None when it never was. `against`: what speaks
    against it now, oldest first. `proven` only while nothing does."""

    passed_at: datetime | None
    against: tuple[str, ...]

    @property
    def proven(self) -> bool:
        return self.passed_at is not None and not self.against


def proof(
    passed_at: datetime | None,
    failed_starts: Sequence[Since] = (),
    open_faults: Sequence[Since] = (),
    failed_fixes: Sequence[Since] = (),
    work: Sequence[Since] = (),
) -> Proof:
    """What the bench has proven, and what has happened since.

    A failed start and work (a repair, an upgrade, a part exchanged, a journey) count when they came after the plan was
    passed; a fault that is looked for and a fix that did not hold count always: they are not settled yet.
    """
    later = [s for s in (*failed_starts, *work) if passed_at is not None and s.when > passed_at]
    against = sorted([*open_faults, *failed_fixes, *later], key=lambda s: s.when)
    return Proof(passed_at, tuple(dict.fromkeys(s.words for s in against)))
