"""What is sold for its owner: only our commission of its price is ours, and it has to be said."""

from decimal import Decimal

from stations.common.refusals import Refused
from stations.day import gather
from stations.floor.selectors import next_steps
from stations.intake import capture
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.people import shop_settings
from stations.selling import services as selling
from stations.selling.looking import look_at
from stations.selling.market import unit_books
from stations.selling.models import Listing
from stations.units.models import Unit
from tests.stations.test_selling_well import Priced

D = Decimal


class TheCommission(Priced):
    def test_it_is_asked_for_and_never_taken_for_granted(self):
        (unit,) = self.receive()
        there = f"/intake/W-{unit.number}/"
        self.assertIsNone(self.client.get(there).context["holding"]["commission_percent"].value())
        said = {"holding": "consigned", "owner_name": "E. Norr", "write_key": ""}
        refused = self.client.post(f"{there}holding/", said)
        self.says(refused, "Say how much it is; 0 where there is none.")
        self.assertContains(refused, "E. Norr", status_code=refused.status_code)
        self.assertTrue(self.again(unit).ours)
        for typed, percent in (("0", 0), ("12,5", D("12.50"))):
            self.done(self.client.post(f"{there}holding/", said | {"commission_percent": typed}))
            self.assertEqual(self.again(unit).agreed.commission_percent, percent)
            self.assertEqual(self.client.get(there).context["holding"]["commission_percent"].value(), percent)

    def test_in_custody_nobody_asks_for_it(self):
        (unit,) = self.receive()
        self.done(
            self.client.post(f"/intake/W-{unit.number}/holding/", {"holding": "custody", "owner_name": "E. Norr"})
        )
        self.assertTrue(self.again(unit).custody)


class WhatComesNext(Priced):
    def test_of_what_is_somebody_elses_only_our_part_counts(self):
        """By the column that ranks, by the floor and by the plan of a day alike."""
        ours, sold_for_its_owner, kept = (self.hand().assess(unit, "conserve") for unit in self.receive(3))
        capture.set_ownership(
            self.owner, sold_for_its_owner, capture.Ownership("consigned", "E. Norr", commission_percent=D(25))
        )
        capture.set_ownership(self.owner, kept, capture.Ownership("custody", "E. Norr"))
        pulls = [self.again(unit).pull for unit in (ours, sold_for_its_owner, kept)]
        self.assertAlmostEqual(pulls[1], pulls[0] / 4)
        self.assertEqual(pulls[2], 0)
        worth = {ours.number: D(100), sold_for_its_owner.number: D(25), kept.number: D(0)}
        told = {step.unit.number: step.ranked for step in next_steps(most=9)}
        self.assertEqual({number: one.candidate.task.unlocks for number, one in told.items()}, worth)
        self.assertEqual(told[kept.number].why, "nothing comes in by it")
        self.assertEqual({unit.number: unit.worth for unit in gather.candidates()}, worth)

    def test_where_nobody_said_the_commission_it_is_not_known(self):
        (unit,) = self.receive()
        Unit.objects.filter(pk=unit.pk).update(holding="consigned", owner_name="E. Norr")
        self.assertIsNone(self.again(unit).our_share)
        self.assertEqual([one.worth for one in gather.candidates()], [None])


class OnLittleCommission(Priced):
    """Of what is sold for its owner only the commission is ours: fee and postage may take more than that."""

    def on_commission(self, percent: int) -> Unit:
        unit = self.listed("150")
        owned = capture.Ownership("consigned", "E. Norr", commission_percent=D(percent))
        capture.set_ownership(self.owner, unit, owned)
        return self.again(unit)

    def test_the_floor_is_where_our_part_covers_the_cost(self):
        unit = self.on_commission(40)
        left = unit_books(unit).leaves(self.channel)
        least, floor = unit_books(unit).floors(self.channel)
        # 12.00 of it are ours, 3.00 is the fee, 9.00 the postage.
        self.assertEqual(least, D("29.99"))
        wanted = balance(Account.UNIT, unit.pk) + shop_settings.settings().target_margin
        self.assertGreaterEqual(left(floor), wanted)
        self.assertLess(left(floor - D("0.02")), wanted)

    def test_where_no_price_covers_it_nobody_names_one_nor_a_plan(self):
        unit = self.on_commission(5)
        with self.assertRaisesRegex(ValueError, "no price covers"):
            unit_books(unit).floors(self.channel)
        page = self.page(unit)
        self.assertContains(page, "its owner’s part and tax take it all")
        self.assertNotContains(page, "If it does not sell")
        look_at(Listing.objects.get(unit=unit))
        listing = Listing.objects.get(unit=unit)
        self.assertEqual((listing.waiting, listing.least, listing.ask_now), (None, None, None))
        with self.assertRaisesRegex(Refused, "no price covers"):
            selling.set_price(self.owner, unit, listing.version, self.channel, D(500))
