"""How long the best set of upgrades takes and 500 parts ranked, as multiples of plain work on the same machine.

    python -m benchmarks.upgrades

Sixty cards, drives and memory that want the same slots, interrupts, amperes and bays, with a seller’s postage and a
budget. Beside each its multiple of a plain knapsack of sixty things in CP-SAT, and how far from proven it stopped.
"""

import random
from decimal import Decimal

from ortools.sat.python import cp_model

from benchmarks.fit import seconds
from core.catalogue.fit.bottleneck import PURPOSES
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import read_sheet, sheet_data, sheet_from
from core.catalogue.fit.which import ranked
from core.machine.approach import Approach
from core.workshop.upgrades.best import Limits, Worth
from core.workshop.upgrades.buyers import Buyer, read_effects
from core.workshop.upgrades.candidates import Kind, Part, Source, candidates_of
from demo.sheets import OFFERS, PARTS

CHANGES = "\nchanges\n  it: reversible yes; modern no"
TAGS = [f"tag {number}" for number in range(40)]


def made_up(dice: random.Random, count: int) -> list[Part]:
    found = []
    for number in range(count):
        amps, tag = dice.choice(("0.4", "0.9", "1.6")), dice.choice(TAGS)
        if number % 4:
            irqs = sorted(dice.sample((5, 7, 9, 10, 11, 12, 15), 3))
            text = (
                f"cards\n  c: bus {dice.choice(('8-bit', '16-bit'))}; length {dice.choice((120, 180))}; height 99; "
                f"fastest 10\nuses\n  J1: irq {', '.join(map(str, irqs))}; now {irqs[0]}\ndraws\n  +5: amps {amps}"
            )
        else:
            text = (
                "drives\n  d: interface ATA 16-bit; plug 40-way; bay 3.5 inch; height 25; length 146; size 100 MB; "
                f"rate 1\ndraws\n  +5: amps {amps}\n  +12: amps 0.4; more at start 1\ntakes\n  drive: count 1"
            )
        needs = read_sheet(Needs, f"{text}{CHANGES}\nbrings\n  {tag}: words so")
        each = Decimal(dice.randrange(3, 40))
        bought = Source(Kind.SELLER, "Quay", each, number, 1, "Quay", Decimal(5))
        here = Source(Kind.DRAWER, "drawer", each, number, 1)
        found.append(Part(f"Part {number}", needs, (bought if number % 3 == 0 else here,)))
    return found


def knapsack(dice: random.Random) -> None:
    """Sixty things, one weight."""
    model = cp_model.CpModel()
    picked = [model.new_bool_var("") for _ in range(60)]
    model.add(sum(dice.randrange(1, 100) * one for one in picked) <= 900)
    model.maximize(sum(dice.randrange(1, 100) * one for one in picked))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.solve(model)


def main() -> None:
    dice = random.Random(15)
    machine = Machine(read_sheet(Offers, OFFERS["Orrin Desk 16"]), (), True, Approach.ENHANCED)
    parts = made_up(dice, 60)
    effects = "\n".join(f"{tag}: {dice.randrange(-10, 25)} %" for tag in TAGS)
    buyer = Buyer("some", "Some", "", read_effects(effects))
    limits = Limits(Decimal(120), 240)
    plain = seconds(lambda: knapsack(random.Random(1)), 5)
    worth = Worth(machine, candidates_of(machine, parts), Decimal(300), Decimal(24))
    kept = [(name, sheet_data(read_sheet(Needs, text))) for name, text in PARTS.items()]
    many = [(f"{name} {number}", data) for number in range(500 // len(kept) + 1) for name, data in kept][:500]
    rows = {
        "60 parts judged as upgrades": seconds(lambda: candidates_of(machine, parts), 5),
        "the best set of 60, anew": seconds(
            lambda: Worth(machine, worth.candidates, Decimal(300), Decimal(24)).best(buyer, limits), 5
        ),
        "the best set of 60 without limits": seconds(lambda: worth.best(buyer), 5),
        "500 parts read and ranked": seconds(
            lambda: ranked(machine, PURPOSES[1], ((name, sheet_from(Needs, data)) for name, data in many)), 5
        ),
    }
    for found in (worth.best(buyer, limits), worth.best(buyer)):
        print(f"{len(found.chosen)} of {len(worth.candidates)} chosen, at most {found.better_by} better than found")
    print(f"knapsack of 60 {plain * 1e3:.1f} ms")
    for name, taken in rows.items():
        print(f"{name:42} {taken * 1000:8.2f} ms {taken / plain:10.1f} ×")


if __name__ == "__main__":
    main()
