"""Taking machines apart and closing them: the services, on the real database, and their pages."""

from datetime import timedelta
from unittest import mock

from django.urls import reverse
from django.utils import timezone

from core.catalogue.assembly_text import from_data
from stations.bench import stops
from stations.catalogue.models import MachineModel
from stations.catalogue.strip_downs import keep_for_model
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.people.models import HistoryEntry
from stations.stock.models import StockItem
from stations.workshop import in_hand, openings, strip_downs
from stations.workshop import services as workshop
from stations.workshop.models import OpenedAssembly, Opening, UnitStripDown
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from stations.workshop.strip_page import strip_page
from tests.stations.base import AtOnce, ShopTest

BOX = [
    {"name": "Lid", "layer": 0, "x": [0, 400], "minutes": [2, 3], "fasteners": "4 × M3 × 6 cross"},
    {
        "name": "Supply",
        "layer": 1,
        "x": [200, 400],
        "minutes": [4, 5],
        "ways": [["Lid"]],
        "charge": "supply",
        "plugs": "P8",
    },
    {"name": "Shield", "layer": 2, "x": [200, 400], "minutes": [3, 4], "ways": [["Supply"]], "fasteners": "2 × M3 × 6"},
    {
        "name": "Memory",
        "layer": 3,
        "x": [200, 300],
        "minutes": [1, 1],
        "ways": [["Shield"]],
        "clips": 2,
        "test": "memory test",
    },
    {"name": "Fan", "layer": 1, "x": [0, 100], "minutes": [2, 2], "ways": [["Lid"]]},
    {"name": "Strap", "layer": 3, "x": [300, 400], "minutes": [0, 1], "ways": [["Shield"]], "must_be_in": True},
]


class OpenMachine(ShopTest):
    def scene(self) -> None:
        super().scene()
        keep_for_model(self.owner, self.model, from_data(BOX))
        self.unit = self.assessed()

    def discharged(self):
        stops.discharge(self.technician, self.unit, "supply", "3")
        stops.discharge(self.technician, self.unit, "tube", silent=True)

    def opened(self, *targets: str) -> Opening:
        opening = openings.open_up(self.technician, self.unit, targets or ("Memory",))
        openings.read_cautions(self.technician, opening)
        return opening

    def now(self, opening: Opening) -> in_hand.InHand | None:
        opening.refresh_from_db()
        strip = strip_downs.strip_down_of(self.unit)
        return in_hand.in_hand(strip, opening, in_hand.rows_of(opening, strip))

    def press(self, opening: Opening, times: int = 1) -> None:
        for _ in range(times):
            openings.do_thing(self.technician, opening, self.now(opening).mark)

    def press_all(self, opening: Opening) -> None:
        while self.now(opening):
            self.press(opening)

    def row(self, opening: Opening, name: str) -> OpenedAssembly:
        return opening.assemblies.get(name=name)

    def back_one(self, opening: Opening) -> None:
        opening = self.again(opening)
        openings.back_one(self.technician, opening, in_hand.mark_of_last(opening, opening.assemblies.all()))

    def refused(self, words: str, act, *args, field: str = "", **named) -> None:
        with self.assertRaisesRegex(Refused, words) as caught:
            act(self.technician, *args, **named)
        self.assertEqual(caught.exception.field or "", field)


class WhatCanNotBe(OpenMachine):
    def test_a_way_to_nothing(self):
        self.refused("There is no engine in it", openings.open_up, self.unit, ["engine"], field="targets")

    def test_names_that_are_not_in_it(self):
        opening = self.opened()
        for act, args in (
            (openings.keep_note, ("engine", "loud")),
            (openings.photograph, ("engine", None)),
            (openings.note_odd, ("engine",)),
        ):
            self.refused("There is no engine in it", act, opening, *args)
        self.refused("No test is due there", openings.pass_test, opening, "Lid")
        self.refused("is not off", openings.close_anyway, opening, "Lid", "never mind")

    def test_nothing_to_take_back_and_nothing_to_put_on(self):
        opening = self.opened()
        self.refused("Nothing is off yet", openings.turn, opening, True)
        self.press_all_of("Lid", opening)
        openings.turn(self.technician, opening, True)
        self.refused("Nothing went back on yet", openings.back_one, opening, "")

    def test_half_done_is_finished_or_taken_back_first(self):
        opening = self.opened()
        self.press(opening)
        self.refused("half done", openings.turn, opening, True)
        self.back_one(opening)
        self.refused("Nothing is off yet", openings.turn, opening, True)

    def test_notes_and_counts_that_are_too_long_or_wrong(self):
        opening = self.opened()
        self.refused("200 characters at most", openings.keep_note, opening, "Lid", "x" * 201, field="note")
        self.refused("160 characters at most", openings.note_odd, opening, "Lid", odd="x" * 161, field="odd")
        self.refused("120 characters at most", openings.note_odd, opening, "Lid", broke="x" * 121, field="broke")
        openings.keep_note(self.technician, opening, "Lid", "a clip at the left")
        self.assertEqual(self.row(opening, "Lid").note, "a clip at the left")
        openings.keep_note(self.technician, opening, "Lid", "")
        self.assertEqual(self.row(opening, "Lid").note, "")

    def press_all_of(self, name: str, opening: Opening) -> None:
        while (hand := self.now(opening)) and hand.assembly.name == name:
            self.press(opening)


class WayIn(OpenMachine):
    def test_screw_by_screw_to_what_was_wanted(self):
        self.discharged()
        opening = self.opened()
        said = []
        while now := self.now(opening):
            said.append(now.thing.said)
            self.press(opening)
        self.assertEqual(said[:4], ["First is out", "Second is out", "Third is out", "Fourth is out, all 4"])
        self.assertEqual(said[4:], ["P8 is out", "First is out", "Second is out", "All 2 clips are open"])
        rows = {row.name: row for row in opening.assemblies.all()}
        self.assertEqual([rows[n].tray for n in ("Lid", "Supply", "Shield", "Memory")], [1, 2, 3, 4])
        self.assertTrue(all(row.is_off and row.off_by == self.technician for row in rows.values()))

    def test_a_second_press_or_somebody_else_does_not_count_as_the_next(self):
        opening = self.opened()
        mark = self.now(opening).mark
        openings.do_thing(self.technician, opening, mark)
        with self.assertRaisesRegex(Refused, "done already. Next: Second is out"):
            openings.do_thing(self.owner, opening, mark)

    def test_the_cautions_come_before_the_first_fastener(self):
        opening = openings.open_up(self.technician, self.unit, ["Lid"])
        with self.assertRaisesRegex(Refused, "unplugged"):
            openings.do_thing(self.technician, opening, self.now(opening).mark)

    def test_a_supply_stays_shut_until_it_was_discharged_since_the_last_power_and_today(self):
        opening = self.opened()
        self.press(opening, 4)
        with self.assertRaisesRegex(Refused, "PSU was not discharged and measured here yet"):
            self.press(opening)
        with clock.at(timezone.now() - timedelta(days=1)):
            self.discharged()
        with self.assertRaisesRegex(Refused, "on another day"):
            self.press(opening)
        self.discharged()
        power = mock.patch("stations.bench.power.last_power", return_value=timezone.now() + timedelta(minutes=1))
        with power, self.assertRaisesRegex(Refused, "since it last had power"):
            self.press(opening)
        self.press(opening)
        self.assertTrue(self.row(opening, "Supply").is_off)

    def test_back_one_takes_the_last_back_step_by_step(self):
        opening = self.opened("Fan")
        self.press(opening, 5)
        self.assertIsNone(self.now(opening))
        for left in ("Fan is off", "Fourth is out, all 4", "Third is out"):
            self.back_one(opening)
            self.assertEqual(self.now(opening).thing.said, left)
        self.back_one(opening)
        self.back_one(opening)
        with self.assertRaisesRegex(Refused, "Nothing came off yet"):
            self.back_one(opening)

    def test_short_at_arrival(self):
        opening = self.opened("Fan")
        self.press(opening, 3)
        openings.note_odd(self.technician, opening, "Lid", found=[3], odd="tape for the fourth")
        self.assertTrue(self.row(opening, "Lid").is_off, "the last that was there is out")
        page = strip_page(opening)
        self.assertEqual((page.short, page.out, page.hand.assembly.name), (1, 3, "Fan"))
        for wrong in ([5], [-1], [1], [1, 1]):
            with self.assertRaises(Refused) as refused:
                openings.note_odd(self.technician, opening, "Lid", found=wrong)
            self.assertEqual(refused.exception.field, "found")

    def test_a_tray_of_ones_own_choice_but_never_with_look_alikes(self):
        self.discharged()
        opening = self.opened("Shield")
        self.press(opening, 6)
        with self.assertRaises(Refused) as refused:
            OpenedAssembly.objects.filter(name="Lid").update(tray=7)
            rows = [row | {"fasteners": "2 × M3 × 8"} if row["name"] == "Shield" else row for row in BOX]
            UnitStripDown.objects.update(assemblies=rows)
            openings.note_odd(self.technician, opening, "Shield", tray=7)
        self.assertEqual(refused.exception.field, "tray")
        openings.note_odd(self.technician, opening, "Shield", tray=9)
        self.assertEqual(self.row(opening, "Shield").tray, 9)

    def test_where_the_like_of_a_short_screw_lie(self):
        StockItem.objects.create(name="Screw M3 × 6, cross", drawer="B4", quantity=38)
        (other,) = self.receive()
        there = openings.open_up(self.technician, other, ["Lid"])
        openings.read_cautions(self.technician, there)
        for _ in range(4):
            strip = strip_downs.strip_down_of(other)
            rows = in_hand.rows_of(there, strip)
            openings.do_thing(self.technician, there, in_hand.in_hand(strip, there, rows).mark)
        opening = self.opened("Fan")
        self.press(opening, 2)
        openings.note_odd(self.technician, opening, "Lid", found=[3])
        likes = [one.where for one in strip_page(opening).likes]
        self.assertEqual(likes, ["38 Screw M3 × 6, cross in drawer B4", f"4 M3 × 6 cross in {other.tag}, tray 1"])
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("workshop:strip", args=[opening.unit.number]))
        self.assertContains(page, f"{likes[0]}; {likes[1]}.")

    def test_put_right_while_it_stands_open(self):
        opening = self.opened("Fan")
        self.press(opening, 4)
        strip = strip_downs.strip_down_of(self.unit)
        with self.assertRaisesRegex(Refused, "Lid is off and lies in a tray"):
            strip_downs.take_out(self.technician, self.unit, "Lid")
        # Another kind of screw, another name: what is off stays off, under its new name.
        rows = [row | {"name": "Top"} if row["name"] == "Lid" else row for row in BOX]
        rows = [row | {"ways": [["Top"]]} if row.get("ways") == [["Lid"]] else row for row in rows]
        rows[0] = rows[0] | {"fasteners": "2 × M3 × 6; 3 × M4 × 8"}
        self.assertIn("Lid", strip.assemblies)
        strip_downs.put_right(self.technician, self.unit, from_data(rows), 1, "Lid", "Top")
        page = strip_page(self.again(opening))
        self.assertEqual((page.hand.assembly.name, page.trays[0].assembly.name, page.out), ("Fan", "Top", 5))
        # The model that is put right meanwhile changes nothing here.
        keep_for_model(self.owner, self.model, from_data(BOX[:1]))
        self.press_all(opening)
        openings.turn(self.technician, opening, True)
        self.press_all(opening)
        self.assertIsNotNone(self.again(opening).closed_at)

    def test_something_more_on_the_way(self):
        opening = self.opened("Fan")
        self.press(opening, 4)
        openings.reach_also(self.technician, opening, "Supply")
        self.assertIn(self.now(opening).assembly.name, {"Supply", "Fan"})
        self.assertEqual(opening.targets, ["Fan", "Supply"])
        self.assertEqual(set(opening.steps), {"Lid", "Fan", "Supply"})
        with self.assertRaisesRegex(Refused, "no Roof"):
            openings.reach_also(self.technician, opening, "Roof")

    def test_one_opening_at_a_time_by_those_who_may(self):
        self.opened()
        with self.assertRaisesRegex(Refused, "open already"):
            openings.open_up(self.technician, self.unit, ["Lid"])
        with self.assertRaises(NotAllowed):
            openings.open_up(self.viewer, self.unit, ["Lid"])

    def test_what_there_is_not_is_not_reached(self):
        with self.assertRaisesRegex(Refused, "no Roof"):
            openings.open_up(self.technician, self.unit, ["Roof"])
        with self.assertRaisesRegex(Refused, "Choose"):
            openings.open_up(self.technician, self.unit, [])

    def test_work_on_the_way_says_what_it_costs_now_and_later(self):
        data = NewJob(kind="clean", title="Oil the fan", estimate_minutes=8, assembly="Fan")
        workshop.open_job(self.technician, self.unit, data)
        (work,) = strip_page(self.opened("Memory")).work
        # Fan 2 + 2 on the way; from closed the lid comes off and on too, 2 + 3.
        self.assertEqual((work.also.now, work.also.later, work.in_reach), (4, 9, False))


class WayBack(OpenMachine):
    def scene(self) -> None:
        super().scene()
        self.discharged()
        self.opening = self.opened("Memory", "Strap")
        self.press_all(self.opening)
        openings.turn(self.technician, self.opening, True)

    def test_everything_goes_on_again_and_it_is_closed(self):
        self.press_until("Shield")
        openings.pass_test(self.technician, self.opening, "Memory")
        self.press_all(self.opening)
        self.opening.refresh_from_db()
        self.assertIsNotNone(self.opening.closed_at)
        self.assertIsNone(self.opening.open_for)
        self.assertFalse(any(row.is_off for row in self.opening.assemblies.all()))
        with self.assertRaisesRegex(Refused, "closed again"):
            self.back_one(self.opening)
        # It may be opened again, from the beginning.
        self.opened("Fan")

    def press_until(self, name: str) -> None:
        while self.now(self.opening).assembly.name != name:
            self.press(self.opening)

    def test_the_test_is_due_before_the_shield(self):
        self.press_until("Shield")
        with self.assertRaisesRegex(Refused, "Don’t close Shield yet: Due before it closes: memory test"):
            self.press(self.opening)
        page = strip_page(self.opening)
        self.assertEqual(
            ([one.words for one in page.unsettled], page.tests), (["Due before it closes: memory test"], ("Memory",))
        )
        # Lid, supply, shield and memory, off and on.
        self.assertEqual(page.too_soon, 5 + 9 + 7 + 2)
        openings.close_anyway(self.technician, self.opening, "Shield", "the tester is lent out")
        self.press(self.opening)
        self.assertEqual(self.row(self.opening, "Shield").closed_over, "the tester is lent out")
        self.assertTrue(
            HistoryEntry.objects.filter(action="workshop.close_anyway", words__contains="memory test").exists()
        )

    def test_no_reason_closes_over_an_earth_strap(self):
        OpenedAssembly.objects.filter(opening=self.opening, name="Memory").update(on_at=timezone.now())
        with mock.patch("stations.workshop.in_hand.back_order", return_value=["Shield", "Strap"]):
            with self.assertRaisesRegex(Refused, "Strap is missing"):
                self.press(self.opening)
            with self.assertRaisesRegex(Refused, "no reason closes over it"):
                openings.close_anyway(self.technician, self.opening, "Shield", "in a hurry")

    def test_an_open_job_beneath_holds_the_cover(self):
        data = NewJob(kind="repair", title="Solder the link", estimate_minutes=9, assembly="Memory")
        job = workshop.open_job(self.technician, self.unit, data)
        self.press_until("Shield")
        openings.pass_test(self.technician, self.opening, "Memory")
        with self.assertRaisesRegex(Refused, "Solder the link"):
            self.press(self.opening)
        workshop.finish_job(self.technician, job, JobResult("soldered"))
        self.press(self.opening)

    def test_more_screws_in_than_belong_there(self):
        self.press_until("Shield")
        openings.pass_test(self.technician, self.opening, "Memory")
        with self.assertRaises(Refused) as refused:
            openings.note_odd(self.technician, self.opening, "Shield", added=[1])
        self.assertEqual((refused.exception.field, "at most 0 more" in refused.exception.message), ("added", True))

    def test_a_screw_from_elsewhere_goes_in_too(self):
        OpenedAssembly.objects.filter(opening=self.opening, name="Shield").update(found=[1])
        self.press_until("Shield")
        openings.pass_test(self.technician, self.opening, "Memory")
        self.assertEqual(len(self.now(self.opening).things), 2)
        openings.note_odd(self.technician, self.opening, "Shield", added=[1])
        self.assertEqual(len(self.now(self.opening).things), 3)

    def test_never_turned_with_something_half_on(self):
        self.press_until("Shield")
        openings.pass_test(self.technician, self.opening, "Memory")
        self.press(self.opening)
        with self.assertRaisesRegex(Refused, "Shield is half done"):
            openings.turn(self.technician, self.opening, False)
        self.back_one(self.opening)
        openings.turn(self.technician, self.opening, False)
        self.opening.refresh_from_db()
        self.assertFalse(self.opening.going_back)

    def test_what_went_on_too_soon_comes_off_again_from_the_beginning(self):
        self.press_until("Shield")
        openings.turn(self.technician, self.opening, False)
        self.assertEqual({self.now(self.opening).assembly.name} - {"Memory", "Strap"}, set())
        self.press_all(self.opening)
        row = self.row(self.opening, "Memory")
        self.assertTrue(row.is_off)
        self.assertEqual(row.on_done, 0)


class TwoPeople(AtOnce):
    def test_the_same_screw_comes_out_once(self):
        keep_for_model(self.owner, MachineModel.objects.get(), from_data(BOX))
        unit = self.assessed()
        opening = openings.open_up(self.technician, unit, ["Fan"])
        openings.read_cautions(self.technician, opening)
        mark = in_hand.in_hand(strip_downs.strip_down_of(unit), opening, {}).mark
        ends = self.together(
            lambda: openings.do_thing(self.technician, opening, mark),
            lambda: openings.do_thing(self.owner, opening, mark),
        )
        self.assertEqual(sorted(map(str, ends)), ["None", "That was done already. Next: Second is out."])
        self.assertEqual(OpenedAssembly.objects.get().off_done, 1)
