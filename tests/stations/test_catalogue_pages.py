"""What a model is made of, how a part is made, and sounds: through their pages, with what is wrong said in words."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from stations.catalogue.models import MachineModel, ModelStripDown
from stations.catalogue.strip_downs import strip_down_of_model
from stations.common.refusals import NotAllowed, Refused
from stations.people.models import HistoryEntry
from stations.stock import designs
from stations.stock.models import Design
from stations.units import labels, sounds
from stations.units.models import Clip
from tests.hands import a_tone
from tests.stations.test_through_the_pages import Through


class AModelsStripDown(Through):
    LID = {"name": "lid", "layer": "0", "x_from": "0", "x_to": "400", "minutes_off": "2", "minutes_on": "3"}
    PLATE = LID | {"name": "plate", "layer": "1", "ways": "lid", "minutes_off": "4"}

    def setUp(self):
        super().setUp()
        self.there = reverse("catalogue:strip", args=[self.model.pk])
        self.form = reverse("catalogue:strip-one", args=[self.model.pk])

    def keep(self, was: str = "", **sent):
        kept = ModelStripDown.objects.filter(model=self.model).first()
        sent = {"version": str(kept.version if kept else 0), "was": was, "write_key": ""} | sent
        return self.client.post(f"{self.form}?name={was}", sent)

    def machine(self):
        return strip_down_of_model(MachineModel.objects.get(pk=self.model.pk))

    def test_it_begins_with_the_usual_outline_of_its_shape_and_not_twice(self):
        self.assertContains(self.client.get(self.there), "outline")
        self.done(self.client.post(self.there, {"write_key": "a"}))
        self.assertGreater(len(self.machine()), 3)
        answer = self.client.post(self.there, {"write_key": "b"}, follow=True)
        self.assertContains(answer, "It has a strip-down already.")

    def test_assemblies_are_added_put_right_and_taken_out(self):
        self.done(self.keep(**self.LID))
        self.done(self.keep(**self.PLATE))
        self.assertEqual(set(self.machine().assemblies), {"lid", "plate"})
        page = self.client.get(f"{self.form}?name=plate")
        self.assertContains(page, 'value="plate"')
        self.done(self.keep("plate", **self.PLATE | {"name": "base plate", "minutes_off": "9"}))
        self.assertEqual(self.machine()["base plate"].minutes_off, 9)
        self.done(self.client.post(self.there, {"remove": "base plate", "write_key": "c"}))
        self.assertEqual(set(self.machine().assemblies), {"lid"})
        answer = self.client.post(self.there, {"remove": "engine", "write_key": "d"}, follow=True)
        self.assertContains(answer, "There is no engine in it.")

    def test_what_can_not_be_is_said_and_what_was_typed_stays(self):
        self.done(self.keep(**self.LID))
        for change, words in (
            ({"name": ""}, "Say what it is."),
            ({"layer": "21"}, "20"),
            ({"x_to": "left"}, "whole number"),
            ({"ways": "roof"}, "roof"),
            ({"fasteners": "some screws"}, "some screws"),
            ({"minutes_off": "-1"}, "0"),
        ):
            self.says(self.keep(**self.PLATE | change), words)
        self.assertEqual(set(self.machine().assemblies), {"lid"})

    def test_a_ring_is_refused(self):
        self.done(self.keep(**self.LID))
        self.done(self.keep(**self.PLATE))
        self.says(self.keep("lid", **self.LID | {"ways": "plate"}), "plate", "lid")
        self.assertEqual(self.machine()["lid"].ways, ())

    def test_two_at_the_same_model(self):
        self.done(self.keep(**self.LID))
        stale = self.client.post(self.form, {"version": "0", "was": "", "write_key": ""} | self.PLATE)
        self.says(stale, "Somebody else", "plate")
        self.assertEqual(set(self.machine().assemblies), {"lid"})


class HowAPartIsMade(Through):
    MADE = {"revision": "B", "maker": "Ada Quill", "terms": "two at 4.00", "version": "1"}

    def test_kept_put_right_and_not_over_somebody_elses(self):
        there = reverse("stock:design", args=[self.part.pk])
        self.done(self.client.post(there, self.MADE | {"write_key": ""}))
        row = Design.objects.get()
        self.assertEqual((row.item, row.maker, row.changed_by), (self.part, "Ada Quill", self.owner))
        self.done(self.client.post(there, self.MADE | {"revision": "C", "write_key": ""}))
        stale = self.client.post(there, self.MADE | {"revision": "D, the thick one", "write_key": ""})
        self.says(stale, "Somebody else saved this")
        self.assertContains(stale, "D, the thick one")
        self.assertEqual(Design.objects.get().revision, "C")
        told = HistoryEntry.objects.filter(action="stock.keep_design").last()
        self.assertIn("C; Ada Quill; two at 4.00", told.words)

    def test_only_who_may(self):
        with self.assertRaises(NotAllowed):
            designs.keep_design(self.viewer, self.part, 1, designs.DesignDetails("B", "", ""))
        self.assertEqual(designs.design_of(self.part).revision, "")


class Sounds(Through):
    def test_a_noise_is_kept_as_a_finding(self):
        unit = self.assessed()
        clip = sounds.add_heard(self.owner, unit, a_tone(), "it hums")
        self.assertEqual((clip.unit, clip.finding.kind, clip.finding.words), (unit, "noise", "it hums"))
        self.assertEqual(Clip.objects.get(), clip)

    def test_what_is_no_sound_is_refused_in_words(self):
        for data, words in (
            (b"", "Not a sound this page can play"),
            (b"MZ" + b"\x00" * 900, "Not a sound this page can play"),
            (b"RIFF\x00\x00\x00\x00AVI " + b"\x00" * 900, "Not a sound this page can play"),
            (a_tone().read()[:30], "empty, cut short or damaged|cut short or damaged|can’t be read"),
            (b"x" * (sounds.MOST_BYTES + 1), "larger than 6 MB"),
        ):
            with self.assertRaisesRegex(Refused, words) as caught:
                sounds.store(data)
            self.assertEqual(caught.exception.field, "clip")
        large = SimpleUploadedFile("long.wav", b"x" * (sounds.MOST_BYTES + 1))
        with self.assertRaisesRegex(Refused, "larger than 6 MB"):
            sounds.keep(self.owner, self.assessed(), large)
        self.assertFalse(Clip.objects.exists())


class Labels(Through):
    def test_sheets_that_can_not_be(self):
        label = labels.of_unit(self.assessed())
        sheet = labels.SIZES["sheet-24"]
        with self.assertRaisesRegex(Refused, "Nothing to print"):
            labels.pages([], sheet)
        with self.assertRaisesRegex(Refused, "at a time at most"):
            labels.pages([label] * (labels.MOST + 1), sheet)
        for first in (0, 25):
            with self.assertRaisesRegex(Refused, "places 1 to 24"):
                labels.pages([label], sheet, first)
        self.assertEqual(len(labels.pages([label] * 24, sheet)), 1)
        self.assertEqual(len(labels.pages([label] * 24, sheet, first=2)), 2)

    def test_a_lot_without_a_printer_is_told(self):
        self.receive(2)
        there = reverse("units:lot-labels", args=[self.lot.number])
        self.assertContains(self.client.get(there), "2")
        with self.settings(LABEL_PRINTER=""):
            answer = self.client.post(there, {"size": "tie-on", "write_key": ""}, follow=True)
        self.assertContains(answer, "printer")
        unknown = self.client.get(f"{there}?file=svg&size=poster", follow=True)
        self.assertLess(unknown.status_code, 500)
        places = self.client.get(reverse("units:places"))
        self.assertContains(places, "shelf")
