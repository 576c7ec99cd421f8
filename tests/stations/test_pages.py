"""Pages through the real views: they answer, they don't ask more as the shop grows, they lose nothing typed."""

from decimal import Decimal

from django.db import connection
from django.test import override_settings
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from core.buying.share import Basis
from stations.buying import services as buying
from stations.buying.models import Lot
from stations.buying.sharing import share_lot
from stations.common.typed import whole_number
from stations.intake import services as intake
from stations.selling import services as selling
from stations.units import photos
from stations.units.models import Finding, Unit
from tests.stations.base import ShopTest, line_data, lot_data
from tests.stations.test_intake import picture

D = Decimal


class PageTest(ShopTest):
    def scene(self) -> None:
        super().scene()
        self.sign_in(self.owner)
        self.signed_in = self.client.cookies

    def setUp(self):
        self.client.cookies = self.signed_in

    def sign_in(self, who) -> None:
        self.client.force_login(who, backend="django.contrib.auth.backends.ModelBackend")

    def post(self, page, args=(), /, *, follow=False, **data):
        return self.client.post(reverse(page, args=args), {"write_key": "", **data}, follow=follow)

    def new_lot(self, **changes) -> dict:
        return {
            "version": 1,
            "title": "Crate",
            "supplier_name": "Quay",
            "source_kind": "auction",
            "bought_on": "2026-10-01",
            "currency": "EUR",
            "rate": "1",
            "charges-TOTAL_FORMS": "2",
            "charges-INITIAL_FORMS": "0",
            "charges-0-kind": "price",
            "charges-0-how_much": "90",
            "charges-1-kind": "premium",
            "charges-1-how_much": "",
            "lines-TOTAL_FORMS": "1",
            "lines-INITIAL_FORMS": "0",
            "lines-0-description": "Tower",
            "lines-0-quantity": "3",
            "lines-0-kind": "machine",
            "lines-0-form_factor": "tower",
            "lines-0-claim": "none",
            "lines-0-worth_low": "10",
            "lines-0-worth_likely": "20",
            "lines-0-worth_high": "30",
            "lines-0-finish_cost": "0",
            **changes,
        }


class QueriesDoNotGrow(PageTest):
    def grow(self):
        for number in range(6):
            lot = buying.record_lot(
                self.owner, lot_data(title=f"Lot {number}"), [line_data(quantity=3), line_data("Tessaly 48", 2)]
            )
            share_lot(self.owner, lot, Basis.COUNT)
            intake.receive(self.owner, lot.lines.first(), 3, self.model)

    def queries(self, path) -> int:
        with CaptureQueriesContext(connection) as asked:
            self.assertEqual(self.client.get(path).status_code, 200)
        return len(asked)

    def test_on_every_list(self):
        self.listed()
        self.receive()
        paths = [
            reverse(name)
            for name in (
                "floor:floor",
                "buying:lots",
                "intake:table",
                "units:units",
                "catalogue:models",
                "units:wanted",
                "units:places",
                "catalogue:numbering",
                "bench:bench",
                "workshop:workshop",
                "stock:parts",
                "buying:rates",
                "buying:suppliers",
                "buying:plans",
                "selling:selling",
                "selling:comparables",
                "books:books",
                "shop:front",
            )
        ]
        paths += [
            reverse("buying:lot", args=[self.lot.number]),
            reverse("buying:supplier", args=[self.lot.supplier_id]),
        ]
        paths += [reverse("books:lot", args=[self.lot.number]), reverse("floor:find") + "?q=Halden"]
        for path in paths:
            self.client.get(path)
        before = {path: self.queries(path) for path in paths}
        self.grow()
        for path in paths:
            with self.subTest(path):
                self.assertEqual(self.queries(path), before[path])

    def test_the_floor_asks_a_fixed_number(self):
        self.receive(3)
        self.client.get("/")
        with self.assertNumQueries(37):
            self.client.get("/")


class BadInput(PageTest):
    def test_a_lot_says_at_each_field_what_is_wrong_and_keeps_the_rest(self):
        for change, field, words in (
            ({"currency": "XXQ"}, "currency", "no currency code"),
            ({"rate": "0"}, "rate", "above 0"),
            ({"rate": "1.17"}, "rate", "EUR is ours: one is 1."),
            ({"title": ""}, "title", "Give the lot a name"),
            ({"supplier_name": ""}, "supplier_name", "Who sold"),
            ({"source_kind": "custody"}, "owner_name", "whose is it"),
            ({"source_kind": "donation"}, "__all__", "donation has no price"),
            ({"currency": "SEK", "rate": ""}, "rate", "No rate is known for SEK"),
            ({"arrived_on": "2026-09-01"}, "arrived_on", "before it was bought"),
        ):
            with self.subTest(change):
                page = self.post("buying:record", **self.new_lot(note="keep me", **change))
                self.assertEqual(page.status_code, 200)
                self.assertIn(words, str(page.context["form"].errors[field]))
                self.assertContains(page, "keep me")
        self.assertEqual(Lot.objects.count(), 1)

    def test_a_charge_says_at_its_field_what_is_wrong(self):
        for change, field, words in (
            ({"0-how_much": "-5"}, "how_much", "may not be below 0"),
            ({"0-how_much": "a lot"}, "how_much", "Type an amount"),
            ({"0-how_much": "1.2345"}, "how_much", "Two places"),
            ({"0-how_much": "1.234"}, "how_much", "1.234 can be 1234 or 1.234"),
            ({"0-how_much": "nan"}, "how_much", "Type an amount"),
            ({"0-how_much": "118 %"}, "how_much", "from 0 to 100"),
            ({"0-how_much": "18 %"}, "how_much", "not a percentage"),
            ({"0-how_much": "25 to 1000; 20"}, "how_much", "not a percentage"),
            ({"0-kind": "premium", "0-how_much": "25 to 1000; 20 to 500; 9"}, "how_much", "rise from band to band"),
            ({"0-currency": "XXQ"}, "currency", "no currency code"),
            ({"0-currency": "SEK"}, "rate", "No rate is known"),
            ({"0-currency": "SEK", "0-rate": "0"}, "rate", "above 0"),
            ({"0-currency": "EUR", "0-rate": "1.17"}, "rate", "EUR is ours"),
            ({"0-currency": "", "0-rate": "1.17"}, "currency", "In which currency"),
            ({"0-kind": "other", "0-how_much": "5 %", "0-of": "other"}, "of", "of itself"),
            ({"0-kind": "nonsense"}, "kind", "among the choices"),
        ):
            with self.subTest(change):
                page = self.post("buying:record", **self.new_lot(**{f"charges-{k}": v for k, v in change.items()}))
                self.assertIn(words, str(page.context["charges"].errors[0][field]))
                self.assertContains(page, "Crate")
        circle = {"charges-0-kind": "duty", "charges-0-how_much": "5 %", "charges-0-of": "other",
                  "charges-1-kind": "other", "charges-1-how_much": "5 %", "charges-1-of": "duty"}  # fmt: skip
        page = self.post("buying:record", **self.new_lot(**circle))
        self.assertIn("rest on one another", str(page.context["charges"].errors))
        self.assertEqual(Lot.objects.count(), 1)

    def test_the_landed_cost_follows_while_one_types(self):
        page = self.post("buying:landed", **self.new_lot(**{"charges-1-how_much": "10 %"}))
        self.assertContains(page, "99.00")
        page = self.post("buying:landed", **self.new_lot(**{"charges-1-how_much": "130 %"}))
        self.assertContains(page, "from 0 to 100")

    def test_a_line_says_so_too(self):
        for change, field in (
            ({"lines-0-quantity": "0"}, "quantity"),
            ({"lines-0-worth_likely": "5"}, "worth_likely"),
            ({"lines-0-weight_kg": "-1"}, "weight_kg"),
            ({"lines-0-description": ""}, "description"),
        ):
            with self.subTest(change):
                page = self.post("buying:record", **self.new_lot(**change))
                self.assertIn(field, page.context["lines"].errors[0])

    def test_a_reading_is_asked_about_at_its_field(self):
        unit = self.assessed()
        run = self.hand().test(unit, stop_at="supply-5v")
        page = self.post("bench:unit", [unit.number], code="supply-5v", outcome="pass", reading="5060")
        self.assertContains(page, "Did you read 5060 mV", status_code=422)
        self.assertContains(page, 'value="5060"', status_code=422)
        self.assertEqual(run.results.filter(code="supply-5v").count(), 0)

    def test_other_forms_refuse_at_the_field(self):
        unit = self.proven()
        job_page = self.post("workshop:unit", [unit.number], title="", kind="repair", estimate_minutes="0", version=1)
        self.assertEqual({"title", "estimate_minutes"}, set(job_page.context["form"].errors))
        price_page = self.post("selling:price", [unit.number], asking="-3", channel=self.channel.pk, version=1)
        self.assertIn("asking", price_page.context["price_form"].errors)
        finding_page = self.post(
            "intake:add-finding", [unit.number], face="front", kind="crack", x="7", y="0", severity="2"
        )
        self.assertEqual({"x", "extent_percent"}, set(finding_page.context["finding"].errors))
        stock_page = self.post("stock:parts", name="", condition="new", quantity="0", paid="-1")
        self.assertEqual({"name", "quantity", "paid"}, set(stock_page.context["form"].errors))
        receive_page = self.post("intake:table", line=self.line.pk, count="9")
        self.assertContains(receive_page, "still to be received")
        model_page = self.post(
            "catalogue:models", maker="", name="M3", form_factor="desktop", expected="keyboard", year_from="1990"
        )
        self.assertTrue({"maker", "expected"} <= set(model_page.context["form"].errors))
        channel_page = self.post("selling:channels", name="Quay market", fee_percent="120", fee_fixed="-1")
        self.assertTrue({"name", "fee_percent", "fee_fixed"} <= set(channel_page.context["form"].errors))
        settings_page = self.post("people:settings", name="", labour_rate="-1", tax_percent="200", version=1)
        self.assertTrue({"name", "labour_rate", "tax_percent"} <= set(settings_page.context["form"].errors))

    def test_a_button_that_is_refused_says_why_on_the_page(self):
        (unit,) = self.receive()
        page = self.client.post(reverse("intake:finish", args=[unit.number]), follow=True)
        self.assertContains(page, "Still to record: what it is, completeness, its looks, approach.")

    def test_nonsense_addresses_are_not_found(self):
        for path in ("/W-9999/", "/buying/L-999/", "/bench/W-9999/", "/selling/W-9999/", "/workshop/jobs/9999/"):
            self.assertEqual(self.client.get(path).status_code, 404, path)


class ForgedInput(PageTest):
    """What no form of ours sends, but somebody's tool or an old page may: refused in words, never a stack trace."""

    def said(self, address, args=(), **data) -> str:
        page = self.client.post(reverse(address, args=args), data, follow=True)
        self.assertEqual(page.status_code, 200)
        return page.content.decode()

    def test_findings(self):
        (unit,) = self.receive()
        finding = self.hand().find(unit, "front", "crack", 2, "corner")
        self.assertIn("say which", self.said("intake:settle-finding", [finding.pk], status="gone"))
        for place in (
            {"face": "lid", "x": "0.5", "y": "0.5"},
            {"face": "front", "x": "nan", "y": "0"},
            {"x": "a", "y": "0"},
        ):
            self.assertIn("off the face", self.said("intake:settle-finding", [finding.pk], **place))
        self.assertEqual(self.again(finding).face, "front")

    def test_numbers_that_are_none_and_numbers_too_large(self):
        self.assertEqual(self.client.get("/find/", {"q": "L-²"}).status_code, 200)
        page = self.post("catalogue:models", maker="x", name="y", form_factor="desktop", expected="² keyboard")
        self.assertIn("expected", page.context["form"].errors)
        page = self.post("buying:record", **self.new_lot(**{"charges-0-how_much": "99999999999"}))
        self.assertIn("how_much", page.context["charges"].errors[0])
        page = self.post(
            "buying:record", **self.new_lot(currency="SEK", rate="999999", **{"charges-0-how_much": "9999999"})
        )
        self.assertIn("more than the books can hold", str(page.context["form"].errors["rate"]))
        page = self.post("stock:parts", name="Belt", condition="new", quantity="99999999999", paid="1")
        self.assertIn("quantity", page.context["form"].errors)

    def test_more_of_a_part_adds_to_it(self):
        self.post("stock:parts", name="Belt", condition="new", drawer="Z9", quantity="2", paid="5")
        self.assertEqual((self.again(self.part).quantity, self.again(self.part).drawer), (5, "A1"))


class AnEmptyShop(PageTest):
    def test_a_model_and_a_channel_are_added_by_hand(self):
        bank = {
            "maker": "Corvane",
            "name": "Micro 3",
            "form_factor": "desktop",
            "width_mm": "400",
            "height_mm": "110",
            "depth_mm": "390",
            "supply": "switching",
            "battery": "nicd",
            "drives": "2",
            "photos_wanted": "3",
            "expected": "4 keyboard\n1 case screws",
        }
        self.assertRedirects(self.post("catalogue:models", **bank), "/intake/models/")
        self.assertContains(self.client.get("/intake/models/"), "keyboard, case screws")
        channel = {"name": "Fair", "fee_percent": "0", "fee_fixed": "5", "title_length": "60"}
        channel |= {"text_length": "4000", "price_ends": "whole", "kind": "fair", "version": "1"}
        bare = self.client.get(reverse("selling:channels")).context["form"]
        self.assertEqual((bare["fee_percent"].value(), bare["fee_fixed"].value()), (None, None))
        refused = self.post("selling:channels", **channel | {"fee_fixed": ""})
        self.assertContains(refused, "Say what it takes; 0 where it takes none.")
        self.assertContains(refused, 'value="Fair"')
        self.assertRedirects(self.post("selling:channels", **channel), "/selling/channels/")

    def test_what_the_shop_goes_by_is_asked_for_until_somebody_said_it(self):
        words, there = "Nobody said yet what this shop goes by", reverse("people:settings")
        self.assertContains(self.client.get("/"), words)
        page = self.client.get(there)
        self.assertContains(page, "These are usual figures")
        shown = page.context["form"]
        typed = {name: "" if (v := shown[name].value()) is None else v for name in shown.fields}
        self.assertRedirects(self.client.post(there, typed), there)
        for address in ("/", there):
            self.assertNotContains(self.client.get(address), words)
            self.assertNotContains(self.client.get(address), "These are usual figures")

    def test_what_is_still_to_come_in_is_the_next_step(self):
        self.assertContains(self.client.get("/"), "Receive what came in")
        intake.receive(self.owner, self.line, 3)
        intake.receive(self.owner, self.other_line, 1)
        self.assertNotContains(self.client.get("/"), "Receive what came in")

    def test_a_shop_without_an_owner_says_how_it_is_begun(self):
        self.client.logout()
        door, words = reverse("people:sign-in"), "Nobody owns this shop yet"
        self.assertNotContains(self.client.get(door), words)
        type(self.owner).objects.filter(pk=self.owner.pk).update(is_active=False)
        self.assertContains(self.client.get(door), words)

    def test_looking_at_a_unit_writes_nothing_and_wants_no_channel(self):
        unit = self.assessed()
        type(self.channel).objects.all().delete()
        self.assertEqual(self.client.get(f"/selling/W-{unit.number}/").status_code, 200)
        self.assertFalse(type(unit).objects.filter(listing__isnull=False).exists())
        page = self.client.post(reverse("selling:do", args=[unit.number, "write"]), follow=True)
        self.assertContains(page, "No channel is set up")


class StaleEdits(PageTest):
    def test_both_versions_are_shown_and_saving_again_is_knowing(self):
        (unit,) = self.receive()
        data = {
            "version": 1,
            "title": "Halden M2 grey",
            "serial": "MINE-1",
            "form_factor": "all_in_one",
            "mains": "120 V",
            "mains_variant": "v100_120",
            "adapter_polarity": "none",
            "supply": "linear",
            "battery": "lithium",
            "drives": "1",
        }
        self.post("intake:identify", [unit.number], **{**data, "serial": "THEIRS-2"})
        page = self.post("intake:identify", [unit.number], **data)
        self.assertContains(page, "Somebody else saved this while you were typing")
        self.assertContains(page, "THEIRS-2")
        self.assertContains(page, "MINE-1")
        self.assertEqual(Unit.objects.get(pk=unit.pk).serial, "THEIRS-2")
        page = self.post("intake:identify", [unit.number], **{**data, "version": page.context["form"].data["version"]})
        self.assertEqual(Unit.objects.get(pk=unit.pk).serial, "MINE-1")


class DoublePosting(PageTest):
    def test_one_lot(self):
        for _ in range(2):
            page = self.client.post(reverse("buying:record"), self.new_lot(write_key="one-press"))
            self.assertRedirects(page, "/buying/L-2/")
        self.assertEqual(Lot.objects.count(), 2)

    def test_one_finding(self):
        (unit,) = self.receive()
        data = {
            "face": "front",
            "kind": "crack",
            "x": "0.5",
            "y": "0.5",
            "severity": "2",
            "extent_percent": "3",
            "words": "corner",
        }
        for _ in range(2):
            self.client.post(reverse("intake:add-finding", args=[unit.number]), {**data, "write_key": "one-press"})
        self.assertEqual(Finding.objects.count(), 1)


class ScanOrFind(PageTest):
    def test_a_tag_a_lot_a_serial_or_a_word_opens_the_thing(self):
        unit = self.assessed()
        for words, there in (
            (str(unit.tag), f"/W-{unit.number}/"),
            ("101", "/W-101/"),
            ("l-001", "/buying/L-1/"),
            (unit.serial.lower(), f"/W-{unit.number}/"),
        ):
            self.assertRedirects(self.client.get("/find/", {"q": words}), there)
        self.assertContains(self.client.get("/find/", {"q": "halden"}), str(unit.tag))
        self.assertContains(self.client.get("/find/", {"q": "zzz"}), "Nothing here goes by “zzz”")

    def test_a_mistyped_tag_is_caught(self):
        (unit,) = self.receive()
        wrong = "A" if unit.tag.check != "A" else "B"
        self.assertContains(self.client.get("/find/", {"q": f"{unit.tag.short}-{wrong}"}), "wrong check character")


class TheDoor(ShopTest):
    def test_nothing_without_signing_in_but_the_shop(self):
        for path in ("/", "/buying/", "/books/", "/people/me/", "/W-101/"):
            self.assertRedirects(self.client.get(path), f"/people/sign-in/?next={path}")
        self.assertEqual(self.client.get("/shop/").status_code, 200)

    def test_a_strict_policy_on_every_page(self):
        policy = self.client.get("/shop/")["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)

    @override_settings(AXES_FAILURE_LIMIT=3)
    def test_guessing_is_slowed_down(self):
        for _ in range(3):
            page = self.client.post("/people/sign-in/", {"username": "olga", "password": "guess"})
        page = self.client.post("/people/sign-in/", {"username": "olga", "password": "olga-sesame"})
        self.assertContains(page, "closed for five minutes", status_code=429)

    def test_a_viewer_reads_but_is_refused_in_words(self):
        self.client.force_login(self.viewer, backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.get("/").status_code, 200)
        page = self.client.post(f"/buying/L-{self.lot.number}/", {"basis": "count"})
        self.assertContains(page, "Only a buyer or an owner may share")

    def test_pictures_of_what_is_not_on_offer_are_private(self):
        unit = self.proven()
        photos.add_photos(self.owner, unit, [picture("p.jpg", (9, 9, 9))])
        path = reverse("units:photo", args=[unit.photos.get().pk, "small"])
        self.assertEqual(self.client.get(path).status_code, 404)
        selling.grade_unit(self.owner, unit)
        selling.set_price(self.owner, unit, 1, self.channel, D(150))
        selling.publish(self.owner, unit)
        self.assertEqual(self.client.get(path).status_code, 200)


class NumbersFromButtons(PageTest):
    def test_a_number_of_thousands_of_figures_is_none(self):
        for text, number in (("0", 0), ("42", 42), ("9" * 9, 999999999), ("9" * 5000, None), ("-1", None), ("²", None)):
            self.assertEqual(whole_number(text), number)

    def test_no_page_reads_one(self):
        unit, endless = self.assessed(), "9" * 5000
        for path in (
            f"/workshop/W-{unit.number}/settings/?one={endless}",
            f"/workshop/W-{unit.number}/known/?one={endless}",
            f"/intake/units/?model={endless}",
            f"/find/?q=L-{endless}",
        ):
            self.assertEqual(self.client.get(path).status_code, 200, path[:40])
        self.assertEqual(self.post("intake:lot-triage", [self.lot.number], unit=endless).status_code, 302)
