"""Several units priced, offered and sold together; they end together too."""

from decimal import Decimal

from core.selling.price import fee_on
from stations.common.refusals import NotAllowed, Refused
from stations.intake import capture
from stations.ledger.documents import disagreements
from stations.people import shop_settings
from stations.selling import bundle_sale, bundles, looking, market
from stations.selling import services as selling
from stations.selling.models import Bundle, Channel, Listing, Sale
from stations.units.models import Unit
from tests.stations.test_selling_well import sales
from tests.stations.test_through_the_pages import Through

D = Decimal


class Together(Through):
    def scene(self) -> None:
        super().scene()
        sales(self.model)
        self.units = [self.listed("150"), self.listed("130")]
        while looking.look_at_some():
            pass
        self.query = "&".join(f"unit={unit.number}" for unit in self.units)

    def listings(self) -> list[Listing]:
        return list(Listing.objects.select_related("unit", "channel").filter(unit__in=self.units).order_by("unit_id"))

    def put_together(self, price: str = "260") -> Bundle:
        return bundles.put_together(self.owner, self.units, "Two of a kind", D(price))

    def test_what_they_save_and_the_least_to_take_are_shown(self):
        sums = bundles.sums_of(self.listings())
        self.assertEqual(sums.saved, shop_settings.settings().postage)
        self.assertEqual(sums.asking, D(280))
        page = self.client.get(f"/selling/bundles/?{self.query}")
        self.assertContains(page, f"{sums.least}")
        self.assertContains(page, "that is as good as waiting with each")
        apart = self.client.get(f"/selling/bundles/?{self.query}&parcels=2")
        self.assertContains(apart, "0.00 of postage")
        for odd in ("?unit=x&parcels=-4", "?unit=999999&q=%25", f"?unit={self.units[0].number}&parcels=99"):
            self.assertEqual(self.client.get(f"/selling/bundles/{odd}").status_code, 200)

    def test_through_the_page_and_sold_as_one(self):
        there = f"/selling/bundles/?{self.query}&parcels=1"
        self.says(self.client.post(there, {"price": "300", "title": ""}), "nobody pays more for all together")
        self.says(self.client.post(there, {"price": "0", "title": ""}), "more than 0")
        leads = self.done(self.client.post(there, {"price": "260", "title": "Two of a kind", "write_key": ""}))
        bundle = Bundle.objects.get()
        self.client.logout()
        self.assertContains(self.client.get(f"/shop/W-{self.units[0].number}/"), "Also in a bundle, “Two of a kind”")
        self.sign_in(self.owner)
        form = {"price": "255.55", "postage": "14", "buyer": "Ines Falk", "channel": self.channel.pk, "write_key": ""}
        self.says(self.client.post(leads, form | {"buyer": ""}), "Who bought it?")
        self.done(self.client.post(leads, form))
        rows = list(Sale.objects.order_by("unit_id"))
        terms = market.terms_of(self.channel, shop_settings.settings())
        self.assertEqual(sum(row.price for row in rows), D("255.55"))
        self.assertEqual(sum(row.postage for row in rows), D(14))
        self.assertEqual(sum(row.fee for row in rows), fee_on(D("255.55"), terms))
        # By what each was asked for: 255.55 · 150 ÷ 280 to the cent.
        self.assertEqual(rows[0].price, D("136.90"))
        self.assertEqual({row.bundle for row in rows}, {bundle})
        self.assertEqual((self.again(bundle).sold, self.again(bundle).ended_words), (True, "sold"))
        self.assertEqual(disagreements(), [])
        self.assertContains(self.client.get(f"/selling/W-{self.units[0].number}/"), "in the bundle")
        self.says(self.client.post(leads, form), "The bundle ended: sold")

    def test_under_the_floor_of_all_only_with_a_reason(self):
        sums = bundles.sums_of(self.listings())
        self.assertGreater(sums.floor, D(20))
        there = f"/selling/bundles/?{self.query}&parcels=1"
        self.assertContains(self.client.get(there), f"Their floor is <b>{sums.floor}</b>")
        under = {"price": f"{sums.floor - D('0.01')}", "title": "Two of a kind", "write_key": ""}
        refused = self.client.post(there, under)
        self.says(refused, f"The floor of all is {sums.floor}")
        self.assertContains(refused, under["price"])
        self.assertFalse(Bundle.objects.exists())
        leads = self.done(self.client.post(there, under | {"below_floor_reason": "the room is wanted"}))
        self.assertEqual(Bundle.objects.get().below_floor_reason, "the room is wanted")
        self.assertContains(self.client.get(leads), "Why: the room is wanted.")
        bundles.take_apart(self.owner, Bundle.objects.get())
        self.assertEqual(self.put_together(f"{sums.floor}").below_floor_reason, "")

    def test_what_is_offered_under_its_own_floor_for_a_reason_counts_so(self):
        before = bundles.sums_of(self.listings()).floor
        listing = self.listings()[0]
        least = D("12.00")
        selling.set_price(self.owner, listing.unit, listing.version, self.channel, least, "it only stands about")
        after = bundles.sums_of(self.listings()).floor
        self.assertLess(after, before)
        _, floor = market.unit_books(listing.unit).floors(self.channel)
        # A tenth of each share is the fee.
        self.assertAlmostEqual(before - after, floor - least, delta=D("0.05"))

    def test_of_one_whose_cost_no_price_covers_there_is_no_floor(self):
        self.units[0] = self.again(self.units[0])
        owned = capture.Ownership("consigned", "E. Norr", commission_percent=D(5))
        capture.set_ownership(self.owner, self.units[0], owned)
        self.assertIsNone(bundles.sums_of(self.listings()).floor)
        self.assertContains(self.client.get(f"/selling/bundles/?{self.query}"), "No price for all of them covers")
        with self.assertRaisesRegex(Refused, "No price for all of them covers their cost. Say why"):
            self.put_together()

    def test_one_that_goes_alone_ends_the_bundle(self):
        bundle = self.put_together()
        selling.sell(self.owner, self.units[0], D(150), "Somebody", D(9))
        self.assertEqual(self.again(bundle).ended_words, "one of them was sold")
        with self.assertRaisesRegex(Refused, "one of them was sold"):
            bundle_sale.sell_bundle(self.owner, bundle, D(200), "X", D(9))
        self.assertEqual(Sale.objects.count(), 1)

    def test_one_that_is_taken_off_offer_ends_it_too(self):
        bundle = self.put_together()
        selling.end_listing(self.owner, self.units[1], "")
        self.assertFalse(self.again(bundle).is_open)
        with self.assertRaisesRegex(Refused, "not on offer"):
            self.put_together()

    def test_what_can_t_be_sold_stops_the_whole_sale(self):
        bundle = self.put_together()
        from datetime import timedelta

        from stations.common import clock
        from stations.selling import offers

        offers.reserve(self.owner, self.units[1], "Ola Brandt", clock.now() + timedelta(days=1))
        with self.assertRaisesRegex(Refused, "held for Ola Brandt"):
            bundle_sale.sell_bundle(self.owner, bundle, D(200), "Ines Falk", D(9))
        self.assertFalse(Sale.objects.exists())
        self.assertTrue(self.again(bundle).is_open)

    def test_bounds_and_who_may(self):
        for units, price, words in (
            (self.units[:1], "90", "from 2 to 12"),
            (self.units, "281", "nobody pays more"),
            (self.units, "0", "more than 0"),
        ):
            with self.assertRaisesRegex(Refused, words):
                bundles.put_together(self.owner, units, "", D(price))
        with self.assertRaises(NotAllowed):
            bundles.put_together(self.viewer, self.units, "", D(200))
        bundle = self.put_together()
        with self.assertRaisesRegex(Refused, "less than a cent"):
            bundle_sale.sell_bundle(self.owner, bundle, D("0.01"), "X", D(9))
        self.done(self.post("selling:apart", [bundle.pk]))
        with self.assertRaisesRegex(Refused, "taken apart"):
            bundles.take_apart(self.owner, bundle)

    def test_the_channel_s_fee_is_taken_once(self):
        Channel.objects.filter(pk=self.channel.pk).update(fee_fixed=D("3.00"))
        sums = bundles.sums_of(self.listings())
        self.assertEqual(sums.saved, shop_settings.settings().postage + D(3))
        bundle = self.put_together()
        bundle_sale.sell_bundle(self.owner, bundle, D(250), "Ines Falk", D(9))
        self.assertEqual(sum(Sale.objects.values_list("fee", flat=True)), D("28.00"))
        self.assertEqual({Unit.objects.get(pk=unit.pk).stage for unit in self.units}, {"sold"})
