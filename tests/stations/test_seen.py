"""What nobody recorded is said where it is seen: at a check, while it is packed; and not twice."""

from dataclasses import replace
from decimal import Decimal
from io import StringIO

from django.core.management import call_command
from django.urls import reverse

from core.bench.plan import Outcome
from stations.bench import library
from stations.bench import services as bench
from stations.catalogue import weaknesses
from stations.catalogue.models import Weakness
from stations.common.details import as_kept
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import parcels
from stations.people.models import HistoryEntry
from stations.units import seen
from tests.stations.test_dispatch import DispatchTest
from tests.stations.test_through_the_pages import Through

D = Decimal


class AtACheck(Through):
    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed(battery="unknown", mains_variant="unknown")

    def test_the_battery_is_said_before_its_gate_opens(self):
        run = self.hand().test(self.unit, stop_at="look-battery")
        there = reverse("bench:unit", args=[self.unit.number]) + "?step=look-battery"
        self.assertContains(self.client.get(there), "Battery: not recorded.")
        with self.assertRaisesRegex(Refused, "battery is in it is not recorded"):
            bench.record_result(self.owner, run, "look-battery", Outcome.PASS)
        answer = self.post("bench:seen", [self.unit.number, "look-battery"], fact="battery", answer="lithium")
        self.assertEqual(self.done(answer), there)
        self.assertEqual(self.again(self.unit).battery, "lithium")
        self.assertNotContains(self.client.get(there), "Battery: not recorded.")
        bench.record_result(self.owner, run, "look-battery", Outcome.PASS)
        self.assertTrue(
            HistoryEntry.objects.filter(subject_id=self.unit.pk, words="Battery, as seen: lithium cell").exists()
        )

    def test_what_is_recorded_is_not_said_over(self):
        seen.say(self.technician, self.unit, "mains", "v220_240")
        with self.assertRaisesRegex(Refused, "somebody recorded it meanwhile"):
            seen.say(self.technician, self.unit, "mains", "v100_120")
        self.assertEqual(self.again(self.unit).mains_variant, "v220_240")

    def test_no_is_an_answer(self):
        unit = self.assessed(keyboard=None, drives=None, picture_tube=None)
        for name, answer, field, value in (
            ("keyboard", "no", "keyboard", False),
            ("drives", "0", "drives", 0),
            ("tube", "no", "picture_tube", False),
        ):
            seen.say(self.owner, unit, name, answer)
            self.assertIs(getattr(self.again(unit), field), value)
        self.assertEqual(seen.asked(self.again(unit), ["keyboard", "drives", "tube"]), [])

    def test_nonsense_and_lookers_on_are_refused(self):
        for name, answer in (("battery", "unknown"), ("battery", "5"), ("serial", "1"), ("drives", "-1"), ("", "")):
            with self.subTest(name=name, answer=answer), self.assertRaisesRegex(Refused, "Say what it is"):
                seen.say(self.owner, self.unit, name, answer)
        with self.assertRaises(NotAllowed):
            seen.say(self.viewer, self.unit, "battery", "none")
        self.assertEqual(self.again(self.unit).battery, "unknown")


class WhilePacking(DispatchTest):
    STANDS = "listed"

    def test_whether_a_cell_is_in_it_is_not_ticked_but_said(self):
        sale, hand = self.sold(), self.hand()
        type(sale.unit).objects.filter(pk=sale.unit_id).update(battery="unknown", drives=None)
        hand.pay(sale)
        parcel = hand.do(parcels.begin, sale)
        number = sale.unit.number
        there = reverse("dispatch:parcel", args=[parcel.pk])
        self.client.force_login(self.seller)
        for code, fact, question, answer, then in (
            ("cell", "battery", "Look whether there is a cell in it", "lithium", "tape its poles"),
            ("drives", "drives", "Look whether there are drives in it", "2", "Park the heads"),
        ):
            with self.subTest(code):
                page = self.client.get(there)
                self.assertContains(page, question)
                self.assertNotContains(page, reverse("dispatch:step", args=[parcel.pk, f"{number}-{code}"]))
                with self.assertRaisesRegex(Refused, "Say what is in it"):
                    parcels.tick(self.seller, parcel, f"{number}-{code}")
                self.client.post(reverse("dispatch:seen", args=[parcel.pk, number]), {"fact": fact, "answer": answer})
                self.assertContains(self.client.get(there), then)

    def test_of_what_is_in_another_parcel_nothing_is_said_here(self):
        sale, hand = self.sold(), self.hand()
        hand.pay(sale)
        parcel = hand.do(parcels.begin, sale)
        other = self.assessed(battery="unknown")
        self.client.force_login(self.seller)
        answer = self.client.post(
            reverse("dispatch:seen", args=[parcel.pk, other.number]), {"fact": "battery", "answer": "none"}
        )
        self.assertEqual((answer.status_code, self.again(other).battery), (404, "unknown"))


class TestedOtherwise(Through):
    """What the bank or the checks say from now on is reckoned with at machines that stood before."""

    def minutes(self, unit) -> tuple[int, int]:
        self.client.get("/")
        unit = self.again(unit)
        return unit.next_minutes, unit.minutes_ahead

    def test_a_weakness_and_a_check_make_a_plan_longer(self):
        unit, new = self.assessed(), self.receive()[0]
        before, at_intake = self.minutes(unit), self.minutes(new)
        known = weaknesses.WeaknessDetails(
            model=self.model, what="cap goes", look_at="look at the caps", factor=D(2), minutes=9
        )
        weaknesses.keep_weakness(self.owner, None, 0, known)
        call_command("rebuild_stages", "--check", stdout=StringIO())
        self.assertEqual(self.minutes(unit), (before[0] + 9, before[1]))
        self.assertEqual(self.minutes(new), (at_intake[0], at_intake[1] + 9))
        weaknesses.drop_weakness(self.owner, Weakness.objects.get())
        self.assertEqual(self.minutes(unit), before)
        row = library.row_for("fn-picture")
        said = replace(as_kept(library.CheckDetails, row), minutes=row.minutes + 4)
        library.save_check(self.owner, "fn-picture", 0, said)
        self.assertEqual(self.minutes(unit), (before[0] + 4, before[1]))
        call_command("rebuild_stages", "--check", stdout=StringIO())
