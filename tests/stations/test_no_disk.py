"""A disk that is full, or gone: it is said in words, nothing is kept by half, and what is there goes on working."""

import errno
import io
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import models
from django.test import SimpleTestCase
from django.urls import reverse

from core.selling.packing import Moment
from stations.bench.models import StepNote
from stations.common.files import NotWritten, write_whole
from stations.dispatch import papers, parcels
from stations.dispatch.models import ParcelPhoto
from stations.units import picture_files
from stations.units.models import Clip, Finding, Photo
from stations.workshop.models import Knowledge
from tests.hands import a_picture, a_tone
from tests.stations.test_dispatch import DispatchTest, text_of
from tests.stations.test_through_the_pages import Through

NO_ROOM = OSError(errno.ENOSPC, "No space left on device")


@contextmanager
def no_disk(test: SimpleTestCase) -> Iterator[None]:
    """A media folder that can't be there: what stands in its place is a file."""
    with TemporaryDirectory() as folder:
        (Path(folder) / "disk").touch()
        with test.settings(MEDIA_ROOT=f"{folder}/disk/media"), test.assertLogs("stations.common.files", "ERROR"):
            yield


class Written(SimpleTestCase):
    def test_what_has_no_room_leaves_nothing(self):
        with TemporaryDirectory() as folder:
            for step in ("os.fsync", "pathlib.Path.replace"):
                with (
                    self.subTest(step),
                    patch(step, side_effect=NO_ROOM),
                    self.assertLogs("stations.common.files", "ERROR"),
                    self.assertRaisesRegex(NotWritten, "no space left on device.*nothing was kept"),
                ):
                    write_whole(Path(folder) / "a.jpg", b"x")
            self.assertEqual(list(Path(folder).iterdir()), [])

    def test_it_is_on_the_disk_before_it_has_its_name(self):
        seen = []
        with TemporaryDirectory() as folder, patch("os.fsync", side_effect=seen.append):
            there = Path(folder) / "ab" / "a.jpg"
            write_whole(there, b"x")
            self.assertEqual((len(seen), there.read_bytes()), (2, b"x"))


class NothingIsKept(Through):
    SAYS = "The shop can’t keep files now"

    def test_what_brings_a_file_says_so_and_keeps_what_was_typed(self):
        unit = self.assessed()
        self.post("bench:start", [unit.number])
        known = {
            "kind": "note",
            "title": "Where the fuse is",
            "words": "under the lid",
            "sure": "measured",
            "version": 0,
        }
        for name, args, sent, model, typed in (
            ("intake:add-photos", [unit.number], {"photos": a_picture("front.png", 3)}, Photo, ""),
            ("intake:add-sound", [unit.number], {"clip": a_tone(), "words": "it hums"}, Clip, ""),
            (
                "bench:note",
                [unit.number, "look-case"],
                {"picture": a_picture("a.png", 4), "words": "warm"},
                StepNote,
                "warm",
            ),
            (
                "workshop:known",
                [unit.number],
                known | {"file": SimpleUploadedFile("fuse.txt", b"T 2 A")},
                Knowledge,
                "Where the fuse is",
            ),
        ):
            with self.subTest(name):
                self.refused(name, args, sent, model, typed)
        self.assertFalse(Finding.objects.filter(words="it hums").exists())

    def refused(self, name: str, args: list, sent: dict, model: type[models.Model], typed: str) -> None:
        before = model._default_manager.count()
        with no_disk(self):
            answer = self.client.post(reverse(name, args=args), sent | {"write_key": name}, follow=True)
        self.assertContains(answer, self.SAYS, status_code=answer.status_code)
        self.assertContains(answer, typed, status_code=answer.status_code)
        self.assertEqual(model._default_manager.count(), before)


class Lost(DispatchTest):
    STANDS = "listed"

    def test_a_claim_without_the_file_of_a_picture_says_so(self):
        sale, hand = self.sold(), self.hand()
        hand.pay(sale)
        parcel = hand.pack(sale)
        hand.send(parcel, "Marrow Parcel", "24")
        parcels.broken(self.seller, self.again(parcel), "the corner", None)
        with no_disk(self), self.assertRaises(NotWritten):
            parcels.add_pictures(self.seller, parcel, Moment.DAMAGE, [a_picture("late.png", 88)])
        lost, *others = ParcelPhoto.objects.filter(parcel=parcel).order_by("id")
        picture_files.path_of(lost.sha256).unlink()
        with zipfile.ZipFile(io.BytesIO(papers.claim(self.again(parcel)))) as file:
            pictures = [name for name in file.namelist() if name.endswith(".jpg")]
            self.assertEqual(len(pictures), len(others))
            self.assertEqual(text_of(file.read("report.pdf")).count("its file is lost"), 1)
