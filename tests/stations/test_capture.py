"""The capture screen through the real views: saved as one goes, in series, and refused at the field."""

from decimal import Decimal

from django.urls import reverse

from core.machine.approach import Approach
from stations.catalogue.models import MachineModel, SerialPattern, VariantRule
from stations.common.refusals import NotAllowed, Refused
from stations.intake import capture, triage
from stations.intake import services as intake
from stations.units import read_off
from stations.units.models import Content, Finding, Unit, UnitFact
from stations.workshop import taking_apart
from tests.stations.test_pages import PageTest

D = Decimal
HTMX = {"HX-Request": "true"}


class SavedAsOneGoes(PageTest):
    def scene(self) -> None:
        super().scene()
        (self.unit,) = self.receive()

    def fields(self, name="form") -> dict:
        form = self.client.get(f"/intake/W-{self.unit.number}/").context[name]
        values = {f.html_name: f.value() for f in form}
        return {key: value for key, value in values.items() if value not in (None, False)}

    def save(self, what, **data):
        return self.client.post(f"/intake/W-{self.unit.number}/{what}/", data, headers=HTMX)

    def test_a_field_is_saved_and_the_next_version_comes_back(self):
        page = self.save("identify", **self.fields() | {"serial": "HM-712044-A1"})
        self.assertContains(page, "saved")
        self.assertContains(page, 'value="2" id="id_version"')
        self.assertContains(page, "Still to record:")
        self.assertEqual(self.again(self.unit).serial, "HM-712044-A1")
        again = self.save("identify", **self.fields() | {"serial": "HM-712045-A1"})
        self.assertContains(again, 'value="3" id="id_version"')

    def test_what_is_wrong_is_said_and_a_stale_page_is_told(self):
        old = self.fields()
        self.assertContains(self.save("identify", **old | {"title": ""}), "Say what it is")
        wrong = {"mains_variant": "adapter_dc", "supply": "external_ac"}
        self.assertContains(self.save("identify", **old | wrong), "Which is it, AC or DC?")
        self.save("identify", **old | {"serial": "A"})
        self.assertContains(self.save("identify", **old | {"serial": "B"}), "Somebody else saved this")
        self.assertEqual(self.again(self.unit).serial, "A")

    def test_what_is_typed_beside_a_choice_that_does_not_keep_it_is_refused(self):
        for what, data, words in (
            ("holding", {"holding": "owned", "owner_name": "E. Norr"}, "somebody else’s"),
            ("holding", {"holding": "owned", "commission_percent": "20"}, "somebody else’s"),
            ("data", {"data_on_board": "false", "data_keep": "on"}, "nothing to image"),
            ("identify", self.fields() | {"adapter_volts": "9"}, "Its supply is inside"),
        ):
            with self.subTest(what=what, words=words):
                self.assertContains(self.save(what, **data), words)
        capture.set_ownership(self.owner, self.unit, capture.Ownership("custody", "E. Norr"))
        there = {"holding": "custody", "owner_name": "E. Norr", "commission_percent": "20"}
        self.assertContains(self.save("holding", **there), "this is in custody")
        self.assertEqual(self.again(self.unit).agreed.commission_percent, 0)

    def test_where_the_page_itself_changes_all_of_it_comes_anew(self):
        page = self.save("identify", **self.fields() | {"form_factor": "desktop"})
        self.assertEqual(page.headers["HX-Refresh"], "true")
        page = self.save("holding", holding="custody", owner_name="E. Norr")
        self.assertEqual(page.headers["HX-Refresh"], "true")

    def test_a_model_chosen_brings_its_facts_but_not_over_what_was_said(self):
        tower = MachineModel.objects.create(
            maker="Corvane", name="Stack 4", form_factor="tower", battery="nicd", drives=2
        )
        page = self.save("identify", **self.fields() | {"model": tower.pk, "battery": "alkaline"})
        self.assertEqual(page.headers["HX-Refresh"], "true")
        unit = self.again(self.unit)
        self.assertEqual(
            (unit.title, unit.form_factor, unit.drives, unit.battery), ("Corvane Stack 4", "tower", 2, "alkaline")
        )

    def test_whose_it_is(self):
        self.assertContains(self.save("holding", holding="consigned", commission_percent="20"), "Type the owner’s name")
        said = {
            "owner_name": "E. Norr",
            "agreement": "paid monthly",
            "refused_work": "no paint",
            "commission_percent": "25",
        }
        self.assertContains(self.save("holding", holding="consigned", **said), "saved")
        unit = self.again(self.unit)
        self.assertEqual((unit.holding, unit.custody, unit.agreed.commission_percent), ("consigned", False, 25))
        for refused in (
            lambda: intake.choose_approach(self.owner, unit, Approach.DONOR, "worn out"),
            lambda: triage.choose_path(self.owner, unit, "part_out", "worn out"),
            lambda: triage.choose_path(self.owner, unit, "scrap", "worn out"),
            lambda: taking_apart.take_apart(self.owner, unit, []),
        ):
            with self.assertRaisesRegex(Refused, "It belongs to .* not ours to take"):
                refused()
        self.assertContains(self.save("holding", holding="custody", **said | {"commission_percent": "250"}), "100")
        self.save("holding", holding="custody", **said)
        with self.assertRaisesRegex(Refused, "only conserving work"):
            intake.choose_approach(self.owner, self.again(self.unit), Approach.DONOR, "")
        self.save("holding", holding="owned", **said)
        self.assertEqual((self.again(self.unit).owner_name, self.again(self.unit).agreed.agreement), ("", ""))
        intake.choose_approach(self.owner, self.again(self.unit), Approach.DONOR, "worn out")
        self.assertContains(self.save("holding", holding="consigned", **said), "which only what is ours may be")
        self.assertTrue(self.again(self.unit).ours)

    def test_data_on_board_blocks_and_all_there_ticks_off(self):
        self.save("data", data_on_board="on", data_keep="on", data_note="20 MB disk, accounts of a college")
        self.assertTrue(self.again(self.unit).data_keep)
        there = self.client.get(reverse("intake:unit", args=[self.unit.number]))
        seen = there.context["not_looked_for"]
        self.assertContains(there, f'name="seen" value="{seen[0]}"')
        # What came on the list since was not looked for.
        late = self.unit.contents.create(name="Late comer", weight=1)
        self.post("intake:all-there", [self.unit.number], seen=seen)
        self.assertEqual(self.again(late).presence, "unseen")
        late.delete()
        self.assertEqual(set(self.unit.contents.values_list("presence", flat=True)), {"present"})

    def test_what_is_to_be_imaged_is_not_cleared_before(self):
        Unit.objects.filter(pk=self.unit.pk).update(data_keep=True, data_on_board=True)
        self.unit = self.hand().assess(self.unit, data_on_board=True)
        there = reverse("intake:act", args=[self.unit.number, "sanitise"])
        sent = {"how": "clear", "verified": "read back"}
        self.assertContains(self.client.post(there, sent), "to be imaged first", status_code=422)
        self.client.post(there, sent | {"imaged": "yes"})
        self.assertIsNotNone(self.again(self.unit).data_cleared_at)

    def test_a_finding_in_two_presses(self):
        page = self.post("intake:add-finding", [self.unit.number], face="screen", quick="scratch", x="0.2", y="0.7")
        self.assertRedirects(page, f"/intake/W-{self.unit.number}/#finding", fetch_redirect_response=False)
        finding = Finding.objects.get()
        self.assertEqual((finding.face, finding.kind, finding.severity, finding.words), ("screen", "scratch", 2, ""))
        for data in (
            {"face": "lid", "quick": "crack"},
            {"face": "front", "quick": "curse"},
            {"face": "front", "quick": "crack", "x": "9"},
        ):
            with self.subTest(data):
                self.client.post(f"/intake/W-{self.unit.number}/findings/", data, follow=True)
                self.assertEqual(Finding.objects.count(), 1)
        there = f"/intake/findings/{finding.pk}/change/"
        form = {f.html_name: f.value() for f in self.client.get(there).context["form"] if f.value() is not None}
        self.client.post(there, form | {"extent_mm": "34", "words": "by the tube"})
        self.assertEqual((self.again(finding).extent_mm, self.again(finding).words), (34, "by the tube"))
        self.assertContains(self.client.get(f"/intake/W-{self.unit.number}/"), "5 × 1.0 × 0.55")


class LikeTheLast(PageTest):
    def test_the_second_of_a_line_takes_over_what_like_machines_share(self):
        first, second = self.receive(2)
        with self.assertRaisesRegex(Refused, "none like it yet"):
            capture.copy_from_previous(self.owner, first)
        first = self.hand().assess(first, missing=("mouse",), place="shelf B")
        self.hand().find(first, "front", "crack", 2, "corner")
        self.post("intake:like-the-last", [second.number])
        second = self.again(second)
        self.assertEqual((second.place, second.approach, second.serial), ("shelf B", "period", ""))
        self.assertEqual(
            dict(second.contents.values_list("name", "presence")), {"keyboard": "present", "mouse": "missing"}
        )
        self.assertFalse(second.findings.exists())
        with self.assertRaisesRegex(Refused, "its looks"):
            intake.finish_intake(self.owner, second)
        self.post("intake:looked-over", [second.number])
        intake.finish_intake(self.owner, second)

    def test_it_is_like_the_one_that_stood_there_though_another_was_done_since(self):
        first, second, third = self.receive(3)
        self.hand().assess(first, place="shelf B")
        shown = self.client.get(f"/intake/W-{second.number}/").context["last"]
        self.hand().assess(third, place="shelf C")
        self.post("intake:like-the-last", [second.number], like=shown.number)
        self.assertEqual(self.again(second).place, "shelf B")
        self.post("intake:like-the-last", [second.number], like=second.number)
        self.assertEqual(self.again(second).place, "shelf B")

    def test_what_was_recorded_of_this_one_stays(self):
        """A blank of the other says nothing, and what somebody saw here is not written over."""
        first, second, third = self.receive(3)
        self.hand().assess(first, battery="unknown", drives=2, mains_variant="v220_240", data_on_board=False)
        seen = {"battery": "nicd", "data_on_board": True, "mains": "117 V"}
        Unit.objects.filter(pk=second.pk).update(**seen)
        capture.copy_from_previous(self.owner, self.again(second), first.number)
        second, third = self.again(second), self.again(third)
        self.assertEqual({name: getattr(second, name) for name in seen}, seen)
        self.assertEqual((second.drives, second.mains_variant), (2, "v220_240"))
        capture.copy_from_previous(self.owner, third, first.number)
        self.assertEqual(self.again(third).data_on_board, third.data_on_board)
        self.identify(second, drives=0, place="shelf D")
        capture.copy_from_previous(self.owner, self.again(second), first.number)
        self.assertEqual((self.again(second).drives, self.again(second).place), (0, "shelf D"))

    def test_once_it_is_known_which_it_is_only_its_own_kind_is_like_it(self):
        first, second = self.receive(2)
        other = MachineModel.objects.create(maker="Halden", name="M9", form_factor="desktop")
        self.identify(self.hand().assess(first), model=other)
        self.assertEqual(capture.last_like(second), self.again(first))
        second = self.hand().assess(second)
        self.assertIsNone(capture.last_like(second))

    def test_viewers_only_look(self):
        first, second = self.receive(2)
        self.hand().assess(first)
        for act in (
            lambda: capture.copy_from_previous(self.viewer, second),
            lambda: capture.mark_all_present(self.viewer, second, []),
        ):
            with self.assertRaises(NotAllowed):
                act()


class ReadOffAUnit(PageTest):
    def scene(self) -> None:
        super().scene()
        MachineModel.objects.filter(pk=self.model.pk).update(
            year_from=1986, year_to=1990, adapter="9 V DC, 1 A, centre minus"
        )
        SerialPattern.objects.create(maker="Halden", pattern="HM-{year:1}{week:2}{sequence:3}-{plant:2}")
        VariantRule.objects.create(maker="Halden", base=1500, at_base="v100_120", at_next="v220_240")
        (self.unit,) = self.receive()
        self.unit = Unit.objects.select_related("model").get(pk=self.unit.pk)

    def look(self, kind, typed):
        return self.client.get(f"/intake/W-{self.unit.number}/readings/", {"kind": kind, "typed": typed})

    def test_every_kind_shows_its_readings(self):
        for kind, typed, words in (
            ("date_code", "8812", "week 12 of 1988 (21 Mar – 27 Mar 1988)"),
            ("serial", "HM-712044-A1", "week 12 of 1987"),
            ("memory", "18 x 256K x 1", "512 KiB with parity"),
            ("memory", "8M + 4 x 32M", "136 MiB"),
            ("display", "256K", "640×480 at 4 bit"),
            ("approval", "D4XBL88", "grantee D4X"),
            ("signal", "15,7 60", "525 lines"),
            ("variant", "1501", "220–240 V"),
            ("adapter", "9 V AC 1 A", "never swap them"),
            ("adapter", "9 V DC 2 A centre minus", "May be used"),
        ):
            with self.subTest(kind):
                self.assertContains(self.look(kind, typed), words)

    def test_what_can_not_be_is_said_in_words(self):
        for kind, typed, words in (
            ("date_code", "9954", "no date code"),
            ("serial", "X", "No pattern"),
            ("memory", "lots", "Add them up"),
            ("signal", "fast", "line rate"),
            ("variant", "²", "without letters"),
            ("variant", "77", "No rule"),
            ("approval", "#", "letters"),
            ("tarot", "x", "what kind"),
        ):
            with self.subTest(typed):
                self.assertContains(self.look(kind, typed), words)
        self.assertEqual(self.look("memory", "").content.strip(), b"")

    def test_facts_are_kept_and_what_is_out_of_place_is_named(self):
        for kind, typed, on_what, repair in (
            ("serial", "HM-712044-A1", "", ""),
            ("date_code", "8712", "cpu", ""),
            ("date_code", "8940", "display board", ""),
            ("date_code", "8311", "rom", ""),
            ("date_code", "9310", "regulator", "yes"),
        ):
            self.post(
                "intake:keep-fact",
                [self.unit.number],
                kind=kind,
                typed=typed,
                on_what=on_what,
                repair=repair,
                choice="0",
            )
        page = self.client.get(f"/intake/W-{self.unit.number}/")
        self.assertContains(page, "dated later than the machine", count=2)
        self.assertContains(page, "old stock, or a swap", count=1)
        dating = page.context["dating"]
        self.assertEqual((dating.machine.isoformat(), dating.board.isoformat()), ("1987-03-16", "1989-10-02"))
        self.post("intake:drop-fact", [UnitFact.objects.get(on_what="rom").pk])
        self.assertEqual(UnitFact.objects.count(), 4)
        self.post("intake:keep-fact", [self.unit.number], kind="memory", typed="1M", choice="7")
        self.assertEqual(UnitFact.objects.count(), 4)

    def test_nobody_keeps_facts_who_may_not(self):
        with self.assertRaises(NotAllowed):
            read_off.keep_fact(self.viewer, self.unit, "memory", "1M", 0, "", False)


class Wanted(PageTest):
    def test_missing_things_are_wanted_until_done_without_or_gone(self):
        unit = self.assessed()
        Content.objects.filter(unit=unit, name="mouse").update(presence="missing", estimate=D(12))
        (content,) = Content.objects.filter(presence="missing")[:1]
        for nonsense in ("9" * 5000, "x" * 5000, "//evil.example/", "-1"):
            answer = self.client.post(f"/intake/wanted/{content.pk}/", {"page": nonsense, "estimate": "1e309"})
            self.assertEqual(answer["Location"], "/intake/wanted/")
        page = self.client.get("/intake/wanted/")
        self.assertContains(page, "12.00")
        mouse = Content.objects.get(unit=unit, name="mouse")
        self.post("units:estimate", [mouse.pk], estimate="7,50")
        self.assertEqual(self.again(mouse).estimate, D("7.50"))
        for nonsense in ("cheap", "-1", "nan", "99999999"):
            self.post("units:estimate", [mouse.pk], estimate=nonsense)
        self.assertEqual(self.again(mouse).estimate, D("7.50"))
        self.post("units:estimate", [mouse.pk], estimate="7.50", done_without="yes")
        self.assertContains(self.client.get("/intake/wanted/"), "Nothing is wanted")
