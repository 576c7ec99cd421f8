"""What the Marrowick bench has been through: faults found and still open, its shelf and instruments."""

from datetime import timedelta

from demo.days import Hand, Telling
from stations.bench import benchmarks, faults, instruments
from stations.bench import services as bench
from stations.bench.models import Instrument
from stations.stock import shelf
from stations.stock.models import KnownGood
from stations.units.models import Unit


class BenchStories(Telling):
    def solved(self, hand: Hand, unit: Unit) -> None:
        """A picture that rolled when warm: found, mended, and shown to hold from cold and closed up."""
        hand.test(unit, fail={"fn-picture": "rolls after ten minutes"})
        case = hand.do(faults.open_case, unit, "unsteady", "rolls after ten minutes, steady when cold")
        hand.do(faults.record_try, case, "swap-screen", False, "same cable, standard as before")
        hand.do(faults.record_try, case, "ripple", True, "5 V and 12 V, cold and warm")
        hand.do(faults.record_try, case, "esr", True, "in place, unplugged")
        hand.do(faults.close_case, case, "supplycaps", "two dried capacitors beside the regulator", "both replaced")
        hand.test(unit)
        hand.wait(hours=20)
        hand.do(bench.note_start, unit, True, False)
        hand.do(bench.note_start, unit, True, True)

    def by_temperature(self, hand: Hand, unit: Unit) -> None:
        """Starts from cold, fails warm: every time."""
        for cold, passed in ((True, True), (False, False), (True, True), (False, False)):
            hand.wait(hours=13 if cold else 1)
            hand.do(bench.note_start, unit, passed, False, "" if passed else "5 V down to 4.3 V after a while")
        case = hand.do(faults.open_case, unit, "warm", "5 V sinks once it is warm")
        hand.do(faults.record_try, case, "reseat", False)
        own = faults.OwnTry(
            words="Ran it with the cover off and a fan on the regulator",
            answer="held 5 V for an hour",
            varied="cooling",
            setting="same lead, same load",
            points_at="thermal",
            points_how="strong",
        )
        hand.do(faults.record_own, case, own)

    def only_closed_up(self) -> None:
        """Runs open on the bench, fails as soon as the cover is on."""
        unit = Unit.objects.get(title="Corvane Micro 3", stage="graded")
        hand = self.hand(self.tobin, 1.5, "closed")
        for closed in (False, True, False, True):
            hand.wait(hours=1)
            hand.do(bench.note_start, unit, not closed, closed, "no beep, black" if closed else "")
        case = hand.do(faults.open_case, unit, "closed", "dead with the cover on, runs without it")
        hand.do(faults.record_try, case, "fan-blow", False, "cover on, side open")

    def shelf(self) -> None:
        """What is known to be good, one thing long not looked at; the instruments of the bench; a benchmark."""
        hand = self.hand(self.tobin, 2, "shelf")
        for name, kind, stands_in, days in (
            ("Bench supply 5/12 V", "fixture", "supply", 12),
            ("Memory set, 256 KiB", "part", "memory", 40),
            ("Grey keyboard, spring keys", "part", "keyboard", 400),
            ("Colour screen, composite", "part", "screen", 25),
            ("Test machine, AT class", "machine", "test machine", None),
        ):
            seen = (self.now - timedelta(days=days)).date() if days else None
            hand.do(
                shelf.shelve,
                KnownGood(name=name, kind=kind, stands_in=stands_in, place="shelf K", verified_on=seen),
            )
        green = KnownGood(name="Green screen, composite", kind="part", stands_in="screen", place="shelf K")
        green.verified_on = (self.now - timedelta(days=60)).date()
        green.shows_colour, green.signals = False, "PAL, 625 lines"
        hand.do(shelf.shelve, green)
        owner = self.hand(self.runa, 2, "instruments")
        for name, role, port in (
            ("Bench meter", "meter", 1),
            ("Electronic load", "load", 2),
            ("Code reader", "reader", 3),
        ):
            owner.do(instruments.add, Instrument(name=name, role=role, host=Instrument.STAND_IN, port=port))
        unit = Unit.objects.filter(title="Orrin Desk 16", stage="listed")[0]
        for moment, runs in (("before", "15.2; 15.0; 15.4"), ("after", "10.1; 10.0; 9.8")):
            timed = benchmarks.BenchmarkRuns(
                name="from switch to prompt", setting="", moment=moment, by_hand=True, scores=False, values=runs
            )
            hand.do(benchmarks.record_benchmark, unit, timed)
