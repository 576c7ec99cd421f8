"""Findings placed, dragged and moved by keys; photos with a broken one among them; a manifest with errors."""

from pathlib import Path

from playwright.sync_api import expect

from stations.buying import services as buying
from stations.buying.models import Lot
from stations.intake import capture
from stations.units import photos
from stations.units.models import Finding, Photo, Unit
from tests.browser.base import PHONE, BrowserTest
from tests.stations.base import fill_shop, line_data, lot_data
from tests.stations.test_intake import picture

MESSY = Path(__file__).resolve().parents[2] / "demo" / "messy-manifest.csv"


class AtTheTable(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        (self.unit,) = self.receive()
        self.sign_in("olga", "olga-sesame")

    def test_two_tick_off_at_once_and_what_is_typed_beside_it_waits_for_its_button(self):
        page, other = self.page, self.page.context.new_page()
        keyboard, mouse = (self.unit.contents.get(name=name) for name in ("keyboard", "mouse"))

        def tick(where, content, said):
            with where.expect_response("**/contents/"):
                where.locator(f"select[name=content-{content.pk}]").select_option(said)

        for one in (page, other):
            one.goto(f"/intake/W-{self.unit.number}/")
        page.get_by_label("Came with it, not expected").fill("lead")
        tick(page, keyboard, "present")
        tick(other, mouse, "missing")
        tick(page, keyboard, "wrong")
        found = dict(self.unit.contents.values_list("name", "presence"))
        self.assertEqual(found, {"keyboard": "wrong", "mouse": "missing"})
        tick(page, mouse, "present")
        expect(page.locator("#saved-ticks")).to_contain_text("Somebody else saved this meanwhile")
        page.get_by_role("button", name="Save what came").click()
        expect(page.locator("#ticks")).to_contain_text("Somebody else saved this while you were typing")
        page.get_by_role("button", name="Save what came").click()
        expect(page.locator("#ticks")).to_contain_text("lead")
        found = dict(self.unit.contents.values_list("name", "presence"))
        self.assertEqual(found, {"keyboard": "wrong", "mouse": "present", "lead": "extra"})
        other.close()

    def test_after_each_save_the_page_says_what_it_would_say_anew(self):
        self.hand().assess(self.receive()[0])  # which this one can be made like
        capture.set_ownership(self.owner, self.unit, capture.Ownership("custody", "E. Norr"))
        page = self.page
        page.goto(f"/intake/W-{self.unit.number}/")
        (one, *others) = [f"content-{pk}" for pk in self.unit.contents.values_list("pk", flat=True)]
        changes = [
            ("approach_form", "approach", "approach", "conserve"),
            ("holding", "holding", "holding", "owned"),
            ("form", "identify", "serial", "HM-1"),
            ("form", "identify", "title", "Halden M2, late"),
            ("form", "identify", "supply", "external_dc"),
            ("form", "identify", "supply", "switching"),
            ("form", "identify", "form_factor", "desktop"),
            ("ticks", "contents", one, "missing"),
            *(("ticks", "contents", other, "present") for other in others),
            ("data", "data", "data_on_board", "true"),
            ("approach_form", "approach", "approach", "period"),
        ]
        for section, address, name, said in changes:
            page.locator("details.more").evaluate_all("all => all.forEach((each) => (each.open = true))")
            field = page.locator(f"#{section} [name={name}]")
            with page.expect_response(f"**/{address}/"):
                kind = field.first.evaluate("field => field.type")
                if kind == "radio":
                    page.locator(f"[name={name}][value={said}]").check(force=True)
                elif kind == "text":
                    field.fill(said)
                    field.press("Tab")
                else:
                    field.select_option(said)
            with self.subTest(name=name, said=said):
                self.assertEqual(self.said_after_the_save(section), self.said_anew())

    def said_after_the_save(self, section: str) -> list[str]:
        self.settled()
        return [line for line in self.said() if line != "saved"]

    def said_anew(self) -> list[str]:
        self.page.reload(wait_until="networkidle")
        return self.said()

    def said(self) -> list[str]:
        """All that stands on the page, also what is folded away."""
        words = self.page.locator("main").evaluate("main => main.textContent")
        return [line.strip() for line in words.splitlines() if line.strip()]

    def test_a_finding_is_placed_dragged_and_moved_by_keys(self):
        page = self.page
        page.goto(f"/intake/W-{self.unit.number}/")
        page.locator('.casing--desk [data-face="front"]').click(position={"x": 30, "y": 30})
        expect(page.get_by_role("radio", name="front", exact=True)).to_be_checked()
        page.get_by_role("button", name="scratch").click()
        expect(page.locator(".defects")).to_contain_text("Scratch front")
        placed = Finding.objects.get()
        self.assertTrue(0 < placed.x < 0.5 and 0 < placed.y < 0.6)

        pin = page.locator(".casing--desk [data-pin]")
        pin.focus()
        with page.expect_navigation():
            page.keyboard.press("ArrowRight")
            page.keyboard.press("ArrowRight")
        moved = Finding.objects.get()
        self.assertAlmostEqual(moved.x, placed.x + 0.06, delta=0.02)

        page.wait_for_load_state("networkidle")  # the page has come to rest at its anchor
        start = page.locator(".casing--desk [data-pin]").bounding_box()
        back = page.locator('.casing--desk [data-face="back"]').bounding_box()
        page.mouse.move(start["x"] + start["width"] / 2, start["y"] + start["height"] / 2)
        page.mouse.down()
        page.mouse.move(back["x"] + back["width"] / 2, back["y"] + back["height"] / 2, steps=4)
        with page.expect_navigation():
            page.mouse.up()
        dragged = Finding.objects.get()
        self.assertEqual(dragged.face, "back")
        self.assertAlmostEqual(dragged.x, 0.5, delta=0.05)

        page.get_by_role("button", name="Patina").click()
        expect(page.get_by_text("(accepted as patina)")).to_be_visible()

    def test_a_plain_unit_with_three_findings_by_keyboard_in_under_forty_presses(self):
        page, presses = self.page, 0
        page.goto(f"/intake/W-{self.unit.number}/")

        def press(*keys: str) -> None:
            nonlocal presses
            for key in keys:
                page.keyboard.press(key)
                presses += 1

        page.get_by_label("Serial").focus()  # where a scanner or the Tab key leads first
        presses += 3
        press(*"HM712044A1", "Tab")
        expect(page.locator("#saved-form")).to_contain_text("saved")
        page.evaluate("document.activeElement.blur()")
        press("a")
        expect(page.locator("#ticks")).to_contain_text("100 % complete")
        page.wait_for_load_state("load")  # the keys are heard once the scripts ran
        for count, (face, kind) in enumerate((("f", "1"), ("t", "3"), ("s", "2")), 1):
            press(face, kind)
            expect(page.locator(".defects li[id]")).to_have_count(count)
            page.wait_for_load_state("load")  # its keys too
        press("o")  # every face was looked over
        expect(page.locator("#finding")).to_contain_text("cosmetics")
        page.wait_for_load_state("load")
        press("p")
        expect(page.locator("#saved-approach")).to_contain_text("saved")
        expect(page.get_by_text("Everything is recorded.")).to_be_visible()
        press("e")
        page.wait_for_url(f"{self.live_server_url}/W-{self.unit.number}/")
        unit = Unit.objects.get(pk=self.unit.pk)
        self.assertEqual((unit.serial, unit.approach, unit.stage), ("HM712044A1", "period", "assessed"))
        self.assertEqual(
            list(unit.findings.values_list("face", "kind")),
            [("front", "crack"), ("top", "yellowing"), ("screen", "scratch")],
        )
        self.assertLess(presses, 40)

    def test_at_phone_width_a_finding_takes_two_taps_and_is_there_on_another_device(self):
        phone = self.open_page(PHONE)
        self.sign_in("olga", "olga-sesame", phone)
        phone.goto(f"/intake/W-{self.unit.number}/")
        phone.locator('.casing--phone [data-face="inside"]').click()
        phone.get_by_role("button", name="leaked cell").click()
        expect(phone.locator(".defects")).to_contain_text("Leaked cell inside")
        over = phone.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        self.assertEqual(over, 0)
        self.page.goto(f"/intake/W-{self.unit.number}/")
        expect(self.page.locator(".defects")).to_contain_text("Leaked cell inside")
        self.page.get_by_label("As it stands").fill("8812")
        self.page.locator("#readings").get_by_role("button", name="Keep").first.click()
        expect(self.page.locator("#facts")).to_contain_text("week 12 of 1988")

    def test_a_colour_is_picked_off_a_photo_by_mouse_and_by_keys(self):
        page = self.page
        photos.add_photos(self.owner, self.unit, [picture()])
        page.goto(f"/intake/W-{self.unit.number}/colour/")
        canvas = page.locator("#sampler")
        expect(canvas).to_have_attribute("height", "540")
        canvas.click(position={"x": 50, "y": 50})
        page.get_by_role("radio", name="exposed").check(force=True)
        canvas.focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Enter")
        expect(page.locator("#colour-found")).to_contain_text("No difference that can be seen")
        page.get_by_label("Of what").fill("top cover")
        page.get_by_role("button", name="Keep the measurement").click()
        expect(page.get_by_role("cell", name="top cover")).to_be_visible()

    def test_good_photos_are_kept_and_the_broken_one_is_named(self):
        page = self.page
        page.goto(f"/intake/W-{self.unit.number}/")
        page.get_by_label("Pictures").set_input_files(
            [
                {"name": "front.jpg", "mimeType": "image/jpeg", "buffer": picture().read()},
                {"name": "back.jpg", "mimeType": "image/jpeg", "buffer": b"half a picture"},
            ]
        )
        page.get_by_role("button", name="Add photos").click()
        expect(page.get_by_text("1 photo added.")).to_be_visible()
        expect(page.get_by_text("back.jpg was not taken: not a picture")).to_be_visible()
        self.assertEqual(Photo.objects.count(), 1)

    def test_a_manifest_with_errors_is_mended_by_choosing_columns(self):
        page = self.page
        lot = buying.record_lot(self.owner, lot_data(title="Pallet"), [line_data()])
        page.goto(f"/buying/L-{lot.number}/")
        page.get_by_role("link", name="Import a manifest").click()
        page.get_by_label("Manifest (CSV)").set_input_files(MESSY)
        page.get_by_role("button", name="Look at it").click()
        expect(page.get_by_text("3 bad lines")).to_be_visible()
        expect(page.get_by_text("“zwei” is no quantity")).to_be_visible()
        expect(page.get_by_role("button", name="Take")).to_have_count(0)

        page.get_by_label("How many").select_option("not in the file")
        page.get_by_label("Likely worth").select_option("not in the file")
        page.get_by_label("What it is").select_option("Pos")
        page.get_by_role("button", name="Read it so").click()
        page.get_by_label("Form factor of the 7 that tell none").select_option("desktop")
        page.get_by_role("button", name="Take 7 lines in").click()
        expect(page.get_by_role("heading", name="Pallet")).to_be_visible()
        self.assertEqual(Lot.objects.get(pk=lot.pk).lines.count(), 8)
