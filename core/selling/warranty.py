"""How long what we sold is answered for, by its grade, and what that has cost."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from core.money import ZERO, to_cent
from core.selling.grade import Grade

# So many sales at the rate of all grades are thought beside those of one (judgement of ours: what one dear case among
# five sales says of a grade is little, and what it says among a hundred is much).
THOUGHT_BESIDE = 20


@dataclass(frozen=True)
class Promised:
    """What a buyer is promised at the sale: days of warranty (0: none), and days in which it may be given back without
    a reason. What is promised later is no part of it. Where nobody said the terms (`is_said`) they are what a shop
    begins with: they hold, and are told to nobody as the shop’s own."""

    warranty: int
    withdrawal: int
    is_said: bool


@dataclass(frozen=True)
class Term:
    """A warranty that began on a day; `days` 0: none was given."""

    begun: date
    days: int

    @property
    def ends(self) -> date:
        """Its last day."""
        return self.begun + timedelta(days=self.days)

    def left_on(self, day: date) -> int:
        """Days that are left of it, today not counted; 0 when it is over."""
        return max(0, (self.ends - day).days) if self.days else 0


@dataclass(frozen=True)
class Answered:
    """What a grade has cost after its sales: how many were sold, and what was paid for those that came back for
    something that we answer for, base currency."""

    sales: int
    cost: Decimal


def cost_of_a_sale(answered: Mapping[Grade, Answered], grade: Grade) -> Decimal:
    """What answering for one more sale of this grade is reckoned to cost, to the cent: what its own sales have cost,
    drawn to what all have by THOUGHT_BESIDE sales. Nothing before anything was sold: nothing is known of it then."""
    sales = sum(one.sales for one in answered.values())
    if not sales:
        return ZERO
    overall = sum((one.cost for one in answered.values()), ZERO) / sales
    own = answered.get(grade, Answered(0, ZERO))
    return to_cent((own.cost + overall * THOUGHT_BESIDE) / (own.sales + THOUGHT_BESIDE))
