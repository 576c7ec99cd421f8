"""A phone without a scanner: a label is photographed, and opens what it stands on."""

import io

import segno
from PIL import Image, ImageFilter
from playwright.sync_api import expect

from stations.units.models import Unit
from tests.browser.base import PHONE, BrowserTest
from tests.stations.base import fill_shop


def photographed(words: str = "") -> dict:
    """A picture as a phone takes it of a label: large, a little turned, not sharp; of a wall where it says nothing."""
    picture = Image.new("RGB", (1600, 1200), "#8a7a66")
    if words:
        code = io.BytesIO()
        segno.make(words, error="m", micro=False).save(code, kind="png", scale=14, border=3)
        label = Image.open(code).convert("RGBA").rotate(12, expand=True, resample=Image.Resampling.BICUBIC)
        picture.paste(label, (700, 380), label)
    file = io.BytesIO()
    picture.filter(ImageFilter.GaussianBlur(2)).save(file, "JPEG", quality=80)
    return {"name": "photo.jpg", "mimeType": "image/jpeg", "buffer": file.getvalue()}


class LabelsByCamera(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        (self.unit,) = self.receive()
        self.page = self.open_page(PHONE, has_touch=True)
        self.sign_in("tom", "tom-sesame")

    def snap(self, picture: dict) -> None:
        self.page.get_by_label("Photograph a label").set_input_files(picture)

    def test_a_label_opens_what_it_stands_on(self):
        expect(self.page.locator(".snap")).to_be_visible()
        self.snap(photographed())
        expect(self.page.locator("#snapped")).to_contain_text("No code could be read in that picture")
        self.snap({"name": "notes.txt", "mimeType": "text/plain", "buffer": b"no picture"})
        expect(self.page.locator("#snapped")).to_contain_text("No code could be read in that picture")
        self.snap(photographed(str(self.unit.tag)))
        self.page.wait_for_url(f"**/W-{self.unit.number}/**")

    def test_where_units_are_put_down_it_goes_there(self):
        page = self.page
        page.goto("/intake/places/put-down/?place=shelf+K")
        self.snap(photographed(str(self.unit.tag)))
        expect(page.get_by_role("main")).to_contain_text(self.unit.tag.short)
        page.wait_for_load_state("load")
        self.assertEqual(Unit.objects.get(pk=self.unit.pk).place, "shelf K")

    def test_with_a_mouse_there_is_no_camera(self):
        desk = self.open_page({"width": 1280, "height": 800})
        self.sign_in("tom", "tom-sesame", desk)
        expect(desk.locator(".snap")).to_be_hidden()
