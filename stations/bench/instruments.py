"""Reading the instruments on the bench: SCPI over TCP, by PyVISA. When one does not answer, the reading is typed."""

import math
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation

from django.db import transaction

from core.bench.verdict import Accuracy
from stations.bench import services
from stations.bench.models import Instrument, TestRun
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import Unit

PATIENCE = 2000  # milliseconds
# SCPI-1999 volume 1, 7.2.1.5: what an instrument answers for plus and minus infinity and for no number.
OVERLOAD = 9.9e37
QUERIES = {"V": "MEAS:VOLT:DC?", "Ω": "MEAS:RES?", "A": "MEAS:CURR:DC?"}
# The same standard, SENSe subsystem. Not every meter says its range, and nobody waits long for that.
RANGES = {"V": "SENS:VOLT:DC:RANG?", "Ω": "SENS:RES:RANG?", "A": "SENS:CURR:DC:RANG?"}
RANGE_PATIENCE = 300


@dataclass(frozen=True)
class Reading:
    """What an instrument read, with its name and accuracy; `span` is its range in words, empty when it says none."""

    value: Decimal
    unit: str
    instrument: Instrument
    span: str = ""

    @property
    def accuracy(self) -> Accuracy:
        return accuracy_of(self.instrument)


def accuracy_of(instrument: Instrument) -> Accuracy:
    return Accuracy(instrument.percent, instrument.digits, instrument.resolution)


def may_command(person: Person, unit: Unit, power: bool = False) -> None:
    """Commanding an instrument is an act like any other: by a technician, on a run in their own hands.

    `power`: it draws current from the unit, which has none while it stands unplugged and stopped.
    """
    require(person, "command an instrument")
    run = TestRun.objects.filter(open_for=unit).select_related("holder").first()
    if run:
        services.holds_it(person, run)
    if power:
        services.refuse_while_stopped(unit)


def ask(instrument: Instrument, *commands: str, patience: int = PATIENCE) -> str:
    """Send commands and give back the answer to the last one, a query. Raises Refused, in words, when none comes."""
    # Slow to load, and only wanted when an instrument is asked.
    import pyvisa
    from pyvisa.resources import MessageBasedResource

    host, port = instrument.reached_at
    address = f"TCPIP::{host}::{port}::SOCKET"
    try:
        manager = pyvisa.ResourceManager("@py")
        with manager.open_resource(
            address, read_termination="\n", write_termination="\n", open_timeout=patience, timeout=patience
        ) as line:
            assert isinstance(line, MessageBasedResource)
            for command in commands[:-1]:
                line.write(command)
            return str(line.query(commands[-1])).strip()
    except Exception as problem:  # pyvisa-py raises a bare one for a host that nobody knows
        raise Refused(
            f"{instrument.name} does not answer. Type the reading by hand; nothing is lost.", "reading"
        ) from problem


def read(instrument: Instrument, unit: str, alternating: bool = False) -> Reading:
    """One reading in V (direct, or `alternating`), Ω or A. Overload, nonsense and a unit it can't read are refused."""
    if instrument.role != Instrument.Role.METER or unit not in QUERIES:
        raise Refused(f"{instrument.name} does not read {unit}. Type the reading by hand.", "reading")
    answer = ask(instrument, QUERIES[unit].replace(":DC?", ":AC?") if alternating else QUERIES[unit])
    try:
        value = Decimal(answer)
    except InvalidOperation as problem:
        raise Refused(
            f"{instrument.name} answered “{answer[:20]}”, which is no reading. Type it by hand.", "reading"
        ) from problem
    if not value.is_finite() or abs(float(value)) >= OVERLOAD:
        raise Refused(f"{instrument.name} is overloaded: nothing connected, or out of its range.", "reading")
    return Reading(round(value, 5), unit, instrument, _span(instrument, unit))


def _span(instrument: Instrument, unit: str) -> str:
    try:
        return f"{float(ask(instrument, RANGES[unit], patience=RANGE_PATIENCE)):g} {unit}"
    except (Refused, ValueError):
        return ""


def set_load(instrument: Instrument, amps: float) -> None:
    """Draw so many amperes, 0 to switch the load off."""
    if not math.isfinite(amps) or not 0 <= amps <= 30:
        raise Refused("A load from 0 to 30 A.", "amps")
    said = ask(instrument, f"CURR {amps:.3f}", f"INP {'ON' if amps else 'OFF'}", "SYST:ERR?")
    if not said.startswith(("0", "+0")):
        raise Refused(f"{instrument.name} refused: {said[:60]}", "amps")


def read_code(instrument: Instrument) -> str:
    """The start-up code that the board shows now; empty when it shows none."""
    return ask(instrument, "READ:CODE?").strip('"')


def by_role() -> dict[str, Instrument]:
    """The first instrument of each role: one query."""
    found: dict[str, Instrument] = {}
    for instrument in Instrument.objects.all():
        found.setdefault(instrument.role, instrument)
    return found


@transaction.atomic
def add(person: Person, instrument: Instrument) -> Instrument:
    require(person, "set up instruments")
    instrument.save(force_insert=True)
    words = (
        f"{instrument.name} set up: {instrument.percent} % of reading, {instrument.digits} × {instrument.resolution}"
    )
    history.record(person, "bench.add", HistoryEntry.Subject.CHECK, 0, words)
    return instrument


@transaction.atomic
def remove(person: Person, instrument: Instrument) -> None:
    require(person, "set up instruments")
    history.record(person, "bench.remove", HistoryEntry.Subject.CHECK, 0, f"{instrument.name} removed")
    instrument.delete()
