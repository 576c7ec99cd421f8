"""Media that are written, read back and compared; firmware kept before another is tried, and put back."""

from django.core.files.uploadedfile import SimpleUploadedFile

from stations.common import clock
from stations.common.refusals import Refused
from stations.selling.as_recorded import listing_facts
from stations.workshop import firmware, knowledge, media, recipe_run, services
from stations.workshop.models import FirmwareChange, Knowledge, MediumRead
from tests.stations.test_intake import picture
from tests.stations.test_storage import Stored


class Media(Stored):
    """What a system is installed from is written, read back and compared with the images that are kept."""

    def scene(self) -> None:
        super().scene()
        self.disks = [bytes([number]) * 368_640 for number in (1, 2)]
        for number, data in enumerate(self.disks, 1):
            known = knowledge.Known(f"Tern DOS 6, disk {number}", "image", "measured", edition="6.2")
            knowledge.keep(self.owner, self.unit, None, 0, known, SimpleUploadedFile("x.img", data))
        self.job = self.make()
        self.index = self.until(self.job, "Write Tern")

    def compare(self, *read: bytes):
        files = [SimpleUploadedFile(f"back-{number}.img", data) for number, data in enumerate(read, 1)]
        return self.post("workshop:step-compare", [self.job.pk], at=str(self.index), read=files)

    def test_the_set_is_written_before_anything_is_formatted(self):
        said = [step["instruction"] for step in self.job.steps]
        self.assertIn("3 disks, from the images", said[self.index])
        self.assertLess(self.index, next(n for n, one in enumerate(said) if one.startswith("Make the volumes")))
        self.assertEqual(self.job.steps[self.index]["minutes"], 9)

    def test_what_differs_is_named_and_holds_the_step(self):
        spoilt = self.disks[1][:5120] + b"\x00" * 600 + self.disks[1][5720:]
        self.done(self.compare(self.disks[0], spoilt))
        page = self.client.get(f"/workshop/jobs/{self.job.pk}/")
        self.assertContains(page, "back-1.img against Tern DOS 6, disk 1: <b>equal</b>")
        self.assertContains(page, "2 sectors differ, the first is 10")
        page = self.post("workshop:step-done", [self.job.pk], at=str(self.index), typed="0")
        self.assertContains(page, "Not equal when compared: back-2.img")
        self.done(self.compare(*self.disks))
        self.done(self.post("workshop:step-done", [self.job.pk], at=str(self.index), typed="0"))

    def test_what_cant_be_compared_is_said(self):
        self.assertContains(self.compare(), "Choose what was read back")
        with self.assertRaisesMessage(Refused, "Another step"):
            media.compare(self.owner, self.job, 0, [SimpleUploadedFile("x", b"1")])
        Knowledge.objects.all().delete()
        self.assertContains(self.compare(b"1"), "No image of this is kept")
        self.sign_in(self.viewer)
        self.compare(b"1")
        self.assertFalse(MediumRead.objects.exists())

    def test_a_listing_names_what_was_installed(self):
        for index, step in enumerate(recipe_run.steps_of_job(self.again(self.job))):
            if not step.settled:
                typed, photo = ("0" if step.step.proof.is_typed else ""), step.step.proof.is_photo
                self.step(self.job, index, typed, picture() if photo else None)
        self.assertEqual(listing_facts(self.unit).installed, [])
        with clock.at(self.now):
            services.finish_job(self.owner, self.again(self.job), services.JobResult(""))
        self.assertEqual(listing_facts(self.unit).installed, ["Tern DOS 6", "Lantern 2"])


class Firmware(Stored):
    """What a chip holds is kept before another is tried, and put back."""

    OLD, NEW = bytes(range(256)) * 128, bytes(reversed(range(256))) * 128

    def scene(self) -> None:
        super().scene()
        known = knowledge.Known("A later one", "firmware", "measured", edition="6.2")
        knowledge.keep(self.owner, self.unit, None, 0, known, SimpleUploadedFile("new.bin", self.NEW))
        self.later = Knowledge.objects.get()

    def keep(self, second: bytes | None = None, **change):
        files = {
            "first": SimpleUploadedFile("a.bin", self.OLD),
            "second": SimpleUploadedFile("b.bin", self.OLD if second is None else second),
        }
        asked = {"chip": "video card", "edition": "1.3"} | files | change
        return self.post("workshop:firmware", [self.unit.number], **asked)

    def change(self, what: str, read: bytes | None = None, **more):
        asked = {"chip": "video card", "what": what} | more
        if read is not None:
            asked["read"] = SimpleUploadedFile("back.bin", read)
        return self.post("workshop:change-firmware", [self.unit.number], **asked)

    def test_kept_another_tried_the_old_one_put_back(self):
        self.done(self.keep())
        self.done(self.change("tried", image=self.later.pk))
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/firmware/"), "another is on trial")
        self.assertIn(
            "firmware of video card: 6.2; the old one is kept as a file", listing_facts(self.unit).not_original
        )
        self.assertContains(self.change("back", self.NEW, words="no better"), "32,768 bytes differ, the first is 0x0")
        self.done(self.change("back", self.OLD, words="no better"))
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/firmware/"), "as it came")
        self.assertEqual(firmware.not_as_it_came([self.unit]), {self.unit.pk: []})

    def test_what_it_came_with_is_never_another_file(self):
        self.done(self.keep())
        own = FirmwareChange.objects.get().image
        there = f"/workshop/W-{self.unit.number}/known/?one={own.pk}"
        said = {
            "title": own.title,
            "kind": own.kind,
            "sure": own.sure,
            "words": "off the socket",
            "version": own.version,
        }
        other = {"file": SimpleUploadedFile("x.bin", self.NEW), "write_key": "other"}
        self.assertContains(self.client.post(there, said | other), "keep this one beside it")
        same = {"file": SimpleUploadedFile("y.bin", self.OLD), "write_key": "same"}
        self.assertEqual(self.client.post(there, said | same).status_code, 302)
        own = self.again(own)
        self.assertEqual((own.words, knowledge.path_of(own.sha256).read_bytes()), ("off the socket", self.OLD))

    def test_two_reads_that_differ_are_no_read(self):
        spoilt = self.OLD[:0x100] + b"\x00" * 3 + self.OLD[0x103:]
        self.assertContains(self.keep(second=spoilt), "2 bytes differ, the first is 0x101")
        self.assertContains(self.keep(second=b""), "empty")
        self.assertFalse(FirmwareChange.objects.exists())

    def test_what_cant_be_is_said_at_its_field(self):
        with self.assertRaisesMessage(Refused, "Read it out first"):
            firmware.try_other(self.owner, self.unit, "video card", self.later)
        self.done(self.keep())
        self.assertContains(self.keep(chip="Video card"), "read out already")
        self.assertContains(self.change("tried"), "Choose the image")
        own = FirmwareChange.objects.get().image
        self.assertContains(self.change("tried", image=own.pk), "That is what it holds now")
        large = knowledge.Known("A large one", "firmware", "measured", edition="6.2")
        knowledge.keep(self.owner, self.unit, None, 0, large, SimpleUploadedFile("l.bin", self.NEW * 2))
        larger = Knowledge.objects.get(title="A large one")
        self.assertContains(self.change("tried", image=larger.pk), "The image has 65,536 bytes, the chip 32,768")
        self.assertContains(self.change("back", self.OLD), "It holds what it came with")
        self.assertContains(self.change("stays", self.OLD), "Nothing is on trial")
        self.done(self.change("tried", image=self.later.pk))
        self.assertContains(self.change("tried", image=larger.pk), "is on trial in it")
        self.assertContains(self.change("stays", self.NEW), "Say why it stays")
        self.assertContains(self.change("stays", words="faster"), "Choose what was read")
        self.done(self.change("stays", self.NEW, words="faster"))
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/firmware/"), "not as it came")

    def test_a_viewer_changes_nothing(self):
        self.sign_in(self.viewer)
        self.keep()
        self.assertFalse(FirmwareChange.objects.exists())
