"""What was typed in two ways is put together; whatever units stand by is changed, they stand where they should."""

import json
from dataclasses import replace
from decimal import Decimal as D

from django.urls import reverse

from core.buying.landed import Charge, ChargeKind
from core.money import ZERO
from core.stock.parts import Condition
from stations.books.selectors import complaints
from stations.buying import services as buying
from stations.buying.sharing import share_lot
from stations.catalogue import bank, bank_files, fit_sheets
from stations.catalogue.models import ExpectedItem, MachineModel, ModelOffers, SerialPattern, Tried, Weakness
from stations.common import clock
from stations.common.details import as_kept
from stations.common.refusals import Refused
from stations.intake import services as intake
from stations.people.models import HistoryEntry
from stations.selling import services as selling
from stations.selling.models import Channel, Comparable
from stations.stock import orders, selectors
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.stock.orders import Ordered, Terms
from stations.stock.services import ItemDetails, Sort
from stations.units.models import Unit
from stations.units.stages import apply, unit_statuses
from stations.workshop import issuing
from stations.workshop.models import Placement
from tests.stations.base import line_data, lot_data
from tests.stations.test_stock import Stock
from tests.stations.test_through_the_pages import Through


class Models(Through):
    def scene(self):
        super().scene()
        self.twin = MachineModel.objects.create(maker="Halden", name="M 2", form_factor="all_in_one", year_from=1986)
        (self.unit,) = intake.receive(self.owner, self.line, 1, self.twin, "shelf")

    def typed(self, **changes):
        page = self.client.get(reverse("catalogue:model", args=[self.twin.pk]))
        shown = {name: value for name, value in page.context["form"].initial.items() if value not in (None, False)}
        return self.post("catalogue:model", [self.twin.pk], **shown | changes)

    def test_one_of_the_same_name_is_asked_about_and_then_it_is_one(self):
        page = self.client.get(reverse("catalogue:model", args=[self.twin.pk]))
        self.assertNotContains(page, "The same as one that is there")
        said = self.typed(name="M2")
        for words in ("There is a Halden M2 already.", "The same as one that is there"):
            self.assertContains(said, words)
        self.assertEqual(MachineModel.objects.count(), 2)
        self.done(self.typed(name="M2", together="on"))
        kept = MachineModel.objects.get()
        self.assertEqual((kept.pk, kept.year_from, kept.drives), (self.model.pk, 1986, 1), "what is known stays")
        self.assertEqual((self.again(self.unit).model, self.again(self.unit).title), (kept, "Halden M2"))
        story = HistoryEntry.objects.filter(subject="unit", subject_id=self.unit.pk).latest("pk")
        self.assertEqual(story.words, "Called Halden M2, was Halden M 2")
        with self.assertRaisesRegex(Refused, "put it together with another one meanwhile"):
            bank.change_model(self.owner, self.twin, as_kept(bank.ModelDetails, kept), [])

    def test_everything_that_is_of_the_one_is_of_the_other(self):
        twin, model = self.twin, self.model
        sheet = fit_sheets.PartSheet.objects.create(name="SIMM")
        ExpectedItem.objects.create(model=twin, name="mouse mat")
        SerialPattern.objects.create(maker="Halden", model=twin, pattern="L2 N4")
        Weakness.objects.create(model=twin, what="cracks")
        ModelOffers.objects.create(model=twin, offers={"slots": []})
        Tried.objects.create(sheet=sheet, model=twin, runs=True, who="Olga", on=clock.today())
        Comparable.objects.create(model=twin, price=D(50), sold_on=clock.today(), grade="working")
        self.part.fits.add(twin)
        at = {"what": "foot", "face": "bottom", "left_mm": 5, "top_mm": 5, "wide_mm": 9, "high_mm": 9}
        for one in (twin, model):
            Placement.objects.create(model=one, measured_at=clock.now(), measured_by=self.owner, **at)
        said = replace(as_kept(bank.ModelDetails, twin), name="M2")
        with self.assertRaisesRegex(Refused, "There is a Halden M2 already"):
            bank.change_model(self.owner, twin, said, [])
        bank.change_model(self.owner, twin, said, [], together=True)
        for rows, count in (
            (model.patterns, 1),
            (model.weaknesses, 1),
            (model.tried, 1),
            (model.comparables, 1),
            (model.fitting, 1),
            (model.placements, 1),
            (model.expected, 2),
            (model.units, 1),
        ):
            self.assertEqual(rows.count(), count, rows)
        self.assertEqual(model.fit.offers, {"slots": []})

    def test_no_table_is_forgotten(self):
        """Whatever points at a model can be pointed at another: nothing but keys and lists of them does."""
        for relation in MachineModel._meta.related_objects:
            self.assertTrue(relation.one_to_many or relation.one_to_one or relation.many_to_many, relation)

    def test_called_anew_units_are_called_so_too_but_not_what_was_named_by_hand(self):
        (named,) = intake.receive(self.owner, self.line, 1, self.twin, "shelf")
        Unit.objects.filter(pk=named.pk).update(title="The old one of the school")
        self.done(self.typed(name="M2 Plus"))
        self.assertEqual(
            [self.again(unit).title for unit in (self.unit, named)], ["Halden M2 Plus", "The old one of the school"]
        )


class Drawers(Stock):
    def scene(self):
        super().scene()
        stock.stock_part(self.owner, Sort("Blet", drawer="A2"), 2, D(8))
        self.wrong = StockItem.objects.get(name="Blet")

    def change(self, item: StockItem, together: bool = False, **changes) -> StockItem:
        item = self.again(item)
        said = replace(as_kept(ItemDetails, item), **changes)
        return stock.change_item(self.owner, item, item.version, said, item.fits.all(), together)

    def test_what_lies_in_two_drawers_of_one_thing_lies_in_one_with_what_it_cost(self):
        self.wrong.fits.add(self.model)
        typed = {"name": "Belt", "drawer": "A2", "measure": "piece", "in_use": "on"}
        sent = typed | {"version": self.wrong.version}
        asked = self.post("stock:change", [self.wrong.pk], **sent)
        for words in ("There is a Belt, new, already.", "The same as one that is there"):
            self.assertContains(asked, words)
        answer = self.post("stock:change", [self.wrong.pk], **sent | {"together": "on"})
        self.assertRedirects(answer, reverse("stock:item", args=[self.part.pk]))
        belt, empty = self.again(self.part), self.again(self.wrong)
        self.assertEqual((belt.quantity, self.worth(belt), belt.fits.get()), (5, D(18), self.model))
        self.assertEqual((empty.quantity, self.worth(empty), empty.in_use), (0, 0, False))
        self.assertNotIn(empty, selectors.find())
        self.assertEqual(complaints(), [])
        self.assertContains(self.client.get(reverse("stock:item", args=[empty.pk])), "Put away")
        self.assertContains(self.client.get("/find/", {"q": "Blet"}), "put away")

    def test_what_is_held_or_on_order_or_counted_otherwise_comes_first(self):
        job = self.a_job()
        held = issuing.reserve(self.owner, job, self.wrong, D(1))
        with self.assertRaisesRegex(Refused, "1 of it are held"):
            self.change(self.wrong, True, name="Belt")
        issuing.let_go(self.owner, held)
        ordered = Ordered(Sort("Blet"), "3", D(2))
        orders.order_parts(self.owner, "Pell surplus", Terms(), [ordered])
        with self.assertRaisesRegex(Refused, "are on order"):
            self.change(self.wrong, True, name="Belt")
        stock.stock_part(self.owner, Sort("Glue", measure="ml"), "20", D(4))
        with self.assertRaisesRegex(Refused, "kept in ml"):
            self.change(self.part, True, name="Glue")
        self.assertEqual(self.again(self.wrong).quantity, 2)

    def test_an_empty_drawer_is_put_away_and_comes_back_with_what_goes_in(self):
        with self.assertRaisesRegex(Refused, "Only an empty drawer"):
            self.change(self.wrong, in_use=False)
        stock.count(self.owner, self.wrong, ZERO, "all gone")
        self.change(self.wrong, in_use=False, reorder_at=D(1), reorder_to=D(2))
        self.assertEqual((self.again(self.wrong).in_use, self.again(self.wrong).reorder_at), (False, None))
        self.assertNotIn(self.wrong, selectors.find())
        stock.stock_part(self.owner, Sort("Blet"), 1, D(3))
        self.assertIn(self.wrong, selectors.find())


class StandsWhereItShould(Through):
    """Whatever a stage rests on is changed where it is kept, the units stand by it at once."""

    STANDS = "proven"

    def agree(self) -> None:
        units = list(Unit.objects.order_by("pk").select_related("lot", "line", "model"))
        stands = unit_statuses(units)
        self.assertEqual({unit.tag: apply(unit, stands[unit.pk]) for unit in units}, {unit.tag: {} for unit in units})

    def graded(self) -> Unit:
        unit = self.proven()
        selling.grade_unit(self.owner, unit)
        return self.again(unit)

    def test_pictures_that_a_model_wants(self):
        unit = self.proven()
        self.hand().offer(unit, "99", pictures=1, publish=False)
        unit = self.again(unit)
        before = unit.stage_reason, unit.next_step
        said = replace(as_kept(bank.ModelDetails, self.model), photos_wanted=9)
        bank.change_model(self.owner, self.model, said, [])
        self.agree()
        self.assertNotEqual((self.again(unit).stage_reason, self.again(unit).next_step), before)
        models = json.loads(bank_files.as_json())
        for model in models["models"]:
            model["photos_wanted"] = 1
        bank_files.import_models(self.owner, json.dumps(models).encode())
        self.agree()
        self.assertEqual((self.again(unit).stage_reason, self.again(unit).next_step), before)

    def test_what_was_paid_for_its_lot(self):
        given = replace(lot_data(), source_kind="donation", charges=())
        lot = buying.record_lot(self.owner, given, [line_data(quantity=1)])
        (unit,) = intake.receive(self.owner, lot.lines.get(), 1, self.model, "shelf")
        self.hand().assess(unit, "period")
        self.hand().test(unit)
        selling.grade_unit(self.owner, unit)
        before = self.again(unit).stage_reason
        paid = replace(given, source_kind="auction", charges=(Charge(ChargeKind.PRICE, D(40)),))
        lot = self.again(lot)
        buying.correct_lot(self.owner, lot, lot.version, paid, None)
        self.agree()
        self.assertIn("not shared", self.again(unit).stage_reason)
        share_lot(self.owner, lot, "value")
        self.agree()
        self.assertEqual(self.again(unit).stage_reason, before)

    def test_nobody_says_what_a_lot_cost_of_which_no_price_is_recorded(self):
        """What is bought has a price, 0 among them; freight alone is none. Only what is given or lent has none."""
        for source, charges, known in (
            ("private", (), False),
            ("auction", (Charge(ChargeKind.FREIGHT, D(9)),), False),
            ("shop", (Charge(ChargeKind.PRICE, ZERO),), True),
            ("donation", (Charge(ChargeKind.FREIGHT, D(9)),), True),
        ):
            lot = buying.record_lot(self.owner, lot_data(source_kind=source, charges=charges), [line_data(quantity=1)])
            self.assertEqual(self.again(lot).priced, known, source)
            for page in (f"/buying/{lot.code}/", "/books/", f"/books/{lot.code}/", "/", "/buying/"):
                said = self.client.get(page)
                self.assertEqual("not recorded" in said.content.decode(), not known, (source, page))
            if known:
                buying.correct_lot(self.owner, lot, self.again(lot).version, lot_data(source_kind="auction"), None)
                continue
            (unit,) = intake.receive(self.owner, lot.lines.get(), 1, self.model, "shelf")
            self.hand().assess(unit, "period")
            self.hand().test(unit)
            selling.grade_unit(self.owner, unit)
            with self.assertRaisesRegex(Refused, f"nobody recorded what was paid for {lot.code}"):
                self.hand().offer(unit, "99", publish=False)
            given = lot_data(source_kind=source, charges=(Charge(ChargeKind.PRICE, ZERO),))
            buying.correct_lot(self.owner, lot, self.again(lot).version, given, None)
            self.agree()
            self.assertTrue(self.again(lot).priced)
            self.hand().offer(self.again(unit), "99", publish=False)
        self.assertEqual(complaints(), [])

    def test_how_a_channel_is_served(self):
        unit = self.graded()
        self.hand().photograph(unit, 3)
        self.hand().offer(self.again(unit), "99", pictures=0)
        selling.sell(self.owner, self.again(unit), D(99), "Ada", D(0))
        channel = self.again(self.channel)
        said = replace(as_kept(selling.ChannelDetails, channel), kind=Channel.Kind.HAND)
        selling.change_channel(self.owner, channel, channel.version, said)
        self.agree()


class TakenApart(Stock):
    def test_pieces_do_not_go_among_what_is_kept_by_measure(self):
        from stations.workshop.taking_apart import SalvagedPart, take_apart

        stock.stock_part(self.owner, Sort("Fluid", measure="ml"), "20", D(4))
        donor = self.assessed("donor")
        with self.assertRaisesRegex(Refused, "kept in ml"):
            take_apart(self.owner, donor, [SalvagedPart("Fluid", Condition.NEW.value, "", 1, D(5))])
