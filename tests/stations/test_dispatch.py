"""After the sale: paid in parts, on paper, packed, sent, broken, and wiped one day."""

import io
import zipfile
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

import pypdfium2
from django.db import IntegrityError, connection, transaction
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from core.money import ZERO
from core.selling.packing import Moment
from stations.books.selectors import complaints
from stations.common import clock
from stations.common.details import as_kept
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import (
    carriers,
    packing,
    papers,
    parcels,
    receipts,
    refunds,
    returns,
    selectors,
    terms,
)
from stations.dispatch.models import BoxSize, Carrier, Parcel, Receipt, SaleTerms
from stations.ledger.models import Account
from stations.ledger.selectors import balance, by_kind
from stations.people.models import ShopSettings
from stations.selling import bundle_sale, bundles, payments
from stations.selling import services as selling
from stations.selling.models import Comparable, Listing, Sale
from stations.units import findings, picture_files
from stations.units.models import Unit
from tests.hands import a_picture, boxes_and_carriers
from tests.stations.base import ShopTest

D = Decimal


def text_of(pdf: bytes) -> str:
    document = pypdfium2.PdfDocument(pdf)
    return "\n".join(document[number].get_textpage().get_text_range() for number in range(len(document)))


class DispatchTest(ShopTest):
    def scene(self) -> None:
        super().scene()
        boxes_and_carriers(self.owner)
        SaleTerms.objects.update_or_create(pk=1, defaults={"address": "Our workshop\nQuay 1", "tax_number": "MW 1"})

    def sold(self, price: str = "150", buyer: str = "A. Reader", **more) -> Sale:
        return selling.sell(self.seller, self.listed(price), D(price), buyer, D(9), **more)

    def taxed(self, scheme: str, percent: str = "20") -> None:
        ShopSettings.objects.update_or_create(pk=1, defaults={"tax_scheme": scheme, "tax_percent": D(percent)})


class Paid(DispatchTest):
    STANDS = "listed"

    def test_in_parts_and_never_more_than_is_open(self):
        sale = self.sold()
        self.assertEqual(
            (self.again(sale.unit).next_step, balance(Account.BUYER_OWES, sale.pk)), ("take the payment", D(150))
        )
        payments.take_payment(self.seller, sale, D(100), "cash")
        with self.assertRaisesRegex(Refused, "Only 50.00 is open") as caught:
            payments.take_payment(self.seller, sale, D("50.01"))
        self.assertEqual(caught.exception.field, "amount")
        payments.take_payment(self.seller, sale, D(50))
        with self.assertRaisesRegex(Refused, "It is paid"):
            payments.take_payment(self.seller, sale, D("0.01"))
        self.assertEqual((self.again(sale).owed, balance(Account.BUYER_OWES, sale.pk)), (ZERO, ZERO))
        self.assertEqual(self.again(sale.unit).next_step, "pack and send it")
        self.balanced()

    def test_what_did_not_come_in_is_taken_back_and_the_sale_is_open_again(self):
        sale = self.sold()
        payments.take_payment(self.seller, sale, D(100), "cash")
        wrong = payments.take_payment(self.seller, sale, D(50))
        self.client.force_login(self.seller, backend="django.contrib.auth.backends.ModelBackend")
        there = reverse("dispatch:sale", args=[sale.pk])
        back = reverse("dispatch:payment-back", args=[sale.pk, wrong.pk])
        self.assertContains(self.client.get(there), "50.00 of", msg_prefix="each can be taken back")
        self.assertContains(self.client.post(back, {"why": ""}, follow=True), "Say why")
        self.client.post(back, {"why": "it was for W-102"})
        self.assertEqual((self.again(sale).owed, balance(Account.BUYER_OWES, sale.pk)), (D(50), D(50)))
        self.assertEqual(self.again(sale.unit).next_step, "take the payment")
        self.assertContains(self.client.get(there), "taken back")
        with self.assertRaisesRegex(Refused, "taken back already"):
            payments.take_back_payment(self.seller, self.again(wrong), "twice")
        with self.assertRaises(NotAllowed):
            payments.take_back_payment(self.technician, self.again(wrong), "no")
        payments.take_payment(self.seller, self.again(sale), D(50))
        self.balanced()

    def test_nonsense_and_who_may(self):
        sale = self.sold()
        for amount in ("0", "-5"):
            with self.assertRaisesRegex(Refused, "more than 0"):
                payments.take_payment(self.seller, sale, D(amount))
        with self.assertRaisesRegex(Refused, "how it was paid"):
            payments.take_payment(self.seller, sale, D(5), "shells")
        with self.assertRaises(NotAllowed):
            payments.take_payment(self.technician, sale, D(5))

    def test_the_database_refuses_more_than_it_costs(self):
        sale = self.sold()
        with self.assertRaises(IntegrityError), transaction.atomic():
            Sale.objects.filter(pk=sale.pk).update(paid=D(100), refunded=D(51))

    def test_a_book_that_says_something_else_is_found(self):
        sale = self.sold()
        Sale.objects.filter(pk=sale.pk).update(paid=D(10))
        self.assertTrue(any("is open, the book says" in one.words for one in complaints()))


class OnPaper(DispatchTest):
    STANDS = "proven"

    def test_numbers_follow_within_a_year(self):
        first, second = self.sold(), self.sold()
        with clock.at(timezone.now().replace(year=2027, month=3)):
            issued = [receipts.issue(self.seller, first), receipts.issue(self.seller, second)]
        with clock.at(timezone.now().replace(year=2028, month=1, day=9)):
            issued.append(receipts.credit(self.seller, first, D(5), ZERO, "a scratch"))
        self.assertEqual([one.code for one in issued], ["2027-0001", "2027-0002", "2028-0001"])

    def test_one_receipt_a_sale_and_a_refused_one_takes_no_number(self):
        sale = self.sold()
        with self.assertRaisesRegex(Refused, "a line for each"):
            receipts.issue(self.seller, sale, "A. Reader", "invoice")
        receipt = receipts.issue(self.seller, sale)
        with self.assertRaisesRegex(Refused, "It has its receipt"):
            receipts.issue(self.seller, sale)
        self.assertEqual((receipt.number, Receipt.objects.count()), (1, 1))

    def test_no_paper_without_the_name_of_the_shop(self):
        """2006/112/EC, Articles 226 (5) and 226b (b): who supplies stands on an invoice, simplified or not."""
        sale = self.sold()
        there = reverse("dispatch:sale", args=[sale.pk])
        self.client.force_login(self.seller)
        self.assertContains(self.client.get(there), "Issue it")
        SaleTerms.objects.update(address="")
        for kind in ("receipt", "invoice"):
            with self.subTest(kind), self.assertRaisesRegex(Refused, "Terms of sale"):
                receipts.issue(self.seller, sale, "A. Reader\nQuay 3", kind)
        page = self.client.get(there)
        self.assertContains(page, "No paper can be issued yet")
        self.assertNotContains(page, "Issue it")
        self.assertFalse(Receipt.objects.exists())

    def test_tax_stands_on_it_under_the_standard_scheme_and_never_on_a_margin(self):
        self.taxed("standard")
        words = text_of(receipts.as_pdf(receipts.issue(self.seller, self.sold("120"), "A. Reader\nQuay 3", "invoice")))
        for there in (
            "Invoice",
            "A. Reader",
            "Our workshop",
            "Tax number MW 1",
            "100.00",
            "Tax 20 %",
            "20.00",
            "120.00",
        ):
            self.assertIn(there, words)
        for scheme in ("margin", "global"):
            self.taxed(scheme)
            receipt = receipts.issue(self.seller, self.sold("120"))
            self.assertIsNone(receipt.tax)
            words = text_of(receipts.as_pdf(receipt))
            self.assertIn("Margin scheme", words)
            self.assertNotIn("Tax 20", words)
            with self.assertRaises(IntegrityError), transaction.atomic():
                Receipt.objects.filter(pk=receipt.pk).update(tax=D(1))

    def test_it_names_the_day_of_the_sale_where_that_is_another(self):
        with clock.at(timezone.now() - timedelta(days=3)):
            unit, day = self.listed(), clock.today()
            receipt = receipts.issue(self.seller, selling.sell(self.seller, unit, D(150), "A. Reader", D(9)))
            self.assertNotIn("sold", receipt.lines.get().words)
            later = selling.sell(self.seller, self.listed(), D(150), "A. Reader", D(9))
        words = receipts.issue(self.seller, later).lines.get().words
        self.assertIn(f", sold {day:%-d %B %Y}", words)

    def test_it_says_for_how_long_we_answer_for_it(self):
        for days, there in ((0, ""), (1, "; warranty 1 day from delivery"), (90, "; warranty 90 days from delivery")):
            sale = self.sold()
            Sale.objects.filter(pk=sale.pk).update(warranty_days=days)
            words = receipts.issue(self.seller, self.again(sale)).lines.get().words
            self.assertEqual(words.partition("; ")[2], there.removeprefix("; "))

    def test_it_stays_as_it_was_issued(self):
        sale = self.sold()
        receipt = receipts.issue(self.seller, sale)
        row = terms.terms()
        terms.change_terms(self.owner, row.version, replace(as_kept(terms.TermsDetails, row), address="Elsewhere"))
        Unit.objects.filter(pk=sale.unit_id).update(title="Something else")
        words = text_of(receipts.as_pdf(self.again(receipt)))
        self.assertIn("Our workshop", words)
        self.assertIn("Halden M2", words)

    def test_a_refund_after_a_receipt_gets_a_credit_note(self):
        self.taxed("standard")
        sale = self.sold("120")
        receipt = receipts.issue(self.seller, sale)
        given = refunds.refund(self.owner, sale, D(30), "a scratch that was not said")
        self.assertEqual((given.credit.total, given.credit.tax, given.credit.credits), (D(-30), D(-5), receipt))
        words = text_of(receipts.as_pdf(given.credit))
        for there in ("Credit note", receipt.code, "a scratch that was not said", "−30.00", "−25.00", "−5.00"):
            self.assertIn(there, words)

    def test_they_are_found_by_number_and_by_name(self):
        receipt = receipts.issue(self.seller, self.sold(), "Berit Holm\nNorth End 2")
        for words in (receipt.code, "berit", ""):
            self.assertEqual(list(selectors.receipts(words)), [receipt])
        for words in ("2020-1", "nobody", "٣-٣", "9" * 30 + "-1"):
            self.assertEqual(list(selectors.receipts(words)), [])


class Packed(DispatchTest):
    STANDS = "listed"

    def test_measured_packed_closed_sent_and_closed_out(self):
        sale = self.sold()
        hand = self.hand()
        hand.pay(sale)
        parcel = hand.pack(sale, (246, 277, 346), 9400)
        # On its screen it is 246 x 346 x 277, with 25 mm 296 x 396 x 327: too high for the middle box.
        self.assertEqual((parcel.inner_box.name, parcel.box.name), ("screen", "outer"))
        self.assertEqual(self.again(sale.unit).next_step, "send it")
        hand.send(parcel, "Marrow Parcel", "24.00")
        sale.refresh_from_db()
        self.assertEqual((sale.tracking, self.again(sale.unit).stage), ("MW1", "sent"))
        # 9 was reckoned with, it cost 24.
        self.assertEqual(by_kind(Account.UNIT, [sale.unit_id])[sale.unit_id]["postage"], D(24))
        hand.do(parcels.arrived, parcel)
        self.assertEqual(self.again(sale.unit).stage, "closed")
        self.balanced()

    def test_two_boxes_for_glass_and_every_step_first(self):
        sale = self.sold()
        hand = self.hand()
        parcel = hand.do(parcels.begin, sale)
        self.assertEqual(hand.do(parcels.begin, sale), parcel)
        box = BoxSize.objects.get(name="crate")
        with self.assertRaisesRegex(Refused, "Not yet: Picture of it"):
            hand.do(parcels.close, parcel, box, None, 9000)
        hand.do_all_steps(parcel)
        with self.assertRaisesRegex(Refused, "zone first"):
            hand.do(parcels.close, parcel, box, None, 9000)
        Parcel.objects.filter(pk=parcel.pk).update(zone="home")
        with self.assertRaisesRegex(Refused, "Two boxes") as caught:
            hand.do(parcels.close, parcel, box, None, 9000)
        self.assertEqual(caught.exception.field, "inner")
        with self.assertRaisesRegex(Refused, "does not go into"):
            hand.do(parcels.close, parcel, BoxSize.objects.get(name="small"), box, 9000)
        Parcel.objects.filter(pk=parcel.pk).update(weight_g=9400)
        with self.assertRaisesRegex(Refused, "weigh it again"):
            hand.do(parcels.close, parcel, box, BoxSize.objects.get(name="screen"), 9000)

    def test_a_step_is_taken_back_and_a_picture_is_none(self):
        parcel = parcels.begin(self.technician, self.sold())
        plan = packing.plan_of(parcel)
        picture, step = plan.steps[0], next(one for one in plan.steps if not one.step.picture)
        with self.assertRaisesRegex(Refused, "by its picture"):
            parcels.tick(self.technician, parcel, picture.key)
        for left in (plan.left - 1, plan.left):
            parcels.tick(self.technician, parcel, step.key)
            self.assertEqual(packing.plan_of(self.again(parcel)).left, left)
        with self.assertRaisesRegex(Refused, "no such step"):
            parcels.tick(self.technician, parcel, "1-nonsense")
        self.assertEqual(len(parcels.add_pictures(self.technician, parcel, Moment.BEFORE, [a_bad_file()])), 1)

    def test_what_leaks_is_not_sent(self):
        sale = self.sold()
        hand = self.hand()
        parcel = hand.pack(sale)
        hand.pay(sale)
        unit = self.again(sale.unit)
        findings.add_finding(
            self.technician, unit, findings.Observation("inside", "leak", 0.5, 0.5, 3, words="green salts")
        )
        with self.assertRaisesRegex(Refused, "It leaks"):
            hand.send(parcel, "Marrow Parcel", "24")
        self.assertEqual((self.again(unit).state, self.again(unit).next_step), ("hold", "make it safe, then go on"))

    def test_unpaid_things_go_only_with_a_reason(self):
        sale = self.sold()
        parcel = self.hand().pack(sale)
        carrier = Carrier.objects.get(name="Marrow Parcel")
        with self.assertRaisesRegex(Refused, "150.00 is still open"):
            parcels.send(self.seller, parcel, carrier, D(20))
        parcels.send(self.seller, parcel, carrier, D(20), unpaid="the museum pays on receipt")
        self.assertIsNotNone(self.again(sale).sent_at)

    def test_a_carrier_that_does_not_take_it_is_refused_with_why(self):
        sale = self.sold()
        hand = self.hand()
        hand.pay(sale)
        parcel = hand.pack(sale)
        taken, not_taken = packing.quotes_of(packing.plan_of(parcel), "home")
        self.assertEqual([one.carrier for one in taken], ["Marrow Parcel"])
        self.assertEqual({one.carrier for one in not_taken}, {"Skerry Post", "Harbour Bike"})
        with self.assertRaisesRegex(Refused, "Skerry Post does not take it: .*by itself") as caught:
            hand.send(parcel)
        self.assertEqual(caught.exception.field, "carrier")
        self.assertEqual(packing.quotes_of(packing.plan_of(parcel), ""), ([], []))

    def test_opened_again_before_it_is_sent(self):
        parcel = self.hand().pack(self.sold())
        kept = {photo.moment: picture_files.path_of(photo.sha256) for photo in parcel.photos.all()}
        with self.captureOnCommitCallbacks(execute=True):
            parcels.reopen(self.technician, parcel)
        # That of it packed is taken anew, so its file goes.
        self.assertEqual((kept[Moment.BEFORE].exists(), kept[Moment.PACKED].exists()), (True, False))
        plan = packing.plan_of(self.again(parcel))
        self.assertEqual([one.step.code for one in plan.steps if not one.done], ["gap", "papers", "packed", "close"])
        with self.assertRaisesRegex(Refused, "is open"):
            parcels.reopen(self.technician, parcel)

    def test_handed_over_there_is_no_postage(self):
        sale = self.sold()
        hand = self.hand()
        with self.assertRaisesRegex(Refused, "still open"):
            hand.do(parcels.hand_over, sale)
        hand.pay(sale)
        hand.do(parcels.hand_over, sale)
        self.assertEqual(by_kind(Account.UNIT, [sale.unit_id])[sale.unit_id].get("postage", ZERO), ZERO)
        self.assertEqual(self.again(sale.unit).stage, "closed")
        with self.assertRaisesRegex(Refused, "nothing to hand over"):
            hand.do(parcels.hand_over, sale)
        self.balanced()

    def test_the_label_says_what_carriers_must_know(self):
        parcel = self.hand().pack(self.sold())
        words = text_of(papers.label(self.again(parcel)))
        for there in ("A. Reader", "Marrowick", "Our workshop", "GLASS", "Lithium"):
            self.assertIn(there, words)
        Parcel.objects.filter(pk=parcel.pk).update(packed_g=26_000)
        self.assertIn("two people", text_of(papers.label(self.again(parcel))))


def a_bad_file():
    file = a_picture("front.png")
    file.file = io.BytesIO(b"no picture")
    file.size = 10
    return file


class Broken(DispatchTest):
    STANDS = "listed"

    def sent(self) -> tuple[Sale, Parcel]:
        sale, hand = self.sold(), self.hand()
        hand.pay(sale)
        parcel = hand.pack(sale)
        hand.send(parcel, "Marrow Parcel", "24")
        return sale, self.again(parcel)

    def test_the_file_for_the_claim_has_all_that_is_asked_for(self):
        sale, parcel = self.sent()
        with self.assertRaisesRegex(Refused, "Say what was broken"):
            parcels.broken(self.seller, parcel, " ", None)
        with self.assertRaisesRegex(Refused, "to 174.00"):
            parcels.broken(self.seller, parcel, "the corner", D("174.01"))
        parcels.broken(self.seller, parcel, "the corner is cracked", D(120))
        parcels.add_pictures(self.seller, parcel, Moment.DAMAGE, [a_picture("corner.png", 77)])
        with zipfile.ZipFile(io.BytesIO(papers.claim(self.again(parcel)))) as file:
            names = file.namelist()
            words = text_of(file.read("report.pdf"))
            said = file.read(f"what-was-said-{sale.unit.tag}.txt").decode()
        self.assertEqual([name.partition("/")[0] for name in names[1:4]], ["before", "packed", "damage"])
        for there in ("the corner is cracked", "MW1", "Marrow Parcel", "120.00", "Screen face down"):
            self.assertIn(there, words)
        self.assertIn("Mains", said)

    def test_what_the_carrier_pays_is_earned_once(self):
        sale, parcel = self.sent()
        before = balance(Account.UNIT, sale.unit_id)
        with self.assertRaisesRegex(Refused, "Nothing was claimed"):
            parcels.claim_paid(self.seller, parcel, D(5))
        parcels.broken(self.seller, parcel, "the corner", D(120))
        with self.assertRaisesRegex(Refused, "that was claimed"):
            parcels.claim_paid(self.seller, parcel, D(121))
        parcels.claim_paid(self.seller, parcel, D(100))
        self.assertEqual(before - balance(Account.UNIT, sale.unit_id), D(100))
        with self.assertRaisesRegex(Refused, "paid 100.00 already"):
            parcels.claim_paid(self.seller, parcel, D(20))
        self.assertEqual(selectors.claims().count(), 0)
        self.balanced()


class CalledOff(DispatchTest):
    STANDS = "listed"

    def test_all_of_it_is_undone_and_it_can_be_sold_again(self):
        self.taxed("margin")
        unit = self.listed()
        before = balance(Account.UNIT, unit.pk)
        sale = selling.sell(self.seller, unit, D(150), "A. Reader", D(9))
        payments.take_payment(self.seller, sale, D(60))
        with self.assertRaisesRegex(Refused, "Say why"):
            refunds.call_off(self.seller, sale, " ")
        with self.assertRaises(NotAllowed):
            refunds.call_off(self.technician, sale, "never paid")
        refunds.call_off(self.owner, sale, "never paid the rest")
        self.assertEqual(balance(Account.UNIT, unit.pk), before)
        self.assertEqual(balance(Account.BUYER_OWES, sale.pk), ZERO)
        self.assertFalse(Comparable.objects.filter(own=True).exists())
        self.assertEqual((self.again(unit).stage, Listing.objects.get().status), ("graded", "ended"))
        with self.assertRaisesRegex(Refused, "sale ended"):
            payments.take_payment(self.seller, sale, D(5))
        selling.publish(self.seller, self.again(unit))
        again = selling.sell(self.seller, self.again(unit), D(140), "B. Reader", D(9))
        self.assertEqual(self.again(unit).sale, again)
        self.balanced()

    def test_what_was_sent_is_not_called_off(self):
        sale = self.sold()
        self.hand().hand_over(sale.unit)
        with self.assertRaisesRegex(Refused, "It was sent"):
            refunds.call_off(self.owner, sale, "too late")


class Carrying(DispatchTest):
    def test_prices_take_the_place_of_those_of_the_zone(self):
        carrier = Carrier.objects.get(name="Harbour Bike")
        carriers.keep_bands(self.seller, carrier, "home", [])
        self.assertNotIn("Harbour Bike", [one.carrier for one in self.home()])
        with self.assertRaises(NotAllowed):
            carriers.keep_bands(self.technician, carrier, "home", [])

    def home(self):
        return [tariff for _, tariff in packing.tariffs("home") if tariff.bands]

    def test_no_source_no_prices(self):
        with self.assertRaisesRegex(Refused, "No source"):
            carriers.fetch(self.seller)
        with self.settings(CARRIERS_URL="http://127.0.0.1:9/prices.csv"), self.assertRaisesRegex(Refused, "not answer"):
            carriers.fetch(self.seller)

    def test_a_box_is_larger_outside(self):
        with self.assertRaises(IntegrityError), transaction.atomic():
            BoxSize.objects.filter(name="small").update(outer_length=100)


class Together(DispatchTest):
    def test_what_was_sold_as_a_bundle_has_one_receipt_and_one_parcel(self):
        units = [self.listed("150"), self.listed("90")]
        bundle = bundles.put_together(self.seller, units, "A desk", D(220))
        sales = bundle_sale.sell_bundle(self.seller, bundle, D(220), "A. Reader", D(9))
        receipt = receipts.issue(self.seller, sales[0])
        self.assertEqual((receipt.total, receipt.lines.count()), (D(220), 2))
        self.client.force_login(self.seller, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("dispatch:sale", args=[sales[0].pk]))
        self.assertContains(page, "Sold together with")
        self.assertContains(page, str(units[1].tag))
        with self.assertRaisesRegex(Refused, "It has its"):
            receipts.issue(self.seller, sales[1])
        hand = self.hand()
        for sale in sales:
            hand.pay(sale)
        parcel = hand.pack(sales[1], (350, 240, 200), 9000)
        self.assertEqual(parcels.parcel_of(sales[0]), parcel)
        with self.assertRaisesRegex(Refused, "packed with others"):
            hand.do(parcels.hand_over, sales[0])
        hand.send(parcel, "Marrow Parcel", "24")
        hand.do(parcels.arrived, parcel)
        self.assertEqual({self.again(unit).stage for unit in units}, {"closed"})
        posted = [by_kind(Account.UNIT, [unit.pk])[unit.pk]["postage"] for unit in units]
        self.assertEqual(sum(posted), D(24))
        self.balanced()


class Queries(DispatchTest):
    def test_the_page_asks_as_often_for_many_as_for_one(self):
        self.client.force_login(self.seller)
        counts = []
        for _ in range(2):
            self.sold()
            self.client.get("/dispatch/")
            with CaptureQueriesContext(connection) as asked:
                self.client.get("/dispatch/")
            counts.append(len(asked))
        self.assertEqual(counts[0], counts[1])


class OnTheSellingPage(DispatchTest):
    def test_what_waits_after_sales_stands_there(self):
        self.client.force_login(self.seller)
        self.assertNotContains(self.client.get("/selling/"), "After the sale")
        sale = self.sold()
        page = self.client.get("/selling/")
        for words in ("to be paid for", "to pack and send"):
            self.assertContains(page, words)
        self.assertNotContains(page, "somebody waits")
        self.hand().hand_over(sale.unit)
        returns.ask(self.seller, self.again(sale), "fault", "it hums")
        self.assertContains(self.client.get("/selling/"), "somebody waits")

    def test_a_parcel_is_followed_where_its_carrier_says(self):
        parcel = Parcel(tracking="MW 1/2", carrier=Carrier(track="https://example.org/follow?n={number}"))
        self.assertEqual(parcel.follow, "https://example.org/follow?n=MW%201%2F2")
        self.assertEqual(Parcel(tracking="MW1", carrier=Carrier()).follow, "")
