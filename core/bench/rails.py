"""The rails of the plan: those the machine’s supply has, each within its own limits, instead of one default."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal

from core.bench.check_library import LIBRARY
from core.bench.checks import Check, Group, Limits
from core.bench.optional_checks import OPTIONAL
from core.safety import Hazard

# 5 % either way, 10 % below ground: ATX12V Power Supply Design Guide, DC output regulation, from memory.
SHARE, SHARE_BELOW = Decimal("0.05"), Decimal("0.10")
# Checks that measure a rail of the supply, by its volts.
OF_RAIL = {
    "supply-5v": Decimal(5),
    "supply-load": Decimal(5),
    "supply-ripple": Decimal(5),
    "run-5v": Decimal(5),
    "supply-12v": Decimal(12),
    "ripple-12v": Decimal(12),
    "supply-3v3": Decimal("3.3"),
    "supply-minus5": Decimal(-5),
    "supply-minus12": Decimal(-12),
}
# Of those the one that says whether a rail is there at all.
_FIRST = {OF_RAIL[code]: code for code in ("supply-5v", "supply-12v", "supply-3v3", "supply-minus5", "supply-minus12")}
_KNOWN = {check.code: check for check in (*LIBRARY, *OPTIONAL)}


def rail_limits(volts: Decimal) -> Limits:
    """What a rail of `volts` may read, under load."""
    off = abs(volts) * (SHARE_BELOW if volts < 0 else SHARE)
    return Limits(volts - off, volts + off, "V", volts)


def for_rails(plan: Sequence[Check], amps: Mapping[Decimal, Decimal | None] | None) -> tuple[Check, ...]:
    """The plan with the rails of this machine: `amps` what each gives, by its volts, None where nobody recorded the
    rails. Those it does not have are left out, those the plan lacks put in; where the plan measures no supply by
    itself, nothing changes."""
    if amps is None or not any(check.code in OF_RAIL and check.group is Group.SUPPLY for check in plan):
        return tuple(plan)
    kept = [_loaded(check, amps) for check in plan if check.code not in OF_RAIL or OF_RAIL[check.code] in amps]
    missing = [volts for volts in amps if not any(check.code == _FIRST.get(volts, _code(volts)) for check in kept)]
    place = next(
        (at for at, check in enumerate(kept) if check.group not in {Group.LOOK, Group.SAFE, Group.COLD, Group.SUPPLY}),
        len(kept),
    )
    kept[place:place] = [_loaded(_check(volts), amps) for volts in missing]
    return tuple(_one_gate(kept, {_code(volts) for volts in amps}))


def _code(volts: Decimal) -> str:
    return f"rail{volts.normalize():+f}"


def _check(volts: Decimal) -> Check:
    if volts in _FIRST:
        return _KNOWN[_FIRST[volts]]
    name = f"{volts.normalize():+f}".replace("-", "−")
    return Check(
        _code(volts),
        Group.SUPPLY,
        f"{name} V under load, PSU alone",
        f"Load on the {name} V output, black probe on ground.",
        hazards=(Hazard.LIVE,),
        limits=rail_limits(volts),
        minutes=4,
    )


def _loaded(check: Check, amps: Mapping[Decimal, Decimal | None]) -> Check:
    """With the amperes on its plate, where they are known."""
    gives = amps.get(OF_RAIL[check.code]) if check.code in OF_RAIL else None
    if gives is None or check.group is not Group.SUPPLY:
        return check
    return replace(check, instruction=f"{check.instruction} Its plate says {gives.normalize():f} A.")


def _one_gate(plan: Iterable[Check], own: Collection[str]) -> list[Check]:
    """Nothing is powered as a whole before a rail by itself was right: the first rail is a gate, whichever it is."""
    found = list(plan)
    rails = [at for at, check in enumerate(found) if check.group is Group.SUPPLY and check.code in {*OF_RAIL, *own}]
    if rails and not any(found[at].gate for at in rails):
        found[rails[0]] = replace(found[rails[0]], gate=True, safety=True)
    return found
