"""Hands that work: what a test needs done first is done by calling the services, as a person at the bench would.

Nothing is left to chance: every reading is in the middle of its limits, every place and serial follows from the unit.
"""

import io
import math
import struct
import wave
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any, Concatenate, ParamSpec, TypeVar

from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from core.bench.checks import Check
from core.bench.plan import Outcome
from core.machine.approach import Approach
from core.machine.supply import Supply
from core.selling.carriers import read_table
from core.selling.packing import Moment
from simulators import carriers as carrier_source
from stations.bench import notes, timers
from stations.bench import services as bench
from stations.bench.models import TestRun
from stations.common import clock
from stations.common.details import as_kept
from stations.dispatch import carriers, packing, parcels
from stations.dispatch.models import BoxSize, Carrier, Parcel
from stations.intake import capture
from stations.intake import services as intake
from stations.people.models import Person
from stations.selling import payments
from stations.selling import services as selling
from stations.selling.models import Channel, Sale
from stations.units import findings, photos, stages
from stations.units.models import Finding, Unit

P = ParamSpec("P")
T = TypeVar("T")


def a_picture(name: str, shade: int = 120) -> SimpleUploadedFile:
    """A grey picture; each shade is another picture."""
    out = io.BytesIO()
    Image.linear_gradient("L").resize((320, 240)).point(lambda value: (value + shade) % 256).save(out, "PNG")
    return SimpleUploadedFile(name, out.getvalue(), "image/png")


def a_tone(seconds: float = 2.0, hertz: float = 440.0, rate: int = 8000) -> SimpleUploadedFile:
    """A tone as a WAV."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setparams((1, 2, rate, 0, "NONE", "not compressed"))
        steps = range(int(seconds * rate))
        file.writeframes(b"".join(struct.pack("<h", int(6000 * math.sin(math.tau * hertz * i / rate))) for i in steps))
    return SimpleUploadedFile("tone.wav", out.getvalue(), "audio/wav")


def a_reading(check: Check, bad: bool = False) -> str:
    """A reading in the middle of the limits of a check, or well outside them; empty where it measures nothing."""
    limits = check.limits
    if limits is None:
        return ""
    if check.under_load:
        return "0 5.04; 1.5 4.66; 3 4.21" if bad else "0 5.09; 0.75 5.08; 1.5 5.06; 3 5.03"
    middle = limits.nominal or (limits.low + limits.high) / 2
    if limits.low == 0:
        middle = limits.high / 10
    value = (limits.low * Decimal("0.8") or limits.high * 2) if bad else middle
    return f"{value:.2f} {limits.unit}"


def boxes_and_carriers(person: Person) -> None:
    """Five sizes of box, each 10 mm larger outside, and the carriers of the source."""
    for name, length, width, height in (
        ("small", 320, 240, 200),
        ("middle", 520, 420, 320),
        ("screen", 420, 420, 400),
        ("outer", 560, 560, 520),
        ("crate", 900, 800, 760),
    ):
        edges = {"inner_length": length, "inner_width": width, "inner_height": height}
        edges |= {f"outer_{edge}": edges[f"inner_{edge}"] + 10 for edge in ("length", "width", "height")}
        carriers.add_box(person, BoxSize(name=name, weight_g=length + width + height, **edges))
    carriers.keep_tables(person, read_table(carrier_source.table()))


class Hand:
    """One person at work, at a moment of its own that moves on: three minutes with everything that is done."""

    def __init__(self, person: Person, start: datetime) -> None:
        self.person, self.moment = person, start

    def wait(self, **span: float) -> "Hand":
        self.moment += timedelta(**span)
        return self

    def do(self, act: Callable[Concatenate[Person, P], T], *args: P.args, **named: P.kwargs) -> T:
        with clock.at(self.moment):
            done = act(self.person, *args, **named)
        self.wait(minutes=3)
        return done

    def assess(
        self, unit: Unit, approach: str = "period", *, missing: tuple[str, ...] = (), finish: bool = True, **facts: Any
    ) -> Unit:
        """Identify it, tick off all but what is `missing`, look it over, choose the approach and finish intake."""
        unit = Unit.objects.get(pk=unit.pk)
        said = {"serial": f"HM-{unit.number:06d}-A1"} | facts
        if unit.supply in {Supply.LINEAR, Supply.SWITCHING}:
            said = {"mains_variant": "v220_240"} | said
        with stages.all_at_the_end():
            if "data_on_board" in said:
                found = replace(as_kept(capture.DataOnBoard, unit), data_on_board=said.pop("data_on_board"))
                self.do(capture.note_data, unit, found)
            self.do(intake.identify, unit, unit.version, replace(as_kept(intake.Identity, unit), **said))
            ticks = {c.pk: "missing" if c.name in missing else "present" for c in unit.contents.all()}
            self.do(intake.tick_contents, unit, ticks)
            self.do(intake.looked_over, unit)
            self.do(intake.choose_approach, unit, Approach(approach), "")
            if finish:
                self.do(intake.finish_intake, unit)
        return Unit.objects.get(pk=unit.pk)

    def find(self, unit: Unit, face: str, kind: str, severity: int, words: str) -> Finding:
        """A finding beside those that are on this face already."""
        x = round(0.2 + 0.1 * unit.findings.filter(face=face).count(), 2)
        data = {"face": face, "kind": kind, "severity": severity, "words": words, "extent_percent": 4}
        return self.do(findings.add_finding, unit, findings.Observation(**data, x=x, y=0.4))

    def photograph(self, unit: Unit, count: int = 1) -> None:
        files = [a_picture(f"view-{number}.png", 40 * number + unit.number % 40) for number in range(count)]
        self.do(photos.add_photos, unit, files)

    def test(
        self,
        unit: Unit,
        *,
        fail: dict[str, str] | None = None,
        skip: dict[str, str] | None = None,
        stop_at: str = "",
        end: bool = True,
    ) -> TestRun:
        """Run the plan up to `stop_at`; `fail` and `skip` by code, with their reasons. What takes time gets it."""
        fail, skip = fail or {}, skip or {}
        run = self.do(bench.start_run, unit)
        with stages.all_at_the_end():
            for check in bench.plan_of(run):
                if check.code == stop_at:
                    return run
                # Nothing is locked but by what failed.
                if fail and bench.locked(run, check.code):
                    break
                self._step(run, check, fail.get(check.code, ""), skip.get(check.code, ""))
                self.wait(minutes=check.minutes)
        run.refresh_from_db()
        if run.finished_at is None and end:
            self.do(bench.end_run, run)
        return run

    def _step(self, run: TestRun, check: Check, failed: str, skipped: str) -> None:
        if skipped and not check.gate:
            self.do(bench.record_result, run, check.code, Outcome.SKIP, "", skipped)
            return
        if failed:
            self.do(bench.record_result, run, check.code, Outcome.FAIL, a_reading(check, bad=True), failed)
            return
        if check.alone_minutes:
            self.do(timers.start, run, check.code)
            self.wait(minutes=check.alone_minutes)
        if check.listens:
            self.do(notes.add, run, check.code, "spins up and settles", None, a_tone())
        self.do(bench.record_result, run, check.code, Outcome.PASS, a_reading(check))

    def offer(self, unit: Unit, asking: str, reason: str = "", *, pictures: int = 3, publish: bool = True) -> None:
        """Photograph, grade, price, write and list."""
        with stages.all_at_the_end():
            self.photograph(unit, pictures)
            self.do(selling.grade_unit, unit)
            with clock.at(self.moment):
                listing = selling.draft_of(unit)
            channel = Channel.objects.order_by("name").first()
            self.do(selling.set_price, unit, listing.version, channel, Decimal(asking), reason)
            self.do(selling.write_from_facts, unit)
            if publish:
                self.do(selling.publish, unit)

    def pay(self, sale: Sale, amount: Decimal | None = None) -> None:
        """The buyer pays what is open, or a part of it."""
        sale.refresh_from_db()
        self.do(payments.take_payment, sale, sale.owed if amount is None else amount)

    def hand_over(self, unit: Unit) -> None:
        """Paid and fetched: the sale is closed."""
        sale = Sale.objects.get(open_for=unit)
        if sale.owed:
            self.pay(sale)
        self.do(parcels.hand_over, sale)

    def pack(self, sale: Sale, size: tuple[int, int, int] = (246, 277, 346), weight_g: int = 9400) -> Parcel:
        """Measured, every step done, pictures taken, closed in the box that was proposed; boxes must be there."""
        with stages.all_at_the_end():
            parcel = self.do(parcels.begin, sale)
            length, width, height = size
            found = parcels.Measured(length, width, height, weight_g, "home", "A. Reader\nQuay 3\nMarrowick")
            self.do(parcels.measure, parcel, parcel.version, found)
            self.do_all_steps(parcel)
            parcel.refresh_from_db()
            packed = packing.plan_of(parcel).proposed
            assert packed is not None
            boxes = {box.name: box for box in BoxSize.objects.all()}
            inner = boxes[packed.inner.name] if packed.inner else None
            self.do(parcels.close, parcel, boxes[packed.outer.name], inner, weight_g + packed.weight_g + 300)
            parcel.refresh_from_db()
        return parcel

    def do_all_steps(self, parcel: Parcel) -> None:
        """Every step of the plan, with its pictures."""
        for number, moment in enumerate((Moment.BEFORE, Moment.PACKED)):
            self.do(parcels.add_pictures, parcel, moment, [a_picture(f"{moment}.png", 30 * number + parcel.pk % 30)])
        for one in packing.plan_of(parcel).steps:
            if not one.done:
                self.do(parcels.tick, parcel, one.key)

    def send(self, parcel: Parcel, carrier: str = "Skerry Post", price: str = "6.90", tracking: str = "MW1") -> None:
        self.do(parcels.send, parcel, Carrier.objects.get(name=carrier), Decimal(price), tracking)
