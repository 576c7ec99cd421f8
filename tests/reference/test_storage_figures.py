"""Limits of storage against what is published: clusters of file allocation tables, addressing, diskettes."""

import unittest

from core.workshop.storage.clusters import FileSystem, clusters_of, formats
from core.workshop.storage.media import FLOPPIES
from core.workshop.storage.sizes import KIB, MIB
from core.workshop.storage.volumes import ENDS


class Tables(unittest.TestCase):
    """FAT specification 1.03, 2000 (from memory): a volume of fewer than 4,085 clusters is FAT12, of fewer
    than 65,525 FAT16, else FAT32; clusters up to 32 KiB."""

    def test_counts_decide_the_kind(self):
        for system, least, most in (
            (FileSystem.FAT12, 1, 4084),
            (FileSystem.FAT16, 4085, 65524),
            (FileSystem.FAT32, 65525, 268_435_444),
        ):
            for size in (MIB, 5 * MIB, 31 * MIB, 127 * MIB, 513 * MIB, 2047 * MIB, 9000 * MIB):
                for form in formats(size, system):
                    self.assertTrue(least <= form.clusters <= most)

    def test_the_most_a_16_bit_table_holds(self):
        """65,524 × 32,768 = 2,147,090,432 bytes of data: 2,047 MiB hold, 2,048 MiB do not."""
        self.assertEqual(65_524 * 32_768, 2_147_090_432)
        self.assertEqual(formats(2047 * MIB, FileSystem.FAT16)[0].cluster, 32 * KIB)
        self.assertEqual(formats(2048 * MIB, FileSystem.FAT16), [])

    def test_usual_cluster_sizes(self):
        """Table of default cluster sizes of 16-bit volumes, common practice: to 128 MiB 2 KiB, to 256 MiB 4 KiB, and so
        on doubling; a volume just below each bound has at most that."""
        for mebibytes, cluster in ((127, 2), (255, 4), (511, 8), (1023, 16), (2047, 32)):
            self.assertEqual(formats(mebibytes * MIB, FileSystem.FAT16)[0].cluster, cluster * KIB)

    def test_a_real_small_volume(self):
        """A diskette of 1,474,560 bytes has 2,847 clusters beside a root of 224 entries, 14 sectors (from memory); one
        of 512 entries is 32."""
        self.assertEqual(clusters_of(1_474_560, FileSystem.FAT12, 512), 2847 + 14 - 32)

    def test_waste(self):
        """Worked example of the design: 3,000 files at 32 KiB 46.9 MiB, at 2 KiB 2.9 MiB."""
        for cluster, lost in ((32 * KIB, 46.9), (2 * KIB, 2.9)):
            self.assertEqual(round(3000 * cluster / 2 / MIB, 1), lost)


class Addressing(unittest.TestCase):
    def test_ends(self):
        """Interrupt 13h: 1,024 × 16 × 63 and 1,024 × 255 × 63 sectors of 512 bytes; AT attachment: 2^28 sectors."""
        self.assertEqual(ENDS["1,024 × 16 × 63"], 1024 * 16 * 63 * 512)
        self.assertEqual(ENDS["1,024 × 255 × 63"], 1024 * 255 * 63 * 512)
        self.assertEqual(ENDS["28 bits"], 2**28 * 512)
        self.assertEqual(ENDS["615 × 4 × 17"], 615 * 4 * 17 * 512)


class Diskettes(unittest.TestCase):
    def test_sizes(self):
        """ECMA-59 (40 tracks), ECMA-99 (high density), ECMA-100 and -125 (3.5 inch); sectors: common practice."""
        for size in (163_840, 184_320, 327_680, 368_640, 737_280, 1_228_800, 1_474_560, 2_949_120):
            self.assertIn(size, FLOPPIES)
            floppy = FLOPPIES[size]
            self.assertEqual(floppy.cylinders * floppy.heads * floppy.sectors * floppy.sector, size)
