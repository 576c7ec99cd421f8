"""The records for another program are all there, are what their description says, and tell no secret."""

import json
import tempfile
from datetime import datetime, time, timedelta
from decimal import Decimal
from pathlib import Path
from unittest import mock
from zipfile import ZipFile

import jsonschema
from csvw import TableGroup
from django.apps import apps
from django.conf import settings
from django.urls import reverse

from stations.backup import described, kept, making, services, work
from stations.backup.described import Kind
from stations.backup.export import export
from stations.backup.tables import LEFT_OUT
from stations.backup.tables import tables as in_a_backup
from stations.common import clock
from stations.common.refusals import NotAllowed
from stations.common.spreadsheet import harmless
from stations.people.models import HistoryEntry, ShopSettings
from stations.queue import services as queue
from stations.queue.models import QueuedWork
from stations.selling.models import Channel
from stations.units.models import Unit
from tests.stations.base import AtOnce, ShopTest
from tests.stations.test_backup import InAFolder

# Codes and fingerprints; none opens a door.
NO_SECRETS = {
    ("bench_benchcheck", "code"),
    ("bench_faultcase", "code"),
    ("bench_powerstop", "code"),
    ("bench_starttrial", "passed"),
    ("bench_stepnote", "code"),
    ("bench_stepresult", "code"),
    ("bench_steptimer", "code"),
    ("catalogue_machinemodel", "keyboard"),
    ("catalogue_shoprecipe", "code"),
    ("day_plannedtask", "code"),
    ("day_record", "code"),
    ("day_wish", "code"),
    ("selling_listingsentence", "code"),
    ("units_unit", "keyboard"),
    ("workshop_buyertable", "code"),
    ("workshop_knowledge", "may_pass_on"),
}


class WhatGoesOut(InAFolder, AtOnce):
    def setUp(self):
        super().setUp()
        self.unit = self.listed()
        Unit.objects.filter(pk=self.unit.pk).update(title="=1+1, “ä”", pull=1 / 3)
        ShopSettings.objects.update_or_create(pk=1, defaults={"closes_at": time(17, 30)})
        Channel.objects.update(key="open-sesame-channel")
        there = tempfile.TemporaryDirectory()
        self.addCleanup(there.cleanup)
        self.there = Path(there.name)
        self.path = export()
        with ZipFile(self.path) as file:
            file.extractall(self.there)

    def lines(self, table: str) -> list[dict]:
        text = (self.there / f"json/{table}.jsonl").read_text(encoding="utf-8")
        return [json.loads(line) for line in text.splitlines()]

    def test_every_row_is_what_the_database_has(self):
        models = {model._meta.db_table: model for model in apps.get_models(include_auto_created=True)}
        schema = json.loads((self.there / "schema.json").read_text())
        formats = jsonschema.Draft202012Validator.FORMAT_CHECKER
        seen = set()
        for table in described.tables():
            rows = self.lines(table.name)
            one = jsonschema.Draft202012Validator(
                {"$ref": f"#/$defs/{table.name}", "$defs": schema["$defs"]}, format_checker=formats
            )
            names = [column.name for column in table.columns]
            for told, row in zip(rows, models[table.name]._base_manager.order_by("pk").values(*names), strict=True):
                one.validate(told)
                seen |= {column.kind for column in table.columns if told[column.name] is not None}
                self.assertEqual(told, {name: self.as_json(value) for name, value in row.items()}, table.name)
        self.assertEqual(seen, set(Kind))
        with self.assertRaises(jsonschema.ValidationError):
            one.validate(told | {"another": 1})

    def as_json(self, value):
        if isinstance(value, Decimal):
            return f"{value:f}"
        if hasattr(value, "isoformat"):
            return value.isoformat().replace("+00:00", "Z")
        return value

    def test_a_reader_of_the_published_form_finds_the_same_and_every_row_that_another_leads_to(self):
        # csvw, an independent reader of the Recommendation
        group = TableGroup.from_file(self.there / "csv-metadata.json")
        group.check_referential_integrity()
        kinds = {one.name: {column.name: column.kind for column in one.columns} for one in described.tables()}
        self.assertEqual({Path(str(table.url)).stem for table in group.tables}, set(kinds))
        for table in group.tables:
            name = Path(str(table.url)).stem
            found = list(table)
            rows = self.lines(name)
            self.assertEqual(len(found), len(rows), name)
            for read, told in zip(found, rows, strict=True):
                for column, value in read.items():
                    if kinds[name][column] is Kind.TIME and value is not None:
                        value = value.time()  # it adds a day
                    self.assertEqual(value, self.as_read(kinds[name][column], told[column]), (name, column))
        told = (self.there / "csv/units_unit.csv").read_text(encoding="utf-8-sig")
        self.assertIn("'=1+1, “ä”", told)

    def as_read(self, kind: Kind, value):
        """A value of our JSON, as that reader has it."""
        if value is None:
            return None
        if kind is Kind.TEXT:
            return harmless(value)
        return {
            Kind.DECIMAL: Decimal,
            Kind.DAY: datetime.fromisoformat,
            Kind.MOMENT: datetime.fromisoformat,
            Kind.TIME: time.fromisoformat,
        }.get(kind, lambda same: same)(value)

    def test_what_opens_a_door_stays(self):
        for path in self.there.rglob("*.*"):
            told = path.read_bytes()
            for secret in (b"open-sesame-channel", self.owner.password.encode()):
                self.assertNotIn(secret, told, path.name)
        out = {table.name: [column.name for column in table.columns] for table in described.tables()}
        # A new one is either named here, or left out.
        words = ("pass", "secret", "token", "key", "code", "digest", "cookie", "salt")
        found = {(name, one) for name, columns in out.items() for one in columns if any(word in one for word in words)}
        self.assertEqual(found, NO_SECRETS)

    def test_nothing_else_of_a_backup_is_left_out(self):
        left = set(in_a_backup()) - {table.name for table in described.tables()}
        framework = {"auth_group", "auth_group_permissions", "auth_permission", "django_content_type"}
        waiting = {"queue_queuedwork", "queue_workerseen"}
        self.assertEqual(left, framework | waiting | described.TABLES_LEFT_OUT)
        self.assertFalse(left & LEFT_OUT)

    def test_pictures_are_under_the_names_by_which_rows_tell_of_them(self):
        photo = self.unit.photos.first()
        found = [path.name for path in (self.there / "media").rglob("*") if path.is_file()]
        self.assertTrue(any(name.startswith(photo.sha256) for name in found), found)
        self.assertIn("Money is in EUR", (self.there / "README.txt").read_text())

    def test_it_is_no_backup(self):
        self.assertEqual(kept.backups(), [])
        self.assertEqual([one.name for one in kept.records()], [self.path.name])


class AskedFor(InAFolder, ShopTest):
    def at_work(self):
        def written():
            path = self.folder / f"{kept.RECORDS}-{clock.now():%Y%m%d-%H%M%S}.zip"
            path.write_bytes(b"x" * 2**20)

        with mock.patch.object(work, "export", side_effect=written):
            return queue.work_once("here")

    def test_an_owner_asks_for_them_and_takes_them_out(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        there = reverse("backup:backups")
        self.client.post(reverse("backup:write-records"), {"write_key": ""})
        self.client.post(reverse("backup:write-records"), {"write_key": ""})
        self.assertEqual(QueuedWork.objects.filter(kind=work.EXPORT).count(), 1)
        self.assertContains(self.client.get(there), "They are being written.")
        self.assertEqual(self.at_work().state, QueuedWork.State.DONE)
        page = self.client.get(there)
        self.assertNotContains(page, "They are being written.")
        (one,) = kept.records()
        self.assertContains(page, one.name)
        self.assertContains(page, "There is none.")  # no backup
        taken = self.client.get(reverse("backup:take"), {"name": one.name})
        self.assertEqual(len(b"".join(taken.streaming_content)), 2**20)
        self.assertEqual(HistoryEntry.objects.latest("pk").words, f"Took out {one.name}")

    def test_done_by_two_workers_they_are_written_once(self):
        services.ask_for_records(self.owner)
        row = QueuedWork.objects.get()
        self.at_work()
        with mock.patch.object(work, "export") as again:
            work._export(row.about)
        again.assert_not_called()

    def test_while_a_backup_is_made_they_wait(self):
        media = Path(settings.MEDIA_ROOT)
        media.mkdir()
        services.ask_for_records(self.owner)
        with making._one_at_a_time(media):
            row = queue.work_once("here")
        self.assertEqual((row.state, row.error), (QueuedWork.State.WAITING, "A backup is being made already."))
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get(reverse("backup:backups")), "<b>The last were not written.</b>")

    def test_only_the_newest_stay_and_not_for_long(self):
        for days in (1, 2, 9):
            path = self.folder / f"{kept.RECORDS}-{clock.now() - timedelta(days=days):%Y%m%d-%H%M%S}.zip"
            path.write_bytes(b"x")
        queue.put_recurring()
        self.assertEqual(len(kept.records()), 1)
        with mock.patch.object(clock, "now", return_value=clock.now() + timedelta(days=7)):
            queue.put_recurring()
        self.assertEqual(kept.records(), [])

    def test_nobody_else_does(self):
        for person in (self.viewer, self.technician, self.seller):
            with self.assertRaises(NotAllowed):
                services.ask_for_records(person)
        self.client.force_login(self.viewer, backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.client.get(reverse("backup:backups")), "Write the records out")
