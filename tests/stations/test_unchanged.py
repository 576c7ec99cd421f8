"""Save pressed on a page as it stands: what changes nothing leaves nothing, no entry and no copy of one's own."""

from dataclasses import asdict
from decimal import Decimal as D

from django.apps import apps
from django.db import models
from django.forms import ModelForm
from django.urls import resolve
from lxml import html

from core.machine.approach import Approach
from stations.bench.models import BenchCheck
from stations.buying import services as buying
from stations.buying.models import StartingOdds
from stations.catalogue.models import ModelOffers, ShopRecipe
from stations.common.refusals import Refused
from stations.intake import capture, settling
from stations.intake import services as intake
from stations.ledger.models import Posting
from stations.people.models import HistoryEntry
from stations.selling import market, placing
from stations.selling import services as selling
from stations.selling.models import PriceStep
from stations.stock import shelf
from stations.stock.models import Design, KnownGood
from stations.units import findings
from stations.units.findings import Observation
from stations.units.models import OwnersTerms
from stations.workshop import services as workshop
from stations.workshop.models import BuyerTable, TreatmentNote, UnitStripDown
from stations.workshop.new_job import NewJob
from tests.stations.base import ShopTest, line_data, lot_data

# What is kept of one's own beside what comes with us, or is counted on: no more of it by a look.
OWN = (
    BenchCheck,
    BuyerTable,
    Design,
    HistoryEntry,
    ModelOffers,
    OwnersTerms,
    Posting,
    PriceStep,
    ShopRecipe,
    StartingOdds,
    TreatmentNote,
    UnitStripDown,
)

# With a form that is empty, to say it of another kind.
ADDS_TOO = {"buying:odds"}


def as_sent(form) -> dict[str, list[str]]:
    """What a browser sends of a form as it stands, by its first button."""
    sent: dict[str, list[str]] = {}
    for name, value in form.form_values():
        sent.setdefault(name, []).append(value)
    for button in form.iter("button"):
        if button.get("name") and button.get("type", "submit") == "submit":
            sent.setdefault(button.get("name"), [button.get("value", "")])
            break
    return sent


class Unchanged(ShopTest):
    STANDS = "listed"

    def setUp(self):
        super().setUp()
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")

    def counts(self) -> dict[str, int]:
        return {model.__name__: model.objects.count() for model in OWN}

    def press(self, there: str, *saves: str) -> None:
        """Send every form of the page that leads to one of `saves` by the name of its address."""
        page, met = self.client.get(there), set()
        for form in html.fromstring(page.content.decode()).iter("form"):
            to = form.get("action") or form.get("hx-post") or there
            name = resolve(to.split("?")[0]).view_name
            if name not in saves or (name in ADDS_TOO and not dict(form.form_values()).get("works")):
                continue
            met.add(name)
            before = self.counts()
            answer = self.client.post(to, as_sent(form))
            self.assertLess(answer.status_code, 400, f"{there}: {to}")
            self.assertNotIn("Not saved yet", answer.content.decode(), f"{there}: {to}")
            self.assertEqual(self.counts(), before, f"{there}: {to}")
        self.assertEqual(met, set(saves), there)

    def test_of_a_unit(self):
        unit = self.listed()
        finding = findings.add_finding(self.owner, unit, Observation("front", "crack", 0.5, 0.5))
        self.press(f"/selling/W-{unit.number}/", "selling:price", "selling:word")
        capture.set_ownership(
            self.owner, unit, capture.Ownership("consigned", "E. Norr", commission_percent=D(20), agreement="by May")
        )
        there = f"/intake/W-{unit.number}/"
        self.press(there, "intake:hold", "intake:data", "intake:contents", "intake:approach", "intake:identify")
        self.press(f"/intake/findings/{finding.pk}/change/", "intake:change-finding")
        self.press(f"/workshop/W-{unit.number}/treatment/", "workshop:treatment")

    def test_of_a_lot(self):
        self.press("/buying/L-1/", "buying:lot")
        self.press(f"/buying/L-1/lines/{self.line.pk}/", "buying:line")
        self.press("/buying/L-1/correct/", "buying:correct")
        self.press(f"/buying/suppliers/{self.lot.supplier_id}/", "buying:supplier")

    def test_of_what_comes_with_us(self):
        for there, save in (
            ("/bench/checks/look-case/", "bench:check"),
            ("/workshop/recipes/clean-residue/", "catalogue:recipe"),
            ("/workshop/recipes/clean-residue/step/?at=0", "catalogue:recipe-step"),
            ("/workshop/buyers/collector/", "workshop:buyer"),
            ("/selling/sentences/", "selling:sentences"),
            ("/selling/pages/?page=buying", "selling:pages"),
            ("/buying/odds/", "buying:odds"),
            ("/people/settings/", "people:settings"),
            (f"/intake/models/{self.model.pk}/", "catalogue:model"),
            (f"/intake/models/{self.model.pk}/offers/", "catalogue:offers"),
        ):
            self.press(there, save)

    def test_of_stock(self):
        row = shelf.shelve(
            self.owner, KnownGood(name="Grey keyboard", kind="fixture", stands_in="keyboard", place="shelf K")
        )
        self.press(f"/workshop/stock/{self.part.pk}/", "stock:change", "stock:design")
        self.press(f"/bench/known-good/{row.pk}/", "stock:known-good-one")

    def test_a_job_keeps_what_was_said_of_it(self):
        unit = self.assessed()
        for said in (True, False, None):
            job = workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="clean", reversible=said))
            self.press(f"/workshop/jobs/{job.pk}/change/", "workshop:change")
            self.assertIs(self.again(job).reversible, said)
            workshop.cancel_job(self.owner, job, "no")


class NoLongerSo(ShopTest):
    def test_why_it_was_under_the_floor_is_no_leave_for_the_next_time(self):
        unit = self.listed()
        floor = market.unit_books(unit).floors(self.channel)[1]

        def priced(asking: D, reason: str) -> str:
            row = unit.listing
            row.refresh_from_db()
            return selling.set_price(self.owner, unit, row.version, self.channel, asking, reason).below_floor_reason

        self.assertEqual(priced(floor - 1, "the room is wanted"), "the room is wanted")
        self.assertEqual(priced(floor - 2, "the room is wanted"), "the room is wanted")
        self.assertEqual(priced(floor, "the room is wanted"), "")
        with self.assertRaises(Refused):
            priced(floor - 1, "")
        # Typed anew it is for a channel that is still to come.
        self.assertEqual(priced(floor, "for the fair"), "for the fair")

    def test_what_serves_for_a_basis_that_nobody_can_say_is_said_beforehand(self):
        line = line_data(worth_low=None, worth_likely=None, worth_high=None)
        lot = buying.record_lot(self.owner, lot_data(title="Attic"), [line])
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get(f"/buying/{lot.code}/"), "By value: No line has a value")


class Told(ShopTest):
    def told(self) -> str:
        return HistoryEntry.objects.latest("pk").words

    def test_what_is_said_otherwise_is_told(self):
        unit = self.assessed()
        owned = capture.Ownership("consigned", "E. Norr", commission_percent=D(20))
        capture.set_ownership(self.owner, unit, owned)
        capture.set_ownership(self.owner, unit, capture.Ownership(**{**asdict(owned), "commission_percent": D(5)}))
        self.assertEqual(self.told(), "Agreed with E. Norr: our commission, % 20.00 → 5.00")
        capture.note_data(self.owner, unit, capture.DataOnBoard(None))
        self.assertEqual(self.told(), "Data on board: storage in it that keeps data yes → nothing")

    def test_a_row_that_a_form_wrote_into_is_compared_as_it_is_kept(self):
        row = shelf.shelve(
            self.owner, KnownGood(name="Grey keyboard", kind="fixture", stands_in="keyboard", place="shelf K")
        )
        there = f"/bench/known-good/{row.pk}/"
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        form = next(
            form
            for form in html.fromstring(self.client.get(there).content.decode()).iter("form")
            if form.get("method") == "post" and form.get("action", there) == there
        )
        self.assertEqual(self.client.post(there, as_sent(form) | {"place": "shelf L"}).status_code, 302)
        self.assertEqual(self.told(), "Known-good Grey keyboard: place shelf K → shelf L")


class YesNoOrUnsaid(ShopTest):
    def test_every_form_shows_what_is_kept(self):
        """A plain Select compares "True" with "true", and shows that nobody said."""
        for model in apps.get_models():
            if not model.__module__.startswith("stations."):
                continue
            for form in (one for one in every_form(ModelForm) if one._meta.model is model):
                for name, field in form.base_fields.items():
                    kept = {f.name: f for f in model._meta.fields}.get(name)
                    if isinstance(kept, models.BooleanField) and hasattr(field.widget, "choices"):
                        for said in (True, False):
                            drawn = field.widget.render(name, said)
                            self.assertIn("selected", drawn.split("</option>", 1)[1], f"{form.__name__}.{name}")


def every_form(kind: type) -> list[type]:
    return [one for sub in kind.__subclasses__() for one in (sub, *every_form(sub))]


class Over(ShopTest):
    STANDS = "listed"

    def test_what_is_sold_or_written_off_is_as_it_went(self):
        sold, scrapped = self.listed(), self.assessed()
        selling.sell(self.seller, sold, D(150), "a reader", D(9))
        settling.write_off(self.owner, scrapped, "burnt out")
        owned = capture.Ownership("consigned", "E. Norr", commission_percent=D(20))
        for unit in (self.again(sold), self.again(scrapped)):
            for act in (
                lambda unit=unit: intake.choose_approach(self.owner, unit, Approach.DONOR, "for parts"),
                lambda unit=unit: capture.set_ownership(self.owner, unit, owned),
                lambda unit=unit: selling.grade_unit(self.owner, unit),
                lambda unit=unit: placing.offer_on(self.owner, unit, self.channel),
                lambda unit=unit: selling.save_text(self.owner, unit, 1, "As new", "Never used."),
                lambda unit=unit: selling.write_from_facts(self.owner, unit),
            ):
                with self.assertRaisesRegex(Refused, "stays as it was"):
                    act()
            with self.assertRaisesRegex(Refused, "stays as it was|It is sold"):
                selling.set_price(self.owner, unit, 1, self.channel, D(90))

    def test_its_pages_do_not_ask_for_it(self):
        unit = self.listed()
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        asks = ("/approach/", "/holding/", "/price/", "/grade/", "/text/", "/write/", "/word/")

        def asked() -> set[str]:
            pages = [self.client.get(f"/{room}/W-{unit.number}/").content.decode() for room in ("intake", "selling")]
            return {to for to in asks for page in pages if f'{unit.number}{to}"' in page}

        self.assertEqual(asked(), set(asks))
        selling.sell(self.seller, unit, D(150), "a reader", D(9))
        self.assertEqual(asked(), set())
