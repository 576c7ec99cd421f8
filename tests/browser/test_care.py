"""A whitening is planned, held by a marking nobody photographed, measured over two rounds, and told to stop."""

from datetime import timedelta
from decimal import Decimal

from django.utils import timezone
from playwright.sync_api import expect

from stations.catalogue.models import MachineModel
from stations.stock import services as stock
from stations.stock.services import Sort
from stations.units.models import Photo
from stations.workshop.models import Job, JobStep
from tests.browser.base import PHONE, BrowserTest
from tests.hands import Hand
from tests.stations.base import fill_shop
from tests.stations.test_intake import picture


class CareByHand(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.hand_ = Hand(self.owner, timezone.now() - timedelta(days=2))
        MachineModel.objects.update(width_mm=400, height_mm=150, depth_mm=380)
        (unit,) = self.receive(1)
        self.unit = self.hand_.assess(unit, "enhanced")
        self.marking = self.hand_.find(self.unit, "back", "sticker", 1, "chalk number 14")
        self.sign_in("tom", "tom-sesame")

    def photo(self) -> None:
        self.page.locator("#step-photo").set_input_files(
            {"name": "as-it-is.jpg", "mimeType": "image/jpeg", "buffer": picture().read()}
        )
        self.page.get_by_role("button", name="Keep the photo").click()

    def time_passes(self) -> None:
        """What runs by itself has run."""
        before = timezone.now() - timedelta(minutes=1)
        JobStep.objects.filter(done_at=None).update(alone_until=before, alone_from=before - timedelta(hours=2))
        self.page.reload()

    def read(self, typed: str) -> None:
        self.page.get_by_label("ΔE00 to the sheltered patch").fill(typed)
        self.page.get_by_role("button", name="Keep it, done").click()

    def round(self, typed: str) -> None:
        self.page.get_by_role("button", name="Start its time").click()
        expect(self.page.get_by_text("Runs by itself until")).to_be_visible()
        self.time_passes()
        self.page.get_by_role("button", name="Done", exact=False).first.click()
        self.read(typed)

    def test_planned_held_measured_stopped(self):
        page = self.page
        page.goto(f"/workshop/W-{self.unit.number}/care/whiten/")
        expect(page.get_by_text("Not photographed yet")).to_be_visible()
        page.get_by_label("Of what").first.fill("top case")
        page.get_by_label("Or its area as measured, cm²").fill("1180")
        page.get_by_label("The bottle says").fill("40")
        page.get_by_label("Wanted, % w/v").fill("20")
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_text("w/v and w/w are not the same")).to_be_visible()
        expect(page.get_by_label("The bottle says")).to_have_value("40")
        page.locator("#id_basis").select_option("volumes")
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_text("never stronger")).to_be_visible()
        page.get_by_label("Wanted, % w/v").fill("6")
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_text("146 ml").first).to_be_visible()
        page.get_by_role("button", name="Make it a job").click()
        self.photo()
        self.read("6.1 6.4")
        expect(page.get_by_text("Take a picture first of what this could wipe away")).to_be_visible()
        expect(page.get_by_role("button", name="Start its time")).to_be_disabled()
        self.marking.photo = Photo.objects.first()
        self.marking.save()
        page.reload()
        page.get_by_role("button", name="Start its time").click()
        expect(page.get_by_text("Runs by itself until")).to_be_visible()
        self.time_passes()
        page.get_by_role("button", name="Done", exact=False).first.click()
        expect(page.get_by_text("Never close the vessel").first).to_be_visible()
        page.get_by_role("button", name="Done", exact=False).first.click()
        self.round("4.0 4.2")
        self.round("1.8 1.9")
        expect(page.get_by_text("Stop: it reads 1.9, under 2.0 nobody sees it")).to_be_visible()
        page.get_by_role("button", name="Stop: leave out the").click()
        expect(page.locator(".instruction")).to_contain_text("Rinse it lukewarm")
        self.assertEqual(Job.objects.get().step_rows.exclude(left_out="").count(), 4)
        page.set_viewport_size(PHONE)
        for address in (page.url, f"/workshop/W-{self.unit.number}/care/whiten/", "/workshop/agents/"):
            page.goto(address)
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])

    def test_a_region_is_dragged_or_typed_by_keyboard_and_taken_from_the_drawers(self):
        page = self.page
        stock.stock_part(self.owner, Sort("Peroxide 40 volumes", "new", "C1", "ml"), "1000", Decimal(10))
        stock.stock_part(self.owner, Sort("Deionised water", "new", "C2", "ml"), "1000", Decimal(2))
        page.goto(f"/workshop/W-{self.unit.number}/care/whiten/")
        face = page.locator(".casing--desk [data-face=top]")
        box = face.bounding_box()
        page.mouse.move(box["x"] + 2, box["y"] + 2)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, steps=4)
        page.mouse.up()
        expect(page.locator("#id_face")).to_have_value("top")
        wide = float(page.locator("#id_wide").input_value())
        self.assertAlmostEqual(wide, 49, delta=3)
        # By keys alone: what is typed is drawn.
        page.locator("#id_wide").fill("25")
        drawn = page.locator(".casing--desk .care-picked").bounding_box()
        self.assertAlmostEqual(drawn["width"], box["width"] / 4, delta=6)
        # A press is the whole face.
        page.locator(".casing--desk [data-face=front]").click(position={"x": 4, "y": 4})
        expect(page.locator("#id_face")).to_have_value("front")
        expect(page.locator("#id_wide")).to_have_value("")
        # What only a bath asks for stands there for a bath alone.
        expect(page.get_by_label("Bath: the tub holds")).to_be_hidden()
        page.locator("#id_school").select_option("bath")
        expect(page.get_by_label("Bath: the tub holds")).to_be_visible()
        page.locator("#id_school").select_option("gel")
        page.get_by_label("Of what").first.fill("front")
        page.get_by_label("The bottle says").fill("40")
        page.locator("#id_basis").select_option("volumes")
        page.get_by_label("Wanted, % w/v").fill("6")
        page.locator("#id_wanted").press("Enter")
        expect(page.get_by_role("row", name="Peroxide 40 volumes")).to_be_visible()
        page.get_by_role("button", name="Make it a job").click()
        self.marking.photo = self.unit.photos.create(
            sha256="0" * 64, original_name="back.jpg", width=4, height=3, added_at=timezone.now()
        )
        self.marking.save()
        self.photo()
        self.read("6.1 6.4")
        page.get_by_role("button", name="Start its time").click()
        expect(page.get_by_text("Runs by itself until")).to_be_visible()
        self.time_passes()
        page.get_by_role("button", name="Done", exact=False).first.click()
        page.get_by_role("button", name="Take it from the drawers").click()
        expect(page.get_by_role("button", name="Take it from the drawers")).to_be_hidden()
        expect(page.get_by_role("cell", name="Peroxide 40 volumes")).to_be_visible()

    def test_each_kind_of_reconditioning_asks_for_its_own_figures(self):
        page = self.page
        page.goto(f"/workshop/W-{self.unit.number}/care/recondition/")
        page.locator("#id_kind").select_option("belts and rollers")
        expect(page.get_by_label("Belt: the pulley that drives")).to_be_visible()
        expect(page.get_by_label("Capacitors, a line")).to_be_hidden()
        page.get_by_label("On what").fill("drive")
        for label, figure in (
            ("Belt: the pulley that drives", "12"),
            ("The one it drives", "60"),
            ("Axle to axle", "80"),
        ):
            page.get_by_label(label).fill(figure)
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_text("261 mm all round").first).to_be_visible()
        page.set_viewport_size(PHONE)
        for kind in ("clean", "repaint", "recondition", "stick"):
            page.goto(f"/workshop/W-{self.unit.number}/care/{kind}/")
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
