"""What whoever does a check has before their eyes, and nobody recorded yet."""

from core.bench.checks import BenchFacts, Check
from core.bench.conditions import names_in
from core.machine.supply import Battery, Supply


def unsaid(facts: BenchFacts) -> frozenset[str]:
    """The facts that nobody recorded, by the names that conditions use; of those a thing can have."""
    not_known = {
        "battery": facts.battery_here is Battery.UNKNOWN,
        "supply": facts.supply_here is Supply.UNKNOWN,
        "mains": not facts.mains_known,
        "tube": facts.picture_tube is None,
        "drives": facts.drives is None,
        "keyboard": facts.keyboard is None,
    }
    return frozenset(name for name, open_ in not_known.items() if open_)


def seen_at(check: Check, facts: BenchFacts) -> tuple[str, ...]:
    """Of what nobody recorded, what the check turns on: it can’t be done without seeing it."""
    there = unsaid(facts)
    return tuple(name for name in names_in(check.when) if name in there)
