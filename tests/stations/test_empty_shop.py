"""The first morning: a person and nothing else. Every page answers, and says what is so."""

import re

from django.test import TestCase
from django.urls import reverse

from stations.floor.pages import PAGES
from stations.people.models import Role
from tests.stations.base import person


class EmptyShop(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = person("olga", Role.OWNER)

    def setUp(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")

    def read(self, name: str) -> str:
        page = self.client.get(reverse(name), follow=True)
        self.assertEqual(page.status_code, 200)
        main = page.content.decode().partition("<main")[2]
        return " ".join(re.sub(r"<[^>]+>", " ", main).split())

    def test_every_page_answers_and_no_figure_is_less_than_nothing(self):
        for name, *_ in PAGES:
            with self.subTest(name):
                self.assertIsNone(re.search(r"(?<!\w)[−-]\D?0(\.0+)?(?![\d.])|\bnan\b|-{4,}", self.read(name)))

    def test_a_list_that_holds_nothing_does_not_say_that_something_else_is_looked_for(self):
        for name, words, asked in (
            ("units:units", "No units yet.", "No unit is like that."),
            ("stock:parts", "Nothing lies in the drawers yet.", "called or fits so"),
        ):
            self.assertIn(words, self.read(name))
            self.assertContains(self.client.get(reverse(name), {"q": "belt"}), asked)
        self.assertIn("No money stands in what is here and not sold. Elsewhere", self.read("books:stock"))
