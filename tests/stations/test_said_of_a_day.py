"""What people say of a day: hours, promises, parcels; what was said and did not come."""

from dataclasses import replace
from datetime import UTC, date, time, timedelta
from unittest.mock import patch

from django.db import IntegrityError, transaction
from django.urls import reverse

from stations.common import clock
from stations.common.details import as_kept
from stations.common.refusals import NotAllowed
from stations.day import gather, selectors, services
from stations.day.models import Arrival, HoursOfDay, Promise, WorkingHours
from stations.people import shop_settings
from stations.people.models import HistoryEntry, Person
from tests.stations.test_day import DayTest


class Said(DayTest):
    """Hours, promises and parcels."""

    def test_hours_as_they_are_typed(self):
        asked = {"person": self.technician.pk, "days": ["0", "1"], "begins": "08:30", "ends": "16:00"}
        self.done(self.post("day:hours", **asked))
        row = WorkingHours.objects.get(person=self.technician, weekday=1)
        self.assertEqual((row.begins, row.ends, row.break_from), (time(8, 30), time(16), None))
        for change, words in (
            ({"days": []}, "On which days?"),
            ({"ends": ""}, "Both, from and to"),
            ({"ends": "08:00"}, "In order: begin, break, end"),
            ({"break_from": "12:00"}, "A break has a begin and an end"),
            ({"begins": "8 o’clock"}, "A time of day"),
        ):
            self.assertContains(self.post("day:hours", **asked | change), words)
        self.done(self.post("day:hours", person=self.technician.pk, days=["1"]))
        self.assertFalse(WorkingHours.objects.filter(person=self.technician, weekday=1).exists())
        self.sign_in(self.technician)
        self.assertContains(self.post("day:hours", **asked | {"person": self.owner.pk}), "Only an owner")

    def test_who_is_out_is_not_planned_and_closing_ends_the_day(self):
        self.done(self.post("day:one-day", person=self.technician.pk, on=self.day.isoformat()))
        self.assertEqual(set(gather.workers_of(self.day)), {self.owner.pk})
        page = self.client.get(reverse("day:hours"))
        self.assertContains(page, f"As usual: {self.technician.name}")
        self.done(self.post("day:as-usual", [HoursOfDay.objects.get().pk]))
        self.assertEqual(set(gather.workers_of(self.day)), {self.owner.pk, self.technician.pk})
        row = shop_settings.settings()
        said = as_kept(shop_settings.SettingsDetails, row)
        shop_settings.change_settings(self.owner, row.version, replace(said, closes_at=time(15)))
        self.assertEqual(gather.workers_of(self.day)[self.owner.pk][1][-1][1], 15 * 60)

    def test_a_day_with_hours_of_its_own(self):
        """Only until noon, or on a day that is usually off."""
        asked = {"person": self.technician.pk, "on": self.day.isoformat(), "begins": "09:00", "ends": "12:30"}
        self.done(self.post("day:one-day", **asked))
        self.assertEqual(gather.workers_of(self.day)[self.technician.pk][1], ((540, 750),))
        asked |= {"break_from": "10:00", "break_until": "11:00"}
        self.done(self.post("day:one-day", **asked))
        self.done(self.post("day:one-day", **asked | {"write_key": ""}))
        self.assertEqual(gather.workers_of(self.day)[self.technician.pk][1], ((540, 600), (660, 750)))
        self.assertContains(self.client.get(reverse("day:hours")), "break 10:00–11:00")
        said = HistoryEntry.objects.filter(action="day.say_day").values_list("words", flat=True)
        self.assertEqual(len(said), 2)
        self.assertIn("in 09:00 to 12:30, away 10:00 to 11:00", said[1])
        off = self.day + timedelta(days=(5 - self.day.weekday()) % 7 or 7)
        WorkingHours.objects.filter(weekday=off.weekday()).delete()
        self.assertEqual(gather.workers_of(off), {})
        self.done(self.post("day:one-day", **asked | {"on": off.isoformat()}))
        self.assertEqual(set(gather.workers_of(off)), {self.technician.pk})
        for change, words in (
            ({"on": ""}, "On which day?"),
            ({"ends": ""}, "Both, from and to"),
            ({"ends": "08:00"}, "In order: begin, break, end"),
            ({"break_until": ""}, "A break has a begin and an end"),
        ):
            self.assertContains(self.post("day:one-day", **asked | change), words)
        Person.objects.filter(pk=self.technician.pk).update(is_active=False)
        self.assertEqual(gather.workers_of(off), {})

    def test_of_others_only_an_owner_says_so(self):
        services.say_day(self.owner, self.owner, self.day, None)
        row = HoursOfDay.objects.get()
        self.sign_in(self.technician)
        self.assertNotContains(self.client.get(reverse("day:hours")), "As usual:")
        for act in (
            lambda: services.say_day(self.technician, self.owner, self.day, None),
            lambda: services.as_usual(self.technician, row),
        ):
            with self.assertRaises(NotAllowed):
                act()
        services.say_day(self.technician, self.technician, self.day, None)
        self.assertContains(self.client.get(reverse("day:hours")), "As usual:")

    def test_the_database_keeps_the_hours_of_a_day_in_order(self):
        at = {"person": self.technician, "day": self.day}
        for wrong in ({"begins": time(9)}, {"begins": time(9), "ends": time(8)}, {"break_from": time(9)}):
            with self.assertRaises(IntegrityError), transaction.atomic():
                HoursOfDay.objects.create(**at, **wrong)

    def test_of_many_promises_and_parcels_all_are_counted(self):
        for number, unit in enumerate(self.units[:2]):
            asked = {"unit": f"W-{unit.number:04}", "what": "the van", "by": f"1{number + 5}:00", "price": "12"}
            self.done(self.post("day:promise", [self.day], **asked))
        for days in (1, 2):
            Arrival.objects.create(day=clock.today() - timedelta(days=days), at=time(9), words="belts")
        with patch.object(selectors, "MOST", 1):
            self.assertContains(self.client.get(reverse("day:day", args=[self.day])), "The first 1 of 2 promises.")
            self.assertContains(self.client.get(reverse("day:today"), follow=True), "The first 1 of 2 late ones.")
        self.assertNotContains(self.client.get(reverse("day:day", args=[self.day])), "of 2 promises")

    def test_a_promise_binds_and_is_settled(self):
        self.job()
        number = self.units[0].number
        asked = {"unit": f"W-{number:04}", "what": "the van", "by": "16:00", "price": "12"}
        self.done(self.post("day:promise", [self.day], **asked))
        promise = Promise.objects.get()
        task = next(one for one in gather.gather(self.day).problem.tasks if one.unit == number)
        self.assertEqual((task.promised, task.price), (16 * 60, 1200))
        self.assertContains(self.post("day:promise", [self.day], **asked), "has a promise already")
        for change, words in (
            ({"unit": "W-9999"}, "There is no unit"),
            ({"by": "08:00"}, "That time is over"),
            ({"what": ""}, "Say what was promised"),
            ({"price": "-1"}, "0"),
        ):
            self.assertContains(self.post("day:promise", [self.day], **asked | change), words)
        page = self.client.get(reverse("day:day", args=[self.day]))
        self.assertContains(page, "the van")
        self.assertNotContains(page, "late</span>")
        self.assertContains(self.client.get(reverse("floor:unit", args=[number])), "Promised: the van")
        self.plan()
        page = self.client.get(reverse("day:day", args=[self.day]))
        self.assertEqual(len(page.context["drawn"].promises), 1)
        self.assertContains(page, " to spare")
        self.done(self.post("day:settle", [promise.pk, "kept"]))
        self.assertTrue(self.again(promise).kept)
        page = self.client.get(reverse("day:day", args=[self.day]))
        self.assertNotContains(page, "if broken")
        self.assertContains(page, "Not so: the van")

    def test_a_promise_or_a_parcel_of_a_day_before_stands_out_until_somebody_says_what_came_of_it(self):
        number = self.units[0].number
        asked = {"unit": f"W-{number:04}", "what": "the van", "by": "16:00", "price": "12"}
        self.done(self.post("day:promise", [self.day], **asked))
        self.done(self.post("day:expect", [self.day], what="feet", at="11:00"))
        later = clock.begin_of(self.day + timedelta(days=2)) + timedelta(hours=9)
        with clock.at(later):
            page = self.client.get(reverse("day:day", args=[clock.today()]))
            for words in ("the van", "feet"):
                self.assertContains(page, words)
            self.assertContains(page, "late</span>", 2)
            for other in (self.day + timedelta(days=1), self.day + timedelta(days=3)):
                self.assertNotContains(self.client.get(reverse("day:day", args=[other])), "the van")
            self.assertContains(self.client.get(reverse("day:bells")), "the van: promised")
            self.assertContains(self.client.get(reverse("floor:unit", args=[number])), "late")
            self.done(self.post("day:came", [Arrival.objects.get().pk]))
            self.done(self.post("day:settle", [Promise.objects.get().pk, "broken"]))
            page = self.client.get(reverse("day:day", args=[clock.today()]))
            self.assertNotContains(page, "late</span>")
            self.assertNotContains(self.client.get(reverse("day:bells")), "the van: promised")

    def test_the_clock_on_the_wall_also_where_a_day_has_an_hour_more_or_less(self):
        for day in (date(2026, 3, 29), date(2026, 10, 25), date(2026, 6, 1)):
            for minute in (0, 5 * 60, 16 * 60, 24 * 60 - 1, 25 * 60):
                moment = gather.moment_of(minute, day)
                self.assertEqual(gather.minute_of(moment.astimezone(UTC), day), minute, (day, minute))
            begin, end = clock.span_of(day)
            self.assertEqual((clock.day_of(begin), clock.day_of(end - timedelta(seconds=1))), (day, day))

    def test_a_parcel_lets_its_job_begin_when_it_comes(self):
        self.job(waiting_for="feet", waiting_until=self.day)
        self.done(self.post("day:expect", [self.day], what="feet", at="11:00"))
        number = self.units[0].number
        task = next(one for one in gather.gather(self.day).problem.tasks if one.unit == number)
        self.assertEqual(task.earliest, 11 * 60)
        self.assertContains(self.look(), "11:00 feet")
        self.done(self.post("day:came", [Arrival.objects.get().pk]))
        task = next(one for one in gather.gather(self.day).problem.tasks if one.unit == number)
        self.assertLess(task.earliest, 11 * 60)
        self.assertContains(self.post("day:expect", [self.day], what="", at="11:00"), "Say what comes")

    def test_days_that_are_none(self):
        self.assertEqual(self.client.get("/day/2026-13-40/").status_code, 404)
        self.assertEqual(self.client.get("/day/?day=nonsense").status_code, 302)
