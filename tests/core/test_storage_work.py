"""What is done with a drive: a plan as a recipe, goes and which comes first, sanitising, images, bad tracks."""

from unittest import TestCase

from hypothesis import example, given
from hypothesis import strategies as st

from core.catalogue.recipes import Proof, as_data, from_data
from core.workshop.storage import StorageError
from core.workshop.storage.attempts import Attempt, variants, what_of
from core.workshop.storage.install import INSTALL, Before, read_drivers, recipe
from core.workshop.storage.media import FLOPPIES, closest, difference, format_of
from core.workshop.storage.planner import plan
from core.workshop.storage.sanitise import LEAST_SAMPLES, Medium, Method, technique, verified
from core.workshop.storage.sizes import MIB
from core.workshop.storage.tracks import Track, compare, read_tracks
from core.workshop.storage.volumes import Drive, Shared, Wish
from tests.core.test_storage import ABOVE, CARD, LATER, READER

PLAN = plan(CARD, [Wish(LATER, 200 * MIB, 10), Wish(ABOVE, 0), Wish(READER, 0)], Shared())


class Recipes(TestCase):
    def test_a_plan_becomes_steps_with_restarts(self):
        made = recipe(
            PLAN, Before(True, "drawer D4", "1.4", "1.6"), read_drivers("sound: 6 min, 1 restart\nnet: 4 min")
        )
        words = [step.instruction for step in made.steps]
        self.assertTrue(words[0].startswith("Set the original drive aside: drawer D4"))
        self.assertIn("1.6 is the newest known: load that first", words[2])
        installs = [one for one in words if one.startswith(INSTALL)]
        self.assertEqual([what_of(one) for one in installs], ["Install Later", "Install Above"])
        self.assertIn("it reads C, D", words[-3])
        self.assertEqual(made.steps[-2].proof, Proof.PHOTO)
        self.assertEqual(made.restarts, sum(one.restarts for one in (LATER, ABOVE)) + 1 + 1 + 1)
        self.assertEqual(from_data(as_data(made)).steps, made.steps)

    def test_what_is_not_so_is_not_asked(self):
        bare = recipe(PLAN, Before(False))
        self.assertTrue(bare.steps[0].instruction.startswith("Wipe the new medium"))
        same = recipe(PLAN, Before(False, "", "1.6", "1.6"))
        self.assertEqual(len(same.steps), len(bare.steps))
        unknown = recipe(PLAN, Before(False, "", "1.6"))
        self.assertIn("is there a newer one?", unknown.steps[0].instruction)

    def test_nothing_that_starts_is_no_recipe(self):
        with self.assertRaises(StorageError):
            recipe(plan(Drive(2 * MIB), [Wish(LATER, MIB)]), Before())

    def test_drivers_as_they_are_typed(self):
        for typed in ("sound", "sound: long", "sound: 900 min", "sound: 6 min, 99 restarts"):
            with self.subTest(typed), self.assertRaises(StorageError) as caught:
                read_drivers("net: 4 min\n" + typed)
            self.assertEqual((caught.exception.at, caught.exception.line), ("drivers", 2))
        with self.assertRaises(StorageError):
            read_drivers("\n".join(f"d{n}: 1 min" for n in range(17)))


class Goes(TestCase):
    def test_the_likeliest_comes_first(self):
        goes = [Attempt("", False)] * 3 + [
            Attempt("", True),
            Attempt("Other tool", True),
            Attempt("other  tool", True),
            Attempt("slow", False),
        ]
        found = variants(goes)
        self.assertEqual([one.varied for one in found], ["Other tool", "", "slow"])
        self.assertEqual(
            [one.words for one in found][:2], ["Other tool: worked 2 of 2 times", "as written: worked 1 of 4 times"]
        )

    @given(st.lists(st.tuples(st.sampled_from("abc"), st.booleans())))
    def test_no_go_is_lost_and_chances_lie_between_none_and_all(self, goes):
        found = variants(Attempt(*one) for one in goes)
        self.assertEqual(sum(one.worked + one.failed for one in found), len(goes))
        self.assertTrue(all(0 < one.chance < 1 for one in found))
        self.assertEqual([one.chance for one in found], sorted((one.chance for one in found), reverse=True))


class Sanitised(TestCase):
    def test_every_medium_can_be_destroyed_and_says_how(self):
        for medium in Medium:
            self.assertTrue(technique(medium, Method.DESTROY))
        with self.assertRaises(StorageError) as caught:
            technique(Medium.OPTICAL, Method.CLEAR)
        self.assertEqual(caught.exception.at, "method")
        self.assertIn("destroy", str(caught.exception))

    @given(st.one_of(st.none(), st.integers(0, 500)), st.one_of(st.none(), st.just(0), st.integers(0, 500)))
    @example(LEAST_SAMPLES, 0)
    @example(LEAST_SAMPLES - 1, 0)
    def test_it_is_verified_only_where_enough_was_read_and_nothing_differs(self, samples, differing):
        good = samples is not None and samples >= LEAST_SAMPLES and differing == 0
        try:
            said = verified(Method.CLEAR, samples, differing)
        except StorageError:
            self.assertFalse(good)
        else:
            self.assertTrue(good)
            self.assertIn(str(samples), said)
        self.assertIn("looked at", verified(Method.DESTROY, samples, differing))


class Images(TestCase):
    def test_sizes_say_what_they_are(self):
        for size in FLOPPIES:
            self.assertIn("diskette", format_of(size))
        self.assertEqual(format_of(32 * 1024), "chip, 32 KiB")
        self.assertIn("blocks of 2,048", format_of(650 * MIB))
        self.assertIn("sectors", format_of(21_411_840 + 512))
        for size in (0, 1234, 999, 737_281):
            self.assertEqual(format_of(size), "")


class Tracks(TestCase):
    @given(
        st.sets(st.builds(Track, st.integers(0, 819), st.integers(0, 5))),
        st.sets(st.builds(Track, st.integers(0, 819), st.integers(0, 5))),
    )
    def test_what_is_new_what_reads_well_and_both_make_all(self, label, scan):
        found = compare(tuple(label), tuple(scan))
        self.assertEqual(set(found.new), scan - label)
        self.assertEqual(len(found.new) + found.both, len(scan))
        self.assertEqual(len(found.unseen) + found.both, len(label))
        typed = ", ".join(map(str, sorted(label)))
        self.assertEqual(set(read_tracks(typed, 820, 6)), label)

    def test_in_words(self):
        self.assertIn("Nothing new", compare((Track(1, 1),), (Track(1, 1),)).words)
        many = tuple(Track(n, 0) for n in range(20))
        self.assertIn("and 8 more", compare((), many).words)
        self.assertIn("copy it first", compare((), many).words)


class ReadBack(TestCase):
    @given(st.binary(max_size=3000), st.binary(max_size=3000), st.sampled_from([1, 512]))
    def test_as_counted_block_by_block(self, image, read, block):
        both = min(len(image), len(read))
        unlike = [
            at // block
            for at in range(0, both, block)
            if image[at : min(at + block, both)] != read[at : min(at + block, both)]
        ]
        found = difference(image, read, block)
        self.assertEqual((found.blocks, found.first), (len(unlike), unlike[0] if unlike else None))
        self.assertEqual(found.equal, image == read)

    def test_nearest_is_the_one_of_its_size(self):
        images = [b"a" * 512, b"b" * 1024, b"a" * 1024]
        number, found = closest(images, b"a" * 1023 + b"x") or (None, None)
        self.assertEqual(number, 2)
        self.assertEqual(found.words if found else "", "1 sector differs, the first is 1")
        self.assertIsNone(closest([], b"a"))
        self.assertEqual(difference(b"abc", b"ab").words, "1 byte too few")
