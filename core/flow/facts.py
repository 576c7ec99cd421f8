"""Everything the stage of a unit rests on; each fact has one station that answers for it.

Texts are words to show, empty for no.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from core.flow.stage import NextKind
from core.flow.task import Task


@dataclass(frozen=True)
class Hold:
    """Why a unit is not safe, and on what kind of page that is dealt with."""

    words: str
    kind: NextKind


@dataclass(frozen=True)
class IntakeFlow:
    """`worth`: what its line was thought to be worth, in base currency; None where nobody said. `our_share` is the part
    of what it is sold for that comes in: 1 of what is ours, our commission, 0 of what is never sold; None where nobody
    said what was agreed."""

    gaps: Sequence[str] = ()
    assessed: bool = False
    custody: bool = False
    donor: bool = False
    parked: str = ""
    scrapped: bool = False
    returned: bool = False
    sell_as_is: bool = False
    worth: Decimal | None = None
    our_share: Decimal | None = Decimal(1)
    hold: Hold | None = None


@dataclass(frozen=True)
class BenchFlow:
    """`running`: a run is open; `tasks` are the steps of the newest run still to do, `plan_minutes` the hands-on
    minutes of a whole one, the newest or else the first; `failed` and `not_proven` hold what the newest run and the
    faults, fixes and starts since say, `mended` what was mended since it ended."""

    started: bool = False
    running: bool = False
    complete: bool = False
    tasks: Sequence[Task] = ()
    plan_minutes: int = 0
    failed: Sequence[str] = ()
    not_proven: Sequence[str] = ()
    mended: Sequence[str] = ()
    hold: Hold | None = None

    @property
    def works(self) -> bool | None:
        """Whether it was shown to work, or not to: failed, or unplugged for what it did. None where it was not tested
        to its end, and after a repair."""
        if self.failed or self.not_proven or self.hold:
            return False
        return True if self.complete and not self.mended else None


@dataclass(frozen=True)
class WorkshopFlow:
    """`tasks` are the jobs that are open; `overdue` is a temporary fix past its date. `again_on` is the next day on
    which time alone changes something: what waited comes back, a date passes."""

    tasks: Sequence[Task] = ()
    overdue: str = ""
    again_on: date | None = None
    waiting_for: str = ""
    decision: str = ""
    retest_after: str = ""
    not_proven: Sequence[str] = ()


@dataclass(frozen=True)
class SellingFlow:
    """`asking`: what is asked for it, None while nobody set a price; `owed`: its buyer has not paid all of it to us
    (a marketplace pays out later)."""

    graded: bool = False
    blocks: Sequence[str] = ()
    listed: bool = False
    sold: bool = False
    sent: bool = False
    closed: bool = False
    owed: bool = False
    asking: Decimal | None = None


@dataclass(frozen=True)
class DispatchFlow:
    """What was sold and is on its way or comes back: `packed`, its parcel is closed; `coming_back`, why the return that
    nobody has settled yet was asked for; `here_again`, that it was received and did not go back to its buyer."""

    packed: bool = False
    coming_back: str = ""
    here_again: bool = False


@dataclass(frozen=True)
class FlowFacts:
    intake: IntakeFlow = field(default_factory=IntakeFlow)
    bench: BenchFlow = field(default_factory=BenchFlow)
    workshop: WorkshopFlow = field(default_factory=WorkshopFlow)
    selling: SellingFlow = field(default_factory=SellingFlow)
    dispatch: DispatchFlow = field(default_factory=DispatchFlow)

    @property
    def not_for_sale(self) -> bool:
        """In custody, or its buyer’s again: it is given back, and neither sold nor taken for parts."""
        return self.intake.custody or self.dispatch.here_again

    @property
    def hold(self) -> Hold | None:
        """What was found at intake comes before what a check or a stop at the bench says."""
        return self.intake.hold or self.bench.hold
