"""What each path would leave of a unit, for one or a whole lot."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import partial
from operator import mul
from typing import Any

from django.db.models import Avg

from core.buying.odds import OUTCOMES
from core.flow.facts import BenchFlow
from core.flow.stage import GONE
from core.intake.completeness import Presence
from core.intake.triage import (
    USUAL_EFFORT,
    Effort,
    Prices,
    Triage,
    TriageFacts,
    estimated,
    seen_odds,
    shown_odds,
    triage,
)
from core.machine.names import as_seen
from core.money import to_cent
from core.selling.price import share_kept
from core.workshop.learning import learned
from stations.buying.models import TurnedOut
from stations.buying.record import Record
from stations.catalogue.models import ExpectedItem
from stations.catalogue.prices import prices_by_model
from stations.common.registry import Registry
from stations.people import shop_settings
from stations.units import stages
from stations.units.models import Content, Finding, Unit
from stations.units.selectors import completeness_of, cosmetics_of

# Who knows what work takes here: the minutes that a piece of work took, by its name among those of Effort.
took: Registry[Callable[[], Mapping[str, Sequence[float]]]] = Registry("what work took")

# Who knows what a sale of these units at a price leaves, before our labour: by unit, in base currency, of those that
# could be sold somewhere.
leaving: Registry[Callable[[list[Unit]], Mapping[int, Callable[[Decimal], Decimal]]]] = Registry("what sales leave")

# A usual selling fee while there is nowhere to sell, as a share (common practice, no source).
USUAL_FEE = 0.1


@dataclass(frozen=True)
class Weighed:
    """A unit with its paths; `works`: whether the bench has shown that it does, or that it does not, None for neither.
    `asked_for` is the path somebody chose, if any."""

    unit: Unit
    facts: TriageFacts
    found: Triage
    seen: int
    works: bool | None = None

    @property
    def asked_for(self) -> str:
        return self.unit.path

    @property
    def decided_otherwise(self) -> bool:
        """Somebody chose another path than the one that leaves most."""
        return bool(self.unit.path) and self.unit.path != self.found.best.path


def may_choose(unit: Unit) -> bool:
    """It is here, and ours to say what shall become of it."""
    return not unit.custody and unit.stage not in GONE


def kept_share(unit: Unit) -> float:
    """The share of a price that is taken to be kept, after the usual fee."""
    return share_kept(USUAL_FEE, unit.agreed.commission_percent if unit.consigned else None)


def left_of_sales(units: list[Unit]) -> dict[int, Callable[[float], float]]:
    """What a sale of each at a price leaves, before our labour: where it would be sold, or after a usual fee."""
    known = {pk: left for asked in leaving.values() for pk, left in asked(units).items()}

    def there(left: Callable[[Decimal], Decimal], price: float) -> float:
        return float(left(to_cent(Decimal(repr(price)))))

    return {
        unit.pk: partial(there, known[unit.pk]) if unit.pk in known else partial(mul, kept_share(unit))
        for unit in units
    }


def gained_share(unit: Unit) -> float:
    """The share that is gained of what work adds to a price: of what is ours all of it, fees being left out of what is
    shown; of what is sold for its owner what is kept, where the fee would eat the rest."""
    return max(0.0, kept_share(unit)) if unit.consigned else 1.0


def weigh_paths(units: list[Unit]) -> list[Weighed]:
    """Weigh the paths of these units, in a number of queries that does not grow with them (two a supplier).

    What is in custody is not weighed: it is not ours to choose. Nor is what nobody said a worth of: neither sales
    elsewhere of its model do, nor its line of the lot.
    """
    ours = [unit for unit in units if may_choose(unit)]
    sales = prices_by_model({unit.model_id for unit in ours if unit.model_id})
    found = {unit.pk: sales.get(unit.model_id or 0) or _estimate(unit) for unit in ours}
    prices = {pk: known for pk, known in found.items() if known}
    ours = [unit for unit in ours if unit.pk in prices]
    records = {supplier.pk: Record(supplier) for supplier in {unit.lot.supplier for unit in ours}}
    known = dict(
        TurnedOut.objects.filter(unit_number__in=[unit.number for unit in ours])
        .exclude(found="")
        .values_list("unit_number", "found")
    )
    rate = float(shop_settings.settings().labour_rate)
    weighed, estimates, effort, left = [], _estimates(ours), _effort(), left_of_sales(ours)
    bench: Mapping[int, BenchFlow] = stages.flow["bench"](ours)
    for unit in ours:
        findings = [f for f in unit.findings.all() if f.status == Finding.Status.OPEN]
        record, shown = records[unit.lot.supplier_id].odds(unit.line), bench.get(unit.pk, BenchFlow())
        if unit.number in known:
            odds = tuple(float(outcome.value == known[unit.number]) for outcome in OUTCOMES)
        else:
            odds = seen_odds(record.odds, Counter(f.kind for f in findings))
        facts = TriageFacts(
            shown_odds(odds, shown.works),
            prices[unit.pk],
            _percent(unit),
            cosmetics_of(findings).score if unit.looked_over_at else None,
            labour_rate=rate,
            left=left[unit.pk],
            faults=len(findings),
            ours=unit.ours,
            **_to_buy(unit, estimates),
        )
        # As many minutes as its plan has; once it is shown to work they are spent.
        test = 0 if shown.works else shown.plan_minutes or effort.test
        weighed.append(Weighed(unit, facts, triage(facts, replace(effort, test=test)), record.seen, shown.works))
    return weighed


def _effort() -> Effort:
    """What work takes here, as it took before: one query."""
    known = {name: minutes for asked in took.values() for name, minutes in asked().items()}
    usual = {name: getattr(USUAL_EFFORT, name) for name in known}
    return replace(
        USUAL_EFFORT,
        **{name: learned([each / usual[name] for each in known[name]]).minutes(usual[name]) for name in known},
    )


_TO_BUY = {Presence.MISSING.value, Presence.WRONG.value}


def _estimates(units: list[Unit]) -> dict[str, Decimal]:
    """What things cost that nobody estimated at a unit, by their names as they are seen: what the bank of models says
    of one of that name, on average. One query; none where everything is estimated."""
    names = {c.name for unit in units for c in unit.contents.all() if _is_to_buy(c) and not c.estimate}
    if not names:
        return {}
    rows = ExpectedItem.objects.filter(name__in=names, estimate__gt=0).order_by()
    return {as_seen(name): usual for name, usual in rows.values_list("name").annotate(usual=Avg("estimate"))}


def _is_to_buy(content: Content) -> bool:
    return content.presence in _TO_BUY and not content.done_without


def _to_buy(unit: Unit, estimates: dict[str, Decimal]) -> dict[str, Any]:
    """What is to be bought costs so much, and so many things of it nobody can put a price to."""
    wanted = [c.estimate or estimates.get(as_seen(c.name)) for c in unit.contents.all() if _is_to_buy(c)]
    return {
        "missing_cost": float(sum(cost for cost in wanted if cost)),
        "missing_unpriced": sum(cost is None for cost in wanted),
    }


def _percent(unit: Unit) -> int | None:
    return completeness_of(unit.contents.all()).percent


def _estimate(unit: Unit) -> Prices | None:
    return None if unit.expected_worth is None else estimated(unit.expected_worth)


def with_facts(units):
    """A queryset of units with all that weighing reads."""
    return units.select_related("line", "lot__supplier", "model", "owners_terms").prefetch_related(
        "contents", "findings"
    )
