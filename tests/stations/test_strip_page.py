"""A machine taken apart through its page, kept in the model bank, and drawn."""

import unittest
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from hypothesis import given, settings
from hypothesis import strategies as st

from core.catalogue.assemblies import StripDown
from core.catalogue.assembly_text import as_data, from_data
from core.catalogue.outlines import outline
from core.machine.casing import FormFactor
from core.workshop.stripdown.way_in import Record
from stations.catalogue import bank_files
from stations.catalogue.models import ModelStripDown
from stations.catalogue.section import Look, Mark, draw
from stations.catalogue.strip_downs import keep_for_model
from stations.common.refusals import Refused
from stations.workshop import learned, openings, strip_downs
from stations.workshop.models import OpenedAssembly, Opening, UnitStripDown
from stations.workshop.strip_page import strip_page
from tests.core.test_stripdown import BOX as TWO_WAYS
from tests.core.test_stripdown import machines
from tests.hands import Hand, a_picture
from tests.stations.base import ShopTest
from tests.stations.test_strip_down import BOX, OpenMachine


class ThePage(OpenMachine):
    def setUp(self):
        super().setUp()
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        self.there = reverse("workshop:strip", args=[self.unit.number])

    def test_choose_open_press_interrupt_and_go_on(self):
        page = self.client.get(self.there, {"reach": "Memory"})
        self.assertContains(page, "<b>23 min</b> in and closed again")
        self.client.post(f"{self.there}open/", {"reach": ["Memory"]})
        self.client.post(f"{self.there}cautions/")
        opening = Opening.objects.get()
        for _ in range(3):
            self.client.post(f"{self.there}thing/", {"mark": self.now(opening).mark})
        self.client.logout()
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(self.there)
        self.assertContains(page, "3 of 4 done")
        self.assertContains(page, "Fourth is out")

    def test_a_viewer_sees_all_and_presses_nothing(self):
        self.opened()
        self.client.force_login(self.viewer, backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.client.get(self.there), 'data-key=" "')

    def test_queries_do_not_grow_with_the_machine(self):
        self.discharged()
        opening = self.opened()
        self.press(opening, 2)
        with self.assertNumQueries(len(self.queries_of(opening))):
            strip_page(Opening.objects.select_related("unit__model__strip_down").get())

    def queries_of(self, opening: Opening) -> list:
        """Of the page of a machine of sixty assemblies, opened in the same way."""
        from django.db import connection
        from django.test.utils import CaptureQueriesContext

        big = [*BOX, *({"name": f"More {i}", "layer": i % 7, "x": [i, i + 40], "minutes": [1, 1]} for i in range(54))]
        UnitStripDown.objects.update(assemblies=big)
        with CaptureQueriesContext(connection) as found:
            strip_page(Opening.objects.select_related("unit__model__strip_down").get())
        UnitStripDown.objects.update(assemblies=BOX)
        return found.captured_queries

    def test_what_is_odd_is_typed_and_a_mistake_keeps_it(self):
        self.opened("Fan")
        page = self.client.post(f"{self.there}odd/", {"found_0": "7", "odd": "glued at the back"})
        self.assertContains(page, "From 0 to 4 were there", status_code=page.status_code)
        self.assertContains(page, "glued at the back", status_code=page.status_code)
        self.client.post(f"{self.there}odd/", {"found_0": "3", "odd": "glued"})
        self.assertEqual(OpenedAssembly.objects.get().found, [3])

    def test_the_photo_before_it_comes_off_is_shown_on_the_way_back(self):
        opening = self.opened("Fan")
        self.client.post(f"{self.there}photo/", {"name": "Lid", "photo": a_picture("before.png")})
        self.assertIsNotNone(self.row(opening, "Lid").photo)
        self.press_all(opening)
        openings.turn(self.technician, opening, True)
        self.press(opening)
        self.assertContains(self.client.get(self.there), "Lid before it came off")

    def test_the_tray_sheet(self):
        self.assertEqual(self.client.get(f"{self.there}trays.pdf").status_code, 302)
        self.opened("Fan")
        self.assertEqual(self.client.get(f"{self.there}trays.pdf").content[:5], b"%PDF-")

    def test_an_assembly_is_put_right_on_the_unit_alone(self):
        edit = f"{self.there}edit/one/?name=Fan"
        data = self.client.get(edit).context["form"].initial | {"fasteners": "2 × M3 × 30 cross", "worth": ""}
        self.client.post(edit, data | {"hazards": []})
        self.assertEqual(strip_downs.strip_down_of(self.unit)["Fan"].fastener_count, 2)
        self.assertEqual(ModelStripDown.objects.get().assemblies, as_data(from_data(BOX)))

    def test_mistakes_stand_at_their_fields_and_a_ring_names_its_members(self):
        edit = f"{self.there}edit/one/?name=Lid"
        data = self.client.get(edit).context["form"].initial | {"worth": "", "hazards": []}
        for change, field, words in (
            ({"ways": "Fan"}, "ways", "Lid waits for"),
            ({"ways": "Roof"}, "ways", "no “Roof”"),
            ({"minutes_off": "-1"}, "minutes_off", ""),
            ({"fasteners": "many"}, "fasteners", "how many"),
            ({"name": "fan"}, "name", "there already"),
            ({"x_from": "9", "x_to": "3"}, "x_to", "left to right"),
        ):
            with self.subTest(change):
                form = self.client.post(edit, data | change).context["form"]
                self.assertIn(field, form.errors)
                self.assertIn(words, " ".join(form.errors[field]))

    def test_what_is_not_in_it_is_taken_out_and_the_rest_stands_on_what_it_stood_on(self):
        self.client.post(f"{self.there}edit/", {"remove": "Shield"})
        machine = strip_downs.strip_down_of(self.unit)
        self.assertNotIn("Shield", machine.assemblies)
        self.assertEqual(machine["Memory"].ways, (frozenset({"Supply"}),))

    def test_without_a_model_it_is_built_as_one_goes(self):
        ModelStripDown.objects.all().delete()
        self.assertContains(self.client.get(self.there), "Note each layer as it comes off")
        self.client.post(f"{self.there}open/")
        self.client.post(f"{self.there}cautions/")
        more = {"name": "Cover", "fasteners": "2 × M3 × 6", "plugs": "", "clips": "", "minutes": "2"}
        self.client.post(f"{self.there}more/", more)
        opening = Opening.objects.get()
        self.press_all(opening)
        self.client.post(f"{self.there}more/", more | {"name": "Board", "fasteners": ""})
        self.assertEqual(strip_downs.strip_down_of(self.unit)["Board"].ways, (frozenset({"Cover"}),))
        page = self.client.post(f"{self.there}more/", more | {"name": "Spring"})
        self.assertContains(page, "First: Board is off", status_code=page.status_code)
        self.press_all(opening)
        openings.turn(self.technician, opening, True)
        self.press_all(opening)
        self.assertEqual(from_data(ModelStripDown.objects.get().assemblies)["Board"].ways, (frozenset({"Cover"}),))

    def test_minutes_and_breakage_learn_from_machines_of_the_model(self):
        day = timezone.now() - timedelta(days=3)
        for number in range(2):
            (unit,) = self.receive()
            hand = Hand(self.technician, day + timedelta(hours=number))
            opening = hand.do(openings.open_up, unit, ["Fan"])
            OpenedAssembly.objects.create(
                opening=opening,
                name="Lid",
                tray=1,
                off_at=opening.opened_at + timedelta(minutes=4),
                broke="a clip" if number else "",
            )
        before = learned.of_the_kind(self.unit, ["Lid", "Fan"])
        # Twice, twice as long as estimated: 2 × exp(2·ln 2 ÷ 6).
        self.assertEqual(learned.as_learned(from_data(BOX), before)["Lid"].minutes_off, round(2 * 2 ** (1 / 3)))
        self.assertEqual(learned.costs_of(before).records["Lid"], Record(2, 1))

    def test_it_is_opened_the_way_that_was_shown_not_over_what_breaks(self):
        brittle = {"left": replace(TWO_WAYS["left"], brittle=True, worth=Decimal(200))}
        keep_for_model(self.owner, self.model, StripDown(dict(TWO_WAYS.assemblies) | brittle))
        UnitStripDown.objects.all().delete()
        # By the side 19 minutes, and 1 in 50 of 200.00: 4.00, at 25.00 an hour 9.6 minutes; by the shield 26.
        self.assertContains(self.client.get(self.there, {"reach": "memory"}), "<b>26 min</b> in and closed again")
        page = self.client.get(self.there, {"reach": "left"})
        self.assertContains(page, "4.00</b> to be expected for what may break")
        self.client.post(f"{self.there}open/", {"reach": ["memory"]})
        self.assertEqual(set(Opening.objects.get().steps), {"lid", "shield", "supply", "memory"})


class TheModelBank(ShopTest):
    def test_a_strip_down_goes_out_and_comes_in_again(self):
        keep_for_model(self.owner, self.model, from_data(BOX))
        out = bank_files.as_json().encode()
        ModelStripDown.objects.all().delete()
        bank_files.import_models(self.owner, out)
        self.assertEqual(from_data(ModelStripDown.objects.get(model=self.model).assemblies), from_data(BOX))

    def test_one_that_can_not_be_is_refused_and_nothing_is_imported(self):
        keep_for_model(self.owner, self.model, from_data(BOX))
        data = bank_files.as_json().replace('"name": "Lid",', '"name": "Lid", "ways": [["Fan"]],').encode()
        with self.assertRaisesRegex(Refused, "waits for"):
            bank_files.import_models(self.owner, data)

    def test_every_shape_but_loose_parts_has_a_usual_outline(self):
        shapes = [form for form in FormFactor if len(outline(form))]
        self.assertEqual(len(shapes), 10)
        for form in shapes:
            self.assertEqual(from_data(as_data(outline(form))), outline(form))


class Drawing(unittest.TestCase):
    @given(machines(most=9), st.sampled_from([3, 12, 60]), st.sampled_from([456.0, 358.0]))
    @settings(max_examples=40, deadline=None)
    def test_a_section_holds_its_numbers(self, strip, wanted, width):
        strip = self.grown(strip, wanted)
        names = list(strip.assemblies)
        marks = {n: Mark(Look.NEXT, step=i + 1) for i, n in enumerate(names[:5])}
        section = draw(strip, marks, names[:5], width)
        shown = [slab for slab in section.slabs if slab.name]
        rest = sum(int(slab.title.split()[0]) for slab in section.slabs if not slab.name)
        self.assertEqual(len(shown) + rest, len(strip))
        self.assertTrue(set(names[:5]) <= {slab.name for slab in shown})
        for slab in section.slabs:
            self.assertTrue(slab.x >= 0 and slab.right <= width + 0.2 and slab.bottom <= section.height, slab)
        for one, other in ((a, b) for a in section.slabs for b in section.slabs if a is not b and a.y == b.y):
            self.assertTrue(one.right <= other.x + 0.2 or other.right <= one.x + 0.2, (one, other))
        for slab in shown:
            self.assertEqual(len(slab.pins) + slab.more_pins, strip[slab.name].fastener_count)

    def grown(self, strip: StripDown, count: int) -> StripDown:
        rows = as_data(strip)[:count]
        known = {row["name"] for row in rows}
        kept = [row | {"ways": [w for w in row.get("ways", []) if set(w) <= known]} for row in rows]
        more = [
            {"name": f"m{i}", "layer": i % 9, "x": [i * 7 % 300, i * 7 % 300 + 25 + i], "minutes": [1, 1]}
            for i in range(count - len(kept))
        ]
        return from_data(kept + more)

    def test_nothing_and_one(self):
        self.assertEqual(draw(StripDown({}), {}, (), 456).slabs, ())
        one = draw(from_data(BOX[:1]), {}, (), 456)
        self.assertEqual((len(one.slabs), one.done, one.to_come), (1, "", ""))

    def test_layers_that_are_all_off_fold_when_there_are_many(self):
        rows = [{"name": f"a{i}", "layer": i, "x": [0, 9], "minutes": [1, 1]} for i in range(9)]
        marks = {f"a{i}": Mark(Look.OFF, step=i + 1, done=True) for i in range(5)}
        section = draw(from_data(rows), marks, list(marks), 456)
        self.assertEqual([band.words for band in section.bands], ["layers 0–4 off, 5 trays"])
        self.assertIn("layers 0–4 off", render_to_string("catalogue/_section.html", {"cut": section}))
