"""How rooms hear of each other: every name has one owner, every part of the flow somebody who answers for it."""

import ast
from dataclasses import fields
from io import StringIO
from pathlib import Path
from unittest.mock import patch

from django.apps import apps
from django.core.management import CommandError, call_command
from django.db import OperationalError, connection
from django.db.migrations.recorder import MigrationRecorder
from django.test import SimpleTestCase, TestCase
from django.test.utils import CaptureQueriesContext

from core.books.earnings import INCOME, STEPS
from core.flow.facts import FlowFacts
from core.flow.stage import GONE, Stage
from stations.backup import lost
from stations.buying.forecasts import cost_after_a_sale
from stations.buying.selectors import received_worth
from stations.common.registry import Registry
from stations.ledger.documents import disagreements, documents
from stations.ledger.models import EntryKind
from stations.people import in_hand, stopped
from stations.people.models import HistoryEntry
from stations.units import busy, dealt_with, paths, stages
from stations.units.models import Unit
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.models import LabourEntry
from stations.workshop.new_job import NewJob
from tests.stations.base import ShopTest

ROOT = Path(__file__).resolve().parents[2]


class Owners(SimpleTestCase):
    def test_a_second_owner_is_an_error(self):
        kinds = Registry("kinds of work")
        kinds.add("run")(len)
        with self.assertRaisesRegex(ValueError, "kinds of work: “run” has an owner already"):
            kinds.add("run")(max)

    def test_every_part_of_the_flow_has_its_owner_and_no_more(self):
        self.assertEqual({*stages.flow, *stages.resting}, {part.name for part in fields(FlowFacts)})
        self.assertFalse({*stages.flow} & {*stages.resting})

    def test_what_was_registered_was_found_without_being_imported_by_chance(self):
        self.assertEqual((set(received_worth), set(cost_after_a_sale)), ({"selling"}, {"selling"}))
        self.assertEqual((set(paths.leaving), set(paths.took)), ({"selling"}, {"workshop"}))
        self.assertEqual(set(busy.kinds), {"run", "fault", "job"})
        self.assertEqual(set(in_hand.kinds), {"clock", "run", "job"})
        self.assertEqual(
            set(stopped.kinds),
            {
                "backups",
                "channels",
                "clock",
                "files",
                "label printer",
                "room",
                "terms of sale",
                "work given up",
                "workers",
            },
        )
        self.assertEqual(set(dealt_with.kinds), {"picture", "step", "job"})
        self.assertEqual(
            set(documents),
            {
                "charge",
                "count",
                "drawer receipt",
                "fee",
                "labour",
                "owner payment",
                "parcel",
                "purchase into a drawer",
                "sent parcel",
                "part issue",
                "part move",
                "recovered part",
                "sale",
                "payment",
                "refund",
                "return",
                "tax period",
            },
        )

    def test_of_every_row_that_has_a_file_it_is_known_where_it_lies(self):
        """A new one is looked for when files are lost; of three only the checksum is kept."""
        kept = {model.__name__ for model in apps.get_models() if any(f.name == "sha256" for f in model._meta.fields)}
        whose = {
            "pictures": "Photo",
            "sounds": "Clip",
            "what is known": "Knowledge",
            "cut pictures": "ShownPhoto",
            "pictures of parcels": "ParcelPhoto",
        }
        self.assertEqual(kept - {"Manifest", "ComparableFile", "MediumRead"}, set(whose.values()))
        self.assertEqual(set(lost.told_of), set(whose))

    def test_what_is_gone_is_said_in_one_place(self):
        self.assertEqual(GONE, {Stage.SOLD, Stage.SENT, Stage.CLOSED, Stage.BACK, Stage.SCRAPPED, Stage.RETURNED})
        again = []
        for path in (ROOT / "stations").rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text())):
                if isinstance(node, ast.Set | ast.List | ast.Tuple):
                    words = {getattr(each, "value", None) for each in node.elts}
                    if {"sold", "scrapped", "returned"} <= words:
                        again.append(f"{path}:{node.lineno}")
        self.assertEqual(again, [])

    def test_what_the_story_says_was_done_is_named_after_what_did_it(self):
        for path in (ROOT / "stations").rglob("*.py"):
            for function in ast.walk(ast.parse(path.read_text())):
                if not isinstance(function, ast.FunctionDef):
                    continue
                for call in ast.walk(function):
                    if isinstance(call, ast.Call) and ast.unparse(call.func) == "history.record":
                        self.assertEqual(
                            ast.unparse(call.args[1]), f"'{path.parent.name}.{function.name.lstrip('_')}'", path
                        )

    def test_every_kind_of_entry_is_in_one_bar(self):
        grouped = [kind for _, kinds in STEPS for kind in kinds]
        self.assertEqual(len(grouped), len(set(grouped)))
        self.assertEqual({*grouped, *INCOME}, set(EntryKind.values))


class Flow(ShopTest):
    def test_the_facts_of_many_units_take_as_many_queries_as_of_one(self):
        type(self.line).objects.filter(pk=self.line.pk).update(quantity=4)
        self.line.refresh_from_db()
        units = [self.listed(), self.assessed(), self.listed(), self.assessed()]
        counts = []
        for some in (units[:2], units):
            with CaptureQueriesContext(connection) as asked:
                stages.facts_of(list(Unit.objects.filter(pk__in=[unit.pk for unit in some])))
            counts.append(len(asked))
        self.assertEqual(counts[0], counts[1])


class Story(ShopTest):
    def test_an_entry_keeps_what_was_done_with_its_figures_beside_the_words(self):
        job = workshop.open_job(self.owner, self.assessed(), NewJob(title="Belt", kind="repair"))
        issue = issuing.issue_part(self.owner, job, self.part, 2)
        entry = HistoryEntry.objects.filter(action="workshop.issue_part").get()
        self.assertEqual(entry.data, {"issue": issue.pk, "part": "Belt", "quantity": "2", "cost": "6.67"})
        self.assertEqual(entry.words, "Issued 2 × Belt, 6.67")


class Proof(ShopTest):
    def test_a_document_that_disagrees_with_the_book_is_named(self):
        unit = self.assessed()
        job = workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair"))
        entry = workshop.log_labour(self.technician, job, 50)
        self.assertEqual(disagreements(), [])
        LabourEntry.objects.filter(pk=entry.pk).update(cost=21)
        (complaint,) = disagreements()
        self.assertEqual(complaint.what, f"labour {entry.pk}")
        self.assertEqual(complaint.words, "labour is 21.00 on the document, 20.00 in the books")
        self.lot.charges.update(base=1)
        self.assertIn(f"charges of {self.lot.code}", {each.what for each in disagreements()})


class MadeBefore(TestCase):
    def told(self) -> str:
        out = StringIO()
        call_command("recognise_database", stdout=out)
        return out.getvalue()

    def test_what_is_done_to_its_tables_is_told(self):
        self.assertEqual(self.told(), "")
        applied = MigrationRecorder(connection).migration_qs
        applied.filter(app="units").latest("pk").delete()
        self.assertIn("up to date, in 1 step", self.told())
        applied.all().delete()
        self.assertIn("Making the tables", self.told())

    def test_a_database_of_another_version_is_recognised(self):
        call_command("recognise_database", stdout=StringIO())
        MigrationRecorder(connection).record_applied("intake", "0005_what_nobody_recorded")
        with self.assertRaisesRegex(CommandError, "made by another version"):
            call_command("recognise_database", stdout=StringIO())

    def test_one_that_does_not_answer_is_told_apart_from_it(self):
        with (
            patch.object(MigrationRecorder, "applied_migrations", side_effect=OperationalError(2002, "nobody there")),
            self.assertRaisesRegex(CommandError, "does not answer: nobody there"),
        ):
            call_command("recognise_database", stdout=StringIO())
