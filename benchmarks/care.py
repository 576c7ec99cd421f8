"""How long a plan of care and the fit of a fall take, as multiples of plain work on the same machine.

    python -m benchmarks.care

Beside the fit scipy’s own with bounds on the same readings; beside the plans one least-squares solution of numpy.
"""

from collections.abc import Callable
from datetime import date
from decimal import Decimal

import numpy as np
from scipy.optimize import curve_fit

from benchmarks.fit import seconds
from core.machine.casing import Face
from core.workshop.care import plans, recondition
from core.workshop.care.agents import Agent, Surface
from core.workshop.care.capacitors import read_board
from core.workshop.care.coats import read_coats
from core.workshop.care.daylight import Place, sun_from
from core.workshop.care.fall import Reading, advise, fit
from core.workshop.care.placing import Placed, Stuck, stick
from core.workshop.care.region import Size
from core.workshop.care.strength import Basis, percent_wv

READINGS = [Reading(hours, (value,)) for hours, value in ((0, 7.9), (2, 5.8), (4, 4.1), (6, 3.2), (8, 2.5))]
COATS = "\n".join(f"coat {number}: from 20 min; to 24 h; 35 µm; can 1.8 m²" for number in range(12))
BOARD = "\n".join(f"C{number}: {10 * number + 10} µF 16 V ⌀8 pitch 3.5" for number in range(40))
FEET = [
    Placed(Stuck.FOOT, Face.UNDERSIDE, Decimal(10 + 20 * n), Decimal(10), Decimal(9), Decimal(9)) for n in range(12)
]


def scipys() -> None:
    hours, values = ([one.hours for one in READINGS], [one.value for one in READINGS])
    curve_fit(lambda t, c, d, k: c + d * np.exp(-k * np.array(t)), hours, values, (1, 6, 0.2), bounds=(0, (50, 50, 20)))


def whitening() -> None:
    gel = plans.school_of("gel")
    plans.whiten(
        gel, plans.mixture_for(gel, percent_wv(Decimal(40), Basis.VOLUMES), Decimal(6), Decimal(295)), "x", 12, 60
    )


def main() -> None:
    table = np.random.default_rng(16).random((400, 200))
    plain = seconds(lambda: np.linalg.lstsq(table, table[:, 0], rcond=None), 20)
    theirs = seconds(scipys, 50)
    ours = seconds(lambda: fit(READINGS), 50)
    print(f"fit of a fall: {1000 * ours:.1f} ms, {ours / theirs:.1f} times scipy’s own")
    every: dict[str, Callable[[], object]] = {
        "advice on five readings": lambda: advise(READINGS, 2),
        "whitening of twelve rounds": whitening,
        "repaint of twelve coats": lambda: plans.repaint(Decimal(6200), read_coats(COATS), "front"),
        "cleaning": lambda: plans.clean(Surface.PLASTIC, [Agent.OIL, Agent.PEROXIDE, Agent.SOAP], "lid"),
        "kit of forty capacitors": lambda: recondition.capacitors("supply", read_board(BOARD)),
        "twelve feet": lambda: stick(FEET, Size(400, 150, 300), Surface.PLASTIC, "feet"),
        "daylight of a day that brings none": lambda: sun_from(Place(54.5, 3), date(2026, 11, 27)),
    }
    for what, act in every.items():
        took = seconds(act, 20)
        print(f"{what}: {1000 * took:.1f} ms, {took / plain:.2f} times a least-squares solution")


if __name__ == "__main__":
    main()
