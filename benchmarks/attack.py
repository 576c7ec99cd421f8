"""Attacks on a shop of its own on loopback; long, and printed. Small ones of each kind stand in the tests.

.venv/bin/python -m benchmarks.attack kills|fuzz|races|doors [how many] [port]
"""

import sys

from benchmarks import doors, fuzz, kills, races

KINDS = {"kills": (kills.run, 50), "fuzz": (fuzz.run, 20_000), "races": (races.run, 4_000), "doors": (doors.run, 2)}


def main(kind: str, count: str = "", port: str = "8311") -> None:
    attack, usual = KINDS[kind]
    attack(int(count or usual), int(port))


if __name__ == "__main__":
    if len(sys.argv) < 2 or sys.argv[1] not in KINDS:
        raise SystemExit(__doc__)
    main(*sys.argv[1:4])
