"""Three instruments on a simulated bench, SCPI over TCP: a multimeter, an electronic load and a board-code reader.

    python -m simulators.instruments [first port]
    python -m simulators.instruments SIM:SCEN sagging     (to the bench that runs on 8205)

The meter listens on the first port, the load and the reader on the next two. All three are connected to one
simulated machine; SIM commands (of this stand-in only) choose what ails it, which rail the probes are on and
which loads are plugged in:

    SIM:SCEN sound | sagging | short | flat | code201 | silent
    SIM:PROBE 5V | 12V | RAIL | ADAPTER   (RAIL: ohms of the +5 V rail to ground; ADAPTER: an open AC adapter)
    SIM:OFF board,drives            (loads that are taken off)
"""

import math
import random
import socket
import socketserver
import sys
import threading
from dataclasses import dataclass, field

LOADS = ("board", "drives", "cards", "screen", "fan", "keyboard", "sound", "clock")
OVERLOAD = "9.9E37"


@dataclass
class Machine:
    """The machine under test: rails with output resistance, and what is wrong with it."""

    scenario: str = "sound"
    probe: str = "5V"
    off: set[str] = field(default_factory=set)
    amps: float = 0.0
    drawing: bool = False
    shorted: str = "drives"
    dice: random.Random = field(default_factory=lambda: random.Random(5))  # noqa: S311 - noise, not secrets
    lock: threading.Lock = field(default_factory=threading.Lock)

    @property
    def short(self) -> bool:
        return self.scenario == "short" and self.shorted not in self.off

    def volts(self) -> float:
        """What the probes see: source volts less load times output resistance, with a little noise."""
        if self.short or self.scenario == "flat":
            return self.noisy(0.02)
        source = {"12V": 12.06}.get(self.probe, 5.09)
        ohms = 0.28 if self.scenario == "sagging" else 0.018
        return self.noisy(source - (self.amps if self.drawing else 0.0) * ohms)

    def alternating(self) -> float:
        """What the probes see as AC: the open adapter, or the hum on a rail."""
        return abs(self.noisy(10.4 if self.probe == "ADAPTER" else 0.012))

    def ohms(self) -> float:
        return abs(self.noisy(0.4 if self.short else 62.0))

    def code(self) -> str:
        return "201" if self.scenario == "code201" else ""

    def noisy(self, value: float) -> float:
        return value + self.dice.gauss(0, 0.0004)


class Instrument:
    """One instrument: answers queries, queues errors as SCPI-1999 asks for."""

    model = "INSTRUMENT"

    def __init__(self, machine: Machine) -> None:
        self.machine = machine
        self.errors: list[str] = []

    def said(self, line: str) -> str | None:
        """The answer to one command; None when it asks for none."""
        head, _, value = line.strip().partition(" ")
        head = head.upper()
        with self.machine.lock:
            if head == "*IDN?":
                return f"MARROWICK,{self.model},0,1.0"
            if head == "*RST":
                self.reset()
                return None
            if head == "*CLS":
                self.errors.clear()
                return None
            if head == "SYST:ERR?":
                return self.errors.pop(0) if self.errors else '0,"No error"'
            if head.startswith("SIM:"):
                self.simulate(head, value.strip())
                return None
            return self.own(head, value.strip())

    def reset(self) -> None:
        self.errors.clear()

    def own(self, head: str, value: str) -> str | None:
        self.errors.append('-113,"Undefined header"')
        return None if not head.endswith("?") else OVERLOAD

    def simulate(self, head: str, value: str) -> None:
        if head == "SIM:SCEN":
            self.machine.scenario, self.machine.off = value.lower(), set()
        elif head == "SIM:PROBE":
            self.machine.probe = value.upper()
        elif head == "SIM:OFF":
            self.machine.off = {load for load in value.lower().split(",") if load in LOADS}
        elif head == "SIM:SHORT":
            self.machine.shorted = value.lower()


class Meter(Instrument):
    """Chooses its range by itself: the least power of ten that holds the reading."""

    model = "METER"

    def own(self, head: str, value: str) -> str | None:
        if head.startswith("SENS:") and head.endswith(":RANG?"):
            reading = self.own(f"MEAS:{head.removeprefix('SENS:').removesuffix(':RANG?')}?", "")
            return f"{10.0 ** math.ceil(math.log10(max(abs(float(reading or 1)), 0.1))):+.6E}"
        if head in {"MEAS:VOLT:DC?", "MEAS:VOLT?"}:
            return f"{self.machine.volts():+.6E}"
        if head == "MEAS:VOLT:AC?":
            return f"{self.machine.alternating():+.6E}"
        if head in {"MEAS:RES?", "MEAS:FRES?"}:
            return f"{self.machine.ohms():+.6E}"
        if head in {"MEAS:CURR:DC?", "MEAS:CURR?"}:
            return f"{self.machine.amps if self.machine.drawing else 0.0:+.6E}"
        return super().own(head, value)


class Load(Instrument):
    model = "LOAD"

    def own(self, head: str, value: str) -> str | None:
        if head == "CURR":
            try:
                amps = float(value)
            except ValueError:
                self.errors.append('-104,"Data type error"')
                return None
            if not 0 <= amps <= 30:
                self.errors.append('-222,"Data out of range"')
                return None
            self.machine.amps = amps
            return None
        if head == "CURR?":
            return f"{self.machine.amps:.3f}"
        if head == "INP":
            self.machine.drawing = value.upper() in {"ON", "1"}
            return None
        if head == "INP?":
            return "1" if self.machine.drawing else "0"
        return super().own(head, value)

    def reset(self) -> None:
        super().reset()
        self.machine.amps, self.machine.drawing = 0.0, False


class Reader(Instrument):
    model = "READER"

    def own(self, head: str, value: str) -> str | None:
        return f'"{self.machine.code()}"' if head == "READ:CODE?" else super().own(head, value)


class Line(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        for raw in self.rfile:
            instrument: Instrument = self.server.instrument  # type: ignore[attr-defined]
            for command in filter(None, raw.decode("ascii", "replace").strip().split(";")):
                answer = instrument.said(command)
                # In the scenario "silent" everything is heard and nothing answered, like a cable pulled out.
                if answer is not None and instrument.machine.scenario != "silent":
                    self.wfile.write(f"{answer}\n".encode())


class Port(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int, instrument: Instrument) -> None:
        self.instrument = instrument
        super().__init__(("127.0.0.1", port), Line)


def serve(first_port: int = 0, machine: Machine | None = None) -> tuple[Port, Port, Port]:
    """Meter, load and reader on loopback, answering in threads of their own; port 0 takes free ones."""
    machine = machine or Machine()
    kinds = (Meter, Load, Reader)
    meter, load, reader = (
        Port(first_port + place if first_port else 0, kind(machine)) for place, kind in enumerate(kinds)
    )
    ports = (meter, load, reader)
    for port in ports:
        threading.Thread(target=port.serve_forever, daemon=True).start()
    return ports


def tell(command: str, first_port: int = 8205) -> None:
    """Send a SIM command to the bench that runs."""
    with socket.create_connection(("127.0.0.1", first_port), timeout=3) as line:
        line.sendall(f"{command}\n".encode())


if __name__ == "__main__":
    if len(sys.argv) > 1 and sys.argv[1].startswith("SIM:"):
        tell(" ".join(sys.argv[1:]))
        raise SystemExit
    running = serve(int(sys.argv[1]) if len(sys.argv) > 1 else 8205)
    print("meter, load and reader at", *(port.server_address[1] for port in running), flush=True)
    try:
        threading.Event().wait()
    except KeyboardInterrupt:
        for port in running:
            port.shutdown()
