"""How well the advice holds in simulated trades whose truth is known, beside rules of thumb and the best there can be.

    python -m benchmarks.judgement [bid] [odds] [faults] [stop] [paths]

Seeded: the same figures every time. Nothing in the application is tuned to these trades; where a constant comes from
stands beside it.
"""

import sys

from benchmarks.advice.bids import bid
from benchmarks.advice.faults import faults
from benchmarks.advice.odds import odds
from benchmarks.advice.paths import paths
from benchmarks.advice.stopping import stop

PARTS = {"bid": bid, "odds": odds, "faults": faults, "stop": stop, "paths": paths}


def main(wanted: list[str]) -> int:
    met = [PARTS[name]() for name in (wanted or PARTS)]
    return 0 if all(met) else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
