"""What was not recorded is not known: at no station is it shown, judged, priced or listed as known."""

from decimal import Decimal

from django.urls import reverse

from core.bench.plan import Outcome, make_plan
from core.intake.storage import Storage, may_hold_data
from stations.bench import fault_view, faults, library
from stations.bench import services as bench
from stations.bench.models import BenchCheck
from stations.bench.report import context_of
from stations.buying import services as buying
from stations.buying.models import LotLine
from stations.catalogue import bank_files
from stations.catalogue.models import MachineModel, VariantRule
from stations.common.refusals import Refused
from stations.intake import services as intake
from stations.selling import selectors
from stations.selling import services as selling
from stations.selling.as_recorded import listing_facts
from stations.stock.models import StockItem
from stations.units import as_it_is, paths, photos, read_off
from stations.units.models import Unit
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from stations.workshop.taking_apart import SalvagedPart, take_apart
from tests.stations.base import line_data, lot_data
from tests.stations.test_pages import PageTest

D = Decimal


class Mains(PageTest):
    def test_nobody_said_so_it_is_not_known_anywhere(self):
        (unit,) = self.receive()
        self.assertEqual((unit.mains, unit.mains_words, unit.mains_known), ("", "not known", False))
        unit = self.hand().assess(unit, mains_variant="unknown")
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "mains not known")
        self.assertIn("Mains: not known", selectors_text(unit))
        self.assertEqual(context_of(unit)["unit"].mains_words, "not known")

    def test_one_source_for_bench_report_and_listing(self):
        unit = self.assessed(mains_variant="v100_120", mains="117 V, 60 Hz")
        self.assertEqual(unit.mains_words, "100–120 V, 117 V, 60 Hz")
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "100–120 V, 117 V, 60 Hz")
        self.assertIn("Mains: 100–120 V, 117 V, 60 Hz", selectors_text(unit))

    def test_unknown_mains_are_a_gate_before_power_until_intake_records_them(self):
        unit = self.assessed(mains_variant="unknown")
        run = self.hand().test(unit, stop_at="safe-mains")
        with self.assertRaisesRegex(Refused, "mains it wants is not recorded"):
            bench.record_result(self.owner, run, "safe-mains", Outcome.PASS)
        with self.assertRaisesRegex(Refused, "Locked until"):
            bench.record_result(self.owner, run, "safe-earth", Outcome.PASS, "0.1")
        unit = self.again(unit)
        self.identify(unit, mains_variant="v220_240")
        bench.record_result(self.owner, run, "safe-mains", Outcome.PASS)
        bench.record_result(self.owner, run, "safe-earth", Outcome.PASS, "0.1")

    def test_a_plate_reading_that_is_kept_says_which(self):
        VariantRule.objects.create(maker="Halden", base=1500, at_base="v100_120", at_next="v220_240")
        (unit,) = self.receive()
        read_off.keep_fact(self.owner, self.again(unit), "variant", "1500", 0, "plate", False)
        self.assertEqual(self.again(unit).mains_words, "100–120 V")


def selectors_text(unit) -> str:
    from tests.core.listings import write_listing

    return write_listing(listing_facts(Unit.objects.get(pk=unit.pk)))[1]


class Adapters(PageTest):
    def model_with(self, adapter, supply="external_dc"):
        return MachineModel.objects.create(
            maker="Orrin", name="Slate 30", form_factor="laptop", supply=supply, battery="none", adapter=adapter
        )

    def unit_of(self, model):
        (unit,) = intake.receive(self.owner, self.other_line, 1, model)
        return self.hand().assess(unit)

    def test_limits_come_from_its_own_plate(self):
        unit = self.unit_of(self.model_with("15 V DC, 2 A, centre plus"))
        plan = {c.code: c for c in make_plan(as_it_is.bench_facts(unit))}
        self.assertEqual((plan["supply-dc"].limits.low, plan["supply-dc"].limits.high), (D("14.2"), D("21.8")))
        self.assertNotIn("supply-5v", plan)

    def test_the_wanted_adapter_stands_at_its_gate_and_must_be_known(self):
        unit = self.unit_of(self.model_with("15 V DC, 2 A, centre plus"))
        self.hand().test(unit, stop_at="safe-adapter")
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "15 V DC, 2 A, centre plus")

    def test_an_unknown_plate_opens_no_gate_and_its_limits_come_once_it_is_recorded(self):
        unit = self.unit_of(self.model_with("", "external_ac"))
        run = self.hand().test(unit, stop_at="safe-adapter")
        with self.assertRaisesRegex(Refused, "must all be recorded"):
            bench.record_result(self.owner, run, "safe-adapter", Outcome.PASS)
        unit = self.again(unit)
        self.identify(unit, adapter_volts=D("9.125"), adapter_amps=D("0.375"))
        run = self.again(run)
        check = next(c for c in bench.plan_of(run) if c.code == "supply-ac")
        self.assertEqual((check.limits.low, check.alternating), (D("8.7"), True))
        bench.record_result(self.owner, run, "safe-adapter", Outcome.PASS)

    def test_poles_that_nobody_stated_keep_the_gate_of_a_dc_machine_shut(self):
        unit = self.unit_of(self.model_with(""))
        run = self.hand().test(unit, stop_at="safe-adapter")
        for known in ({"adapter_volts": D(15)}, {"adapter_amps": D(2)}):
            unit = self.again(unit)
            self.identify(unit, **known)
            with self.assertRaisesRegex(Refused, "must all be recorded"):
                bench.record_result(self.owner, run, "safe-adapter", Outcome.PASS)
        unit = self.again(unit)
        self.identify(unit, adapter_polarity="centre_plus")
        bench.record_result(self.owner, run, "safe-adapter", Outcome.PASS)

    def test_a_plate_that_cannot_be_read_is_refused_at_the_bank_door(self):
        row = b'{"models": [{"maker": "Orrin", "name": "Slate 31", "form_factor": "laptop", "adapter": "some volts"}]}'
        with self.assertRaisesRegex(Refused, "Type what the plate says"):
            bank_files.import_models(self.owner, row)

    def test_three_decimals_are_taken_by_the_form(self):
        (unit,) = self.receive()
        page = self.client.get(f"/intake/W-{unit.number}/")
        form = {f.html_name: f.value() for f in page.context["form"] if f.value() is not None}
        plate = {"adapter_volts": "9.125", "adapter_amps": "0.375", "adapter_polarity": "centre_minus"}
        sent = form | plate | {"supply": "external_dc"}
        self.client.post(f"/intake/W-{unit.number}/identify/", sent)
        self.assertEqual((self.again(unit).adapter_volts, self.again(unit).adapter_amps), (D("9.125"), D("0.375")))
        self.assertEqual(Unit._meta.get_field("adapter_polarity").default, "unknown")


class GoneThroughOrNot(PageTest):
    def test_nothing_is_a_hundred_before_it_was_looked_at(self):
        (unit,) = self.receive()
        weighed = paths.weigh_paths(list(paths.with_facts(Unit.objects.filter(pk=unit.pk))))[0]
        self.assertEqual((weighed.facts.completeness, weighed.facts.cosmetics), (None, None))
        page = self.client.get(f"/intake/W-{unit.number}/")
        self.assertContains(page, "completeness not gone through, 80 % taken")
        self.assertContains(page, "not looked all over yet")
        self.assertContains(self.client.get(f"/W-{unit.number}/"), "not looked all over")
        self.hand().assess(unit)
        weighed = paths.weigh_paths(list(paths.with_facts(Unit.objects.filter(pk=unit.pk))))[0]
        self.assertEqual((weighed.facts.completeness, weighed.facts.cosmetics), (100, 100))

    def test_one_of_two_hundred_missing_is_not_complete(self):
        (unit,) = self.receive()
        unit.contents.filter(name="keyboard").update(weight=199)
        unit.contents.filter(name="mouse").update(weight=1)
        self.hand().assess(unit, missing=("mouse",))
        page = self.client.get(f"/W-{unit.number}/")
        self.assertEqual(page.context["completeness"].percent, 99)

    def test_a_title_claims_only_what_was_gone_through_and_passed(self):
        MachineModel.objects.filter(pk=self.model.pk).update(year_from=1987)
        unit = self.assessed()
        unit.contents.all().update(presence="unseen")
        title, text = _listing(unit)
        self.assertNotIn("complete", title)
        self.assertNotIn("tested,", title)
        self.assertIn("Whether it is complete was not gone through", text)

    def test_a_run_with_nothing_done_or_all_skipped_is_untested(self):
        unit = self.assessed()
        run = bench.start_run(self.owner, unit)
        bench.end_run(self.owner, run)
        self.assertEqual(selectors.graded_now(unit).grade.value, "untested")
        unit = self.assessed()
        self.hand().test(
            unit, skip=dict.fromkeys((c.code for c in library.library()), "no time"), stop_at="power-first"
        )
        run = unit.runs.get()
        bench.end_run(self.owner, run)
        self.assertEqual(selectors.graded_now(unit).grade.value, "untested")


def _listing(unit):
    from tests.core.listings import write_listing

    return write_listing(listing_facts(Unit.objects.get(pk=unit.pk)))


class AsItIsNow(PageTest):
    STANDS = "assessed"

    def test_the_plan_follows_what_is_missing_and_not_the_model_alone(self):
        unit = self.assessed(missing=("keyboard",))
        codes = {c.code for c in make_plan(as_it_is.bench_facts(unit))}
        self.assertNotIn("fn-keyboard", codes)
        self.assertIn("look-battery", codes)
        for name in ("battery", "hard disk", "CRT"):
            unit.contents.create(name=name, presence="missing")
        now = as_it_is.bench_facts(unit)
        self.assertEqual((now.battery.value, now.drives, now.picture_tube), ("out", 0, False))
        codes = {c.code for c in make_plan(now)}
        for code in ("look-battery", "fn-drives", "safe-tube", "fn-tube", "fn-clock"):
            self.assertNotIn(code, codes)

    def test_of_two_cells_the_one_that_is_gone_says_nothing_of_the_other(self):
        unit = self.assessed(battery="both")
        unit.contents.create(name="Battery pack", presence="missing")
        clock_cell = unit.contents.create(name="clock battery", presence="present")
        for presence in ("present", "unseen"):
            type(clock_cell).objects.filter(pk=clock_cell.pk).update(presence=presence)
            self.assertEqual(as_it_is.bench_facts(unit).battery.value, "both")
            self.assertIn("look-battery", {c.code for c in make_plan(as_it_is.bench_facts(unit))})
            self.assertIn("a lithium cell", selectors_text(unit))
        type(clock_cell).objects.filter(pk=clock_cell.pk).update(presence="missing")
        self.assertEqual(as_it_is.bench_facts(unit).battery.value, "out")

    def test_no_tube_no_tube_suspect_or_action(self):
        unit = self.assessed(picture_tube=False)
        case = faults.open_case(self.owner, unit, "unsteady")
        view = fault_view.look_at(case)
        self.assertFalse({"flyback", "pots"} & {b.suspect.code for b in view.bars})
        self.assertFalse({"presets", "rustle"} & {a.code for a in faults.actions_of(case)})

    def test_a_missing_keyboard_explains_301_before_any_memory_does(self):
        unit = self.assessed(missing=("keyboard",))
        case = faults.open_case(self.owner, unit, "beeps", "stops", "numeric", "301")
        bars = fault_view.look_at(case).bars
        self.assertEqual(bars[0].suspect.code, "nokeyboard")
        by_code = {b.suspect.code: b.chance for b in bars}
        self.assertLess(by_code["memory"], 0.1)

    def test_a_check_can_be_bound_to_a_model_and_a_cell_that_is_needed_is_said(self):
        BenchCheck.objects.create(
            code="fn-handle",
            group="function",
            title="Handle locks",
            instruction="Fold it.",
            model=self.model,
            kind="do",
        )
        MachineModel.objects.filter(pk=self.model.pk).update(needs_cell=True)
        unit = self.again(self.assessed())
        codes = {c.code for c in make_plan(as_it_is.bench_facts(unit), library.library())}
        self.assertLessEqual({"fn-handle", "power-cell"}, codes)
        (other,) = intake.receive(self.owner, self.other_line, 1)
        other = self.hand().assess(other)
        self.assertNotIn("fn-handle", {c.code for c in make_plan(as_it_is.bench_facts(other), library.library())})
        dead = faults.open_case(self.owner, unit, "dead")
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/fault/"), "Its switch needs a good cell")
        by_code = {b.suspect.code: b.chance for b in fault_view.look_at(dead).bars}
        self.assertGreater(by_code["softstart"], 0.15)


class ClaimsAndParts(PageTest):
    def test_a_claim_and_its_words_stand_at_intake_and_on_the_sheet(self):
        self.line.claim, self.line.claim_words = "working", "ran last week"
        self.line.save()
        (unit,) = self.receive()
        for page in (f"/intake/W-{unit.number}/", f"/W-{unit.number}/"):
            self.assertContains(self.client.get(page), "ran last week")
            self.assertContains(self.client.get(page), "Claimed by Pell Head school")

    def test_bare_parts_have_shape_plan_contents_photos_and_faults_of_their_own(self):
        lot = buying.record_lot(
            self.owner,
            lot_data(title="Box of parts"),
            [line_data(f"a {form}", 1, form_factor=form, kind="part") for form in
             ("drive", "card", "board", "cabinet", "adapter", "chip")],
        )  # fmt: skip
        for line in lot.lines.all():
            (unit,) = intake.receive(self.owner, line, 1)
            form = line.form_factor
            with self.subTest(form):
                self.assertEqual(unit.form_factor, form)
                self.assertTrue(unit.contents.exists())
                now = as_it_is.bench_facts(unit)
                codes = {c.code for c in make_plan(now)}
                self.assertFalse({"fn-keyboard", "fn-drives", "fn-memory", "fn-ports", "run-5v"} & codes, codes)
                self.assertTrue(codes)
                self.assertNotIn("keyboard", {s.value for s, _ in photos.shots_of(unit)})
                symptoms = {s.code for s in faults.symptoms_for(now)}
                self.assertTrue(symptoms)
                self.assertFalse({"keyboard", "beeps", "no-sound"} & symptoms)
                self.assertEqual(self.client.get(f"/intake/W-{unit.number}/").status_code, 200)
                self.assertEqual(self.client.get(f"/bench/W-{unit.number}/fault/").status_code, 200)

    def test_a_part_line_whose_shape_was_left_at_a_machines_is_no_machine(self):
        lot = buying.record_lot(
            self.owner, lot_data(title="Bag"), [line_data("cards", 1, form_factor="desktop", kind="board")]
        )
        (unit,) = intake.receive(self.owner, lot.lines.get(), 1)
        self.assertEqual(unit.form_factor, "board")


class DataFollowTheStorage(PageTest):
    def test_the_rule(self):
        for storage, words in (
            (Storage(True, 1), "not sanitised"),
            (Storage(None, 1), "nobody recorded"),
            (Storage(None, None), "nobody recorded"),
            (Storage(False, 2), ""),
            (Storage(True, 0), ""),
            (Storage(True, 1, missing=True), ""),
            (Storage(None, 0), ""),
        ):
            said = may_hold_data(storage)
            self.assertTrue(words in said if words else not said, (storage, said))

    def test_a_drive_blocks_whatever_was_ticked_and_a_missing_one_does_not(self):
        unit = self.assessed(data_on_board=None)
        self.assertIn("nobody recorded", as_it_is.data_left([unit])[unit.pk])
        Unit.objects.filter(pk=unit.pk).update(data_on_board=True)
        unit = self.again(unit)
        self.assertIn("not sanitised", as_it_is.data_left([unit])[unit.pk])
        unit.contents.create(name="hard disk", presence="missing")
        self.assertEqual(as_it_is.data_left([unit])[unit.pk], "")

    def test_a_drive_moved_from_a_donor_blocks_what_was_sanitised_before(self):
        donor = self.assessed("donor")
        take_apart(self.owner, donor, [SalvagedPart("Hard disk 40 MB", "tested", "D", 1, D(10), keeps_data=True)])
        unit = self.proven()
        self.assertEqual(as_it_is.data_left([unit])[unit.pk], "")
        job = workshop.open_job(self.owner, unit, NewJob(title="Fit a disk", kind="upgrade", estimate_minutes=5))
        issuing.issue_part(self.owner, job, StockItem.objects.get(name="Hard disk 40 MB"), 1)
        unit = self.again(unit)
        self.assertIn("moved in from elsewhere", as_it_is.data_left([unit])[unit.pk])
        with self.assertRaisesRegex(Refused, "moved in from elsewhere"):
            selling.publish(self.seller, unit)


class AsTyped(PageTest):
    def test_worth_and_pieces_that_can_mean_two_things_ask_which(self):
        page = self.post(
            "buying:record", **self.new_lot(**{"lines-0-worth_high": "1,234", "lines-0-quantity": "1,000"})
        )
        for said in ("1,234 can be 1234 or 1.234", "1,000 can be 1000 or 1.000"):
            self.assertContains(page, said)
        for kept in ('value="1,234"', 'value="1,000"'):
            self.assertContains(page, kept)

    def test_either_mark_is_read_and_a_rate_is_no_thousand(self):
        typed = {"lines-0-worth_low": "1.234,50", "lines-0-worth_likely": "1,300.00", "lines-0-worth_high": "1 400"}
        self.post("buying:record", **self.new_lot(currency="GBP", rate="1.173", **typed))
        line = LotLine.objects.order_by("-id").first()
        self.assertEqual((line.worth_low, line.worth_likely, line.worth_high), (D("1234.50"), D(1300), D(1400)))
        self.assertEqual(line.lot.rate, D("1.173"))
        page = self.client.get(reverse("buying:correct", args=[line.lot.number]))
        self.assertContains(page, 'value="1.173"')
