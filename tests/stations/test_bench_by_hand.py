"""A bench without instruments: readings typed, eyes trusted for what they are, faults looked for by their pages."""

from decimal import Decimal as D
from unittest.mock import patch

from django.urls import reverse

from core.bench.checks import Check
from core.bench.plan import StepState
from stations.bench import faults, instruments
from stations.bench import services as bench
from stations.bench.models import FaultCase, Instrument, StepResult
from stations.common import clock
from stations.common.refusals import Refused
from stations.stock import shelf
from stations.stock.models import KnownGood
from tests.stations.test_bench_in_full import BenchTest


class Typed(BenchTest):
    def ask(self, unit, code: str, **sent):
        return self.client.post(reverse("bench:meter", args=[unit.number, code]), sent)

    def check(self, run, wanted) -> Check:
        return next(check for check in bench.plan_of(run) if wanted(check))

    def test_where_no_instrument_is_set_up_it_is_said_and_what_was_typed_stays(self):
        run = self.run_until("supply-5v")
        page = self.ask(run.unit, "supply-5v", reading="5.06")
        self.assertContains(page, "No meter is set up. Type the reading by hand.")
        self.assertContains(page, 'value="5.06"')
        page = self.client.post(reverse("bench:read-code", args=[run.unit.number]), {"code": "17"})
        self.assertContains(page, "No POST code reader is set up. Type what the board shows.")
        self.assertContains(page, 'value="17"')
        self.assertFalse(StepResult.objects.filter(code="supply-5v").exists())

    def test_a_meter_reads_no_ripple_and_sets_no_load(self):
        run = self.run_until("supply-5v")
        Instrument.objects.create(name="Meter", role="meter", port=9)
        # Of a unit that has no run open the step is as the library asks it.
        self.assertContains(self.ask(self.assessed(), "supply-ripple"), "A meter does not read ripple.")
        load = self.check(run, lambda check: check.under_load)
        self.assertContains(self.ask(run.unit, load.code, amps="1"), "No load is set up. Type the points by hand.")

    def test_amperes_that_are_none(self):
        run = self.run_until("supply-5v")
        for role in ("meter", "load"):
            Instrument.objects.create(name=role, role=role, port=9)
        load = self.check(run, lambda check: check.under_load)
        self.assertContains(self.ask(run.unit, load.code, amps="much"), "Type the load in amperes, for example 1.5.")
        for amps in ("-1", "31", "nan", "1e309"):
            with self.subTest(amps):
                self.assertContains(self.ask(run.unit, load.code, amps=amps), "A load from 0 to 30 A.")

    def test_what_measures_nothing_and_what_is_no_step_is_no_page(self):
        run = self.run_until("supply-5v")
        silent = self.check(run, lambda check: check.limits is None)
        for code in (silent.code, "no-such-step"):
            self.assertEqual(self.ask(run.unit, code).status_code, 404)
        there = reverse("bench:band", args=[run.unit.number, "no-such-step"])
        self.assertEqual(self.client.get(there, {"reading": "5"}).status_code, 404)

    def test_read_by_eye_it_is_as_sure_as_that_meter_and_no_more(self):
        run = self.run_until("supply-5v")
        accuracy = {"percent": D(3), "digits": 1, "resolution": D("0.1")}
        meter = Instrument.objects.create(name="Old needle", role="meter", port=9, **accuracy)
        read = {"reading": "5.05", "read_on": meter.pk}
        band = self.client.get(reverse("bench:band", args=[run.unit.number, "supply-5v"]), read)
        self.assertContains(band, "old needle, read by eye may be off by")
        sent = {"code": "supply-5v", "outcome": "pass"} | read
        self.assertContains(self.post("bench:unit", [run.unit.number], **sent), "Too close to call", status_code=422)
        self.post("bench:unit", [run.unit.number], **sent, reason="the scope says 5.04")
        result = StepResult.objects.get(code="supply-5v")
        self.assertEqual((result.instrument, result.reading), ("Old needle, read by eye", D("5.05")))
        # 3 % of 5.05, and a digit of 0.1.
        self.assertAlmostEqual(float(result.uncertainty), 0.03 * 5.05 + 0.1, places=3)

    def test_a_load_that_does_not_take_what_it_is_told(self):
        load = Instrument(name="Load", role="load", host="127.0.0.1", port=9)
        answers = patch.object(instruments, "ask", return_value='-222,"Data out of range"')
        with answers as asked, self.assertRaises(Refused) as caught:
            instruments.set_load(load, 12)
        self.assertEqual((caught.exception.field, "-222" in caught.exception.message), ("amps", True))
        self.assertEqual(asked.call_args.args[1:], ("CURR 12.000", "INP ON", "SYST:ERR?"))


class Ended(BenchTest):
    def test_in_a_run_that_is_over_nothing_is_to_be_done(self):
        run = self.run_until("soak")
        there = reverse("bench:unit", args=[run.unit.number])
        self.assertContains(self.client.get(there), ">to do<")
        self.post("bench:end", [run.unit.number])
        page = self.client.get(there)
        self.assertContains(page, ">not done<")
        for state in (StepState.NOW, StepState.TO_DO, StepState.LOCKED):
            self.assertNotContains(page, f">{state.label}<")

    def test_what_keeps_one_from_a_step_is_no_reason_why_it_failed(self):
        run = self.run_until("supply-5v")
        there = reverse("bench:unit", args=[run.unit.number])
        for outcome, hidden in (("skip", False), ("fail", True)):
            page = self.client.post(there, {"code": "fn-picture", "outcome": outcome, "reason": "", "write_key": ""})
            self.assertEqual('id="why-not" hidden' in " ".join(page.content.decode().split()), hidden, outcome)


class LookedFor(BenchTest):
    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed()
        self.there = f"/bench/W-{self.unit.number}/fault/"

    def opened(self) -> FaultCase:
        return faults.open_case(self.technician, self.unit, "no-picture")

    def answer(self, **sent):
        return self.client.post(f"{self.there}answer/", sent | {"write_key": ""}, follow=True)

    def test_an_answer_is_yes_no_or_gone_away(self):
        self.opened()
        page = self.client.get(self.there)
        action = page.context["view"].offered[0].next.action.code
        page = self.answer(action=action, said="perhaps", setting="colour set, PAL")
        self.assertContains(page, "Say what it answered.")
        self.assertContains(page, "colour set, PAL")
        self.assertFalse(FaultCase.objects.get().tries.exists())
        self.answer(action=action, said="away", setting="colour set, PAL", varied="warm")
        self.assertIsNone(FaultCase.objects.get().tries.get().yes)

    def test_something_of_ones_own_when_it_is_closed_already_is_given_back(self):
        case = self.opened()
        FaultCase.objects.filter(pk=case.pk).update(open_for=None, closed_at=clock.now(), cause_words="a moth")
        sent = {"words": "blew at the fan", "answer": "it turned", "varied": "cold", "setting": "mono"}
        page = self.client.post(f"{self.there}own/", sent | {"write_key": ""}, follow=True)
        self.assertContains(page, "No fault is being looked for here any more.")
        for typed in sent.values():
            self.assertContains(page, typed)

    def test_a_code_belongs_to_a_family_and_a_symptom_is_chosen(self):
        for sent, field in (
            ({"symptom": "beeps", "code": "1"}, "family"),
            ({"symptom": ""}, "symptom"),
            ({"symptom": "dance"}, "symptom"),
        ):
            with self.subTest(sent):
                page = self.client.post(self.there, sent | {"write_key": "", "words": "since it rained"})
                self.assertIn(field, page.context["form"].errors)
                self.assertContains(page, "since it rained", status_code=page.status_code)
        self.assertFalse(FaultCase.objects.exists())

    def test_only_a_good_part_of_the_kind_that_is_asked_for_stands_in(self):
        case = faults.open_case(self.technician, self.unit, "keyboard")
        cable, spare = (
            shelf.shelve(self.owner, KnownGood(name=name, kind="part", stands_in=stands_in))
            for name, stands_in in (("Good cable", "cable"), ("Good spare", "keyboard"))
        )
        sent = {"action": "swap-keyboard", "said": "no", "setting": "cold"}
        page = self.answer(**sent, known_good=cable.pk)
        self.assertContains(page, "Good cable does not stand in for that. You had typed: cold")
        KnownGood.objects.filter(pk=spare.pk).update(bad_since=clock.now())
        self.assertContains(self.answer(**sent, known_good=spare.pk), "was found bad: it stands in for nothing.")
        self.assertFalse(case.tries.exists())
        KnownGood.objects.filter(pk=spare.pk).update(bad_since=None)
        self.answer(**sent, known_good=spare.pk)
        self.assertEqual((case.tries.get().known_good.pk, self.again(spare).uses), (spare.pk, 1))

    def test_closed_with_its_cause_and_no_fault_twice(self):
        case = self.opened()
        page = self.client.post(f"{self.there}close/", {"cause": "", "cause_words": "", "fix": "", "write_key": ""})
        self.assertContains(page, "Say in a few words", status_code=422)
        sent = {"cause": "", "cause_words": "a moth in the relay", "fix": "moth taken out", "write_key": ""}
        self.client.post(f"{self.there}close/", sent)
        case = self.again(case)
        self.assertEqual((case.cause_words, case.fix), ("a moth in the relay", "moth taken out"))
        page = self.client.post(f"{self.there}close/", sent | {"cause_words": "another moth"}, follow=True)
        self.assertContains(page, "You had typed: another moth")
        self.assertEqual(self.again(case).cause_words, "a moth in the relay")
        self.assertContains(self.client.get(self.there), "a moth in the relay")
