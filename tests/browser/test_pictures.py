"""Pictures are made as small as they are kept before they are sent."""

import io

import numpy as np
from PIL import Image
from playwright.sync_api import FilePayload, expect

from stations.units.picture_files import LONGEST
from tests.browser.base import BrowserTest
from tests.stations.base import fill_shop

# Exif 2.32, tag 0x0112: the camera was turned by a quarter; as it is looked at, it is taller than wide.
ORIENTATION, QUARTER = 0x0112, 6


def as_taken(width: int = 4000, height: int = 3000, turned: int = 1) -> bytes:
    """A picture as a phone takes it: nothing in it repeats, so that it is as large as it may be."""
    grain = np.random.default_rng(7).integers(0, 256, (height // 4, width // 4, 3), dtype=np.uint8)
    picture, out = Image.fromarray(grain).resize((width, height)), io.BytesIO()
    exif = Image.Exif()
    exif[ORIENTATION] = turned
    picture.save(out, "JPEG", quality=90, exif=exif)
    return out.getvalue()


class BeforeTheyAreSent(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        (self.unit,) = self.receive()
        self.sign_in("olga", "olga-sesame")
        self.page.goto(f"/intake/W-{self.unit.number}/")
        self.box = self.page.locator("#photos-in")

    def choose(self, *files: tuple[str, bytes]) -> None:
        self.box.set_input_files([FilePayload(name=name, mimeType="image/jpeg", buffer=data) for name, data in files])

    def sizes(self) -> list[int]:
        return self.box.evaluate("box => [...box.files].map((file) => file.size)")

    def send(self) -> None:
        with self.page.expect_response("**/photos/"):
            self.page.get_by_role("button", name="Add photos").click()
        self.settled()

    def test_a_large_one_is_sent_small_and_stands_upright(self):
        flat, turned = as_taken(), as_taken(turned=QUARTER)
        self.choose(("front.jpg", flat), ("back.jpg", turned))
        self.page.wait_for_function(
            "most => [...document.querySelector('#photos-in').files].every((file) => file.size < most)",
            arg=len(flat) // 2,
        )
        self.send()
        found = self.unit.photos.order_by("original_name").values_list("original_name", "width", "height", "shot")
        short = LONGEST * 3 // 4
        self.assertEqual([*found], [("back.jpg", short, LONGEST, "back"), ("front.jpg", LONGEST, short, "front")])

    def test_a_small_one_and_what_is_none_go_as_they_are(self):
        small = as_taken(400, 300)
        self.choose(("front.jpg", small), ("back.jpg", b"no picture at all"))
        self.page.wait_for_timeout(500)
        self.assertEqual(self.sizes(), [len(small), len(b"no picture at all")])
        self.send()
        expect(self.page.locator("main")).to_contain_text("back.jpg was not taken: not a picture")
        self.assertEqual([*self.unit.photos.values_list("width", flat=True)], [400])
