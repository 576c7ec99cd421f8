"""What a piece is worth, and what it cost, is not known until somebody said it, and never counts as nothing."""

import json
from dataclasses import replace
from decimal import Decimal
from importlib import import_module
from unittest.mock import patch

from django.apps import apps
from django.db import IntegrityError, connection, transaction
from django.urls import reverse

from core.buying.share import Basis
from core.flow.stage import Stage
from core.intake.triage import USUAL_EFFORT, Path, as_it_stands, open_paths
from core.money import to_cent
from core.selling.grade import Grade
from stations.bench import stops
from stations.bench.facts import bench_flow
from stations.books.selectors import complaints, lot_results
from stations.buying import manifests, plans
from stations.buying import services as buying
from stations.buying.details import LineDetails
from stations.buying.models import Lot, LotLine, SourceKind
from stations.buying.selectors import lot_status, with_money
from stations.buying.sharing import share_lot
from stations.catalogue import bank_files
from stations.catalogue.models import MachineModel
from stations.common.refusals import Refused
from stations.dispatch import parcels
from stations.floor.selectors import next_steps
from stations.intake import receiving, settling, triage
from stations.intake import services as intake
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.selling import services as selling
from stations.selling.market import market_of, unit_books, usual_channel
from stations.selling.models import Channel
from stations.selling.selectors import blocks_with_pages
from stations.stock.services import Sort
from stations.units.models import Unit
from stations.units.paths import USUAL_FEE, weigh_paths, with_facts
from stations.workshop import services as workshop
from stations.workshop import taking_apart
from stations.workshop.learned import minutes_of_a_unit
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from stations.workshop.side_by_side import whole_worth
from stations.workshop.taking_apart import SalvagedPart
from tests.stations.base import lot_data
from tests.stations.test_manifests import COLUMNS
from tests.stations.test_plans import LINE, TERMS
from tests.stations.test_selling_well import sales
from tests.stations.test_through_the_pages import Through

D = Decimal


def unsaid(description: str = "Brisk Luggable 88", quantity: int = 2, **changes):
    return replace(LINE_DATA, description=description, quantity=quantity, **changes)


LINE_DATA = LineDetails(
    description="Brisk Luggable 88", quantity=2, kind="machine", form_factor="luggable", claim="untested"
)
WORTH_5 = {"worth_low": D(5), "worth_likely": D(5), "worth_high": D(5)}


class Unsaid(Through):
    """A lot of which nobody said what it is worth; its cost is not shared either."""

    def scene(self) -> None:
        super().scene()
        self.bare = buying.record_lot(self.owner, lot_data(title="Loft"), [unsaid()])
        self.loft_line = self.bare.lines.get()

    def here(self) -> Unit:
        return intake.receive(self.owner, self.loft_line, 1)[0]

    def triaged(self, unit: Unit):
        return weigh_paths(list(with_facts(Unit.objects.filter(pk=unit.pk))))


class WorthOfALine(Unsaid):
    def test_a_lot_is_not_judged_by_it(self):
        self.here()
        status, (result,) = lot_status(with_money([self.bare])[0]), lot_results([self.bare])
        for seen in (status, result):
            self.assertEqual((seen.to_come, seen.ahead.unsaid, seen.likely), (0, 2, None))
        self.assertIsNone(status.pieces_to_even)
        lot, books = reverse("buying:lot", args=[self.bare.number]), reverse("books:lot", args=[self.bare.number])
        for page in (lot, books):
            self.assertContains(self.client.get(page), "Nobody said what the\n2 pieces left\nare worth.")
        self.assertNotContains(self.client.get(lot), "does not cover it")
        self.assertContains(self.client.get(reverse("books:books")), "+ 2 not valued")
        floor = self.client.get("/")
        self.assertContains(floor, "2 not valued")
        self.assertContains(floor, "not known")

    def test_what_is_known_of_the_rest_still_counts(self):
        mixed = buying.record_lot(self.owner, lot_data(), [unsaid(), unsaid("Tower", 60, **WORTH_5)])
        status = lot_status(with_money([mixed])[0])
        self.assertEqual((status.to_come, status.likely), (D(300), None))
        # 130.00 landed: 26 towers at 5.00 cover it, whatever the luggables are worth.
        self.assertEqual(status.pieces_to_even, 26)

    def test_said_later_it_is_known_everywhere(self):
        unit = self.here()
        self.assertIsNone(self.again(unit).expected_worth)
        page = reverse("buying:line", args=[self.bare.number, self.loft_line.pk])
        typed = self.client.get(page).context["form"]
        self.assertIsNone(typed["worth_likely"].value())
        kept = {name: "" if (v := typed[name].value()) is None else v for name in typed.fields}
        self.done(self.client.post(page, kept | {"worth_likely": "80"}))
        line = self.again(self.loft_line)
        # The likely one alone stands for all three.
        self.assertEqual((line.worth_low, line.worth_likely, line.worth_high), (80, 80, 80))
        self.assertEqual(lot_status(with_money([self.lot_of(line)])[0]).to_come, D(160))
        self.assertTrue(self.triaged(unit))

    def lot_of(self, line: LotLine) -> Lot:
        return Lot.objects.get(pk=line.lot_id)

    def test_half_of_it_is_asked_for_at_its_field(self):
        page = reverse("buying:line", args=[self.bare.number, self.loft_line.pk])
        typed = self.client.get(page).context["form"]
        kept = {name: "" if (v := typed[name].value()) is None else v for name in typed.fields}
        refused = self.client.post(page, kept | {"worth_low": "5"})
        self.says(refused, "Say what it is likely worth too", "5")
        self.assertEqual([*refused.context["form"].errors], ["worth_likely"])
        self.says(self.client.post(page, kept | {"worth_likely": "5", "worth_high": "4"}), "must rise in this order")
        self.assertIsNone(self.again(self.loft_line).worth_low)
        for half in ({"worth_likely": 5, "worth_high": 9}, {"worth_low": 5}, {"worth_low": 5, "worth_likely": 6}):
            with self.subTest(half), self.assertRaises(IntegrityError), transaction.atomic():
                LotLine.objects.filter(pk=self.loft_line.pk).update(**half)

    def test_it_leaves_in_no_file_as_nothing(self):
        answer = self.client.get(reverse("buying:lines-json", args=[self.bare.number]))
        (row,) = json.loads(b"".join(answer) if answer.streaming else answer.content)["lines"]
        self.assertEqual((row["worth_low"], row["worth_likely"], row["worth_high"]), (None, None, None))

    def test_by_value_it_is_shared_only_where_each_has_one(self):
        mixed = buying.record_lot(self.owner, lot_data(), [unsaid("Tower", 1, **WORTH_5), unsaid()])
        with self.assertRaisesRegex(Refused, "Line 2 has no worth") as caught:
            share_lot(self.owner, mixed, Basis.VALUE)
        self.assertEqual(caught.exception.field, "basis")
        page = self.client.get(reverse("buying:lot", args=[mixed.number]))
        self.assertContains(page, "By value: Line 2 has no worth. Say it, or share on another basis.")
        share_lot(self.owner, self.bare, Basis.VALUE)
        self.assertIn("shared by count", self.bare.sharings.get().note)

    def test_next_up_names_it_last_and_why(self):
        unit = self.hand().assess(self.here(), model=self.model)
        self.assessed()
        steps = next_steps()
        self.assertEqual([step.unit.pk == unit.pk for step in steps], [False, True])
        self.assertEqual(steps[1].ranked.why, "nobody said what it is worth")
        self.assertContains(self.client.get("/"), "nobody said what it is worth")

    def test_what_moves_with_a_part_is_asked_for(self):
        unit = self.here()
        self.assertIsNone(whole_worth(unit))


class PathsOfIt(Unsaid):
    def test_they_are_free_to_choose_and_not_weighed(self):
        unit = self.here()
        self.assertEqual(self.triaged(unit), [])
        page = self.client.get(f"/intake/W-{unit.number}/")
        self.assertContains(page, "Nobody said what it is worth")
        self.assertContains(page, reverse("buying:line", args=[self.bare.number, self.loft_line.pk]))
        self.assertContains(page, '<option value="" selected>not decided</option>', html=True)
        there = reverse("intake:choose-path", args=[unit.number])
        refused = self.client.post(there, {"path": "", "reason": "smells of smoke"})
        self.says(refused, "Choose one of the paths.", "smells of smoke")
        self.assertEqual(self.again(unit).path, "")
        self.client.post(there, {"path": "scrap"})
        self.assertEqual(self.again(unit).path, "scrap")
        self.assertEqual(triage.choose_best(self.owner, list(with_facts(Unit.objects.filter(pk=unit.pk)))), 0)

    def test_sales_of_its_model_serve_as_well(self):
        unit = self.here()
        Unit.objects.filter(pk=unit.pk).update(model=self.model)
        sales(self.model, 20, grade="B")
        self.assertTrue(self.triaged(unit))

    def test_of_a_lot_they_are_named_and_the_rest_is_weighed(self):
        mixed = buying.record_lot(self.owner, lot_data(), [unsaid(), unsaid("Tower", 1, **WORTH_5)])
        (bare,), (tower,) = (intake.receive(self.owner, line, 1) for line in mixed.lines.all())
        page = self.client.get(reverse("intake:lot-triage", args=[mixed.number]))
        self.assertEqual([unit.pk for unit in page.context["unsaid"]], [bare.pk])
        self.assertEqual([row.unit.pk for row in page.context["rows"]], [tower.pk])
        self.assertContains(page, "no path can be weighed")

    def test_of_many_those_that_nobody_decided_stand_first_and_the_rest_is_counted(self):
        mixed = buying.record_lot(self.owner, lot_data(), [unsaid("Tower", 3, **WORTH_5)])
        towers = intake.receive(self.owner, mixed.lines.get(), 3)
        there = reverse("intake:lot-triage", args=[mixed.number])
        Unit.objects.filter(pk=towers[0].pk).update(path="as_is")
        with patch("stations.intake.views.triage.MOST_TRIAGED", 2):
            page = self.client.get(there)
            self.assertEqual({row.unit.pk for row in page.context["rows"]}, {tower.pk for tower in towers[1:]})
            self.assertContains(page, "The first 2 of 3 units.")
            # What was picked is chosen, wherever it stands by now.
            self.post("intake:lot-triage", [mixed.number], unit=[towers[0].number, towers[2].number])
        self.assertTrue(self.again(towers[2]).path)

    def test_what_the_bench_has_shown_is_reckoned_with(self):
        unit = self.assessed()
        Unit.objects.filter(pk=unit.pk).update(model=None)

        def odds() -> tuple[float, ...]:
            (row,) = weigh_paths(list(with_facts(Unit.objects.filter(pk=unit.pk))))
            return row.facts.odds

        before = odds()
        self.assertTrue(0 < before[0] < 1)
        self.hand().test(unit, fail={"fn-ports": "the port is dead"})
        rest = sum(before[1:])
        self.assertEqual(odds(), (0.0, *(share / rest for share in before[1:])))
        self.assertContains(self.client.get(reverse("intake:unit", args=[unit.number])), "failed at the bench")
        self.hand().wait(days=1).test(unit)
        self.assertEqual(odds(), (1.0, 0.0, 0.0, 0.0))
        self.assertContains(self.client.get(reverse("intake:unit", args=[unit.number])), "shown at the bench")
        stops.stop(self.owner, unit, "smell", "hot varnish")
        self.assertEqual(odds()[0], 0.0)

    def test_a_path_leaves_what_a_sale_leaves_where_it_would_be_sold(self):
        unit = self.assessed()
        Unit.objects.filter(pk=unit.pk).update(model=None)

        def sold() -> tuple[float, float]:
            (row,) = weigh_paths(list(with_facts(Unit.objects.filter(pk=unit.pk))))
            way = next(way for way in row.found.ways if way.path == Path.SELL)
            return as_it_stands(row.facts), way.worth + way.hours * row.facts.labour_rate

        price, left = sold()
        self.assertAlmostEqual(
            left, float(unit_books(self.again(unit)).leaves(usual_channel())(to_cent(D(repr(price)))))
        )
        Channel.objects.update(in_use=False)
        price, left = sold()
        self.assertAlmostEqual(left, price * (1 - USUAL_FEE))

    def test_work_is_reckoned_to_take_what_it_took_here_and_testing_what_the_plan_takes(self):
        unit = self.assessed()

        def hours(path: str) -> float:
            return next(way.hours for way in weighed().found.ways if way.path == path)

        def weighed():
            (row,) = weigh_paths(list(with_facts(Unit.objects.filter(pk=unit.pk))))
            return row

        plan = bench_flow([unit])[unit.pk].plan_minutes
        self.assertAlmostEqual(hours("test"), (plan + USUAL_EFFORT.offer) / 60)
        before, other = hours("refurbish"), self.assessed()
        job = workshop.open_job(self.owner, other, NewJob(kind="clean", title="Clean it", estimate_minutes=40))
        workshop.log_labour(self.owner, job, 640)
        workshop.finish_job(self.owner, job, JobResult("clean", worked=True))
        # Sixteen times as long, once: the fifth root of it, of 40 minutes; see core/workshop/learning.py.
        self.assertEqual(minutes_of_a_unit()["clean"], [640.0])
        more = round(40 * 16 ** (1 / 5)) - 40
        self.assertAlmostEqual(hours("refurbish") - before, more / 60 * sum(weighed().facts.odds[:2]))

    def test_what_is_its_owners_is_not_scrapped_for_that(self):
        unit = self.here()
        Unit.objects.filter(pk=unit.pk).update(holding=Unit.Holding.CONSIGNED, owner_name="E. Norr")
        unit = with_facts(Unit.objects.filter(pk=unit.pk)).get()
        self.assertNotIn(Path.SCRAP, open_paths(unit.ours))
        with self.assertRaisesRegex(Refused, "not ours to take for parts or to scrap"):
            triage.choose_path(self.owner, unit, "scrap")


class WorthInAManifest(Unsaid):
    def test_without_a_column_for_it_nobody_said_it(self):
        manifest = manifests.upload(self.owner, self.bare, "list.csv", b"item;qty\nTower;3\n")
        manifests.import_manifest(self.owner, manifest, COLUMNS)
        self.assertIsNone(self.bare.lines.get(description="Tower").worth_likely)
        page = reverse("buying:manifest", args=[manifest.pk])
        self.assertEqual(self.client.get(page).status_code, 200)

    def test_a_plan_says_that_it_counts_as_nothing_and_the_lot_keeps_it_unknown(self):
        plan = plans.plan_bid(self.owner, TERMS)
        plans.add_lines(self.owner, plan, [LINE, replace(LINE, description="Tower", worth=None)])
        page = self.client.get(reverse("buying:plan", args=[plan.number]))
        self.assertEqual(page.context["unsaid"], 1)
        self.assertContains(page, "Nobody said what 1 line sells for")
        lot = plans.buy(self.owner, self.again(plan), D(100), SourceKind.PRIVATE)
        worth = dict(lot.lines.values_list("description", "worth_likely"))
        self.assertIsNone(worth["Tower"])
        self.assertGreater(worth["Halden M2"], 0)


class CostOfAUnit(Unsaid):
    """130.00 was paid for the lot of two, and is shared over nothing yet."""

    WORDS = "130.00 was paid for"

    def proven_here(self) -> Unit:
        (unit,) = intake.receive(self.owner, self.loft_line, 1, self.model, "shelf")
        unit = self.hand().assess(unit)
        self.hand().test(unit)
        settling.record_sanitisation(self.owner, self.again(unit), "clear", "read back, all noughts")
        return self.again(unit)

    def test_it_has_no_floor_and_no_price_until_it_is_shared(self):
        unit = self.proven_here()
        selling.grade_unit(self.owner, unit)
        sheet = self.client.get(f"/selling/W-{unit.number}/")
        self.assertContains(sheet, f"not known: {self.WORDS}")
        self.assertIsNone(sheet.context["sheet"].floor)
        where = {str(block.kind): address for block, address in blocks_with_pages(self.again(unit))}
        self.assertEqual(where["cost"], reverse("buying:lot", args=[self.bare.number]) + "#share")
        typed = {"version": "1", "asking": "150", "channel": self.channel.pk, "below_floor_reason": ""}
        there = reverse("selling:price", args=[unit.number])
        self.says(self.client.post(there, typed), "What it cost is not known", "150")
        share_lot(self.owner, self.bare, Basis.COUNT)
        self.done(self.client.post(there, typed))
        self.assertNotIn("cost", {str(block.kind) for block, _ in blocks_with_pages(self.again(unit))})
        self.assertGreater(self.client.get(f"/selling/W-{unit.number}/").context["sheet"].floor, D(65))

    def test_once_shared_its_stage_knows(self):
        unit = self.proven_here()
        selling.grade_unit(self.owner, unit)
        self.hand().photograph(unit, 3)
        self.assertIn("what it cost is not known", self.again(unit).stage_reason)
        share_lot(self.owner, self.bare, Basis.COUNT)
        self.assertNotIn("what it cost", self.again(unit).stage_reason)

    def test_the_floor_names_a_lot_whose_cost_is_to_be_shared(self):
        there = reverse("buying:lot", args=[self.bare.number]) + "#share"
        self.assertContains(self.client.get("/"), f'<a class="small" href="{there}">cost not shared</a>', html=True)
        share_lot(self.owner, self.bare, Basis.COUNT)
        self.assertNotContains(self.client.get("/"), "cost not shared")

    def test_pages_say_so_where_a_cost_would_stand(self):
        unit = self.here()
        for page in (f"/W-{unit.number}/", f"/books/W-{unit.number}/", reverse("books:lot", args=[self.bare.number])):
            with self.subTest(page):
                self.assertContains(self.client.get(page), self.WORDS)
                self.assertNotContains(self.client.get(page), "Nothing posted yet.</div>")

    def test_it_does_not_leave_and_take_nothing_along(self):
        unit = self.here()
        with self.assertRaisesRegex(Refused, self.WORDS):
            settling.write_off(self.owner, unit, "rusted through")
        page = self.client.post(
            reverse("intake:act", args=[unit.number, "write-off"]), {"reason": "rusted through", "sure": "on"}
        )
        self.says(page, self.WORDS)
        donor = self.hand().assess(intake.receive(self.owner, self.loft_line, 1)[0], "donor", model=self.model)
        kept = [SalvagedPart("Belt", "tested", "A1", 1, D(5))]
        with self.assertRaisesRegex(Refused, self.WORDS):
            taking_apart.take_apart(self.owner, donor, kept)
        share_lot(self.owner, self.bare, Basis.COUNT)
        settling.write_off(self.owner, self.again(unit), "rusted through")
        self.assertEqual(balance(Account.LOSS, unit.pk), D(65))
        taking_apart.take_apart(self.owner, self.again(donor), kept)
        self.assertEqual(self.again(donor).stage, Stage.SCRAPPED)
        self.assertEqual(complaints(), [])

    def test_what_cost_nothing_is_known_to_have_cost_nothing(self):
        given = buying.record_lot(
            self.owner, lot_data(source_kind="donation", price=D(0), premium_percent=D(0), freight=D(0)), [unsaid()]
        )
        (unit,) = intake.receive(self.owner, given.lines.get(), 1)
        self.assertNotContains(self.client.get(f"/W-{unit.number}/"), "is not shared")
        settling.write_off(self.owner, unit, "rusted through")
        self.assertEqual(self.again(unit).stage, Stage.SCRAPPED)


class AsItStoodBefore(Unsaid):
    """Where nobody typed anything a 0 stood until then."""

    def test_zeros_become_unsaid_but_where_they_were_shared_by(self):
        nothing = dict.fromkeys(WORTH_5, D(0))
        mixed = [unsaid("Tower", 1, **WORTH_5), unsaid("Case", 1, **nothing)]
        by_value, by_count = (buying.record_lot(self.owner, lot_data(), mixed) for _ in range(2))
        share_lot(self.owner, by_value, Basis.VALUE)
        share_lot(self.owner, by_count, Basis.COUNT)
        bare = buying.record_lot(self.owner, lot_data(), [unsaid(**nothing)])
        share_lot(self.owner, bare, Basis.VALUE)
        moved = import_module("stations.buying.migrations.0005_worth_may_be_unsaid")
        with connection.schema_editor(atomic=False) as editor:
            moved.leave_unsaid(apps, editor)
        self.assertEqual([line.worth_likely for line in by_value.lines.all()], [D(5), D(0)])
        self.assertEqual([line.worth_likely for line in by_count.lines.all()], [D(5), None])
        self.assertIsNone(bare.lines.get().worth_high)
        moved.count_as_nothing(apps, None)
        self.assertEqual(bare.lines.get().worth_low, 0)


class SalesElsewhere(Through):
    SOLD = {"sold_on": "2026-09-01", "price": "180", "currency": "EUR", "rate": "1", "completeness": ""}

    def test_what_was_with_it_may_be_left_open_and_its_state_not(self):
        typed = self.SOLD | {"model": self.model.pk, "grade": ""}
        refused = self.post("selling:comparables", **typed)
        self.assertEqual([*refused.context["form"].errors], ["grade"])
        self.says(refused, "180")
        self.done(self.post("selling:comparables", **typed | {"grade": "B"}))
        row = self.model.comparables.get()
        self.assertIsNone(row.completeness)
        self.assertContains(
            self.client.get(reverse("selling:comparables")), '<td class="n" data-label="Complete">–</td>', html=True
        )
        sheet = self.client.get(f"/selling/W-{self.assessed().number}/")
        self.assertContains(sheet, "Nobody said what was with 1 of these sales")

    def test_our_own_of_which_nobody_went_through_it_tells_nothing_of_that(self):
        unit = self.listed()
        unit.contents.update(presence="unseen")
        selling.grade_unit(self.owner, self.again(unit))
        selling.write_from_facts(self.owner, self.again(unit))
        selling.sell(self.owner, self.again(unit), D(150), "Ida Moen", None)
        self.assertIsNone(self.model.comparables.get(own=True).completeness)

    def test_it_is_reckoned_as_usual(self):
        for completeness, price in ((None, 100), (80, 100)):
            self.model.comparables.all().delete()
            sales(self.model, 6, price, completeness=completeness)
            band = market_of(self.listed(), Grade.A).band
            if completeness is None:
                unsaid_band = band
        self.assertEqual(unsaid_band, band)


class HowLargeAModelIs(Through):
    """Nobody measured the model of the shop: it has no size, and none is made up for it."""

    def test_nothing_is_packed_by_a_size_that_nobody_measured(self):
        sale = selling.sell(self.owner, self.listed(), D(150), "Ida Moen", None)
        parcel = parcels.begin(self.owner, sale)
        self.assertEqual((parcel.length, parcel.width, parcel.height), (None, None, None))

    def test_it_goes_along_into_a_parcel_once_it_was_measured(self):
        MachineModel.objects.update(width_mm=300, height_mm=340, depth_mm=310)
        sale = selling.sell(self.owner, self.again(self.listed()), D(150), "Ida Moen", None)
        parcel = parcels.begin(self.owner, sale)
        self.assertEqual((parcel.length, parcel.width, parcel.height), (300, 310, 340))

    def test_the_bank_takes_and_gives_it_empty(self):
        page = self.client.get(reverse("catalogue:model", args=[self.model.pk]))
        self.assertIsNone(page.context["form"]["width_mm"].value())
        head, row = bank_files.as_csv().splitlines()
        self.assertEqual(dict(zip(head.split(","), row.split(","), strict=False))["depth_mm"], "")

    def test_the_size_that_stood_there_was_nobodys(self):
        moved = import_module("stations.catalogue.migrations.0006_size_may_be_unsaid")
        MachineModel.objects.update(**moved.STOOD)
        other = MachineModel.objects.create(maker="Corvane", name="Micro 3", form_factor="desktop", width_mm=400)
        moved.leave_unsaid(apps, None)
        self.assertIsNone(self.again(self.model).width_mm)
        self.assertEqual(self.again(other).width_mm, 400)
        moved.as_it_stood(apps, None)
        self.assertEqual(self.again(self.model).size, (400, 150, 380))


class WhatWentIntoDrawers(Through):
    def test_it_is_said_as_such_and_never_as_spent(self):
        cards = buying.record_lot(self.owner, lot_data(), [unsaid("Card", 4, kind="part", form_factor="card")])
        share_lot(self.owner, cards, Basis.COUNT)
        receiving.receive_into_drawer(self.owner, cards.lines.get(), 3, Sort("Card"))
        (result,) = lot_results([cards])
        self.assertEqual((result.since, result.as_parts), (0, D("97.50")))
        self.assertEqual(result.paid + result.since - result.as_parts, result.money.cost)
        for page in ("/", reverse("books:books"), reverse("books:lot", args=[cards.number])):
            self.assertContains(self.client.get(page), "as parts")
        self.assertContains(self.client.get(reverse("buying:lot", args=[cards.number])), "<dt>Out as parts</dt>")
