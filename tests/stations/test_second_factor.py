"""Besides a password a code of the minute: begun with a phone, asked for at the door, used once, and lost."""

import re
from datetime import timedelta
from io import StringIO
from unittest import mock

import pyotp
from axes.models import AccessAttempt
from django.core.management import call_command
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.people import second_factor, services
from stations.people.models import HistoryEntry, Role, SecondFactor, SpareCode
from tests.stations.base import AtOnce
from tests.stations.test_door import person

SECRET = pyotp.random_base32()


def shown(in_s: int = 30) -> str:
    """What the phone shows then: the next code is good already, whenever a test is run, and that of now was used to
    begin."""
    return pyotp.TOTP(SECRET).at(int(clock.now().timestamp()) + in_s)


class SecondFactorTest(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.olga = person("olga", Role.OWNER)
        cls.tom = person("tom", Role.TECHNICIAN)

    def begun(self, whose=None) -> list[str]:
        return second_factor.begin(whose or self.olga, SECRET, shown(0))


class AtTheDoor(SecondFactorTest):
    def setUp(self):
        self.spare = self.begun()

    def password(self, client=None, **more):
        sent = {"username": "olga", "password": "olga-sesame", **more}
        return (client or self.client).post(reverse("people:sign-in"), sent)

    def code(self, typed, client=None):
        return (client or self.client).post(reverse("people:code"), {"code": typed})

    def is_in(self, client=None) -> bool:
        return "_auth_user_id" in (client or self.client).session

    def test_a_password_alone_opens_nothing(self):
        self.assertRedirects(self.password(next="/intake/"), reverse("people:code"))
        self.assertFalse(self.is_in())
        self.assertEqual(self.client.get("/intake/").status_code, 302)
        self.assertContains(self.client.get(reverse("people:code")), "Six figures from your phone")
        self.assertContains(self.code("123456"), "That code is wrong", status_code=422)
        self.assertContains(self.code(""), "Type the code.", status_code=422)
        self.assertContains(self.code("一二三四五六"), "That code is wrong", status_code=422)
        code = shown()
        self.assertRedirects(self.code(f"{code[:3]} {code[3:]}"), "/intake/", fetch_redirect_response=False)
        self.assertTrue(self.is_in())
        self.assertRedirects(self.client.get(reverse("people:code")), "/", fetch_redirect_response=False)

    def test_who_has_none_is_asked_for_none(self):
        answer = self.client.post(reverse("people:sign-in"), {"username": "tom", "password": "tom-sesame"})
        self.assertRedirects(answer, "/", fetch_redirect_response=False)

    def test_a_code_is_good_once(self):
        code, other = shown(), self.client_class()
        self.password()
        self.code(code)
        self.password(other)
        self.assertContains(self.code(code, other), "was used already", status_code=422)
        self.assertFalse(self.is_in(other))

    def test_a_spare_code_is_good_once(self):
        self.password()
        self.code(self.spare[0].upper())
        self.assertTrue(self.is_in())
        self.assertEqual(second_factor.left(self.olga), 7)
        other = self.client_class()
        self.password(other)
        self.assertEqual(self.code(self.spare[0], other).status_code, 422)
        self.code(self.spare[1].replace("-", " "), other)
        self.assertTrue(self.is_in(other))

    def test_codes_are_tried_no_oftener_than_passwords(self):
        self.password()
        answers = [self.code("000000").status_code for _ in range(6)]
        self.assertEqual(answers[:4], [422] * 4)
        self.assertEqual(answers[4:], [429, 429])
        self.assertEqual(self.code(shown()).status_code, 429)
        # Nor is the password that was right a way around it.
        self.assertEqual(self.password().status_code, 429)
        AccessAttempt.objects.update(attempt_time=timezone.now() - timedelta(minutes=5, seconds=1))
        self.password()
        self.code(shown())
        self.assertTrue(self.is_in())

    def test_it_waits_for_five_minutes_and_for_the_same_password(self):
        self.password()
        with mock.patch.object(clock, "now", return_value=clock.now() + timedelta(minutes=6)):
            self.assertRedirects(self.code(shown()), reverse("people:sign-in"))
        self.assertRedirects(self.code(shown()), reverse("people:sign-in"))
        self.password()
        self.olga.set_password("another-sesame")
        self.olga.save()
        self.assertRedirects(self.code(shown()), reverse("people:sign-in"))
        self.assertRedirects(self.client_class().get(reverse("people:code")), reverse("people:sign-in"))

    def test_taken_away_while_somebody_stands_at_the_door(self):
        self.password()
        second_factor.take_away(self.olga, self.olga)
        self.code("000000")
        self.assertTrue(self.is_in())

    def test_a_one_time_address_is_no_way_around_it(self):
        page = self.client.get(services.one_time_address(self.olga), follow=True)
        sent = {"new_password1": "halyard-and-cleat", "new_password2": "halyard-and-cleat"}
        page = self.client.post(page.redirect_chain[-1][0], sent, follow=True)
        self.assertContains(page, "Your password is chosen. Sign in with it.")
        self.assertFalse(self.is_in())
        self.assertRedirects(self.password(password="halyard-and-cleat"), reverse("people:code"))


class OnesOwn(SecondFactorTest):
    def setUp(self):
        self.client.force_login(self.tom, backend="django.contrib.auth.backends.ModelBackend")
        self.there = reverse("people:second-factor")

    def post(self, **sent):
        return self.client.post(self.there, {"write_key": "", **sent}, follow=True)

    def test_begun_changed_and_ended(self):
        page = self.client.get(self.there)
        secret = page.context["secret"]
        self.assertContains(page, f"{secret[:4]} {secret[4:8]}")
        self.assertContains(page, "<svg")
        self.assertEqual(self.client.get(self.there).context["secret"], secret)
        self.assertContains(self.post(code="000000"), "That is not what the phone shows now", status_code=422)
        page = self.post(code=pyotp.TOTP(secret).now())
        spare = re.findall(r"<li>([a-z0-9]{5}-[a-z0-9]{5})</li>", page.content.decode())
        self.assertEqual(len(spare), 8)
        self.assertContains(page, "8 spare codes left")
        page = self.client.get(self.there)
        self.assertNotContains(page, spare[0])
        self.assertNotContains(page, secret[:4])
        self.assertNotIn(spare[0].replace("-", ""), str(list(SpareCode.objects.values())))
        page = self.post(code=spare[0], act="codes")
        self.assertContains(page, "8 spare codes left")
        self.assertNotContains(page, spare[1])
        self.assertContains(self.post(code=spare[1], act="end"), "That code is wrong", status_code=422)
        (new, *_) = re.findall(r"<li>([a-z0-9]{5}-[a-z0-9]{5})</li>", page.content.decode())
        self.assertContains(self.post(code=new, act="end"), "Your password is enough.")
        self.assertFalse(SecondFactor.objects.exists())
        told = HistoryEntry.objects.order_by("-pk").values_list("words", flat=True)[:3]
        self.assertEqual(
            list(told),
            [
                "Wants no second factor at sign-in any more",
                "Other spare codes for the second factor",
                "Asked for a second factor at sign-in",
            ],
        )

    def test_at_a_screen_left_open_codes_and_passwords_are_tried_as_often_as_at_the_door(self):
        self.begun(self.tom)
        answers = [self.post(code="000000", act="end").status_code for _ in range(6)]
        self.assertEqual(answers, [422] * 4 + [429] * 2)
        self.assertContains(self.post(code=shown(), act="end"), "for five minutes", status_code=429)
        self.assertTrue(SecondFactor.objects.exists())
        self.assertEqual(self.client.get(self.there).status_code, 200)
        AccessAttempt.objects.all().delete()
        self.assertContains(self.post(code=shown(), act="end"), "Your password is enough.")
        there = reverse("people:password")
        new = {"new_password1": "a harbour at dusk", "new_password2": "a harbour at dusk"}
        # What is wrong with the new one is no try at the old one.
        short = new | {"new_password1": "x"}
        answers = [self.client.post(there, {"old_password": "tom-sesame", **short}).status_code for _ in range(6)]
        self.assertEqual(set(answers), {200})
        answers = [self.client.post(there, {"old_password": "guessed", **new}).status_code for _ in range(6)]
        self.assertEqual(answers, [200] * 4 + [429] * 2)
        self.assertEqual(self.client.post(there, {"old_password": "tom-sesame", **new}).status_code, 429)
        AccessAttempt.objects.all().delete()
        self.assertRedirects(self.client.post(there, {"old_password": "tom-sesame", **new}), reverse("people:me"))

    def test_an_owner_takes_it_away_and_nobody_else_does(self):
        self.begun(self.tom)
        with self.assertRaises(NotAllowed):
            second_factor.take_away(self.tom, self.tom)
        self.client.force_login(self.olga, backend="django.contrib.auth.backends.ModelBackend")
        here = reverse("people:person", args=[self.tom.pk])
        self.assertContains(self.client.get(here), "Take the second factor away")
        page = self.client.post(reverse("people:change", args=[self.tom.pk, "no-second-factor"]), follow=True)
        self.assertNotContains(page, "Take the second factor away")
        self.assertContains(page, "Second factor taken away: a password is enough")
        with self.assertRaisesRegex(Refused, "has no second factor"):
            second_factor.take_away(self.olga, self.tom)

    def test_the_only_owner_gets_back_in_at_the_machine(self):
        self.begun()
        call_command("one_time_address", "olga", stdout=StringIO())
        self.assertIsNotNone(second_factor.of(self.olga))
        call_command("one_time_address", "olga", "--no-second-factor", stdout=StringIO())
        self.assertIsNone(second_factor.of(self.olga))
        self.assertEqual(HistoryEntry.objects.latest("pk").words, "Second factor taken away at the machine")

    def test_begun_twice_is_begun_once(self):
        self.begun()
        with self.assertRaisesRegex(Refused, "There is one already"):
            self.begun()
        self.assertEqual(SpareCode.objects.filter(person=self.olga).count(), 8)

    def test_what_a_phone_reads_off(self):
        read = pyotp.parse_uri(second_factor.address(self.tom, SECRET))
        self.assertEqual((read.secret, read.name, read.issuer), (SECRET, "tom", "Workshop"))
        self.assertEqual((read.digits, read.interval, read.digest().name), (6, 30, "sha1"))


class AtTwoDoors(AtOnce):
    def test_one_code_opens_one(self):
        second_factor.begin(self.owner, SECRET, shown(0))
        code = shown()
        ends = self.together(*[lambda: second_factor.passes(self.owner, code)] * 3)
        self.assertEqual(sorted(ends), [False, False, True])
