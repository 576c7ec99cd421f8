"""Storage through the pages: systems and their rules, a drive planned and made a job, goes that failed and the one that
worked, what was sanitised, bad tracks, images."""

from datetime import timedelta
from decimal import Decimal as D

import pypdfium2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import read_sheet, sheet_data
from core.stock.parts import PartKind
from core.workshop.storage.install import Before
from core.workshop.storage.sizes import GIB, MIB
from core.workshop.storage.volumes import Drive, Shared, Wish
from stations.catalogue.models import ModelOffers
from stations.common import clock
from stations.common.refusals import Refused
from stations.intake import settling
from stations.units import parts
from stations.units.models import Unit
from stations.workshop import attempts, knowledge, recipe_run, sanitising, settings, storage
from stations.workshop.models import (
    InstallAttempt,
    Job,
    PlannedStorage,
    Sanitising,
    SystemRules,
    TrackTable,
)
from stations.workshop.storage import Asked
from tests.stations.test_intake import picture
from tests.stations.test_through_the_pages import Through

TERN = """writes: FAT12 to 16 MiB, FAT16 to 2 GiB
starts: first
needs: 8 MiB
order: 6
minutes: 9, alone 4, restarts 1
media: 3 disks"""
LANTERN = "writes: FAT16 to 2 GiB\nstarts: on Tern DOS 6\norder: 7\nminutes: 14, restarts 2"
SKERRY = "reads: FAT16 to 2 GiB\nstarts: floppy\nreaches: own driver\norder: 8"


class Stored(Through):
    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed("enhanced")
        self.now = timezone.now()
        self.keys = {}
        for name, rules in (("Tern DOS 6", TERN), ("Lantern 2", LANTERN), ("Skerry 1.2", SKERRY)):
            self.keys[name] = storage.keep_system(self.owner, None, 0, name, rules).pk

    def asked(self, **change) -> dict:
        tern, lantern, skerry = (f"s{key}" for key in self.keys.values())
        return {
            "what": "8 GB card",
            "size": "8 GB",
            "sector": "512",
            "firmware": "1,024 × 16 × 63",
            "adapter": "",
            "share": "on",
            "shared_files": "2600",
            "keep_old": "on",
            "drivers": "sound: 6 min, 1 restart",
            tern: "on",
            f"{tern}_space": "300 MiB",
            f"{tern}_files": "4100",
            f"{tern}_shares": "on",
            lantern: "on",
            skerry: "on",
        } | change

    def look(self, **change):
        return self.client.get(f"/workshop/W-{self.unit.number}/storage/", self.asked(**change))

    def make(self, **change) -> Job:
        self.done(self.post("workshop:storage", [self.unit.number], **self.asked(**change)))
        return Job.objects.latest("pk")

    def step(self, job: Job, index: int, typed: str = "", file=None) -> None:
        with clock.at(self.now):
            now = recipe_run.steps_of_job(self.again(job))[index]
            if now.to_start:
                recipe_run.start_alone(self.owner, self.again(job), index)
                self.now += timedelta(minutes=now.step.alone_minutes + 1)
        with clock.at(self.now):
            recipe_run.do_step(self.owner, self.again(job), index, typed, "", file)

    def until(self, job: Job, words: str) -> int:
        """Does the steps before the one that begins so; answers its index."""
        for index, step in enumerate(recipe_run.steps_of_job(job)):
            if step.step.instruction.startswith(words):
                return index
            self.step(
                job, index, "0" if step.step.proof.is_typed else "", picture() if step.step.proof.is_photo else None
            )
        raise AssertionError(words)


class Systems(Stored):
    def test_rules_are_kept_changed_and_two_people_are_told(self):
        self.done(self.post("workshop:systems", [], name="Reef 1", rules="writes: own to 1 GiB", version="1"))
        row = SystemRules.objects.get(name="Reef 1")
        self.done(self.post("workshop:system", [row.pk], name="Reef 1", rules="writes: own to 2 GiB", version="1"))
        self.assertIn("2 GiB", self.again(row).rules)
        page = self.post("workshop:system", [row.pk], name="Reef 1", rules="writes: own to 3 GiB", version="1")
        self.assertContains(page, "Somebody else saved this")
        self.assertContains(self.client.get("/workshop/systems/"), "Reef 1")

    def test_what_is_wrong_is_said_with_its_line(self):
        for typed, words in (
            ("writes: FAT16 to 2 GiB\nstarts: second", "Line 2: first, any, floppy"),
            ("writes: FAT16 to 12", "below a sector"),
            ("", "Say at least what it writes"),
        ):
            self.assertContains(self.post("workshop:systems", [], name="X", rules=typed, version="1"), words)
        page = self.post("workshop:systems", [], name="tern dos 6", rules=TERN, version="1")
        self.assertContains(page, "There is a system called so already")

    def test_a_viewer_changes_nothing(self):
        self.sign_in(self.viewer)
        self.post("workshop:systems", [], name="Reef 1", rules="writes: own to 1 GiB", version="1")
        self.assertFalse(SystemRules.objects.filter(name="Reef 1").exists())


class Planned(Stored):
    def test_a_card_is_planned_and_made_a_job(self):
        page = self.look()
        for words in (
            "2 volumes",
            "3 of 3 systems",
            "boots",
            "reads",
            "528,482,304",
            "spare",
            "would reach them",
        ):
            self.assertContains(page, words)
        job = self.make()
        self.assertEqual((job.kind, job.title), ("software", "Set up 7.5 GiB for Tern DOS 6, Lantern 2"))
        words = [step["instruction"] for step in job.steps]
        self.assertIn("Copy the old drive to a file", words[0])
        self.assertIn("C 300 MiB FAT16, clusters of 8 KiB", words[3])
        self.assertTrue(words[2].startswith("Write Tern DOS 6: 3 disks"))
        self.assertEqual([one[:16] for one in words[4:7]], ["Install Tern DOS", "Install Lantern ", "Driver: sound."])
        self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "Copy the old drive")
        self.assertEqual(sum(step.get("restarts", 0) for step in job.steps), 6)

    def test_many_volumes_stand_down_the_page_and_what_can_not_be_is_said(self):
        page = self.look(size="24 GiB", firmware="")
        self.assertGreater(len(page.context["turned"]), 8)
        for volume, cells in page.context["turned"]:
            self.assertEqual(len(cells), 3, volume)
        self.assertContains(page, '<td data-label="Tern DOS 6">', len(page.context["turned"]))
        page = self.look(**{f"s{self.keys['Tern DOS 6']}_space": "4 GiB"})
        self.assertTrue(page.context["found"].refused)
        for words in page.context["found"].refused:
            self.assertContains(page, words)

    def test_the_plan_of_a_job_stays_when_rules_change(self):
        job = self.make()
        before = storage.plan_of(job)
        SystemRules.objects.filter(name="Tern DOS 6").update(rules="writes: FAT16 to 32 MiB\nstarts: first")
        self.assertEqual(storage.plan_of(self.again(job)), before)
        self.assertEqual(PlannedStorage.objects.get(job=job).asked["size"], 8_000_000_000)

    def test_what_is_wrong_is_said_at_its_field(self):
        tern, lantern = f"s{self.keys['Tern DOS 6']}", f"s{self.keys['Lantern 2']}"
        for change, words in (
            ({"size": ""}, "Say how large it is"),
            ({"size": "big"}, "is no size"),
            ({"sector": "500"}, "A sector of 256"),
            ({"firmware": "own", "firmware_size": "100"}, "Below a sector"),
            ({"firmware": "own", "firmware_size": ""}, "is no size"),
            ({f"{tern}_space": "9 GB"}, "More than the drive has"),
            ({f"{tern}_files": "-4"}, "may not be below 0"),
            ({"shared": "9 GB"}, "More than the drive has"),
            ({"drivers": "sound"}, "Line 1: a name, a colon"),
            ({tern: ""}, "Lantern 2 runs on Tern DOS 6"),
            ({tern: "", lantern: "", f"s{self.keys['Skerry 1.2']}": ""}, "Choose at least one system"),
        ):
            page = self.look(**change)
            self.assertContains(page, words, msg_prefix=str(change))
            self.assertNotContains(page, "Make it a job")
        page = self.post("workshop:storage", [self.unit.number], **self.asked(size="tiny"))
        self.assertContains(page, "is no size")
        self.assertFalse(Job.objects.exists())

    def test_without_a_system_a_page_says_what_to_do(self):
        SystemRules.objects.all().delete()
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/storage/"), "No system has rules yet")

    def test_a_drive_from_which_nothing_starts_makes_no_job(self):
        system = next(one for one in storage.systems().values() if one.name == "Tern DOS 6")
        with self.assertRaises(Refused):
            storage.make_job(self.owner, self.unit, Asked(Drive(2 * MIB), (Wish(system, MIB),), None), Before(), ())

    def test_where_the_models_firmware_ends_stands_there(self):
        offers = sheet_data(read_sheet(Offers, "firmware\n  chip: version 1.2; largest disk 504 MiB"))
        ModelOffers.objects.create(model=self.unit.model, offers=offers)
        page = self.client.get(f"/workshop/W-{self.unit.number}/storage/")
        self.assertContains(page, 'value="504 MiB"')
        self.assertContains(self.look(firmware="own", firmware_size="504 MiB"), "528,482,304")

    def test_queries_do_not_grow_with_systems(self):
        from django.db import connection
        from django.test.utils import CaptureQueriesContext

        def count() -> int:
            with CaptureQueriesContext(connection) as seen:
                self.client.get(f"/workshop/W-{self.unit.number}/storage/")
            return len(seen)

        few = count()
        for number in range(12):
            storage.keep_system(self.owner, None, 0, f"Reef {number}", "writes: own to 1 GiB")
        self.assertEqual(count(), few)


class Goes(Stored):
    def fail(self, job: Job, index: int, words: str, varied: str = ""):
        with clock.at(self.now):
            return self.post("workshop:step-failed", [job.pk], at=str(index), words=words, varied=varied)

    def test_a_go_that_failed_and_the_one_that_worked_first_next_time(self):
        job = self.make()
        index = self.until(job, "Install Lantern")
        self.done(self.fail(job, index, "stops at disk 4", "started from a floppy"))
        self.assertEqual(self.again(job).varied, "started from a floppy")
        self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "stops at disk 4")
        self.step(job, index)
        self.assertEqual(self.again(job).varied, "")
        rows = list(InstallAttempt.objects.filter(what="Install Lantern 2").values_list("varied", "worked"))
        self.assertEqual(rows, [("", False), ("started from a floppy", True)])
        # On the next machine of this model it is offered first.
        self.unit = self.assessed("enhanced")
        other = self.make()
        self.until(other, "Install Lantern")
        page = self.client.get(f"/workshop/jobs/{other.pk}/")
        self.assertContains(page, "started from a floppy: worked 1 of 1 times")
        self.assertContains(self.look(), "went 1 of 2 times")

    def test_a_failure_says_what_was_seen_and_its_time_begins_anew(self):
        job = self.make()
        index = self.until(job, "Install Tern")
        with clock.at(self.now):
            recipe_run.start_alone(self.owner, self.again(job), index)
        self.assertContains(self.fail(job, index, ""), "Say what it said")
        self.done(self.fail(job, index, "no system found"))
        with clock.at(self.now):
            self.assertTrue(recipe_run.steps_of_job(self.again(job))[index].to_start)

    def test_a_step_taken_back_did_not_work_and_one_left_out_varies_nothing(self):
        job = self.make()
        index = self.until(job, "Install Tern")
        self.done(self.fail(job, index, "no system found", "other tool"))
        self.step(job, index)
        with clock.at(self.now):
            recipe_run.step_back(self.owner, self.again(job))
        self.assertFalse(InstallAttempt.objects.filter(worked=True).exists())
        self.assertEqual(self.again(job).varied, "other tool")
        with clock.at(self.now):
            recipe_run.leave_out(self.owner, self.again(job), index, "no disks")
        self.assertEqual(self.again(job).varied, "")

    def test_another_step_is_in_hand(self):
        job = self.make()
        with self.assertRaisesMessage(Refused, "Another step"):
            storage.failed(self.owner, job, 3, "no", "")
        self.sign_in(self.viewer)
        self.fail(job, 0, "no")
        self.assertFalse(InstallAttempt.objects.exists())

    def test_where_no_model_is_known_nothing_is_said_of_before(self):
        Unit.objects.filter(pk=self.unit.pk).update(model=None)
        job = self.make()
        self.assertEqual(attempts.variants_at(self.again(job), "Install Tern DOS 6: on C"), [])
        self.assertEqual(attempts.record_on(None), {})


class Wiped(Stored):
    CLEAR = {
        "what": "Drive 40 MB",
        "serial": "D40-1",
        "medium": "hard disk",
        "method": "clear",
        "samples": "2000",
        "differing": "0",
    }

    def wipe(self, **change):
        return self.post("workshop:sanitise", [self.unit.number], **self.CLEAR | change)

    def test_a_drive_is_wiped_and_has_its_certificate(self):
        self.done(self.wipe())
        row = Sanitising.objects.get()
        self.assertEqual(row.verified, "2,000 places read back, none differs")
        self.assertIsNotNone(self.again(self.unit).data_cleared_at)
        answer = self.client.get(reverse("workshop:certificate", args=[row.pk]))
        self.assertEqual(answer["Content-Type"], "application/pdf")
        text = pypdfium2.PdfDocument(answer.content)[0].get_textpage().get_text_range()
        for words in (
            "Certificate of sanitising",
            "D40-1",
            "written over once",
            "NIST SP 800-88 Rev. 1",
            str(self.unit.tag),
            self.owner.name,
        ):
            self.assertIn(words, text)
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/storage/"), "Certificate")

    def test_what_does_not_read_back_clean_is_not_sanitised(self):
        for change, words in (
            ({"differing": "3"}, "3 of 2000 read something else"),
            ({"samples": "20"}, "Read back 100 places at least"),
            ({"samples": ""}, "Read back 100 places at least"),
            ({"differing": ""}, "Say how many read"),
            ({"differing": "3000"}, "More than were read"),
            ({"medium": "optical disc"}, "this is not possible"),
            ({"medium": ""}, "Fill this in."),
            ({"what": ""}, "Say which"),
        ):
            page = self.wipe(**change)
            self.assertContains(page, words, msg_prefix=str(change))
            self.assertContains(page, 'value="D40-1"')
        self.assertFalse(Sanitising.objects.exists())
        self.assertIsNone(self.again(self.unit).data_cleared_at)

    def test_what_is_destroyed_is_looked_at(self):
        self.done(self.wipe(method="destroy", samples="", differing=""))
        self.assertEqual(Sanitising.objects.get().verified, "what is left of it was looked at")

    def test_what_is_to_be_kept_is_imaged_first(self):
        Unit.objects.filter(pk=self.unit.pk).update(data_keep=True)
        self.assertContains(self.wipe(), "to be imaged first")
        self.done(self.wipe(imaged="on"))

    def test_a_part_by_itself_has_its_certificate_too(self):
        described = parts.Described(PartKind.DRIVE, "Disk 40 MB", "S-1", keeps_data=True)
        disk = parts.record_part(self.owner, parts.Place(self.unit, "bay"), described)
        worths = parts.Worths(D(10), D(100))
        parts.move_part(self.owner, disk, parts.Place(drawer="D4"), "out", worths)
        page = self.client.get(f"/workshop/P-{disk.number}/")
        self.assertContains(page, "With a certificate")
        self.assertContains(
            self.post("workshop:part-certified", [disk.number], **self.CLEAR | {"differing": "1"}), "not sanitised"
        )
        self.done(self.post("workshop:part-certified", [disk.number], **self.CLEAR))
        self.assertIsNotNone(self.again(disk).sanitised_at)
        row = Sanitising.objects.get()
        answer = self.client.get(reverse("workshop:certificate", args=[row.pk]))
        text = pypdfium2.PdfDocument(answer.content)[0].get_textpage().get_text_range()
        self.assertIn(str(disk.code), text)
        self.assertNotIn("Withdrawn", text)
        # It was another drive: the certificate says so from now on.
        self.assertContains(self.post("workshop:part-not-sanitised", [disk.number], why=""), "Say what was found")
        self.done(self.post("workshop:part-not-sanitised", [disk.number], why="names of pupils"))
        self.assertIsNone(self.again(disk).sanitised_at)
        text = self.text_of(row)
        self.assertIn("Withdrawn", text)
        self.assertIn("names of pupils", text)
        self.assertContains(self.client.get(f"/workshop/P-{disk.number}/"), "withdrawn")
        with self.assertRaisesRegex(Refused, "not recorded as sanitised"):
            parts.not_sanitised(self.owner, self.again(disk), "twice")

    def text_of(self, row: Sanitising) -> str:
        answer = self.client.get(reverse("workshop:certificate", args=[row.pk]))
        return pypdfium2.PdfDocument(answer.content)[0].get_textpage().get_text_range()

    def test_a_certificate_of_what_was_not_wiped_after_all_is_withdrawn(self):
        self.done(self.wipe())
        settling.data_still_there(self.owner, self.again(self.unit), "the other drive was done")
        first = Sanitising.objects.get()
        self.done(self.wipe())
        self.assertIn("the other drive was done", self.text_of(first))
        self.assertNotIn("Withdrawn", self.text_of(Sanitising.objects.exclude(pk=first.pk).get()))
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/storage/"), "withdrawn", count=1)

    def test_bad_tracks_are_compared(self):
        asked = {
            "what": "Drive 40 MB",
            "cylinders": "820",
            "heads": "6",
            "label": "120/3, 121/3",
            "scan": "120/3\n122/3",
        }
        self.done(self.post("workshop:keep-tracks", [self.unit.number], **asked))
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/storage/"), "1 new: 122/3")
        for change, words in (
            ({"label": "900/3"}, "has 820 cylinders"),
            ({"scan": "1/6"}, "has 6 heads"),
            ({"scan": "track one"}, "is no track"),
            ({"scan": "1/1, 1/1"}, "stands there twice"),
            ({"label": "", "scan": ""}, "Type the table"),
        ):
            page = self.post("workshop:keep-tracks", [self.unit.number], **asked | change)
            self.assertContains(page, words, msg_prefix=str(change))
        self.assertEqual(TrackTable.objects.count(), 1)
        self.assertEqual(sanitising.compared(TrackTable.objects.get()).both, 1)


class Images(Stored):
    def test_images_are_listed_with_what_their_size_says(self):
        for title, kind, size in (
            ("System disk 1", "image", 368_640),
            ("Odd one", "image", 1234),
            ("Chip", "firmware", 32_768),
        ):
            file = SimpleUploadedFile("x.img", bytes(size), "application/octet-stream")
            knowledge.keep(self.owner, self.unit, None, 0, knowledge.Known(title, kind, "measured"), file)
        page = self.client.get("/workshop/images/")
        for words in ("diskette, 5.25 inch, double density", "no known format", "chip, 32 KiB", "368,640", "not known"):
            self.assertContains(page, words)

    def test_the_set_a_system_is_installed_from_stands_at_its_step(self):
        file = SimpleUploadedFile("x.img", bytes(368_640), "application/octet-stream")
        known = knowledge.Known("Tern DOS 6, disk 1", "image", "measured", edition="6.2", may_pass_on=False)
        knowledge.keep(self.owner, self.unit, None, 0, known, file)
        job = self.make()
        self.until(job, "Install Tern")
        page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertContains(page, "Tern DOS 6, disk 1")
        self.assertContains(page, "not to be passed on")

    def test_a_file_with_another_checksum_is_refused_at_its_field(self):
        file = SimpleUploadedFile("x.img", bytes(512), "application/octet-stream")
        asked = {"title": "System disk", "kind": "image", "sure": "measured", "version": "0", "expected": "ab" * 32}
        page = self.post("workshop:known", [self.unit.number], **asked, file=file)
        self.assertContains(page, "this is another file, or it came damaged")
        self.assertContains(page, "ab" * 32)
        page = self.post("workshop:known", [self.unit.number], **asked | {"kind": "note"})
        self.assertContains(page, "Choose the file that this is the checksum of.")
        self.assertFalse(knowledge.known_of(self.unit).exists())


class Tried(Stored):
    """Settings tried against one another."""

    def scene(self) -> None:
        super().scene()
        settings.record_setting(self.owner, self.unit, None, 0, settings.SetAs("SW1", "bank", "1000"))
        self.setting = self.unit.settings.get()

    def again_against(self, **change):
        asked = {"what": "frames a second", "first": "1000", "second": "0100", "judged": "number"}
        values = {"first_value": "24", "second_value": "31.5", "better": ""}
        return self.post("workshop:try-setting", [self.setting.pk], **asked | values | change)

    def test_the_one_that_measures_better_is_kept(self):
        self.done(self.again_against())
        self.assertEqual(self.again(self.setting).set_to, "0100")
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/settings/"), "better is the second")
        self.done(self.again_against(less="on"))
        self.assertEqual(self.again(self.setting).set_to, "")
        self.assertEqual(self.setting.trials.count(), 2)

    def test_by_ear_somebody_says_which(self):
        self.assertContains(self.again_against(judged="ear"), "Say which is better")
        self.done(self.again_against(judged="ear", what="sound", better="second"))
        trial = self.setting.trials.get()
        self.assertEqual((trial.better, trial.first_value, trial.who), ("second", None, self.owner))

    def test_what_is_wrong_is_said_at_its_field(self):
        for change, words in (
            ({"second": "1000"}, "the same state twice"),
            ({"second": "up"}, "1 for on and 0 for off"),
            ({"second_value": ""}, "Measure both"),
            ({"what": ""}, "Say what is compared"),
        ):
            self.assertContains(self.again_against(**change), words, msg_prefix=str(change))
        self.assertFalse(self.setting.trials.exists())


class Named(Stored):
    def test_names_that_confuse_an_installer_are_refused(self):
        rules = TERN + "\nnames: 8 letters, no spaces"
        row = SystemRules.objects.get(name="Tern DOS 6")
        storage.keep_system(self.owner, row, row.version, row.name, rules)
        for typed, words in (
            ("MY WORK", "is confused by a space"),
            ("ARCHIVES1994", "takes 8 letters"),
            ("WORK, work", "twice"),
            ("A, B, C, D", "2 volumes only"),
        ):
            page = self.look(labels=typed)
            self.assertContains(page, words, msg_prefix=typed)
            self.assertNotContains(page, "Make it a job")
        job = self.make(labels="SYS, WORK")
        self.assertIn("C “SYS” 300 MiB", str(job.steps))
        self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "Who sees what")


class Whole(Stored):
    def test_a_small_drive_is_planned_whole(self):
        system = next(one for one in storage.systems().values() if one.name == "Tern DOS 6")
        asked = Asked(Drive(GIB), (Wish(system, 100 * MIB, 10),), Shared(files=5))
        self.assertEqual(storage.from_data(storage.as_data(asked, {"Tern DOS 6": TERN})), asked)
        self.assertEqual(len(asked.plan().volumes), 2)
        self.assertEqual(D(asked.plan().waste), asked.plan().volumes[0].waste + asked.plan().volumes[1].waste)
