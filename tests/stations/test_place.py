"""What is wrong with the settings of a place is said in words before anything is served."""

import os
import tempfile
from pathlib import Path
from unittest import mock

from django.core.exceptions import ImproperlyConfigured
from django.core.management import call_command
from django.core.management.base import SystemCheckError
from django.db import DatabaseError
from django.test import SimpleTestCase, override_settings

from config.settings.base import number
from stations.buying.checks import books_are_in_this_currency
from stations.people.checks import place_makes_sense
from tests.stations.base import ShopTest


class Settings(SimpleTestCase):
    def test_as_they_are_they_make_sense(self):
        self.assertEqual(place_makes_sense(), [])

    def test_what_is_wrong_is_named(self):
        with tempfile.TemporaryDirectory() as folder:
            here = Path(folder)
            (here / "a file").write_text("")
            media = str(here / "media")
            for changes, words in (
                ({"BASE_CURRENCY": "Euro"}, "WENDOPOLIS_CURRENCY: “Euro” is no currency"),
                ({"BASE_CURRENCY": "JPY"}, "JPY has none"),
                ({"BASE_CURRENCY": "KWD"}, "KWD has finer parts"),
                ({"RATES_URL": "file:///etc/passwd"}, "WENDOPOLIS_RATES_URL"),
                ({"PUBLIC_URL": "shop.example"}, "WENDOPOLIS_PUBLIC_URL"),
                ({"MARKETPLACE_URL": "http://[::1"}, "WENDOPOLIS_MARKETPLACE_URL"),
                ({"CARRIERS_URL": "http://here:99999/"}, "WENDOPOLIS_CARRIERS_URL"),
                ({"MEDIA_ROOT": media, "BACKUP_ROOT": f"{media}/backups"}, "lies within the media folder"),
                ({"MEDIA_ROOT": media, "BACKUP_ROOT": media}, "lies within the media folder"),
                ({"MEDIA_ROOT": f"{folder}/a file/media"}, "a file is no folder"),
                ({"BACKUP_ROOT": f"{folder}/a file"}, "a file is no folder"),
                ({"BACKUPS_KEPT": -1}, "from 0 up"),
                ({"LABEL_PRINTER": f"{folder}/none"}, "there is no folder"),
            ):
                with self.subTest(changes), override_settings(**changes):
                    (found,) = place_makes_sense()
                    self.assertIn(words, found.msg)
            with override_settings(BASE_CURRENCY="Euro"), self.assertRaisesRegex(SystemCheckError, "no currency"):
                call_command("check")
            with override_settings(PUBLIC_URL="https://shop.example", MEDIA_ROOT=media, BACKUP_ROOT=f"{folder}/b"):
                self.assertEqual(place_makes_sense(), [])

    def test_a_number_that_is_none_is_said_in_words(self):
        for said, words in (("many", "WENDOPOLIS_BACKUPS_KEPT: “many” is no whole number"), ("1.5", "“1.5”")):
            there = mock.patch.dict(os.environ, {"WENDOPOLIS_BACKUPS_KEPT": said})
            with there, self.assertRaisesRegex(ImproperlyConfigured, words):
                number("WENDOPOLIS_BACKUPS_KEPT", 5)
        for said, counted in (("", 5), ("0", 0), ("12", 12)):
            with mock.patch.dict(os.environ, {"WENDOPOLIS_BACKUPS_KEPT": said}):
                self.assertEqual(number("WENDOPOLIS_BACKUPS_KEPT", 5), counted)


class Books(ShopTest):
    def test_books_kept_in_another_currency_are_not_gone_on_with(self):
        self.assertEqual(books_are_in_this_currency(databases=["default"]), [])
        self.assertEqual(books_are_in_this_currency(), [])
        with override_settings(BASE_CURRENCY="GBP"):
            (found,) = books_are_in_this_currency(databases=["default"])
            self.assertIn("the books of this database are kept in EUR.", found.msg)
            self.assertEqual(found.hint, "Set it to EUR.")
            with self.assertRaisesRegex(SystemCheckError, "kept in EUR"):
                call_command("migrate", skip_checks=False, verbosity=0)
        self.lot.charges.all().delete()
        with override_settings(BASE_CURRENCY="GBP"):
            self.assertEqual(books_are_in_this_currency(databases=["default"]), [])

    def test_without_tables_there_is_nothing_to_say(self):
        with mock.patch("django.db.models.query.QuerySet.exists", side_effect=DatabaseError):
            self.assertEqual(books_are_in_this_currency(databases=["default"]), [])
