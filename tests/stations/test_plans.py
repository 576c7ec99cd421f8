import re
from dataclasses import asdict, replace
from decimal import Decimal

from django.urls import reverse
from django.utils.html import strip_tags

from core.buying.calibration import STATED
from core.buying.odds import STARTING, LineOutcome
from core.buying.share import Basis
from stations.books.selectors import against_plan, lot_results
from stations.buying import forecasts, plans, selectors, told
from stations.buying import services as buying
from stations.buying.details import CaseDetails, PlanDetails, PlanLineDetails, SeenPieces
from stations.buying.models import BidPlan, Lot, PlanLine, SourceKind, Supplier, ToldOutcome, TurnedOut
from stations.buying.record import Record, odds_for
from stations.buying.sharing import share_lot
from stations.common.details import as_kept
from stations.common.refusals import NotAllowed, Refused, StaleEdit
from stations.intake import services as intake
from stations.intake import settling
from stations.people import shop_settings
from stations.people.models import ShopSettings
from stations.selling import services as selling
from stations.units.models import Unit
from tests.stations.base import ShopTest, line_data, lot_data
from tests.stations.test_pages import PageTest

D = Decimal
TERMS = PlanDetails(
    title="Customs shed",
    supplier_name="Quayside",
    currency="EUR",
    rate=D(1),
    premium_percent=D(18),
    freight=D(20),
    fee_percent=D(8),
    target_margin=D(20),
    loss_limit=D(20),
)
LINE = SeenPieces("Halden M2", 4, "all_in_one", "powers_on", D(240))


class Planning(ShopTest):
    def plan(self, *lines, **terms) -> BidPlan:
        plan = plans.plan_bid(self.owner, replace(TERMS, **terms))
        for line in lines or (LINE,):
            plans.add_line(self.owner, plan, line)
        return self.again(plan)

    def most(self, plan):
        return forecasts.forecast_of(self.again(plan)).most(forecasts.targets_of(plan)).bid

    def test_a_line_starts_from_the_table_and_what_is_usual(self):
        line = self.plan().lines.get()
        self.assertEqual([float(case.odds) for case in line.cases.all()], list(STARTING["powers_on"]))
        works = line.cases.get(outcome="works")
        self.assertEqual((works.low, works.likely, works.high, works.minutes), (D(180), D(240), D(300), 75))

    def test_cheap_things_are_not_planned_with_an_afternoon(self):
        plan = self.plan()
        line = plans.add_line(self.owner, plan, replace(LINE, description="drive", worth=D(20)))
        self.assertEqual(line.cases.get(outcome="repairable").minutes, 15)

    def test_the_forecast_follows_the_lines(self):
        plan = self.plan()
        before = self.most(plan)
        plans.add_line(self.owner, plan, replace(LINE, claim="working"))
        self.assertGreater(self.most(plan), before)
        plans.drop_line(self.owner, plan.lines.last())
        self.assertEqual(self.most(plan), before)

    def test_an_answer_moves_the_odds_of_the_rest(self):
        plan = self.plan()
        before = self.most(plan)
        plans.answer(self.owner, PlanLine.objects.get(), "through", "worthless")
        rest, seen = PlanLine.objects.order_by("seen")
        self.assertEqual((rest.quantity, seen.quantity, seen.seen), (3, 1, True))
        # rho 0.15 is worth 5.67 pieces: 0.5 x 5.67 / 6.67
        self.assertAlmostEqual(rest.cases.get(outcome="works").odds, D("0.425"), places=3)
        self.assertEqual([case.odds for case in seen.cases.all()], [0, 0, 0, 1])
        self.assertLess(self.most(plan), before)

    def test_an_uncertain_answer_moves_one_piece_and_the_rest_a_little(self):
        self.plan()
        plans.answer(self.owner, PlanLine.objects.get(), "power", "comes_on")
        rest, piece = PlanLine.objects.order_by("-quantity")
        # Bayes by hand: 0.50 × 0.95 against 0.32 × 0.40, 0.15 × 0.06 and 0.03 × 0.02
        self.assertAlmostEqual(float(piece.cases.get(outcome="works").odds), 0.475 / 0.6126, places=4)
        self.assertGreater(rest.cases.get(outcome="works").odds, D("0.5"))
        self.assertFalse(piece.seen)
        with self.assertRaisesRegex(Refused, "answered already"):
            plans.answer(self.owner, piece, "power", "dead")
        plans.answer(self.owner, piece, "leak", "leaked")
        self.assertEqual(PlanLine.objects.count(), 2)

    def test_answers_in_any_order_leave_the_same_and_hand_typed_odds_stand(self):
        ends = []
        for order in (("power", "through", "leak"), ("leak", "power", "through")):
            BidPlan.objects.all().delete()
            self.plan()
            whole = PlanLine.objects.get()
            for ask in order:
                said = {"power": "comes_on", "through": "works", "leak": "leaked"}[ask]
                plans.answer(self.owner, self.again(whole), ask, said)
            whole = self.again(whole)
            ends.append([*whole.cases.values_list("odds", flat=True), whole.rho, whole.quantity])
        self.assertEqual(*ends)
        self.assertEqual(ends[0][-1], 1)
        self.assertLess(ends[0][-2], D(15))
        typed = {outcome: CaseDetails(D("0.25")) for outcome in LineOutcome}
        plans.change_line(self.owner, whole, as_kept(PlanLineDetails, whole), typed)
        self.assertEqual((self.again(whole).before_answers, whole.pieces.count()), (None, 0))
        plans.answer(self.owner, self.again(whole), "inside", "complete")
        self.assertGreater(self.again(whole).cases.get(outcome="works").odds, D("0.25"))

    def test_odds_must_add_up(self):
        line = self.plan().lines.get()
        cases = {outcome: CaseDetails(D("0.3")) for outcome in LineOutcome}
        with self.assertRaisesRegex(Refused, "add up to 120 %"):
            plans.change_line(self.owner, line, as_kept(PlanLineDetails, line), cases)

    def test_a_plan_becomes_a_lot_with_one_press_and_keeps_its_forecast(self):
        plan = self.plan()
        drawn = forecasts.forecast_of(plan)
        lot = plans.buy(self.owner, plan, D(100), SourceKind.PRIVATE)
        plan = self.again(plan)
        self.assertEqual(lot.landed_total, D("138.00"))
        self.assertEqual((plan.status, plan.lot, plan.forecast_landed), ("bought", lot, D("138.00")))
        self.assertAlmostEqual(plan.forecast_worth, D(str(drawn.mean)), places=2)
        self.assertTrue(plan.forecast_low < plan.forecast_worth < plan.forecast_high)
        self.assertEqual([(line.description, line.quantity) for line in lot.lines.all()], [("Halden M2", 4)])
        for act in (
            lambda: plans.buy(self.owner, plan, D(1), SourceKind.PRIVATE),
            lambda: plans.leave(self.owner, plan),
        ):
            with self.assertRaisesRegex(Refused, "does not change any more"):
                act()

    def test_left_is_left_and_limits_are_not_negative(self):
        plan = self.plan()
        with self.assertRaises(Refused):
            plans.set_limit(self.owner, plan, D(-1))
        plans.set_limit(self.owner, plan, D(300))
        plans.leave(self.owner, plan)
        self.assertEqual((self.again(plan).status, self.again(plan).bid), ("left", D(300)))

    def test_who_may_and_who_was_faster(self):
        with self.assertRaises(NotAllowed):
            plans.plan_bid(self.technician, TERMS)
        plan = self.plan()
        plans.change_plan(self.owner, self.again(plan), plan.version, TERMS)
        with self.assertRaises(StaleEdit):
            plans.change_plan(self.owner, self.again(plan), plan.version, TERMS)


class AgainstThePlan(ShopTest):
    def test_a_planned_lot_is_set_against_what_happened(self):
        plan = plans.plan_bid(self.owner, TERMS)
        plans.add_line(self.owner, plan, replace(LINE, quantity=1))
        lot = plans.buy(self.owner, self.again(plan), D(100), SourceKind.PRIVATE)
        share_lot(self.owner, lot, Basis.COUNT)
        (unit,) = intake.receive(self.owner, lot.lines.get(), 1, self.model)
        unit = self.hand().assess(unit)
        self.hand().test(unit)
        found = against_plan(lot)
        self.assertEqual(found.charges, 0)
        self.assertEqual(found.actual, D("-138.00"))
        self.assertGreater(found.odds, 0)  # it worked, and better than the mean was planned
        # Planned at 240; before anything was sold, prices are taken to come to 95 in 100 of it.
        self.assertEqual(found.prices, D("-228.00"))
        self.assertEqual(sum(amount for _, amount in found.steps), found.gap)
        self.assertIsNone(against_plan(self.lot))


class Learning(ShopTest):
    def odds(self):
        return odds_for(Supplier.objects.get(name="Pell Head school"), self.line)

    def test_what_units_turn_out_to_be_corrects_the_odds(self):
        start = self.odds()
        unit = self.proven()
        self.assertEqual(TurnedOut.objects.get().outcome, "works")
        learned = self.odds()
        self.assertEqual((learned.seen, learned.worked), (1, 1))
        self.assertGreater(learned.odds[0], start.odds[0])
        settling.write_off(self.owner, unit, "dropped")
        # It is worth nothing now, and it worked when it came.
        row = TurnedOut.objects.get()
        self.assertEqual((row.outcome, row.found, self.odds().worked), ("worthless", "works", 1))
        settling.take_back_write_off(self.owner, unit, "it was the other one")
        self.assertEqual(TurnedOut.objects.get().outcome, "works")

    def test_the_family_learns_from_other_suppliers_and_more_than_other_families_do(self):
        start = self.odds()
        self.proven()
        stranger = Supplier.objects.create(name="Stranger")
        kin, far = (odds_for(stranger, PlanLine(claim="untested", form_factor=f)) for f in ("all_in_one", "tower"))
        self.assertEqual((kin.seen, kin.family_seen, kin.family_worked, far.family_seen), (0, 1, 1, 0))
        self.assertGreater(kin.odds[0], far.odds[0])
        self.assertGreater(far.odds[0], start.odds[0])
        with self.assertNumQueries(3):
            record = Record(stranger)
            record.odds(self.line)
            record.claims()

    def test_a_machine_that_failed_first_was_repairable(self):
        unit = self.assessed()
        self.hand().test(unit, fail={"fn-picture": "none"})
        self.assertFalse(TurnedOut.objects.exists())
        self.hand().wait(days=1).test(unit)
        self.assertEqual(TurnedOut.objects.get().outcome, "repairable")

    def test_what_nobody_tested_teaches_nothing_about_whether_it_worked(self):
        start = self.odds()
        self.assessed("donor")
        settling.write_off(self.owner, self.receive()[0], "crushed in the van")
        self.assertEqual(set(TurnedOut.objects.values_list("outcome", "found")), {("parts", ""), ("worthless", "")})
        self.assertEqual((self.odds(), self.odds().seen), (start, 0))
        settling.take_back_write_off(self.owner, Unit.objects.get(scrapped_at__isnull=False), "it was not")
        self.assertEqual(TurnedOut.objects.count(), 1)

    def test_one_that_failed_and_was_parted_out_was_good_for_parts(self):
        unit = self.assessed()
        self.hand().test(unit, fail={"fn-picture": "none"})
        settling.write_off(self.owner, unit, "beyond repair")
        self.assertEqual((TurnedOut.objects.get().found, self.odds().seen), ("worthless", 1))

    def test_the_suppliers_record_shows_claim_and_truth(self):
        self.proven()
        supplier = Supplier.objects.get(name="Pell Head school")
        (record,) = selectors.claims_of(supplier)
        self.assertEqual((record.claim, record.counts, record.learned.worked), ("not tested", (1, 0, 0, 0), 1))

    def test_custody_teaches_nothing_about_sellers(self):
        data = lot_data(source_kind="custody", owner_name="Museum", price=None, premium_percent=None, freight=None)
        lot = buying.record_lot(self.owner, data, [line_data()])
        plans.record_outcome(lot.lines.get(), 999, LineOutcome.WORKS)
        self.assertFalse(TurnedOut.objects.exists())


class StartingTable(PageTest):
    def change(self, **odds):
        row = {"works": "40", "repairable": "30", "parts": "20", "worthless": "10"} | odds
        return self.post("buying:odds", claim="dead", version=1, **row)

    def test_the_owner_changes_it_and_new_lines_start_from_it(self):
        self.assertRedirects(self.change(), "/buying/odds/")
        plan = plans.plan_bid(self.owner, TERMS)
        line = plans.add_line(self.owner, plan, replace(LINE, claim="dead", worth=D(100)))
        self.assertEqual([case.odds for case in line.cases.all()], [D("0.4"), D("0.3"), D("0.2"), D("0.1")])
        self.assertContains(self.client.get("/buying/odds/"), "changed by us", count=1)

    def test_it_adds_up_and_stale_or_unentitled_changes_are_refused(self):
        self.assertContains(self.change(works="50"), "they must be 100 %")
        self.change()
        self.assertRedirects(self.change(works="30", parts="30"), "/buying/odds/")
        self.assertContains(self.change(), "Somebody else saved this")
        with self.assertRaises(NotAllowed):
            plans.change_starting_odds(self.technician, "dead", "", 1, {})

    def test_a_kind_may_have_a_row_of_its_own(self):
        self.assertContains(self.client.get("/buying/odds/?claim=dead&kind=board"), "Dead, board only")
        self.assertRedirects(self.change(kind="board"), "/buying/odds/")
        plan = plans.plan_bid(self.owner, TERMS)
        board, tower = (
            plans.add_line(self.owner, plan, replace(LINE, claim="dead", kind=k, worth=D(9)))
            for k in ("board", "machine")
        )
        self.assertEqual(board.cases.get(outcome="works").odds, D("0.4"))
        self.assertEqual(float(tower.cases.get(outcome="works").odds), STARTING["dead"][0])


class PlannerPages(PageTest):
    def plan(self) -> BidPlan:
        plan = plans.plan_bid(self.owner, TERMS)
        plans.add_line(self.owner, plan, LINE)
        return self.again(plan)

    def test_a_plan_is_made_through_the_pages(self):
        form = {name: "" if value is None else str(value) for name, value in asdict(TERMS).items()}
        page = self.post("buying:plan-new", version=1, **form)
        self.assertRedirects(page, "/buying/plans/P-1/")
        page = self.post("buying:plan", [1], **asdict(LINE))
        self.assertRedirects(page, "/buying/plans/P-1/")
        page = self.client.get("/buying/plans/P-1/")
        self.assertContains(page, "We may bid up to")
        for answer in (page, self.client.get(reverse("books:forecasts"))):
            words = " ".join(strip_tags(answer.content.decode()).split())
            self.assertIn("begin with a judgement: of 100 planned, prices come to 95", words)

    def test_moving_the_bid_asks_only_for_what_depends_on_it(self):
        plan = self.plan()
        there = reverse("buying:plan-at", args=[plan.number])
        low, high = (self.client.get(there, {"bid": bid}, headers={"HX-Request": "true"}) for bid in ("10", "5000"))
        self.assertContains(low, "We may bid up to")
        self.assertContains(high, "Too much by")
        self.assertContains(self.client.get(there, {"bid": "much"}), "Type an amount")
        # Session, person, plan, settings, what was sent, and whether anything more was learned: the draws are kept.
        with self.assertNumQueries(7):
            self.client.get(there, {"bid": "20"}, headers={"HX-Request": "true"})

    def test_bad_input_is_said_at_its_field(self):
        plan = self.plan()
        line = plan.lines.get()
        page = self.post("buying:plan", [plan.number], description="", quantity="0", claim="none", worth="-1")
        self.assertEqual({"description", "quantity", "worth", "form_factor"}, set(page.context["form"].errors))
        wrong = {
            "description": "x",
            "quantity": 1,
            "kind": "machine",
            "form_factor": "tower",
            "claim": "none",
            "rho": "100",
            "look_minutes": "0",
        }
        wrong |= {f"odds_{outcome}": "50" for outcome in LineOutcome} | {
            "low_works": "9",
            "likely_works": "5",
            "high_works": "10",
        }
        page = self.post("buying:plan-line", [plan.number, line.pk], **wrong)
        self.assertTrue({"rho", "look_minutes", "odds_works", "likely_works"} <= set(page.context["form"].errors))
        form = {name: "" if value is None else str(value) for name, value in asdict(TERMS).items()}
        page = self.post(
            "buying:plan-new", version=1, **form | {"premium_percent": "130", "rate": "0", "lot_rho": "100"}
        )
        self.assertEqual({"premium_percent", "rate", "lot_rho"}, set(page.context["form"].errors))

    def test_an_answer_that_is_none_is_refused_in_words(self):
        plan = self.plan()
        there = reverse("buying:plan-answer", args=[plan.number, plan.lines.get().pk])
        for said in ({}, {"ask": "through", "said": "perhaps"}, {"ask": "tarot", "said": "works"}):
            self.assertContains(self.client.post(there, said, follow=True), "Say what the answer was.")
        self.assertEqual(plan.lines.count(), 1)

    def test_a_line_is_changed_and_the_plan_bought(self):
        plan = self.plan()
        line = plan.lines.get()
        page = self.client.get(reverse("buying:plan-line", args=[plan.number, line.pk]))
        data = {field.html_name: field.value() if field.value() is not None else "" for field in page.context["form"]}
        data |= {"odds_works": "100", "odds_repairable": "0", "odds_parts": "0", "odds_worthless": "0"}
        self.assertRedirects(
            self.post("buying:plan-line", [plan.number, line.pk], **data), f"/buying/plans/P-{plan.number}/"
        )
        self.assertEqual(line.cases.get(outcome="works").odds, 1)
        page = self.post("buying:plan-decide", [plan.number, "bought"], bid="200")
        self.assertContains(self.client.get(page["Location"]), "say where it comes from")
        page = self.post("buying:plan-decide", [plan.number, "bought"], bid="200", source="clearance")
        self.assertRedirects(page, "/buying/L-2/")
        self.assertEqual(Lot.objects.get(number=2).source_kind, "clearance")


class HowPlansCome(PageTest):
    """What a plan is reckoned by, and what its lot teaches once it is sold."""

    def bought(self) -> tuple[BidPlan, Unit]:
        plan = plans.plan_bid(self.owner, TERMS)
        plans.add_line(self.owner, plan, replace(LINE, quantity=1, claim="working"))
        lot = plans.buy(self.owner, self.again(plan), D(20), SourceKind.PRIVATE)
        share_lot(self.owner, lot, Basis.COUNT)
        (unit,) = intake.receive(self.owner, lot.lines.get(), 1, self.model)
        return self.again(plan), self.hand().assess(unit)

    def test_tax_and_postage_are_in_the_plan_and_kept_with_it_when_bought(self):
        plan = plans.plan_bid(self.owner, TERMS)
        plans.add_line(self.owner, plan, LINE)
        free = forecasts.forecast_of(self.again(plan)).at(D(50)).profit
        settings = shop_settings.settings()
        ShopSettings.objects.update(tax_scheme="margin", tax_percent=D(25), postage=D(12))
        taxed = forecasts.forecast_of(self.again(plan)).at(D(50))
        self.assertLess(taxed.profit, free - 12)
        self.assertGreater(taxed.tax, 20)
        plans.change_plan(self.owner, self.again(plan), self.again(plan).version, replace(TERMS, postage=D(0)))
        self.assertGreater(forecasts.forecast_of(self.again(plan)).at(D(50)).profit, taxed.profit)
        plans.buy(self.owner, self.again(plan), D(50), SourceKind.PRIVATE)
        kept = forecasts.terms_of(self.again(plan))
        ShopSettings.objects.update(tax_scheme=settings.tax_scheme, labour_rate=D(99))
        self.assertEqual(forecasts.terms_of(self.again(plan)), kept)
        self.assertEqual((kept.tax.scheme, kept.postage), ("margin", 0.0))

    def test_a_closed_lot_teaches_prices_and_stands_in_the_books(self):
        plan, unit = self.bought()
        self.assertFalse(forecasts.calibration().is_own)
        self.hand().test(unit)
        self.assertEqual(forecasts.closed_plans([plan]), [])
        settling.record_sanitisation(self.owner, self.again(unit), "clear", "read back, all noughts")
        self.hand().offer(self.again(unit), "150", pictures=1)
        selling.sell(self.owner, self.again(unit), D(120), "A. Ruhl", D(9))
        self.hand().hand_over(self.again(unit))
        known = forecasts.calibration()
        self.assertEqual((known.lines, known.lots), (1, 1))
        self.assertLess(known.price, 1)
        page = self.client.get(reverse("books:forecasts"))
        self.assertContains(page, "of 1</b> came within the band")
        self.assertContains(page, plan.code)
        (closed,) = forecasts.closed_plans([plan])
        self.assertEqual(closed.left.after_tax, closed.left.before_tax)
        # As the books have it: what it earned, and what was paid for it put back.
        (result,) = lot_results([plan.lot])
        self.assertEqual(closed.left.after_tax, result.money.margin + plan.lot.landed_total)
        found = against_plan(plan.lot)
        self.assertEqual(sum(amount for _, amount in found.steps), found.gap)
        # A plan that was bought before terms were kept teaches too, and is asked by the stated figures.
        BidPlan.objects.filter(pk=plan.pk).update(forecast_terms=None)
        forecasts._learned_by.cache_clear()
        self.assertEqual(forecasts.calibration().lots, 1)
        self.assertEqual(forecasts.terms_of(self.again(plan)).calibration, STATED)
        for there in (reverse("buying:plan", args=[plan.number]), reverse("books:forecasts")):
            self.assertEqual(self.client.get(there).status_code, 200)

    def test_the_premium_is_set_against_a_tax_of_the_period_only_where_it_counts(self):
        plan, unit = self.bought()
        Unit.objects.filter(pk=unit.pk).update(stage="sold")
        BidPlan.objects.filter(pk=plan.pk).update(forecast_terms=None)
        paid = dict(plan.lot.charges.values_list("kind", "base"))
        self.assertGreater(paid["premium"], 0)
        for counts, bought_for in ((True, paid["price"] + paid["premium"]), (False, paid["price"])):
            ShopSettings.objects.update(tax_scheme="global", tax_percent=D(25), premium_counts=counts)
            (closed,) = forecasts.closed_plans([self.again(plan)])
            self.assertEqual(closed.left.after_tax - closed.left.before_tax, bought_for / 5)

    def test_what_became_of_a_lot_we_left_corrects_the_odds(self):
        plan = plans.plan_bid(self.owner, TERMS)
        line = plans.add_line(self.owner, plan, LINE)
        start = odds_for(plan.supplier, line)
        with self.assertRaisesRegex(Refused, "asked of a lot that was left"):
            self.tell(plan, D(5), {})
        plans.leave(self.owner, self.again(plan))
        for counts, words in (({LineOutcome.WORKS: 5}, "was for 4"), ({LineOutcome.WORKS: -1}, "below 0")):
            with self.assertRaisesRegex(Refused, words):
                self.tell(plan, None, {line.pk: counts})
        self.tell(plan, D(310), {line.pk: {LineOutcome.PARTS: 3}})
        learned = odds_for(plan.supplier, line)
        self.assertEqual((learned.seen, learned.worked, self.again(plan).went_for), (3, 0, D(310)))
        self.assertLess(learned.odds[0], start.odds[0])
        self.assertLess(learned.open, start.open)
        self.tell(plan, D(310), {})
        self.assertEqual(odds_for(plan.supplier, line), start)
        with self.assertRaises(NotAllowed):
            self.tell(plan, None, {}, self.technician)

    def test_it_is_told_through_the_page(self):
        plan = plans.plan_bid(self.owner, TERMS)
        line = plans.add_line(self.owner, plan, LINE)
        plans.leave(self.owner, self.again(plan))
        client = self.client
        there = reverse("buying:plan-became", args=[plan.number])
        self.assertContains(client.get(there), "how many turned out so")
        at = self.again(plan).version
        wrong = client.post(there, {"version": at, "went_for": "much", f"told_{line.pk}_works": "9"})
        self.assertEqual({"went_for", f"told_{line.pk}_works"}, set(wrong.context["form"].errors))
        client.post(there, {"version": at, "went_for": "310", f"told_{line.pk}_works": "2"})
        self.assertContains(client.get(reverse("buying:plan", args=[plan.number])), "310.00")
        self.assertEqual(ToldOutcome.objects.get().count, 2)
        # Somebody else had the page open before: nothing is written over unseen.
        late = client.post(there, {"version": at, "went_for": "300", f"told_{line.pk}_parts": "1"})
        differs = {row["label"]: (row["yours"], row["theirs"]) for row in late.context["form"].stale}
        self.assertEqual(differs["Went for"], ("300", "310.00"))
        self.assertEqual(differs["works"], ("", "2"))
        self.assertEqual((self.again(plan).went_for, ToldOutcome.objects.get().count), (D(310), 2))
        client.post(there, {"version": self.again(plan).version, "went_for": "300", f"told_{line.pk}_works": "2"})
        self.assertEqual(self.again(plan).went_for, D(300))

    def tell(self, plan, went_for, counts, person=None):
        plan = self.again(plan)
        told.record_told(person or self.owner, plan, plan.version, went_for, counts)

    def test_how_advice_is_made_is_a_page_with_its_pictures(self):
        page = self.client.get(reverse("floor:judgement"))
        self.assertContains(page, 'id="bid"')
        self.assertContains(page, "<td>far apart</td>")
        pictures = re.findall(r'<img src="([^"]+)"', page.content.decode())
        self.assertEqual(len(pictures), 2)
        for one in pictures:
            self.assertEqual(self.client.get(one)["Content-Type"], "image/svg+xml")
        self.assertEqual(self.client.get("/judgement/none.svg").status_code, 404)

    def test_doubt_comes_from_the_record_and_goes_when_odds_are_typed(self):
        plan = plans.plan_bid(self.owner, TERMS)
        line = plans.add_line(self.owner, plan, LINE)
        self.assertGreater(line.doubt, D("0.1"))
        said = replace(as_kept(PlanLineDetails, line), look_cost=D(15))
        plans.change_line(self.owner, line, said, {o: CaseDetails(D("0.25")) for o in LineOutcome})
        self.assertEqual((self.again(line).doubt, forecasts.bid_line(self.again(line)).look_cost), (0, 15.0))
