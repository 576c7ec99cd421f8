"""The public shop: found, looked at and asked by strangers; read by machines; never more than what is so."""

import csv
import io
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal
from pathlib import Path
from urllib.robotparser import RobotFileParser

import extruct
import feedparser
import xmlschema
from django.db import connection
from django.test.utils import CaptureQueriesContext

from stations.common import clock
from stations.common.details import as_kept
from stations.dispatch import terms
from stations.selling import inbox, offers, placing, shop_pages
from stations.selling import services as selling
from stations.selling.models import Channel, Listing, Offer, Placement, Question, ShopPage
from stations.units.models import Unit
from tests.stations.base import ShopTest
from tests.stations.test_through_the_pages import Through

D = Decimal
ASK = {"who": "Elin Varga", "contact": "01632 960112", "words": "Is the fan loud?", "amount": "", "website": ""}


class Shop(Through):
    def scene(self) -> None:
        super().scene()
        self.shop = Channel.objects.create(name="Shop page", kind=Channel.Kind.SHOP)
        self.unit = self.listed()
        self.page = f"/shop/W-{self.unit.number}/"

    def setUp(self):
        """Nobody is signed in."""


class Front(Shop):
    def found(self, query: str) -> bool:
        return f"W-{self.unit.number}/" in self.client.get(f"/shop/{query}").content.decode()

    def test_every_word_has_to_be_in_the_title(self):
        for query, there in (
            ("", True),
            ("?q=halden", True),
            ("?q=M2+halden", True),
            ("?q=halden+tessaly", False),
            ("?q=%25", False),
            ("?q=_", False),
            ("?shape=all_in_one", True),
            ("?shape=tower", False),
            ("?shape=nonsense", True),
            ("?state=tested", True),
            ("?state=parts", False),
            ("?most=150", True),
            ("?most=149,99", False),
            ("?most=cheap", True),
            ("?order=cheapest&page=99", True),
        ):
            with self.subTest(query):
                self.assertIs(self.found(query), there)
        self.assertContains(self.client.get("/shop/?q=tessaly"), "Nothing like that is for sale")

    def test_words_that_the_database_takes_for_the_same_are_one(self):
        listing = Listing.objects.get(unit=self.unit)
        selling.save_text(self.owner, self.unit, listing.version, "Café cafe CAFÉ Straße strasse", "A machine.")
        self.client.logout()
        for query in ("?q=cafe", "?q=caf%C3%A9", "?q=STRASSE", "?q=straße"):
            self.assertTrue(self.found(query), query)
        self.assertFalse(self.found("?q=halden"))

    def test_sorted_by_price_and_by_age(self):
        Listing.objects.update(published_at=clock.now() - timedelta(days=30))
        other = self.listed("90")
        for order, first in (("cheapest", other), ("dearest", self.unit), ("newest", other)):
            text = self.client.get(f"/shop/?order={order}").content.decode()
            places = {unit.pk: text.index(f"/shop/W-{unit.number}/") for unit in (self.unit, other)}
            self.assertEqual(min(places, key=places.get), first.pk, order)

    def test_it_asks_no_more_for_many(self):
        counts = []
        for _ in range(2):
            with CaptureQueriesContext(
                connection,
            ) as asked:
                self.client.get("/shop/")
            counts.append(len(asked))
            if len(counts) < 2:
                self.listed("120")
                self.listed("130")
        self.assertEqual(*counts)
        self.assertLessEqual(counts[0], 10)

    def test_reserved_is_said_and_taken_off_is_not_shown(self):
        offers.reserve(self.owner, self.unit, "Ola Brandt", clock.now() + timedelta(days=2))
        self.assertContains(self.client.get("/shop/"), "reserved")
        self.assertNotContains(self.client.get("/shop/"), "Ola Brandt")
        self.assertNotContains(self.client.get(self.page), "Ola Brandt")
        placing.take_off(self.owner, Placement.objects.get(unit=self.unit, channel=self.shop))
        self.assertFalse(self.found(""))
        self.assertEqual(self.client.get(self.page).status_code, 404)

    def test_a_shop_without_a_channel_of_its_own_shows_all_that_is_on_offer(self):
        Placement.objects.filter(channel=self.shop).delete()
        self.shop.delete()
        placing.settle(Unit.objects.get(pk=self.unit.pk))
        self.assertTrue(self.found(""))
        self.assertEqual(self.client.get(self.page).status_code, 200)
        # One that is set up later has all of it.
        fees = {"fee_percent": D(0), "fee_fixed": D(0)}
        selling.add_channel(self.owner, Channel(name="Our own", kind=Channel.Kind.SHOP, **fees))
        self.assertTrue(self.found(""))
        self.assertEqual(self.client.get(self.page).status_code, 200)


class OnePage(Shop):
    def test_all_that_must_be_said_stands_beside_the_price(self):
        page = self.client.get(self.page)
        for words in ("What you should know", "lithium", "How it was tested", "Postage", "Ask, or make an offer"):
            self.assertContains(page, words)

    def test_what_a_buyer_is_promised_is_told_once_the_shop_said_it(self):
        said = ("Warranty", "days from delivery", "Change of mind", "days to give it back")
        for words in said:
            self.assertNotContains(self.client.get(self.page), words)
        agreed = as_kept(terms.TermsDetails, terms.terms())
        promised = {name: 90 for name in vars(agreed) if name.startswith("warranty")}
        terms.change_terms(self.owner, 1, replace(agreed, **promised, withdrawal=14))
        page = self.client.get(self.page)
        for words in said:
            self.assertContains(page, words)
        self.assertContains(page, "90 days from delivery")
        sale = selling.sell(self.owner, self.unit, D(150), "Elin Varga", D(9))
        self.assertEqual((sale.warranty_days, sale.withdrawal_days), (90, 14))
        self.assertNotContains(self.client.get(self.page), "days from delivery")

    def test_machines_read_what_people_do(self):
        told = extruct.extract(self.client.get(self.page).content.decode(), syntaxes=["json-ld"])["json-ld"]
        (product,) = told
        listing = Listing.objects.get(unit=self.unit)
        self.assertEqual((product["@type"], product["name"]), ("Product", listing.title))
        self.assertEqual((product["offers"]["price"], product["offers"]["priceCurrency"]), ("150.00", "EUR"))
        self.assertEqual(product["offers"]["availability"], "https://schema.org/InStock")
        self.assertIn("lithium", product["description"])
        offers.reserve(self.owner, self.unit, "Ola Brandt", clock.now() + timedelta(days=2))
        self.assertContains(self.client.get(self.page), "https://schema.org/OutOfStock")
        selling.sell(self.owner, self.unit, D(150), "Ola Brandt", D(9))
        self.assertContains(self.client.get(self.page), "https://schema.org/SoldOut")
        self.assertNotContains(self.client.get(self.page), "Ola Brandt")

    def test_a_visitor_asks_and_offers_once_however_often_he_presses(self):
        answer = self.client.post(self.page, ASK | {"amount": "120"})
        self.assertRedirects(answer, self.page + "?sent=1#ask", fetch_redirect_response=False)
        self.assertContains(self.client.get(self.page + "?sent=1"), "Thank you")
        self.client.post(self.page, ASK | {"amount": "120"})
        question, offer = Question.objects.get(), Offer.objects.get()
        self.assertEqual((question.channel, question.contact), (self.shop, "01632 960112"))
        self.assertEqual((offer.amount, offer.buyer), (D(120), "Elin Varga"))
        # He sees nothing of it, nor does anybody else without signing in.
        self.assertNotContains(self.client.get(self.page), "Is the fan loud?")
        self.assertEqual(self.client.get("/selling/offers/").status_code, 302)

    def test_the_same_offer_another_day_is_another_one(self):
        self.client.post(self.page, ASK | {"amount": "120"})
        with clock.at(clock.now() + timedelta(days=1)):
            self.client.post(self.page, ASK | {"amount": "120"})
        self.assertEqual((Offer.objects.count(), Question.objects.count()), (2, 2))

    def test_what_is_wrong_is_said_at_its_field_and_nothing_typed_is_lost(self):
        for change, words in (
            ({"who": ""}, "How shall we call you?"),
            ({"contact": ""}, "We need a way to answer"),
            ({"words": "", "amount": ""}, "Ask something, or make an offer"),
            ({"amount": "0"}, "Offer more than 0"),
            ({"amount": "12x"}, "Type an amount"),
            ({"amount": "151"}, "nobody has to offer more"),
            ({"words": "x" * 2001}, "at most 2000"),
        ):
            with self.subTest(change):
                page = self.client.post(self.page, ASK | change)
                self.assertContains(page, words)
                if "who" not in change:
                    self.assertContains(page, 'value="Elin Varga"')
        self.assertFalse(Question.objects.exists() or Offer.objects.exists())

    def test_what_fills_the_field_that_nobody_sees_is_not_kept(self):
        self.assertEqual(self.client.post(self.page, ASK | {"website": "https://spam"}).status_code, 302)
        self.assertFalse(Question.objects.exists())

    def test_nobody_is_buried(self):
        for number in range(inbox.MOST_ABOUT_A_UNIT):
            self.client.post(self.page, ASK | {"words": f"Question {number}"})
        self.assertContains(self.client.post(self.page, ASK), "A great many have written")
        self.assertEqual(Question.objects.count(), inbox.MOST_ABOUT_A_UNIT)
        with clock.at(clock.now() + inbox.QUIET + timedelta(minutes=1)):
            self.assertEqual(self.client.post(self.page, ASK).status_code, 302)

    def test_what_is_sold_takes_no_offer(self):
        selling.sell(self.owner, self.unit, D(150), "Somebody", D(9))
        self.assertContains(self.client.post(self.page, ASK), "not for sale any more")


class Machines(Shop):
    def test_the_feed(self):
        told = feedparser.parse(self.client.get("/shop/feed.atom").content)
        self.assertFalse(told.bozo)
        self.assertEqual(told.version, "atom10")
        (entry,) = told.entries
        self.assertIn("150.00", entry.title)
        self.assertTrue(entry.link.endswith(self.page))

    def test_who_reads_for_a_search_engine_is_led_to_the_shop_and_to_nothing_else(self):
        """By the reader of Python’s own library."""
        robots = RobotFileParser()
        answer = self.client.get("/robots.txt")
        self.assertTrue(answer["Content-Type"].startswith("text/plain"))
        robots.parse(answer.content.decode().splitlines())
        for page, may in (
            ("/shop/", True),
            (self.page, True),
            ("/shop/about/returns/", True),
            ("/selling/", False),
            ("/people/sign-in/", False),
        ):
            self.assertEqual(robots.can_fetch("any", page), may, page)
        (listed,) = robots.site_maps()
        self.assertEqual(self.client.get(listed).status_code, 200)

    def test_the_sitemap_by_its_published_schema(self):
        schemas = Path(__file__).parent.parent / "reference" / "sitemaps"
        index = self.client.get("/shop/sitemap.xml").content
        xmlschema.validate(index, schemas / "siteindex.xsd")
        for section in ("units", "pages"):
            self.assertIn(f"sitemap-{section}.xml", index.decode())
            part = self.client.get(f"/shop/sitemap-{section}.xml").content
            xmlschema.validate(part, schemas / "sitemap.xsd")
        self.assertIn(self.page, self.client.get("/shop/sitemap-units.xml").content.decode())
        self.assertIn("/shop/about/returns/", self.client.get("/shop/sitemap-pages.xml").content.decode())
        self.assertEqual(self.client.get("/shop/sitemap-nothing.xml").status_code, 404)

    def test_everything_as_csv(self):
        text = self.client.get("/shop/for-sale.csv").content.decode("utf-8-sig")
        (row,) = csv.DictReader(io.StringIO(text))
        self.assertEqual((row["price"], row["currency"], row["condition"]), ("150.00", "EUR", "tested"))
        self.assertTrue(row["link"].endswith(self.page))


class Words(ShopTest):
    def test_an_owner_words_the_pages_and_takes_the_standard_ones_back(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get("/shop/about/returns/"), "Returns")
        form = {"slug": "returns", "title": "Sent back", "text": "Write first.", "write_key": ""}
        self.assertEqual(self.client.post("/selling/pages/", form).status_code, 302)
        self.assertContains(self.client.get("/shop/about/returns/"), "Write first.")
        self.assertContains(self.client.get("/shop/"), "Sent back")
        self.assertContains(self.client.post("/selling/pages/", form | {"text": ""}), "take the standard page back")
        title, text = shop_pages.STANDARD["returns"]
        shop_pages.word_page(self.owner, "returns", title, text)
        self.assertFalse(ShopPage.objects.exists())
        self.assertEqual(self.client.get("/shop/about/nothing/").status_code, 404)

    def test_only_an_owner(self):
        self.client.force_login(self.seller, backend="django.contrib.auth.backends.ModelBackend")
        form = {"slug": "returns", "title": "Sent back", "text": "Write first.", "write_key": ""}
        self.assertContains(self.client.post("/selling/pages/", form), "Only an owner")
