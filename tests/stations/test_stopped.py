"""What of the house itself has stopped is told on the floor: to those who can do something about it, and no longer than
it lasts."""

import shutil
from datetime import timedelta
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch

from django.core.management import call_command
from django.urls import reverse
from django.utils import timezone

from stations.backup import kept
from stations.common import clock
from stations.common.details import as_kept
from stations.dispatch import terms
from stations.people import history, stopped
from stations.people.models import HistoryEntry
from stations.queue import services as queue
from stations.queue.models import QueuedWork, WorkerSeen
from stations.selling.models import Channel
from tests.stations.test_through_the_pages import Through

SOON, LATE = stopped.SILENT - timedelta(minutes=1), stopped.SILENT + timedelta(minutes=1)


class OnTheFloor(Through):
    def scene(self) -> None:
        super().scene()
        self.now = timezone.now()

    def floor(self, who=None, after: timedelta = timedelta(0)) -> str:
        self.sign_in(who or self.owner)
        with clock.at(self.now + after):
            return " ".join(one.words for one in self.client.get("/").context["stopped"])

    def given_up(self, ended: timedelta = timedelta(0), **about) -> QueuedWork:
        row = queue.put("make a backup", about)
        QueuedWork.objects.filter(pk=row.pk).update(state="failed", ended_at=self.now + ended, error="No ink.")
        return self.again(row)

    def test_no_worker_asks_for_work(self):
        with clock.at(self.now):
            queue.note_worker()
            queue.note_worker()
        self.assertEqual(WorkerSeen.objects.count(), 1)
        self.assertNotIn("background", self.floor(after=SOON))
        for who in (self.owner, self.viewer):
            self.assertIn("Nothing is done in the background since", self.floor(who, LATE))
        with clock.at(self.now + LATE):
            queue.note_worker()
        self.assertNotIn("background", self.floor(after=LATE))

    def test_where_none_was_ever_seen_what_waits_says_it(self):
        self.assertNotIn("background", self.floor(after=LATE))
        with clock.at(self.now):
            queue.put("make a backup", {})
        self.assertNotIn("background", self.floor(after=SOON))
        self.assertIn("Nothing is done in the background", self.floor(after=LATE))

    def test_one_that_is_long_at_one_thing_is_no_dead_one(self):
        with clock.at(self.now):
            queue.note_worker()
            queue.put("make a backup", {})
            queue.claim("w")
        self.assertIn("The background is at “make a backup” since", self.floor(after=LATE))

    def test_a_worker_is_seen(self):
        ended = patch.object(queue, "work_once", side_effect=KeyboardInterrupt)
        with ended, patch("signal.signal"), self.assertRaises(KeyboardInterrupt):
            call_command("work")
        self.assertLess(timezone.now() - WorkerSeen.objects.get().at, timedelta(minutes=1))

    def test_what_was_given_up_until_it_is_done_or_not_wanted(self):
        first = self.given_up(about=1)
        self.given_up(timedelta(minutes=1), about=2)
        self.assertIn("Given up in the background: make a backup", told := self.floor())
        self.assertIn("No ink. 1 more.", told)
        self.assertNotIn("Given up", self.floor(self.technician))
        # Asked for anew, and done: that it once failed is nothing to see to.
        again = queue.put("make a backup", {"about": 2})
        QueuedWork.objects.filter(pk=again.pk).update(state="done", ended_at=self.now + timedelta(minutes=2))
        self.assertNotIn("1 more", self.floor())
        self.done(self.post("queue:leave", [first.pk]))
        self.assertFalse(QueuedWork.objects.filter(pk=first.pk).exists())
        self.assertEqual(HistoryEntry.objects.latest("pk").words, "Given up for good: make a backup. No ink.")
        self.assertNotIn("Given up", self.floor())

    def test_only_an_owner_says_that_it_is_not_wanted_and_once(self):
        row = self.given_up()
        self.sign_in(self.viewer)
        self.post("queue:leave", [row.pk])
        self.assertTrue(self.again(row).given_up)
        self.sign_in(self.owner)
        queue.try_again(self.owner, row)
        page = self.post("queue:leave", [row.pk], follow=True)
        self.assertContains(page, "tried it again already")

    def test_a_marketplace_is_silent(self):
        channel = Channel.objects.create(
            name="Sound market", kind="market", address="http://127.0.0.1:1", trouble_since=self.now, trouble="Silent."
        )
        self.assertNotIn("Sound market", self.floor(after=SOON))
        self.assertIn("Sound market has not answered since", self.floor(self.seller, LATE))
        self.assertNotIn("Sound market", self.floor(self.viewer, LATE))
        self.assertContains(self.client.get("/"), "Next up")
        # That reading it was given up is the same once more: it is read again by itself.
        row = queue.put("read a channel", {"channel": channel.pk})
        QueuedWork.objects.filter(pk=row.pk).update(state="failed", ended_at=self.now)
        self.assertNotIn("Given up", self.floor(after=LATE))
        Channel.objects.filter(pk=channel.pk).update(in_use=False)
        self.assertNotIn("Sound market", self.floor(after=LATE))

    def test_of_many_silent_ones_three_are_named_and_the_others_counted(self):
        for number in range(5):
            Channel.objects.create(
                name=f"Market {number}",
                kind="market",
                address="http://127.0.0.1:1",
                trouble_since=self.now,
                trouble="-",
            )
        told = self.floor(after=LATE)
        self.assertEqual(told.count("has not answered since"), 3)
        self.assertIn("2 more have not answered.", told)

    def test_the_clock_of_the_machine_went_back(self):
        self.assertNotIn("clock of this machine", self.floor())
        with clock.at(self.now + timedelta(days=2)):
            history.record(self.owner, "test.act", HistoryEntry.Subject.SHOP, 0, "Something")
        self.assertIn("The clock of this machine says", self.floor(self.viewer))
        # Set right, one entry later nothing is said any more.
        history.record(self.owner, "test.act", HistoryEntry.Subject.SHOP, 0, "Something")
        self.assertNotIn("clock of this machine", self.floor())

    def test_little_room_is_left(self):
        full = shutil.disk_usage("/")._replace(free=kept.LITTLE - 1)
        with patch("shutil.disk_usage", return_value=full):
            self.assertIn("Only 1,023 MB are free at", self.floor())
            self.assertNotIn("MB are free", self.floor(self.technician))
        with patch("shutil.disk_usage", return_value=full._replace(free=kept.LITTLE)):
            self.assertNotIn("MB are free", self.floor())
        # A disk that went away takes nothing else with it.
        with patch("shutil.disk_usage", side_effect=OSError("stale")):
            self.assertNotIn("MB are free", self.floor())

    def test_labels_wait_for_a_printer_that_is_off(self):
        with TemporaryDirectory() as folder, self.settings(LABEL_PRINTER=folder):
            self.assertNotIn("label", self.floor(after=LATE))
            for name in ("a", "b"):
                Path(folder, f"{name}.svg").write_text("<svg/>")
            self.assertNotIn("label", self.floor(after=SOON))
            self.assertIn("2 labels wait for the label printer, since", self.floor(after=LATE))
            self.assertNotIn("label", self.floor(self.viewer, LATE))
            Path(folder, "b.svg").unlink()
            self.assertIn("1 label waits", self.floor(after=LATE))
        with self.settings(LABEL_PRINTER=f"{folder}/gone"):
            self.assertNotIn("label", self.floor(after=LATE))

    def test_what_buyers_are_promised_is_asked_once_something_is_on_offer(self):
        says = "Nobody said yet what buyers are promised (warranty: 0 to 180 days, by grade; given back"
        self.assertNotIn(says, self.floor())
        self.listed()
        self.assertIn(says, self.floor())
        self.assertNotIn(says, self.floor(self.seller))
        row = terms.terms()
        terms.change_terms(self.owner, row.version, as_kept(terms.TermsDetails, row))
        self.assertNotIn(says, self.floor())

    def test_where_it_is_seen_to(self):
        self.given_up()
        self.sign_in(self.owner)
        self.assertContains(self.client.get("/"), f'<a href="{reverse("queue:queue")}">Look at it</a>')
