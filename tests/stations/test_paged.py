"""Lists of several pages: the next one shows more of the same, and a press on it leads back to it."""

import re
from decimal import Decimal as D
from html import unescape
from unittest.mock import patch

from django.conf import settings
from django.test import RequestFactory, SimpleTestCase
from django.urls import reverse

from core.stock.parts import PartKind
from stations.catalogue.models import PartSheet, Weakness
from stations.common.templatetags.paging import to_page
from stations.people.screens import PAGES_OF
from stations.units import parts, whereabouts
from tests.stations.test_pages import PageTest

READ = re.compile(r'get_page\(\s*request\.GET\.get\("(\w+)"\)')
LED_TO = re.compile(r'shell/pager\.html"(?: with)?(?: page=\w+)?(?: param="(\w+)")?')
NEXT = re.compile(r'class="btn btn-line" href="([^"]*)">Next')


class NamesOfPages(SimpleTestCase):
    def test_what_a_view_reads_is_what_its_pages_are_called(self):
        for room in sorted(settings.ROOT.glob("stations/*/")):
            read = {name for path in room.glob("views/*.py") for name in READ.findall(path.read_text())}
            led = {name for path in room.glob("templates/*/*.html") for name in LED_TO.findall(path.read_text())}
            with self.subTest(room.name):
                self.assertEqual(read - {"page"}, led - {""})
                self.assertLessEqual(read, PAGES_OF)

    def test_all_that_was_asked_goes_on(self):
        asked = {"request": RequestFactory().get("/x/", {"q": "a&b c", "unit": ["1", "2"], "page": "2", "lines": "4"})}
        self.assertEqual(to_page(asked, 3), "?q=a%26b+c&unit=1&unit=2&page=3&lines=4")
        self.assertEqual(to_page(asked, 5, "lines"), "?q=a%26b+c&unit=1&unit=2&page=2&lines=5")
        self.assertEqual(to_page(asked, 2, query="mark=comma"), "?mark=comma&page=2")


class PagesOfLists(PageTest):
    def follow(self, address: str, *words: str) -> None:
        """Each page of a list that begins at `address` holds the next of these, and none of the others."""
        there, _, asked = address.partition("?")
        address = f"{there}?{asked}" if asked else there
        for number, word in enumerate(words, 1):
            page = self.client.get(address).content.decode()
            self.assertIn(word, page)
            for other in set(words) - {word}:
                self.assertNotIn(other, page)
            found = NEXT.findall(page)
            self.assertEqual(bool(found), number < len(words))
            if found:
                address = there + unescape(found[0])

    def test_what_is_to_be_received(self):
        with patch("stations.intake.views.table.PER_PAGE", 1):
            self.follow("/intake/", f"id_{self.line.pk}_count", f"id_{self.other_line.pk}_count")

    def test_what_stands_in_one_place(self):
        units = self.receive(2)
        whereabouts.put(self.owner, units, "shelf K")
        with patch("stations.units.views.whereabouts.PER_PAGE", 1):
            first, second = sorted(units, key=lambda unit: -unit.number)
            there = f"{reverse('units:put-down')}?place=shelf+K"
            self.follow(there, f'href="/W-{first.number}/', f'href="/W-{second.number}/')

    def test_single_parts_and_sheets_that_are_called_so(self):
        for name in ("3.5-inch drive, grey", "3.5-inch drive, black", "fan"):
            parts.buy_part(self.owner, parts.Described(PartKind.DRIVE, name), D(3), "A1")
        with patch("stations.workshop.views.inside.PER_PAGE", 1):
            self.follow(f"{reverse('workshop:loose-parts')}?q=inch", "drive, black", "drive, grey")
        PartSheet.objects.bulk_create(PartSheet(name=name) for name in ("Fan", "Sound card, long", "Sound card, short"))
        with patch("stations.catalogue.views.fit.PER_PAGE", 1):
            self.follow(f"{reverse('catalogue:part-sheets')}?q=sound", "Sound card, long", "Sound card, short")

    def test_a_press_on_a_later_page_leads_back_to_it(self):
        here = reverse("catalogue:weaknesses")
        for came, there in (
            (f"http://testserver{here}?page=2&q=lid", f"{here}?page=2&q=lid"),
            (f"http://testserver{here}?q=lid", here),
            ("http://testserver/elsewhere/?page=2", here),
            (f"http://testserver{here}?page={'2' * 400}", here),
        ):
            press = reverse(
                "catalogue:drop-weakness", args=[Weakness.objects.create(what="cracks", part_words="lid").pk]
            )
            answer = self.client.post(press, {"write_key": ""}, headers={"referer": came})
            self.assertRedirects(answer, there, fetch_redirect_response=False)
