"""A backup holds everything and goes back: the same rows, the same files, or a word of what is wrong with it."""

import hashlib
import json
import shutil
import tempfile
from datetime import timedelta
from io import StringIO
from pathlib import Path
from unittest import mock
from zipfile import ZipFile

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.core.management.sql import emit_post_migrate_signal, emit_pre_migrate_signal
from django.db import DatabaseError, connection, connections
from django.db.migrations.loader import MigrationLoader
from django.test import override_settings
from django.urls import reverse

from stations.backup import kept, lost, making, services, work
from stations.backup.making import make
from stations.backup.restoring import restore
from stations.backup.tables import hold_a_shop, tables
from stations.backup.upgrades import there_already
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.ledger.models import LedgerEntry
from stations.people.models import HistoryEntry, Person
from stations.queue import services as queue
from stations.queue.models import QueuedWork
from stations.units import picture_files, sounds
from stations.units.models import Unit
from stations.workshop import knowledge
from tests.hands import a_tone
from tests.stations.base import AtOnce, ShopTest


class InAFolder:
    def setUp(self):
        here = Path(tempfile.mkdtemp(prefix="wendopolis-backups-"))
        self.addCleanup(shutil.rmtree, here)
        self.folder = here / "backups"
        self.folder.mkdir()
        # A media folder of its own: others work beside it.
        changed = override_settings(BACKUP_ROOT=self.folder, BACKUPS_KEPT=5, MEDIA_ROOT=str(here / "media"))
        changed.enable()
        self.addCleanup(changed.disable)
        # What Django writes after a migration is there in a shop, and is not put back between tests.
        emit_post_migrate_signal(0, False, "default")
        super().setUp()

    def inside(self, path: Path) -> dict[str, bytes]:
        with ZipFile(path) as file:
            return {name: file.read(name) for name in file.namelist()}

    def written(self, inside: dict[str, bytes], name: str = "wendopolis-20260101-000000.zip") -> Path:
        with ZipFile(self.folder / name, "w") as file:
            for one, text in inside.items():
                file.writestr(one, text)
        return self.folder / name


class ThereAndBack(InAFolder, AtOnce):
    def empty(self) -> None:
        """As a database is where nobody was yet."""
        self._fixture_teardown()
        shutil.rmtree(settings.MEDIA_ROOT, ignore_errors=True)

    def test_everything_comes_back_as_it_was(self):
        unit = self.listed()
        last = LedgerEntry.objects.latest("pk").pk
        path = make()
        before = self.inside(path)
        told = json.loads(before.pop(making.MANIFEST))
        self.assertEqual(set(told["tables"]), set(tables()))
        self.assertTrue(picture_files.path_of(unit.photos.first().sha256).exists())
        self.empty()
        self.assertFalse(hold_a_shop())
        out = StringIO()
        call_command("restore", path, stdout=out)
        self.assertIn("The books add up", out.getvalue())
        self.assertIn("0 differ", out.getvalue())
        self.assertEqual(Unit.objects.get(pk=unit.pk).stage, unit.stage)
        self.assertTrue(picture_files.path_of(unit.photos.first().sha256).exists())
        with mock.patch.object(clock, "now", return_value=clock.now() + timedelta(seconds=5)):
            after = self.inside(make())
        after.pop(making.MANIFEST)
        self.assertEqual(after, before)
        with self.assertRaises(DatabaseError), connection.cursor() as cursor:
            cursor.execute("DELETE FROM ledger_ledgerentry")
        self.assertGreater(tables()["ledger_ledgerentry"].next_key, last, "no key is given out twice")
        with self.assertRaisesRegex(Refused, "There is a shop in this database already"):
            restore(path)

    def test_one_that_can_not_be_put_back_leaves_the_database_empty(self):
        self.receive()
        path = make()
        inside = self.inside(path)
        name = "data/units_unit.jsonl"
        told = json.loads(inside[making.MANIFEST])
        for changes, words in (
            ({"currency": "GBP"}, "kept in GBP, this shop is set up for EUR"),
            ({"format": 2}, "written in format 2"),
            ({"migrations": [*told["migrations"], ["units", "0999_of_tomorrow"]]}, "newer version"),
            ({"tables": told["tables"] | {"x": told["tables"]["units_unit"]}}, "data/x.jsonl is missing"),
            ({"media": {"../../../etc/passwd": "0"}}, "is missing"),
            ({"media": 3}, "is no backup"),
        ):
            broken = self.written(inside | {making.MANIFEST: json.dumps(told | changes).encode()})
            with self.subTest(changes), self.assertRaisesRegex(Refused, words):
                self.empty()
                restore(broken)
            self.assertFalse(Person.objects.exists())
        strange = inside | {"media/../x": b"x"}
        told["media"] = {"../x": "2d711642b726b04401627ca9fbac32f5c8530fb1903cc4db02258717921a4881"}
        with self.assertRaisesRegex(Refused, "no name of a file"):
            restore(self.written(strange | {making.MANIFEST: json.dumps(told).encode()}))
        with self.assertRaisesRegex(Refused, f"{name} in it is not what was written"):
            restore(self.written(inside | {name: inside[name] + b"\n"}))
        for row in (b"[1]\n", b"no JSON\n", inside[name].replace(b'"Halden M2"', b"null")):
            told = json.loads(inside[making.MANIFEST])
            told["tables"]["units_unit"]["sha256"] = hashlib.sha256(row).hexdigest()
            rows = {name: row, making.MANIFEST: json.dumps(told).encode()}
            with self.subTest(row[:9]), self.assertRaisesRegex(Refused, "The database is empty still"):
                restore(self.written(inside | rows))
            self.assertFalse(Person.objects.exists())
        cut = self.folder / "cut.zip"
        cut.write_bytes(path.read_bytes()[:-200])
        with self.assertRaisesRegex(CommandError, "no backup, or not all of it"):
            call_command("restore", cut, check=True)
        with self.assertRaisesRegex(CommandError, "no backup, or not all of it"):
            call_command("restore", self.folder / "none.zip", check=True)
        self.assertFalse(Person.objects.exists())
        out = StringIO()
        call_command("restore", path, check=True, stdout=out)
        self.assertIn("It is whole", out.getvalue())

    def test_it_is_of_one_moment_whatever_is_written_meanwhile(self):
        told = []

        def write_meanwhile(table, on):
            if table.name == "catalogue_machinemodel":
                other = connections.create_connection("default")
                with other.cursor() as cursor:
                    cursor.execute("UPDATE people_person SET first_name = 'Meanwhile'")
                other.close()
            told.append(table.name)
            return lines(table, on)

        lines = making.lines
        with mock.patch.object(making, "lines", write_meanwhile):
            inside = self.inside(make())
        self.assertGreater(told.index("people_person"), told.index("catalogue_machinemodel"))
        self.assertNotIn(b"Meanwhile", inside["data/people_person.jsonl"])
        self.assertTrue(Person.objects.filter(first_name="Meanwhile").exists())


class Kept(InAFolder, ShopTest):
    def old(self, days: int) -> Path:
        path = self.folder / f"wendopolis-{clock.now() - timedelta(days=days):%Y%m%d-%H%M%S}.zip"
        path.write_bytes(b"x" * 2**20)
        return path

    def test_one_is_made_every_night_and_the_oldest_are_let_go(self):
        queue.put_recurring()
        queue.put_recurring()
        self.assertEqual(QueuedWork.objects.filter(kind=work.MAKE).count(), 1)
        paths = [self.old(days) for days in range(1, 8)]
        with mock.patch.object(work, "make"):
            self.assertEqual(queue.work_once("here").state, QueuedWork.State.DONE)
        self.assertEqual([one.name for one in kept.backups()], [path.name for path in paths[:5]])
        for hours, hour, count in ((11, 2, 0), (13, 2, 1), (13, 14, 0), (31, 14, 1)):
            QueuedWork.objects.all().delete()
            night = clock.now().replace(hour=hour)
            aged = mock.patch.object(kept, "age", return_value=timedelta(hours=hours))
            with aged, mock.patch("django.utils.timezone.localtime", return_value=night):
                queue.put_recurring()
            self.assertEqual(QueuedWork.objects.filter(kind=work.MAKE).count(), count, (hours, hour))
        (self.folder / "wendopolis-99999999-999999.zip").write_bytes(b"of somebody")
        (self.folder / "wendopolis-20260101-000000.zip").symlink_to(self.folder / "gone")
        self.assertEqual(len(kept.backups()), 5)
        with override_settings(BACKUPS_KEPT=0):
            kept.let_go()
            self.assertEqual(len(kept.backups()), 5)
            QueuedWork.objects.all().delete()
            queue.put_recurring()
            self.assertFalse(QueuedWork.objects.filter(kind=work.MAKE).exists())

    def test_without_room_none_is_begun(self):
        full = mock.patch("shutil.disk_usage", return_value=mock.Mock(free=2**20))
        with full, self.assertRaisesRegex(Refused, "Only 1 MB are free"):
            make()
        with full, self.assertRaisesRegex(CommandError, "Only 1 MB are free"):
            call_command("backup")
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_two_of_one_second_are_two(self):
        media = Path(settings.MEDIA_ROOT)
        media.mkdir()
        (media / "one.jpg").write_bytes(b"picture")
        with mock.patch.object(clock, "now", return_value=clock.now()):
            first = make()
            (media / "one.jpg").unlink()
            second = make()
        self.assertEqual([one.name for one in kept.backups()], [second.name, first.name])
        self.assertEqual([len(self.media_of(path)) for path in (first, second)], [1, 0])

    def test_two_at_once_are_one(self):
        media = Path(settings.MEDIA_ROOT)
        media.mkdir()
        with making._one_at_a_time(media):
            with self.assertRaisesRegex(Refused, "being made already"):
                make()
            queue.put(work.MAKE, {})
            self.assertEqual(queue.work_once("another").state, QueuedWork.State.DONE)
        self.assertEqual(kept.backups(), [])

    def test_what_one_that_was_killed_left_is_cleared_away_and_pictures_are_held_as_they_are(self):
        media = Path(settings.MEDIA_ROOT)
        for name in ("photos/ab/one.jpg", "photos/ab/.half.part", ".backup-old/photos/ab/gone.jpg"):
            (media / name).parent.mkdir(parents=True, exist_ok=True)
            (media / name).write_bytes(b"picture")
        (self.folder / ".wendopolis-20260101-000000.zip.part").write_bytes(b"half")

        def dropped(file, database, there):
            (media / "photos/ab/one.jpg").unlink()
            write(file, database, there)

        write = making._write
        with mock.patch.object(making, "_write", dropped):
            path = make()
        self.assertIn("media/photos/ab/one.jpg", self.inside(path))
        self.assertEqual(sum(name.startswith("media/") for name in self.inside(path)), 1)
        self.assertEqual(path.stat().st_mode & 0o777, 0o600)
        self.assertEqual((list(self.folder.iterdir()), list(media.glob(".backup-*"))), ([path], []))
        path.unlink()
        (media / "photos/ab/two.jpg").write_bytes(b"picture")
        with mock.patch("os.link", side_effect=PermissionError):
            self.assertIn("media/photos/ab/two.jpg", self.inside(make()))

    def test_what_is_lost_is_told_kept_and_brought_back(self):
        unit = self.listed()
        sounds.add_heard(self.owner, unit, a_tone(), "it hums")
        known = knowledge.Known("Where the fuse is", "note", "measured")
        knowledge.keep(self.owner, unit, None, 0, known, SimpleUploadedFile("fuse.txt", b"T 2 A"))
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        there, floor = reverse("backup:backups"), "not on the disk any more"
        self.assertEqual(lost.look(), [])
        for days in range(1, 6):
            self.old(days)
        whole = make()
        media = Path(settings.MEDIA_ROOT)
        gone = sorted(self.media_of(whole))
        self.assertGreater(len(gone), 3)
        shutil.rmtree(media)
        self.assertEqual(lost.lost(), gone)
        self.assertNotContains(self.client.get("/"), floor)
        queue.put(work.MAKE, {})
        self.assertEqual(queue.work_once("another").state, QueuedWork.State.DONE)
        self.assertEqual(len(kept.backups()), 7, "none is let go")
        self.assertContains(self.client.get("/"), f"{len(gone)} pictures, sounds or other files are {floor}")
        self.assertContains(self.client.get(there), "sounds: 1, what is known: 1")
        with self.assertRaises(NotAllowed):
            services.bring_back(self.seller)
        self.client.post(reverse("backup:bring-back"), {"write_key": ""})
        self.assertEqual(lost.lost(), [])
        self.assertEqual({name: (media / name).read_bytes() for name in gone}, self.media_of(whole))
        self.assertNotContains(self.client.get("/"), floor)
        self.assertTrue(HistoryEntry.objects.filter(action="backup.bring_back", data={"count": len(gone)}).exists())
        with self.assertRaisesRegex(Refused, "Nothing is lost"):
            services.bring_back(self.owner)

    def media_of(self, path: Path) -> dict[str, bytes]:
        inside = self.inside(path).items()
        return {name.removeprefix("media/"): data for name, data in inside if name.startswith("media/")}

    def test_what_no_backup_has_stays_lost_and_a_broken_one_gives_nothing(self):
        unit = self.listed()
        whole = make()
        path = picture_files.path_of(unit.photos.first().sha256)
        name = path.relative_to(settings.MEDIA_ROOT).as_posix()
        path.unlink()
        inside = self.inside(whole)
        whole.unlink()
        self.written(inside | {f"media/{name}": b"another"})
        (self.folder / "wendopolis-20260102-000000.zip").write_bytes(b"half")
        with self.assertRaisesRegex(Refused, "No backup that is here has them"):
            services.bring_back(self.owner)
        self.assertEqual(lost.lost(), [name])
        self.written(inside)
        self.assertEqual(services.bring_back(self.owner), (1, 0))
        self.assertTrue(path.exists())

    def test_an_owner_sees_how_old_it_is_makes_one_and_takes_it_out(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        there = reverse("backup:backups")
        self.assertContains(self.client.get(there), "There is none.")
        self.assertContains(self.client.get("/"), "No backup was made for days")
        self.client.post(reverse("backup:make"), {"write_key": ""})
        self.assertContains(self.client.get(there), "One is being made.")
        QueuedWork.objects.update(state="failed", once=None, ended_at=clock.now(), error="Only 1 MB are free.")
        self.assertContains(self.client.get(there), "Only 1 MB are free.")
        QueuedWork.objects.all().delete()
        path = self.old(2)
        self.assertContains(self.client.get(there), "The newest is 2\xa0days")
        self.assertNotContains(self.client.get("/"), "No backup was made for days")
        taken = self.client.get(reverse("backup:take"), {"name": path.name})
        self.assertEqual(len(b"".join(taken.streaming_content)), 2**20)
        self.assertEqual(HistoryEntry.objects.latest("pk").words, f"Took out {path.name}")
        for name in ("../wendopolis.zip", ".lock", "wendopolis-20200101-000000.zip", ""):
            page = self.client.get(reverse("backup:take"), {"name": name}, follow=True)
            self.assertContains(page, "is not here any more")

    def test_nobody_else_does(self):
        path = self.old(9)
        for person in (self.viewer, self.technician, self.seller):
            for act in (lambda who: services.ask_for(who), lambda who: services.take_out(who, path.name)):
                with self.assertRaises(NotAllowed):
                    act(person)
        self.client.force_login(self.viewer, backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.client.get("/"), "No backup was made for days")
        page = self.client.get(reverse("backup:backups"))
        self.assertContains(page, path.name)
        self.assertNotContains(page, reverse("backup:take"))
        self.assertRedirects(self.client.get(reverse("backup:take"), {"name": path.name}), reverse("backup:backups"))


class BeforeItsTablesChange(InAFolder, ShopTest):
    def bring_up_to_date(self, *steps: str) -> str:
        """What `migrate` says before it does these steps."""
        known, out = MigrationLoader(connection).disk_migrations, StringIO()
        plan = [(known["units", step], False) for step in steps]
        emit_pre_migrate_signal(0, False, "default", plan=plan, stdout=out)
        return out.getvalue()

    def test_a_shop_is_backed_up_once(self):
        self.assertIn("Backed up before the tables are brought up to date", self.bring_up_to_date("0001_initial"))
        self.assertEqual(len(kept.backups()), 1)

    def test_but_not_where_there_is_nothing_to_lose(self):
        said = [self.bring_up_to_date()]
        with there_already():
            said.append(self.bring_up_to_date("0001_initial"))
        with self.settings(BACKUPS_KEPT=0):
            said.append(self.bring_up_to_date("0001_initial"))
        self.assertEqual((said, kept.backups()), (["", "", ""], []))

    def test_where_it_can_not_be_nothing_is_changed(self):
        with self.settings(BACKUP_ROOT=self.folder / "x"), self.assertRaisesRegex(CommandError, "Nothing was changed"):
            (self.folder / "x").write_text("no folder")
            self.bring_up_to_date("0001_initial")
