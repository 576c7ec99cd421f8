"""A unit taken apart: its cost passes on to the parts kept, and every cent stays somewhere."""

from decimal import Decimal

from core.machine.approach import Approach
from stations.books.selectors import complaints
from stations.buying.models import TurnedOut
from stations.common.refusals import NotAllowed, Refused
from stations.intake import services as intake
from stations.ledger.models import Account
from stations.ledger.selectors import balance, balances
from stations.stock.models import StockItem
from stations.workshop.taking_apart import SalvagedPart, take_apart
from tests.stations.test_pages import PageTest

D = Decimal
PARTS = (SalvagedPart("Display board", "untested", "B2", 1, D(30)), SalvagedPart("Keyboard", "tested", "B3", 2, D(15)))


class TakingApart(PageTest):
    def donor(self):
        return self.assessed("donor")

    def test_what_it_carries_passes_on_by_worth(self):
        unit = self.donor()
        self.assertEqual(balance(Account.UNIT, unit.pk), D("39.40"))
        kept = take_apart(self.technician, unit, PARTS)
        self.assertEqual([part.cost for part in kept], [D("19.70"), D("19.70")])
        self.assertEqual(balance(Account.UNIT, unit.pk), 0)
        worth = balances(Account.STOCK, [part.item_id for part in kept])
        self.assertEqual(list(worth.values()), [D("19.70"), D("19.70")])
        self.assertEqual(StockItem.objects.get(name="Keyboard").quantity, 2)
        self.assertEqual((self.again(unit).stage, TurnedOut.objects.get().outcome), ("scrapped", "parts"))
        self.assertEqual(complaints(), [])
        with self.assertRaisesRegex(Refused, "can’t be taken apart"):
            take_apart(self.technician, unit, PARTS)

    def test_only_donors_of_our_own_and_only_into_something(self):
        unit = self.assessed("period")
        with self.assertRaisesRegex(Refused, "Only a donor"):
            take_apart(self.technician, unit, PARTS)
        intake.choose_approach(self.owner, unit, Approach.DONOR, "cracked")
        with self.assertRaisesRegex(Refused, "at least one part"):
            take_apart(self.technician, unit, [])
        with self.assertRaises(NotAllowed):
            take_apart(self.viewer, unit, PARTS)

    def test_through_the_page_looked_at_first(self):
        unit = self.donor()
        sent = {
            "parts-TOTAL_FORMS": "2",
            "parts-INITIAL_FORMS": "0",
            "parts-0-name": "Display board",
            "parts-0-condition": "untested",
            "parts-0-quantity": "1",
            "parts-0-worth": "30",
            "parts-1-condition": "untested",
            "parts-1-quantity": "1",
            "parts-1-worth": "",
        }
        page = self.post("workshop:take-apart", [unit.number], do="look", **sent)
        self.assertContains(page, "39.40")
        self.assertEqual(self.again(unit).stage, unit.stage)
        page = self.post("workshop:take-apart", [unit.number], do="keep", **sent | {"parts-0-quantity": "0"})
        self.assertIn("quantity", page.context["parts"].errors[0])
        page = self.post("workshop:take-apart", [unit.number], do="keep", **sent | {"parts-0-worth": ""})
        self.assertContains(page, "Say what it is worth: the cost goes by that.")
        page = self.post("workshop:take-apart", [unit.number], do="keep", **sent)
        self.assertRedirects(page, f"/W-{unit.number}/")
        self.assertContains(self.client.get(f"/workshop/W-{unit.number}/"), "1 × Display board")
