"""Stop or go through the pages: asked, decided with its figures, asked again, carried out."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal as D

from django.utils import timezone

from core.intake.triage import Path
from core.workshop.worth import NOTHING
from stations.common import clock
from stations.common.refusals import Refused
from stations.day import bells
from stations.intake import capture
from stations.selling import services as selling
from stations.selling.appraisal import appraisal_of
from stations.selling.as_recorded import listing_facts
from stations.selling.market import unit_books, usual_channel
from stations.selling.models import Comparable
from stations.units.models import Content, Unit
from stations.workshop import services as workshop
from stations.workshop import stop_or_go
from stations.workshop.models import Job, StopDecision
from stations.workshop.new_job import NewJob
from tests.stations.test_through_the_pages import Through


class Asked(Through):
    def scene(self) -> None:
        super().scene()
        self.now = timezone.now()
        self.unit = self.assessed("enhanced")
        self.hand().test(self.unit)
        for price, grade, percent in ((240, "A", 100), (220, "B", 100), (130, "D", 60), (90, "untested", 60)):
            data = {"model": self.model, "channel": "a fair", "price": D(price), "sold_on": clock.today()}
            selling.add_comparable(self.owner, Comparable(**data, grade=grade, completeness=percent))
        self.missing = Content.objects.filter(unit=self.unit).first()
        Content.objects.filter(pk=self.missing.pk).update(presence="missing", estimate=D(5))  # type: ignore[union-attr]

    def job(self, minutes: int = 20, **more) -> Job:
        data = NewJob(kind="clean", title="Fit the keyboard", estimate_minutes=minutes, reversible=True)
        return workshop.open_job(
            self.owner,
            self.unit,
            replace(replace(data, source=f"content:{self.missing.pk}"), **more),  # type: ignore[union-attr]
        )

    def ask(self) -> stop_or_go.StopGo | None:
        return stop_or_go.stop_or_go(Unit.objects.select_related("lot", "line", "model").get(pk=self.unit.pk))

    def box(self):
        return self.client.get(f"/workshop/W-{self.unit.number}/stop-or-go/")

    def decide(self, what: str, why: str = ""):
        return self.post("workshop:stop-decide", [self.unit.number], what=what, why=why)


class Figures(Asked):
    def test_nothing_in_hand_asks_nothing(self):
        self.assertIsNone(self.ask())
        self.assertContains(self.box(), "Nothing is in hand on it")
        with self.assertRaisesMessage(Refused, "Nothing is in hand"):
            stop_or_go.decide(self.owner, self.unit, "go")

    def test_a_job_in_hand_is_answered_and_minutes_without_a_result_turn_it(self):
        job = self.job()
        before = self.ask()
        self.assertIsNotNone(before and before.answer)
        workshop.log_labour(self.owner, job, 200)
        after = self.ask()
        self.assertLess(after.answer.in_100, before.answer.in_100)  # type: ignore[union-attr]
        self.assertLessEqual(after.answer.go, before.answer.go)  # type: ignore[union-attr]
        self.assertEqual((after.gone, after.spent), (200, D("80.00")))  # type: ignore[union-attr]
        # What was spent is shown struck, and changes what stopping leaves by nothing.
        self.assertEqual(after.answer.stop, before.answer.stop)  # type: ignore[union-attr]
        self.assertContains(self.box(), "already spent: not counted")

    def test_each_way_says_what_it_leaves(self):
        self.job()
        asked = self.ask()
        for way in asked.ways:  # type: ignore[union-attr]
            self.assertAlmostEqual(way.left, way.worth - way.spend)  # type: ignore[operator]
        names = [way.name for way in asked.ways]  # type: ignore[union-attr]
        self.assertEqual(names[0], "Stop, sell it as it stands, a guess from few sales")
        self.assertTrue(names[1].startswith("Go on:"))
        going = asked.ways[1]  # type: ignore[union-attr]
        self.assertAlmostEqual(going.left, asked.answer.go)  # type: ignore[arg-type, union-attr]

    def test_what_nobody_can_say_is_said(self):
        self.job(source="")
        asked = self.ask()
        self.assertIsNone(asked.answer)  # type: ignore[union-attr]
        self.assertContains(self.box(), "Nobody can say.")
        self.assertContains(self.box(), "Nothing says what it changes")

    def test_the_clock_says_which_job_is_in_hand(self):
        self.job(title="First")
        second = self.job(title="Second", source="")
        workshop.start_clock(self.owner, second)
        self.assertEqual(self.ask().in_hand.job, second)  # type: ignore[union-attr]

    def test_the_box_stands_on_the_pages_of_job_unit_and_fault(self):
        job = self.job()
        for address in (f"/workshop/jobs/{job.pk}/", f"/W-{self.unit.number}/"):
            self.assertContains(self.client.get(address), "stop-or-go/")
        part = self.client.get(f"/workshop/W-{self.unit.number}/stop-or-go/", headers={"HX-Request": "true"})
        self.assertNotContains(part, "<html")
        self.assertNotContains(part, "data-key")
        self.assertContains(self.box(), 'data-key="y"')

    def test_what_is_not_ours_or_gone_is_not_asked(self):
        self.job()
        Unit.objects.filter(pk=self.unit.pk).update(parked="until spring")
        self.assertIsNone(self.ask())


class OnCommission(Asked):
    def scene(self) -> None:
        super().scene()
        self.job()
        self.own, self.left = self.ask(), self.leaves()
        owned = capture.Ownership("consigned", "E. Norr", commission_percent=D(30))
        capture.set_ownership(self.owner, self.unit, owned)

    def leaves(self) -> float:
        """What a sale leaves at what it should fetch now, as the page of the sale has it."""
        price = appraisal_of(self.unit).at(NOTHING).likely
        return float(unit_books(self.again(self.unit)).leaves(usual_channel())(price))

    def test_only_our_part_of_a_price_counts_and_of_any_what_a_sale_leaves(self):
        asked = self.ask()
        self.assertEqual(asked.ways[0].name, self.own.ways[0].name)  # type: ignore[union-attr]
        self.assertAlmostEqual(self.own.ways[0].worth, self.left)  # type: ignore[union-attr]
        self.assertAlmostEqual(asked.ways[0].worth, self.leaves())  # type: ignore[union-attr]
        self.assertLess(self.leaves(), self.left / 2)
        self.assertLess(asked.answer.go, self.own.answer.go)  # type: ignore[union-attr]

    def test_it_is_not_taken_for_parts(self):
        self.assertIn("Take it for parts", [way.name for way in self.own.ways])  # type: ignore[union-attr]
        self.assertNotIn("Take it for parts", [way.name for way in self.ask().ways])  # type: ignore[union-attr]
        self.assertNotContains(self.box(), "For parts")
        self.assertContains(self.client.get(f"/intake/W-{self.unit.number}/"), "our commission of 30 % counts")
        upgrades = self.client.get(f"/workshop/W-{self.unit.number}/upgrades/?budget=60")
        self.assertContains(upgrades, "of which our commission is")
        self.client.get(f"/W-{self.unit.number}/")
        self.decide("parts", "it would bring more")
        self.assertContains(self.client.get(f"/W-{self.unit.number}/"), "not ours to take for parts")
        self.assertFalse(StopDecision.objects.exists())
        self.assertEqual(self.again(self.unit).path, "")


class Decided(Asked):
    def test_going_on_is_kept_and_asked_once_at_the_limit(self):
        job = self.job()
        workshop.start_clock(self.owner, job)
        self.done(self.decide("go"))
        row = StopDecision.objects.get()
        self.assertEqual((row.what, row.of), ("go", f"job:{job.pk}"))
        self.assertIsNotNone(row.ask_at)
        self.assertEqual(bells.bells(), [])
        self.assertEqual(bells.minutes_left(self.owner)[0], self.unit)  # type: ignore[index]
        with clock.at(row.ask_at + timedelta(minutes=1)):  # type: ignore[operator]
            self.assertEqual([bell.words for bell in bells.bells()], ["Fit the keyboard: stop or go?"])
            self.assertTrue(self.ask().asks)  # type: ignore[union-attr]
            self.assertContains(self.box(), "The time you gave it is over")
            self.done(self.decide("go", "one more idea"))
            self.assertEqual(bells.bells(), [])

    def test_nothing_is_asked_of_what_was_finished_or_parked_meanwhile(self):
        job = self.job()
        self.done(self.decide("go"))
        late = clock.at(StopDecision.objects.get().ask_at + timedelta(minutes=1))  # type: ignore[operator]
        with late:
            self.assertEqual(len(bells.bells()), 1)
            workshop.finish_job(self.owner, job, workshop.JobResult("", fitted_original=True))
            self.assertEqual(bells.bells(), [])
            self.job()
            self.done(self.decide("go"))
        with clock.at(StopDecision.objects.latest("pk").ask_at + timedelta(minutes=1)):  # type: ignore[operator]
            self.assertEqual(len(bells.bells()), 1)
            self.done(self.decide("park", "until spring"))
            self.assertEqual(bells.bells(), [])

    def test_stopping_ends_what_is_open_and_sends_it_to_be_sold(self):
        job = self.job()
        workshop.log_labour(self.owner, job, 30)
        idle = self.job(title="Never begun", source="")
        self.done(self.decide("stop", "enough"))
        unit = Unit.objects.get(pk=self.unit.pk)
        self.assertEqual((unit.path, unit.station), (Path.SELL.value, "selling"))
        self.assertIs(self.again(job).worked, False)
        self.assertIsNone(self.again(idle).worked)
        self.assertEqual((self.again(job).never_begun, self.again(idle).never_begun), (False, True))
        self.assertFalse(Job.objects.filter(done_at=None).exists())
        self.assertContains(self.client.get(f"/W-{unit.number}/"), "stop, sell it as it stands: Fit the keyboard")

    def test_what_was_never_begun_was_not_done(self):
        """Neither is the missing thing there, nor a temporary fix on it, nor is a buyer told of any of it."""
        job = self.job()
        given: dict = {"temporary": True, "temporary_reason": "until the part comes", "made_good_by": "a new one"}
        given |= {"made_good_due": clock.today()}
        fix = self.job(title="Bridge the switch", source="", **given)
        missing = Content.objects.get(pk=job.source.partition(":")[2])
        self.done(self.decide("stop", "enough"))
        self.assertEqual(self.again(missing).presence, missing.presence)
        self.assertFalse(self.again(fix).temporary_open)
        self.assertFalse(Job.objects.temporary_open().exists())
        self.assertEqual(listing_facts(self.again(self.unit)).work_done, [])
        self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "Never begun; closed")
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/"), "closed, never begun")
        self.assertContains(self.client.get(f"/W-{self.unit.number}/"), "Job never begun: Fit the keyboard")

    def test_for_parts_and_parked(self):
        self.job()
        self.done(self.decide("parts", "only good for parts"))
        self.assertEqual(Unit.objects.get(pk=self.unit.pk).path, Path.PART_OUT.value)
        self.unit = self.assessed("enhanced")
        self.job(source="")
        self.done(self.decide("park", "until the part is found"))
        self.assertEqual(Unit.objects.get(pk=self.unit.pk).parked, "until the part is found")

    def test_against_the_answer_it_takes_a_reason(self):
        self.job(minutes=5)
        asked = self.ask()
        if asked and asked.answer and asked.answer.goes_on:
            self.decide("stop")
            self.assertFalse(StopDecision.objects.exists())
            self.done(self.decide("stop", "the buyer is here"))
        self.decide("dance")
        self.assertFalse(StopDecision.objects.filter(what="dance").exists())

    def test_a_viewer_decides_nothing(self):
        self.job()
        self.sign_in(self.viewer)
        self.decide("go")
        self.assertFalse(StopDecision.objects.exists())
        self.assertNotContains(self.box(), "For parts <span")
