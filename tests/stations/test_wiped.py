"""Whoever bought something is forgotten when the time has come, wherever the name was typed."""

from datetime import timedelta
from decimal import Decimal

from django.apps import apps
from django.db.models import TextField
from django.db.models.functions import Cast
from django.utils import timezone

from stations.common import clock
from stations.day import services as day
from stations.dispatch import here_again, owners, parcels, receipts, refunds, returns, taken_back, wiping
from stations.dispatch.models import SaleTerms
from stations.intake import capture
from stations.ledger.models import Posting
from stations.people.models import HistoryEntry
from stations.queue.services import kinds
from stations.selling import offers, payments
from stations.selling import services as selling
from stations.selling.models import Offer, Sale
from tests.stations.test_dispatch import DispatchTest, text_of

D = Decimal


class Wiped(DispatchTest):
    def test_whoever_bought_it_is_forgotten_when_the_time_has_come(self):
        unit = self.listed()
        offers.take_down(self.seller, unit, D(120), "Greta Stein")
        sale = selling.sell(self.seller, self.again(unit), D(150), "Berit Holm", D(9))
        hand = self.hand().wait(days=4)
        hand.pay(sale)
        receipt = receipts.issue(self.seller, sale, "Berit Holm\nNorth End 2", "invoice")
        # As sales were titled before names were kept out of the book.
        Posting.objects.filter(pk=sale.posting_id).update(document=f"{unit.tag} sold to Berit Holm")
        hand.do(parcels.hand_over, sale)
        SaleTerms.objects.update(wipe_after=400)
        now = timezone.now()
        for days, left in ((390, 0), (402, 1)):
            with clock.at(now + timedelta(days=days)):
                self.assertEqual(wiping.due().count(), left)
                kinds["wipe buyers"]({})
        self.assertEqual((self.again(sale).buyer, self.again(receipt).buyer), ("", ""))
        self.assertEqual(Offer.objects.get().buyer, "somebody")
        for row in HistoryEntry.objects.filter(subject_id=unit.pk):
            self.assertNotRegex(row.words, "Berit|Greta")
        self.assertNotIn("Berit", Posting.objects.get(pk=sale.posting_id).document)
        self.assertIn("wiped", text_of(receipts.as_pdf(self.again(receipt))))
        self.assertEqual(wiping.wipe_some(), 0)
        self.assertEqual(self.again(sale).buyer_words, "a buyer whose name was wiped")
        self.balanced()

    def test_the_name_stands_nowhere_any_more_whatever_it_was_typed_into(self):
        """Every text of every table is looked through."""
        unit = self.listed()
        who = "Berit Holm"
        selling.sell(self.seller, unit, D(150), f"{who}, Skerry", D(9))
        refunds.call_off(self.owner, Sale.objects.get(), f"{who} never paid")
        selling.publish(self.owner, self.again(unit))
        offers.reserve(self.owner, self.again(unit), who, timezone.now() + timedelta(days=2), D(150))
        owned = capture.Ownership("consigned", "E. Norr", commission_percent=D(25))
        capture.set_ownership(self.owner, self.again(unit), owned)
        sale = selling.sell(self.seller, self.again(unit), D(150), who, D(9))
        day.promise(self.owner, unit, timezone.now() + timedelta(days=1), f"ready for {who}", D(1))
        hand = self.hand().wait(days=4)
        wrong = payments.take_payment(self.owner, sale, D(100))
        payments.take_back_payment(self.owner, wrong, f"not from {who}")
        hand.pay(self.again(sale))
        paid = owners.pay_owner(self.owner, self.again(sale), D(100))
        owners.take_back_owner_payment(self.owner, paid, f"{who} gets it back")
        payments.correct_fee(self.owner, self.again(sale), D(3), f"{who} said so")
        refunds.take_back(self.owner, refunds.refund(self.owner, self.again(sale), D(9), "agreed"), f"{who} said 5")
        refunds.refund(self.owner, self.again(sale), D(5), f"{who} rang")
        parcel = hand.pack(self.again(sale))
        hand.send(parcel, "Marrow Parcel")
        parcels.broken(self.owner, self.again(parcel), f"{who.upper()} says: cracked", D(10))
        taken_back.not_broken(self.owner, self.again(parcel), f"{who} meant another")
        parcels.broken(self.owner, self.again(parcel), f"{who} says: cracked", D(10))
        parcels.arrived(self.owner, self.again(parcel))
        back = returns.ask(self.owner, self.again(sale), "fault", f"{who} hears nothing")
        here_again.receive(self.owner, back)
        here_again.not_received(self.owner, back, f"not that of {who}")
        here_again.receive(self.owner, back)
        here_again.went_back(self.owner, back, f"fetched by a friend, B. Holm, of {who}")
        here_again.still_here(self.owner, back, f"{who} did not come")
        here_again.went_back(self.owner, back, f"fetched by {who}")
        returns.settle(self.owner, back, returns.Settlement())
        self.assertTrue(self.named("berit"))
        with clock.at(timezone.now() + timedelta(days=3000)):
            while wiping.wipe_some():
                pass
        self.assertEqual(self.named("berit"), [])
        self.balanced()

    def test_where_a_buyer_lives_is_in_no_story(self):
        sale = self.sold()
        parcel = parcels.begin(self.owner, sale)
        for place in ("Berit Holm\nNorth End 2", "Berit Holm\nSouth End 3"):
            parcel = self.again(parcel)
            found = parcels.Measured(300, 200, 100, 4000, "home", place)
            parcels.measure(self.owner, parcel, parcel.version, found)
        told = HistoryEntry.objects.filter(action="dispatch.measure").values_list("words", flat=True)
        self.assertIn("The parcel goes to another address", told)
        self.assertEqual([one for one in self.named(" end ") if not one.startswith("dispatch.Parcel.address")], [])

    def named(self, who: str) -> list[str]:
        """Where the name stands: table, column and text."""
        found = []
        for model in apps.get_models():
            for field in model._meta.local_concrete_fields:
                if field.get_internal_type() in {"CharField", "TextField", "JSONField"}:
                    rows = model._base_manager.annotate(as_text=Cast(field.attname, TextField()))
                    told = rows.filter(as_text__icontains=who).values_list("as_text", flat=True)
                    found += [f"{model._meta.label}.{field.attname}: {text[:80]}" for text in told]
        return found

    def test_while_it_stands_open_nobody_is_wiped(self):
        self.sold()
        with clock.at(timezone.now() + timedelta(days=9000)):
            self.assertEqual(wiping.due().count(), 0)
