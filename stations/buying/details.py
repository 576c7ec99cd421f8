"""What is said of a lot and its lines, or of a plan for one, when they are recorded or put right."""

from collections.abc import Sequence
from dataclasses import dataclass, fields
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from core.buying.landed import Charge
from core.machine.casing import FormFactor
from core.money import ZERO


@dataclass(frozen=True)
class LotDetails:
    """The header of a lot, and what was paid for it: `charges` in its own currency, `rate` ours for a unit of that."""

    title: str
    supplier_name: str
    source_kind: str
    bought_on: date
    currency: str
    rate: Decimal
    charges: Sequence[Charge] = ()
    paid_on: date | None = None
    arrived_on: date | None = None
    owner_name: str = ""
    note: str = ""
    # Recorded though one just like it is here.
    another: bool = False

    @property
    def header(self) -> dict[str, Any]:
        """The fields of Lot."""
        return _fields(self, {"supplier_name", "charges", "another"})


@dataclass(frozen=True)
class LineDetails:
    """One line: what it is, how many, what was claimed of it, what each weighs and is thought worth, base currency.

    `id` is that of the line which is put right; None for a new one. A weight that nobody knows is None, and so
    are the three worths where nobody said one.
    """

    description: str
    quantity: int
    kind: str
    form_factor: str
    claim: str
    claim_words: str = ""
    weight_kg: Decimal | None = None
    worth_low: Decimal | None = None
    worth_likely: Decimal | None = None
    worth_high: Decimal | None = None
    finish_cost: Decimal = ZERO
    id: int | None = None

    @property
    def values(self) -> dict[str, Any]:
        """The fields of LotLine."""
        return _fields(self, {"id"})


@dataclass(frozen=True)
class PlanDetails:
    """The terms of a sale, and what we want of it: percents from 0 to 100, amounts in the lot’s currency but for
    `postage` and what is wanted for an hour, which are ours. `postage` None: as in the settings."""

    title: str
    supplier_name: str
    currency: str
    rate: Decimal
    closes_at: datetime | None = None
    premium_percent: Decimal = ZERO
    premium_bands: str = ""
    premium_tax_percent: Decimal = ZERO
    freight: Decimal = ZERO
    duty_percent: Decimal = ZERO
    import_tax_percent: Decimal = ZERO
    other: Decimal = ZERO
    fee_percent: Decimal = ZERO
    postage: Decimal | None = None
    lot_rho: Decimal = ZERO
    target_margin: Decimal = ZERO
    loss_limit: Decimal = ZERO
    target_hourly: Decimal = ZERO

    @property
    def terms(self) -> dict[str, Any]:
        """The fields of BidPlan."""
        return _fields(self, {"supplier_name"})


@dataclass(frozen=True)
class CaseDetails:
    """One way a piece may turn out: its odds (a share, 0 to 1); what else is None stays as it was."""

    odds: Decimal
    low: Decimal | None = None
    likely: Decimal | None = None
    high: Decimal | None = None
    cost: Decimal | None = None
    minutes: int | None = None

    @property
    def values(self) -> dict[str, Any]:
        """The fields of PlanCase that are said."""
        return {name: value for name, value in vars(self).items() if value is not None}


@dataclass(frozen=True)
class SeenPieces:
    """Pieces of one kind as a photograph shows them, and what a working one sells for, base currency; None where
    nobody said."""

    description: str
    quantity: int
    form_factor: str
    claim: str
    worth: Decimal | None
    claim_words: str = ""
    kind: str = "machine"

    @property
    def values(self) -> dict[str, Any]:
        """The fields of PlanLine."""
        return _fields(self, {"worth"})


@dataclass(frozen=True)
class PlanLineDetails:
    """A line of a plan as it is put right: `rho` in percent, what it costs to go and look in minutes and our money."""

    description: str
    quantity: int
    kind: str
    form_factor: str
    claim: str
    claim_words: str
    rho: Decimal
    look_minutes: int
    look_cost: Decimal


# What a line of parts turns out as when nobody said its shape.
PART_FORMS = {"board": FormFactor.BOARD.value, "part": FormFactor.CARD.value, "media": FormFactor.DRIVE.value}


def usual_form(kind: str) -> str:
    """The form factor of what is of no shape by itself."""
    return PART_FORMS.get(kind, FormFactor.DESKTOP.value)


def _fields(said: LotDetails | LineDetails | PlanDetails | SeenPieces, without: set[str]) -> dict[str, Any]:
    return {field.name: getattr(said, field.name) for field in fields(said) if field.name not in without}
