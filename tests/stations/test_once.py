"""A double press does the thing once; two people at once lose nothing."""

from datetime import timedelta
from decimal import Decimal
from types import SimpleNamespace
from unittest.mock import patch

from django.contrib.sessions.models import Session
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpRequest
from django.test import RequestFactory, SimpleTestCase
from django.urls import reverse
from django.utils import timezone

from stations.buying import services as buying
from stations.common.refusals import Refused
from stations.people import screens
from stations.people.models import Person, WriteKey
from stations.people.screens import once
from stations.selling.models import Channel
from stations.stock.models import StockItem
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.models import PartIssue
from stations.workshop.new_job import NewJob
from tests.stations.base import AtOnce, ShopTest, line_data, lot_data


class Pressing(ShopTest):
    def test_twice_does_it_once_and_leads_to_the_same_page(self):
        done = []
        for _ in range(2):
            self.assertEqual(once(self.owner, "k1", lambda: done.append(1) or "/there/"), "/there/")
        self.assertEqual(done, [1])

    def test_the_same_key_with_other_content_is_told_so(self):
        once(self.owner, "k1", lambda: "/there/", content="a")
        self.assertEqual(once(self.owner, "k1", lambda: "/elsewhere/", content="a"), "/there/")
        with self.assertRaisesRegex(Refused, "saved as it was then"):
            once(self.owner, "k1", lambda: "/elsewhere/", content="b")

    def test_through_the_page_what_was_changed_since_stands_in_the_form(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        there = reverse("people:add")
        sent = {"write_key": "k9", "first_name": "Ilse", "username": "ilse", "roles": ["seller"]}
        for _ in range(2):
            self.assertEqual(self.client.post(there, sent).status_code, 302)
        page = self.client.post(there, sent | {"username": "otto", "first_name": "Otto"})
        self.assertContains(page, "This page was sent before")
        self.assertContains(page, 'value="otto"')
        self.assertEqual(Person.objects.filter(username__in=["ilse", "otto"]).count(), 1)

    def test_old_keys_go_when_somebody_signs_in(self):
        once(self.owner, "new", lambda: "/there/")
        once(self.owner, "old", lambda: "/there/")
        WriteKey.objects.filter(key="old").update(done_at=timezone.now() - timedelta(days=31))
        self.client.post(reverse("people:sign-in"), {"username": "olga", "password": "olga-sesame"})
        self.assertEqual(list(WriteKey.objects.values_list("key", flat=True)), ["new"])

    def test_sessions_that_are_over_go_when_somebody_signs_in(self):
        self.client.force_login(self.owner)
        self.client_class().force_login(self.owner)
        over = Session.objects.get(session_key=self.client.session.session_key)
        Session.objects.filter(pk=over.pk).update(expire_date=timezone.now() - timedelta(seconds=1))
        self.client_class().post(reverse("people:sign-in"), {"username": "olga", "password": "olga-sesame"})
        self.assertFalse(Session.objects.filter(pk=over.pk).exists())
        self.assertEqual(Session.objects.count(), 2)

    def test_what_there_may_be_one_of_is_said_when_somebody_was_first(self):
        made = []

        def act():
            made.append(1)
            Channel.objects.create(name="Quay market", fee_percent=0, fee_fixed=0)
            return "/there/"

        with self.assertRaisesRegex(Refused, "same name or number already"):
            once(self.owner, "k5", act)
        self.assertEqual(len(made), 2)

    def test_a_refusal_leaves_the_key_free(self):
        def refuse():
            raise Refused("no")

        with self.assertRaises(Refused):
            once(self.owner, "k2", refuse)
        self.assertFalse(WriteKey.objects.filter(key="k2").exists())
        self.assertEqual(once(self.owner, "k2", lambda: "/there/"), "/there/")

    def test_another_person_cannot_ride_on_a_key(self):
        once(self.owner, "k3", lambda: "/there/")
        with self.assertRaises(Refused):
            once(self.viewer, "k3", lambda: "/elsewhere/")


class TwoAtOnce(AtOnce):
    def setUp(self):
        super().setUp()
        (unit,) = self.receive()
        unit = self.hand().assess(unit)
        self.job = workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair", estimate_minutes=5))

    def pressed(self, act, keys):
        """Press `act` under each key at the same moment."""
        return self.together(*(lambda key=key: once(self.owner, key, act) for key in keys))

    def issue(self, count):
        issuing.issue_part(self.owner, self.job, StockItem.objects.get(pk=self.part.pk), count)
        return "/done/"

    def test_the_last_parts_go_into_one_job(self):
        ends = self.pressed(lambda: self.issue(2), ["a", "b"])
        self.assertEqual(sorted(end[:4] for end in ends), ["/don", "Only"])
        self.assertEqual(StockItem.objects.get(pk=self.part.pk).quantity, 1)

    def test_two_buyers_get_two_lot_numbers(self):
        def record():
            return buying.record_lot(self.owner, lot_data(), [line_data()]).code

        self.assertEqual(sorted(self.pressed(record, ["a", "b", "c"])), ["L-002", "L-003", "L-004"])

    def test_a_double_click_issues_once(self):
        self.assertEqual(self.pressed(lambda: self.issue(1), ["same", "same"]), ["/done/", "/done/"])
        self.assertEqual(PartIssue.objects.count(), 1)
        self.assertEqual(PartIssue.objects.get().cost, Decimal("3.33"))


class SeveralFiles(SimpleTestCase):
    def posted(self, *contents: bytes) -> HttpRequest:
        files = [SimpleUploadedFile("a.png", content, "image/png") for content in contents]
        return RequestFactory().post("/intake/W-101/photos/", {"photos": files})

    def test_for_another_go_every_file_of_a_name_is_at_its_beginning(self):
        request = self.posted(b"one", b"two")
        with patch.object(screens.messages, "get_messages", return_value=SimpleNamespace(_queued_messages=[])):
            again = screens._fresh(request)
        for file in request.FILES.getlist("photos"):
            file.read()
        again()
        self.assertEqual([file.read() for file in request.FILES.getlist("photos")], [b"one", b"two"])

    def test_another_first_file_is_another_page(self):
        one, other = self.posted(b"longer", b"two"), self.posted(b"one", b"two")
        self.assertNotEqual(screens._digest(one), screens._digest(other))
