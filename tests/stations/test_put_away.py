"""What the shop has no more is put away: it stays where it was used, is offered nowhere, and can come back."""

from decimal import Decimal

from django.forms import modelform_factory
from django.test import RequestFactory
from django.urls import reverse

from stations.bench import fault_view, faults
from stations.catalogue import bank, bank_files, fit_sheets
from stations.catalogue.models import MachineModel, PartSheet, Tried
from stations.common import clock
from stations.common.details import as_kept
from stations.common.refusals import NotAllowed, Refused
from stations.people import screens
from stations.people.models import HistoryEntry
from stations.selling import placing
from stations.selling import services as selling
from stations.selling.models import Channel, Listing, Placement
from stations.stock import services as stock
from stations.stock import shelf
from stations.stock.models import KnownGood, PartSeller, StockItem
from stations.stock.services import ItemDetails
from tests.stations.test_channels import OnChannels
from tests.stations.test_pages import PageTest
from tests.stations.test_through_the_pages import Through

D = Decimal


class Channels(OnChannels):
    def put_away(self, channel: Channel, **changes):
        """Through its page, as it stands there."""
        page = self.client.get(reverse("selling:channel", args=[channel.pk]))
        typed = {name: value for name, value in page.context["form"].initial.items() if value is not None}
        typed.pop("in_use")
        return self.post("selling:channel", [channel.pk], **typed | {"version": self.again(channel).version} | changes)

    def test_what_stands_there_or_is_priced_for_it_comes_first(self):
        unit = self.on_both()
        self.says(self.put_away(self.north), f"{unit.tag}: on offer there, or may still be")
        placing.take_off(self.owner, Placement.objects.get(unit=unit, channel=self.north))
        self.says(self.put_away(self.north), "on offer there, or may still be")
        self.worked()
        self.done(self.put_away(self.north))
        self.assertFalse(self.again(self.north).in_use)
        self.says(self.put_away(self.channel), f"{unit.tag}: on offer there, or may still be")
        placing.take_all_off(self.owner, self.channel)
        self.says(self.put_away(self.channel), f"{unit.tag}: priced for it")

    def test_one_that_is_gone_is_looked_at_by_somebody_and_put_away(self):
        """Else what was to come down would be said to stand there for ever."""
        unit = self.on_both()
        there = reverse("selling:channel", args=[self.north.pk])
        with self.assertRaisesRegex(Refused, "confirms that itself"):
            placing.found_down(self.owner, self.north, {})
        self.there.faults.errors = 1000
        self.assertContains(self.client.get(there), "Offer nothing there any more")
        self.assertNotContains(self.client.get(there), "I looked")
        self.done(self.post("selling:all-off", [self.north.pk]))
        self.worked()
        self.assertEqual(self.standing(unit, self.north), "maybe_up")
        self.assertContains(self.client.get(there), "I looked")
        with self.assertRaises(NotAllowed):
            placing.found_down(self.viewer, self.again(self.north), {})
        place = unit.placements.get(channel=self.north)
        self.done(self.post("selling:found-down", [self.north.pk], seen=f"{place.pk}:{place.turn}"))
        self.assertEqual(self.standing(unit, self.north), "off")
        self.assertIn("it did not answer", HistoryEntry.objects.get(action="selling.found_down").words)
        with self.assertRaisesRegex(Refused, "nothing to come down"):
            placing.found_down(self.owner, self.again(self.north), {place.pk: place.turn})
        self.done(self.put_away(self.north))
        self.assertNotContains(self.client.get("/selling/"), "has not answered")
        self.assertEqual(self.standing(unit, self.south), "up", "it stays on offer elsewhere")

    def test_it_is_offered_nowhere_and_comes_back(self):
        unit = self.listed()
        self.done(self.put_away(self.south))
        page = self.client.get(f"/selling/W-{unit.number}/")
        self.assertNotContains(page, "South market")
        with self.assertRaisesRegex(Refused, "don’t sell on South market any more"):
            placing.offer_on(self.owner, unit, self.again(self.south))
        self.assertContains(self.client.get("/selling/channels/"), "sell there any more")
        self.done(self.put_away(self.south, in_use="on"))
        self.assertContains(self.client.get(f"/selling/W-{unit.number}/"), "South market")

    def test_what_was_priced_for_it_is_priced_anew_before_it_is_listed(self):
        unit = self.listed()
        selling.end_listing(self.owner, unit, "later")
        self.done(self.put_away(self.channel))
        with self.assertRaisesRegex(Refused, "Price it for another"):
            selling.publish(self.owner, self.again(unit))
        page = self.client.get(f"/selling/W-{unit.number}/")
        self.assertNotIn(self.channel, page.context["price_form"].fields["channel"].queryset)
        row = Listing.objects.get(unit=unit)
        selling.set_price(self.owner, unit, row.version, self.north, D(150))
        selling.publish(self.owner, self.again(unit))
        self.assertFalse(Placement.objects.get(unit=unit, channel=self.channel).wanted, "chosen once, gone since")


class Shelf(Through):
    STANDS = "assessed"

    def typed(self, row: KnownGood, **changes):
        said = {name: value for name, value in vars(as_kept(shelf.ShelfDetails, row)).items() if value is not None}
        said = {name: value for name, value in said.items() if value is not False} | changes
        return self.post("stock:known-good-one", [row.pk], **said)

    def test_what_is_said_of_it_is_put_right(self):
        row = shelf.shelve(self.owner, KnownGood(name="Old keybord", kind="part", stands_in="keyboard", place="B2"))
        self.assertContains(self.client.get("/bench/known-good/"), reverse("stock:known-good-one", args=[row.pk]))
        self.done(self.typed(row, name="Old keyboard", in_use="on"))
        self.assertEqual((self.again(row).name, self.again(row).place), ("Old keyboard", "B2"))
        self.says(self.typed(row, name="", in_use="on"), "required")
        with self.assertRaises(NotAllowed):
            shelf.change(self.viewer, row, as_kept(shelf.ShelfDetails, row))

    def test_what_is_gone_stands_in_no_more(self):
        row = shelf.shelve(self.owner, KnownGood(name="Old keyboard", kind="part", stands_in="keyboard"))
        case = faults.open_case(self.owner, self.assessed(), "keyboard")
        swap = {one.action.code: one for one in fault_view.look_at(case).more}.get("swap-keyboard")
        first = {one.next.action.code: one for one in fault_view.look_at(case).offered}.get("swap-keyboard")
        self.assertTrue((swap or first).stand_ins)
        faults.record_try(self.owner, case, "swap-keyboard", True, known_good=row)
        self.done(self.typed(row, in_use=""))
        self.assertFalse(any(one.stand_ins for one in fault_view.look_at(case).offered))
        with self.assertRaisesRegex(Refused, "not on the shelf any more"):
            faults.record_try(self.owner, case, "swap-keyboard", True, "otherwise", known_good=self.again(row))
        self.assertContains(self.client.get("/bench/known-good/"), "not on the shelf any more")
        self.assertEqual(case.tries.get().known_good, row, "what it answered stays")


class Models(PageTest):
    def test_it_is_not_chosen_any_more_and_what_has_it_keeps_it(self):
        (unit,) = self.receive()
        said = as_kept(bank.ModelDetails, self.model)
        bank.change_model(self.owner, self.model, bank.ModelDetails(**vars(said) | {"in_use": False}), [])
        self.assertNotContains(self.client.get("/intake/"), "Halden M2</option>")
        self.assertContains(self.client.get(reverse("intake:unit", args=[unit.number])), "Halden M2</option>")
        other = self.receive()[0]
        self.identify(other, model=None)
        self.assertNotContains(self.client.get(reverse("intake:unit", args=[other.number])), "Halden M2</option>")
        self.assertContains(self.client.get("/intake/models/"), "not offered")

    def test_all_that_is_typed_of_a_model_goes_out_and_comes_in_again(self):
        MachineModel.objects.filter(pk=self.model.pk).update(needs_cell=True, photos_wanted=7, in_use=False, drives=0)
        before = as_kept(bank.ModelDetails, self.again(self.model))
        for text in (bank_files.as_json(), bank_files.as_csv()):
            MachineModel.objects.filter(pk=self.model.pk).update(
                needs_cell=False, photos_wanted=1, in_use=True, keeps_data=None, drives=4
            )
            self.assertEqual(bank_files.import_models(self.owner, text.encode()), (0, 1, 0))
            self.assertEqual(as_kept(bank.ModelDetails, self.again(self.model)), before)


class Sheets(Through):
    def test_one_of_no_such_part_is_dropped_unless_it_was_tried(self):
        sheet = PartSheet.objects.create(name="SIMM 4 MBb")
        there = reverse("catalogue:part-sheet", args=[sheet.pk])
        self.assertContains(self.client.get(there), "There is no such part")
        tried = Tried(sheet=sheet, model=self.model, runs=True, who="Olga", on=clock.today())
        fit_sheets.keep_tried(self.owner, tried)
        self.assertNotContains(self.client.get(there), "There is no such part")
        with self.assertRaisesRegex(Refused, "Drop that first"):
            fit_sheets.drop_sheet(self.owner, sheet)
        fit_sheets.drop_tried(self.owner, tried)
        self.done(self.post("catalogue:drop-sheet", [sheet.pk]))
        self.assertFalse(PartSheet.objects.exists())

    def test_what_is_known_of_a_part_goes_along_with_its_name(self):
        PartSheet.objects.create(name="Belt", needs={"width": 1})
        for name in ("Belt, 4 mm", "Belt"):
            item = StockItem.objects.get(pk=self.part.pk)
            said = ItemDetails(**vars(as_kept(ItemDetails, item)) | {"name": name})
            stock.change_item(self.owner, item, item.version, said, [])
        self.assertEqual(
            list(PartSheet.objects.values_list("name", "needs")), [("Belt", {"width": 1}), ("Belt, 4 mm", {"width": 1})]
        )


class BrokenConstraints(Through):
    def test_a_sentence_is_told_not_a_name(self):
        """A rule of the database that a form breaks and nobody worded is told as the sentence it is named by."""
        typed = {"name": "Pell", "postage": "-1"}
        request = RequestFactory().post("/", typed)
        request.user = self.owner
        form = modelform_factory(PartSeller, fields=["name", "postage"])(request.POST)
        self.assertIsNone(screens.attempt(request, form, lambda data: "/"))
        self.assertEqual(list(form.non_field_errors()), ["Postage never below 0."])
