"""Storage plans: sizes, clusters, rules as they are typed, volumes that every system can use, proved by a checker."""

from itertools import combinations
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from core.workshop.storage import StorageError
from core.workshop.storage.checker import problems
from core.workshop.storage.clusters import FileSystem, best_format, clusters_of, formats
from core.workshop.storage.planner import plan, with_labels
from core.workshop.storage.sizes import GIB, KIB, MIB, read_size, written
from core.workshop.storage.systems import Code, Starts, System, read_system
from core.workshop.storage.volumes import ENDS, Drive, End, Sees, Shared, Wish

FAT12, FAT16, FAT32, OWN = FileSystem.FAT12, FileSystem.FAT16, FileSystem.FAT32, FileSystem.OWN
OLD = System("Old", {FAT12: 16 * MIB, FAT16: 32 * MIB}, starts=Starts.FIRST, order=3)
LATER = System("Later", {FAT12: 16 * MIB, FAT16: 2 * GIB}, starts=Starts.FIRST, order=6, needs=8 * MIB)
ABOVE = System("Above", {FAT16: 2 * GIB}, starts=Starts.ON, on="Later", order=7)
READER = System("Reader", {}, {FAT16: 2 * GIB}, starts=Starts.FLOPPY, own_driver=True, order=8)
OWNER = System("Owner", {OWN: 8 * GIB, FAT16: 4 * GIB}, own_driver=True, order=9, code=Code.OVERWRITES, needs=30 * MIB)
MANAGER = System("Manager", {OWN: 8 * GIB}, code=Code.MANAGES, order=1, front=2 * MIB)
FIRMWARE = End("firmware", ENDS["1,024 × 16 × 63"])
CARD = Drive(8_000_000_000, (FIRMWARE, End("adapter", ENDS["1,024 × 255 × 63"], True)))


class Sizes(TestCase):
    def test_sizes_as_they_are_typed(self):
        for typed, size in (
            ("2 GiB", 2 * GIB),
            ("528,482,304", 528_482_304),
            ("40 MB", 40_000_000),
            ("512", 512),
            ("1.5 KiB", 1536),
        ):
            self.assertEqual(read_size(typed), size)
        for typed in ("", "big", "2 TB", "0", "-5 MiB", "99999 GiB", "2 2 GiB x"):
            with self.subTest(typed), self.assertRaises(StorageError):
                read_size(typed)

    def test_sizes_as_they_are_written(self):
        for size, words in ((503 * MIB, "503 MiB"), (2 * GIB, "2 GiB"), (21_411_840, "20.4 MiB"), (512, "512 bytes")):
            self.assertEqual(written(size), words)


class Clusters(TestCase):
    @given(st.integers(200, 4_400_000), st.sampled_from([FAT12, FAT16, FAT32]))
    @settings(max_examples=150)
    def test_the_smallest_cluster_by_trying_every_power_of_two(self, sectors, kind):
        """The count is the largest whose tables and clusters fit, found by trying from above."""
        size = sectors * 512
        bits, least, most, head = {
            FAT12: (12, 1, 4084, 33),
            FAT16: (16, 4085, 65524, 33),
            FAT32: (32, 65525, 2**28, 32),
        }[kind]

        def fits(count: int, cluster: int) -> bool:
            return head + 2 * -(-((count + 2) * bits) // 4096) + count * cluster // 512 <= sectors

        wanted = None
        for power in range(9, 16):
            count = clusters_of(size, kind, 2**power)
            self.assertTrue(count == 0 or fits(count, 2**power))
            # At most one cluster’s room goes to a table that is a sector longer.
            self.assertFalse(fits(count + 2, 2**power))
            if wanted is None and least <= count <= most:
                wanted = 2**power
        found = formats(size, kind)
        self.assertEqual(found[0].cluster if found else None, wanted)

    def test_waste_is_half_a_cluster_a_file(self):
        self.assertEqual(round(formats(2047 * MIB, FAT16)[0].waste(3000) / MIB, 1), 46.9)
        self.assertEqual(best_format(120 * MIB, [FAT16]).waste(3000), 3000 * 1024)

    def test_a_system_of_its_own_has_no_clusters(self):
        self.assertEqual(best_format(100 * MIB, [OWN]).waste(9), 0)
        self.assertEqual(best_format(100 * MIB, [OWN, FAT16]).system, FAT16)
        self.assertIsNone(best_format(3 * GIB, [FAT16]))


RULES = """writes: FAT12 to 16 MiB, FAT16 to 2 GiB
reads: FAT16 to 4 GiB
starts: first
start within: 528,482,304
start id: 0
reaches: firmware
clusters to: 32 KiB
boot code: overwrites
front: 1 MiB
needs: 8 MiB
order: 6
names: 11 letters, no spaces
minutes: 9, alone 14, restarts 3
media: 3 disks
source: printed manual, chapter 2"""


class Rules(TestCase):
    def test_a_system_as_it_is_typed(self):
        found = read_system("Tern DOS 6", RULES)
        self.assertEqual(found.writes, {FAT12: 16 * MIB, FAT16: 2 * GIB})
        self.assertEqual(found.reads, {FAT16: 4 * GIB})
        self.assertEqual((found.starts, found.start_within, found.own_driver), (Starts.FIRST, 528_482_304, False))
        self.assertEqual((found.code, found.front, found.needs, found.order), (Code.OVERWRITES, MIB, 8 * MIB, 6))
        self.assertEqual((found.minutes, found.alone, found.restarts, found.media), (9, 14, 3, "3 disks"))
        self.assertIn("confused by a space", found.label_problem("my work"))
        self.assertIn("11 letters", found.label_problem("a" * 12))
        self.assertEqual(found.label_problem("WORK"), "")

    def test_what_is_wrong_is_named_with_its_line(self):
        for line, typed in (
            (1, "colour: blue"),
            (2, "writes: FAT16 to 2 GiB\nstarts: second"),
            (1, "writes: FAT17 to 2 GiB"),
            (1, "writes: FAT16"),
            (1, "writes:"),
            (1, "writes: FAT16 to 100"),
            (2, "writes: FAT16 to 2 GiB\nstart within: 12"),
            (2, "writes: FAT16 to 2 GiB\nwrites: FAT12 to 1 MiB"),
            (2, "writes: FAT16 to 2 GiB\nminutes: many"),
            (2, "writes: FAT16 to 2 GiB\nminutes: 9, later 2"),
            (2, "writes: FAT16 to 2 GiB\nminutes: 9, restarts 99"),
            (2, "writes: FAT16 to 2 GiB\nnames: short"),
            (2, "writes: FAT16 to 2 GiB\nreaches: far"),
            (2, "writes: FAT16 to 2 GiB\nsource: " + "x" * 121),
            (0, ""),
            (0, "starts: first"),
            (0, "reads: FAT16 to 2 GiB\nstarts: first"),
            (0, "writes: FAT16 to 2 MiB\nneeds: 3 MiB"),
        ):
            with self.subTest(typed), self.assertRaises(StorageError) as caught:
                read_system("X", typed)
            self.assertEqual((caught.exception.at, caught.exception.line), ("rules", line))
        with self.assertRaises(StorageError) as caught:
            read_system(" ", RULES)
        self.assertEqual(caught.exception.at, "name")


class Plans(TestCase):
    def test_a_card_for_four_systems(self):
        found = plan(
            CARD, [Wish(LATER, 503 * MIB, 4100), Wish(OLD, 20 * MIB), Wish(ABOVE, 0), Wish(READER, 0)], Shared()
        )
        self.assertEqual(problems(found), [])
        (volume,) = found.volumes
        self.assertEqual((volume.size, volume.format.cluster, volume.waste), (503 * MIB, 8 * KIB, 4100 * 4096))
        self.assertEqual(
            [found.sees[one][0] for one in ("Later", "Old", "Above", "Reader")], ["boots", "no", "writes", "reads"]
        )
        self.assertTrue(any("Old wants the first volume, which Later has" in said for said in found.refused))
        self.assertTrue(any("Old sees none of them" in said for said in found.refused))
        self.assertEqual([one.name for one in found.order], ["Later", "Above"])

    def test_with_an_overlay_the_rest_is_shared_in_volumes_of_like_size(self):
        drive = Drive(CARD.size, CARD.ends, overlay=True)
        found = plan(drive, [Wish(LATER, 503 * MIB), Wish(ABOVE, 0)], Shared(files=9000))
        self.assertEqual(problems(found), [])
        shared = found.volumes[1:]
        self.assertEqual(len(shared), 4)
        self.assertLessEqual(max(v.size for v in shared) - min(v.size for v in shared), MIB)
        self.assertEqual(sum(v.files for v in shared), 9000)
        self.assertLess(found.spare, MIB)

    def test_what_lies_beyond_the_others_is_for_those_who_see_it(self):
        found = plan(CARD, [Wish(LATER, 200 * MIB), Wish(OWNER, 100 * MIB)], Shared())
        self.assertEqual(problems(found), [])
        beyond = [volume for volume in found.volumes if volume.end > FIRMWARE.size]
        self.assertTrue(beyond)
        for volume in beyond:
            place = found.volumes.index(volume)
            self.assertEqual((found.sees["Later"][place], found.sees["Owner"][place]), (Sees.NO, Sees.WRITES))

    def test_with_a_manager_two_may_want_the_first_volume(self):
        wishes = [Wish(LATER, 100 * MIB), Wish(OLD, 20 * MIB)]
        self.assertEqual(len(plan(CARD, wishes).volumes), 1)
        found = plan(CARD, [*wishes, Wish(MANAGER, 10 * MIB)])
        self.assertEqual(problems(found), [])
        self.assertEqual(len(found.volumes), 3)
        self.assertEqual(found.order[-1].name, "Manager")
        self.assertGreaterEqual(found.volumes[0].start, 2 * MIB)

    def test_what_overwrites_comes_just_before_the_manager(self):
        found = plan(CARD, [Wish(MANAGER, MIB), Wish(OWNER, 100 * MIB), Wish(LATER, 100 * MIB), Wish(ABOVE, 0)])
        self.assertEqual([one.name for one in found.order], ["Later", "Above", "Owner", "Manager"])
        self.assertEqual(problems(found), [])

    def test_what_is_wanted_and_can_not_be_had_is_said_with_the_nearest(self):
        found = plan(CARD, [Wish(LATER, 3 * GIB)])
        self.assertIn("Later wanted 3 GiB for itself; 503 MiB is the most it can have.", found.refused)
        small = Drive(ENDS["615 × 4 × 17"])
        found = plan(small, [Wish(OWNER, 40 * MIB)])
        self.assertIn("Owner can’t start from it", found.refused[0])
        self.assertEqual((found.volumes, found.usable), ((), []))
        found = plan(CARD, [Wish(LATER, 100 * MIB)], Shared(9 * GIB))
        self.assertTrue(any("is the most all of them can write" in said for said in found.refused))

    def test_one_that_starts_from_an_id_alone(self):
        picky = System("Picky", {OWN: GIB}, start_id=0)
        for at, words in ((None, "nobody said which this one has"), (3, "this one has 3")):
            found = plan(Drive(GIB, id=at), [Wish(picky, MIB)])
            self.assertEqual((found.volumes, problems(found)), ((), []))
            self.assertIn(words, found.refused[0])
        self.assertEqual(plan(Drive(GIB, id=0), [Wish(picky, MIB)]).volumes[0].of, "Picky")

    def test_names_stand_on_their_volumes(self):
        found = with_labels(plan(CARD, [Wish(LATER, 100 * MIB)], Shared()), ["SYS", "WORK"])
        self.assertEqual([volume.label for volume in found.volumes], ["SYS", "WORK"])
        self.assertEqual(problems(found), [])

    def test_clusters_below_a_sector_are_no_clusters(self):
        fine = System("Fine", {FAT16: 2 * GIB}, most_cluster=512)
        found = plan(Drive(2**44, sector=4096), [Wish(fine, MIB)], Shared())
        self.assertEqual(found.volumes, ())
        self.assertEqual(problems(found), [])

    def test_a_cut_that_saves_much_is_offered(self):
        drive = Drive(3 * GIB)
        found = plan(drive, [Wish(LATER, 20 * MIB)], Shared(1500 * MIB, 6000))
        self.assertEqual(problems(found), [])
        self.assertIn("as two of 750 MiB would lose", found.cuts[0])

    def test_what_can_not_be_planned_is_refused_at_its_field(self):
        for wishes in (
            [],
            [Wish(LATER, 1), Wish(LATER, 1)],
            [Wish(ABOVE, 0)],
            [Wish(System(f"S{n}", {OWN: GIB}), 1) for n in range(9)],
        ):
            with self.assertRaises(StorageError) as caught:
                plan(CARD, wishes)
            self.assertEqual(caught.exception.at, "systems")
        for made, at in (
            (lambda: Drive(100), "size"),
            (lambda: Drive(GIB, sector=500), "sector"),
            (lambda: Drive(GIB, (End("x", 100),)), "ends"),
        ):
            with self.assertRaises(StorageError) as caught:
                made()
            self.assertEqual(caught.exception.at, at)

    def test_a_drive_of_old_is_cut_at_tracks(self):
        drive = Drive(ENDS["615 × 4 × 17"])
        found = plan(drive, [Wish(OLD, 20 * MIB)], Shared())
        self.assertEqual(problems(found), [])
        self.assertEqual(found.volumes[0].start, 63 * 512)


SYSTEMS = st.builds(
    System,
    st.sampled_from([f"S{n}" for n in range(12)]),
    st.dictionaries(
        st.sampled_from(list(FileSystem)),
        st.sampled_from([16 * MIB, 32 * MIB, 512 * MIB, 2 * GIB, 4 * GIB]),
        min_size=1,
        max_size=3,
    ),
    st.dictionaries(st.sampled_from([FAT16, FAT32]), st.sampled_from([2 * GIB, 8 * GIB]), max_size=1),
    starts=st.sampled_from([Starts.FIRST, Starts.ANY, Starts.ANY, Starts.FLOPPY]),
    start_within=st.one_of(st.none(), st.sampled_from([33 * MIB, 504 * MIB, GIB])),
    own_driver=st.booleans(),
    most_cluster=st.sampled_from([4 * KIB, 32 * KIB]),
    code=st.sampled_from(list(Code)),
    front=st.sampled_from([0, 512, 3 * MIB]),
    needs=st.sampled_from([512, MIB, 12 * MIB]),
    order=st.integers(0, 9),
)
DRIVES = st.builds(
    Drive,
    st.sampled_from([ENDS["615 × 4 × 17"], 40 * MIB, 300 * MIB, 528_482_304, 4 * GIB, 8_000_000_000, 137_438_953_472]),
    st.lists(st.builds(End, st.just("end"), st.sampled_from(list(ENDS.values())), st.booleans()), max_size=2).map(
        tuple
    ),
    overlay=st.booleans(),
)


class Proved(TestCase):
    @given(DRIVES, st.lists(SYSTEMS, min_size=1, max_size=6, unique_by=lambda one: one.name), st.data())
    @settings(max_examples=250, deadline=None)
    def test_every_plan_holds_by_a_checker_of_its_own(self, drive, systems, data):
        sizes = st.sampled_from([0, MIB, 40 * MIB, 700 * MIB, 3 * GIB])
        files = st.one_of(st.none(), st.integers(0, 9000))
        wishes = [Wish(one, data.draw(sizes), data.draw(files)) for one in systems]
        shared = data.draw(st.one_of(st.none(), st.builds(Shared, st.one_of(st.none(), sizes.filter(bool)), files)))
        found = plan(drive, wishes, shared)
        self.assertEqual(problems(found), [])
        # No system is promised what it can’t see.
        for one in systems:
            for see, volume in zip(found.sees[one.name], found.volumes, strict=True):
                if see is not Sees.NO:
                    self.assertLessEqual(volume.end, drive.reach(one.own_driver))

    @given(DRIVES, st.lists(SYSTEMS, min_size=1, max_size=5, unique_by=lambda one: one.name))
    @settings(max_examples=120, deadline=None)
    def test_no_more_systems_could_start_by_trying_every_choice(self, drive, systems):
        """Every subset in every order of need, each with the least it can do with."""
        found = plan(drive, [Wish(one, one.needs) for one in systems])
        able = [one for one in systems if one.has_volume]
        most = 0
        for count in range(len(able), 0, -1):
            if any(self.could(drive, some) for some in combinations(able, count)):
                most = count
                break
        self.assertEqual(len({volume.of for volume in found.volumes}), most)

    @staticmethod
    def could(drive: Drive, some) -> bool:
        manages = any(one.code is Code.MANAGES for one in some)
        if not manages and sum(one.starts is Starts.FIRST for one in some) > 1:
            return False
        grain = drive.grain
        at = grain * max(1, -(-max(one.front for one in some) // grain))
        reach = {one.name: min(drive.reach(False), one.start_within or drive.size) for one in some}
        for one in sorted(some, key=lambda one: (one.starts is not Starts.FIRST, reach[one.name])):
            size = next(
                (
                    grains * grain
                    for grains in range(max(1, -(-one.needs // grain)), max(1, -(-one.needs // grain)) + 1200)
                    if best_format(
                        grains * grain, [k for k, m in one.writes.items() if grains * grain <= m], one.most_cluster
                    )
                ),
                None,
            )
            if size is None or at + size > reach[one.name]:
                return False
            at += size
        return True

    def test_the_checker_finds_what_is_put_wrong(self):
        from dataclasses import replace

        good = plan(
            CARD,
            [Wish(LATER, 100 * MIB, 10), Wish(OWNER, 100 * MIB), Wish(MANAGER, MIB), Wish(READER, 0)],
            Shared(files=99),
        )
        self.assertEqual(problems(good), [])
        first, *rest = good.volumes

        def with_first(**change):
            return replace(good, volumes=(replace(first, **change), *rest))

        for place, wrong in enumerate(
            (
                with_first(start=0),
                with_first(size=first.size + 7),
                with_first(size=first.size + 700 * MIB),
                with_first(format=replace(first.format, clusters=first.format.clusters - 9)),
                with_first(format=replace(first.format, cluster=3 * KIB)),
                with_first(of="Owner"),
                with_first(letter="Q"),
                replace(good, spare=good.spare - 1),
                replace(good, order=tuple(reversed(good.order))),
                replace(good, sees=good.sees | {"Reader": (Sees.WRITES,) * len(good.volumes)}),
                replace(good, sees={name: row for name, row in good.sees.items() if name != "Reader"}),
                replace(good, drive=Drive(200 * MIB, CARD.ends)),
            )
        ):
            self.assertNotEqual(problems(wrong), [], place)
