"""The bench through its services and pages: library, take-over, timers, loads, instruments, faults, shelf, report."""

import io
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal
from unittest.mock import patch

import pypdfium2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from core.bench.plan import Outcome
from simulators import instruments as simulated
from stations.bench import benchmarks, instruments, library, report, stops, timers
from stations.bench import services as bench
from stations.bench.forms import InstrumentForm
from stations.bench.models import Benchmark, Instrument, StepResult, StepTimer, TestRun
from stations.common import clock
from stations.common.details import as_kept
from stations.common.refusals import NotAllowed, Refused
from stations.people.models import Role
from stations.stock.models import KnownGood
from tests.hands import a_reading
from tests.stations.base import person
from tests.stations.test_intake import picture
from tests.stations.test_pages import PageTest

D = Decimal


class StandIns(TestCase):
    def test_they_are_where_they_were_started(self):
        meter = Instrument(host=Instrument.STAND_IN, port=2)
        with self.settings(STAND_IN_PORT=9400):
            self.assertEqual(meter.reached_at, ("127.0.0.1", 9401))
        self.assertEqual(Instrument(host="10.0.0.7", port=5025).reached_at, ("10.0.0.7", 5025))

    def test_an_address_that_is_none_is_refused_at_its_field(self):
        for host in ("", " ", "a b", "::1", "x::INSTR", "-x", "ä", "x" * 61):
            with self.subTest(host):
                form = InstrumentForm({"name": "M", "role": "meter", "host": host, "port": "5025"})
                self.assertIn("host", form.errors)

    def test_a_host_that_nobody_knows_does_not_answer(self):
        with self.assertRaisesRegex(Refused, "does not answer"):
            instruments.ask(Instrument(name="Meter", host="nobody.invalid", port=5025), "*IDN?")


class BenchTest(PageTest):
    def run_until(self, code: str, who=None):
        unit = self.assessed()
        return self.hand(who or self.owner).test(unit, stop_at=code)


class TheLibraryIsData(PageTest):
    def values(self, code: str, **changes) -> library.CheckDetails:
        return replace(as_kept(library.CheckDetails, library.row_for(code)), **changes)

    def test_a_check_of_our_own_comes_on_the_plan_and_old_runs_keep_theirs(self):
        unit = self.assessed()
        run = bench.start_run(self.owner, unit)
        before = len(bench.plan_of(run))
        data = self.values("fn-ports", title="Printer port", group="function", when="form=all_in_one")
        library.save_check(self.owner, "fn-printer", 1, data)
        library.save_check(self.owner, "fn-ports", 1, self.values("fn-ports", active=False))
        self.assertEqual(len(bench.plan_of(run)), before)
        bench.end_run(self.owner, run)
        codes = [c.code for c in bench.plan_of(bench.start_run(self.owner, unit))]
        self.assertIn("fn-printer", codes)
        self.assertNotIn("fn-ports", codes)

    def test_a_check_at_hand_comes_on_plans_once_it_is_turned_on(self):
        unit = self.assessed(supply="switching")
        code = "supply-minus12"
        self.assertContains(self.client.get("/bench/checks/"), "−12 V, PSU alone")
        self.assertNotIn(code, [c.code for c in library.library()])
        self.assertFalse(library.row_for(code).active)
        library.save_check(self.owner, code, 1, self.values(code, active=True))
        run = bench.start_run(self.owner, unit)
        self.assertIn(code, run.plan)
        for step in bench.plan_of(run):
            if step.code == code:
                break
            bench.record_result(self.owner, run, step.code, Outcome.PASS, a_reading(step))
        with self.assertRaisesRegex(Refused, "leads are reversed"):
            bench.record_result(self.owner, run, code, Outcome.PASS, "12.1")
        result = bench.record_result(self.owner, run, code, Outcome.PASS, "−12,1 V")
        self.assertEqual((result.reading, result.verdict), (D("-12.1"), "inside"))
        library.save_check(self.owner, code, 1, self.values(code, active=False))
        self.assertIn(code, [c.code for c in library.resting()])

    def test_steps_that_are_worked_out(self):
        for code in ("look-cell", "safe-bleeder", "cold-caps"):
            library.save_check(self.owner, code, 1, self.values(code, active=True, when=""))
        run = bench.start_run(self.owner, self.assessed())
        at = [run.unit.number]

        def post(code, typed, outcome="pass", reason=""):
            return self.post("bench:unit", at, code=code, outcome=outcome, reading=typed, reason=reason)

        self.post("bench:unit", at, code="look-case", outcome="pass")
        self.post("bench:unit", at, code="look-battery", outcome="pass")
        band = self.client.get(reverse("bench:band", args=[*at, "look-cell"]), {"reading": "1 lithium; 3; charger"})
        self.assertContains(band, "can burst")
        self.assertContains(post("look-cell", ""), "Type cells; volts the board wants", status_code=422)
        self.assertContains(post("look-cell", "1 lithium; 3; charger"), "can burst", status_code=422)
        self.assertEqual(post("look-cell", "1 lithium; 3; no charger").status_code, 302)
        for step in bench.plan_of(run):
            if step.code == "safe-bleeder":
                self.assertEqual(post(step.code, "470u; 325; 100k").status_code, 302)
            elif step.code == "cold-caps":
                break
            elif step.code not in {"look-case", "look-battery", "look-cell"}:
                bench.record_result(self.owner, run, step.code, Outcome.PASS, a_reading(step), "")
        for outcome in ("pass", "fail"):
            page = post("cold-caps", "104K; 400n", outcome, "looks odd")
            self.assertContains(page, "lift one leg and measure again", status_code=422)
            self.assertContains(page, 'value="104K; 400n"', status_code=422)
        self.assertContains(post("cold-caps", "104K; 400n; 250n"), "the part is bad", status_code=422)
        self.assertEqual(post("cold-caps", "104K; 400n; 250n", "fail", "dried out").status_code, 302)
        kept = StepResult.objects.get(code="cold-caps")
        self.assertEqual((kept.verdict, kept.reading, kept.points[0]), ("outside", None, "104K; 400n; 250n"))
        self.assertContains(self.client.get(f"/bench/W-{at[0]}/?step=safe-bleeder"), "Wait at least 80 s")
        self.assertEqual(self.client.post(reverse("bench:meter", args=[*at, "cold-caps"])).status_code, 404)

    def test_what_keeps_people_safe_is_never_weakened(self):
        for change, field in (
            ({"active": False}, "active"),
            ({"gate": False}, "gate"),
            ({"safety": False}, "safety"),
            ({"caution": ""}, "caution"),
            ({"when": "tube & drives"}, "when"),
        ):
            with self.subTest(change), self.assertRaises(Refused) as caught:
                library.save_check(self.owner, "safe-tube", 1, self.values("safe-tube", **change))
            self.assertEqual(caught.exception.field, field)
        library.save_check(self.owner, "safe-tube", 1, self.values("safe-tube", title="Tube made safe"))
        self.assertIn("Tube made safe", [c.title for c in library.library()])
        with self.assertRaises(NotAllowed):
            library.save_check(self.technician, "fn-ports", 1, self.values("fn-ports"))

    def test_through_the_page_with_its_errors(self):
        there = reverse("bench:check", args=["fn-ports"])
        form = {
            f.html_name: f.value()
            for f in self.client.get(there).context["form"]
            if f.value() is not None and f.value() is not False
        }
        page = self.client.post(there, form | {"when": "colour=red"})
        self.assertIn("when", page.context["form"].errors)
        page = self.client.post(there, form | {"kind": "measure"})
        self.assertIn("high", page.context["form"].errors)
        page = self.client.post(there, form | {"low": "5", "high": "4", "unit": "V"})
        self.assertContains(page, "high is above low")
        self.assertRedirects(self.client.post(there, form | {"title": "Ports"}), "/bench/checks/")
        self.assertContains(self.client.get("/bench/checks/"), ">ours</span>", count=1)
        page = self.client.post("/bench/checks/new/", form | {"code": "No Good"})
        self.assertIn("code", page.context["form"].errors)
        self.assertEqual(self.client.get("/bench/checks/nothing/").status_code, 404)


class TakingOver(BenchTest):
    def test_two_people_never_record_into_one_anothers_hands(self):
        unit = self.assessed()
        run = bench.start_run(self.technician, unit)
        other = person("tove", Role.TECHNICIAN)
        for act in (
            lambda: bench.record_result(other, run, "look-case", Outcome.PASS),
            lambda: bench.end_run(other, run),
        ):
            with self.assertRaisesRegex(Refused, "Tom has this run in hand"):
                act()
        bench.take_over(other, run)
        bench.record_result(other, run, "look-case", Outcome.PASS)
        with self.assertRaisesRegex(Refused, "Tove has this run in hand"):
            bench.record_result(self.technician, run, "look-battery", Outcome.PASS)
        self.assertEqual(list(StepResult.objects.values_list("code", flat=True)), ["look-case"])


class RunningByItself(BenchTest):
    def test_several_at_once_and_not_passed_too_early(self):
        one = self.run_until("soak")
        two = self.run_until("fn-memory")
        with self.assertRaisesRegex(Refused, "start its timer"):
            bench.record_result(self.owner, two, "fn-memory", Outcome.PASS, reason="ran all night")
        timers.start(self.owner, one, "soak")
        timers.start(self.owner, two, "fn-memory")
        self.assertEqual([t.code for t in timers.running()], ["fn-memory", "soak"])
        with self.assertRaisesRegex(Refused, "runs already"):
            timers.start(self.owner, one, "soak")
        with self.assertRaisesRegex(Refused, "does not run by itself"):
            timers.start(self.owner, two, "fn-ports")
        with self.assertRaisesRegex(Refused, "Locked until"):
            timers.start(self.owner, self.run_until("safe-earth"), "soak")
        with self.assertRaisesRegex(Refused, "minutes to run"):
            bench.record_result(self.owner, one, "soak", Outcome.PASS, reason="looks fine")
        with clock.at(timezone.now() + timedelta(hours=5)):
            bench.record_result(self.owner, one, "soak", Outcome.PASS)
        self.assertEqual([t.code for t in timers.running()], ["fn-memory"])
        with clock.at(timezone.now() + timedelta(minutes=21)):
            bench.record_result(self.owner, two, "fn-memory", Outcome.PASS)
        self.assertFalse(timers.running().exists())

    def test_the_bench_page_shows_what_is_left(self):
        run = self.run_until("soak")
        self.post("bench:start-timer", [run.unit.number, "soak"])
        self.assertEqual(StepTimer.objects.filter(code="soak").count(), 1)
        self.assertContains(self.client.get("/bench/"), "Soak: four hours on")
        self.assertContains(self.client.get(f"/bench/W-{run.unit.number}/"), "Work on something else meanwhile")


class UnderLoad(BenchTest):
    def test_the_worst_point_decides_and_the_line_is_drawn(self):
        run = self.run_until("supply-load")
        for typed, words in (
            ("5.06", "in pairs"),
            ("0 5.09", "two different loads"),
            ("0 5.09; 3 volts", "Type a number"),
            ("0 5.09; 3 4.2", "outside the limits"),
            ("0 5.09; 3 4.76", "Too close to call"),
        ):
            with self.subTest(typed), self.assertRaisesRegex(Refused, words):
                bench.record_result(self.owner, run, "supply-load", Outcome.PASS, typed)
        result = bench.record_result(self.owner, run, "supply-load", Outcome.PASS, "0 5.09; 1,5 5.06; 3 A 5.03 V")
        self.assertEqual((result.reading, len(result.points)), (D("5.03"), 3))
        page = self.client.get(f"/bench/W-{run.unit.number}/?step=supply-load")
        self.assertContains(page, "Output resistance 20 mΩ")


class WithInstruments(BenchTest):
    def setUp(self):
        super().setUp()
        self.machine = simulated.Machine()
        self.ports = simulated.serve(machine=self.machine)
        for port in self.ports:
            self.addCleanup(port.server_close)
            self.addCleanup(port.shutdown)
        for (name, role), port in zip(
            (("Meter", "meter"), ("Load", "load"), ("Reader", "reader")), self.ports, strict=True
        ):
            Instrument.objects.create(name=name, role=role, port=port.server_address[1])
        self.meter = Instrument.objects.get(role="meter")

    def read(self, run, code, **data):
        return self.client.post(reverse("bench:meter", args=[run.unit.number, code]), data)

    def test_a_reading_keeps_its_instrument_and_that_instruments_doubt(self):
        run = self.run_until("supply-5v")
        page = self.read(run, "supply-5v")
        typed, taken = page.context["typed"], page.context["taken"]
        self.assertRegex(typed, r"^5\.0[89]\d* V$")
        self.post("bench:unit", [run.unit.number], code="supply-5v", outcome="pass", reading=typed, taken=taken)
        result = StepResult.objects.get(code="supply-5v")
        self.assertEqual((result.instrument, result.instrument_range), ("Meter", "10 V"))
        self.assertLess(result.uncertainty, D("0.006"))

    def test_a_reading_that_was_changed_by_hand_is_a_hand_reading(self):
        run = self.run_until("supply-5v")
        taken = self.read(run, "supply-5v").context["taken"]
        self.post("bench:unit", [run.unit.number], code="supply-5v", outcome="pass", reading="5.01", taken=taken)
        result = StepResult.objects.get(code="supply-5v")
        self.assertEqual((result.instrument, result.uncertainty), ("hand meter", D("0.0451")))

    def test_points_under_load_are_taken_one_by_one(self):
        self.machine.scenario = "sagging"
        run = self.run_until("supply-load")
        typed, taken = "", ""
        for amps in ("0", "1,5", "3"):
            page = self.read(run, "supply-load", amps=amps, reading=typed, taken=taken)
            typed, taken = page.context["typed"], page.context["taken"]
        self.assertEqual(len(typed.split(";")), 3)
        self.assertContains(page, "Output resistance 2")
        with self.assertRaisesRegex(Refused, "outside the limits"):
            bench.record_result(self.owner, run, "supply-load", Outcome.PASS, typed)
        self.assertContains(self.read(run, "supply-load", amps="lots", reading=typed), "Type the load in amperes")
        self.assertContains(self.read(run, "supply-load", amps="99", reading=typed), "0 to 30 A")

    def test_commanding_an_instrument_asks_role_and_holder(self):
        run = self.run_until("supply-load", self.technician)
        other = person("tove", Role.TECHNICIAN)
        for who, words in ((self.viewer, "technician"), (self.seller, "technician"), (other, "has this run in hand")):
            self.client.force_login(who, backend="django.contrib.auth.backends.ModelBackend")
            with patch("stations.bench.instruments.ask") as asked:
                self.assertContains(self.read(run, "supply-load", amps="25"), words)
            asked.assert_not_called()
            code = self.client.post(reverse("bench:read-code", args=[run.unit.number]))
            self.assertContains(code, words)
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.read(run, "supply-load", amps="0"), "0 5.")
        stops.stop(self.technician, run.unit, "smell")
        with patch("stations.bench.instruments.ask") as asked:
            self.assertContains(self.read(run, "supply-load", amps="25"), "No power before")
        asked.assert_not_called()

    def test_no_answer_overload_and_nonsense_lose_nothing(self):
        run = self.run_until("supply-5v")
        self.machine.volts = lambda: float("9.9e37")
        self.assertContains(self.read(run, "supply-5v", reading="5.0"), "overloaded")
        self.ports[0].instrument.own = lambda head, value: "HELLO"
        page = self.read(run, "supply-5v", reading="5.0")
        self.assertContains(page, "which is no reading")
        self.assertContains(page, 'value="5.0"')
        self.machine.scenario = "silent"
        self.assertContains(self.read(run, "supply-5v", reading="5.0"), "does not answer")
        for port in self.ports:
            port.shutdown()
            port.server_close()
        page = self.read(run, "supply-5v", reading="5.06")
        self.assertContains(page, "Type the reading by hand; nothing is lost")
        self.assertContains(page, 'value="5.06"')
        self.assertEqual(TestRun.objects.get().results.count(), run.results.count())

    def test_who_answers_and_the_code_reader(self):
        self.assertContains(self.client.get("/bench/instruments/?look=yes"), "MARROWICK,METER")
        self.machine.scenario = "code201"
        ask = reverse("bench:read-code", args=[self.assessed().number])
        self.assertContains(self.client.post(ask), 'value="201"')
        with self.assertRaisesRegex(Refused, "does not read"):
            instruments.read(self.meter, "Hz")
        self.assertIn("-113", instruments.ask(self.meter, "NONSENSE", "SYST:ERR?"))
        self.machine.scenario = "silent"
        answer = self.client.post(ask, {"code": "17"})
        self.assertContains(answer, "does not answer")
        self.assertContains(answer, 'value="17"')


class NotesAtAStep(BenchTest):
    def note(self, run, code="supply-5v", **data):
        return self.client.post(reverse("bench:note", args=[run.unit.number, code]), data)

    def test_words_and_a_picture_are_kept_once_and_stand_in_the_report(self):
        run = self.run_until("supply-5v")
        for _ in range(2):
            page = self.note(run, words="Ripple smells of fish", picture=picture("fan.jpg"), write_key="one-press")
            self.assertContains(page, "Ripple smells of fish", 1)
        self.assertEqual(run.notes.get().photo.unit, run.unit)
        with pypdfium2.PdfDocument(report.pdf(run.unit)) as document:
            words = "".join(page.get_textpage().get_text_range() for page in document)
        self.assertIn("Ripple smells of fish (picture kept)", words)

    def test_an_empty_note_or_a_bad_picture_is_refused_and_the_words_stay(self):
        run = self.run_until("supply-5v")
        self.assertContains(self.note(run), "Write a word")
        bad = SimpleUploadedFile("fan.jpg", b"no picture")
        page = self.note(run, words="see picture", picture=bad)
        self.assertContains(page, "The picture was not taken")
        self.assertContains(page, 'value="see picture"')
        self.assertContains(self.note(run, "no-step", words="x"), "no such step")
        self.assertEqual(run.notes.count(), 0)


class SumsAndBenchmarks(PageTest):
    def test_every_sum_answers_and_refuses_in_words(self):
        for what, asked, words in (
            ("bands", {"bands": "yellow violet red gold"}, "4.7 kΩ ± 5 %"),
            ("bands", {"bands": "yellow violet red gold", "in_circuit": "3.9 kΩ"}, "lift one leg"),
            ("bands", {"bands": "pink"}, "Type the bands"),
            ("capacitor", {"code": "104K", "in_circuit": "400 nF", "out": "250 nF"}, "the part is bad"),
            ("discharge", {"farads": "470 µF", "volts": "325 V", "ohms": "100 kΩ"}, "80 s"),
            ("discharge", {"farads": "470 µF", "volts": "", "ohms": "100k"}, "Fill in every field"),
            ("battery", {"cell": "nimh", "count": "3", "volts": "3.6"}, "3.6 V"),
            ("battery", {"cell": "lithium", "count": "1", "volts": "3", "charged": "yes"}, "NOT THESE"),
            ("battery", {"cell": "steam", "count": "1", "volts": "3"}, "steam"),
            ("load", {"points": "0 5.09; 3 5.03"}, "20 mΩ"),
            ("contact", {"drop": "30 mV", "amps": "1"}, "good"),
            ("contact", {"drop": "80 mV", "amps": "1"}, "clean or replace"),
            ("starts", {"runs": "3", "failed": "0", "claim": "10"}, "63 in 100"),
            ("starts", {"runs": "3", "failed": "9", "claim": "10"}, "from 0 to the number"),
        ):
            with self.subTest(asked):
                self.assertContains(self.client.get(f"/bench/sums/{what}/", asked), words)
        self.assertEqual(self.client.get("/bench/sums/tarot/").status_code, 404)
        self.assertEqual(self.client.get("/bench/sums/bands/", {"bands": ""}).content.strip(), b"")

    def test_only_like_is_compared_with_like(self):
        unit = self.assessed()
        there = f"/bench/W-{unit.number}/benchmark/"
        sent = {"name": "Boot", "setting": "", "moment": "before", "values": "15.2; 15,0; 15.4"}
        self.client.post(there, sent)
        self.client.post(there, sent | {"moment": "after", "values": "10.1 10.0 9.8"})
        self.client.post(there, sent | {"moment": "after", "setting": "turbo", "values": "5"})
        self.assertContains(self.client.get(there), "Takes 34 % less time, which is")
        self.assertEqual([b.compared is None for b in benchmarks.benchmarks_of(unit)], [False, True])
        for values in ("fast", "0", "-1", "nan", "1 " * 31):
            self.assertIn("values", self.client.post(there, sent | {"values": values}).context["form"].errors)
        self.assertEqual(Benchmark.objects.count(), 3)


class TheReport(BenchTest):
    def test_says_what_was_tested_with_what_and_how_sure(self):
        unit = self.proven()
        pdf = self.client.get(f"/bench/W-{unit.number}/report.pdf")
        self.assertEqual(pdf["Content-Type"], "application/pdf")
        pages = pypdfium2.PdfDocument(io.BytesIO(pdf.content))
        text = " ".join(page.get_textpage().get_text_range() for page in pages)
        for words in (str(unit.tag), "+5 V under load", "4.75 to 5.25 V", "hand meter", "failure rate up to 63 in 100"):
            self.assertIn(words, " ".join(text.split()))

    def test_pages_of_the_bench_ask_a_fixed_number(self):
        unit = self.proven()
        for days in range(3):
            with clock.at(timezone.now() + timedelta(days=days)):
                bench.note_start(self.owner, self.again(unit), True, False)
        KnownGood.objects.create(name="A", stands_in="memory")
        self.client.get("/bench/known-good/")
        with self.assertNumQueries(9):
            self.client.get("/bench/known-good/")
        KnownGood.objects.create(name="B", stands_in="memory")
        with self.assertNumQueries(9):
            self.client.get("/bench/known-good/")
