"""What is wished of a day, what begins in it, and what ends."""

from datetime import time, timedelta
from decimal import Decimal as D

from django.urls import reverse
from django.utils import timezone

from stations.bench.services import start_run
from stations.common.refusals import Refused
from stations.day import services
from stations.day.models import Record, Wish, WorkingHours
from stations.day.selectors import day_view
from stations.people import services as people
from stations.queue.models import QueuedWork
from stations.workshop import services as workshop
from stations.workshop.models import Job
from tests.stations.test_day import DayTest


class Happens(DayTest):
    def planned(self) -> None:
        self.job()
        self.tasks = self.plan()
        self.task = next(task for task in self.tasks if task.title == "Mend the lid")

    def test_what_begins_is_in_hand_and_what_ends_is_learned_from(self):
        self.done(self.post("day:begin", [self.task.pk]))
        record = Record.objects.get()
        self.assertContains(self.look(), "Olga now:" if self.owner.first_name else "now:")
        other = next(task for task in self.tasks if task != self.task)
        with self.assertRaisesMessage(Refused, "in hand"):
            services.begin(self.owner, other)
        with self.assertRaisesMessage(Refused, "begun already"):
            services.begin(self.technician, self.task)
        with self.at(minutes=75):
            self.assertContains(self.look(), "late")
            self.done(self.post("day:end", [record.pk], why="rusted screws"))
            self.assertContains(self.look(), "rusted screws")
            with self.assertRaisesMessage(Refused, "already"):
                services.end(self.owner, self.again(record))
        self.assertEqual((self.again(record).ended_at - record.begun_at), timedelta(minutes=75))

    def test_what_was_begun_or_ended_by_a_slip_is_not(self):
        self.done(self.post("day:begin", [self.task.pk]))
        record = Record.objects.get()
        self.done(self.post("day:not-so", [record.pk, "begun"]))
        self.assertFalse(Record.objects.exists())
        record = services.begin(self.technician, self.task)
        with self.at(minutes=20):
            services.end(self.technician, record, "rusted screws")
            with self.assertRaisesMessage(Refused, "ended already"):
                services.not_begun(self.owner, record)
            other = services.begin(self.technician, next(task for task in self.tasks if task != self.task))
            with self.assertRaisesMessage(Refused, f"{self.technician.name} has {other.title} in hand"):
                services.not_ended(self.technician, record)
            services.not_begun(self.technician, other)
            self.assertContains(self.look(), "Not done")
            self.done(self.post("day:not-so", [record.pk, "ended"]))
            self.assertEqual((self.again(record).ended_at, self.again(record).why_slipped), (None, ""))
            with self.assertRaisesMessage(Refused, "is in hand"):
                services.not_ended(self.technician, record)
        with self.at(days=1), self.assertRaisesMessage(Refused, "on another day"):
            services.not_ended(self.technician, record)
        self.assertEqual(self.post("day:not-so", [record.pk, "done"]).status_code, 404)

    def test_a_promise_and_a_parcel_that_were_settled_by_a_slip_stand_open(self):
        unit = self.task.unit
        row = services.promise(self.owner, unit, self.nine + timedelta(hours=5), "the van", D(12))
        self.done(self.post("day:settle", [row.pk, "broken"]))
        self.assertContains(self.look(), "broken")
        self.done(self.post("day:settle", [row.pk, "open"]))
        self.assertIsNone(self.again(row).kept)
        with self.assertRaisesMessage(Refused, "has another promise by now"):
            services.not_settled(self.owner, row)
        parcel = services.expect(self.owner, self.day, time(11), "latches")
        self.done(self.post("day:came", [parcel.pk]))
        self.assertContains(self.look(), "Not here")
        self.done(self.post("day:came-not", [parcel.pk]))
        self.assertIsNone(self.again(parcel).came_at)

    def test_planning_again_keeps_what_has_begun_and_what_ended(self):
        services.begin(self.technician, self.task)
        with self.at(minutes=50):
            again = {task.code: task for task in self.plan()}
            kept = again[self.task.code]
            self.assertEqual((kept.person, kept.start), (self.technician, self.nine))
            self.assertEqual(kept.why, "goes on")
            services.end(self.technician, Record.objects.get())
            self.assertNotIn(self.task.code, {task.code for task in self.plan()})
            self.assertContains(self.look(), "Mend the lid")

    def test_pinned_to_somebody_at_a_time_and_kept_off(self):
        self.assertContains(self.post("day:wish", [self.task.pk], at="25:00"), "A time of day")
        self.done(self.post("day:wish", [self.task.pk], who=self.technician.pk, at="14:00"))
        pinned = next(task for task in self.plan() if task.code == self.task.code)
        self.assertEqual(
            (pinned.person, timezone.localtime(pinned.start).hour, pinned.pinned), (self.technician, 14, True)
        )
        self.assertEqual(pinned.before, self.task.start)
        page = self.look()
        self.assertContains(page, "pinned to 14:00")
        # The form shows what stands: kept unchanged, it stands.
        self.assertContains(page, 'value="14:00"')
        self.assertContains(page, f'<option value="{self.technician.pk}" selected>', html=False)
        self.done(self.post("day:wish", [pinned.pk], off="on"))
        self.assertNotIn(self.task.code, {task.code for task in self.plan()})
        self.assertContains(self.look(), f"{self.task.title}: kept off this day by {self.owner.name}")
        self.done(self.post("day:wish-no-more", [Wish.objects.get().pk]))
        self.assertIn(self.task.code, {task.code for task in self.plan()})
        self.assertNotContains(self.look(), "kept off this day")
        with self.assertRaisesMessage(Refused, "may not do that"):
            services.wish(self.owner, self.task, self.seller, None)
        services.wish(self.owner, self.task, None, None)
        self.assertFalse(Wish.objects.exists())
        services.begin(self.owner, self.task)
        with self.assertRaisesMessage(Refused, "has begun"):
            services.wish(self.owner, self.task, self.owner, None)

    def test_a_pin_that_no_plan_can_keep_is_seen_and_taken_off(self):
        self.done(self.post("day:wish", [self.task.pk], at="23:00"))
        self.assertNotIn(self.task.code, {task.code for task in self.plan()})
        self.assertContains(self.look(), "pinned at 23:00")
        self.assertContains(self.look(), "this plan has no room for it")
        self.done(self.post("day:wish-no-more", [Wish.objects.get().pk]))
        self.assertIn(self.task.code, {task.code for task in self.plan()})

    def test_a_clock_that_runs_has_its_task_in_hand(self):
        workshop.start_clock(self.technician, Job.objects.get())
        with self.at(minutes=10):
            task = next(task for task in self.plan() if task.code == self.task.code)
            self.assertEqual((task.person, task.start, task.why), (self.technician, self.nine, "goes on"))

    def test_what_somebody_has_in_hand_is_theirs_while_they_are_in(self):
        Job.objects.update(holder=self.technician)
        WorkingHours.objects.filter(person=self.technician).update(begins=time(9, 20))
        mine = next(task for task in self.plan() if task.code == self.task.code)
        self.assertEqual(mine.person, self.technician)
        services.say_day(self.owner, self.technician, self.day, None)
        other = next(task for task in self.plan() if task.code == self.task.code)
        self.assertEqual((other.person, other.why), (self.owner, f"take it over from {self.technician.name}"))

    def test_what_somebody_has_in_hand_is_on_their_page_whoever_has_left(self):
        unit = self.assessed()
        Job.objects.update(holder=self.technician)
        workshop.start_clock(self.technician, Job.objects.get())
        start_run(self.technician, unit)
        people.retire(self.owner, self.technician)
        page = self.client.get(reverse("people:person", args=[self.technician.pk]))
        for words in ("labour clock running since", "job: Mend the lid", "test run 1"):
            self.assertContains(page, words)
        self.assertNotContains(self.client.get(reverse("people:person", args=[self.seller.pk])), "In hand")

    def test_a_job_done_at_its_own_page_is_done_here_too(self):
        workshop.finish_job(self.owner, Job.objects.get(), workshop.JobResult(""))
        row = next(row for row in day_view(self.day).rows if row.title == "Mend the lid")
        self.assertTrue(row.done)

    def test_a_viewer_sees_and_changes_nothing(self):
        self.sign_in(self.viewer)
        self.assertNotContains(self.look(), "Begin</button>")
        for name, args in (("day:begin", [self.task.pk]), ("day:plan", [self.day]), ("day:wish", [self.task.pk])):
            self.post(name, args)
        self.assertFalse(Record.objects.exists() or QueuedWork.objects.exists() or Wish.objects.exists())
