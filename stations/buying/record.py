"""The shop's own record of claims: what was said, what was true, and the odds that follow."""

from collections import defaultdict
from collections.abc import Mapping
from typing import Protocol

from django.db.models import BooleanField, Count, ExpressionWrapper, Q

from core.buying.odds import OUTCOMES, STARTING, Learned, family_of, learn
from stations.buying.models import StartingOdds, Supplier, TurnedOut

Counts = tuple[int, ...]
NONE: Counts = (0,) * len(OUTCOMES)


class Claimed(Protocol):
    """A line of a plan or a lot: a claim about things of a kind and shape."""

    claim: str
    kind: str
    form_factor: str


class Record:
    """What is known for one supplier: two queries when it is made, none after."""

    def __init__(self, supplier: Supplier) -> None:
        self._start = starting_table()
        # By claim, family and whether it was this supplier.
        self._counts: dict[tuple[str, str, bool], list[int]] = defaultdict(lambda: list(NONE))
        order = {outcome.value: place for place, outcome in enumerate(OUTCOMES)}
        own = ExpressionWrapper(Q(line__lot__supplier=supplier), output_field=BooleanField())
        rows = TurnedOut.objects.annotate(own=own).values_list(
            "line__claim", "line__kind", "line__form_factor", "own", "outcome"
        )
        for claim, kind, form_factor, is_own, outcome, n in rows.annotate(n=Count("id")).order_by():
            self._counts[claim, family_of(kind, form_factor), bool(is_own)][order[outcome]] += n

    def odds(self, line: Claimed) -> Learned:
        """The odds for a claim about things of this kind and shape from this supplier."""
        family = family_of(line.kind, line.form_factor)
        elsewhere = self._sum(lambda c, f, own: c == line.claim and f != family and not own)
        kin = self._sum(lambda c, f, own: c == line.claim and f == family and not own)
        own = self._sum(lambda c, f, own: c == line.claim and own)
        return learn(starting_odds(self._start, line.claim, line.kind), elsewhere, kin, own)

    def claims(self) -> dict[str, Counts]:
        """How this supplier's machines turned out, by claim."""
        made = sorted({claim for claim, _, own in self._counts if own})
        return {claim: self._sum(lambda c, f, own, claim=claim: c == claim and own) for claim in made}

    def _sum(self, wanted) -> Counts:
        rows = [counts for key, counts in self._counts.items() if wanted(*key)]
        return tuple(map(sum, zip(*rows, strict=True))) if rows else NONE


def odds_for(supplier: Supplier, line: Claimed) -> Learned:
    """The odds for one line; for several lines make one Record."""
    return Record(supplier).odds(line)


def starting_table() -> Mapping[tuple[str, str], StartingOdds]:
    """The owner's rows by claim and kind: one query."""
    return {(row.claim, row.kind): row for row in StartingOdds.objects.all()}


def starting_odds(table: Mapping[tuple[str, str], StartingOdds], claim: str, kind: str) -> tuple[float, ...]:
    """The owner's odds for the claim and kind, or for the claim, or those the application comes with."""
    row = table.get((claim, kind)) or table.get((claim, ""))
    if row is None:
        return STARTING.get(claim, STARTING["none"])
    return tuple(float(getattr(row, outcome.value)) / 100 for outcome in OUTCOMES)
