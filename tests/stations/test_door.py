"""The door: how often a password may be tried, who is believed to be where, and the people of the shop."""

import re
from datetime import timedelta
from io import StringIO
from ipaddress import ip_network

from axes.models import AccessAttempt
from django.core.management import CommandError, call_command
from django.db import transaction
from django.test import RequestFactory, SimpleTestCase, TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from stations.people import services
from stations.people.door import address_of
from stations.people.models import HistoryEntry, Person, PersonRole, Role
from tests.stations.base import AtOnce, person
from tests.stations.test_every_address import offers

PROXY = "10.0.0.1"
BEHIND = override_settings(TRUSTED_PROXIES=[ip_network("10.0.0.0/24")])


class WhoIsWhere(SimpleTestCase):
    def seen(self, remote: str, forwarded: str | None = None) -> str | None:
        headers = {} if forwarded is None else {"HTTP_X_FORWARDED_FOR": forwarded}
        return address_of(RequestFactory().get("/", REMOTE_ADDR=remote, **headers))

    def test_a_header_from_nobody_we_know_is_not_believed(self):
        self.assertEqual(self.seen("203.0.113.9", "198.51.100.7"), "203.0.113.9")

    @BEHIND
    def test_the_proxy_is_believed_about_the_next_and_no_further(self):
        self.assertEqual(self.seen(PROXY, "198.51.100.7"), "198.51.100.7")
        self.assertEqual(self.seen(PROXY, "192.0.2.66, 198.51.100.7"), "198.51.100.7")
        self.assertEqual(self.seen(PROXY, "198.51.100.7, 10.0.0.2"), "198.51.100.7")
        self.assertEqual(self.seen("203.0.113.9", "198.51.100.7"), "203.0.113.9")
        for nonsense in ("", "unknown", "x" * 5000, "198.51.100.7, <b>"):
            self.assertEqual(self.seen(PROXY, nonsense), PROXY)

    def test_an_ipv6_visitor_counts_as_the_network_he_has_for_himself(self):
        self.assertEqual(self.seen("2001:db8:1:2:3:4:5:6"), "2001:db8:1:2::")
        self.assertEqual(self.seen("::ffff:203.0.113.9"), "203.0.113.9")

    def test_without_an_address_nobody_breaks(self):
        self.assertIsNone(self.seen(""))


@BEHIND
class Throttled(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.olga = person("olga", Role.OWNER)

    def try_(self, name="olga", password="wrong", visitor="198.51.100.7", **more):
        return self.client.post(
            reverse("people:sign-in"),
            {"username": name, "password": password},
            REMOTE_ADDR=PROXY,
            HTTP_X_FORWARDED_FOR=visitor,
            **more,
        )

    def test_a_stranger_behind_the_same_proxy_locks_nobody_out(self):
        answers = [self.try_(visitor="203.0.113.66").status_code for _ in range(6)]
        self.assertEqual(answers[4:], [429, 429])
        self.assertEqual(self.try_(password="olga-sesame", visitor="203.0.113.66").status_code, 429)
        self.assertEqual(self.try_(password="olga-sesame").status_code, 302)

    def test_a_header_written_by_the_visitor_opens_nothing(self):
        for made_up in range(6):
            answer = self.try_(visitor=f"192.0.2.{made_up}, 203.0.113.66")
        self.assertEqual(answer.status_code, 429)

    def test_many_names_from_one_address_are_slowed(self):
        answers = [self.try_(f"name{number}", HTTP_USER_AGENT=f"a{number % 7}").status_code for number in range(60)]
        self.assertEqual(answers[:20], [200] * 20)
        self.assertEqual(answers[20:], [429] * 40)
        self.assertEqual(self.try_("name77", visitor="203.0.113.66").status_code, 200)

    def test_never_for_good_even_when_somebody_goes_on_trying(self):
        for _ in range(8):
            self.try_()
        AccessAttempt.objects.update(attempt_time=timezone.now() - timedelta(minutes=4))
        self.assertEqual(self.try_(password="olga-sesame").status_code, 429)
        AccessAttempt.objects.update(attempt_time=timezone.now() - timedelta(minutes=5, seconds=1))
        self.assertEqual(self.try_(password="olga-sesame").status_code, 302)

    def test_a_form_that_cannot_be_read_is_said_so(self):
        kind = "application/x-www-form-urlencoded; charset=utf-16"
        for client in (self.client, self.client_class(enforce_csrf_checks=True)):
            client.get(reverse("people:sign-in"))
            answer = client.generic("POST", reverse("people:sign-in"), b"username=olga", content_type=kind)
            self.assertContains(answer, "What was sent could not be read", status_code=400)

    def test_a_name_too_long_to_be_one_is_said_so(self):
        answer = self.try_("u" * 256)
        self.assertContains(answer, "at most 150")


class PeopleOfTheShop(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.olga = person("olga", Role.OWNER)
        cls.tom = person("tom", Role.TECHNICIAN)

    def setUp(self):
        self.client.force_login(self.olga, backend="django.contrib.auth.backends.ModelBackend")

    def post(self, name, *args, **data):
        return self.client.post(reverse(f"people:{name}", args=args), data, follow=True)

    def address_shown(self, answer) -> str:
        return re.search(r'value="http://testserver(/people/begin/[^"]+)"', answer.content.decode())[1]

    def begin(self, address, **data):
        """Open the one-time address as somebody else and choose a password there."""
        other = self.client_class()
        page = other.get(address, follow=True)
        sent = {"new_password1": "halyard-and-cleat", "new_password2": "halyard-and-cleat", **data}
        return other, other.post(page.redirect_chain[-1][0], sent) if page.redirect_chain else page

    def test_added_begun_and_at_work(self):
        answer = self.post("add", first_name="Ilse", last_name="", username="ilse", roles=["seller", "technician"])
        ilse = Person.objects.get(username="ilse")
        self.assertEqual(ilse.role_names, {"seller", "technician"})
        address = self.address_shown(answer)
        self.assertNotContains(self.client.get(reverse("people:person", args=[ilse.pk])), "/people/begin/")
        hers, answer = self.begin(address, username="ilse2", first_name="Ilse", last_name="Marr")
        self.assertRedirects(answer, "/", fetch_redirect_response=False)
        self.assertContains(hers.get(reverse("people:me")), "signed in as ilse2")
        self.assertContains(self.client_class().get(address), "used up")

    def test_what_is_wrong_stands_at_its_field(self):
        self.assertContains(self.post("add", first_name="", username="tom", roles=["pirate"]), "with that name already")
        self.assertEqual(Person.objects.count(), 2)
        address = services.one_time_address(services.add_person(self.olga, "ilse", "Ilse", "", []))
        _, answer = self.begin(address, username="tom", first_name="Ilse", last_name="")
        self.assertContains(answer, "Somebody signs in with that name already.")
        _, answer = self.begin(address, username="ilse", first_name="Ilse", last_name="", new_password2="other")
        self.assertContains(answer, "match")

    def test_a_lost_password_and_a_one_time_address(self):
        address = self.address_shown(self.post("change", self.tom.pk, "address"))
        at_the_door = RequestFactory().post("/", REMOTE_ADDR="198.51.100.7")
        self.assertTrue(self.client_class().login(request=at_the_door, username="tom", password="tom-sesame"))
        self.assertContains(self.client_class().get(address), "used up")
        address = self.address_shown(self.post("change", self.tom.pk, "address"))
        _, answer = self.begin(address)
        self.assertEqual(answer.status_code, 302)
        self.tom.refresh_from_db()
        self.assertTrue(self.tom.check_password("halyard-and-cleat"))
        self.assertEqual(self.tom.username, "tom")

    def test_retired_is_out_at_once_and_comes_back(self):
        his = self.client_class()
        his.force_login(self.tom, backend="django.contrib.auth.backends.ModelBackend")
        address = services.one_time_address(self.tom)
        self.post("change", self.tom.pk, "retire")
        self.assertEqual(his.get("/").status_code, 302)
        self.assertContains(self.client_class().get(address), "used up")
        self.assertContains(self.post("change", self.tom.pk, "address"), "is retired")
        self.post("change", self.tom.pk, "bring-back")
        self.assertContains(self.post("change", self.tom.pk, "bring-back"), "is not retired")
        self.assertEqual(his.get("/").status_code, 200)
        told = HistoryEntry.objects.filter(subject="person", subject_id=self.tom.pk).values_list("words", flat=True)
        self.assertEqual([words.split(":")[0] for words in told], ["Retired", "Brought back"])

    def test_a_shop_is_never_without_an_owner(self):
        page = self.client.get(reverse("people:person", args=[self.olga.pk]))
        retire = reverse("people:change", args=[self.olga.pk, "retire"])
        self.assertNotIn(retire, offers(page.content))
        self.assertContains(page, "Olga is the only owner who can sign in")
        self.assertContains(self.post("change", self.olga.pk, "retire"), "the only owner")
        answer = self.post("person", self.olga.pk, roles=["seller"], seen=["owner"])
        self.assertContains(answer, "the only owner")
        services.add_person(self.olga, "ilse", "Ilse", "", ["owner"])  # can't sign in yet, so doesn't count
        self.assertContains(self.post("change", self.olga.pk, "retire"), "the only owner")
        self.assertTrue(Person.objects.get(pk=self.olga.pk).is_active)

    def test_roles_changed_by_somebody_else_meanwhile(self):
        self.post("person", self.tom.pk, roles=["technician", "buyer"], seen=["technician"])
        answer = self.post("person", self.tom.pk, roles=["seller"], seen=["technician"])
        self.assertContains(answer, "Somebody else changed this meanwhile: buyer, technician")
        self.assertEqual(set(self.tom.roles.values_list("role", flat=True)), {"buyer", "technician"})

    def test_only_an_owner(self):
        self.client.force_login(self.tom, backend="django.contrib.auth.backends.ModelBackend")
        self.post("add", first_name="Ilse", username="ilse", roles=["owner"])
        self.post("person", self.tom.pk, roles=["owner"], seen=["technician"])
        for what in ("retire", "address", "bring-back"):
            self.assertContains(self.post("change", self.olga.pk, what), "Only an owner may")
        self.assertEqual((Person.objects.count(), PersonRole.objects.count()), (2, 2))
        self.assertEqual(self.client.get(reverse("people:change", args=[self.olga.pk, "retire"])).status_code, 404)

    def test_everybody_changes_their_own_password(self):
        elsewhere = self.client_class()
        elsewhere.force_login(self.olga, backend="django.contrib.auth.backends.ModelBackend")
        new = {"new_password1": "halyard-and-cleat", "new_password2": "halyard-and-cleat"}
        self.assertContains(self.post("password", old_password="nonsense", **new), "incorrect")
        self.assertContains(self.post("password", old_password="olga-sesame", **new), "Your password is changed")
        self.assertEqual(elsewhere.get("/").status_code, 302)


class AnEmptyShop(TestCase):
    def one_time(self, *args) -> str:
        out = StringIO()
        call_command("one_time_address", *args, stdout=out)
        return out.getvalue().strip()

    def test_the_first_owner_begins_once(self):
        address = self.one_time("--at", "http://127.0.0.1:8000/")
        self.assertTrue(address.startswith("http://127.0.0.1:8000/people/begin/"))
        self.one_time()  # a second start before anybody came
        page = self.client.get(address.removeprefix("http://127.0.0.1:8000"), follow=True)
        answer = self.client.post(
            page.redirect_chain[-1][0],
            {
                "username": "ilse",
                "first_name": "Ilse",
                "last_name": "Marr",
                "new_password1": "halyard-and-cleat",
                "new_password2": "halyard-and-cleat",
            },
        )
        self.assertEqual(answer.status_code, 302)
        ilse = Person.objects.get()
        self.assertEqual((ilse.username, ilse.role_names), ("ilse", {"owner"}))
        self.assertContains(self.client.get(reverse("people:add")), "Add and show the address")
        self.assertEqual(self.one_time(), "")
        self.assertIn("/people/begin/", self.one_time("ilse"))

    def test_nobody_of_that_name(self):
        with self.assertRaisesMessage(CommandError, "Nobody signs in as ilse."):
            self.one_time("ilse")


class TwoOwnersAtOnce(AtOnce):
    def test_each_retiring_the_other_leaves_one(self):
        other = person("otto", Role.OWNER)

        def retire(by, whom):
            with transaction.atomic():
                services.retire(by, whom)
            return "done"

        ends = self.together(lambda: retire(self.owner, other), lambda: retire(other, self.owner))
        self.assertEqual(sorted(end[:4] for end in ends)[-1], "done")
        self.assertEqual(Person.objects.filter(is_active=True, roles__role=Role.OWNER).count(), 1)
