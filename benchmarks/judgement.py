"""How well the advice holds in simulated trades whose truth is known, beside rules of thumb and the best there can be.

    python -m benchmarks.judgement [odds] [paths]

Seeded: the same figures every time. Nothing in the application is tuned to these trades; where a constant comes from
stands beside it.
"""

import sys
from dataclasses import dataclass

import numpy as np

from core.buying.odds import STARTING, SeenLine, learn
from core.intake.triage import USUAL_EFFORT, Path, Prices, TriageFacts, triage


@dataclass(frozen=True)
class Trade:
    """How far the true table lies from the one we begin with, how far families and suppliers lie apart (standard
    deviations of log odds), how alike the pieces of a line are (a correlation), and what share of suppliers say more
    than they have."""

    name: str
    table_off: float
    families: float
    suppliers: float
    line_rho: float
    liars: float = 0.0


TRADES = (
    Trade("calm", 0.3, 0.25, 0.5, 0.10),
    Trade("rough", 0.7, 0.4, 0.9, 0.25),
    Trade("a few liars", 0.4, 0.3, 0.5, 0.15, liars=0.12),
    Trade("far apart", 0.5, 0.9, 0.8, 0.15),
)
SHOPS, SUPPLIERS, FAMILIES = 600, 16, 4
BANDS = ((0, 0), (1, 4), (5, 14), (15, 49), (50, 999))
CLAIM = "untested"


def _moved(share: float, by: float) -> float:
    odds = share / (1 - share) * np.exp(by)
    return float(odds / (1 + odds))


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
    rates = np.array([[_moved(start, table + f + s) for s in suppliers] for f in families])
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
                f"the table {table:.3f}, its own share {plain:.3f}{'' if met else '   <- not met'}"
            )
    return good


MACHINES = 6000


def _told_price(facts: TriageFacts, odds: tuple[float, ...]) -> float:
    """What buyers of this trade give for a machine that is sold as it stands, all that is known of it said: what they
    believe it is worth, less up to 45 in 100 for what is left open, and never more than for one of which nothing is
    known. It is not the application’s own rule."""
    state = (0.5 + 0.5 * (facts.completeness or 0) / 100) * (0.7 + 0.3 * (facts.cosmetics or 0) / 100)
    prices = facts.prices
    values = (
        prices.working * state,
        max(0.7 * prices.untested * state, prices.parts),
        prices.parts,
        0.3 * prices.parts,
    )
    believed = sum(p * v for p, v in zip(odds, values, strict=True))
    return min(prices.untested * state, believed * (1 - 0.45 * (1 - max(odds))))


def _machine(dice: np.random.Generator) -> TriageFacts:
    start = np.array(STARTING[str(dice.choice(list(STARTING)))])
    odds = dice.dirichlet(np.maximum(start, 0.01) * 12)
    if dice.random() < 0.3:
        odds = np.eye(4)[dice.choice(4, p=odds)]
    worth = float(dice.lognormal(4.6, 0.6))
    return TriageFacts(
        tuple(float(p) for p in odds / odds.sum()),
        Prices(worth, 0.5 * worth, 0.22 * worth),
        completeness=int(dice.integers(40, 101)),
        cosmetics=int(dice.integers(30, 101)),
        missing_cost=float(dice.choice([0, 0, 8, 20])),
        labour_rate=24.0,
        fee=0.1,
        faults=int(dice.integers(0, 4)),
    )


def paths() -> bool:
    """What the advised path leaves a machine on average, beside the best path and two rules of thumb, counting only
    honest selling. Answers whether it is 99.5 in 100 of the best."""
    dice = np.random.default_rng(7)
    sums = {"advised": 0.0, "the best": 0.0, "always refurbish": 0.0, "always sell as it stands": 0.0}
    for _ in range(MACHINES):
        facts = _machine(dice)
        found = triage(facts)
        left = {way.path: way.worth for way in found.ways}
        left[Path.SELL] = 0.9 * _told_price(facts, facts.odds) - USUAL_EFFORT.offer / 60 * facts.labour_rate
        # Holding is the best of the others, half a year later.
        now = max(worth for path, worth in left.items() if path is not Path.HOLD)
        left[Path.HOLD] = now - 6 * USUAL_EFFORT.a_month
        sums["advised"] += left[found.best.path]
        sums["the best"] += max(left.values())
        sums["always refurbish"] += left[Path.REFURBISH]
        sums["always sell as it stands"] += left[Path.SELL]
    say(f"paths: what {MACHINES:,} machines leave each; wanted 99.5 in 100 of the best")
    for name, total in sums.items():
        say(f"    {name:24} {total / MACHINES:7.2f}")
    share = 100 * sums["advised"] / sums["the best"]
    say(f"    that is {share:.2f} in 100{'' if share >= 99.5 else '   <- not met'}")
    return share >= 99.5


def say(words: str) -> None:
    sys.stdout.write(words + "\n")


PARTS = {"odds": odds, "paths": paths}


def main(wanted: list[str]) -> int:
    met = [PARTS[name]() for name in (wanted or PARTS)]
    return 0 if all(met) else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
