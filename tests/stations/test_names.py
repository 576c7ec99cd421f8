"""Names that are one to the database, and differ in case, accents or letters that are written two ways."""

import unicodedata
from collections import defaultdict
from decimal import Decimal as D
from string import ascii_lowercase

from django.db import connection
from django.test import TestCase

from core.intake.completeness import Presence
from core.machine.names import as_seen
from stations.catalogue.models import ExpectedItem
from stations.stock import orders
from stations.units import offers, paths
from stations.units.models import Content, Unit
from stations.workshop import proposals, spending, upgrade_parts
from tests.stations.test_upgrades import ORDERED, PLAIN, SOUND, Upgrades

# Latin, Greek, Cyrillic, what is typed besides, and letters as wide as they are high.
BLOCKS = ((0x20, 0x250), (0x370, 0x530), (0x1E00, 0x2300), (0xFF00, 0xFF60))
SHOWN = "CONVERT(%s USING utf8mb4) COLLATE utf8mb4_unicode_ci"


class AsTheDatabase(TestCase):
    def test_what_is_one_name_there_is_one_here(self):
        """Letter by letter, and each letter against two of the alphabet: by the weights of the collation itself."""
        letters = [chr(code) for begin, end in BLOCKS for code in range(begin, end)]
        letters = [one for one in letters if unicodedata.category(one) not in {"Cn", "Cs"}]
        letters += [one + other for one in ascii_lowercase for other in ascii_lowercase]
        by_weight: dict[str, set[str]] = defaultdict(set)
        with connection.cursor() as cursor:
            for begin in range(0, len(letters), 200):
                some = [f"a{one}b" for one in letters[begin : begin + 200]]
                weights = ", ".join([f"HEX(WEIGHT_STRING({SHOWN}))"] * len(some))
                cursor.execute(f"SELECT {weights}", some)
                for word, weight in zip(some, cursor.fetchone(), strict=True):
                    by_weight[weight].add(as_seen(word))
        self.assertGreater(len(letters), 2500)
        self.assertLess(len(by_weight), len(letters) - 1000, "many are one")
        self.assertEqual([seen for seen in by_weight.values() if len(seen) > 1], [])


class OneName(Upgrades):
    def test_an_order_of_what_is_wanted_by_another_spelling_is_asked_about(self):
        self.sheet("Straßen-Encœder", PLAIN)
        offers.want_part(self.owner, self.unit, "Strassen-Encoeder", 1)
        order = orders.order_parts(self.owner, "Quay", orders.Terms())
        line = ORDERED | {"name": "STRASSEN-ENCŒDER"}
        asked = self.post("stock:order-line", [order.number], **line)
        self.assertContains(asked, f"{self.unit.tag}: Strassen-Encoeder costs 30.00 and adds nothing")
        self.done(self.post("stock:order-line", [order.number], sure="yes", **line))
        self.assertEqual(spending.doubts_of_orders({"Straßen-Encœder": D(30)}), [])

    def test_a_part_in_a_drawer_has_the_sheet_of_its_name_in_another_spelling(self):
        self.sheet("Café card", SOUND)
        self.stocked("CAFE CARD")
        (part,) = upgrade_parts.parts_for(self.unit, ["cafe card"])
        self.assertEqual((part.name, [source.kind.value for source in part.sources]), ("Café card", ["drawer"]))

    def stocked(self, name: str):
        item = self.drawer("Other card", SOUND, "5")
        type(item).objects.filter(pk=item.pk).update(name=name)

    def test_what_is_missing_is_priced_and_found_by_another_spelling(self):
        ExpectedItem.objects.create(model=self.model, name="Détente spring", estimate=D(7), weight=1)
        missing = Content.objects.create(unit=self.unit, name="Detente Spring", weight=1, presence=Presence.MISSING)
        unit = Unit.objects.prefetch_related("contents").get(pk=self.unit.pk)
        self.assertEqual(paths._to_buy(unit, paths._estimates([unit]))["missing_unpriced"], 0)
        donor = self.assessed("donor")
        there = donor.contents.filter(name=missing.name)
        self.assertEqual(there.update(name="DÉTENTE SPRING", presence=Presence.PRESENT), 1)
        found = [one for one in proposals.proposals_of(self.unit).all if one.key == f"content:{missing.pk}"]
        self.assertIn(f"{donor.tag} has one", found[0].why)
