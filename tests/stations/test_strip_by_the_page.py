"""A machine opened, worked on and closed by the presses of its page; its strip-down on the unit and on the model."""

import html
import re

from django.template.loader import render_to_string
from django.urls import reverse

from core.catalogue.assembly_text import as_data, from_data
from core.catalogue.outlines import outline
from core.machine.casing import FormFactor
from stations.bench import stops
from stations.catalogue.models import ModelStripDown
from stations.catalogue.strip_downs import keep_for_model
from stations.common import clock
from stations.people.models import HistoryEntry
from stations.workshop import in_hand, strip_downs, treatment
from stations.workshop.models import OpenedAssembly, Opening, UnitStripDown
from tests.hands import a_picture
from tests.stations.test_strip_down import BOX
from tests.stations.test_through_the_pages import Through


class Opened(Through):
    """The box of the strip-down, opened to reach its memory and its strap; each press is one of the page."""

    TARGETS = ("Memory", "Strap")

    def scene(self) -> None:
        super().scene()
        keep_for_model(self.owner, self.model, from_data(BOX))
        self.unit = self.assessed()
        stops.discharge(self.technician, self.unit, "supply", "3")
        stops.discharge(self.technician, self.unit, "tube", silent=True)

    def setUp(self):
        super().setUp()
        self.done(self.to("open", reach=list(self.TARGETS)))
        self.done(self.to("cautions"))
        self.opening = Opening.objects.get()

    def to(self, what: str, **sent):
        return self.post(f"workshop:strip-{what}", [self.unit.number], **sent)

    def refused(self, words: str, what: str, **sent) -> None:
        """A press that was refused leads back to the page, which says why, once."""
        answer = self.client.get(self.to(what, **sent)["Location"])
        self.assertContains(answer, words, count=1)

    def now(self) -> in_hand.InHand | None:
        self.opening.refresh_from_db()
        strip = strip_downs.strip_down_of(self.unit)
        return in_hand.in_hand(strip, self.opening, in_hand.rows_of(self.opening, strip))

    def press(self) -> None:
        self.done(self.to("thing", mark=self.now().mark))

    def press_until(self, name: str = "") -> None:
        """Until this assembly is in hand; without, until nothing is left to do."""
        while (hand := self.now()) and hand.assembly.name != name:
            self.press()

    def row(self, name: str) -> OpenedAssembly:
        return self.opening.assemblies.get(name=name)

    def page(self, *unfold: str):
        return self.client.get(reverse("workshop:strip", args=[self.unit.number]), {"unfold": unfold})


class InAndBack(Opened):
    def test_everything_off_and_on_again_with_its_test(self):
        self.press_until()
        self.assertEqual(set(self.row("Strap").opening.steps), {"Lid", "Supply", "Shield", "Memory", "Strap"})
        self.refused("There is nothing left to do here.", "thing", mark="x")
        self.done(self.to("turn", way="back"))
        self.press_until("Shield")
        page = self.page()
        self.assertContains(page, "Due before it closes: memory test")
        self.assertContains(page, "not settled")
        self.refused("No test is due there.", "tested", name="Lid")
        self.refused("No test is due there.", "tested", name="Engine")
        self.done(self.to("tested", name="Memory"))
        self.assertIsNotNone(self.row("Memory").tested_at)
        self.press_until()
        self.opening.refresh_from_db()
        self.assertIsNotNone(self.opening.closed_at)
        # What the page still had buttons for is no page any more.
        self.assertEqual(self.to("thing", mark="x").status_code, 404)
        self.assertContains(self.page(), "Memory")
        told = render_to_string("workshop/treatment.html", treatment.context_of(self.unit))
        self.assertIn("What was opened", told)
        self.assertNotIn("still off", told)

    def test_a_test_is_of_what_is_in(self):
        self.press_until()
        self.refused("Memory is not in yet.", "tested", name="Memory")

    def mark(self) -> str:
        """What the page says that “Back one” takes back."""
        page = self.page().content.decode().partition(reverse("workshop:strip-back-one", args=[self.unit.number]))[2]
        return html.unescape(re.search(r'name="mark" value="([^"]*)"', page)[1])

    def test_back_one_and_round_again(self):
        self.refused("Nothing is off yet.", "turn", way="back")
        self.refused("Nothing came off yet.", "back-one")
        self.press()
        self.assertEqual(self.row("Lid").off_done, 1)
        self.refused("Lid is half done. Finish it, or take it back with “Back one”.", "turn", way="back")
        mark = self.mark()
        self.press()
        self.refused("Something else was done since, at Lid", "back-one", mark=mark)
        self.done(self.to("back-one", mark=self.mark()))
        self.done(self.to("back-one", mark=self.mark()))
        self.assertEqual(self.row("Lid").off_done, 0)
        self.press_until("Supply")
        self.done(self.to("turn", way="back"))
        self.refused("Nothing went back on yet.", "back-one")
        self.press()
        self.done(self.to("back-one", mark=self.mark()))
        self.assertEqual(self.row("Lid").on_done, 0)
        self.done(self.to("turn", way="in"))
        self.opening.refresh_from_db()
        self.assertFalse(self.opening.going_back)

    def test_closed_over_with_a_reason_that_stays_what_was_typed_is_kept(self):
        self.refused("Lid is not off.", "anyway", name="Lid", reason="in a hurry")
        self.assertContains(self.client.get(self.to("anyway", name="Lid", reason="in haste")["Location"]), "in haste")
        self.press_until()
        self.done(self.to("turn", way="back"))
        self.press_until("Shield")
        self.refused("Say why.", "anyway", name="Shield", reason="")
        self.done(self.to("anyway", name="Shield", reason="the tester is lent out"))
        self.assertEqual(self.row("Shield").closed_over, "the tester is lent out")
        entry = HistoryEntry.objects.get(action="workshop.close_anyway")
        self.assertIn("memory test", entry.words)
        self.press_until("Supply")

    def test_no_reason_is_too_long_to_be_said_and_none_is_cut(self):
        self.press_until()
        self.done(self.to("turn", way="back"))
        self.press_until("Shield")
        self.refused("200 characters at most", "anyway", name="Shield", reason="x" * 201)
        self.assertEqual(self.row("Shield").closed_over, "")

    def test_something_else_on_the_way(self):
        self.refused("There is no Roof in it.", "also", name="Roof")
        self.done(self.to("also", name="Fan"))
        self.opening.refresh_from_db()
        self.assertEqual(self.opening.targets, ["Memory", "Strap", "Fan"])
        self.press_until()
        self.assertTrue(self.row("Fan").is_off)
        self.done(self.to("turn", way="back"))
        more = {"name": "Spring", "fasteners": "", "plugs": "", "clips": "", "minutes": "2"}
        self.says(self.to("unlisted", **more), "It goes together now. Turn round first.", "Spring")

    def test_a_second_press_of_the_same_screw(self):
        mark = self.now().mark
        self.done(self.to("thing", mark=mark))
        self.refused("That was done already. Next:", "thing", mark=mark)
        self.assertEqual(self.row("Lid").off_done, 1)


class Remembered(Opened):
    def test_a_note_and_a_picture_are_there_again_on_the_way_back(self):
        self.refused("There is no Roof in it.", "note", name="Roof", note="glued")
        self.done(self.to("note", name="Lid", note="hooks at the back, tilt it first"))
        self.refused("200 characters at most", "note", name="Lid", note="y" * 201)
        self.assertEqual(self.row("Lid").note, "hooks at the back, tilt it first")
        self.refused("Choose a picture.", "photo", name="Lid")
        self.done(self.to("photo", name="Lid", photo=a_picture("lid.png", 70)))
        self.refused("There is no Roof in it.", "photo", name="Roof", photo=a_picture("lid.png", 70))
        text = a_picture("lid.png", 70)
        text.file.seek(0)
        text.file.truncate(30)
        self.refused("The picture was not taken", "photo", name="Lid", photo=text)
        kept = self.row("Lid").photo_id
        self.assertIsNotNone(kept)
        self.press_until("Supply")
        self.done(self.to("turn", way="back"))
        page = self.page()
        self.assertContains(page, "hooks at the back, tilt it first")
        self.assertContains(page, f"/intake/photos/{kept}/")
        self.done(self.to("note", name="Lid", note=""))
        self.assertNotContains(self.page(), "hooks at the back")

    def test_what_is_short_is_found_in_the_trays(self):
        self.done(self.to("odd", name="Lid", found_0="3", odd="", broke=""))
        self.press_until("Supply")
        page = self.page()
        self.assertContains(page, "3 of 4")
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/strip-down/trays.pdf"), b"%PDF-")

    def test_a_machine_that_is_listed_or_gone_stays_closed(self):
        self.done(self.to("turn", way="in"))
        Opening.objects.update(closed_at=clock.now(), open_for=None)
        for stage in ("listed", "sold", "scrapped"):
            type(self.unit).objects.filter(pk=self.unit.pk).update(stage=stage)
            with self.subTest(stage):
                self.refused("it stays closed", "open", reach=["Lid"])
        self.assertFalse(Opening.objects.filter(closed_at=None).exists())


class PutTogetherFrom(Through):
    """The strip-down itself: begun with the usual outline, an assembly added, put right, taken out."""

    LID = {
        "name": "Lid",
        "was": "",
        "layer": "0",
        "minutes_off": "2",
        "minutes_on": "3",
        "x_from": "0",
        "x_to": "400",
        "fasteners": "4 × M3 × 6 cross",
        "version": "0",
    }

    def test_of_a_model(self):
        there = reverse("catalogue:strip", args=[self.model.pk])
        self.assertContains(self.client.get(there), "outline")
        self.done(self.client.post(there, {"begin": "yes", "write_key": ""}))
        kept = ModelStripDown.objects.get(model=self.model)
        self.assertEqual(kept.assemblies, as_data(outline(FormFactor.ALL_IN_ONE)))
        self.says(self.client.post(there, {"write_key": ""}, follow=True), "It has a strip-down already.")
        self.says(self.client.post(there, {"remove": "Roof", "write_key": ""}, follow=True), "There is no Roof in it.")
        name = next(iter(from_data(kept.assemblies).assemblies))
        self.done(self.client.post(there, {"remove": name, "write_key": ""}))
        self.assertNotIn(name, from_data(self.again(kept).assemblies).assemblies)

    def test_one_of_a_model(self):
        one = reverse("catalogue:strip-one", args=[self.model.pk])
        self.assertContains(self.client.get(one), "fasteners")
        self.says(self.client.post(one, self.LID | {"name": ""}), "required", "4 × M3 × 6 cross")
        self.done(self.client.post(one, self.LID))
        kept = ModelStripDown.objects.get(model=self.model)
        self.assertEqual(from_data(kept.assemblies)["Lid"].fastener_count, 4)
        form = self.client.get(one, {"name": "Lid"}).context["form"]
        stale = form.initial | {"hazards": [], "worth": "", "minutes_off": "5", "version": "0"}
        self.says(self.client.post(f"{one}?name=Lid", stale), "Somebody else saved this")
        self.done(self.client.post(f"{one}?name=Lid", stale | {"version": str(kept.version)}))
        self.assertEqual(from_data(self.again(kept).assemblies)["Lid"].minutes_off, 5)

    def test_of_a_unit_alone(self):
        unit = self.assessed()
        there = reverse("workshop:strip-edit", args=[unit.number])
        self.done(self.client.post(there, {"begin": "yes", "write_key": ""}))
        self.assertEqual(UnitStripDown.objects.get().assemblies, as_data(outline(FormFactor.ALL_IN_ONE)))
        self.assertFalse(ModelStripDown.objects.exists())
        self.says(self.client.post(there, {"write_key": ""}, follow=True), "It has a strip-down already.")
        self.assertTrue(HistoryEntry.objects.filter(words__contains="usual outline").exists())

    def test_a_shape_without_an_outline_says_so(self):
        self.model.form_factor = "board"
        bare = [shape for shape in FormFactor if not len(outline(shape))]
        self.assertTrue(bare)
        type(self.model).objects.filter(pk=self.model.pk).update(form_factor=bare[0].value)
        there = reverse("catalogue:strip", args=[self.model.pk])
        page = self.client.post(there, {"write_key": ""}, follow=True)
        self.says(page, "There is no usual outline for this shape. Add what you find.")
        self.assertFalse(ModelStripDown.objects.exists())
