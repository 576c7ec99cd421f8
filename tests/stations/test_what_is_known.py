"""Fault finding starts from what is known; own tries, parts that turn out bad, and a sound as evidence."""

import io
import wave
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from core.bench.fault_library import BY_CODE
from core.bench.plan import Outcome
from core.bench.suspects import UNVERIFIED
from stations.bench import benchmarks, fault_view, faults
from stations.bench import services as bench
from stations.bench.models import Try
from stations.buying import services as buying
from stations.common.refusals import NotAllowed, Refused
from stations.intake import services as intake
from stations.stock import shelf
from stations.stock.models import KnownGood
from stations.units import sounds
from stations.units.models import Clip, Finding
from tests.hands import a_tone
from tests.stations.base import line_data, lot_data
from tests.stations.test_bench_in_full import BenchTest

D = Decimal


class FaultTest(BenchTest):
    def odds(self, case) -> dict[str, float]:
        case.refresh_from_db()
        return {bar.suspect.code: bar.chance for bar in fault_view.look_at(case).bars}

    def open(self, unit, symptom="dead", **more):
        return faults.open_case(self.owner, unit, symptom, **more)

    def shelve(self, stands_in: str, **more):
        usual = {"name": f"Good {stands_in}", "kind": "part"}
        return shelf.shelve(self.owner, KnownGood(stands_in=stands_in, **usual | more))


class FirstOdds(FaultTest):
    def test_a_supply_that_passed_leaves_no_short_at_30_percent(self):
        blank = self.odds(self.open(self.assessed()))
        run = self.run_until("power-first")
        passed = self.odds(self.open(run.unit))
        self.assertLess(passed["short"], 0.1)
        self.assertLess(passed["supply"], blank["supply"] / 3)
        self.assertLess(passed["fuse"], blank["fuse"] / 3)
        for odds in (blank, passed):
            self.assertAlmostEqual(sum(odds.values()), 1)
        page = self.client.get(f"/bench/W-{run.unit.number}/fault/")
        self.assertContains(page, "+5 V under load, PSU alone: passed")

    def test_a_step_that_failed_a_finding_and_an_earlier_fault_raise_theirs(self):
        unit = self.run_until("fn-picture").unit
        before = self.odds(self.open(unit, "no-picture"))
        self.hand().test(unit := self.assessed(), fail={"fn-picture": "rolls"})
        self.assertGreater(self.odds(self.open(unit, "no-picture"))["video"], before["video"])
        unit = self.assessed()
        case = self.open(unit, "random")
        faults.close_case(self.owner, case, "joint", "", "leg soldered")
        again = self.open(unit, "random")
        self.assertGreater(self.odds(again)["joint"], 1.5 * case.start[self._place(case, "joint")])
        self.assertIn("the fix was never confirmed", "; ".join(again.known))

    def _place(self, case, code):
        return [row[0] for row in case.suspects].index(code)

    def test_a_failed_step_speaks_no_longer_once_it_was_mended(self):
        unit = self.assessed()
        hand = self.hand()
        hand.test(unit, fail={"fn-memory": "stuck bit"})
        worse = self.odds(self.open(unit, "random"))["memory"]
        faults.close_case(self.owner, faults.open_one(unit), "joint", "", "leg soldered")
        self.assertLess(self.odds(self.open(unit, "random"))["memory"], worse)

    def test_a_benchmark_that_came_out_slower_is_known(self):
        unit = self.proven()
        for moment, values in (("before", "10.1; 10.0; 10.2"), ("after", "20.1; 20.0; 20.2")):
            data = {"name": "Sieve", "setting": "turbo", "moment": moment, "scores": False, "by_hand": False}
            benchmarks.record_benchmark(self.owner, unit, benchmarks.BenchmarkRuns(**data, values=values))
        self.assertIn("slower than before: sieve", self.open(unit, "warm").known)

    def test_runs_say_what_was_changed_and_another_setting_is_no_comparison(self):
        unit = self.proven()

        def ran(moment: str, values: str, **more):
            data = {"name": "Sieve", "moment": moment, "values": values, **more}
            benchmarks.record_benchmark(self.owner, unit, benchmarks.BenchmarkRuns(**data))

        ran("before", "1:03 1:04 1:03", setting="turbo")
        ran("after", "0:31 0:32 0:31", setting="turbo", changed="a clock chip of twice the speed")
        ran("after", "20", setting="slow")
        both, alone = benchmarks.benchmarks_of(unit)
        self.assertEqual((both.before[0], both.compared.said), (63.0, "faster"))
        self.assertEqual((both.changed, alone.elsewhere), (["a clock chip of twice the speed"], ["turbo"]))
        ran("before", "50", setting="middle")
        self.assertEqual(benchmarks.benchmarks_of(unit)[2].elsewhere, ["turbo", "slow"])
        for moment, values, more, field in (
            ("before", "10", {"changed": "a card"}, "changed"),
            ("after", "1:70", {}, "values"),
            ("after", "1:03", {"scores": True}, "values"),
            ("after", "10", {"changed": "x" * 161}, "changed"),
        ):
            with self.assertRaises(Refused) as caught:
                ran(moment, values, **more)
            self.assertEqual(caught.exception.field, field)


class OwnTries(FaultTest):
    STANDS = "assessed"

    def test_tried_answered_varied_and_as_it_stood_are_kept_and_move_the_odds(self):
        unit = self.assessed()
        case = self.open(unit)
        before = self.odds(case)
        self.post(
            "bench:own-try",
            [unit.number],
            words="wiggled the lead",
            answer="came on for a second",
            varied="angle of the plug",
            setting="220 V, no drives",
            points_at="mainslead",
            points_how="strong",
        )
        tried = Try.objects.get()
        self.assertEqual(
            (tried.words, tried.varied, tried.setting), ("wiggled the lead", "angle of the plug", "220 V, no drives")
        )
        self.assertGreater(self.odds(case)["mainslead"], 3 * before["mainslead"])
        page = self.client.get(f"/bench/W-{unit.number}/fault/")
        for words in ("wiggled the lead", "came on for a second", "angle of the plug", "220 V, no drives"):
            self.assertContains(page, words)

    def test_a_cause_of_ones_own_joins_and_can_be_found(self):
        case = self.open(unit := self.assessed())
        faults.record_own(
            self.owner,
            case,
            faults.OwnTry("took the mouse off", "starts", new_suspect="mouse shorts", points_how="strong"),
        )
        odds = self.odds(case)
        self.assertGreater(odds["own-" + str(len(odds))], 0.3)
        self.assertAlmostEqual(sum(odds.values()), 1)
        faults.close_case(self.owner, case, f"own-{len(odds)}", "", "Mouse replaced")
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "Mouse replaced")

    def test_bad_input_stays_at_its_field(self):
        unit = self.assessed()
        self.open(unit)
        for data, says in (
            ({"words": "", "answer": "x"}, "Say what was tried."),
            ({"words": "looked", "answer": ""}, "Say what came of it."),
            ({"words": "l" * 161, "answer": "x"}, "at most 160"),
            ({"words": "looked", "answer": "x", "points_at": "cat"}, "not among the choices"),
        ):
            with self.subTest(says):
                page = self.post("bench:own-try", [unit.number], **data)
                self.assertContains(page, says, status_code=422)
                self.assertContains(page, data["words"], status_code=422)
        self.assertFalse(Try.objects.exists())
        with self.assertRaisesRegex(Refused, "120 characters at most: this is 121"):
            faults.record_try(self.owner, faults.open_one(unit), "unplug-all", True, "s" * 121)

    def test_a_button_that_is_refused_gives_back_what_was_typed_beside_it(self):
        unit = self.assessed()
        case = self.open(unit)
        action = fault_view.look_at(case).offered[0].next.action.code
        faults.record_try(self.owner, case, action, True, "220 V")
        sent = {"action": action, "said": "no", "setting": "220 V", "varied": "another socket"}
        page = self.client.post(reverse("bench:answer", args=[unit.number]), sent, follow=True)
        self.assertContains(page, "Say what is different this time. You had typed: another socket; 220 V")
        self.assertContains(page, "previous: " + fault_view.look_at(case).tries[0].answer)
        page = self.client.post(
            reverse("bench:discharge", args=[unit.number]), {"what": "supply", "volts": "325"}, follow=True
        )
        self.assertContains(page, "Discharge further, then measure again. You had typed: 325")

    def test_the_queries_of_a_try_do_not_grow_with_tries(self):
        case = self.open(self.assessed())

        def asked(setting: str) -> int:
            with CaptureQueriesContext(connection) as queries:
                faults.record_try(self.owner, case, "unplug-all", False, setting)
            return len(queries)

        first = asked("one")
        for n in range(6):
            asked(f"more {n}")
        self.assertEqual(asked("last"), first)

    def test_it_went_away_by_itself_mends_nothing(self):
        case = self.open(self.assessed(), "random")
        before = self.odds(case)
        action = fault_view.look_at(case).offered[0].next.action.code
        tried = faults.record_try(self.owner, case, action, None)
        after = self.odds(case)
        self.assertEqual(tried.answer, "went away by itself")
        self.assertGreater(after["joint"], before["joint"])
        self.assertAlmostEqual(after["joint"] / after["thermal"], before["joint"] / before["thermal"])

    def test_a_try_can_be_recorded_after_its_action_left_the_list(self):
        case = self.open(unit := self.assessed(), "short")
        offered = {o.next.action.code for o in fault_view.look_at(case).offered}
        gone = next(a.code for a in faults.actions_of(case))
        faults.record_try(self.owner, case, gone, True)
        later = {o.next.action.code for o in fault_view.look_at(case).offered}
        self.assertNotEqual(offered, later)
        self.assertEqual(faults.record_try(self.owner, case, gone, False, "warm").setting, "warm")
        dead = next(a.code for a in BY_CODE["keyboard"].actions)
        case = faults.open_one(unit)
        with self.assertRaisesRegex(Refused, "nothing to try here"):
            faults.record_try(self.owner, case, dead + "x", True)

    def test_what_changes_several_things_says_so_and_is_followed_by_what_tells_them_apart(self):
        unit = self.assessed()
        case = self.open(unit, "random")
        there = {a.code: a for a in faults.actions_of(case)}
        several = next(a for a in there.values() if len(a.changes) > 1 and set(a.then) & set(there))
        page = self.client.get(f"/bench/W-{unit.number}/fault/")
        self.assertContains(page, "Changes several things at once")
        faults.record_try(self.owner, case, several.code, True)
        first = fault_view.look_at(case).offered[0]
        self.assertIn(first.next.action.code, several.then)
        self.assertIn("which was it?", first.separates)
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/fault/"), "which was it?")


class KnownGoodParts(FaultTest):
    STANDS = "assessed"

    def test_none_at_hand_is_never_trusted_more_than_a_verified_one(self):
        good = self.shelve("keyboard", verified_on=timezone.localdate())
        case = self.open(self.assessed(), "keyboard")
        before = self.odds(case)["keyboard"]
        self.assertEqual(faults.record_try(self.owner, case, "swap-keyboard", True).trust, UNVERIFIED)
        weak = self.odds(case)["keyboard"]
        other = self.open(self.assessed(), "keyboard")
        self.assertGreater(
            faults.record_try(self.owner, other, "swap-keyboard", True, known_good=good).trust, UNVERIFIED
        )
        self.assertGreater(self.odds(other)["keyboard"], weak)
        self.assertGreater(weak, before)

    def test_an_unverified_one_is_offered_with_its_weakness(self):
        self.shelve("keyboard")
        unit = self.assessed()
        self.open(unit, "keyboard")
        page = self.client.get(f"/bench/W-{unit.number}/fault/")
        self.assertContains(page, "Good keyboard: never shown to be good: its word counts little")

    def test_found_bad_it_takes_back_what_rested_on_it(self):
        good = self.shelve("keyboard", verified_on=timezone.localdate())
        unit = self.assessed()
        case = self.open(unit, "keyboard")
        before = self.odds(case)
        faults.record_try(self.owner, case, "swap-keyboard", False, known_good=good)
        self.assertLess(self.odds(case)["keyboard"], before["keyboard"])
        self.post("stock:found-bad", [good.pk], words="its own keys stick")
        self.assertEqual(
            {c: round(p, 9) for c, p in self.odds(case).items()}, {c: round(p, 9) for c, p in before.items()}
        )
        tried = Try.objects.get()
        self.assertIn("Good keyboard was found bad", tried.withdrawn_why)
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/fault/"), "was found bad")
        with self.assertRaisesRegex(Refused, "stands in for nothing"):
            faults.record_try(self.owner, case, "swap-keyboard", True, known_good=self.again(good))
        shelf.verify(self.owner, good)
        self.assertIsNone(self.again(good).bad_since)

    def test_a_screen_that_cannot_show_it_is_not_offered(self):
        green = self.shelve("screen", name="Green screen", shows_colour=False, signals="PAL, 625 lines")
        colour = self.shelve("screen", name="Colour screen", shows_colour=True, signals="PAL, 625 lines")
        unit = self.assessed()
        case = self.open(unit, "colours")
        self.assertEqual([shelf.can_show(row, case.symptom, set()) for row in (green, colour)], [False, True])
        self.assertNotContains(self.client.get(f"/bench/W-{unit.number}/fault/"), "Green screen")
        self.assertTrue(shelf.can_show(green, "picture", {"PAL, 625 lines"}))
        self.assertFalse(shelf.can_show(green, "picture", {"another"}))
        unknown = self.shelve("screen", name="Some screen")
        self.assertTrue(shelf.can_show(unknown, "colours", {"another"}))


class Sounds(BenchTest):
    def wav(self, seconds: float = 1.0) -> bytes:
        kept = io.BytesIO()
        with wave.open(kept, "wb") as out:
            out.setnchannels(1)
            out.setsampwidth(1)
            out.setframerate(8000)
            out.writeframes(b"\x80" * int(8000 * seconds))
        return kept.getvalue()

    def file(self, data: bytes, name: str = "spin.wav"):
        return SimpleUploadedFile(name, data, "audio/wav")

    def loose_drive(self):
        lot = buying.record_lot(self.owner, lot_data(title="Drives"), [line_data("a drive", 1, form_factor="drive")])
        (unit,) = intake.receive(self.owner, lot.lines.get(), 1)
        return self.hand().assess(unit)

    def test_a_noise_is_a_finding_with_its_sound_played_on_the_page(self):
        (unit,) = self.receive()
        self.post("intake:add-sound", [unit.number], words="knocks twice", face="front", clip=self.file(self.wav()))
        found = Finding.objects.get()
        clip = Clip.objects.get()
        self.assertEqual((found.kind, found.words, clip.finding, clip.seconds), ("noise", "knocks twice", found, 1.0))
        self.assertContains(self.client.get(f"/intake/W-{unit.number}/"), f'src="/intake/sounds/{clip.pk}/"')
        played = self.client.get(f"/intake/sounds/{clip.pk}/")
        self.assertEqual((played["Content-Type"], b"".join(played)), ("audio/wav", self.wav()))
        self.assertEqual(played["X-Content-Type-Options"], "nosniff")

    def test_what_is_no_sound_too_long_or_empty_is_refused_in_words(self):
        (unit,) = self.receive()
        for data, says in (
            (self.wav(31), "30 s at most"),
            (b"RIFF", "Not a sound"),
            (self.wav()[:20], "cut short or damaged"),
            (b"GIF89a" + b"\0" * 50, "Not a sound"),
            (b"\xff\xfb" + b"\0" * 20, "cut short or damaged"),
            (self.wav(0), "empty"),
            (b"RIFF" + b"\0" * sounds.MOST_BYTES, "larger than 6 MB"),
        ):
            with self.subTest(says), self.assertRaisesRegex(Refused, says) as caught:
                sounds.add_heard(self.owner, unit, self.file(data), "hm")
            self.assertEqual(caught.exception.field, "clip")
        with self.assertRaises(NotAllowed):
            sounds.add_heard(self.viewer, unit, self.file(self.wav()), "hm")
        self.assertFalse(Finding.objects.exists())
        page = self.client.post(reverse("intake:add-sound", args=[unit.number]), {"words": "knocks"}, follow=True)
        self.assertContains(page, "Record a sound, or choose a file. You had typed: knocks")

    def test_a_loose_drive_is_judged_by_ear_and_the_sound_is_kept_first(self):
        unit = self.loose_drive()
        run = self.hand().test(unit, stop_at="fn-sound")
        with self.assertRaisesRegex(Refused, "Keep the sound first"):
            bench.record_result(self.owner, run, "fn-sound", Outcome.PASS)
        there = reverse("bench:note", args=[unit.number, "fn-sound"])
        page = self.client.post(there, {"words": "spins up and settles", "clip": self.file(self.wav(2))})
        self.assertContains(page, "<audio")
        bench.record_result(self.owner, run, "fn-sound", Outcome.PASS)
        bench.end_run(self.owner, run)
        clip = Clip.objects.get()
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), f"/intake/sounds/{clip.pk}/")

    def test_the_demos_own_sound_is_one(self):
        heard = sounds.store(a_tone(2.0).read())
        self.assertEqual((heard.kind, heard.seconds), ("wav", 2.0))
