"""A machine of no model puts its model in the bank; and what somebody recorded stays, whatever model is chosen."""

from dataclasses import replace

from django.urls import reverse

from core.intake.completeness import Presence
from stations.catalogue.bank import Expected
from stations.catalogue.models import MachineModel
from stations.common.details import as_kept
from stations.common.refusals import NotAllowed, Refused
from stations.intake import into_bank
from stations.intake import services as intake
from stations.units.models import Content
from tests.stations.test_through_the_pages import Through


class IntoTheBank(Through):
    def scene(self):
        super().scene()
        self.unit, self.twin, self.other = intake.receive(self.owner, self.line, 3, None, "shelf")
        for unit in (self.unit, self.twin):
            self.identify(unit, title="Brisk Luggable 88", form_factor="luggable")
        self.identify(self.again(self.unit), title="Brisk Luggable 88", battery="nicd", drives=2)
        self.unit = self.again(self.unit)
        Content.objects.bulk_create(
            Content(unit=self.unit, name=name, weight=weight, presence=presence)
            for name, weight, presence in (
                ("keyboard lead", 3, Presence.PRESENT),
                ("handle", 1, Presence.MISSING),
                ("a sticker album", 1, Presence.EXTRA),
            )
        )
        self.there = reverse("intake:into-bank", args=[self.unit.number])

    def typed(self, **changes):
        page = self.client.get(self.there)
        shown = {name: value for name, value in page.context["form"].initial.items() if value not in (None, False)}
        return self.post("intake:into-bank", [self.unit.number], **shown | {"photos_wanted": 3} | changes)

    def test_what_was_seen_on_it_is_what_is_known_of_its_model(self):
        self.assertContains(self.client.get(reverse("intake:unit", args=[self.unit.number])), self.there)
        page = self.client.get(self.there)
        self.assertContains(page, self.twin.tag)
        self.assertNotContains(page, self.other.tag)
        self.done(self.typed(others=[self.twin.pk]))
        model = MachineModel.objects.get(maker="Brisk")
        self.assertEqual((model.name, model.battery, model.drives), ("Luggable 88", "nicd", 2))
        self.assertEqual([str(row) for row in model.expected.all()], ["keyboard lead", "handle"])
        self.assertEqual([self.again(unit).model for unit in (self.unit, self.twin, self.other)], [model, model, None])
        self.assertEqual(self.twin.contents.count(), 2, "looked for on the other one too")
        self.assertEqual(self.unit.contents.count(), 3, "what was seen stays")
        self.assertContains(self.client.get(self.there), "which is in the bank")

    def test_one_that_is_there_already_is_chosen_not_added(self):
        for typed in ({"maker": "Halden", "name": "M2"}, {"maker": "", "name": "M2"}):
            page = self.typed(others=[], **typed)
            self.assertEqual(page.status_code, 200)
            self.assertNotContains(page, f'value="{self.twin.pk}" checked')
        self.assertEqual(MachineModel.objects.count(), 1)
        with self.assertRaisesRegex(Refused, "There is a Halden M2 in the bank already"):
            into_bank.put_in_bank(self.owner, self.unit, MachineModel(maker="Halden", name="M2"), [])
        intake.identify(
            self.owner, self.unit, self.unit.version, replace(as_kept(intake.Identity, self.unit), model=self.model)
        )
        with self.assertRaisesRegex(Refused, "it is a Halden M2"):
            into_bank.put_in_bank(self.owner, self.unit, MachineModel(maker="Brisk", name="x"), [Expected("lead")])
        with self.assertRaises(NotAllowed):
            into_bank.put_in_bank(self.viewer, self.twin, MachineModel(maker="Brisk", name="x"), [])

    def test_what_was_recorded_stays_whatever_model_is_chosen(self):
        """The model says the rest: what nobody said, and what only the model before had said."""
        self.identify(self.unit, model=self.model)
        unit = self.again(self.unit)
        self.assertEqual((unit.battery, unit.drives, unit.form_factor), ("nicd", 2, "luggable"))
        self.assertEqual((unit.supply, unit.picture_tube, unit.data_on_board), ("linear", True, True))
        other = MachineModel.objects.create(
            maker="Brisk", name="Slim", form_factor="laptop", supply="external_dc", battery="lithium", drives=1
        )
        self.identify(unit, model=other)
        unit = self.again(unit)
        self.assertEqual((unit.battery, unit.drives, unit.form_factor), ("nicd", 2, "luggable"))
        self.assertEqual((unit.supply, unit.picture_tube), ("external_dc", None))
