"""Finding a fault through services and pages: odds that move, one case at a time, fixes that have to hold."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

from django.urls import reverse
from django.utils import timezone

from core.bench.fault_library import BY_CODE
from stations.bench import fault_view, faults, fixes
from stations.bench import services as bench
from stations.bench.models import FaultCase, StartTrial
from stations.common import clock
from stations.common.refusals import Refused
from stations.intake import settling
from stations.selling.selectors import evidence_of
from stations.stock import shelf
from stations.stock.models import KnownGood
from tests.stations.test_bench_in_full import BenchTest

D = Decimal


class FindingAFault(BenchTest):
    def open(self, symptom="no-picture", **more) -> FaultCase:
        return faults.open_case(self.technician, self.assessed(), symptom, **more)

    def test_suspects_move_and_every_try_is_logged_with_its_setting(self):
        case = self.open()
        view = fault_view.look_at(case)
        first = view.offered[0].next.action
        faults.record_try(self.technician, case, first.code, True, "colour set, PAL")
        moved = fault_view.look_at(self.again(case))
        self.assertNotEqual([b.chance for b in moved.bars], [b.chance for b in view.bars])
        self.assertNotIn(first.code, [o.next.action.code for o in moved.offered])
        with self.assertRaisesRegex(Refused, "Already tried with this setting"):
            faults.record_try(self.technician, case, first.code, False, "colour set, PAL")
        faults.record_try(self.technician, case, first.code, False, "colour set, NTSC")
        self.assertEqual(case.tries.count(), 2)
        with self.assertRaisesRegex(Refused, "nothing to try"):
            faults.record_try(self.technician, case, "pray", True)

    def test_mending_is_an_action_and_its_answer_ends_or_rules_out(self):
        case = self.open("dead")
        view = fault_view.look_at(case)
        self.assertGreater(view.verdict.minutes, 0)
        fuse = {bar.suspect.code: bar.chance for bar in view.bars}["fuse"]
        faults.record_try(self.technician, case, "mend-fuse", False)
        view = fault_view.look_at(self.again(case))
        self.assertLess({bar.suspect.code: bar.chance for bar in view.bars}["fuse"], fuse / 5)
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        there = reverse("bench:fault", args=[case.unit.number])
        sent = {"action": "mend-supply", "said": "yes", "write_key": ""}
        page = self.client.post(reverse("bench:answer", args=[case.unit.number]), sent, follow=True)
        self.assertRedirects(page, there)
        self.assertContains(page, "Found, as far as can be told")
        self.assertEqual(page.context["form"].initial, {"cause": "supply", "fix": "mended"})
        with self.assertRaisesRegex(Refused, "nothing to try"):
            faults.record_try(self.technician, case, "mend-gremlin", True)

    def refused(self, words: str, act, *args, field: str = "", **named) -> None:
        with self.assertRaisesRegex(Refused, words) as caught:
            act(self.technician, *args, **named)
        self.assertEqual(caught.exception.field or "", field)

    def test_a_fault_that_can_not_be_looked_for(self):
        new = self.receive()[0]
        self.refused("finish intake first", faults.open_case, new, "dead")
        case = self.open("dead")
        gone = self.assessed()
        self.refused("Choose the symptom", faults.open_case, gone, "haunted", field="symptom")
        self.refused("Go on with that one", faults.open_case, case.unit, "dead")
        settling.write_off(self.owner, gone, "dropped")
        self.refused("there is no fault to find here", faults.open_case, self.again(gone), "dead")

    def test_a_try_of_ones_own_that_says_too_little(self):
        case = self.open("dead")
        own = faults.OwnTry("knocked on it", "it came on")
        code = next(iter(case.suspect_words))
        for change, words, field in (
            ({"words": ""}, "Say what was tried.", "words"),
            ({"answer": ""}, "Say what came of it.", "answer"),
            ({"points_at": "gremlin"}, "Choose one of the suspects", "points_at"),
            ({"points_at": code}, "How strongly", "points_how"),
            ({"words": "x" * 161}, "160 characters at most", "words"),
            ({"setting": "x" * 121}, "120 characters at most", "setting"),
        ):
            self.refused(words, faults.record_own, case, replace(own, **change), field=field)
        self.assertFalse(case.tries.exists())
        # A cause that is known already is that one, however it is written.
        known = case.suspect_words[code]
        kept = faults.record_own(self.technician, case, replace(own, new_suspect=known.upper(), points_how="strong"))
        self.assertEqual(kept.points_at, code)

    def test_suspects_of_ones_own_have_an_end(self):
        case = self.open("dead")
        room = faults.MOST_SUSPECTS - len(case.suspect_words)
        for number in range(room + 1):
            tried = faults.OwnTry("looked", "odd", new_suspect=f"gremlin {number}", points_how="weak")
            if number < room:
                faults.record_own(self.technician, self.again(case), tried)
        self.refused("suspects at most", faults.record_own, self.again(case), tried, field="new_suspect")
        self.assertAlmostEqual(sum(self.again(case).now), 1.0)

    def test_what_is_closed_is_closed(self):
        case = self.open("dead")
        self.refused("Choose what it was", faults.close_case, case, "gremlin", "", "prayed", field="cause")
        faults.close_case(self.technician, case, "fuse", "", "replaced")
        self.refused("closed already", faults.close_case, case, "fuse", "", "replaced")
        self.refused("This fault is closed", faults.record_try, case, "mend-fuse", True)
        self.refused("This fault is closed", faults.record_own, case, faults.OwnTry("looked", "odd"))

    def test_a_wrong_answer_is_taken_back_and_the_odds_with_it(self):
        case = self.open("dead")
        before = self.again(case).now
        tried = faults.record_try(self.technician, case, "mend-fuse", False)
        self.assertNotEqual(self.again(case).now, before)
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        there, again = reverse("bench:fault", args=[case.unit.number]), reverse("bench:not-tried", args=[tried.pk])
        self.assertContains(self.client.get(there), again)
        self.assertContains(self.client.post(again, {"why": ""}, follow=True), "Say why")
        page = self.client.post(again, {"why": "the other machine"}, follow=True)
        self.assertContains(page, "withdrawn:")
        self.assertNotContains(page, again)
        self.assertEqual(self.again(case).now, before)
        self.refused("counts no more already", faults.not_tried, self.again(tried), "twice")
        # It may be tried again.
        faults.record_try(self.technician, case, "mend-fuse", True)

    def test_what_was_closed_by_mistake_is_looked_for_again(self):
        case = self.open("dead")
        faults.record_try(self.technician, case, "mend-fuse", False)
        led = self.again(case).now
        self.refused("is being looked for", faults.reopen_case, case, "no")
        faults.close_case(self.technician, case, "supply", "", "replaced")
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        there, again = reverse("bench:fault", args=[case.unit.number]), reverse("bench:reopen-fault", args=[case.pk])
        self.assertContains(self.client.get(there), again)
        self.assertContains(self.client.post(again, {"why": ""}, follow=True), "Say why")
        self.client.post(again, {"why": "dead again at once"})
        now = self.again(case)
        self.assertEqual((now.open_for, now.cause, now.fix, now.closed_at, now.now), (case.unit, "", "", None, led))
        self.assertEqual(self.again(case.unit).state, "stuck")
        self.assertEqual(fixes.causes_found("dead"), {})
        faults.close_case(self.technician, now, "fuse", "", "replaced")
        faults.open_case(self.technician, case.unit, "dead")
        self.refused("Another fault is being looked for", faults.reopen_case, self.again(case), "that one too")

    def test_where_no_test_pays_it_says_what_to_mend(self):
        case = self.open("dead")
        codes = list(case.suspect_words)
        now = [0.8 if code == "fuse" else 0.2 / (len(codes) - 1) for code in codes]
        FaultCase.objects.filter(pk=case.pk).update(now=now)
        view = fault_view.look_at(self.again(case))
        self.assertEqual((view.offered[0].next.action.code, view.verdict.mend), ("mend-fuse", "fuse"))
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("bench:fault", args=[case.unit.number]))
        self.assertContains(page, "No test pays for itself any more")
        self.assertContains(page, "Unplugged and discharged while you work on it.")

    def test_one_at_a_time_and_what_is_found_teaches(self):
        case = self.open()
        unit = case.unit
        with self.assertRaisesRegex(Refused, "looked for already"):
            faults.open_case(self.technician, unit, "dead")
        self.assertEqual(self.again(unit).state, "stuck")
        with self.assertRaisesRegex(Refused, "Say in a few words"):
            faults.close_case(self.technician, case, "", "", "")
        with self.assertRaisesRegex(Refused, "Choose what it was"):
            faults.close_case(self.technician, case, "gremlin", "", "")
        faults.close_case(self.technician, case, "video", "display chip", "chip replaced")
        self.assertEqual(fixes.causes_found("no-picture"), {"video": 1})
        before = BY_CODE["no-picture"].suspects
        place = [s.code for s in before].index("video")
        again = faults.open_case(self.technician, self.assessed(), "no-picture")
        self.assertGreater(again.now[place], case.now[place])

    def test_a_cause_whose_fix_did_not_hold_teaches_nothing(self):
        unit = self.proven()
        case = faults.open_case(self.technician, unit, "no-picture")
        faults.close_case(self.technician, case, "video", "display chip", "chip replaced")
        self.assertEqual(fixes.causes_found("no-picture"), {"video": 1})
        with clock.at(timezone.now() + timedelta(days=1)):
            bench.note_start(self.technician, unit, False, True, "no picture again")
            self.assertEqual(fixes.causes_found("no-picture"), {})
            # Another symptom: what failed was another fault.
            other = faults.open_case(self.technician, unit, "no-sound")
            self.assertEqual(fixes.causes_found("no-picture"), {"video": 1})
            faults.close_case(self.technician, other, "speaker", "", "")
        with clock.at(timezone.now() + timedelta(days=2)):
            same = faults.open_case(self.technician, self.assessed(), "no-picture")
            faults.close_case(self.technician, same, "memory", "", "soldered")
            faults.open_case(self.technician, same.unit, "no-picture")
            with self.assertNumQueries(3):
                self.assertEqual(fixes.causes_found("no-picture"), {"video": 1})

    def test_a_code_is_read_in_its_family_only(self):
        unit = self.assessed()
        with self.assertRaisesRegex(Refused, "which firmware") as caught:
            faults.open_case(self.technician, unit, "beeps", code="201")
        self.assertEqual(caught.exception.field, "family")
        with self.assertRaisesRegex(Refused, "does not know this code"):
            faults.open_case(self.technician, unit, "beeps", family="count", code="201")
        case = faults.open_case(self.technician, unit, "beeps", family="numeric", code="201")
        self.assertEqual(fault_view.look_at(case).bars[0].suspect.code, "memory")

    def test_a_known_good_part_must_fit_and_its_age_counts(self):
        old = shelf.shelve(self.technician, KnownGood(name="Old keyboard", kind="part", stands_in="keyboard"))
        case = self.open("keyboard")
        with self.assertRaisesRegex(Refused, "does not stand in"):
            faults.record_try(self.technician, case, "lead-ohms", True, known_good=old)
        tried = faults.record_try(self.technician, case, "swap-keyboard", True, known_good=old)
        self.assertEqual((tried.trust, self.again(old).uses), (0.33, 1))
        shelf.verify(self.technician, old)
        self.assertEqual((self.again(old).verified_on, self.again(old).uses), (timezone.localdate(), 0))

    def test_a_fix_is_provisional_until_it_held_cold_on_another_day_and_closed_up(self):
        unit = self.proven()
        case = faults.open_case(self.owner, unit, "random")
        faults.close_case(self.owner, case, "memory", "", "two chips replaced")

        def standing():
            (row,) = fixes.fixes_of(unit, fixes.trials_of(unit))
            return row[1].fix.value

        self.assertEqual((standing(), evidence_of(unit).unconfirmed_fixes), ("provisional", 1))
        bench.note_start(self.owner, self.again(unit), True, False)
        self.assertEqual(standing(), "provisional")
        with clock.at(timezone.now() + timedelta(hours=14)):
            bench.note_start(self.owner, self.again(unit), True, False)
            self.assertEqual(standing(), "provisional")
            bench.note_start(self.owner, self.again(unit), True, True)
            self.assertEqual((standing(), evidence_of(unit).unconfirmed_fixes), ("confirmed", 0))
            with self.assertRaisesRegex(Refused, "Say what happened"):
                bench.note_start(self.owner, self.again(unit), False, False)
            bench.note_start(self.owner, self.again(unit), False, False, "hangs again")
        self.assertEqual(standing(), "failed")
        self.assertIn("did not hold", self.again(unit).stage_reason)

    def test_no_start_before_first_power_was_passed_in_a_run(self):
        with self.assertRaisesRegex(Refused, "gates come first"):
            bench.note_start(self.owner, self.assessed(), True, False)
        self.proven()
        # First power, the start after the soak, and the one closed up: each is a start.
        starts = list(StartTrial.objects.values_list("passed", "cold", "closed"))
        self.assertEqual(starts, [(True, None, False), (True, True, False), (True, False, True)])

    def test_what_a_code_says_is_told_before_and_after_it_is_typed(self):
        there = f"/bench/W-{self.assessed().number}/fault/"
        self.assertContains(self.client.get(there), "three short: first 64 KiB")
        self.client.post(there, {"symptom": "beeps", "family": "numeric", "code": "201"})
        self.assertContains(self.client.get(there), "<b>memory</b>")

    def test_through_the_pages(self):
        unit = self.assessed()
        there = f"/bench/W-{unit.number}/fault/"
        self.hand().test(unit, fail={"fn-ports": "the port is dead"})
        self.assertEqual(self.client.get(there).context["form"]["words"].value(), "the port is dead")
        self.assertIn("family", self.client.post(there, {"symptom": "beeps", "code": "1"}).context["form"].errors)
        self.assertIn("symptom", self.client.post(there, {"symptom": "", "words": "hm"}).context["form"].errors)
        self.client.post(there, {"symptom": "short", "words": "5 V rail"})
        page = self.client.get(there)
        self.assertContains(page, "Take off")
        action = page.context["view"].offered[0].next.action.code
        self.client.post(f"{there}answer/", {"action": action, "said": "yes"})
        self.assertContains(self.client.get(there), "the short is gone")
        page = self.client.post(f"{there}close/", {"cause": "", "cause_words": "", "fix": ""})
        self.assertContains(page, "Say in a few words", status_code=422)
        self.client.post(f"{there}close/", {"cause": "drives", "fix": "motor replaced"})
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "provisional")
