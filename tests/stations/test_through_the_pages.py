"""Each station through its own pages: what is typed right is done, what is typed wrong is said at its field."""

from datetime import timedelta
from decimal import Decimal

from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone

from stations.bench import report
from stations.bench.models import Benchmark, FaultCase, Instrument, StartTrial, TestRun
from stations.buying.models import BidPlan, Lot
from stations.catalogue.recipes import recipes
from stations.selling.models import Listing, Sale
from stations.stock.models import KnownGood, StockItem
from stations.units.models import Finding, Photo
from stations.workshop.models import Job, LabourEntry, PartIssue
from tests.stations.base import person
from tests.stations.test_intake import picture
from tests.stations.test_pages import PageTest

D = Decimal


class Through(PageTest):
    def says(self, page, words: str, field: str = "") -> None:
        """The page came back, told why, and kept what was typed."""
        self.assertContains(page, words, status_code=page.status_code)
        self.assertIn(page.status_code, {200, 422})
        if field:
            self.assertContains(page, f'value="{field}"', status_code=page.status_code)

    def done(self, answer) -> str:
        """It was done, and leads somewhere that answers."""
        self.assertEqual(answer.status_code, 302, answer.context and answer.context.get("form"))
        self.assertEqual(self.client.get(answer["Location"]).status_code, 200)
        return answer["Location"]


class Workshop(Through):
    JOB = {"title": "New belt", "kind": "repair", "estimate_minutes": "20", "reversible": "on", "version": "1"}

    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed()

    def open(self, **changes) -> Job:
        self.done(self.post("workshop:unit", [self.unit.number], **self.JOB | changes))
        return Job.objects.latest("pk")

    def test_a_job_from_opening_to_done(self):
        job = self.open()
        self.done(self.post("workshop:issue", [job.pk], item=self.part.pk, quantity="2"))
        self.assertEqual(StockItem.objects.get(pk=self.part.pk).quantity, 1)
        self.done(self.post("workshop:return-part", [PartIssue.objects.get().pk]))
        self.assertEqual(StockItem.objects.get(pk=self.part.pk).quantity, 3)
        self.done(self.post("workshop:minutes", [job.pk], minutes="35"))
        self.done(self.post("workshop:clock", [job.pk, "start"]))
        self.done(self.post("workshop:clock", [job.pk, "stop"]))
        self.assertEqual(LabourEntry.objects.first().minutes, 35)
        self.done(self.post("workshop:done", [job.pk], result="runs quietly", original_kept="bag 4"))
        self.assertEqual(self.again(job).result, "runs quietly")

    def test_what_says_more_than_is_chosen_is_refused(self):
        there = ("workshop:unit", [self.unit.number])
        for more, words in (
            ({"temporary_reason": "no part yet"}, "tick that it is one"),
            ({"waiting_until": "2026-12-31"}, "Say what it waits for until then."),
            ({"override_reason": "the buyer wants it"}, "The approach allows this as it is"),
        ):
            with self.subTest(words=words):
                self.says(self.post(*there, **self.JOB | more), words)
        self.assertFalse(Job.objects.exists())

    def test_a_recipe_says_what_is_to_be_done(self):
        recipe = recipes()["oil-fan"]
        self.assertEqual(self.open(title="", recipe=recipe.code, kind="").title, recipe.title)
        self.assertEqual(self.open(title="Oil it all", recipe=recipe.code, kind="").title, "Oil it all")

    def test_what_is_wrong_is_said_at_its_field(self):
        self.says(self.post("workshop:unit", [self.unit.number], **self.JOB | {"title": ""}), "Say what is to be done.")
        page = self.post("workshop:unit", [self.unit.number], **self.JOB | {"temporary": "on"})
        self.says(page, "Say why it is only temporary.", "New belt")
        job = self.open()
        self.says(
            self.post("workshop:issue", [job.pk], item=self.part.pk, quantity="9"), "Only 3 in drawer A1, 9 wanted."
        )
        self.says(self.post("workshop:issue", [job.pk], item=self.part.pk, quantity="0"), "At least one.")
        self.says(self.post("workshop:minutes", [job.pk], minutes="9999"), "From 1 to 1440 minutes.")
        self.says(self.post("workshop:done", [job.pk], result=""), "Say in a few words what came of it.")
        self.assertEqual((PartIssue.objects.count(), LabourEntry.objects.count()), (0, 0))

    def test_a_job_is_changed_and_a_stale_page_is_told(self):
        job = self.open()
        first = self.JOB | {"title": "New belt and rollers", "version": job.version}
        self.done(self.post("workshop:change", [job.pk], **first))
        page = self.post("workshop:change", [job.pk], **first | {"title": "Only the rollers"})
        self.says(page, "New belt and rollers", "Only the rollers")
        self.assertEqual(self.again(job).title, "New belt and rollers")

    def test_a_temporary_fix_is_open_until_it_is_made_good(self):
        job = self.open(
            temporary="on", temporary_reason="no part yet", made_good_by="the right fuse", made_good_due="2026-12-31"
        )
        self.done(self.post("workshop:done", [job.pk], result="bridged"))
        self.assertTrue(self.again(job).temporary_open)
        self.assertContains(self.client.get(f"/W-{self.unit.number}/"), "Temporary fix")
        self.done(self.post("workshop:make-good", [job.pk], how="fuse fitted"))
        self.assertFalse(self.again(job).temporary_open)

    def test_parts_come_into_the_drawer(self):
        sent = {
            "name": "Fuse 1 A",
            "condition": "new",
            "drawer": "C1",
            "measure": "piece",
            "quantity": "10",
            "paid": "4.00",
        }
        self.done(self.post("stock:parts", **sent))
        self.assertEqual(StockItem.objects.get(name="Fuse 1 A").quantity, 10)
        self.says(self.post("stock:parts", **sent | {"paid": "-1", "name": "Fuse 2 A"}), "may not be below 0")


class Bench(Through):
    def test_a_run_is_begun_failed_taken_over_and_ended(self):
        unit = self.assessed()
        at = [unit.number]
        self.done(self.post("bench:start", at, warm="yes", closed="yes"))
        run = TestRun.objects.get()
        self.assertEqual((run.cold, run.closed, run.holder), (False, True, self.owner))
        self.says(self.post("bench:unit", at, code="look-case", outcome="fail", reason=""), "Say why.")
        self.done(self.post("bench:unit", at, code="look-case", outcome="fail", reason="mouse nest"))
        self.sign_in(self.technician)
        self.says(self.post("bench:unit", at, code="look-case", outcome="pass"), "Take it over first.")
        self.done(self.post("bench:take-over", at))
        self.done(self.post("bench:unit", at, code="look-case", outcome="pass"))
        self.done(self.post("bench:end", at))
        self.assertIsNotNone(self.again(run).finished_at)
        self.assertEqual([r.outcome for r in run.results.all()], ["fail", "pass"])

    def test_a_timer_is_started_at_its_step(self):
        run = self.hand().test(self.assessed(), stop_at="soak")
        self.done(self.post("bench:start-timer", [run.unit.number, "soak"]))
        self.assertContains(self.client.get("/bench/"), "Soak")
        self.assertContains(self.client.get(f"/bench/W-{run.unit.number}/?step=soak"), "Runs until")

    def test_starts_are_counted(self):
        unit = self.proven()
        before = StartTrial.objects.count()
        self.done(self.post("bench:note-start", [unit.number], passed="yes", cold="yes"))
        self.post("bench:note-start", [unit.number], passed="no", words="")
        self.assertEqual(StartTrial.objects.count(), before + 1)
        self.done(self.post("bench:note-start", [unit.number], passed="no", words="two beeps"))
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "two beeps")

    def test_a_fault_from_symptom_to_cause(self):
        unit = self.assessed()
        at = [unit.number]
        self.says(self.post("bench:fault", at, symptom="gremlins"), "not among the choices")
        self.done(self.post("bench:fault", at, symptom="no-picture", words="black"))
        action = self.client.get(reverse("bench:fault", args=at)).context["view"].offered[0].next.action.code
        self.done(self.post("bench:answer", at, action=action, said="yes", setting="colour"))
        self.says(self.post("bench:close-fault", at, cause="", cause_words="", fix=""), "Say in a few words")
        self.done(self.post("bench:close-fault", at, cause="video", cause_words="", fix="chip replaced"))
        self.assertEqual(FaultCase.objects.get().fix, "chip replaced")
        self.assertContains(self.client.get(reverse("bench:fault", args=at)), "chip replaced")

    def test_the_shelf_the_instruments_and_benchmarks(self):
        sent = {"name": "Grey keyboard", "kind": "part", "stands_in": "keyboard", "place": "K", "verified_on": ""}
        self.done(self.post("stock:known-good", **sent))
        row = KnownGood.objects.get()
        self.done(self.post("stock:verify", [row.pk]))
        self.assertEqual(self.again(row).verified_on, timezone.localdate())
        self.says(self.post("stock:known-good", **sent | {"name": ""}), "required")
        meter = {"name": "Meter", "role": "meter", "host": "127.0.0.1", "port": "1", "percent": "0.05"}
        meter |= {"digits": "3", "resolution": "0.001"}
        self.done(self.post("bench:instruments", **meter))
        self.assertContains(self.client.get("/bench/instruments/?look=yes"), "does not answer")
        self.says(self.post("bench:instruments", **meter | {"port": "99999"}), "65535")
        # How near a meter measures is nothing that anybody knows unsaid; a reader of codes measures nothing.
        self.assertIsNone(self.client.get("/bench/instruments/").context["form"]["percent"].value())
        self.says(self.post("bench:instruments", **meter | {"name": "Other", "percent": ""}), "As its data sheet says.")
        reader = {"name": "Reader", "role": "reader", "host": "127.0.0.1", "port": "2"}
        self.done(self.post("bench:instruments", **reader))
        self.done(self.post("bench:remove-instrument", [Instrument.objects.get(name="Reader").pk]))
        self.done(self.post("bench:remove-instrument", [Instrument.objects.get().pk]))
        unit = self.assessed()
        runs = {"name": "boot", "setting": "", "moment": "before", "values": "15.2; 15,0; 15.4", "by_hand": "on"}
        self.done(self.post("bench:benchmark", [unit.number], **runs))
        self.done(self.post("bench:benchmark", [unit.number], **runs | {"moment": "after", "values": "9.9; 10; 10.1"}))
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/benchmark/"), "less time")
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "less time")
        self.assertIn("less time", render_to_string("bench/report.html", report.context_of(unit)))
        self.says(self.post("bench:benchmark", [unit.number], **runs | {"values": "fast"}), "fast")
        self.assertEqual(Benchmark.objects.count(), 2)

    def test_only_owners_set_things_up(self):
        self.sign_in(self.technician)
        meter = {"name": "Meter", "role": "meter", "host": "127.0.0.1", "port": "1", "percent": "0.05"}
        page = self.post("bench:instruments", **meter | {"digits": "3", "resolution": "0.001"})
        self.says(page, "set up instruments", "Meter")
        self.assertEqual(Instrument.objects.count(), 0)


class Intake(Through):
    def test_contents_approach_photos_and_the_end(self):
        (unit,) = self.receive()
        at = [unit.number]
        there = {f"presence-{c.pk}": "present" for c in unit.contents.all()}
        self.post("intake:contents", at, **there, extra="", missing="")
        self.post("intake:approach", at, approach="conserve", reason="")
        self.done(self.client.post(reverse("intake:add-photos", args=at), {"photos": [picture("front.jpg")]}))
        photo = Photo.objects.get()
        self.done(self.post("intake:say-shot", [photo.pk], shot="back"))
        self.assertEqual(self.again(photo).shot, "back")
        page = self.client.post(reverse("intake:add-photos", args=at), {}, follow=True)
        self.assertContains(page, "Choose at least one picture first.")
        page = self.client.post(reverse("intake:finish", args=at), {"write_key": ""}, follow=True)
        self.assertEqual(page.status_code, 200)

    def test_a_finding_is_changed_shown_on_a_photo_and_settled(self):
        unit = self.assessed()
        finding = self.hand().find(unit, "front", "crack", 2, "by the tube")
        self.hand().photograph(unit, 1)
        at = [finding.pk]
        self.done(self.post("intake:settle-finding", at, x="0.25", y="0.75", face="back"))
        self.assertEqual((self.again(finding).face, self.again(finding).x), ("back", D("0.250")))
        self.done(self.post("intake:settle-finding", at, photo=str(unit.photos.first().pk)))
        self.assertEqual(self.again(finding).photo, unit.photos.first())
        self.done(self.post("intake:settle-finding", at, status=Finding.Status.RESOLVED))
        self.assertNotEqual(self.again(finding).status, Finding.Status.OPEN)

    def test_a_path_is_chosen(self):
        unit = self.assessed()
        without = self.post("intake:choose-path", [unit.number], path="part_out")
        self.says(without, "should leave more. Say why not.")
        self.assertContains(without, '<option value="part_out" selected>part out</option>', html=True)
        self.done(self.post("intake:choose-path", [unit.number], path="part_out", reason="cracked through"))
        self.assertEqual(self.again(unit).path, "part_out")
        away = self.post(
            "intake:choose-path", [unit.number], path="part_out", reason="so", back="https://elsewhere.test/"
        )
        self.assertTrue(away["Location"].startswith("/intake/"))


class Selling(Through):
    def test_from_grade_to_closed(self):
        unit = self.proven()
        self.hand().photograph(unit, 1)
        at = [unit.number]
        self.done(self.post("selling:do", [unit.number, "grade"]))
        page = self.post("selling:text", at, version="1", title="M2", text="Tested.")
        self.says(page, "Set a price, or write the words from the record, first.", "M2")
        price = {"version": "1", "channel": self.channel.pk, "asking": "150", "below_floor_reason": ""}
        self.says(self.post("selling:price", at, **price | {"asking": "-3"}), "below 0")
        self.done(self.post("selling:price", at, **price))
        self.done(self.post("selling:do", [unit.number, "write"]))
        listing = Listing.objects.get()
        words = {"version": listing.version, "title": "M2, tested", "text": listing.text}
        self.done(self.post("selling:text", at, **words))
        page = self.post("selling:text", at, **words | {"title": "Mine"})
        self.says(page, "M2, tested", "Mine")
        self.done(self.post("selling:do", [unit.number, "publish"]))
        self.assertContains(self.client.get(f"/shop/W-{unit.number}/"), "M2, tested")
        self.says(self.post("selling:sale", at, price="", buyer="", postage="9"), "required")
        self.done(self.post("selling:sale", at, price="150", buyer="A. Ruhl", postage="9"))
        sale = Sale.objects.get()
        self.says(self.post("dispatch:payment", [sale.pk], amount="151", how="cash"), "Only 150.00 is open")
        self.says(self.post("dispatch:hand-over", [sale.pk]), "still open")
        self.done(self.post("dispatch:payment", [sale.pk], amount="150", how="cash"))
        self.done(self.post("dispatch:hand-over", [sale.pk]))
        self.assertEqual((self.again(unit).stage, Sale.objects.count()), ("closed", 1))

    def test_a_listing_is_ended_and_nonsense_is_not_found(self):
        unit = self.listed()
        self.done(self.post("selling:do", [unit.number, "end"], reason="shop closed for the summer"))
        self.assertNotEqual(self.again(unit).stage, "listed")
        self.assertEqual(self.post("selling:do", [unit.number, "burn"]).status_code, 404)

    def test_another_sale_is_taken_into_account(self):
        sent = {"model": self.model.pk, "price": "180", "sold_on": "2026-09-01", "grade": "B", "channel": "fair"}
        sent |= {"currency": "EUR", "rate": "1"}
        page = self.post("selling:comparables", **sent | {"price": "0"})
        self.assertIn(page.status_code, {200, 422})
        self.done(self.post("selling:comparables", **sent | {"completeness": "100"}))


class Buying(Through):
    def test_a_plan_from_its_terms_to_the_lot(self):
        sent = {
            "version": "1",
            "title": "Shed",
            "supplier_name": "Quayside",
            "currency": "EUR",
            "rate": "1",
            "premium_percent": "18",
        }
        closes = (timezone.localtime() + timedelta(days=2)).strftime("%Y-%m-%dT%H:%M")
        sent |= {"closes_at": closes, "freight": "20", "fee_percent": "8", "lot_rho": "0", "target_margin": "20"}
        sent |= dict.fromkeys(("premium_tax_percent", "duty_percent", "import_tax_percent", "other"), "0")
        page = self.post("buying:plan-new", **sent | {"loss_limit": "20", "target_hourly": "0", "title": ""})
        self.assertIn(page.status_code, {200, 422})
        address = self.done(self.post("buying:plan-new", **sent | {"loss_limit": "20", "target_hourly": "0"}))
        line = {"description": "Halden M2", "quantity": "3", "form_factor": "all_in_one", "claim": "powers_on"}
        self.client.post(address, line | {"claim_words": "", "worth": "240", "write_key": ""})
        self.assertContains(self.client.get(address), "Halden M2")
        number = int(address.rstrip("/").rsplit("-", 1)[1])
        self.done(self.post("buying:plan-decide", [number, "limit"], bid="310"))
        self.assertEqual(self.post("buying:plan-decide", [number, "burn"], bid="5").status_code, 404)
        self.assertEqual(BidPlan.objects.get().bid, D("310.00"))
        self.done(self.post("buying:plan-decide", [number, "bought"], bid="300", source="auction"))
        self.assertEqual(Lot.objects.latest("pk").title, "Shed")

    def test_a_second_person_sees_who_did_what(self):
        self.sign_in(person("ben", "buyer"))
        self.assertContains(self.client.get(f"/buying/L-{self.lot.number}/"), "Olga")


class SomebodyWasFaster(Through):
    """What was open when the page was loaded is over: it is said, and what was typed is given back."""

    def test_the_run_is_over(self):
        unit = self.assessed()
        at = [unit.number]
        page = self.post("bench:unit", at, code="look-case", outcome="fail", reason="mouse nest")
        self.says(page, "nothing was recorded. You had typed: mouse nest")
        for address in ("bench:end", "bench:take-over"):
            page = self.client.post(reverse(address, args=at), {"write_key": ""}, follow=True)
            self.assertContains(page, "The run on this unit is over")
        page = self.post("bench:note", [unit.number, "look-case"], words="smells of fish")
        self.says(page, "The run on this unit is over", "smells of fish")

    def test_the_fault_is_closed(self):
        at = [self.assessed().number]
        sent = {"action": "ripple", "said": "yes", "setting": "cold"}
        page = self.client.post(reverse("bench:answer", args=at), sent, follow=True)
        self.assertContains(page, "No fault is being looked for here any more.")
        page = self.client.post(reverse("bench:close-fault", args=at), {"cause_words": "a moth"}, follow=True)
        self.assertContains(page, "You had typed: a moth")
        self.assertEqual(FaultCase.objects.count(), 0)
