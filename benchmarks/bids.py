"""A fifty-line plan against plain numpy draws of the same size.

.venv/bin/python -m benchmarks.bids
"""

import statistics
import time
from decimal import Decimal

import numpy as np

from core.buying.bid import DRAWS, Forecast, forecast
from core.buying.draws import _pert_quantiles
from core.buying.planned import BidLine, BidTerms, Case, PlannedTax, Targets


def plan(lines: int) -> list[BidLine]:
    """No two lines priced in the same shape, so that nothing is looked up that a real plan would work out."""

    def cases(n: int) -> tuple[Case, ...]:
        return (
            Case(0.4, 60, 100 + n / 7, 150, 10, 60),
            Case(0.3, 40, 70 + n / 9, 90, 30, 150),
            Case(0.2, 10, 20 + n / 8, 40, 0, 20),
            Case(0.1),
        )

    return [BidLine(f"line {n}", 1 + n % 8, cases(n)) for n in range(lines)]


def afresh(lines: list[BidLine]) -> Forecast:
    """A forecast of prices that were never seen before."""
    _pert_quantiles.cache_clear()
    return forecast(lines, BidTerms())


def median(act) -> float:
    act()
    times = []
    for _ in range(5):
        start = time.perf_counter()
        act()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def main() -> None:
    lines, dice = plan(50), np.random.default_rng(1)
    pieces = sum(line.quantity for line in lines)
    targets = Targets()
    drawn = forecast(lines, BidTerms())
    # The least that any simulation of this many pieces must draw: an outcome and a price for each.
    bare = median(lambda: [dice.random(DRAWS, dtype=np.float32) for _ in range(2 * pieces)])
    first = median(lambda: afresh(lines))
    simulated = median(lambda: forecast(lines, BidTerms()))
    asked = median(lambda: (drawn.at(drawn.most(targets).bid), drawn.adds(targets)))
    questions = median(lambda: drawn.questions(targets, drawn.most(targets).bid))

    def with_tax() -> None:
        """All a page asks, where tax is on the margin of each piece and so hangs on the bid."""
        taxed = forecast(lines, BidTerms(tax=PlannedTax("margin", Decimal(20))))
        taxed.at(taxed.most(targets).bid or Decimal(0))
        taxed.adds(targets)
        taxed.questions(targets, taxed.most(targets).bid or Decimal(0))

    taxed = median(with_tax)
    print(f"50 lines, {pieces} pieces, {DRAWS} draws; bare numpy draws of the same size: {bare:.3f} s")
    print(f"drawing it first      {first:.3f} s   {first / bare:5.1f} times the bare draws")
    print(f"drawing it again      {simulated:.3f} s   {simulated / bare:5.1f}")
    print(f"limits and what adds  {asked:.3f} s   {asked / bare:5.1f}")
    print(f"worth finding out     {questions:.3f} s   {questions / bare:5.1f}")
    print(f"all, tax on margins   {taxed:.3f} s   {taxed / bare:5.1f}")


if __name__ == "__main__":
    main()
