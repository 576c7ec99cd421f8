"""A label printer: watches a folder for labels and writes what it would print to another one.

    python -m simulators.label_printer in out

Each SVG that appears in `in` is moved to `out` under the time it was "printed". Stop it with Ctrl-C.
"""

import contextlib
import sys
import time
from pathlib import Path


def print_waiting(inbox: Path, outbox: Path) -> int:
    """Print everything that waits, oldest first; answers how many labels that were."""
    outbox.mkdir(parents=True, exist_ok=True)
    waiting = sorted((f for f in inbox.glob("*.svg")), key=lambda f: f.stat().st_mtime)
    for number, label in enumerate(waiting):
        label.replace(outbox / f"{time.strftime('%Y%m%d-%H%M%S')}-{number:03}-{label.name}")
    return len(waiting)


def main(inbox: str, outbox: str) -> None:
    Path(inbox).mkdir(parents=True, exist_ok=True)
    while True:
        count = print_waiting(Path(inbox), Path(outbox))
        if count:
            print(f"{count} labels printed", flush=True)
        time.sleep(1)


if __name__ == "__main__":
    with contextlib.suppress(KeyboardInterrupt):
        main(*sys.argv[1:3])
