"""What was typed and is otherwise: names, numbers of parcels, figures of a settled return, a file that was read the
wrong way, settings and goes that were none."""

from datetime import timedelta
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from core.money import ZERO
from core.workshop.settings import Judged
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import here_again, parcels, receipts, refunds, returns, warranty
from stations.dispatch import selectors as waiting
from stations.dispatch.models import Receipt, Refund, Return
from stations.ledger.models import Account
from stations.ledger.selectors import balance, by_kind
from stations.people import services
from stations.people.models import HistoryEntry, Role
from stations.selling import comparable_files
from stations.selling import services as selling
from stations.selling.models import Comparable, ComparableFile
from stations.workshop import settings, storage
from stations.workshop.models import InstallAttempt, Setting, SettingTrial
from tests.stations.base import person
from tests.stations.test_dispatch import DispatchTest
from tests.stations.test_returns import ReturnTest
from tests.stations.test_selling_well import Priced
from tests.stations.test_storage import Stored

D = Decimal


class Names(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.olga = person("olga", Role.OWNER)
        cls.tom = person("tom", Role.TECHNICIAN)
        cls.there = reverse("people:names", args=[cls.tom.pk])

    def setUp(self):
        self.client.force_login(self.olga, backend="django.contrib.auth.backends.ModelBackend")

    def test_somebody_is_called_otherwise_and_signs_in_with_another_name(self):
        called = {"first_name": "Thomas", "last_name": "Reed", "username": "reed"}
        page = self.client.post(self.there, called, follow=True)
        self.assertContains(page, "<h1>Thomas Reed</h1>")
        self.assertContains(page, "username tom → reed; first name Tom → Thomas; last name nothing → Reed")
        self.assertTrue(self.client_class().login(request=page.wsgi_request, username="reed", password="tom-sesame"))
        self.client.post(self.there, called)
        self.assertEqual(HistoryEntry.objects.filter(action="people.name_person").count(), 1)

    def test_nobody_is_called_nothing_or_signs_in_as_somebody_else(self):
        page = self.client.post(self.there, {"first_name": "", "last_name": "Reed", "username": "olga"})
        self.assertContains(page, "Somebody signs in with that name already.")
        self.assertContains(page, "<h1>Tom is called otherwise</h1>")
        self.assertEqual(page.context["form"].errors["first_name"], ["Fill this in."])

    def test_only_an_owner_says_so_and_not_over_what_another_typed(self):
        seen = self.client.get(self.there).context["form"]["first_name"].form
        mark = seen.mark_of(seen.shown(self.tom))
        services.name_person(self.olga, self.tom, "tom", "Thom", "")
        sent = {"first_name": "Thomas", "last_name": "", "username": "tom", "seen": mark}
        self.assertContains(self.client.post(self.there, sent), "Thom")
        self.tom.refresh_from_db()
        self.assertEqual(self.tom.first_name, "Thom")
        self.client.force_login(self.tom, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.post(self.there, sent, follow=True), "Only an owner may say")
        with self.assertRaises(NotAllowed):
            services.name_person(self.tom, self.tom, "tom", "Boss", "")


class Tracking(DispatchTest):
    def test_its_number_comes_later_or_was_another(self):
        sale, hand = self.sold(), self.hand()
        hand.pay(sale)
        parcel = hand.pack(sale)
        hand.send(parcel, "Marrow Parcel", "11.90", "")
        self.client.force_login(self.owner)
        there = reverse("dispatch:tracking", args=[parcel.pk])
        self.assertContains(self.client.get(reverse("dispatch:parcel", args=[parcel.pk])), "Its tracking number")
        self.client.post(there, {"tracking": "MP 401"})
        page = self.client.post(there, {"tracking": " MP 410 "}, follow=True)
        self.assertContains(page, "Another tracking number")
        self.assertEqual((self.again(sale).tracking, self.again(parcel).tracking), ("MP 410", "MP 410"))
        words = HistoryEntry.objects.filter(action="dispatch.name_tracking").values_list("words", flat=True)
        self.assertEqual(list(words)[-1], "Parcel: tracking number MP 401 → MP 410")
        self.assertContains(self.client.post(there, {"tracking": "x" * 61}), "Too long: 61 characters, at most 60.")

    def test_a_carrier_that_pays_nothing_is_waited_for_no_longer(self):
        for claimed in (D(50), None):
            sale, hand = self.sold("200" if claimed else "210"), self.hand()
            hand.pay(sale)
            parcel = hand.pack(sale)
            hand.send(parcel, "Marrow Parcel")
            parcels.broken(self.owner, self.again(parcel), "the lid", claimed)
            self.client.force_login(self.owner)
            there = reverse("dispatch:claim-paid", args=[parcel.pk])
            if claimed is None:
                self.assertContains(self.client.post(there, {"paid_back": "1"}), "Nothing was claimed for it.")
            self.assertIn(parcel, waiting.claims())
            self.assertContains(self.client.post(there, {"paid_back": "0"}, follow=True), "The carrier pays nothing.")
            self.assertNotIn(parcel, waiting.claims())
            back = reverse("dispatch:claim-not-paid", args=[parcel.pk])
            self.client.post(back, {"why": "it asks for pictures"})
            self.assertIn(parcel, waiting.claims())
            self.balanced()

    def test_what_no_carrier_has_has_no_number(self):
        sale = self.sold()
        self.hand().hand_over(sale.unit)
        with self.assertRaisesRegex(Refused, "not sent with a carrier"):
            parcels.name_tracking(self.owner, parcels.parcel_of(sale), "MP 1")


class SettledReturns(ReturnTest):
    def settled(self, **chosen) -> Return:
        self.sale = self.delivered(price="120")
        back = returns.ask(self.seller, self.sale, "fault", "no picture")
        here_again.receive(self.technician, back)
        chosen = {"refund": D(12), "fee_back": D(2), "take_back": True, "cost": D(70)} | chosen
        returns.settle(self.owner, back, returns.Settlement(**chosen))
        return self.again(back)

    def right(self, back: Return, **changes):
        form = self.client.get(reverse("dispatch:one-return", args=[back.pk])).context["right_form"]
        sent = {name: form.initial.get(name) or "" for name in form.fields} | {"why": "a digit too few"} | changes
        mark = form.mark_of(form.shown(back))
        return self.client.post(reverse("dispatch:put-right", args=[back.pk]), sent | {"seen": mark}, follow=True)

    def test_the_books_are_as_if_the_right_figures_had_been_typed_at_once(self):
        self.taxed("standard")
        back = self.settled()
        unit, kinds = self.sale.unit, by_kind(Account.UNIT, [self.sale.unit_id])[self.sale.unit_id]
        self.client.force_login(self.owner)
        page = self.right(back, refund="120", fee_back="12", cost="7,00", missing="", lesson="ask for a video")
        self.assertContains(page, "120.00 paid back")
        now, back = by_kind(Account.UNIT, [unit.pk])[unit.pk], self.again(back)
        sale = self.again(self.sale)
        self.assertEqual((sale.refunded, sale.costs, sale.fee_kept, back.cost, back.lesson), (
            D(120), ZERO, ZERO, D(7), "ask for a video"
        ))  # fmt: skip
        # Sold for 120 and given back whole: neither price nor fee nor tax is left.
        self.assertEqual((now["sale"] + now["refund"], now["fee"], now["tax"]), (ZERO, ZERO, ZERO))
        self.assertEqual(now["postage"] - kinds["postage"], D(7) - D(70))
        self.assertEqual(returns.lessons().cost, D(127))
        self.assertEqual((self.again(unit).stage, sale.ended_words), ("received", "given back: it does not work"))
        self.balanced()

    def test_it_counts_on_the_day_on_which_it_was_paid_back(self):
        back, day = self.settled(on=clock.today()), clock.today()
        with clock.at(clock.now() + timedelta(days=40)):
            returns.put_right(self.owner, back, returns.Settlement(D(120), D(12), cost=D(7), on=day), "a digit")
        given = Refund.objects.standing().get()
        self.assertEqual((clock.day_of(given.when), given.posting.happened_on), (day, day))
        self.assertEqual(self.again(back).cost_posting.happened_on, day)
        self.balanced()

    def test_papers_follow(self):
        sale = self.delivered(price="120")
        receipts.issue(self.seller, sale, "A. Reader\nNorth End 2", "invoice")
        back = returns.ask(self.seller, sale, "mind", "")
        returns.settle(self.owner, back, returns.Settlement(refund=D(12)))
        returns.put_right(self.owner, self.again(back), returns.Settlement(refund=D(20)), "twenty was agreed")
        totals = list(Receipt.objects.order_by("number").values_list("total", flat=True))
        self.assertEqual(totals, [D(120), D(-12), D(12), D(-20)])
        self.balanced()

    def test_paid_back_in_parts_it_is_all_put_right(self):
        back = returns.ask(self.seller, self.delivered(price="120"), "mind", "")
        returns.settle(self.owner, back, returns.Settlement(refund=D(12)))
        refunds.refund(self.owner, back.sale, D(5), "and the cable", back=back)
        self.assertEqual(returns.settled_as(self.again(back)).refund, D(17))
        returns.put_right(self.owner, self.again(back), returns.Settlement(refund=D(20)), "twenty was agreed")
        self.assertEqual((self.again(back.sale).refunded, returns.lessons().cost), (D(20), D(20)))
        self.balanced()

    def test_nothing_was_paid_back_after_all(self):
        back = self.settled()
        returns.put_right(self.owner, back, returns.Settlement(), "it was another’s")
        sale = self.again(self.sale)
        self.assertEqual((sale.refunded, self.again(back).warranty, returns.lessons().cost), (ZERO, False, ZERO))
        self.assertEqual(sum(one.cost for one in warranty.answered().values()), ZERO)
        self.balanced()

    def test_what_is_wrong_with_it_is_said(self):
        back = self.settled()
        self.client.force_login(self.owner)
        self.assertContains(self.right(back, refund="500"), "no more than that can be paid back")
        self.assertContains(self.right(back, why=""), "the reason stays in the record")
        self.assertContains(self.right(back), "So it stands already")
        self.assertContains(self.right(back, refund="0", fee_back="2"), "comes back only with a refund")
        self.assertEqual(Refund.objects.count(), 1)
        with self.assertRaises(NotAllowed):
            returns.put_right(self.technician, back, returns.Settlement(), "no")
        other = returns.ask(self.seller, self.delivered(price="200"), "mind", "")
        with self.assertRaisesRegex(Refused, "It is open still"):
            returns.put_right(self.owner, other, returns.Settlement(), "no")

    def test_two_at_once_put_it_right_once(self):
        back = self.settled()
        self.client.force_login(self.owner)
        page = reverse("dispatch:one-return", args=[back.pk])
        form = self.client.get(page).context["right_form"]
        mark = form.mark_of(form.shown(back))
        returns.put_right(self.owner, back, returns.Settlement(D(120), D(12), cost=D(7)), "a digit")
        sent = {"refund": "100", "fee_back": "10", "cost": "7", "why": "a digit", "seen": mark}
        answer = self.client.post(reverse("dispatch:put-right", args=[back.pk]), sent)
        self.assertContains(answer, "120.00")
        self.assertEqual(Refund.objects.standing().get().amount, D(120))

    def test_what_it_was_sold_for_since_is_not_touched(self):
        """Put right when another has bought it: the other’s sale stays as it is."""
        back = self.settled()
        unit = self.again(self.sale.unit)
        self.hand().wait(days=4).assess(unit, "period")
        before = balance(Account.UNIT, unit.pk)
        steps = list(unit.price_steps.values_list("sold_for", flat=True))
        returns.put_right(self.owner, back, returns.Settlement(D(120), D(2), cost=D(70)), "a digit")
        self.assertEqual(balance(Account.UNIT, unit.pk) - before, D(108))
        self.assertEqual(list(unit.price_steps.values_list("sold_for", flat=True)), steps)
        self.balanced()


class FilesTakenOut(Priced):
    def test_all_of_a_file_goes_and_it_is_taken_in_another_way(self):
        before = Comparable.objects.count()
        text = "Sold on;Item;Condition;Price\n2026-04-03;Halden M2;tested ok;90\n2026-05-04;Halden M2;untested;95\n"
        self.done(self.post("selling:upload", file=SimpleUploadedFile("spring.csv", text.encode())))
        file = ComparableFile.objects.latest("pk")
        with self.assertRaisesRegex(Refused, "not taken in"):
            comparable_files.take_out(self.owner, file, "no")
        chosen = self.client.get(f"/selling/comparables/file/{file.pk}/").context["chosen"]
        self.done(self.post("selling:file", [file.pk], **chosen))
        page = self.client.get("/selling/comparables/")
        self.assertContains(page, "spring.csv")
        self.assertContains(page, "2 sales</span>")
        selling.drop_comparable(self.owner, Comparable.objects.filter(file=file).first())
        self.assertContains(self.client.get(f"/selling/comparables/file/{file.pk}/"), "1 of its sales counts")
        out = reverse("selling:take-out", args=[file.pk])
        self.assertContains(self.client.post(out, {"why": ""}, follow=True), "Say why")
        page = self.client.post(out, {"why": "asked, not fetched"}, follow=True)
        self.assertContains(page, "1 sale taken out again")
        self.assertEqual(Comparable.objects.count(), before)
        self.assertNotContains(self.client.get("/selling/comparables/"), "spring.csv")
        self.done(self.post("selling:file", [file.pk], **chosen))
        self.assertEqual(Comparable.objects.count(), before + 2)
        with self.assertRaises(NotAllowed):
            comparable_files.take_out(self.viewer, file, "no")


class WorkshopSlips(Stored):
    def press(self, mark: str):
        self.done(self.post("intake:slips", [self.unit.number], mark=mark, why="that was W-102"))

    def test_a_setting_that_is_none_and_a_trial_that_was_not_made(self):
        tried = settings.Tried("3: 1-2", "3: 2-3", Judged.EYE, "the picture", better="second")
        for name in ("J3", "J4"):
            settings.record_setting(self.owner, self.unit, None, 0, settings.SetAs(name, "link", "3: 1-2"))
            settings.try_against(self.owner, Setting.objects.get(name=name), tried)
        page = self.client.get(reverse("intake:slips", args=[self.unit.number]))
        self.assertContains(page, "J3 3: 1-2, now 3: 2-3")
        self.assertContains(page, "J3, 3: 1-2 against 3: 2-3: second")
        self.press(f"trial:{SettingTrial.objects.get(setting__name='J3').pk}")
        self.assertEqual(list(SettingTrial.objects.values_list("setting__name", flat=True)), ["J4"])
        self.press(f"setting:{Setting.objects.get(name='J4').pk}")
        self.assertEqual((Setting.objects.get().name, SettingTrial.objects.count()), ("J3", 0))

    def test_a_go_that_did_not_fail(self):
        job = self.make()
        index = self.until(job, "Install Lantern")
        with clock.at(self.now):
            storage.failed(self.owner, job, index, "stops at disk 4", "")
        self.press(f"attempt:{InstallAttempt.objects.get(worked=False).pk}")
        self.assertFalse(InstallAttempt.objects.filter(worked=False).exists())
