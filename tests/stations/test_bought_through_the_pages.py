"""Buying through its pages: a lot corrected line by line, in custody, billed in another currency; a plan, its bid."""

import re
import threading
from datetime import timedelta

from django.db.models import F
from django.urls import reverse
from django.utils import timezone

from core.buying.share import Basis
from simulators import rates as source
from stations.books.selectors import complaints
from stations.buying import plans
from stations.buying.models import BidPlan, ExchangeRate, Lot, LotLine, PlanLine
from stations.common import clock
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.units.models import Unit
from tests.stations.base import D
from tests.stations.test_plans import LINE, TERMS
from tests.stations.test_through_the_pages import Through


class ALot(Through):
    def recorded(self, **changes) -> Lot:
        there = self.done(self.post("buying:record", **self.new_lot(**changes)))
        return Lot.objects.get(number=int(there.rstrip("/").rsplit("-", 1)[1]))

    def as_sent(self, lot: Lot, **changes) -> dict:
        """What the page for putting it right sends when nothing is typed, and what is typed otherwise."""
        page = self.client.get(reverse("buying:correct", args=[lot.number]))
        sent = {"write_key": "", "charges-INITIAL_FORMS": "0"}
        for form in (page.context["form"], *page.context["charges"], *page.context["lines"]):
            sent |= {field.html_name: "" if field.value() is None else field.value() for field in form}
        for name in ("charges", "lines"):
            forms = page.context[name]
            sent |= {f"{name}-TOTAL_FORMS": len(forms.forms), f"{name}-INITIAL_FORMS": forms.initial_form_count()}
        return sent | changes

    def correct(self, lot: Lot, **changes):
        return self.client.post(reverse("buying:correct", args=[lot.number]), self.as_sent(lot, **changes))

    def test_sent_as_it_stands_nothing_changes_but_the_record_of_who_looked(self):
        lot = self.recorded()
        before = (self.again(lot).landed_total, list(lot.lines.values_list("description", "quantity", "worth_likely")))
        self.done(self.correct(lot))
        self.assertEqual(
            (self.again(lot).landed_total, list(lot.lines.values_list("description", "quantity", "worth_likely"))),
            before,
        )
        self.assertEqual(complaints(), [])

    def test_a_line_more_and_one_off(self):
        lot = self.recorded()
        line = lot.lines.get()
        more = {"lines-TOTAL_FORMS": "2", "lines-1-description": "Keyboards", "lines-1-quantity": "4"}
        more |= {"lines-1-kind": "machine", "lines-1-form_factor": "keyboard", "lines-1-claim": "untested"}
        more |= {
            "lines-1-worth_low": "5",
            "lines-1-worth_likely": "8",
            "lines-1-worth_high": "12",
            "lines-1-finish_cost": "0",
        }
        self.done(self.correct(lot, **more))
        added = lot.lines.get(description="Keyboards")
        self.assertEqual((added.position, added.quantity), (2, 4))
        gone = self.as_sent(lot)
        for name in [name for name in gone if name.startswith("lines-0-")]:
            del gone[name]
        gone = {name.replace("lines-1-", "lines-0-"): value for name, value in gone.items()} | {
            "lines-TOTAL_FORMS": "1"
        }
        self.done(self.client.post(reverse("buying:correct", args=[lot.number]), gone))
        self.assertEqual([row.pk for row in lot.lines.all()], [added.pk])
        self.assertFalse(LotLine.objects.filter(pk=line.pk).exists())

    def test_what_finishing_costs_is_asked_for_where_a_worth_is_said(self):
        bare = self.client.get(reverse("buying:record")).context["lines"].forms[0]
        self.assertIsNone(bare["finish_cost"].value())
        lot = self.recorded()
        more = {"lines-TOTAL_FORMS": "2", "lines-1-description": "Keyboards", "lines-1-quantity": "4"}
        more |= {"lines-1-kind": "machine", "lines-1-form_factor": "keyboard", "lines-1-claim": "untested"}
        refused = self.correct(lot, **more | {"lines-1-worth_likely": "8"})
        self.says(refused, "What does it cost to finish one? 0 where nothing is to be done.", "Keyboards")
        self.done(self.correct(lot, **more))
        self.assertIsNone(lot.lines.get(description="Keyboards").worth_likely)

    def test_what_was_received_or_carries_cost_stays_on_it(self):
        self.receive(2)
        self.says(self.correct(self.lot, **{"lines-0-quantity": "1"}), "2 of “Halden M2” were received already")
        sent = self.as_sent(self.lot)
        for name in [name for name in sent if name.startswith("lines-0-")]:
            del sent[name]
        sent = {name.replace("lines-1-", "lines-0-"): value for name, value in sent.items()}
        page = self.client.post(
            reverse("buying:correct", args=[self.lot.number]),
            sent | {"lines-TOTAL_FORMS": "1", "note": "without the first"},
        )
        self.says(page, "it can’t be taken off the lot")
        self.assertContains(page, "without the first")
        self.assertEqual(self.lot.lines.count(), 2)

    def test_one_line_on_its_own_page(self):
        there = reverse("buying:line", args=[self.lot.number, self.line.pk])
        form = self.client.get(there).context["form"]
        sent = {field.html_name: "" if field.value() is None else field.value() for field in form} | {"write_key": ""}
        self.done(self.client.post(there, sent | {"quantity": "5"}))
        self.assertEqual(self.again(self.line).quantity, 5)
        self.receive(2)
        self.says(self.client.post(there, sent | {"quantity": "1"}), "2 of “Halden M2” were received already", "1")
        self.says(self.client.post(there, sent | {"worth_likely": "9999"}), "must rise in this order", "9999")
        unit = Unit.objects.first()
        self.done(self.client.post(there, sent | {"claim_words": "worked in 2019", "worth_high": "140"}))
        line = self.again(self.line)
        self.assertEqual((line.claim_words, line.worth_high, line.quantity), ("worked in 2019", D(140), 3))
        self.assertEqual(self.again(unit).line_id, line.pk)

    def test_in_custody_it_has_an_owner_and_no_price(self):
        sent = self.new_lot(source_kind="custody", owner_name="the museum")
        self.says(
            self.post("buying:record", **sent), "A lot in custody has no price: it stays its owner’s.", "the museum"
        )
        lot = self.recorded(source_kind="custody", owner_name="the museum", **{"charges-0-how_much": ""})
        self.assertTrue(lot.in_custody)
        self.assertEqual((lot.landed_total, lot.owner_name), (0, "the museum"))
        drawer = {"name": "Belt", "condition": "new", "drawer": "A1", "count": "1", "amount": "1", "measure": "piece"}
        page = self.post("intake:into-drawer", [lot.lines.get().pk], **drawer)
        self.says(page, "It belongs to the museum: it does not go among our own parts.")
        self.assertEqual(balance(Account.LINE, lot.lines.get().pk), 0)

    def test_shared_by_what_is_not_known_is_refused_with_why(self):
        lot = self.recorded()
        page = self.post("buying:lot", [lot.number], basis=Basis.WEIGHT.value)
        self.assertContains(page, "weigh", status_code=page.status_code)
        self.assertFalse(lot.sharings.exists())
        self.done(self.post("buying:lot", [lot.number], basis=Basis.COUNT.value))
        self.assertEqual(balance(Account.LINE, lot.lines.get().pk), self.again(lot).landed_total)
        self.assertEqual(complaints(), [])

    def test_nonsense_for_a_day_is_no_rate_and_no_crash(self):
        for day in ("2026-02-31", "soon", ""):
            page = self.post("buying:landed", **self.new_lot(bought_on=day, currency="SEK", rate=""))
            self.assertEqual(page.status_code, 200)
        self.assertEqual(self.client.get("/buying/L-9999/correct/").status_code, 404)


class InAnotherCurrency(Through):
    def scene(self) -> None:
        super().scene()
        ExchangeRate.objects.create(on=clock.today() - timedelta(days=3), currency="SEK", per_euro=D("11.5"))

    def test_the_rate_of_its_day_is_looked_up_and_kept(self):
        there = self.done(self.post("buying:record", **self.new_lot(currency="sek", rate="", bought_on=clock.today())))
        lot = Lot.objects.get(number=int(there.rstrip("/").rsplit("-", 1)[1]))
        # One crown in euros, at the rate of the last day before it that has one.
        self.assertAlmostEqual(float(lot.rate), 1 / 11.5, places=6)
        self.assertEqual(lot.landed_total, (D(90) * lot.rate).quantize(D("0.01")))
        self.assertEqual(complaints(), [])

    def test_one_charge_billed_in_another(self):
        sent = self.new_lot(**{"charges-1-kind": "freight", "charges-1-how_much": "230", "charges-1-currency": "SEK"})
        sent |= {"charges-TOTAL_FORMS": "2", "bought_on": clock.today()}
        there = self.done(self.post("buying:record", **sent))
        lot = Lot.objects.get(number=int(there.rstrip("/").rsplit("-", 1)[1]))
        self.assertEqual(lot.landed_total, D(90) + D(20))

    def test_what_is_said_of_a_charge_that_does_not_keep_it_is_refused(self):
        for more, words in (
            ({"how_much": "", "name": "lorry"}, "A charge without an amount is none."),
            ({"how_much": "230", "of": "price"}, "tick none of these"),
            ({"how_much": "18 %", "currency": "SEK"}, "leave this empty"),
        ):
            charge = {f"charges-1-{name}": said for name, said in ({"kind": "freight"} | more).items()}
            sent = self.new_lot(**charge) | {"charges-TOTAL_FORMS": "2", "bought_on": clock.today()}
            with self.subTest(words=words):
                self.says(self.post("buying:record", **sent), words)

    def test_a_rate_too_old_is_none(self):
        ExchangeRate.objects.update(on=clock.today() - timedelta(days=400))
        self.says(
            self.post("buying:record", **self.new_lot(currency="SEK", rate="", bought_on=clock.today())),
            "No rate is known for SEK",
        )

    def test_fetched_by_a_press(self):
        with self.settings(RATES_URL=""):
            page = self.client.post(reverse("buying:fetch-rates"), {"write_key": ""}, follow=True)
            self.assertContains(page, "No source")
        server = source.serve()
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        with self.settings(RATES_URL=f"http://127.0.0.1:{server.server_port}/rates.xml"):
            page = self.client.post(reverse("buying:fetch-rates"), {"write_key": ""}, follow=True)
        self.assertContains(page, "rates taken in.")
        self.assertContains(page, "SEK")
        self.assertGreater(ExchangeRate.objects.count(), 300)


class APlan(Through):
    def scene(self) -> None:
        super().scene()
        self.plan = plans.plan_bid(self.owner, TERMS)
        plans.add_line(self.owner, self.plan, LINE)

    def decide(self, what: str, bid: str = ""):
        return self.post("buying:plan-decide", [self.plan.number, what], bid=bid, source="auction")

    def said(self, answer) -> str:
        return self.client.get(answer["Location"]).content.decode()

    def test_a_bid_that_is_none_is_told_with_what_was_typed(self):
        for bid, words in (("-5", "-5"), ("a lot", "a lot"), ("", ""), ("99999999999999", "99999999999999")):
            for what in ("limit", "bought"):
                with self.subTest(bid, what=what):
                    said = self.said(self.decide(what, bid))
                    self.assertIn(f"You had typed: {words}" if words else "note--hold", said)
        self.assertEqual((self.again(self.plan).bid, self.again(self.plan).lot), (None, None))

    def test_left_it_is_left_and_neither_bought_nor_changed_after_that(self):
        self.done(self.decide("leave"))
        self.assertIn("You had typed: 120", self.said(self.decide("bought", "120")))
        self.assertFalse(Lot.objects.filter(title=self.plan.title).exists())
        line = self.plan.lines.get()
        self.done(self.post("buying:plan-drop", [self.plan.number, line.pk]))
        self.assertTrue(PlanLine.objects.filter(pk=line.pk).exists())

    def test_a_line_is_dropped_and_a_plan_without_lines_is_not_bought(self):
        line = self.plan.lines.get()
        self.assertEqual(self.post("buying:plan-drop", [self.plan.number + 1, line.pk]).status_code, 404)
        self.done(self.post("buying:plan-drop", [self.plan.number, line.pk]))
        self.assertFalse(self.plan.lines.exists())
        self.assertIn("The plan has no lines yet.", self.said(self.decide("bought", "50")))
        self.assertEqual(Lot.objects.count(), 1)

    def test_its_terms_are_changed_and_a_stale_page_is_told(self):
        there = reverse("buying:plan-terms", args=[self.plan.number])
        form = self.client.get(there).context["form"]
        self.assertContains(self.client.get(there), self.plan.supplier.name)
        sent = {field.html_name: "" if field.value() is None else field.value() for field in form}
        closes = (timezone.localtime() + timedelta(days=2)).strftime("%Y-%m-%dT%H:%M")
        sent |= {"closes_at": closes, "write_key": "", "version": self.plan.version}
        self.says(self.client.post(there, sent | {"premium_bands": "25 bis 1000"}), "25 bis 1000")
        self.done(self.client.post(there, sent | {"premium_bands": "25 to 1000; 20", "title": "Shed, again"}))
        plan = self.again(self.plan)
        self.assertEqual(plan.title, "Shed, again")
        self.says(self.client.post(there, sent | {"title": "Shed, by somebody else"}), "Somebody else saved this")
        # A quarter of the first thousand, a fifth of what is above it.
        page = self.client.get(reverse("buying:plan-at", args=[plan.number]), {"bid": "1500"})
        self.assertContains(page, "€1,870.00")  # and 20 of freight

    def test_the_odds_add_up_or_are_refused(self):
        sent = {"works": "50", "repairable": "30", "parts": "10", "worthless": "5"}
        line = self.plan.lines.get()
        form = self.client.get(reverse("buying:plan-line", args=[self.plan.number, line.pk])).context["form"]
        data = {field.html_name: "" if field.value() is None else field.value() for field in form}
        data |= {f"odds_{name}": odds for name, odds in sent.items()} | {"write_key": ""}
        page = self.client.post(reverse("buying:plan-line", args=[self.plan.number, line.pk]), data)
        self.says(page, "95")
        self.assertEqual(BidPlan.objects.get().lines.count(), 1)


class Awaited(ALot):
    def test_what_has_not_come_for_weeks_stands_out_until_it_came(self):
        day = timezone.localdate()
        lot = self.recorded(bought_on=day)
        pages = [reverse("buying:lots"), reverse("buying:lot", args=[lot.number]), reverse("intake:table")]
        for days, seen in ((21, False), (22, True)):
            with clock.at(timezone.now() + timedelta(days=days)):
                for page in pages:
                    self.assertEqual("long" in self.stuck(page), seen, page)
        # What was paid later comes later.
        Lot.objects.filter(pk=lot.pk).update(paid_on=day + timedelta(days=5))
        with clock.at(timezone.now() + timedelta(days=22)):
            self.assertFalse(self.again(lot).awaited_long)
        LotLine.objects.update(received=F("quantity"))
        with clock.at(timezone.now() + timedelta(days=90)):
            for page in pages:
                self.assertNotIn("long", self.stuck(page))

    def stuck(self, address: str) -> list[str]:
        """The first word of each mark that something stands still."""
        return re.findall(r'class="st st--stuck">.*?</svg>\s*(\w+)', self.client.get(address).content.decode(), re.S)
