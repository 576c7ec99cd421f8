"""On which devices somebody is signed in: told to themselves and to an owner, and ended from afar."""

from datetime import timedelta

from django.contrib.sessions.models import Session
from django.test import Client, TestCase
from django.urls import reverse
from django.utils import timezone

from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.people import services, signed_in
from stations.people.models import HistoryEntry, Role
from tests.stations.test_door import person

PHONE = "Some/5.0 (Phone) Mobile Engine/1.0"
DESK = "Some/5.0 (Desk) Engine/1.0"


class SignedIn(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.olga = person("olga", Role.OWNER)
        cls.tom = person("tom", Role.TECHNICIAN)

    def on(self, name: str, agent: str, address: str = "10.0.0.7") -> Client:
        device = Client(headers={"User-Agent": agent}, REMOTE_ADDR=address)
        device.post(reverse("people:sign-in"), {"username": name, "password": f"{name}-sesame"})
        return device

    def is_in(self, device: Client) -> bool:
        return device.get(reverse("people:me")).status_code == 200

    def press(self, device: Client, whose, which: str = ""):
        return device.post(reverse("people:change", args=[whose.pk, "sign-out"]), {"which": which}, follow=True)

    def test_it_is_told_where_since_when_and_from_where(self):
        with clock.at(timezone.now() - timedelta(days=2)):
            self.on("tom", PHONE, "10.0.0.9")
        here = self.on("tom", DESK)
        page = here.get(reverse("people:me"))
        (this, other) = page.context["devices"]
        self.assertEqual((this.device, this.address, this.is_here), ("a computer", "10.0.0.7", True))
        self.assertEqual((other.device, other.address, other.is_here), ("a phone or tablet", "10.0.0.9", False))
        self.assertAlmostEqual(other.since, timezone.now() - timedelta(days=2), delta=timedelta(minutes=1))
        self.assertContains(page, f'value="{other.handle}"')
        self.assertNotContains(page, this.handle)
        for key in Session.objects.values_list("pk", flat=True):
            self.assertNotContains(page, key)

    def test_what_was_not_recorded_is_not_made_up(self):
        self.client.force_login(self.tom)
        session = self.client.session
        del session[signed_in.BEGAN]
        session.save()
        (one,) = signed_in.of(self.tom)
        self.assertEqual((one.device, one.since, one.address), ("", None, ""))
        self.assertContains(self.client.get(reverse("people:me")), "not recorded", 2)
        olga = self.on("olga", DESK)
        self.assertContains(olga.get(reverse("people:person", args=[self.tom.pk])), "Not recorded")

    def test_one_signs_out_what_was_lost_and_goes_on(self):
        lost, here, others = self.on("tom", PHONE), self.on("tom", DESK), self.on("olga", DESK)
        (handle,) = [one.handle for one in signed_in.of(self.tom) if one.device == "a phone or tablet"]
        self.assertRedirects(self.press(here, self.tom, handle), reverse("people:me"))
        self.assertEqual([self.is_in(one) for one in (lost, here, others)], [False, True, True])
        told = HistoryEntry.objects.get(action="people.sign_out")
        self.assertEqual((told.who, told.subject_id), (self.tom, self.tom.pk))
        self.assertIn("on a phone or tablet, since", told.words)
        self.assertContains(self.press(here, self.tom, handle), "is not signed in there any more")

    def test_everywhere_else_at_once(self):
        others, here, olga = [self.on("tom", PHONE) for _ in range(2)], self.on("tom", DESK), self.on("olga", DESK)
        self.press(here, self.tom)
        self.assertEqual([self.is_in(one) for one in (*others, here, olga)], [False, False, True, True])
        self.assertIn("on 2 devices", HistoryEntry.objects.get(action="people.sign_out").words)
        with self.assertRaises(Refused):
            signed_in.sign_out(self.tom, self.tom, here=here.session.session_key)

    def test_an_owner_signs_somebody_out_and_nobody_else_does(self):
        tom, olga = self.on("tom", PHONE), self.on("olga", DESK)
        with self.assertRaises(NotAllowed):
            signed_in.sign_out(self.tom, self.olga)
        self.press(tom, self.olga)
        self.assertTrue(self.is_in(olga))
        page = olga.get(reverse("people:person", args=[self.tom.pk]))
        (one,) = page.context["devices"]
        self.assertRedirects(self.press(olga, self.tom, one.handle), reverse("people:person", args=[self.tom.pk]))
        self.assertEqual([self.is_in(each) for each in (tom, olga)], [False, True])

    def test_what_no_longer_opens_the_door_is_not_told(self):
        self.on("tom", PHONE)
        with clock.at(timezone.now()):
            self.tom.set_password("another-sesame")
            self.tom.save()
        self.assertEqual([*signed_in.of(self.tom)], [])
        self.on("olga", PHONE)
        Session.objects.update(expire_date=timezone.now() - timedelta(seconds=1))
        self.assertEqual([*signed_in.of(self.olga)], [])

    def test_it_is_one_query_however_many_there_are(self):
        for _ in range(signed_in.MOST + 2):
            self.on("tom", PHONE)
        with self.assertNumQueries(1):
            found = signed_in.of(self.tom)
        self.assertEqual((len(found), found.count), (signed_in.MOST, signed_in.MOST + 2))
        here = self.on("tom", DESK)
        self.assertContains(here.get(reverse("people:me")), f"The first {signed_in.MOST} of {signed_in.MOST + 3}")
        self.press(here, self.tom)
        self.assertEqual(signed_in.of(self.tom).count, 1)

    def test_who_is_retired_is_signed_in_nowhere(self):
        tom = self.on("tom", PHONE)
        services.retire(self.olga, self.tom)
        self.assertFalse(self.is_in(tom))
