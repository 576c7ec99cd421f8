"""A sale through its pages: paid, on paper, packed, sent, broken, given back; what is wrong is said at its field."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from stations.dispatch import parcels
from stations.dispatch.models import BoxSize, Carrier, Parcel, ParcelPhoto, Receipt, Return, SaleTerms
from stations.selling import services as selling
from stations.selling.models import Sale
from stations.units.models import Unit
from tests.hands import a_picture, boxes_and_carriers
from tests.stations.test_dispatch import D
from tests.stations.test_through_the_pages import Through


class SoldThroughThePages(Through):
    STANDS = "listed"

    def scene(self) -> None:
        super().scene()
        boxes_and_carriers(self.owner)
        self.sale = selling.sell(self.seller, self.listed(), D(150), "A. Reader", D(9))

    def to(self, what: str, **sent):
        return self.post(f"dispatch:{what}", [self.sale.pk], **sent)

    def parcel(self) -> Parcel:
        return Parcel.objects.get()

    def of_parcel(self, what: str, **sent):
        return self.post(f"dispatch:{what}", [self.parcel().pk], **sent)

    def paid(self) -> None:
        self.done(self.to("payment", amount="150", how="transfer"))

    def packed(self) -> Parcel:
        self.hand().pack(self.sale)
        return self.parcel()


class Paid(SoldThroughThePages):
    def test_in_parts_and_put_on_paper(self):
        self.says(self.to("payment", amount="", how="transfer"), "Fill this in.")
        self.says(self.to("payment", amount="151", how="transfer"), "Only 150.00 is open", "151")
        self.says(self.to("payment", amount="50", how="shells"), "not among the choices")
        self.done(self.to("payment", amount="50", how="cash"))
        self.assertEqual(self.again(self.sale).owed, D(100))
        # From a page that was opened before somebody else took the rest.
        self.done(self.to("payment", amount="100", how="cash"))
        self.says(self.to("payment", amount="99.50", how="cash"), "what came in “99.50”")
        self.assertContains(self.to("payment", amount="99.50", how="cash"), "It is paid", count=1)
        self.says(self.to("receipt", kind="invoice", buyer="A. Reader"), "a line for each")
        self.says(self.to("receipt", kind="receipt", buyer="A. Reader"), "names the shop")
        SaleTerms.objects.update_or_create(pk=1, defaults={"address": "Our workshop\nQuay 1"})
        self.done(self.to("receipt", kind="receipt", buyer="A. Reader"))
        number = Receipt.objects.get()
        page = self.client.get(f"/dispatch/receipts/{number.pk}.pdf")
        self.assertEqual((page.status_code, page["Content-Type"]), (200, "application/pdf"))
        self.says(self.to("receipt", kind="receipt", buyer="A. Reader of the far quay"), number.code)
        self.assertContains(self.to("receipt", kind="receipt", buyer="A. Reader of the far quay"), "of the far quay")
        self.balanced()

    def test_some_of_it_goes_back(self):
        self.paid()
        self.says(self.to("refund", amount="10", why=""), "Say what it is for.")
        self.says(self.to("refund", amount="151", why="a scratch"), "150.00", "151")
        self.done(self.to("refund", amount="10", why="a scratch", fee_back=""))
        self.assertEqual(self.again(self.sale).refunded, D(10))
        self.assertContains(self.client.get(f"/dispatch/sales/{self.sale.pk}/"), "a scratch")
        self.balanced()

    def test_called_off_it_is_on_offer_no_longer_sold(self):
        self.says(self.to("call-off", **{"off-why": ""}), "Say why.")
        self.done(self.to("call-off", **{"off-why": "he never answered"}))
        self.assertFalse(self.again(self.sale).stands)
        self.says(self.to("call-off", **{"off-why": "he wrote once more"}), "ended", "")
        self.assertContains(self.to("call-off", **{"off-why": "he wrote once more"}), "he wrote once more")
        self.assertEqual(Unit.objects.get(pk=self.sale.unit_id).stage, "graded")
        self.balanced()

    def test_fetched_by_its_buyer(self):
        self.says(self.to("hand-over", **{"hand-unpaid": ""}), "paid")
        self.done(self.to("hand-over", **{"hand-unpaid": "he brings it on Monday"}))
        self.assertIsNotNone(self.again(self.sale).sent_at)
        self.balanced()

    def test_an_act_that_does_not_exist_is_no_page(self):
        self.assertEqual(self.client.post(reverse("dispatch:sale", args=[self.sale.pk]) + "fly/").status_code, 404)
        self.assertEqual(self.client.get("/dispatch/sales/999999/").status_code, 404)


class Sent(SoldThroughThePages):
    def test_packed_and_sent(self):
        self.paid()
        self.done(self.post("dispatch:pack", [self.sale.pk]))
        sent = {"length": "246", "width": "277", "height": "346", "weight_g": "9400", "zone": "home", "version": "1"}
        self.says(self.of_parcel("measure", **sent | {"weight_g": "heavy"}), "whole number", "heavy")
        sent["version"] = str(self.parcel().version)
        there = f"/dispatch/parcels/{self.parcel().pk}/"
        self.done(
            self.client.post(f"{there}size/", sent | {"address": "A. Reader\nQuay 3\nMarrowick", "write_key": ""})
        )
        stale = self.client.post(f"{there}size/", sent | {"address": "elsewhere, by and by", "write_key": ""})
        self.says(stale, "Somebody else saved this")
        self.assertContains(stale, "elsewhere, by and by")
        self.says(self.client.post(f"{there}pictures/", {"write_key": ""}, follow=True), "Choose a picture")
        picture = SimpleUploadedFile("before.jpg", a_picture("before.png", 40).read(), "image/png")
        self.client.post(f"{there}pictures/", {"photos": picture, "moment": "before", "write_key": "p"})
        kept = ParcelPhoto.objects.get()
        for size in ("small", "large"):
            answer = self.client.get(f"/dispatch/pictures/{kept.pk}/{size}/")
            self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/jpeg"))
        box = BoxSize.objects.first()
        self.says(self.of_parcel("close", box=str(box.pk), packed_g=""), "Put it on the scales.")
        self.says(self.of_parcel("close", box="", packed_g="10000"), "Which box is it in?", "10000")
        self.assertIsNone(self.parcel().closed_at)

    def test_closed_opened_again_and_sent(self):
        self.paid()
        parcel = self.packed()
        self.done(self.post("dispatch:reopen", [parcel.pk]))
        self.assertIsNone(self.parcel().closed_at)
        closed = {"box": str(parcel.box_id), "packed_g": str(parcel.packed_g)}
        closed |= {"inner": str(parcel.inner_box_id)} if parcel.inner_box_id else {}
        self.says(self.of_parcel("close", **closed), "Not yet: At least 50 mm of firm filling")
        self.hand().do_all_steps(self.parcel())
        self.done(self.of_parcel("close", **closed))
        bike, carrier = (Carrier.objects.get(name=name) for name in ("Harbour Bike", "Marrow Parcel"))
        self.says(self.of_parcel("send", carrier=str(carrier.pk), price="-4"), "This may not be below 0.", "-4")
        self.says(
            self.of_parcel("send", carrier=str(bike.pk), price="9.50", tracking="HB 6"), "does not take it", "HB 6"
        )
        self.done(self.of_parcel("send", carrier=str(carrier.pk), price="9.50", tracking="HB 7"))
        self.assertEqual((self.parcel().tracking, self.parcel().price), ("HB 7", D("9.50")))
        label = self.client.get(f"/dispatch/parcels/{parcel.pk}/label.pdf")
        self.assertEqual(label["Content-Type"], "application/pdf")
        self.done(self.post("dispatch:arrived", [parcel.pk]))
        self.assertIsNotNone(self.again(self.sale).closed_at)
        self.assertEqual(self.client.post(reverse("dispatch:parcel", args=[parcel.pk]) + "fly/").status_code, 404)
        self.balanced()

    def test_broken_on_the_way_and_claimed(self):
        self.paid()
        parcel = self.packed()
        parcels.send(self.owner, parcel, Carrier.objects.get(name="Marrow Parcel"), D("9.50"), "HB 8")
        claim = f"/dispatch/parcels/{parcel.pk}/claim.zip"
        self.assertEqual(self.client.get(claim).status_code, 404, "nothing is claimed")
        self.says(self.of_parcel("broken", damage="", claimed="80"), "Say what was broken", "80")
        self.done(self.of_parcel("broken", damage="the case is cracked", claimed="80"))
        self.assertEqual(self.client.get(claim)["Content-Type"], "application/zip")
        self.says(self.of_parcel("claim-paid", paid_back="81"), "From 0 to the 80.00 that was claimed.", "81")
        self.done(self.of_parcel("claim-paid", paid_back="60"))
        self.assertContains(self.client.get(f"/dispatch/parcels/{parcel.pk}/"), "60.00")
        self.balanced()


class GivenBack(SoldThroughThePages):
    def scene(self) -> None:
        super().scene()
        self.hand().hand_over(self.sale.unit)

    def back(self) -> Return:
        return Return.objects.get()

    def asked(self) -> None:
        typed = {"back-reason": "not_as_said", "back-words": "The drive grinds."}
        self.done(self.to("return", **typed))

    def test_asked_received_and_settled(self):
        self.says(self.to("return", **{"back-reason": "sulk", "back-words": "no"}), "not among the choices")
        self.asked()
        there = f"/dispatch/returns/{self.back().pk}/"
        self.assertContains(self.client.get(there), "The drive grinds.")
        self.assertContains(self.client.get("/dispatch/returns/"), str(self.sale.unit.tag))
        self.done(self.post("dispatch:about", [self.back().pk], about="0"))
        self.assertEqual(self.back().about, self.again(self.sale).told[0])
        settled = {
            "refund": "150",
            "fee_back": "",
            "cost": "",
            "take_back": "on",
            "missing": "",
            "lesson": "look twice",
        }
        self.says(self.client.post(there, settled | {"write_key": "a"}), "here")
        self.done(self.post("dispatch:receive", [self.back().pk]))
        self.says(self.client.post(there, settled | {"refund": "999", "write_key": "b"}), "150", "999")
        self.done(self.client.post(there, settled | {"write_key": "c"}))
        self.assertIsNotNone(self.back().settled_at)
        self.assertEqual(Sale.objects.get().refunded, D(150))
        self.assertContains(self.client.get(there), "look twice")
        self.balanced()

    def test_twice_is_told(self):
        self.asked()
        self.says(self.to("return", **{"back-reason": "mind", "back-words": "After all."}), "is open already")
        self.assertEqual(Return.objects.count(), 1)
