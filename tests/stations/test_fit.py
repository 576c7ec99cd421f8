"""What fits, through the pages: sheets typed and kept, a check, an unknown answered, settings taken, memory, ways."""

from datetime import date
from decimal import Decimal as D

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from core.catalogue.fit.answers import Answer, Side
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import read_sheet
from core.stock.parts import Condition, PartKind
from stations.bench import faults
from stations.bench import services as bench
from stations.catalogue import fit_sheets
from stations.catalogue.models import MachineModel, PartSheet, Tried
from stations.common.refusals import Refused
from stations.stock import services as stock
from stations.stock.services import Sort
from stations.units import fitting as units
from stations.units import parts
from stations.units.models import Unit, UnitFit
from stations.units.parts import Described, Place
from stations.workshop import fitting
from stations.workshop.models import Job, Reservation, Setting
from tests.core.fit_examples import PARTS, said
from tests.core.fit_examples import D as OFFERS
from tests.core.test_fit_rules import CHIP, DISK, SCREEN, STICK
from tests.stations.test_through_the_pages import Through

NET = "cards\n c: bus 16-bit; length 160; height 99; fastest 10\nuses\n J1: irq 10; now 10\ndraws\n +5: amps 0.5"
SCSI = PARTS + "firmware\n U9: wants 2.0; less sees only the first 1 GiB\n"


class Fit(Through):
    def scene(self) -> None:
        super().scene()
        fit_sheets.keep_offers(self.owner, self.model, read_sheet(Offers, OFFERS))
        self.unit = self.assessed("enhanced")
        units.say_whole(self.owner, self.unit, True)
        self.card = self.sheet("SCSI host card", SCSI)
        self.sheet("Network card", NET)

    def sheet(self, name: str, text: str) -> PartSheet:
        return fit_sheets.keep_needs(self.owner, None, name, read_sheet(Needs, text))

    def inside(self, name: str, slot: str, kind: PartKind = PartKind.CARD) -> None:
        described = Described(kind, name, keeps_data=False)
        parts.record_part(self.owner, Place(self.unit, slot), described)

    def address(self, sheet: PartSheet | None = None) -> str:
        return f"/workshop/W-{self.unit.number}/fits/{(sheet or self.card).pk}/"

    def verdict(self, sheet: PartSheet | None = None):
        return units.verdict_of(units.machine_of(self.again(self.unit)), self.unit, self.again(sheet or self.card))


class Check(Fit):
    def test_a_part_is_checked_answered_set_and_reserved(self):
        self.inside("Network card", "3")
        page = self.client.get(self.address())
        self.assertContains(page, "Not known yet: firmware. Otherwise it fits, with J4 moved from 10 to 11.")
        self.assertContains(page, "below 2.0 it sees only the first 1 GiB")
        self.assertContains(page, "settles firmware")
        ask = next(iter(self.verdict().asks))
        answer = self.post("workshop:fit-answer", [self.unit.number, self.card.pk], ask=ask.code, answer="2.1")
        self.done(answer)
        self.assertEqual(self.verdict().sentence, "Fits, with J4 moved from 10 to 11.")
        self.done(self.post("workshop:fit-settings", [self.unit.number, self.card.pk]))
        row = Setting.objects.get(unit=self.unit)
        self.assertEqual((row.name, row.was, row.set_to), ("SCSI host card J4", "10", "11"))
        stock.stock_part(self.owner, Sort("SCSI host card", "tested", "D3"), "1", D(24))
        self.done(self.post("workshop:fit-reserve", [self.unit.number, self.card.pk]))
        job = Job.objects.get(unit=self.unit)
        self.assertEqual(
            (job.title, Reservation.objects.get(job=job).item.name), ("Fit SCSI host card", "SCSI host card")
        )
        with self.assertRaisesRegex(Refused, "No SCSI host card is free"):
            fitting.reserve_for(self.owner, self.unit, self.card)

    def test_a_setting_counts_once_the_card_is_in(self):
        """The sheet of settings, not what a card is set to as it comes, says what it takes."""
        self.inside("SCSI host card", "3")
        Setting.objects.create(
            unit=self.unit, name="SCSI host card J4", kind="other", was="10", set_to="11",
            seen_at=self.unit.assessed_at, seen_by=self.owner,
        )  # fmt: skip
        taken = {by: number for number, by, _ in units.machine_of(self.unit).taken("irq")}
        self.assertEqual(taken["SCSI host card"], "11")

    def test_two_cards_of_a_name_are_set_each_by_itself(self):
        name = "A card whose maker gave it quite a long name, with its size and width in it"
        self.sheet(name, NET.replace("irq 10; now 10", "irq 10, 11; now 10"))
        self.inside(name, "1")
        self.inside(name, "2")
        self.done(self.post("workshop:set-all", [self.unit.number]))
        row = Setting.objects.get(unit=self.unit)
        self.assertIn(row.name, {f"{name} in {slot} J1" for slot in "12"})
        taken = sorted(number for number, _, _ in units.machine_of(self.unit).taken("irq"))
        self.assertEqual(taken, ["10", "11", "6", "8"])

    def test_what_can_t_be_answered_so_is_said(self):
        ask = next(iter(self.verdict().asks))
        post = lambda **data: self.client.post(  # noqa: E731
            reverse("workshop:fit-answer", args=[self.unit.number, self.card.pk]), data, follow=True
        )
        for typed, words in (("soon", "a version such as"), ("", "Say which version it has"), ("9" * 5000, "version")):
            self.assertContains(post(ask=ask.code, answer=typed), words)
        self.assertContains(post(ask="machine|slots|9|bus|", answer="8-bit"), "answered meanwhile")
        self.assertContains(post(ask="x", answer="y"), "answered meanwhile")

    def test_two_who_answer_meet(self):
        fit_sheets.answer_part(self.owner, "SCSI host card", "firmware", "U9", "version", "2.1")
        fit_sheets.answer_part(self.owner, "SCSI host card", "firmware", "U9", "version", "2.1")
        with self.assertRaisesRegex(Refused, "answered this meanwhile"):
            fit_sheets.answer_part(self.owner, "SCSI host card", "firmware", "U9", "version", "1.0")

    def test_an_answer_for_this_one_only_leaves_the_model_alone(self):
        fit_sheets.keep_offers(self.owner, self.model, read_sheet(Offers, said(OFFERS, "; board 11.2", "")))
        ask = next(one for one in self.verdict().asks if one.side is Side.MACHINE)
        sent = {"ask": ask.code, "answer": "7", "whose": "unit"}
        self.done(self.post("workshop:fit-answer", [self.unit.number, self.card.pk], **sent))
        self.assertIsNone(fit_sheets.offers_of(self.model).rails[0].board)
        self.assertEqual(units.unit_offers(self.unit).rails[0].board, D(7))
        self.assertEqual(UnitFit.objects.get(unit=self.unit).offers.keys(), {"rails"})
        other = self.assessed()
        self.assertIsNone(units.unit_offers(other).rails[0].board)
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/fits/"), "This one’s own: rails.")
        self.done(self.post("workshop:as-its-model", [self.unit.number], group="rails"))
        self.assertIsNone(units.unit_offers(self.unit).rails[0].board)
        with self.assertRaisesRegex(Refused, "as its model there"):
            units.as_its_model(self.owner, self.unit, "rails")

    def test_what_is_not_treated_yet_is_asked_where_it_is_chosen(self):
        (self.unit,) = self.receive()
        Unit.objects.filter(pk=self.unit.pk).update(model=self.model)
        board = self.sheet("Board", NET + "\nchanges\n it: reversible yes; modern no")
        self.assertContains(self.client.get(self.address(board)), "Choose it at intake")

    def test_many_rules_fold_what_simply_fits(self):
        both = self.sheet("Board with a disk", NET + "\n" + DISK + "\ntakes\n drive: count 1")
        page = self.client.get(self.address(both))
        self.assertContains(page, "more fit</summary>")
        self.assertEqual({one.answer for one in page.context["folded"]}, {Answer.FITS})

    def test_nothing_known_is_never_a_fit(self):
        bare = MachineModel.objects.create(maker="Pellmark", name="9", form_factor="desktop")
        Unit.objects.filter(pk=self.unit.pk).update(model=bare)
        self.unit = self.again(self.unit)
        page = self.client.get(self.address())
        self.assertContains(page, "Not known yet: firmware, rails, connectors, bus and slot")
        self.assertContains(page, "Say it for the model")
        Unit.objects.filter(pk=self.unit.pk).update(model=None)
        self.assertContains(self.client.get(self.address()), "Which model it is comes first")

    def test_what_nobody_wrote_down_may_be_in_it(self):
        self.done(self.post("workshop:whole", [self.unit.number], whole="no", there=self.address()))
        page = self.client.get(self.address())
        self.assertContains(page, "look inside, then say so")
        self.assertIn("what is in it", self.verdict().sentence)
        answer = self.post("workshop:whole", [self.unit.number], whole="yes", there="https://elsewhere.example/")
        self.assertEqual(self.done(answer), f"/workshop/W-{self.unit.number}/fits/")
        self.assertNotIn("what is in it", self.verdict().sentence)

    def test_what_does_not_fit_is_not_reserved(self):
        wrong = self.sheet("Card, PCI", "cards\n c: bus PCI 32; length 1; height 1; fastest 33\ndraws\n +5: amps 1")
        stock.stock_part(self.owner, Sort("Card, PCI", "tested", "D3"), "1", D(4))
        self.assertNotContains(self.client.get(self.address(wrong)), "Reserve for")
        with self.assertRaisesRegex(Refused, "PCI 32 does not go into"):
            fitting.reserve_for(self.owner, self.unit, wrong)

    def test_a_hazard_stands_on_the_page(self):
        screen = self.sheet("Screen", said(SCREEN, "line 15.6 to 15.8", "line 18 to 19"))
        self.assertContains(self.client.get(self.address(screen)), "It can destroy the screen: don’t switch on.")

    def test_evidence_is_shown_with_who_and_when(self):
        data = {"model": self.model.pk, "runs": "False", "who": "E. Norr", "on": "2026-03-14", "part_version": "1.0"}
        self.done(self.post("catalogue:keep-tried", [self.card.pk], **data | {"region": "230 V, 50 Hz"}))
        page = self.client.get(self.address())
        self.assertContains(page, "E. Norr, 14 March 2026: 1.0 refused")
        self.assertEqual(self.verdict().answer, Answer.UNKNOWN)
        self.says(
            self.post("catalogue:keep-tried", [self.card.pk], **data | {"runs": "", "who": ""}), "Say who tried it."
        )
        self.done(self.post("catalogue:drop-tried", [Tried.objects.get().pk]))
        self.assertNotContains(self.client.get(self.address()), "E. Norr")

    def test_no_proposal_where_none_exists(self):
        self.inside("Network card", "3")
        stuck = self.sheet(
            "Stuck",
            "cards\n c: bus 8-bit; length 9; height 9; fastest 9\nuses\n J1: irq 10; now 10\ndraws none".replace(
                "draws none", ""
            ),
        )
        page = self.client.get(self.address(stuck))
        self.assertContains(page, "no interrupt it can be set to can be made free")
        with self.assertRaisesRegex(Refused, "two of them clash"):
            fitting.take_settings(self.owner, self.unit, stuck)


class Lists(Fit):
    def test_what_clashes_in_it_is_set_right(self):
        self.inside("Network card", "3")
        self.inside("SCSI host card", "2")
        page = self.client.get(f"/workshop/W-{self.unit.number}/fits/")
        self.assertContains(page, "in it now: interrupt")
        self.done(self.post("workshop:set-all", [self.unit.number]))
        self.assertEqual(Setting.objects.get(unit=self.unit).set_to, "11")
        self.assertNotContains(self.client.get(f"/workshop/W-{self.unit.number}/fits/"), "in it now")
        answer = self.client.post(reverse("workshop:set-all", args=[self.unit.number]), follow=True)
        self.assertContains(answer, "Nothing has to be moved.")

    def test_what_fits_is_listed_and_narrowed_down(self):
        self.sheet("Memory", STICK + "\ndraws\n +5: amps 0.1")
        page = self.client.get(f"/workshop/W-{self.unit.number}/fits/")
        self.assertContains(page, "Fits, with 1 more like it.")
        self.assertContains(page, "Network card")
        only = self.client.get(f"/workshop/W-{self.unit.number}/fits/?show=with")
        self.assertContains(only, "Memory")
        self.assertNotContains(only, "Network card")
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/fits/?q=zzz"), "No sheet of such a part")

    def test_what_limits_it(self):
        page = self.client.get(f"/workshop/W-{self.unit.number}/fits/?use=period+games")
        # All that is in it is written down, so that its memory sockets are empty.
        self.assertContains(page, "The memory: 0 B of 4 MiB. Not known: processor, drive.")

    def test_it_asks_as_often_however_much_is_in_it(self):
        self.inside("Network card", "3")
        address = f"/workshop/W-{self.unit.number}/fits/"
        self.client.get(address)
        with CaptureQueriesContext(connection) as few:
            self.client.get(address)
        for n in range(8):
            self.sheet(f"Module {n}", STICK + "\ndraws\n +5: amps 0")
            self.inside(f"Module {n}", f"M{n}", PartKind.MODULE)
        with self.assertNumQueries(len(few)):
            self.client.get(address)

    def test_a_stretched_socket(self):
        self.done(self.post("workshop:stretched", [self.unit.number], socket="processor", stretched="yes"))
        chip = self.sheet("Chip", CHIP + "\ndraws\n +5: amps 1")
        self.assertIn("stretched by thicker pins", self.verdict(chip).sentence)
        self.done(self.post("workshop:stretched", [self.unit.number], socket="processor", stretched="no"))
        self.assertEqual(self.verdict(chip).answer, Answer.FITS)
        self.sheet("Upgrade board", said(CHIP, "thick pins no", "thick pins yes"))
        self.inside("Upgrade board", "processor", PartKind.CHIP)
        self.assertEqual(UnitFit.objects.get(unit=self.unit).stretched, ["processor"])


class WhichOfMine(Fit):
    def test_drawers_single_parts_and_donors_are_ranked(self):
        for size in (256, 512, 1024):
            text = said(NET, "fastest 10", f"fastest 10; display {size} KiB").replace(
                "irq 10; now 10", "irq 11; now 11"
            )
            self.sheet(f"Display card {size}", text)
        stock.stock_part(self.owner, Sort("Display card 256", "tested", "D1"), "2", D(8))
        stock.stock_part(self.owner, Sort("Display card 512", "faulty", "D2"), "1", D(8))
        donor = self.assessed("donor")
        parts.record_part(
            self.owner, Place(donor, "2"), Described(PartKind.CARD, "Display card 1024", keeps_data=False)
        )
        bought = Described(PartKind.CARD, "Display card 512", condition=Condition.TESTED)
        parts.buy_part(self.owner, bought, D(9), "D9")
        address = f"/workshop/W-{self.unit.number}/fits/which/?use=period+games"
        page = self.client.get(address)
        named = [one.sheet.name for one in page.context["page"]]
        self.assertEqual(named, ["Display card 1024", "Display card 512", "Display card 256"])
        self.assertContains(page, "display memory 256 KiB → 1 MiB")
        self.assertContains(page, f"in {donor.tag}")
        self.assertContains(page, "2 in drawer D1")
        self.assertContains(page, "adds nothing for this use")
        self.assertNotContains(page, "drawer D2")
        best = PartSheet.objects.get(name="Display card 1024")
        seen = Tried(sheet=best, model=self.model, runs=False, who="E. Norr", on=date(2026, 3, 14))
        fit_sheets.keep_tried(self.owner, seen)
        self.assertContains(self.client.get(address), "Not known yet: whether it runs")
        with CaptureQueriesContext(connection) as few:
            self.client.get(address)
        for n in range(8):
            self.sheet(f"Card {n}", NET)
            stock.stock_part(self.owner, Sort(f"Card {n}", "tested", "D1"), "1", D(1))
        with self.assertNumQueries(len(few)):
            self.client.get(address)


class Memory(Fit):
    def test_filled_slot_by_slot_and_the_bad_one_found(self):
        for make in ("K4", "M7"):
            self.sheet(f"Module {make}", said(STICK, "make K4", f"make {make}"))
        for make, slot in (("K4", "A1"), ("M7", "A2"), ("K4", "B1"), ("M7", "B2")):
            self.inside(f"Module {make}", slot, PartKind.MODULE)
        address = f"/workshop/W-{self.unit.number}/fits/memory/"
        page = self.client.get(address)
        self.assertContains(page, "16 MiB in all")
        self.assertEqual(page.context["plan"].filling.moved, 2)
        self.assertContains(page, "2 starts at most" if page.context["node"].starts == 2 else "1 start at most")
        node = page.context["node"]
        failed = self.client.get(f"{address}?found=f")
        self.assertEqual(set(failed.context["node"].suspects), set(node.put_in))
        self.assertContains(failed, "They only go in together")
        self.assertEqual(self.client.get(f"{address}?found=" + "pfx" * 40).status_code, 200)
        more = PartSheet.objects.get(name="Module K4")
        self.assertContains(self.client.get(f"{address}?with={more.pk}"), "another like it: ")
        self.assertContains(self.client.get(f"{address}?with={more.pk}"), f"found=p&amp;with={more.pk}")
        self.assertContains(self.client.get(f"{address}?found=p&with={more.pk}"), "Back one")

    def test_a_wrong_filling_is_a_suspect_with_its_words(self):
        for make in ("K4", "M7"):
            self.sheet(f"Module {make}", said(STICK, "make K4", f"make {make}"))
            self.inside(f"Module {make}", "A1" if make == "K4" else "A2", PartKind.MODULE)
        case = faults.open_case(self.owner, self.again(self.unit), "beeps")
        self.assertIn("does not fit: memory, filling: A1 and A2 go in together and are not alike", case.known)

    def test_without_data_it_says_what_is_not_known(self):
        self.assertContains(
            self.client.get(f"/workshop/W-{self.assessed().number}/fits/memory/"), "No module is written down"
        )
        fit_sheets.keep_offers(self.owner, self.model, Offers())
        page = self.client.get(f"/workshop/W-{self.unit.number}/fits/memory/")
        self.assertContains(page, "Nobody said which memory sockets it has.")


class Bench(Fit):
    def test_a_clash_raises_the_odds_with_its_number(self):
        self.inside("Network card", "3")
        self.inside("SCSI host card", "2")
        with_clash = faults.open_case(self.owner, self.again(self.unit), "beeps")
        without = faults.open_case(self.owner, self.assessed(), "beeps")
        self.assertTrue(any("J4 moved from 10 to 11" in words for words in with_clash.known))
        odds = [dict(zip((code for code, _ in c.suspects), c.now, strict=True))["card"] for c in (with_clash, without)]
        self.assertGreater(odds[0], odds[1])

    def test_the_plan_measures_the_rails_there_are(self):
        run = bench.start_run(self.owner, self.again(self.unit))
        codes = {check.code for check in bench.plan_of(run)}
        self.assertIn("supply-12v", codes)
        fit_sheets.keep_offers(
            self.owner,
            self.model,
            read_sheet(Offers, said(said(OFFERS, "+12: amps 8", "+15: amps 2"), "drive: count 2", "own: count 2")),
        )
        plan = bench.plan_of(bench.start_run(self.owner, self.assessed()))
        self.assertNotIn("supply-12v", {check.code for check in plan})
        rail = next(check for check in plan if check.code == "rail+15")
        self.assertEqual((rail.limits.low, rail.limits.high), (D("14.25"), D("15.75")))

    def test_the_list_proposes_what_to_look_for(self):
        page = self.client.get(f"/intake/W-{self.unit.number}/")
        self.assertContains(page, "drive, lower bay")
        self.done(self.post("intake:look-for", [self.unit.number], name="drive, lower bay"))
        self.assertEqual(self.unit.contents.get(name="drive, lower bay").presence, "unseen")
        self.post("intake:look-for", [self.unit.number], name="a dragon")
        self.assertFalse(self.unit.contents.filter(name="a dragon").exists())
