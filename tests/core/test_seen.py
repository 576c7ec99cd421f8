"""What is seen at a check: only what nobody recorded, and only what the check turns on."""

from dataclasses import replace

from django.test import SimpleTestCase

from core.bench.checks import BenchFacts
from core.bench.checks_unpowered import UNPOWERED
from core.bench.conditions import ConditionError, names_in
from core.bench.seen import seen_at, unsaid
from core.machine.casing import FormFactor
from core.machine.supply import Battery, Supply
from core.selling.packing import PackFacts, packing_steps

CHECKS = {check.code: check for check in UNPOWERED}
KNOWN = BenchFacts(Supply.SWITCHING, Battery.LITHIUM, picture_tube=False, drives=0, keyboard=True, mains_known=True)


class Seen(SimpleTestCase):
    def test_of_what_is_recorded_nothing_is_asked(self):
        self.assertEqual(unsaid(KNOWN), frozenset())
        for check in UNPOWERED:
            self.assertEqual(seen_at(check, KNOWN), ())

    def test_nothing_known_asks_all_and_false_or_none_is_an_answer(self):
        everything = {"battery", "supply", "mains", "tube", "drives", "keyboard"}
        self.assertEqual(unsaid(BenchFacts()), everything)
        self.assertEqual(
            unsaid(replace(BenchFacts(), drives=0, keyboard=False, picture_tube=False)),
            everything - {"drives", "keyboard", "tube"},
        )
        self.assertNotIn("battery", unsaid(replace(BenchFacts(), battery=Battery.NONE)))

    def test_a_thing_is_not_asked_for_what_it_never_has(self):
        drive = replace(BenchFacts(), form_factor="drive")
        self.assertNotIn("battery", unsaid(drive))
        self.assertNotIn("supply", unsaid(drive))

    def test_a_check_asks_for_what_it_turns_on(self):
        self.assertEqual(seen_at(CHECKS["look-battery"], BenchFacts()), ("battery",))
        self.assertEqual(seen_at(CHECKS["safe-mains"], BenchFacts()), ("mains", "supply"))
        self.assertEqual(seen_at(CHECKS["safe-mains"], replace(KNOWN, mains_known=False)), ("mains",))
        self.assertEqual(seen_at(CHECKS["look-case"], BenchFacts()), ())

    def test_the_names_of_a_condition(self):
        self.assertEqual(names_in("supply=linear|switching & tube & !leak & supply!=none"), ("supply", "tube", "leak"))
        self.assertEqual(names_in(""), ())
        with self.assertRaises(ConditionError):
            names_in("a == b")


class Packed(SimpleTestCase):
    def asked(self, **facts) -> dict[str, str]:
        return {step.code: step.asks for step in packing_steps(PackFacts(FormFactor.DESKTOP, **facts)) if step.asks}

    def test_a_step_that_looks_is_done_by_saying_what_is_there(self):
        self.assertEqual(self.asked(), {"cell": "battery", "drives": "drives"})
        self.assertEqual(self.asked(battery=Battery.NONE, drives=0), {})
        self.assertEqual(self.asked(battery=Battery.LITHIUM), {"drives": "drives"})
