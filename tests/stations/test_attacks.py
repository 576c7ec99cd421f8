"""The attacks of benchmarks/attack.py, small: nonsense, races and every door, by HTTP on the demo shop."""

import random
from collections import Counter

from django.apps import apps
from django.test import LiveServerTestCase

from benchmarks import fuzz, races
from benchmarks.instance import Visitor, crawl
from stations.books.selectors import complaints
from stations.people.models import HistoryEntry
from tests import demo_shop
from tests.stations.base import LedgerEmptied


class Attacks(LedgerEmptied, LiveServerTestCase):
    takes = 90

    def setUp(self):
        demo_shop.put_up()

    def test_nonsense_races_and_a_stranger(self):
        owner = Visitor(self.live_server_url).sign_in("runa")
        forms = crawl(owner, each=1)[1]
        self.assertGreater(len(forms), 100)

        with self.subTest("nonsense"):
            attack = fuzz.Fuzz(self.live_server_url, 150, seed=3, each=1)
            attack.run(forms)
            self.assertEqual(attack.broken, [])
            self.assertGreater(attack.statuses[200] + attack.statuses[302], 100)

        with self.subTest("races"):
            race = races.Races(self.live_server_url, seed=3, each=1)
            for number in range(25):
                race.one(races.KINDS[number % len(races.KINDS)])
            self.assertEqual(race.broken, [])
            self.assertEqual(complaints(), [])

        with self.subTest("a stranger and a viewer"):
            before = self.rows()
            stranger, viewer = Visitor(self.live_server_url), Visitor(self.live_server_url).sign_in("vera")
            stranger.get("/people/sign-in/")
            chance, seen = random.Random(3), Counter()
            for form in chance.sample([form for form in forms if form.posts], 60):
                if fuzz.at_the_door(form):
                    continue
                seen[stranger.post(form.action, fuzz.filled(form, chance)).status] += 1
                self.assertLess(viewer.post(form.action, fuzz.filled(form, chance)).status, 500)
            self.assertEqual(set(seen), {302})
            self.assertEqual(self.rows(), before)

    def rows(self) -> dict[str, int]:
        ours = [model for model in apps.get_models() if model.__module__.startswith("stations.")]
        return {model._meta.label: model.objects.count() for model in ours if model is not HistoryEntry}
