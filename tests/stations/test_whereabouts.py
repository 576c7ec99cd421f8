"""Where a unit stands is said where it is put down: by hand, by scanning, a whole shelf at once."""

from decimal import Decimal

from stations.common.refusals import NotAllowed, Refused
from stations.intake import settling
from stations.people.models import HistoryEntry
from stations.selling import services as selling
from stations.units import whereabouts
from tests.stations.base import AtOnce
from tests.stations.test_through_the_pages import Through


class Whereabouts(Through):
    STANDS = "assessed"

    def test_one_is_put_somewhere_else(self):
        unit = self.assessed()
        self.assertContains(self.client.get(f"/W-{unit.number}/"), f"/intake/W-{unit.number}/place/")
        there = f"/intake/W-{unit.number}/place/"
        self.assertContains(self.client.get(there), 'value="shelf"', msg_prefix="it stands there")
        self.done(self.post("units:place", [unit.number], place="  table   2 "))
        self.assertEqual(self.again(unit).place, "table 2")
        self.assertContains(self.client.get(f"/W-{unit.number}/"), "Stands at table 2, was at shelf")
        self.says(self.post("units:place", [unit.number], place=""), "Say where it stands")
        self.says(self.post("units:place", [unit.number], place="x" * 41), "41 characters, at most 40")
        before = HistoryEntry.objects.count()
        self.done(self.post("units:place", [unit.number], place="table 2"))
        self.assertEqual(HistoryEntry.objects.count(), before, "nothing happened")

    def test_a_known_place_keeps_its_spelling(self):
        one, other = self.receive(2)
        whereabouts.put(self.owner, [one], "Shelf B 2")
        whereabouts.put(self.owner, [other], "shelf b 2")
        self.assertEqual(self.again(other).place, "Shelf B 2")
        self.assertIn("Shelf B 2", whereabouts.known_places())

    def test_scanned_one_after_another(self):
        units = [self.assessed(), *self.receive(2)]
        self.assertContains(self.client.get("/intake/places/put-down/"), "say where, then scan")
        for unit in units:
            page = self.post("units:put", follow=True, place="shelf C", tag=str(unit.tag))
            self.assertContains(page, f"{unit.tag} {unit.title}: at shelf C, was at shelf.")
        self.assertContains(page, "autofocus")
        for tag, words in (
            ("W-9999", "No unit goes by W-9999"),
            ("", "Scan a tag"),
            ("banana", "No unit goes by banana. You had typed: banana"),
            (f"{units[0].tag.short}-{'A' if units[0].tag.check != 'A' else 'B'}", "wrong check character"),
        ):
            self.assertContains(self.post("units:put", follow=True, place="shelf C", tag=tag), words)
        page = self.post("units:put", follow=True, place="shelf C", tag=str(units[0].number))
        self.assertContains(page, "at shelf C, as before")
        self.assertContains(self.client.get("/intake/places/"), "shelf C")

    def test_a_whole_shelf(self):
        units = [self.assessed(), *self.receive(2)]
        whereabouts.put(self.owner, units[:2], "shelf C")
        page = self.post("units:move-all", follow=True, place="shelf C", to="shelf D")
        self.assertContains(page, "2 stand at shelf D now.")
        self.assertEqual([self.again(unit).place for unit in units], ["shelf D", "shelf D", "shelf"])
        self.assertContains(
            self.post("units:move-all", follow=True, place="shelf C", to="x"), "Nothing stands at shelf C"
        )
        self.assertContains(self.post("units:move-all", follow=True, place="shelf D", to=" "), "Say where")

    def test_what_is_sold_stands_here_until_it_goes(self):
        unit = self.listed()
        sale = selling.sell(self.seller, unit, Decimal(150), "a reader", Decimal(9))
        self.done(self.post("units:place", [unit.number], place="packing table"))
        page = self.client.get(f"/W-{unit.number}/")
        self.assertContains(page, "<dd>sold</dd>", html=True)
        self.assertContains(page, "packing table")
        self.assertContains(self.client.get("/intake/places/"), "packing table")
        self.hand().wait(days=4).hand_over(unit)
        page = self.client.get(f"/W-{unit.number}/")
        self.assertContains(page, "<dd>not here</dd>", html=True)
        self.assertNotContains(page, f"/intake/W-{unit.number}/place/")
        self.assertNotContains(self.client.get("/intake/places/"), "packing table")
        self.assertIsNotNone(self.again(sale).closed_at)

    def test_who_may_and_what_is_gone(self):
        unit = self.assessed()
        with self.assertRaises(NotAllowed):
            whereabouts.put(self.viewer, [unit], "x")
        whereabouts.put(self.seller, [unit], "packing table")
        settling.write_off(self.owner, self.again(unit), "dropped")
        with self.assertRaisesRegex(Refused, "it stands nowhere here"):
            whereabouts.put(self.owner, [unit], "x")

    def test_said_with_what_it_is_it_stands_in_the_story_too(self):
        unit = self.assessed()
        self.identify(unit, place="window")
        self.assertIn("Stands at window, was at shelf", HistoryEntry.objects.filter(action="units.note").last().words)

    def test_who_has_what_it_is_open_is_told(self):
        unit = self.assessed()
        page = self.client.get(f"/intake/W-{unit.number}/")
        form = page.context["form"]
        typed = {name: value for name, value in form.initial.items() if value is not None and value is not False}
        whereabouts.put(self.owner, [unit], "table 2")
        answer = self.post("intake:identify", [unit.number], **typed, version=unit.version)
        self.says(answer, "Somebody else saved this")
        self.assertEqual(self.again(unit).place, "table 2")


class TwoAtOnePlace(AtOnce):
    def test_both_are_told_of(self):
        (unit,) = self.receive()
        self.together(
            lambda: whereabouts.put(self.owner, [unit], "shelf A"),
            lambda: whereabouts.put(self.technician, [unit], "shelf B"),
        )
        self.assertEqual(HistoryEntry.objects.filter(action="units.note").count(), 2)
        self.assertIn(self.again(unit).place, {"shelf A", "shelf B"})
