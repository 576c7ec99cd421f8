"""Whatever somebody has in hand finds the thing: a code, a serial, a tracking number, a name, a word of a page."""

from datetime import timedelta
from decimal import Decimal

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import URLPattern, get_resolver, reverse
from django.utils import timezone

from core.stock.parts import PartKind
from stations.buying import plans
from stations.dispatch import receipts
from stations.dispatch.models import SaleTerms
from stations.floor import finding
from stations.floor.pages import PAGES
from stations.people.models import Person
from stations.selling import services as selling
from stations.selling.models import Channel
from stations.stock import orders
from stations.stock.models import KnownGood
from stations.stock.orders import Ordered, Terms
from stations.stock.services import Sort, stock_part
from stations.units import parts
from tests.hands import boxes_and_carriers
from tests.stations.test_pages import PageTest
from tests.stations.test_plans import TERMS

D = Decimal
# Pages that are only reached with something chosen, that answer a script or another program, or only a post.
NO_PAGES = {
    # For programs, with a token.
    "api:api-root",
    "api:ledger",
    "api:lots",
    "api:openapi-json",
    "api:stock",
    "api:units",
    "floor:find",
    "backup:bring-back",
    "backup:make",
    "backup:take",
    "backup:write-records",
    "people:look",
    "people:code",
    "people:sign-in",
    "people:sign-out",
    "day:bells",
    "day:one-day",
    "day:new-address",
    "day:no-address",
    "buying:landed",
    "buying:fetch-rates",
    "stock:found",
    "units:order-it",
    "units:put",
    "units:move-all",
    "units:measure-colour",
    "catalogue:part-sheet-of",
    "dispatch:fetch",
    "books:take-out",
}


def names(patterns=None, space: str = "", before: str = "") -> set[str]:
    """Every address that takes nothing, by its name; files left out."""
    found = set()
    for pattern in get_resolver().url_patterns if patterns is None else patterns:
        route = before + str(pattern.pattern)
        if not isinstance(pattern, URLPattern):
            inner = f"{space}{pattern.namespace}:" if pattern.namespace else space
            found |= names(pattern.url_patterns, inner, route)
        elif pattern.name and "<" not in route and "(?P" not in route and "." not in route:
            found.add(f"{space}{pattern.name}")
    return found


class Find(PageTest):
    STANDS = "listed"

    def look(self, words: str):
        return self.client.get("/find/", {"q": words})

    def leads(self, words: str, there: str) -> None:
        self.assertRedirects(self.look(words), there, fetch_redirect_response=False)

    def test_codes_open_their_things(self):
        unit = self.listed()
        self.leads(f"w-{unit.number}", f"/W-{unit.number}/")
        self.leads(str(unit.tag), f"/W-{unit.number}/")
        self.leads(f"l-{self.lot.number}", f"/buying/L-{self.lot.number}/")
        order = orders.order_parts(self.owner, "Pell", Terms(), [Ordered(Sort("Belt"), "1", D(1))])
        self.leads(order.code, f"/workshop/orders/O-{order.number}/")
        plan = plans.plan_bid(self.owner, TERMS)
        part = parts.buy_part(self.owner, parts.Described(PartKind.DRIVE, "3.5-inch drive", serial="FD 9"), D(3), "C1")
        # No two sorts of things have the same code.
        self.assertEqual((plan.code[0], part.code[0], plan.number, part.number), ("B", "P", 1, 1))
        self.leads(plan.code, f"/buying/plans/P-{plan.number}/")
        self.leads(part.code, f"/workshop/P-{part.number}/")
        self.leads("fd 9", f"/workshop/P-{part.number}/")
        self.assertContains(self.look("P-99"), "Nothing here goes by")

    def test_a_drawer_opens_what_lies_in_it_or_shows_that_first(self):
        self.leads("a1", f"/workshop/stock/{self.part.pk}/")
        for name, drawer in (("Fuse", "A10"), ("Cap", "a1")):
            stock_part(self.owner, Sort(name, drawer=drawer), "2", D(3))
        (stock,) = [group for group in finding.groups("A1") if group.label == "Stock"]
        self.assertEqual([one.title for one in stock.rows], ["Belt", "Cap", "Fuse"])
        part = parts.buy_part(self.owner, parts.Described(PartKind.DRIVE, "3.5-inch drive"), D(3), "Z9")
        self.leads("z9", f"/workshop/P-{part.number}/")

    def test_a_serial_that_two_have_shows_both(self):
        for unit in self.receive(2):
            self.identify(unit, serial="SN 7")
        self.assertContains(self.look("sn 7"), "<b>Halden M2</b>", 2)

    def test_who_bought_it_and_what_it_went_with(self):
        boxes_and_carriers(self.owner)
        unit = self.listed()
        sale = selling.sell(self.owner, unit, D(150), "René Moen, Skerry", D(9))
        page = self.look("moen rene")
        self.assertContains(page, f"/dispatch/sales/{sale.pk}/")
        self.assertContains(page, "sold")
        hand = self.hand()
        hand.pay(sale)
        parcel = hand.pack(sale)
        hand.send(parcel, "Marrow Parcel", tracking="MW 77 X")
        self.leads("mw 77 x", f"/dispatch/parcels/{parcel.pk}/")
        SaleTerms.objects.update_or_create(pk=1, defaults={"address": "Our workshop\nQuay 1"})
        paper = receipts.issue(self.owner, self.again(sale), "René Moen\nQuay 2", "receipt")
        self.leads(paper.code, f"/dispatch/sales/{sale.pk}/#papers")
        self.assertContains(self.look("quay 2"), paper.code)

    def test_whatever_goes_by_a_name(self):
        KnownGood.objects.create(name="Grey keyboard", kind="part", stands_in="keyboard")
        for words, there in (
            ("keyboard grey", "Known-good shelf"),
            ("belt", "drawer A1"),
            ("quay market", "Channels"),
            ("pell head", "Suppliers"),
            ("halden", "Models"),
            ("olga", "People"),
            ("carriers", "shipping prices"),
            ("INVENTORY", "/workshop/stock/"),
            ("whiten", "Recipes"),
            ("discharge", "Checks"),
        ):
            with self.subTest(words):
                self.assertContains(self.look(words), there)
        self.assertContains(self.look("%"), "Nothing here goes by")
        self.assertContains(self.look("x" * 300), "Nothing here goes by")
        self.assertContains(self.look("  "), "Scan a label")

    def test_as_many_as_are_read_at_a_glance_and_queries_do_not_grow(self):
        def asked() -> int:
            with CaptureQueriesContext(connection) as queries:
                self.look("market")
            return len(queries)

        Channel.objects.create(name="Old market")
        self.look("market")
        before = asked()
        for number in range(20):
            Channel.objects.create(name=f"Market {number}")
        self.assertEqual(asked(), before)
        (group,) = [one for one in finding.groups("market") if one.label == "Channels"]
        self.assertEqual((len(group.rows), group.more), (finding.SHOWN, True))
        self.assertContains(self.look("market"), "and more: type another word of it")

    def test_no_page_is_left_out(self):
        listed = [name for name, _, _ in PAGES]
        self.assertEqual(len(listed), len(set(listed)))
        self.assertEqual(names() - NO_PAGES, set(listed))
        for name, title, _ in PAGES:
            with self.subTest(name):
                self.assertEqual(self.client.get(reverse(name), follow=True).status_code, 200)
                self.assertContains(self.look(title), f'href="{reverse(name)}"')

    def test_whom_nobody_knows_any_more_is_found_by_nobody(self):
        unit = self.listed()
        sale = selling.sell(self.owner, unit, D(150), "Ida Moen", D(9))
        type(sale).objects.filter(pk=sale.pk).update(buyer="", wiped_at=timezone.now() + timedelta(days=1))
        self.assertContains(self.look("Moen"), "Nothing here goes by")
        self.assertFalse(Person.objects.filter(first_name="Moen").exists())
