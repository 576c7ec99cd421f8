"""A technician's test run with no mouse at all, with simulated instruments; a short found; a run taken over."""

import re
from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import Route, expect

from simulators import instruments as simulated
from stations.bench import instruments
from stations.bench import services as bench
from stations.bench.models import FaultCase, Instrument, StepResult, StepTimer
from stations.people.models import Role
from stations.units.models import Unit
from tests.browser.base import DESK, PHONE, BrowserTest
from tests.hands import Hand
from tests.stations.base import fill_shop, person
from tests.stations.test_intake import picture


class ByKeyboardAlone(BrowserTest):
    takes = 55

    def setUp(self):
        super().setUp()
        fill_shop(self)
        unit = self.receive()[0]
        self.unit = Hand(self.owner, timezone.now() - timedelta(days=2)).assess(unit)
        self.machine = simulated.Machine()
        for role, port in zip(("meter", "load", "reader"), simulated.serve(machine=self.machine), strict=True):
            self.addCleanup(port.server_close)
            self.addCleanup(port.shutdown)
            Instrument.objects.create(name=f"The {role}", role=role, port=port.server_address[1])

    def type(self, *keys: str) -> None:
        for key in keys:
            if len(key) == 1 or key in {"Enter", "Tab", "Escape"}:
                self.finger(key)
            else:
                self.page.keyboard.type(key)

    def let_time_pass(self, **span) -> None:
        """What was started by the clock was started that much earlier."""
        for timer in StepTimer.objects.filter(stopped_at=None):
            timer.started_at -= timedelta(**span)
            timer.ends_at -= timedelta(**span)
            timer.save()

    def on_step(self, title: str) -> None:
        expect(self.page.locator(".step-title")).to_have_text(title)
        self.page.wait_for_load_state("load")  # the keys are heard once the scripts ran

    def test_what_is_typed_before_the_page_can_hear_it_is_judged(self):
        page, held = self.page, []
        self.sign_in("tom", "tom-sesame")
        self.hand(self.technician).test(self.unit, stop_at="safe-linear")
        page.route("**/*.js", lambda script: held.append(script))
        page.goto(f"/bench/W-{self.unit.number}/", wait_until="commit")
        page.locator("#reading").fill("99")
        for _ in range(100):
            if len(held) > 3:
                break
            page.wait_for_timeout(50)  # a busy machine asks for them later than it shows the field
        # Lets go of all that are held, and of all that are asked for later.
        page.unroute("**/*.js")
        expect(page.locator("#band")).to_contain_text("Outside")
        self.assertGreater(len(held), 3)

    def test_what_is_typed_before_an_answer_comes_is_judged_too(self):
        page = self.page
        self.sign_in("tom", "tom-sesame")
        self.hand(self.technician).test(self.unit, stop_at="safe-linear")

        def answer(route: Route):
            if route.request.method == "POST":
                page.locator("#reading").press("Control+a")
                self.type("0.4")
            route.continue_()

        address = f"/bench/W-{self.unit.number}/"
        page.goto(address)
        page.route(f"**{address}", answer)
        page.locator("#reading").fill("-325")
        page.locator("#reading").press("Enter")
        expect(page.locator(".field__error[role=alert]")).to_contain_text("outside the limits")
        expect(page.locator("#reading")).to_have_value("0.4")
        expect(page.locator("#band")).to_contain_text("Inside limits")
        page.unroute(f"**{address}")
        self.type("Enter")
        self.on_step("Mains lead, fuse and earth are sound")

    def test_what_presses_does_not_move_when_a_reading_is_judged(self):
        page = self.page
        self.sign_in("tom", "tom-sesame")
        self.hand(self.technician).test(self.unit, stop_at="safe-linear")
        page.goto(f"/bench/W-{self.unit.number}/")
        button = page.locator("[data-key=p]")
        for typed, said in (("0.4", "Inside limits"), ("99", "Outside")):
            before = button.bounding_box()
            page.locator("#reading").fill(typed)
            expect(page.locator("#band")).to_contain_text(said)
            self.assertEqual(button.bounding_box(), before)

    def test_a_whole_plan(self):
        page = self.page
        page.goto("/people/sign-in/")
        page.locator("#id_username").focus()
        self.type("tom", "Tab", "tom-sesame", "Enter")
        page.wait_for_url(f"{self.live_server_url}/")
        self.type("/", str(self.unit.tag), "Enter")
        page.wait_for_url(f"**/W-{self.unit.number}/")
        self.type("1")  # its next step
        page.wait_for_url(f"**/bench/W-{self.unit.number}/")
        self.type("r")

        self.on_step("Look inside, unplugged")
        self.type("f")
        self.type("loose plug on the tube board", "Enter")
        self.on_step("It stands where two can turn it")
        # What failed is run again, not edited.
        page.goto(f"/bench/W-{self.unit.number}/?step=look-case")
        self.type("p")
        for title in (
            "It stands where two can turn it",
            "Battery has not leaked",
            "Discharge the CRT",
        ):
            self.on_step(title)
            self.type("p")
        self.on_step("Discharge the linear PSU")
        self.type("-325", "Enter")
        expect(page.locator(".field__error")).to_contain_text("outside the limits")
        self.settled()
        page.locator("#reading").press("Control+a")
        self.type("0.4", "Enter")
        self.on_step("Mains lead, fuse and earth are sound")
        self.type("0.1", "Enter")
        self.on_step("+5 V rail to ground, cold")
        self.type("60", "Enter")
        self.on_step("+5 V under load, PSU alone")
        self.type("5060", "Enter")
        # The band says so while it is typed; what was sent is answered by a page in place of this one.
        expect(page.locator(".field__error[role=alert]")).to_contain_text("Did you read 5060 mV")
        self.settled()
        page.locator("#reading").press("Control+a")
        self.type("5.24")
        expect(page.locator("#band")).to_contain_text("Too close to call")
        self.type("Enter")
        expect(page.locator(".field__error")).to_contain_text("Too close to call")
        self.settled()
        page.locator("#reading").press("Control+a")
        self.type("Escape", "i")
        expect(page.locator("#reading")).to_have_value(re.compile(r"5\.0[89]"))
        expect(page.locator("#band")).to_contain_text("Inside limits")
        page.locator("#reading").press("Enter")
        self.on_step("+5 V under steps of load")
        for amps, points in (("0", 1), ("1.5", 2), ("3", 3)):
            page.locator("#amps").focus()
            page.locator("#amps").press("Control+a")
            self.type(amps, "Tab", "Enter")
            expect(page.locator("#reading")).to_have_value(re.compile("^" + ";".join(["[^;]+"] * points) + "$"))
        expect(page.locator("#band")).to_contain_text("Output resistance 18 mΩ")
        self.type("p")
        self.on_step("First power of the whole")
        self.type("p")
        self.on_step("+5 V at the board, running")
        self.type("5.04", "Enter")
        for title in ("Picture", "Tube: focus, size, burn-in", "Every key, once"):
            self.on_step(title)
            self.type("p")
        self.on_step("Drives read, write and read elsewhere")
        self.type("s", "no scrap disk at hand", "Enter")
        self.on_step("Ports and sound")
        self.type("p")
        for title in (
            "Memory test, one full pass",
            "Clock keeps time unplugged",
            "Soak: four hours on, then a cold start",
        ):
            self.on_step(title)
            self.type("t")
            expect(page.locator(".timer")).to_contain_text("Runs until")
            page.wait_for_load_state("load")
            self.type("p")
            expect(page.get_by_role("alert")).to_contain_text("minutes to run")
            self.let_time_pass(hours=5)
            page.wait_for_load_state("load")
            self.type("Escape", "p")
        self.on_step("The same short set, closed up")
        self.type("p")
        self.settled()
        expect(page.get_by_text("Run 1").first).to_be_visible()

        self.assertEqual(Unit.objects.get().stage, "proven")
        self.assertEqual(
            set(StepResult.objects.exclude(instrument__in=["", "hand meter"]).values_list("code", flat=True)),
            {"supply-5v", "supply-load"},
        )
        outcomes = list(StepResult.objects.filter(code__in=["look-case", "fn-drives"]).values_list("outcome", "reason"))
        self.assertEqual(
            outcomes, [("fail", "loose plug on the tube board"), ("pass", ""), ("skip", "no scrap disk at hand")]
        )

    def test_unplugged_and_stopped_by_two_keys(self):
        Hand(self.technician, timezone.now()).test(self.unit, stop_at="fn-picture")
        page = self.page
        self.sign_in("tom", "tom-sesame")
        page.goto(f"/bench/W-{self.unit.number}/")
        self.on_step("Picture")
        self.type("u")
        expect(page.get_by_role("button", name="Noise")).to_be_focused()
        self.type("Tab", "Enter")
        expect(page.locator(".stop-held")).to_contain_text("Unplugged and stopped: smell")
        self.assertEqual(StepResult.objects.order_by("-id").first().outcome, "fail")
        self.assertEqual(Unit.objects.get(pk=self.unit.pk).state, "hold")

    def test_a_short_is_found_by_halving_with_the_meter(self):
        """A load of the simulated machine holds the rail down: the page says which to take off, the meter answers."""
        self.machine.scenario, self.machine.shorted = "short", "keyboard"
        page, meter = self.page, Instrument.objects.get(role="meter")
        self.sign_in("tom", "tom-sesame")
        page.goto(f"/bench/W-{self.unit.number}/fault/")
        page.get_by_label("Symptom").select_option("short")
        page.get_by_role("button", name="Begin").click()
        tries = 0
        while not page.get_by_text("Found, as far as can be told").count():
            tries += 1
            self.assertLess(tries, 7)
            words = page.locator(".try--first .instruction").inner_text()
            loads = words.removeprefix("Take off ").removesuffix(" together").replace(" ", "")
            instruments.ask(meter, f"SIM:OFF {loads}", "*IDN?")
            gone = instruments.read(meter, "Ω").value > 10
            with page.expect_navigation():
                page.locator(".try--first").get_by_role("button", name="gone" if gone else "still there").click()
        expect(page.get_by_text("Found, as far as can be told")).to_contain_text("the keyboard")
        page.get_by_label("What it was", exact=True).select_option("keyboard")
        page.get_by_label("What was done").fill("lead replaced")
        page.get_by_role("button", name="Close the fault").click()
        expect(page.get_by_text("Lead replaced: provisional.")).to_be_visible()
        self.assertEqual(FaultCase.objects.get().cause, "keyboard")

    def test_a_second_person_takes_a_run_over_and_the_first_is_told(self):
        bench.start_run(self.technician, self.unit)
        person("tove", Role.TECHNICIAN)
        first, second = self.page, self.open_page(DESK)
        self.sign_in("tom", "tom-sesame", first)
        self.sign_in("tove", "tove-sesame", second)
        for page in (first, second):
            page.goto(f"/bench/W-{self.unit.number}/")
        self.finger("p", second)
        expect(second.get_by_text("Tom has this run in hand. Take it over first.")).to_be_visible()
        with second.expect_navigation():  # loaded, with its keys, not only begun
            second.get_by_role("button", name="Take it over from Tom").click()
        expect(second.get_by_role("button", name="Take it over")).to_have_count(0)
        self.finger("p", second)
        expect(second.locator(".step-title")).to_have_text("It stands where two can turn it")
        self.finger("p", first)
        expect(first.get_by_text("Tove has this run in hand")).to_be_visible()
        self.assertEqual(StepResult.objects.count(), 1)

    def test_a_note_is_kept_beside_a_reading_half_typed_and_an_instrument_that_dies_takes_nothing(self):
        run = Hand(self.technician, timezone.now()).test(self.unit, stop_at="supply-5v")
        page = self.page
        self.sign_in("tom", "tom-sesame")
        page.goto(f"/bench/W-{self.unit.number}/")
        self.on_step("+5 V under load, PSU alone")
        self.type("5.0", "Escape", "n", "hums at no load", "Enter")
        expect(page.locator("#notes")).to_contain_text("hums at no load")
        expect(page.locator("#reading")).to_have_value("5.0")
        expect(page.locator("#note-words")).to_have_value("")
        page.locator("#note-picture").set_input_files(
            {"name": "cap.jpg", "mimeType": "image/jpeg", "buffer": picture("cap.jpg").read()}
        )
        page.get_by_role("button", name="Save note").click()
        expect(page.locator("#notes img")).to_have_attribute("alt", "cap.jpg")
        # What was pressed is put in its place anew: whoever goes on by keyboard goes on from there.
        expect(page.locator("#note-save")).to_be_focused()
        self.machine.scenario = "silent"
        page.get_by_role("button", name="Read the meter").click()
        expect(page.locator("#take .field__error")).to_contain_text("does not answer")
        expect(page.locator("#reading")).to_have_value("5.0")
        page.locator("#reading").press("Enter")
        self.on_step("+5 V under steps of load")
        self.assertEqual([(n.words, bool(n.photo)) for n in run.notes.all()], [("hums at no load", False), ("", True)])

    def test_letters_of_a_finger_that_a_busy_tablet_hears_all_at_once_are_no_code(self):
        Hand(self.technician, timezone.now()).test(self.unit, stop_at="supply-5v")
        page = self.page
        self.sign_in("tom", "tom-sesame")
        page.goto(f"/bench/W-{self.unit.number}/")
        self.on_step("+5 V under load, PSU alone")
        self.type("Escape")
        page.evaluate("""() => addEventListener("keydown", () => setTimeout(() => {
            for (const start = performance.now(); performance.now() < start + 500;);
        }, 10), { once: true })""")
        self.type("n", *"hums", "Enter")
        expect(page.locator("#notes")).to_contain_text("hums")

    def test_a_code_is_read_off_the_board_and_the_fault_followed_with_one_thumb(self):
        self.machine.scenario = "code201"
        page = self.page = self.open_page(PHONE)
        self.sign_in("tom", "tom-sesame")
        page.goto(f"/bench/W-{self.unit.number}/fault/")
        page.get_by_label("Symptom").select_option("beeps")
        page.get_by_role("button", name="Read it off the board").click()
        expect(page.get_by_label("Beeps or code")).to_have_value("201")
        page.get_by_role("button", name="Begin").click()
        expect(page.locator(".field__error").first).to_contain_text("which firmware")
        expect(page.get_by_label("Beeps or code")).to_have_value("201")
        page.get_by_label("Firmware").select_option("numeric")
        page.get_by_role("button", name="Begin").click()
        expect(page.locator(".suspects li").first).to_contain_text("emory")
        before = page.locator(".suspects li b").first.inner_text()
        with page.expect_navigation():
            self.finger("1")
        expect(page.locator(".fault-log li, .fault-log tbody tr")).to_have_count(1)
        self.assertNotEqual(page.locator(".suspects li b").first.inner_text(), before)
        wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        self.assertEqual(wide, 0)
        small = page.evaluate(
            "[...document.querySelectorAll('.try button')].filter(b => b.getBoundingClientRect().height < 44).length"
        )
        self.assertEqual(small, 0)
        self.assertEqual(FaultCase.objects.get().tries.count(), 1)
