"""The shop's own record of claims: what was said, what was true, and the odds that follow."""

from collections import defaultdict
from collections.abc import Mapping
from decimal import Decimal
from typing import Protocol

from django.db.models import Count

from core.buying.odds import OUTCOMES, STARTING, Learned, SeenLine, family_of, learn
from stations.buying.models import StartingOdds, Supplier, ToldOutcome, TurnedOut

Counts = tuple[int, ...]
NONE: Counts = (0,) * len(OUTCOMES)


class Claimed(Protocol):
    """A line of a plan or a lot: a claim about things of a kind and shape."""

    claim: str
    kind: str
    form_factor: str


class Record:
    """What is known for one supplier, None for one of whom we never bought: three queries when made, none after."""

    def __init__(self, supplier: Supplier | None) -> None:
        self._start, self._supplier = starting_table(), supplier.pk if supplier else None
        order = {outcome.value: place for place, outcome in enumerate(OUTCOMES)}
        # Every line of which something was found out: what was only written off or parted out teaches nothing.
        counts: dict[tuple[int, int, str, str], list[int]] = defaultdict(lambda: list(NONE))
        rows = TurnedOut.objects.exclude(found="").values_list(
            "line_id", "line__lot__supplier_id", "line__claim", "line__kind", "line__form_factor", "found"
        )
        for line, seller, claim, kind, form_factor, found, n in rows.annotate(n=Count("id")).order_by():
            counts[line, seller, claim, family_of(kind, form_factor)][order[found]] += n
        # And of lots we left, what we were told of them: kept apart by a sign, since lines of plans have numbers of
        # their own.
        of_others = ToldOutcome.objects.values_list(
            "line_id", "line__plan__supplier_id", "line__claim", "line__kind", "line__form_factor", "outcome", "count"
        )
        for line, seller, claim, kind, form_factor, outcome, n in of_others:
            counts[-line, seller, claim, family_of(kind, form_factor)][order[outcome]] += n
        self._lines = [(claim, family, SeenLine(of, tuple(n))) for (_, of, claim, family), n in counts.items()]

    def odds(self, line: Claimed) -> Learned:
        """The odds for a claim about things of this kind and shape from this supplier."""
        family = family_of(line.kind, line.form_factor)
        told = [(of, seen) for claim, of, seen in self._lines if claim == line.claim]
        own = [seen for _, seen in told if seen.supplier == self._supplier]
        kin = [seen for of, seen in told if seen.supplier != self._supplier and of == family]
        elsewhere = [seen for of, seen in told if seen.supplier != self._supplier and of != family]
        return learn(self.start(line), elsewhere, kin, own)

    def start(self, line: Claimed) -> tuple[float, ...]:
        """The odds before anything is known, whoever says it."""
        return starting_odds(self._start, line.claim, line.kind)

    def claims(self) -> dict[str, Counts]:
        """How this supplier’s machines turned out, by claim; for none, those of all."""
        made: dict[str, Counts] = {}
        for claim, _, seen in self._lines:
            if self._supplier in {None, seen.supplier}:
                made[claim] = tuple(map(sum, zip(made.get(claim, NONE), seen.counts, strict=True)))
        return dict(sorted(made.items()))


def odds_for(supplier: Supplier, line: Claimed) -> Learned:
    """The odds for one line; for several lines make one Record."""
    return Record(supplier).odds(line)


def starting_table() -> Mapping[tuple[str, str], StartingOdds]:
    """The owner's rows by claim and kind: one query."""
    return {(row.claim, row.kind): row for row in StartingOdds.objects.all()}


def said_or_usual(table: Mapping[tuple[str, str], StartingOdds], claim: str, kind: str) -> StartingOdds:
    """The owner's row, or what holds without one, in percent; that is not saved."""
    usual = zip(OUTCOMES, starting_odds(table, claim, kind), strict=True)
    percents = {outcome.value: round(Decimal(str(share)) * 100, 2) for outcome, share in usual}
    return table.get((claim, kind)) or StartingOdds(claim=claim, kind=kind, **percents)


def starting_odds(table: Mapping[tuple[str, str], StartingOdds], claim: str, kind: str) -> tuple[float, ...]:
    """The owner's odds for the claim and kind, or for the claim, or those the application comes with."""
    row = table.get((claim, kind)) or table.get((claim, ""))
    if row is None:
        return STARTING.get(claim, STARTING["none"])
    return tuple(float(getattr(row, outcome.value)) / 100 for outcome in OUTCOMES)
