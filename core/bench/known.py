"""What the bench knows already, and how much likelier that makes each suspect of the fault library.

Factors are judgement (common practice, no source): above 1 a suspect is likelier, below 1 less likely. No step
clears anything for good: a check that passed once says much, not all.
"""

from collections.abc import Iterable, Mapping
from typing import NamedTuple

PASSED: Mapping[str, Mapping[str, float]] = {
    "look-case": {"corrosion": 0.6, "caps": 0.8, "earlier": 0.7, "lead": 0.8, "connector": 0.7},
    "look-caps": {"caps": 0.5, "supplycaps": 0.6},
    "look-rework": {"earlier": 0.2},
    "look-moves": {"grease": 0.2, "foreign": 0.2, "bent": 0.4, "transit": 0.2},
    "safe-earth": {"mainslead": 0.15, "fuse": 0.15},
    "cold-5v": {"short": 0.12, "tantalum": 0.15, "earlier": 0.5},
    "supply-ac": {"adapter": 0.1, "mainslead": 0.1},
    "supply-dc": {"adapter": 0.1, "mainslead": 0.1, "poles": 0.05},
    "supply-5v": {
        "supply": 0.08, "supplycaps": 0.35, "fuse": 0.03, "mainslead": 0.03, "switch": 0.3, "inrush": 0.05,
        "rectifier": 0.05, "filtercap": 0.05, "winding": 0.05, "short": 0.5,
    },
    "supply-12v": {"supply": 0.3, "supplycaps": 0.6},
    "supply-load": {"supply": 0.3, "supplycaps": 0.3, "regulator": 0.4},
    "supply-ripple": {"supplycaps": 0.12, "regulator": 0.6},
    "power-first": {"short": 0.1, "softstart": 0.1, "switch": 0.3, "fuse": 0.05, "mainslead": 0.05},
    "run-5v": {"regulator": 0.15, "short": 0.1, "supply": 0.2, "connector": 0.6},
    "fn-picture": {"video": 0.15, "screen": 0.2, "cable": 0.3, "standard": 0.2},
    "fn-keyboard": {
        "keyboard": 0.08, "keyconn": 0.15, "membrane": 0.1, "lead": 0.5, "port": 0.1, "nokeyboard": 0.02,
        "switchkey": 0.1,
    },
    "fn-drives": {"drive": 0.12, "lead": 0.3, "controller": 0.15, "jumper": 0.1, "termination": 0.3, "heads": 0.15},
    "fn-drive": {"drive": 0.08, "heads": 0.1, "align": 0.2, "motor": 0.1},
    "fn-ports": {"port": 0.3, "speaker": 0.2, "amp": 0.2, "volume": 0.2},
    "fn-memory": {"memory": 0.1},
    "fn-clock": {"battery": 0.1, "holder": 0.2, "rtc": 0.15, "jumper": 0.5},
    "soak": {"thermal": 0.3, "supplycaps": 0.5, "fan": 0.5},
    "closed-up": {"shield": 0.3, "screw": 0.3, "near": 0.4, "fan": 0.4},
}  # fmt: skip
FAILED: Mapping[str, Mapping[str, float]] = {
    "look-case": {"corrosion": 1.5, "caps": 1.5, "connector": 1.5},
    "look-battery": {"corrosion": 4.0, "holder": 3.0, "battery": 2.0},
    "look-moves": {"grease": 3.0, "foreign": 2.0, "bent": 2.0, "transit": 2.0},
    "safe-earth": {"mainslead": 4.0, "fuse": 2.0},
    "cold-5v": {"short": 8.0, "tantalum": 6.0, "earlier": 2.0},
    "supply-ac": {"adapter": 8.0, "mainslead": 3.0},
    "supply-dc": {"adapter": 8.0, "mainslead": 3.0, "poles": 3.0},
    "supply-5v": {"supply": 6.0, "supplycaps": 4.0, "fuse": 2.0, "rectifier": 2.0},
    "supply-12v": {"supply": 3.0, "supplycaps": 2.0},
    "supply-load": {"supplycaps": 3.0, "regulator": 3.0, "supply": 2.0},
    "supply-ripple": {"supplycaps": 6.0, "caps": 2.0},
    "run-5v": {"regulator": 5.0, "short": 2.0, "connector": 2.0},
    "fn-picture": {"video": 2.0, "screen": 2.0, "cable": 1.5},
    "fn-keyboard": {"keyboard": 3.0, "keyconn": 3.0, "membrane": 3.0, "lead": 1.5},
    "fn-drives": {"drive": 4.0, "lead": 2.0, "controller": 2.0, "jumper": 1.5},
    "fn-drive": {"drive": 6.0, "heads": 3.0, "align": 2.0},
    "fn-memory": {"memory": 8.0, "contact": 1.5},
    "fn-clock": {"battery": 5.0, "holder": 2.0, "rtc": 1.5},
    "soak": {"thermal": 3.0, "joint": 2.0, "supplycaps": 2.0},
    "closed-up": {"shield": 3.0, "screw": 2.0, "cable": 2.0, "near": 2.0, "fan": 1.5},
}
# A benchmark that came out slower than before.
SLOWER: Mapping[str, float] = {"thermal": 2.0, "memory": 1.5, "drive": 1.5, "card": 1.3, "conflict": 1.5}
# The same cause again on the same machine: a fix that was confirmed, and one that was not.
AGAIN, AGAIN_UNCONFIRMED = 1.5, 4.0


class Known(NamedTuple):
    """One thing that is known, in words, and what it says of the suspects."""

    words: str
    says: Mapping[str, float]


def from_steps(outcomes: Iterable[tuple[str, str, str]]) -> tuple[Known, ...]:
    """What steps say: (code, title, "pass" or "fail") of each step's newest result; other outcomes say nothing."""
    found = []
    for code, title, outcome in outcomes:
        says = {"pass": PASSED, "fail": FAILED}.get(outcome, {}).get(code)
        if says:
            found.append(Known(f"{title}: {'passed' if outcome == 'pass' else 'failed'}", says))
    return tuple(found)


def from_earlier(causes: Iterable[tuple[str, str, bool]]) -> tuple[Known, ...]:
    """What earlier faults of this very machine say: (cause, words, whether its fix is confirmed)."""
    return tuple(
        Known(
            f"had it before: {words}{'' if confirmed else ', and the fix was never confirmed'}",
            {cause: AGAIN if confirmed else AGAIN_UNCONFIRMED},
        )
        for cause, words, confirmed in causes
        if cause
    )


# What speaks for which suspect, by the rule a part in the machine goes against: common practice, no source.
_SPEAKS_FOR: tuple[tuple[tuple[str, ...], Mapping[str, float]], ...] = (
    (("interrupt", "DMA", "addresses", "bus and slot", "clock"), {"card": 4.0}),
    (("memory socket", "memory in all", "memory speed", "memory volts", "parity", "filling"), {"memory": 4.0}),
    (("drive bus", "place on the bus"), {"jumper": 4.0, "drive": 1.5}),
    (("core volts", "bus × multiplier"), {"logic": 3.0, "thermal": 2.0}),
    (("termination",), {"termination": 6.0}),
    (("size of the disk",), {"setup": 2.0, "volume": 3.0}),
    (("drive plug",), {"lead": 3.0}),
    (("pins",), {"contact": 4.0}),
    (("picture",), {"standard": 4.0}),
    (("port",), {"keyboard": 4.0}),
    (("what feeds it",), {"adapter": 6.0}),
    (("watts in all",), {"supply": 3.0, "adapter": 2.0}),
)
_CLASHES = {rule: says for rules, says in _SPEAKS_FOR for rule in rules}
_RAIL = {"supply": 3.0, "supplycaps": 1.5, "adapter": 2.0}


def from_clashes(clashes: Iterable[tuple[str, str, str]]) -> tuple[Known, ...]:
    """What parts in the machine that do not fit the rest of it say: (part, rule, why with its numbers)."""
    return tuple(
        Known(f"does not fit: {part}, {rule}: {why}", _CLASHES.get(rule, _RAIL if rule.endswith(" V") else {}))
        for part, rule, why in clashes
    )
