"""How long a plan of a drive takes for eight systems, as a multiple of plain work on the same machine.

python -m benchmarks.storage
"""

import random

from benchmarks.fit import seconds
from core.workshop.storage.checker import problems
from core.workshop.storage.clusters import FileSystem
from core.workshop.storage.planner import plan
from core.workshop.storage.sizes import GIB, MIB
from core.workshop.storage.systems import Code, Starts, System
from core.workshop.storage.volumes import ENDS, Drive, End, Shared, Wish


def eight(dice: random.Random) -> list[Wish]:
    found = []
    for number in range(8):
        system = System(
            f"System {number}",
            {FileSystem.FAT12: 16 * MIB, FileSystem.FAT16: dice.choice((32 * MIB, 2 * GIB, 4 * GIB))},
            starts=Starts.FIRST if number < 2 else Starts.ANY,
            own_driver=number > 4,
            code=Code.MANAGES if number == 7 else Code.LEAVES,
            needs=dice.randrange(1, 30) * MIB,
            most_cluster=dice.choice((4096, 32768)),
            order=number,
        )
        found.append(Wish(system, dice.randrange(1, 400) * MIB, dice.randrange(9000)))
    return found


def main() -> None:
    dice = random.Random(17)
    plain = seconds(lambda: sorted(range(200_000, 0, -1)), 20)
    drives = {
        "card behind a firmware of 504 MiB": Drive(8_000_000_000, (End("firmware", ENDS["1,024 × 16 × 63"]),)),
        "drive of 128 GiB with an overlay": Drive(ENDS["28 bits"], (), overlay=True),
        "drive of 20 MiB": Drive(ENDS["615 × 4 × 17"]),
    }
    for what, drive in drives.items():
        wishes = [eight(dice) for _ in range(6)]
        took = max(seconds(lambda w=w, d=drive: plan(d, w, Shared(files=20_000)), 5) for w in wishes)
        checked = seconds(lambda w=wishes[0], d=drive: problems(plan(d, w, Shared())), 5)
        print(
            f"{what}: {1000 * took:.1f} ms, {took / plain:.1f} times a sort of 200,000; checked {1000 * checked:.1f} ms"
        )


if __name__ == "__main__":
    main()
