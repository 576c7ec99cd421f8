"""A list that shows only the first of what there is says so."""

from unittest.mock import patch

from django.urls import reverse

from stations.catalogue.models import SerialPattern
from stations.common.paging import first_of
from stations.workshop import services as workshop
from stations.workshop import table
from stations.workshop.models import Job
from stations.workshop.new_job import NewJob
from tests.stations.base import ShopTest


class FirstOf(ShopTest):
    def wait(self, count: int) -> None:
        unit = self.assessed()
        for number in range(count):
            data = NewJob(title=f"Belt {number}", kind="repair", waiting_for="a belt")
            workshop.open_job(self.owner, unit, data)

    def test_it_counts_only_where_something_is_left_out(self):
        self.wait(3)
        jobs = Job.objects.order_by("pk")
        for most, queries, cut in ((2, 2, True), (3, 1, False), (9, 1, False)):
            with self.assertNumQueries(queries):
                some = first_of(jobs, most)
            self.assertEqual((len(some), some.count, some.cut), (min(most, 3), 3, cut))
        self.assertEqual(list(some), list(jobs))
        self.assertFalse(first_of(jobs.none(), 5))

    def test_the_workshop_says_how_much_waits_besides(self):
        self.wait(3)
        self.client.force_login(self.technician)
        page = reverse("workshop:workshop")
        self.assertNotContains(self.client.get(page), "The first")
        with patch.object(table, "MOST", 2):
            self.assertContains(self.client.get(page), "The first 2 of 3 jobs.")

    def test_how_makers_number_has_pages(self):
        SerialPattern.objects.bulk_create(
            SerialPattern(maker="Tessaly", pattern=rf"TS-(?P<sequence>\d+)-{number:03}") for number in range(60)
        )
        self.client.force_login(self.owner)
        page = reverse("catalogue:numbering")
        self.assertNotContains(self.client.get(page), "-059")
        self.assertContains(self.client.get(page, {"patterns": 2}), "-059")
