"""What an upgrade is worth, through the pages: the best set planned, money asked about, other ways, buyers, sales."""

from dataclasses import asdict, replace
from decimal import Decimal as D
from unittest.mock import patch

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import read_sheet
from core.intake.completeness import Presence
from core.stock.parts import Condition, PartKind
from core.workshop.upgrades.features import read_feature
from stations.catalogue import fit_sheets
from stations.common import clock
from stations.common.refusals import Refused
from stations.selling.appraisal import appraisal_of
from stations.selling.models import Comparable
from stations.stock import orders
from stations.stock import services as stock
from stations.stock.models import PartOrder, StockItem
from stations.stock.services import Sort
from stations.units import fitting, offers, parts
from stations.units.models import Content, WantedPart
from stations.units.parts import Described, Place
from stations.workshop import buyers, spending, upgrade_parts, upgrades
from stations.workshop.models import BuyerTable, Job, Reservation, WhatIf
from tests.core.test_upgrades import CHANGES, HERE, HOST, MODULE
from tests.stations.base import AtOnce
from tests.stations.test_through_the_pages import Through

CARD = "cards\n  card: bus 8-bit; length 150; height 99; fastest 10\nuses none\ndraws\n  +5: amps 0.5" + CHANGES
SOUND = CARD + "\nbrings\n  sound: words so"
PLAIN = CARD + "\nbrings none"
DISK = (
    "drives\n  d: interface SCSI 8-bit; plug 50-way; bay 3.5 inch; height 25; length 146; size 200 MB; rate 1; "
    "terminated yes\ndraws\n  +5: amps 0.4\n  +12: amps 0.4; more at start 1\ntakes\n  drive: count 1"
) + CHANGES
GAMES = {"buyer": "games"}
# A line of an order, but for what it is of.
ORDERED = {"quantity": "1", "each": "30", "condition": "new", "measure": "piece", "drawer": "D1"}


class Upgrades(Through):
    def scene(self) -> None:
        super().scene()
        fit_sheets.keep_offers(self.owner, self.model, read_sheet(Offers, HERE))
        self.unit = self.assessed("enhanced")
        fitting.say_whole(self.owner, self.unit, True)
        for number in range(4):
            self.sale(D(200), age=number)
        self.drawer("Sound card", SOUND, "12")

    def sale(self, price: D, age: int = 0, **more) -> Comparable:
        today = appraisal_of(self.unit) and self.unit.assessed_at.date()
        return Comparable.objects.create(
            model=self.model, sold_on=today, grade="untested", completeness=100, price=price, **more
        )

    def sheet(self, name: str, text: str):
        return fit_sheets.keep_needs(self.owner, None, name, read_sheet(Needs, text))

    def drawer(self, name: str, text: str, paid: str, count: str = "1") -> StockItem:
        self.sheet(name, text)
        return stock.stock_part(self.owner, Sort(name, Condition.TESTED.value, "D4"), count, D(paid)).item

    def offered(self, name: str, text: str, each: str, postage: str | None = "4.00") -> None:
        self.sheet(name, text)
        quote = offers.Quote(name, "Quay", D(each), days=3, postage=D(postage) if postage else None)
        offers.note_offer(self.owner, quote)

    def page(self, **asked):
        return self.client.get(f"/workshop/W-{self.unit.number}/upgrades/", asked)

    def plan(self, keys, **asked):
        return self.post("workshop:plan-upgrades", [self.unit.number], key=keys, **asked)


class TheSet(Upgrades):
    def test_what_takes_away_and_what_costs_more_than_it_adds_is_said(self):
        self.drawer("Accelerator", CARD + "\nbrings\n  too fast for old programs: words so", "2")
        self.drawer("Stick", CARD + "\nbrings\n  joystick: words so", "30")
        page = self.page(**GAMES)
        self.assertContains(page, "Takes away for this buyer:</b> Accelerator.")
        self.assertContains(page, "Adds less than it costs: Stick.")

    def test_what_pays_is_proposed_with_its_figures(self):
        page = self.page(**GAMES)
        # 22 % of 200 for sound; the card 12.00 and 15 minutes at the shop’s rate.
        self.assertContains(page, "Sound card")
        self.assertContains(page, "adds €44.00 for €12.00 and 15 min")
        self.assertContains(page, "Proven best of all that fit together")

    def test_one_press_makes_jobs_reservations_and_wanted_entries(self):
        self.offered("Net card", CARD + "\nbrings\n  network: words so", "5")
        buyers.keep_buyer(self.owner, "", buyers.BuyerTyped("Both", "sound: 20 %\nnetwork: 20 %"))
        self.assertContains(self.page(buyer="both"), "Plan these 2")
        self.done(self.plan(["Net card", "Sound card"], buyer="both"))
        jobs = {job.title: job for job in Job.objects.filter(unit=self.unit)}
        self.assertEqual(set(jobs), {"Fit Net card", "Fit Sound card"})
        self.assertEqual(jobs["Fit Net card"].waiting_for, "Net card")
        self.assertEqual(jobs["Fit Sound card"].said_to_add, D("40.00") - 12 - self.labour(15))
        held = Reservation.objects.get()
        self.assertEqual((held.job, held.item.name, held.quantity), (jobs["Fit Sound card"], "Sound card", 1))
        want = WantedPart.objects.get()
        self.assertEqual((want.name, want.quantity, want.unit), ("Net card", 1, self.unit))
        self.assertContains(self.client.get("/intake/wanted/"), "Net card")
        kept = WhatIf.objects.get()
        self.assertTrue(kept.planned)
        self.assertEqual((kept.price, kept.adds, kept.parts), (200, 80, 21))
        # Once more, and it is said that this is planned.
        self.assertContains(self.again_there(self.plan(["Net card", "Sound card"], buyer="both")), "planned already")

    def labour(self, minutes: int) -> D:
        found = upgrades.found_for(self.unit, "games")
        return round(found.worth.hourly * minutes / 60, 2)

    def again_there(self, answer):
        return self.client.get(answer["Location"])

    def test_what_came_frees_the_job_and_closes_the_entry(self):
        self.offered("Net card", CARD + "\nbrings\n  network: words so", "5")
        self.done(self.plan(["Net card"], buyer="daily"))
        order = orders.order_parts(self.owner, "Quay", orders.Terms())
        sort = Sort("Net card", Condition.TESTED.value, "D5")
        orders.add_to_order(self.owner, order, orders.Ordered(sort, "1", D(5), "Net card"))
        freed = orders.take_in(self.owner, order, {})
        self.assertIn("Net card", " ".join(one.words for one in freed.freed))
        self.assertIsNotNone(WantedPart.objects.get().got_at)
        self.assertEqual(Job.objects.get().waiting_for, "")

    def test_another_set_by_now_is_refused(self):
        self.assertContains(self.again_there(self.plan(["Other card"], **GAMES)), "another one by now")
        self.assertFalse(Job.objects.exists())
        self.assertContains(self.again_there(self.plan([], buyer="collector")), "nothing to plan")

    def test_kept_as_a_what_if(self):
        self.done(self.post("workshop:plan-upgrades", [self.unit.number], keep="yes", budget="40", **GAMES))
        kept = WhatIf.objects.get()
        self.assertEqual((kept.budget, kept.planned, kept.names), (40, False, "Sound card"))
        self.assertContains(self.page(), "Kept")

    def test_a_converter_is_held_or_wanted_with_its_part(self):
        self.drawer("SCSI card", HOST + CHANGES + "\nbrings none", "4")
        self.drawer("SCSI disk", DISK.replace("50-way", "68-way") + "\nbrings\n  quiet: words so", "4")
        self.sheet("Adapter", "converts\n  w: goes in 50-way; comes out 68-way")
        buyers.keep_buyer(self.owner, "", buyers.BuyerTyped("Quiet", "quiet: 40 %"))
        # What a converter costs that nobody has is not known: then the disk is in no set.
        self.assertContains(self.page(buyer="quiet"), "what a converter for it costs is not known")
        offers.note_offer(self.owner, offers.Quote("Adapter", "Quay", D(3), days=3, postage=D(2)))
        self.done(self.plan(["SCSI card", "SCSI disk"], buyer="quiet"))
        self.assertEqual(WantedPart.objects.get().name, "Adapter")

    def test_single_parts_and_donors_are_had_too(self):
        self.sheet("Wave card", CARD + "\nbrings\n  wave: words so")
        parts.buy_part(self.owner, Described(PartKind.CARD, "Wave card", keeps_data=False), D(7), "F1")
        donor = self.assessed("donor")
        self.sheet("Donor card", CARD + "\nbrings\n  horn: words so")
        parts.record_part(
            self.owner, Place(donor, "1"), Described(PartKind.CARD, "Donor card", keeps_data=False, worth=D(3))
        )
        buyers.keep_buyer(self.owner, "", buyers.BuyerTyped("Both", "wave: 20 %\nhorn: 20 %"))
        self.done(self.plan(["Donor card", "Wave card"], buyer="both"))
        titles = " ".join(Job.objects.values_list("title", flat=True))
        self.assertIn(f"in {donor.tag}", titles)
        self.assertIn("drawer F1", titles)

    def test_bad_input_is_said_at_its_field_and_kept(self):
        for field, typed, words in (
            ("budget", "-1", "may not be below 0"),
            ("budget", "eighty", "Type an amount"),
            ("minutes", "-5", "may not be below 0"),
            ("minutes", "1.5", "whole number"),
            ("musts", "memory 8 apples", "say how much"),
            ("buyer", "nobody", "not among the choices"),
        ):
            page = self.page(**{field: typed})
            self.assertContains(page, words, msg_prefix=typed)
            if field != "buyer":
                self.assertContains(page, typed)

    def test_nothing_to_compare_with_is_said_and_nothing_priced(self):
        Comparable.objects.all().delete()
        self.assertContains(self.page(), "Nothing sold elsewhere to compare it with")
        with self.assertRaisesRegex(Refused, "no set to keep"):
            upgrades.keep_what_if(self.owner, upgrades.found_for(self.unit))

    def test_a_bare_machine_says_what_would_bring_it_what_nobody_has(self):
        self.sheet("Stick", CARD + "\nbrings\n  joystick: words so")
        page = self.page(musts="joystick, sound", budget="60", **GAMES)
        self.assertContains(page, "joystick: nothing that is to be had and known to fit brings it")
        self.assertContains(page, "Stick")

    def test_what_can_be_had_though_not_with_the_rest_is_not_said_to_be_nowhere(self):
        self.drawer("Net card", CARD + "\nbrings\n  network: words so", "12")
        asked = {"musts": "network, sound", "budget": "15", **GAMES}
        self.assertContains(self.page(**asked), "though not with all the rest and within the limits")
        with patch("core.workshop.upgrades.best._Solving._meet", return_value=False):
            self.assertContains(self.page(**asked), "network: no set with it was found in time; there may be one.")

    def test_nothing_found_in_time_is_not_nothing(self):
        with patch("stations.workshop.upgrades.SECONDS", 0):
            page = self.page(**GAMES)
        self.assertContains(page, "No set that pays was found in time")
        self.assertNotContains(page, "No upgrade adds more than it costs")

    def test_conserving_refuses_the_plan_in_words(self):
        self.unit.approach = "conserve"
        self.unit.save()
        self.assertContains(self.again_there(self.plan(["Sound card"], **GAMES)), "Conserve: only work")
        self.assertFalse(Job.objects.exists())
        self.assertFalse(WhatIf.objects.exists())

    def test_queries_do_not_grow_with_parts(self):
        def queries() -> int:
            with CaptureQueriesContext(
                connection,
            ) as seen:
                self.page(**GAMES)
            return len(seen)

        for number in range(2):
            self.drawer(f"Card {number}", PLAIN, "3")
        before = queries()
        for number in range(2, 14):
            self.drawer(f"Card {number}", PLAIN, "3")
        self.assertEqual(queries(), before)

    def test_who_may_not_open_jobs_sees_no_button_and_is_refused(self):
        self.sign_in(self.viewer)
        self.assertNotContains(self.page(**GAMES), "Plan this one")
        self.plan(["Sound card"], **GAMES)
        self.assertFalse(Job.objects.exists())

    def test_memory_by_groups_is_held_whole(self):
        self.drawer("Module", MODULE + CHANGES + "\nbrings none", "10", "4")
        buyers.keep_buyer(self.owner, "", buyers.BuyerTyped("Wide", "memory 8 MiB: 40 %"))
        self.done(self.plan(["Module × 4"], buyer="wide"))
        self.assertEqual(Reservation.objects.get().quantity, 4)


class AtTheSameMoment(AtOnce):
    def test_a_set_is_planned_once(self):
        unit = self.assessed("enhanced")
        fit_sheets.keep_offers(self.owner, self.model, read_sheet(Offers, HERE))
        fitting.say_whole(self.owner, unit, True)
        fit_sheets.keep_needs(self.owner, None, "Sound card", read_sheet(Needs, SOUND))
        stock.stock_part(self.owner, Sort("Sound card", Condition.TESTED.value, "D4"), "4", D(48))
        Comparable.objects.create(model=self.model, sold_on=clock.today(), grade="untested", price=D(200))

        def plan() -> list[Job]:
            found = upgrades.found_for(self.again(unit), "games")
            return upgrades.plan_set(self.owner, self.again(unit), found, ["Sound card"])

        ends = self.together(plan, plan)
        refused = [end for end in ends if isinstance(end, str)]
        self.assertEqual(len(refused), 1, ends)
        self.assertIn("planned already", refused[0])
        self.assertEqual(Job.objects.count(), 1)
        self.assertEqual(Reservation.objects.get().quantity, 1)


class Spending(Upgrades):
    def job(self, **data) -> Job:
        self.done(
            self.post(
                "workshop:unit",
                [self.unit.number],
                title="Fit a card",
                version="1",
                kind="upgrade",
                estimate_minutes="10",
                reversible="true",
                **data,
            )
        )
        return Job.objects.get(title="Fit a card")

    def test_a_part_that_costs_more_than_it_adds_is_asked_about_once(self):
        dear = self.drawer("Dear card", PLAIN, "40", "2")
        job = self.job()
        asked = self.post("workshop:issue", [job.pk], item=str(dear.pk), quantity="1")
        self.assertContains(asked, "Dear card costs 20.00 and adds nothing for any buyer")
        self.assertFalse(job.issues.exists())
        self.done(self.post("workshop:issue", [job.pk], item=str(dear.pk), quantity="1", sure="yes"))
        self.assertEqual(job.issues.get().cost, D("20.00"))
        # It was answered: the next one of it is not asked about.
        self.done(self.post("workshop:issue", [job.pk], item=str(dear.pk), quantity="1"))
        self.assertEqual(job.issues.count(), 2)

    def test_what_pays_what_is_not_known_and_what_was_planned_is_not_asked_about(self):
        job = self.job()
        sound = StockItem.objects.get(name="Sound card")
        self.assertIsNone(spending.doubt_of_issue(job, sound, D(1)))
        unsaid = stock.stock_part(self.owner, Sort("Unsaid", Condition.NEW.value, "D9"), "1", D(99)).item
        self.assertIsNone(spending.doubt_of_issue(job, unsaid, D(1)))
        dear = self.drawer("Dear card", PLAIN, "40")
        planned = self.again(job)
        planned.said_to_add = D(3)
        self.assertIsNone(spending.doubt_of_issue(planned, dear, D(1)))
        self.assertIsNotNone(spending.doubt_of_issue(job, dear, D(1)))

    def test_one_that_takes_away_says_so(self):
        bad = self.drawer("Accelerator", CARD + "\nbrings\n  too fast: words so", "4")
        for code in buyers.buyers():
            typed, version = buyers.as_typed(code)
            buyers.keep_buyer(self.owner, code, replace(typed, effects="too fast: -10 %"), version)
        doubt = spending.doubt_of_issue(self.job(), bad, D(1))
        self.assertEqual(doubt.words, "Accelerator costs 4.00 and takes 20.00 from the price, whoever buys it.")

    def test_ordering_what_costs_more_than_it_adds_is_asked_about_once(self):
        self.sheet("Dear card", PLAIN)
        offers.want_part(self.owner, self.unit, "Dear card", 1)
        order = orders.order_parts(self.owner, "Quay", orders.Terms())
        line = ORDERED | {"name": "Dear card"}
        asked = self.post("stock:order-line", [order.number], **line)
        self.assertContains(asked, f"{self.unit.tag}: Dear card costs 30.00 and adds nothing")
        self.assertContains(asked, 'value="Dear card"')
        self.assertFalse(order.lines.exists())
        self.done(self.post("stock:order-line", [order.number], sure="yes", **line))
        self.assertEqual(order.lines.count(), 1)
        self.assertTrue(WantedPart.objects.get().asked)

    def test_the_cheapest_way_asks_before_it_orders(self):
        self.offered("Dear card", PLAIN, "30")
        offers.want_part(self.owner, self.unit, "Dear card", 1)
        page = self.client.get("/intake/wanted/cheapest/")
        self.assertContains(page, "Dear card costs 34.00 and adds nothing")
        self.assertContains(page, "Order it all the same")
        seen = page.context["best"].mark
        self.post("units:order-it", [], seen=seen)
        self.assertFalse(PartOrder.objects.exists())
        self.done(self.post("units:order-it", [], sure="yes", seen=seen))
        self.assertEqual(PartOrder.objects.get().lines.get().item.name, "Dear card")

    def test_a_part_that_is_not_wanted_after_all(self):
        want = offers.want_part(self.owner, self.unit, "Sound card", 1)
        self.assertEqual(offers.want_part(self.owner, self.unit, "Sound card", 2).quantity, 3)
        self.done(self.post("units:drop-want", [want.pk]))
        self.assertFalse(WantedPart.objects.exists())

    def test_issued_from_a_drawer_it_is_wanted_no_more(self):
        offers.want_part(self.owner, self.unit, "Sound card", 1)
        item = StockItem.objects.get(name="Sound card")
        self.done(self.post("workshop:issue", [self.job().pk], item=str(item.pk), quantity="1"))
        self.assertIsNotNone(WantedPart.objects.get().got_at)


class OtherWays(Upgrades):
    def test_side_by_side_with_price_minutes_and_worth(self):
        missing = Content.objects.create(unit=self.unit, name="tape drive", presence=Presence.MISSING.value, weight=3)
        serves = "\nserves\n  tape drive: origin {}"
        self.drawer(
            "Own drive", f"draws none{CHANGES}\nbrings\n  its own drive: words so" + serves.format("original"), "30"
        )
        self.offered(
            "Reader",
            "draws none\nchanges\n  it: reversible yes; modern yes\nbrings none" + serves.format("modern"),
            "9",
        )
        self.sheet("Printed frame", f"draws none{CHANGES}\nbrings none" + serves.format("made"))
        page = self.client.get(reverse("workshop:instead", args=[self.unit.number, missing.pk]))
        for words in (
            "Own drive",
            "Reader",
            "Printed frame",
            "30.00",
            "13.00",
            "nobody known has one",
            # 66 in 100 complete it fetches 200 · e^(−0.17) = 168.73. Whole again 31.27 more, and 6 in 100 for its
            # own drive, 12 in 100 less for a modern part.
            "+41.39",
            "+11.02",
        ):
            self.assertContains(page, words)
        self.assertContains(page, "Conserve: only work that can be undone, and no modification")
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/worth/"), "Other ways to have it again")

    def test_more_ways_than_stand_side_by_side_are_named(self):
        missing = Content.objects.create(unit=self.unit, name="tape drive", presence=Presence.MISSING.value, weight=3)
        for number in range(7):
            self.sheet(f"Frame {number}", f"draws none{CHANGES}\nbrings none\nserves\n  tape drive: origin made")
        page = self.client.get(reverse("workshop:instead", args=[self.unit.number, missing.pk]))
        self.assertContains(page, "2 more:")
        for way in page.context["more"]:
            self.assertContains(page, way.candidate.name)

    def test_what_takes_the_last_place_is_said(self):
        missing = Content.objects.create(unit=self.unit, name="tape drive", presence=Presence.MISSING.value, weight=3)
        self.sheet("Disk", "draws none\ntakes\n  drive: count 1\nbrings none" + CHANGES)
        parts.record_part(self.owner, Place(self.unit, "lower"), Described(PartKind.DISK, "Disk"))
        ours = DISK.replace("SCSI 8-bit; plug 50-way", "ATA 16-bit; plug 40-way").replace("size 200 MB", "size 40 MB")
        self.sheet("A disk in its place", ours + "\nserves\n  tape drive: origin modern")
        page = self.client.get(reverse("workshop:instead", args=[self.unit.number, missing.pk]))
        self.assertContains(page, "Takes the last free 3.5 inch bay.")

    def test_without_sheets_it_says_what_to_do(self):
        missing = Content.objects.create(unit=self.unit, name="tape drive", presence=Presence.MISSING.value)
        page = self.client.get(reverse("workshop:instead", args=[self.unit.number, missing.pk]))
        self.assertContains(page, "No sheet of a part says that it serves as")
        other = self.assessed("enhanced")
        self.assertEqual(self.client.get(reverse("workshop:instead", args=[other.number, missing.pk])).status_code, 404)


class Buyers(Upgrades):
    BUYER = {"name": "Museums", "words": "shows it", "effects": "modern part: -10 %\nits own disk: 5 %", "version": "0"}

    def test_a_new_one_is_kept_changed_dropped_and_brought_back(self):
        self.done(self.post("workshop:buyer-new", [], **self.BUYER))
        self.assertIn("museums", buyers.buyers())
        self.done(self.post("workshop:buyer", ["museums"], **self.BUYER | {"effects": "sound: 3 %", "version": "1"}))
        self.assertEqual(buyers.buyers()["museums"].effects[0].percent, 3)
        self.says(self.post("workshop:buyer", ["museums"], **self.BUYER | {"version": "1"}), "Somebody")
        self.done(self.post("workshop:drop-buyer", ["museums"]))
        self.assertNotIn("museums", buyers.buyers())
        self.done(self.post("workshop:drop-buyer", ["museums"], dropped="no"))
        self.assertIn("museums", buyers.buyers())

    def test_one_that_comes_with_the_application_is_laid_over(self):
        typed, version = buyers.as_typed("games")
        data = {**asdict(typed), "effects": "sound: 50 %", "version": str(version)}
        self.done(self.post("workshop:buyer", ["games"], **data))
        self.assertEqual(BuyerTable.objects.get().code, "games")
        self.assertContains(self.page(**GAMES), "adds €100.00")

    def test_bad_tables_are_said_with_their_line_and_kept(self):
        for effects, words in (
            ("", "looks for nothing"),
            ("sound", "Line 1"),
            ("a: 1 %\nb: lots", "Line 2"),
            ("memory 3 apples: 1 %", "say how much"),
        ):
            page = self.post("workshop:buyer-new", [], **self.BUYER | {"effects": effects})
            self.says(page, words)
        self.says(self.post("workshop:buyer-new", [], **self.BUYER | {"name": "period games"}), "already")
        self.assertEqual(self.client.get("/workshop/buyers/nobody/").status_code, 404)

    def test_one_has_to_be_left(self):
        for code in list(buyers.buyers())[1:]:
            buyers.drop_buyer(self.owner, code)
        with self.assertRaisesRegex(Refused, "has to be left"):
            buyers.drop_buyer(self.owner, next(iter(buyers.buyers())))

    def test_sales_with_their_features_teach(self):
        for number in range(10):
            self.sale(D(300 if number % 2 else 200), features=["sound"] if number % 2 else [], buyer="games")
        taught = upgrades.found_for(self.unit, "games").best.buyer
        self.assertEqual(taught.sales, 10)
        # Half as much again is what these say, the table 22 %: between the two, and nearer to the sales.
        self.assertGreater(taught.of(read_feature("sound")).percent, 33)
        self.assertLess(taught.of(read_feature("sound")).percent, 50)
        self.assertContains(self.page(**GAMES), "learned from 10 sales")

    def test_a_sale_is_noted_with_what_it_had(self):
        sale = {
            "model": str(self.model.pk),
            "sold_on": "2026-11-01",
            "grade": "B",
            "completeness": "100",
            "price": "210",
            "currency": "EUR",
            "rate": "1",
            "channel": "",
            "buyer": "games",
        }
        self.done(self.post("selling:comparables", [], **sale, features="Sound, memory 8 MiB"))
        row = Comparable.objects.order_by("-pk").first()
        self.assertEqual((row.features, row.buyer), (["memory 8 mib", "sound"], "games"))
        self.done(self.post("selling:comparables", [], **sale, features="none", another="on"))
        self.done(self.post("selling:comparables", [], **sale, features="", another="on"))
        self.assertEqual([row.features for row in Comparable.objects.order_by("-pk")[:2]], [None, []])
        self.says(self.post("selling:comparables", [], **sale, features="memory 8 apples"), "say how much")

    def test_what_a_machine_has_is_known_only_when_all_of_it_is(self):
        self.assertIsNone(upgrade_parts.features_of(self.unit))
        chip = "processors\n p: kind 168-pin; volts 5; bus 25; multiplier 2; most 50\ndraws none\nbrings none" + CHANGES
        self.sheet("Chip", chip)
        described = Described(PartKind.CHIP, "Chip", keeps_data=False)
        parts.record_part(self.owner, Place(self.unit, "processor"), described)
        self.assertEqual(upgrade_parts.features_of(self.again(self.unit)), ["processor 33 mhz"])
