"""Hard kills of workers, the database, the start script alone and everything: is it up again, and is anything lost?

Writes one row before each kill, and prints what came of it.
"""

import os
import re
import signal
import time
from contextlib import suppress

from benchmarks.instance import Instance, Visitor, a_shop

TARGETS = ("worker", "server", "database", "start", "everything")


def write(visitor: Visitor, name: str) -> None:
    """One row that is acknowledged before the kill."""
    visitor.get("/bench/known-good/")
    row = {"name": name, "kind": "part", "stands_in": "screen", "place": "", "signals": ""}
    if visitor.post("/bench/known-good/", row).status != 302:
        raise SystemExit(f"{name} was not written")


def lost(visitor: Visitor, written: list[str]) -> list[str]:
    page = visitor.get("/bench/known-good/").text
    pages = max((int(n) for n in re.findall(r"page=(\d+)", page)), default=1)
    page += "".join(visitor.get(f"/bench/known-good/?page={number}").text for number in range(2, pages + 1))
    return [name for name in written if name not in page]


def kill(shop: Instance, target: str) -> None:
    there = shop.processes()
    pids = {
        "worker": sorted(there["gunicorn"])[1:2],
        "server": sorted(there["gunicorn"])[:1],
        "database": there["database"],
        "start": [shop.process.pid],
        "everything": [shop.process.pid, *(pid for pids in there.values() for pid in pids)],
    }[target]
    for pid in pids:
        with suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)
    if target in {"start", "everything"}:
        shop.process.wait()
        shop.start()


def run(count: int, port: int) -> None:
    written: list[str] = []
    with a_shop(port, "kills") as shop:
        for number in range(count):
            target = TARGETS[number % len(TARGETS)]
            write(Visitor(shop.url).sign_in("runa"), f"Kill {number:04d}")
            written.append(f"Kill {number:04d}")
            kill(shop, target)
            time.sleep(0.5)
            took = shop.up_again()
            if took is None:
                raise SystemExit(f"{number + 1:3d} {target:10s} never came up again")
            gone = lost(Visitor(shop.url).sign_in("runa"), written)
            print(f"{number + 1:3d} {target:10s} up again after {took:5.1f} s, {len(gone)} of {len(written)} lost")
        print(f"{count} hard kills: all up again, {len(gone)} acknowledged writes lost")
