"""A phone without a scanner: its camera is held over a label, or photographs it, and opens what it stands on."""

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
        self.page.get_by_label("Read a label with the camera").set_input_files(picture)

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


# A camera that sees what the test says stands in front of it, as a picture in an address of its own: "" is a wall.
CAMERA = """
  window.lenses = [];
  navigator.mediaDevices.getUserMedia = async () => {
    const refused = sessionStorage.getItem("refused");
    if (refused) throw new DOMException("no", refused);
    const canvas = Object.assign(document.createElement("canvas"), { width: 1280, height: 960 });
    const drawn = canvas.getContext("2d");
    let before = null, label = null;
    setInterval(() => {
      const now = sessionStorage.getItem("in front");
      if (now !== before) label = now ? Object.assign(new Image(), { src: now }) : null;
      before = now;
      drawn.fillStyle = "#8a7a66";
      drawn.fillRect(0, 0, 1280, 960);
      if (label?.complete) drawn.drawImage(label, 500, 320, 290, 290);
    }, 40);
    const stream = canvas.captureStream(25);
    const [track] = stream.getVideoTracks();
    track.getCapabilities = () => ({ torch: true });
    track.applyConstraints = async ({ advanced: [{ torch }] }) => { track.torch = torch; };
    window.lenses.push(track);
    return stream;
  };
"""
# What reads bars where the browser does: in this order, then nothing more.
READS_BARS = """
  const said = [["W-17", "code_39"], ["W-77", "code_39"], ["SN 7", "code_39"], ["SN 7", "code_39"]];
  window.BarcodeDetector = class {
    static async getSupportedFormats() { return ["qr_code", "code_39"]; }
    async detect() { return said.length ? [said.shift()].map(([rawValue, format]) => ({ rawValue, format })) : []; }
  };
"""


class LooksThroughTheCamera(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.units = self.receive(2)
        self.page = self.open_page(PHONE, has_touch=True)
        self.page.add_init_script(CAMERA)
        self.sign_in("tom", "tom-sesame")
        self.view = self.page.get_by_role("dialog", name="Read a label")

    def hold(self, words: str = "") -> None:
        picture = segno.make(words, error="m", micro=False).png_data_uri(scale=10) if words else ""
        self.page.evaluate("picture => sessionStorage.setItem('in front', picture)", picture)

    def press(self) -> None:
        self.page.locator(".snap").tap()

    def goes_dark(self) -> None:
        """No camera that was opened on this page goes on looking."""
        looking = "() => window.lenses.filter(track => track.readyState !== 'ended').length"
        for _ in range(100):
            if not self.page.evaluate(looking):
                return
            self.page.wait_for_timeout(50)
        self.fail("a camera goes on looking")

    def test_a_label_that_comes_in_view_opens_what_it_stands_on(self):
        unit = self.units[0]
        self.press()
        expect(self.view).to_contain_text("Hold a label in front of the camera.")
        light = self.view.get_by_role("button", name="Light")
        light.click()
        expect(light).to_have_attribute("aria-pressed", "true")
        self.assertTrue(self.page.evaluate("window.lenses[0].torch"))
        self.hold(str(unit.tag))
        self.page.wait_for_url(f"**/W-{unit.number}/**")
        expect(self.view).to_be_hidden()

    def test_units_are_put_down_one_after_another_without_another_press(self):
        page, (one, two) = self.page, self.units
        page.goto("/intake/places/put-down/?place=shelf+K")
        self.hold(str(one.tag))
        self.press()
        expect(self.view).to_contain_text("The next one.")
        expect(page.get_by_role("main")).to_contain_text(one.tag.short)
        page.evaluate("window.isStillThere = true")
        page.wait_for_timeout(1000)  # the first still lies in front of it, and is not put down again
        self.assertTrue(page.evaluate("window.isStillThere"))
        expect(self.view).to_be_visible()
        self.hold(str(two.tag))
        expect(page.get_by_role("main")).to_contain_text(two.tag.short)
        expect(self.view).to_contain_text("The next one.")
        self.assertEqual(set(Unit.objects.values_list("place", flat=True)), {"shelf K"})
        self.hold("nothing of ours")
        expect(page.locator("[data-refused]")).to_be_visible()
        expect(self.view).to_be_hidden()
        self.goes_dark()

    def test_it_is_shut_and_the_camera_with_it(self):
        for shut in (
            lambda: self.view.get_by_role("button", name="Close").click(),
            lambda: self.page.keyboard.press("Escape"),
        ):
            self.press()
            expect(self.view.locator("video")).to_have_js_property("readyState", 4)
            self.finger("?")  # no key of the page that lies below
            shut()
            expect(self.view).to_be_hidden()
            self.goes_dark()
        self.assertEqual(self.page.url, f"{self.address}/")

    def test_a_picture_can_be_taken_instead_and_is_where_nobody_may_look(self):
        unit = self.units[0]
        self.press()
        with self.page.expect_file_chooser() as asked:
            self.view.get_by_role("button", name="Take a picture").click()
        expect(self.view).to_be_hidden()
        asked.value.set_files(photographed(str(unit.tag)))
        self.page.wait_for_url(f"**/W-{unit.number}/**")
        self.page.evaluate("sessionStorage.setItem('refused', 'NotAllowedError')")
        self.press()
        expect(self.view).to_contain_text("does not let this page look through the camera")
        self.view.get_by_role("button", name="Close").click()
        with self.page.expect_file_chooser():
            self.press()

    def test_without_a_connection_it_says_so(self):
        self.wanted_complaints = ("jsQR",)
        self.page.route("**/jsQR.js", lambda route: route.abort())
        self.press()
        expect(self.view).to_contain_text("there is no connection")

    def test_bars_are_taken_once_they_were_read_twice_alike(self):
        self.page.add_init_script(READS_BARS)
        self.identify(self.units[1], serial="SN 7")
        self.page.reload()
        self.press()
        self.page.wait_for_url(f"**/W-{self.units[1].number}/**")
