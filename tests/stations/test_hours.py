"""Where the time went: kinds of work, people, what became of it."""

from datetime import timedelta

from django.urls import reverse

from core.books.hours import Became
from stations.books.hours import hours
from stations.buying.models import Lot
from stations.common import clock
from stations.intake import settling
from stations.units.models import Unit
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.stations.base import ShopTest
from tests.stations.test_periods import days


class WhereTheTimeWent(ShopTest):
    def setUp(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")

    def work(self, unit, kind: str, minutes: int, who=None, estimate: int = 30) -> None:
        """A job that is done, with so many minutes on it."""
        job = workshop.open_job(self.owner, unit, NewJob(f"{kind} it", kind, estimate))
        workshop.log_labour(who or self.owner, job, minutes)
        workshop.finish_job(self.owner, self.again(job), workshop.JobResult("as it should", worked=True))

    def test_by_kind_by_person_and_by_what_became_of_it(self):
        sold, lost = self.proven(), self.assessed()
        self.work(sold, "clean", 60)
        self.work(sold, "repair", 30, self.technician)
        self.work(lost, "clean", 30)
        settling.write_off(self.owner, self.again(lost), "crushed")
        Unit.objects.filter(pk=sold.pk).update(stage="sold")
        found = hours(days(9))
        self.assertEqual(found.minutes, 120)
        self.assertEqual([(one.name, one.minutes) for one in found.kinds], [("clean", 90), ("repair", 30)])
        self.assertEqual([(one.name, one.minutes) for one in found.people], [("Olga", 90), ("Tom", 30)])
        self.assertEqual([(one.name, one.share) for one in found.became], [(Became.SOLD, 0.75), (Became.LOST, 0.25)])
        self.assertEqual([(one.unit, one.minutes) for one in found.units], [(sold, 90), (lost, 30)])
        # Two jobs of 30 that took 60 and 30: the mean ratio √2, drawn to 1 by four as estimated.
        clean = found.kinds[0].took
        self.assertEqual((round(clean.ratio, 4), clean.count), (1.1225, 2))
        page = self.client.get(reverse("books:time"))
        self.assertContains(page, "of 100 minutes 75 at what was sold and")
        self.assertContains(page, "1.1 times")

    def test_minutes_are_of_their_own_day_whatever_day_is_asked(self):
        Lot.objects.update(bought_on=clock.today() - timedelta(days=3))
        job = workshop.open_job(self.owner, self.assessed(), NewJob("Clean it", "clean", 30))
        workshop.log_labour(self.owner, job, 25, clock.today() - timedelta(days=1))
        workshop.log_labour(self.owner, job, 5)
        self.assertEqual([hours(days(0)).minutes, hours(days(1, 1)).minutes, hours(days(1)).minutes], [5, 25, 30])
        self.assertIsNone(hours(days(1)).kinds[0].took)
        self.assertContains(self.client.get(reverse("books:time")), "none done")

    def test_without_minutes_it_says_so_and_a_wrong_day_is_said(self):
        page = self.client.get(reverse("books:time"), {"first": "2026-02-30"})
        self.assertContains(page, "No minutes are on record in these days.")
        self.assertIn("first", page.context["form"].errors)

    def test_it_asks_no_more_however_much_was_worked(self):
        self.work(self.assessed(), "clean", 10)
        self.client.get(reverse("books:time"))
        with self.assertNumQueries(ASKED):
            self.client.get(reverse("books:time"))
        for who in (self.owner, self.technician):
            self.work(self.assessed(), "repair", 10, who)
        with self.assertNumQueries(ASKED):
            self.client.get(reverse("books:time"))


# With what every page asks.
ASKED = 13
