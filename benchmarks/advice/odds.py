"""Odds that learn: whether their interval holds the truth."""

import numpy as np

from benchmarks.advice.said import say, unmet
from benchmarks.advice.trades import CLAIM, FAMILIES, SUPPLIERS, TRADES, Trade, moved
from core.buying.odds import STARTING, SeenLine, learn

SHOPS = 600
BANDS = ((0, 0), (1, 4), (5, 14), (15, 49), (50, 999))


def _line(dice: np.random.Generator, rate: float, count: int, rho: float) -> tuple[int, int]:
    """(worked, not) of a line: a beta-binomial."""
    weight = (1 - rho) / rho
    own = dice.beta(max(rate * weight, 1e-3), max((1 - rate) * weight, 1e-3))
    worked = int(dice.binomial(count, own))
    return worked, count - worked


def _shop(dice: np.random.Generator, trade: Trade) -> tuple[list[float], list[list[list[SeenLine]]], np.ndarray]:
    """What is true of a shop's suppliers by family, and the lines that it has seen of each."""
    start = STARTING[CLAIM][0]
    table = dice.normal(0, trade.table_off)
    families = dice.normal(0, trade.families, FAMILIES)
    suppliers = dice.normal(0, trade.suppliers, SUPPLIERS)
    suppliers -= 2.0 * (dice.random(SUPPLIERS) < trade.liars)
    rates = np.array([[moved(start, table + f + s) for s in suppliers] for f in families])
    lines: list[list[list[SeenLine]]] = []
    for family in range(FAMILIES):
        lines.append([])
        for supplier in range(SUPPLIERS):
            seen = []
            for _ in range(int(dice.choice([0, 0, 0, 1, 1, 2, 5, 14]))):
                worked, failed = _line(dice, rates[family, supplier], int(dice.integers(1, 13)), trade.line_rho)
                seen.append(SeenLine(supplier, (worked, failed, 0, 0)))
            lines[-1].append(seen)
    return list(rates[0]), lines, rates


def _of_others(lines: list[list[SeenLine]], supplier: int) -> list[SeenLine]:
    return [one for of, some in enumerate(lines) if of != supplier for one in some]


def odds() -> bool:
    """Whether the 90 % interval of “works” holds the truth, and how far the odds are off, by how many were seen of the
    supplier. Beside it: the table we begin with, and the supplier's own share. Answers whether all targets are met."""
    say("odds: 90 % interval of a supplier’s share that works; wanted at least 85 in 100 at every count seen,")
    say("and never further off than the table (mean absolute error)")
    good = True
    for number, trade in enumerate(TRADES):
        dice = np.random.default_rng(100 + number)
        held: dict[tuple[int, int], list[tuple[bool, float, float, float]]] = {band: [] for band in BANDS}
        for _ in range(SHOPS):
            _, lines, rates = _shop(dice, trade)
            for supplier in range(SUPPLIERS):
                # One family a supplier, so that its own lines are of the rate that is asked for.
                family = supplier % FAMILIES
                own = lines[family][supplier]
                kin = _of_others(lines[family], supplier)
                far = [one for f in range(FAMILIES) if f != family for one in _of_others(lines[f], supplier)]
                start = (STARTING[CLAIM][0], 1 - STARTING[CLAIM][0], 0.0, 0.0)
                found, truth = learn(start, far, kin, own), rates[family, supplier]
                plain = found.worked / found.seen if found.seen else start[0]
                band = next(b for b in BANDS if b[0] <= found.seen <= b[1])
                inside = found.low <= truth <= found.high
                off = (abs(found.odds[0] - truth), abs(start[0] - truth), abs(plain - truth))
                held[band].append((inside, *off))
        say(f"  {trade.name}")
        for (low, high), rows in held.items():
            if not rows:
                continue
            share = 100 * float(np.mean([row[0] for row in rows]))
            ours, table, plain = (float(np.mean([row[place] for row in rows])) for place in (1, 2, 3))
            met = share >= 85 and ours <= table
            good = good and met
            seen = "none seen" if high == 0 else f"{low} to {high} seen" if high < 999 else f"{low} and more"
            say(
                f"    {seen:13} holds {share:3.0f} in 100 of {len(rows):5}; off by {ours:.3f}, "
                f"the table {table:.3f}, its own share {plain:.3f}{unmet(met)}"
            )
    return good
