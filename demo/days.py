"""A hand that works like a person at the screens: every step calls the service the screen calls."""

import random
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Concatenate, ParamSpec, TypeVar

from django.core.files.uploadedfile import SimpleUploadedFile

from core.bench.checks import Check, CheckKind
from core.bench.plan import Outcome, StepState
from core.machine.approach import Approach
from core.selling.packing import Moment
from demo import pictures
from stations.bench import notes, timers
from stations.bench import services as bench
from stations.bench.models import TestRun
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.common.details import as_kept
from stations.dispatch import packing, parcels, receipts
from stations.dispatch.models import BoxSize, Carrier, Parcel
from stations.intake import services as intake
from stations.people.models import Person
from stations.selling import payments
from stations.selling import services as selling
from stations.selling.models import Channel, Listing, Sale
from stations.stock.models import StockItem
from stations.units import colours, findings, photos, stages
from stations.units.models import Unit
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.models import Job
from stations.workshop.new_job import NewJob

# Where the shop prices its things for; they are put on others besides.
PRICED_FOR = ("Shop page", "Quay market")


def packing_picture(unit: Unit, number: int) -> SimpleUploadedFile:
    """Of the thing before it is wrapped (0), and packed (1)."""
    size = (unit.model and unit.model.size) or (400, 150, 380)
    view = ("front", "top")[number]
    picture = pictures.draw(f"packing {unit.number}", unit.form_factor, size, view)
    return SimpleUploadedFile(f"packing-{view}.jpg", picture, "image/jpeg")


P = ParamSpec("P")
T = TypeVar("T")


class Hand:
    """Works at a moment that moves on; `wait` lets hours pass."""

    def __init__(self, person: Person, start: datetime, seed: str) -> None:
        self.person = person
        self.moment = start
        self.dice = random.Random(seed)

    def wait(self, **span: float) -> "Hand":
        self.moment += timedelta(**span)
        return self

    def do(self, act: Callable[Concatenate[Person, P], T], *args: P.args, **named: P.kwargs) -> T:
        """One thing, now; a few minutes pass."""
        with clock.at(self.moment):
            done = act(self.person, *args, **named)
        self.moment += timedelta(minutes=self.dice.randrange(2, 6))
        return done

    def assess(self, unit: Unit, approach: str = "period", missing=(), wrong=(), finish: bool = True, **facts) -> Unit:
        """Identify, tick off, choose the approach, finish intake."""
        unit = Unit.objects.get(pk=unit.pk)
        usual = {"mains_variant": "v220_240"} if unit.supply in {"linear", "switching"} else {}
        said = usual | {"serial": self.serial(unit)} | facts
        with stages.all_at_the_end():
            self.do(intake.identify, unit, unit.version, replace(as_kept(intake.Identity, unit), **said))
            presences = {
                c.pk: "missing" if c.name in missing else "not_original" if c.name in wrong else "present"
                for c in unit.contents.all()
            }
            self.do(intake.tick_contents, unit, presences)
            self.do(intake.looked_over, unit)
            self.do(intake.choose_approach, unit, Approach(approach), "")
            if finish:
                self.do(intake.finish_intake, unit)
        return Unit.objects.get(pk=unit.pk)

    def serial(self, unit: Unit) -> str:
        letters = "".join(word[0] for word in unit.title.split()).upper()
        return f"{letters}-{self.dice.randrange(10**5, 10**6)}-{self.dice.choice('ABCDEFGHK')}{self.dice.randrange(10)}"

    def find(self, unit: Unit, face: str, kind: str, severity: int, words: str, extent: int = 4):
        taken = unit.findings.filter(face=face).count()
        x, y = round((0.3 + 0.37 * taken + self.dice.uniform(0, 0.06)) % 0.9, 3), (0.4, 0.66)[taken % 2]
        seen = findings.Observation(
            face=face, kind=kind, severity=severity, words=words, extent_percent=extent, x=x, y=y
        )
        return self.do(findings.add_finding, unit, seen)

    def photograph(self, unit: Unit, count: int = 3) -> None:
        size = (unit.model and unit.model.size) or (400, 150, 380)
        files = [
            SimpleUploadedFile(
                f"{view}.jpg", pictures.draw(f"demo {unit.number}", unit.form_factor, size, view), "image/jpeg"
            )
            for view in pictures.VIEWS[:count]
        ]
        self.do(photos.add_photos, unit, files)

    def measure_colour(self, unit: Unit, part: str, moment: str, sheltered, exposed) -> None:
        """A measurement with a grey card in the picture; spots are given by their colour."""
        spots = [[0.3 + 0.1 * i, 0.4, *rgb] for i, rgb in enumerate(exposed)]
        photo = unit.photos.all()[0]
        self.do(colours.keep_sample, photo, part, moment, [0.1, 0.1, 200, 200, 200], [0.2, 0.8, *sheltered], spots)

    def test(
        self,
        unit: Unit,
        *,
        fail: dict[str, str] | None = None,
        skip: dict[str, str] | None = None,
        stop_at: str = "",
        end: bool = True,
    ) -> TestRun:
        """Run the plan: `fail` and `skip` by code with their reasons; stops before `stop_at`.

        Steps that take their time get it: the timer is started, and the time lets pass.
        """
        fail, skip = fail or {}, skip or {}
        run = self.do(bench.start_run, unit)
        with stages.all_at_the_end():
            for check in bench.plan_of(run):
                if check.code == stop_at:
                    return run
                step = next(r for r in bench.steps_of(run) if r.check.code == check.code)
                if step.state is StepState.LOCKED:
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
            self.do(bench.record_result, run, check.code, Outcome.FAIL, self.reading(check, bad=True), failed)
            return
        if check.alone_minutes:
            self.do(timers.start, run, check.code)
            self.wait(minutes=check.alone_minutes)
        if check.does is CheckKind.LISTEN:
            self.do(notes.add, run, check.code, "whines up and settles", None, self.sound())
        self.do(bench.record_result, run, check.code, Outcome.PASS, self.reading(check))

    def sound(self, seconds: float = 2.0) -> SimpleUploadedFile:
        """A drive that spins up, made by the program: a tone that rises and settles."""
        return SimpleUploadedFile("spin-up.wav", pictures.whine(seconds, self.dice.random()), "audio/wav")

    def reading(self, check, bad: bool = False) -> str:
        """A believable reading, well inside the limits, or well outside them."""
        if check.limits is None:
            return ""
        if check.does is CheckKind.LOAD:
            return "0 5.04; 1.5 4.66; 3 4.21" if bad else "0 5.09; 0.75 5.08; 1.5 5.06; 3 5.03"
        low, high = float(check.limits.low), float(check.limits.high)
        nominal = float(check.limits.nominal or (low + high) / 2)
        if bad:
            value = low * 0.82 if low else high * 1.6
        elif low == 0:
            value = high * self.dice.uniform(0.02, 0.3)
        else:
            value = nominal * self.dice.uniform(0.996, 1.012)
        return f"{value:.2f} {check.limits.unit}"

    def work(
        self, unit: Unit, title: str, kind: str = "repair", minutes: int = 30, parts=(), done: str = "", **more
    ) -> Job:
        """Open a job, issue its parts, count its minutes, and finish it when `done` says what came of it."""
        usual = {"title": title, "kind": kind, "estimate_minutes": minutes, "reversible": True}
        data = NewJob(**{**usual, **more})
        job = self.do(workshop.open_job, unit, data)
        for name, quantity in parts:
            self.do(issuing.issue_part, job, StockItem.objects.get(name=name), quantity)
        if done or more.get("decision"):
            self.do(workshop.log_labour, job, minutes)
            self.wait(minutes=minutes)
        if done:
            self.do(workshop.finish_job, job, workshop.JobResult(done, worked=True))
        return job

    def offer(
        self, unit: Unit, asking: str | None = None, reason: str = "", photos: int = 3, publish: bool = True
    ) -> None:
        """Photograph, grade, price, write and list."""
        with stages.all_at_the_end():
            self.photograph(unit, photos)
            self.do(selling.grade_unit, unit)
            with clock.at(self.moment):
                listing = selling.draft_of(unit)
            price = Decimal(asking or unit.line.worth_likely or 0)
            channel = self.dice.choice(list(Channel.objects.filter(name__in=PRICED_FOR).order_by("name")))
            self.do(selling.set_price, unit, listing.version, channel, price, reason)
            self.do(selling.write_from_facts, unit)
            if publish:
                self.do(selling.publish, unit)

    def sell(self, unit: Unit, price: str, buyer: str, postage: str = "9.00", far: str = "closed") -> None:
        sale = self.do(selling.sell, unit, Decimal(price), buyer, Decimal(postage))
        if far in {"sent", "closed"}:
            self.wait(days=1)
            self.do(payments.take_payment, sale, sale.price)
            self.do(receipts.issue, sale)
            parcel = self.pack(sale)
            self.do(parcels.send, parcel, *self.cheapest(parcel), f"MW{self.dice.randrange(10**7, 10**8)}")
        if far == "closed":
            self.wait(days=4)
            self.do(parcels.close_sale, sale)

    def pack(self, sale: Sale, weight_g: int = 5200) -> Parcel:
        """Measured as its model is, every step done with its pictures, closed in the box that is proposed."""
        with stages.all_at_the_end():
            parcel = self.do(parcels.begin, sale)
            size = (parcel.length or 420, parcel.width or 300, parcel.height or 120)
            self.do(parcels.measure, parcel, parcel.version, parcels.Measured(*size, weight_g, "home", parcel.address))
            for number, moment in enumerate((Moment.BEFORE, Moment.PACKED)):
                self.do(parcels.add_pictures, parcel, moment, [packing_picture(sale.unit, number)])
            for one in packing.plan_of(parcel).steps:
                if not one.done:
                    self.do(parcels.tick, parcel, one.key)
            parcel.refresh_from_db()
            packed = packing.plan_of(parcel).proposed
            assert packed is not None
            boxes = {box.name: box for box in BoxSize.objects.all()}
            inner = boxes[packed.inner.name] if packed.inner else None
            self.do(parcels.close, parcel, boxes[packed.outer.name], inner, weight_g + packed.weight_g + 240)
            parcel.refresh_from_db()
        return parcel

    def cheapest(self, parcel: Parcel) -> tuple[Carrier, Decimal]:
        taken, _ = packing.quotes_of(packing.plan_of(parcel), parcel.zone)
        return Carrier.objects.get(name=taken[0].carrier), taken[0].total

    def sell_anyhow(self, unit: Unit, price: str, buyer: str) -> None:
        """Ask just that, under the floor if need be, and sell."""
        self.offer(unit, price, reason="cleared to make room", photos=3)
        self.wait(days=6)
        self.sell(unit, price, buyer)
        assert Listing.objects.get(unit=unit).status == Listing.Status.SOLD


class Telling:
    """Who tells what happened to the demo shop, and when now is."""

    def __init__(self, runa: Person, tobin: Person, models: dict[str, MachineModel], now: datetime) -> None:
        self.runa, self.tobin, self.models, self.now = runa, tobin, models, now

    def hand(self, who: Person, days_ago: float, seed: str) -> Hand:
        return Hand(who, self.now - timedelta(days=days_ago), seed)
