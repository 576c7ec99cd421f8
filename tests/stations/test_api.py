"""What other programs read: let in by a token, told what is known and no more, paged, and never too often."""

import json
from datetime import timedelta
from decimal import Decimal

from django.db.models import Sum
from django.test import TestCase
from django.urls import reverse

from core.flow.stage import Stage
from stations.api import ledger
from stations.books.selectors import lot_results
from stations.buying.models import Lot
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.ledger.models import LedgerEntry, Posting
from stations.people import services, tokens
from stations.people.models import HistoryEntry, Person, PersonRole, ReadToken, Role
from stations.people.tokens import NewToken
from stations.selling.models import Sale
from stations.stock.models import StockItem
from stations.units.models import Unit
from tests import demo_shop
from tests.stations.test_door import person

D = Decimal
# However many rows are read; two queries open the door.
QUERIES = {"units": 31, "lots": 19, "stock": 7, "ledger": 7}


class Reading(TestCase):
    """Somebody’s program, and what it gets."""

    def token(self, whose: Person, days: int | None = None, purpose: str = "our web page") -> str:
        return tokens.new_token(whose, NewToken(purpose, days))

    def read(self, address: str, secret: str = "", **asked):
        headers = {"Authorization": f"Bearer {secret}"} if secret else {}
        return self.client.get(address if address.startswith("/") else f"/api/v1/{address}", asked, headers=headers)


class Door(Reading):
    @classmethod
    def setUpTestData(cls):
        cls.olga = person("olga", Role.OWNER)
        cls.vic = person("vic", Role.VIEWER)

    def assert_shut(self, answer):
        self.assertEqual(answer.status_code, 401)
        self.assertEqual(answer["WWW-Authenticate"], 'Bearer realm="Wendopolis"')
        self.assertEqual(answer["Content-Type"], "application/problem+json")

    def test_only_a_token_opens(self):
        secret = self.token(self.vic)
        for address in ("units", "units/W-1", "lots", "lots/L-1", "stock", "ledger"):
            self.assert_shut(self.read(address))
            self.assert_shut(self.read(address, secret[:-1]))
            self.assert_shut(self.read(address, token=secret))
            self.assertIn(self.read(address, secret).status_code, {200, 404})
        self.client.force_login(self.olga, "django.contrib.auth.backends.ModelBackend")
        self.assert_shut(self.read("units"))

    def test_a_token_opens_nothing_else(self):
        secret = self.token(self.olga)
        for address in ("/", "/people/settings/", "/backups/", "/api/v1/openapi.json"):
            self.assertEqual(self.read(address, secret).status_code, 302, address)
        answer = self.client.post("/api/v1/units", headers={"Authorization": f"Bearer {secret}"})
        self.assertEqual(answer.status_code, 405)

    def test_no_answer_is_kept_on_the_way_and_head_is_answered_as_get(self):
        secret = self.token(self.vic)
        answer = self.read("units", secret)
        self.assertIn("no-store", answer["Cache-Control"])
        self.assertNotIn("sessionid", answer.cookies)
        head = self.client.head("/api/v1/units", headers={"Authorization": f"Bearer {secret}"})
        self.assertEqual((head.status_code, head.content), (200, b""))

    def test_it_reads_until_its_day_and_no_longer(self):
        secret = self.token(self.vic, 90)
        last = clock.begin_of(clock.today() + timedelta(days=90)) + timedelta(hours=12)
        with clock.at(last):
            self.assertEqual(self.read("units", secret).status_code, 200)
        with clock.at(last + timedelta(days=1)):
            self.assert_shut(self.read("units", secret))

    def test_who_is_retired_reads_no_more_and_not_again_when_brought_back(self):
        secret = self.token(self.vic)
        services.retire(self.olga, self.vic)
        self.assert_shut(self.read("units", secret))
        services.bring_back(self.olga, self.vic)
        self.assert_shut(self.read("units", secret))

    def test_one_s_own_is_ended_by_oneself_or_an_owner_alone(self):
        secret = self.token(self.olga)
        row = ReadToken.objects.get()
        with self.assertRaises(NotAllowed):
            tokens.end_token(self.vic, row)
        self.assertEqual(self.read("units", secret).status_code, 200)
        tokens.end_token(self.olga, row)
        self.assert_shut(self.read("units", secret))
        with self.assertRaises(Refused):
            tokens.end_token(self.olga, row)
        said = HistoryEntry.objects.filter(subject="person", subject_id=self.olga.pk).values_list("words", flat=True)
        self.assertIn("A program reads no longer: our web page", said)
        self.assertIn("Let a program read: our web page, until it is ended", said)
        secret = self.token(self.vic)
        tokens.end_token(self.olga, ReadToken.objects.get())
        self.assert_shut(self.read("units", secret))

    def test_whoever_chooses_another_password_is_told_that_it_reads_on(self):
        secret, other = self.token(self.vic), "a harbour at dusk"
        self.client.force_login(self.vic, "django.contrib.auth.backends.ModelBackend")
        new = {"old_password": "vic-sesame", "new_password1": other, "new_password2": other}
        page = self.client.post(reverse("people:password"), new, follow=True)
        self.assertContains(page, "A program reads in your name as before: “our web page”.")
        self.assertEqual(self.read("units", secret).status_code, 200)

    def test_the_secret_is_kept_nowhere(self):
        secret = self.token(self.vic)
        row = ReadToken.objects.get()
        self.assertNotIn(secret.removeprefix(tokens.BEGINS), json.dumps(str(vars(row))))

    def test_so_many_and_each_for_something_else(self):
        self.token(self.vic)
        with self.assertRaises(Refused):
            self.token(self.vic, purpose="Our Web Page")
        for turn in range(1, tokens.MOST):
            self.token(self.vic, purpose=f"program {turn}")
        with self.assertRaises(Refused) as refused:
            self.token(self.vic, purpose="one more")
        self.assertEqual(refused.exception.field, "purpose")
        self.token(self.olga)

    def test_by_the_page_it_is_shown_once_and_ended(self):
        here = reverse("people:programs")
        self.client.force_login(self.vic, "django.contrib.auth.backends.ModelBackend")
        answer = self.client.post(here, {"purpose": "accounts", "days": "365", "write_key": "k1"}, follow=True)
        secret = answer.context["made"]
        self.assertContains(answer, secret)
        self.assertNotContains(self.client.get(here), secret)
        self.client.post(here, {"purpose": "accounts", "days": "365", "write_key": "k1"})
        row = ReadToken.objects.get()
        self.assertEqual(row.until, clock.today() + timedelta(days=365))
        self.assertEqual(self.read("lots", secret).status_code, 200)
        wrong = self.client.post(here, {"purpose": "", "days": "7"})
        self.assertEqual((wrong.status_code, set(wrong.context["form"].errors)), (422, {"purpose", "days"}))
        # What nobody said is not taken for “for ever”.
        self.assertEqual(self.client.post(here, {"purpose": "a table"}).status_code, 422)
        end = reverse("people:change", args=[self.vic.pk, "end-token"])
        self.assertEqual(self.client.post(reverse("people:change", args=[self.olga.pk, "end-token"])).status_code, 404)
        self.assertRedirects(self.client.post(end, {"which": row.pk}), here)
        self.assertEqual(self.read("lots", secret).status_code, 401)

    def test_an_owner_ends_it_on_the_page_of_whose_it_is(self):
        secret = self.token(self.vic, purpose="accounts")
        self.client.force_login(self.olga, "django.contrib.auth.backends.ModelBackend")
        page = reverse("people:person", args=[self.vic.pk])
        self.assertContains(self.client.get(page), "<b>accounts</b>")
        end = reverse("people:change", args=[self.vic.pk, "end-token"])
        self.assertRedirects(self.client.post(end, {"which": ReadToken.objects.get().pk}), page)
        self.assertNotContains(self.client.get(page), "Programs that read")
        self.assertEqual(self.read("lots", secret).status_code, 401)

    def test_nobody_but_an_owner_ends_that_of_somebody_else(self):
        secret = self.token(self.olga)
        self.client.force_login(self.vic, "django.contrib.auth.backends.ModelBackend")
        end = reverse("people:change", args=[self.olga.pk, "end-token"])
        answer = self.client.post(end, {"which": ReadToken.objects.get().pk}, follow=True)
        self.assertContains(answer, "Only an owner may end the token of somebody else")
        self.assertEqual(self.read("lots", secret).status_code, 200)


class NoMoreThanItMay(Reading):
    @classmethod
    def setUpTestData(cls):
        cls.vic = person("vic", Role.VIEWER)

    def test_after_a_rest_so_many_at_once_then_evenly(self):
        secret, begin = self.token(self.vic), clock.now()
        with clock.at(begin + timedelta(minutes=1)):
            for _ in range(tokens.AT_ONCE):
                self.assertEqual(self.read("stock", secret).status_code, 200)
            answer = self.read("stock", secret)
            self.assertEqual((answer.status_code, answer["Retry-After"]), (429, "1"))
            self.assertEqual(answer.json()["detail"], "This token asks more often than it may.")
        with clock.at(begin + timedelta(minutes=1, seconds=0.5)):
            self.assertEqual(self.read("stock", secret).status_code, 200)
            self.assertEqual(self.read("stock", secret).status_code, 429)

    def test_as_a_bucket_that_is_filled_evenly(self):
        """Against an account kept another way: tokens that drip into a bucket, and one taken out for each request."""
        row = ReadToken.objects.get(digest=tokens._digest(self.token(self.vic)))
        moment, in_bucket, last = clock.now() + timedelta(hours=1), D(tokens.AT_ONCE), None
        # Pauses in ms, made so that it is often just too early.
        pauses = [0] * 70 + [499, 1, 0, 500, 250, 249, 1, 1000, 0, 0] * 12 + [60_000] + [0] * 65 + [100] * 60
        seen = set()
        for pause in pauses:
            moment += timedelta(milliseconds=pause)
            if last is not None:
                in_bucket = min(D(tokens.AT_ONCE), in_bucket + D(pause) * tokens.A_MINUTE / 60_000)
            last = moment
            with clock.at(moment):
                answered = tokens.must_wait(row) is None
            self.assertEqual(answered, in_bucket >= 1)
            seen.add(answered)
            in_bucket -= answered
        self.assertEqual(seen, {True, False})

    def test_each_token_by_itself(self):
        first, second = self.token(self.vic), self.token(self.vic, purpose="a table")
        with clock.at(clock.now() + timedelta(minutes=1)):
            while self.read("stock", first).status_code == 200:
                pass
            self.assertEqual(self.read("stock", second).status_code, 200)


class WhatIsRead(Reading):
    @classmethod
    def setUpTestData(cls):
        demo_shop.put_up()
        cls.runa = PersonRole.objects.filter(role=Role.OWNER).first().person

    def setUp(self):
        self.secret = self.token(self.runa)
        # As if nobody had asked for a while, and the book had come to rest.
        self.enterContext(clock.at(clock.now() + timedelta(hours=1)))

    def asked(self, address: str, **filters):
        answer = self.read(address, self.secret, **filters)
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def all_of(self, address: str, **filters):
        """Every page, one after the other."""
        found, page = [], self.asked(address, **filters)
        while page["next"]:
            found += page["items"]
            page = self.asked(page["next"].removeprefix("http://testserver"))
        return found + page["items"]

    def test_pages_go_on_where_the_one_before_ended(self):
        for address, rows in (
            ("units", Unit.objects.all()),
            ("lots", Lot.objects.all()),
            ("stock", StockItem.objects.filter(in_use=True)),
        ):
            with self.subTest(address):
                small, large = self.all_of(address, limit=3), self.all_of(address, limit=200)
                self.assertEqual(small, large)
                self.assertEqual(len(small), rows.count())
        self.assertEqual(self.all_of("units", limit=200, lot="L-007"), self.all_of("units", limit=2, lot="L-007"))

    def test_a_unit_is_told_as_its_pages_tell_it(self):
        by_tag = {unit["tag"]: unit for unit in self.all_of("units")}
        sold = 0
        for sale in Sale.objects.exclude(open_for=None).select_related("unit__lot"):
            told = by_tag[str(sale.unit.tag)]
            self.assertEqual((told["price"], told["grade_in_doubt"]), (str(sale.price), None))
            own = LedgerEntry.objects.filter(account="unit", account_id=sale.unit_id).aggregate(sum=Sum("amount"))[
                "sum"
            ]
            if told["cost_unknown"]:
                self.assertIsNone(told["realised_margin"])
            else:
                self.assertEqual(D(told["realised_margin"]), -own)
                sold += 1
        self.assertGreater(sold, 3)
        self.assertEqual({by_tag[tag]["stage"] for tag in by_tag if by_tag[tag]["price"]} - set(map(str, Stage)), set())
        self.assertTrue(any(unit["price"] is None and unit["realised_margin"] is None for unit in by_tag.values()))

    def test_what_nobody_knows_is_null(self):
        unit = Unit.objects.exclude(stage__in=["sold", "sent", "closed"]).filter(holding="owned").first()
        Unit.objects.filter(pk=unit.pk).update(serial="", place="", model=None, path="")
        Lot.objects.filter(pk=unit.lot_id).update(priced=False)
        told = self.asked(f"units/W-{unit.number}")
        names = ("serial", "place", "model", "path", "cost", "realised_margin", "price", "sold_at")
        self.assertEqual({name: told[name] for name in names}, dict.fromkeys(names))
        self.assertIn("nobody recorded what was paid", told["cost_unknown"])
        lot = self.asked(f"lots/{unit.lot.code}")
        names = ("paid", "cost", "margin_so_far", "expected_result")
        self.assertEqual({name: lot[name] for name in names}, dict.fromkeys(names))

    def test_nobody_s_name_but_ours_and_the_suppliers(self):
        """What a buyer or an owner is called is not handed on."""
        read = json.dumps([self.all_of(address) for address in ("units", "lots", "stock", "ledger")])
        names = {sale.buyer for sale in Sale.objects.exclude(buyer="")}
        names |= set(Unit.objects.exclude(owner_name="").values_list("owner_name", flat=True))
        names -= set(Lot.objects.values_list("supplier__name", flat=True))
        self.assertGreater(len(names), 5)
        self.assertEqual([name for name in names if name in read], [])

    def test_a_unit_by_its_tag_in_any_form(self):
        unit = Unit.objects.first()
        for tag in (unit.tag, unit.tag.short, unit.number, str(unit.tag).lower()):
            self.assertEqual(self.asked(f"units/{tag}")["number"], unit.number)
        wrong = "0" if unit.tag.check != "0" else "1"
        for tag, says in (
            (f"{unit.tag.short}-{wrong}", "has the wrong check character"),
            ("W-9999", "There is no unit W-9999."),
            ("nonsense", "There is no unit nonsense."),
        ):
            answer = self.read(f"units/{tag}", self.secret)
            self.assertEqual((answer.status_code, answer["Content-Type"]), (404, "application/problem+json"))
            self.assertIn(says, answer.json()["detail"])
        self.assertEqual(self.read("lots/L-999", self.secret).status_code, 404)

    def test_filters_let_through_what_they_say(self):
        everything = self.all_of("units")
        for name, value in (("stage", "received"), ("station", "bench"), ("holding", "custody"), ("lot", "L-007")):
            found = self.all_of("units", **{name: value})
            self.assertEqual(found, [unit for unit in everything if unit[name] == value])
            self.assertTrue(found, name)
        for said in (True, False):
            found = self.all_of("units", on_offer=str(said).lower())
            self.assertEqual(found, [unit for unit in everything if unit["on_offer"] is said])
            self.assertTrue(found)
        place = next(unit["place"] for unit in everything if unit["place"])
        self.assertTrue(all(unit["place"] == place for unit in self.all_of("units", place=place)))
        low = self.all_of("stock", low="true")
        self.assertTrue(low)
        self.assertTrue(all(drawer["order_at"] is not None for drawer in low))
        for drawer in low:
            for name in ("amount", "reserved", "free", "on_the_way", "to_order", "cost_unknown_of"):
                self.assertRegex(drawer[name], r"^\d+\.\d{3}$")
            self.assertEqual(D(drawer["free"]), D(drawer["amount"]) - D(drawer["reserved"]))
        name = low[0]["name"]
        self.assertIn(low[0], self.all_of("stock", words=name))

    def test_what_is_written_wrong_is_said_of_its_parameter(self):
        for address, asked, parameter in (
            ("units", {"stge": "received"}, "stge"),
            ("units", {"stage": "nowhere"}, "stage"),
            ("units", {"lot": "7; DROP"}, "lot"),
            ("units", {"on_offer": "perhaps"}, "on_offer"),
            ("lots", {"limit": "201"}, "limit"),
            ("lots", {"limit": "0"}, "limit"),
            ("lots", {"stage": "received"}, "stage"),
            ("stock", {"after": "-1"}, "after"),
            ("stock", {"words": "x" * 81}, "words"),
            ("ledger", {"since": "yesterday"}, "since"),
        ):
            with self.subTest(address, **asked):
                answer = self.read(address, self.secret, **asked)
                self.assertEqual((answer.status_code, answer["Content-Type"]), (422, "application/problem+json"))
                self.assertEqual([one["parameter"] for one in answer.json()["wrong"]], [parameter])
        for far in ("9" * 30, str(2**63)):
            self.assertEqual(self.asked("units", after=far), {"items": [], "next": None})

    def test_lots_are_told_as_the_books_tell_them(self):
        lots = {lot["code"]: lot for lot in self.all_of("lots")}
        for result in lot_results(list(Lot.objects.all())):
            told = lots[result.lot.code]
            if result.lot.priced:
                self.assertEqual(D(told["margin_so_far"]), result.money.margin)
                self.assertEqual(D(told["income"]) - D(told["cost"]), result.money.margin)
            likely = None if told["expected_result"] is None else D(told["expected_result"])
            self.assertEqual(likely, result.likely)
            self.assertEqual(told["pieces"], told["received"] + told["to_receive"] + told["not_come"])
            in_full = self.asked(f"lots/{result.lot.code}")
            self.assertEqual({name: in_full[name] for name in told}, told)
            self.assertEqual(sum(line["quantity"] for line in in_full["lines"]), told["pieces"])
            shares = [line["share"] for line in in_full["lines"]]
            if all(shares):
                self.assertEqual(sum(map(D, shares)), D(told["paid"]))

    def test_the_book_sums_to_nothing_and_is_whole(self):
        postings = self.all_of("ledger", limit=50)
        self.assertEqual([one["id"] for one in postings], sorted(Posting.objects.values_list("pk", flat=True)))
        for posting in postings:
            self.assertEqual(sum(D(entry["amount"]) for entry in posting["entries"]), 0)
        self.assertEqual(sum(len(one["entries"]) for one in postings), LedgerEntry.objects.count())
        for one in postings:
            for entry in one["entries"]:
                if entry["account"] == "unit":
                    self.assertEqual(entry["of"], str(Unit.objects.get(pk=entry["key"]).tag))
                    break
        first, last = postings[10]["happened_on"], postings[60]["happened_on"]
        found = self.all_of("ledger", since=first, until=last)
        self.assertEqual(found, [one for one in postings if first <= one["happened_on"] <= last])
        of_lot = self.all_of("ledger", lot="L-007")
        self.assertEqual(of_lot, [one for one in postings if any(entry["lot"] == "L-007" for entry in one["entries"])])

    def test_a_posting_is_told_of_once_none_before_it_can_come(self):
        newest = Posting.objects.order_by("when").last()
        Posting.objects.filter(pk=newest.pk).update(when=clock.now())
        for since, there in ((ledger.SETTLED, False), (ledger.SETTLED + timedelta(seconds=1), True)):
            with clock.at(clock.now() + since):
                told = {one["id"] for one in self.all_of("ledger", limit=200)}
            self.assertEqual(newest.pk in told, there)

    def test_queries_do_not_grow_with_rows(self):
        for address, queries in QUERIES.items():
            rows = self.asked(address, limit=200)["items"]
            key = "number" if "number" in rows[0] else "id"
            # All of them, and without a third.
            for after in (0, rows[len(rows) // 3][key]):
                with self.subTest(address), self.assertNumQueries(queries):
                    self.asked(address, limit=200, after=after)
