"""The calculators of the bench: what is typed into their fields, and the answer in words.

Each takes what was typed by the name of its field, and gives its answer line by line. Raises ValueError,
ArithmeticError or QuantityError, in words, for what can't be worked out.
"""

from collections.abc import Callable, Mapping
from decimal import Decimal, InvalidOperation

from core.bench.assurance import clean_runs_needed, failure_interval, rate_words
from core.bench.electrics import CONTACT_OHMS, Cell, at_least, contact_ohms, discharge_seconds, load_line, make_up
from core.bench.markings import Marked, engineering, nearest_preferred, read_capacitor, read_resistor, screen
from core.bench.reading import load_points
from core.machine.quantities import parse_reading, parse_scaled


def calculate(what: str, asked: Mapping[str, str]) -> list[str]:
    """The answer of the calculator `what` (a key of CALCULATORS) to what was typed, or nothing while nothing was."""
    typed = {name: value.strip() for name, value in asked.items()}
    return CALCULATORS[what](typed) if any(typed.values()) else []


def _scaled(asked: Mapping[str, str], name: str, unit: str) -> Decimal:
    return parse_scaled(_filled(asked, name), unit)


def _filled(asked: Mapping[str, str], name: str) -> str:
    text = asked.get(name, "")
    if not text:
        raise ValueError("Fill in every field.")
    return text


def _bands(asked: Mapping[str, str]) -> list[str]:
    marked = read_resistor(asked.get("bands", ""))
    near = nearest_preferred(marked.value)
    words = [marked.words, f"from {engineering(marked.low, 'Ω')} to {engineering(marked.high, 'Ω')}"]
    return [*words, f"nearest in E24: {engineering(near, 'Ω')}", *_screened(marked, asked, "Ω")]


def _capacitor(asked: Mapping[str, str]) -> list[str]:
    marked = read_capacitor(asked.get("code", ""))
    return [marked.words, *_screened(marked, asked, "F")]


def _screened(marked: Marked, asked: Mapping[str, str], unit: str) -> list[str]:
    """What a reading of the part says: in circuit it only screens."""
    read = {name: parse_scaled(asked[name], unit) for name in ("in_circuit", "out") if asked.get(name)}
    if not read:
        return []
    verdict = screen(marked, read.get("in_circuit"), read.get("out"))
    return [
        {
            "good": "the part is good",
            "measure_out": "out of tolerance in circuit says nothing yet: lift one leg and measure again",
            "bad": "the part is bad",
        }[verdict.value]
    ]


def _discharge(asked: Mapping[str, str]) -> list[str]:
    farads, volts, ohms = (
        _scaled(asked, name, unit) for name, unit in (("farads", "F"), ("volts", "V"), ("ohms", "Ω"))
    )
    seconds = discharge_seconds(float(farads), float(volts), float(ohms))
    of = f"{engineering(farads, 'F')} from {engineering(volts, 'V')} through {engineering(ohms, 'Ω')}"
    return [
        f"{at_least(seconds)} until it is under 60 V",
        of,
        "then measure: a bleeder may be open. None known: by hand, with the proper tool",
    ]


def _battery(asked: Mapping[str, str]) -> list[str]:
    count = asked.get("count", "")
    if not count.isdecimal() or not 1 <= int(count) <= 99:
        raise ValueError("How many cells? 1 to 99.")
    found = make_up(
        Cell(asked.get("cell", "")),
        int(count),
        float(parse_reading(_filled(asked, "volts"), "V")),
        bool(asked.get("charged")),
    )
    return [
        f"{found.volts:.1f} V",
        *filter(None, (f"NOT THESE: {found.refused}" if found.refused else "", found.remark)),
    ]


def _load(asked: Mapping[str, str]) -> list[str]:
    line = load_line(load_points(asked.get("points", ""), "V"))
    return [
        f"output resistance {line.ohms * 1000:.0f} mΩ",
        f"regulation {line.regulation:.1f} %",
        f"no load {line.no_load:.3f} V, worst point {line.worst * 1000:.0f} mV off the line",
    ]


def _contact(asked: Mapping[str, str]) -> list[str]:
    ohms = contact_ohms(float(_scaled(asked, "drop", "V")), float(parse_reading(_filled(asked, "amps"), "A")))
    return [f"{ohms * 1000:.1f} mΩ", "good" if ohms <= CONTACT_OHMS else "too much: over 50 mΩ, clean or replace it"]


def _starts(asked: Mapping[str, str]) -> list[str]:
    try:
        runs, failed = int(asked.get("runs") or 0), int(asked.get("failed") or 0)
        share = Decimal(asked.get("claim") or "10") / 100
    except (ValueError, InvalidOperation) as problem:
        raise ValueError("Type whole numbers of starts, and a percentage.") from problem
    if not 0 < share < 1:
        raise ValueError("A percentage above 0 and under 100.")
    low, high = failure_interval(runs, failed)
    needed = clean_runs_needed(float(1 - share))
    return [
        f"failure rate {rate_words(low, high)} (95 % sure)",
        f"to claim under {float(share * 100):.3g} %: {needed} clean starts in a row",
    ]


CALCULATORS: Mapping[str, Callable[[Mapping[str, str]], list[str]]] = {
    "bands": _bands,
    "capacitor": _capacitor,
    "discharge": _discharge,
    "battery": _battery,
    "load": _load,
    "contact": _contact,
    "starts": _starts,
}
