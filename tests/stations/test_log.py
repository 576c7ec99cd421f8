"""Whoever changes how the shop works leaves an entry: who it was, what it was before."""

import ast
from dataclasses import replace
from datetime import time
from decimal import Decimal
from pathlib import Path

from django.db import connection
from django.test import SimpleTestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from core.selling.carriers import Band
from stations.bench import library
from stations.catalogue import bank
from stations.common.details import as_kept
from stations.dispatch import carriers
from stations.dispatch.models import Carrier
from stations.dispatch.terms import TermsDetails, change_terms, terms
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry
from stations.selling import services as selling
from stations.selling.models import Channel
from tests.stations.base import ShopTest

D = Decimal
ROOT = Path(__file__).resolve().parents[2]
# What leaves no entry of its own, and why that loses nothing.
NO_ENTRY = {
    # Nothing is changed: it is only looked, asked or counted.
    "bench.instruments.may_command",
    "buying.manifests.upload",
    "buying.rates.fetch",
    "selling.comparable_files.upload",
    "dispatch.bank_tables.upload",
    "day.planning.ask",
    "units.labels.print_out",
    # Its row says who and when, and stays.
    "backup.services.ask_for",
    "backup.services.ask_for_records",
    "bench.notes.add",
    "bench.timers.start",
    "bench.timers.stop",
    "day.calendar.new_address",
    "day.calendar.no_address",
    "day.services.begin",
    "day.services.end",
    "day.services.expect",
    "day.services.expect_no_more",
    "day.services.it_came",
    "day.services.it_came_not",
    "day.services.not_begun",
    "day.services.not_ended",
    "day.services.take_back_wish",
    "day.services.wish",
    "dispatch.parcels.tick",
    "queue.services.try_again",
    "selling.news.refuse",
    "selling.news.set_aside",
    "selling.services.add_comparable",
    "units.offers.note_offer",
    "workshop.media.compare",
    "workshop.openings.back_one",
    "workshop.openings.keep_note",
    "workshop.openings.photograph",
    "workshop.openings.turn",
    "workshop.services.log_labour",
    "workshop.services.start_clock",
    # How a picture is shown; the picture stays.
    "selling.pictures.hide",
    "selling.pictures.mark",
    "selling.pictures.move",
    "selling.pictures.straighten",
    "selling.pictures.unmark",
    # Parts of something that leaves its entry: a slip taken off, a step of a run, a reading.
    "bench.facts.no_benchmark",
    "bench.facts.no_discharge",
    "bench.facts.no_fault",
    "bench.facts.no_note",
    "bench.facts.no_start",
    "day.services._may_say",
    "intake.settling._go",
    "units.slips._no_clip",
    "units.slips._no_colour",
    "units.slips._no_content",
    "units.slips._no_finding",
    "units.slips._no_look",
    "units.slips._no_photo",
    "workshop.firmware._chip",
    "workshop.on_record.no_failure",
    "workshop.on_record.no_setting",
    "workshop.on_record.no_trial",
    "workshop.recipe_run._of",
    "workshop.recipe_run._photo",
}


class Module:
    """The functions of a file, and what its names were imported as."""

    def __init__(self, path: Path) -> None:
        self.functions: dict[str, ast.FunctionDef] = {}
        self.imported: dict[str, str] = {}
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.FunctionDef):
                self.functions.setdefault(node.name, node)
            elif isinstance(node, ast.ImportFrom) and node.module:
                self.imported |= {alias.asname or alias.name: f"{node.module}.{alias.name}" for alias in node.names}

    def uses(self, function: str) -> set[str]:
        """What a function names, as “room.file.function”; what is of the file itself by its name alone."""
        found = set()
        for node in ast.walk(self.functions[function]):
            if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name):
                found.add(f"{self.imported.get(node.value.id, '')}.{node.attr}")
            elif isinstance(node, ast.Name):
                found.add(self.imported.get(node.id, node.id))
        return found


class EveryWrite(SimpleTestCase):
    def test_what_only_some_may_do_leaves_an_entry(self):
        rooms = {
            ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__"): Module(path)
            for path in (ROOT / "stations").rglob("*.py")
            if "migrations" not in path.parts
        }
        entries = {"stations.people.history.record", "stations.people.history.changed"}

        def leaves_one(room: str, function: str, seen: set[str]) -> bool:
            if room not in rooms or function not in rooms[room].functions or f"{room}.{function}" in seen:
                return False
            seen.add(f"{room}.{function}")
            for used in rooms[room].uses(function) - {function}:
                if used in entries:
                    return True
                there, _, name = used.rpartition(".")
                if there != "stations.people.history" and leaves_one(there or room, name, seen):
                    return True
            return False

        asked = "stations.people.permissions.require"
        silent = {
            f"{room.removeprefix('stations.')}.{function}"
            for room, module in rooms.items()
            for function in module.functions
            if asked in module.uses(function) and not leaves_one(room, function, set())
        }
        self.assertEqual(silent, NO_ENTRY)


class Changes(ShopTest):
    def told(self) -> HistoryEntry:
        return HistoryEntry.objects.latest("pk")

    def change(self, **new) -> None:
        row = shop_settings.settings()
        said = {**vars(as_kept(shop_settings.SettingsDetails, row)), **new}
        shop_settings.change_settings(self.owner, row.version, shop_settings.SettingsDetails(**said))

    def test_what_was_changed_is_told_with_what_it_was(self):
        self.change(labour_rate=D(31), closes_at=time(18), latitude=D("54.5"), longitude=D(3), premium_counts=False)
        told = self.told()
        self.assertEqual((told.who, told.subject, told.subject_id), (self.owner, "shop", 0))
        for words in (
            "labour rate per hour 24.00 → 31.00",
            "closes at nothing → 18:00",
            "latitude of the workshop, degrees north nothing → 54.500",
            "a buyer’s premium counts as purchase price yes → no",
        ):
            self.assertIn(words, told.words)
        self.assertEqual((told.data["before"][0], told.data["after"][0]), ("24.00", "31.00"))

    def test_what_is_saved_as_it_was_leaves_none(self):
        self.change(labour_rate=D(31))
        before = HistoryEntry.objects.count()
        self.change(labour_rate=D("31.00"))
        self.assertEqual(HistoryEntry.objects.count(), before)

    def test_a_limit_that_was_moved_says_who_moved_it(self):
        rows = (library.row_for(one.code) for one in library.library() if not one.safety)
        row = next(one for one in rows if one.high is not None)
        said = as_kept(library.CheckDetails, row)
        self.assertIsNone(library.save_check(self.owner, row.code, 0, said).pk, "nobody changed it")
        said = replace(said, why=f"{said.why} So it is.")
        kept = library.save_check(self.owner, row.code, 0, said)
        self.assertIn("put in our own words", self.told().words)
        moved = {**vars(said), "high": kept.high + 1}
        library.save_check(self.owner, row.code, kept.version, library.CheckDetails(**moved))
        self.assertIn(f"→ {kept.high + 1:.4f}", self.told().words)
        self.assertEqual(history.places["check"]([kept.pk])[kept.pk].name, kept.title)

    def test_terms_carriers_channels_and_models(self):
        row = terms()
        said = {**vars(as_kept(TermsDetails, row)), "warranty_b": 7}
        change_terms(self.owner, row.version, TermsDetails(**said))
        self.assertEqual(self.told().words, "Terms of sale: warranty of grade B, days 180 → 7")
        carrier = carriers.add_carrier(self.owner, Carrier(name="Post"))
        for price in (D(6), D(7), D(7)):
            carriers.keep_bands(self.owner, carrier, "DE", [Band(2000, price)])
        bands = HistoryEntry.objects.filter(action="dispatch.keep_bands")
        self.assertEqual(
            [one.words for one in bands],
            [
                "Post into DE: 2,000 g 6.00; before: does not go there",
                "Post into DE: 2,000 g 7.00; before: 2,000 g 6.00",
            ],
        )
        channel = Channel.objects.filter(kind="market").first() or Channel.objects.first()
        said = {**vars(as_kept(selling.ChannelDetails, channel)), "key": "a secret", "fee_fixed": D("1.50")}
        selling.change_channel(self.owner, channel, channel.version, selling.ChannelDetails(**said))
        self.assertIn("→ 1.50", self.told().words)
        self.assertNotIn("secret", self.told().words + str(self.told().data))
        model = self.unit_model()
        said = {**vars(as_kept(bank.ModelDetails, model)), "year_to": 1999}
        bank.change_model(self.owner, model, bank.ModelDetails(**said), [bank.Expected("keyboard", 4)])
        first, second = HistoryEntry.objects.filter(subject="model", subject_id=model.pk).order_by("pk")
        self.assertIn("→ 1999", first.words)
        self.assertIn("what belongs with it: 4 keyboard", second.words)

    def unit_model(self):
        return self.listed().model


class ThePage(ShopTest):
    def test_all_of_it_by_kind_by_person_up_to_a_day_with_the_way_to_each_thing(self):
        unit = self.listed()
        row = shop_settings.settings()
        said = {**vars(as_kept(shop_settings.SettingsDetails, row)), "trays": 30}
        shop_settings.change_settings(self.owner, row.version, shop_settings.SettingsDetails(**said))
        self.client.force_login(self.technician)
        page = reverse("people:log")
        self.assertContains(self.client.get(page), f'<a href="{reverse("floor:unit", args=[unit.number])}">{unit.tag}')
        shop = self.client.get(page, {"of": "shop", "who": self.owner.pk})
        self.assertContains(shop, "24 → 30")
        self.assertNotContains(shop, f"{unit.tag}</a>")
        self.assertContains(
            self.client.get(page, {"of": "shop", "who": self.technician.pk}), "Nothing of that was done"
        )
        self.assertContains(self.client.get(page, {"until": "1999-12-31"}), "Nothing of that was done")
        self.assertContains(self.client.get(page, {"of": "unit", "until": "9999-12-31"}), str(unit.tag))
        refused = self.client.get(page, {"until": "30.2.2026", "of": "nonsense"})
        self.assertContains(refused, "not among the choices")

    def test_a_long_story_goes_on_in_the_log(self):
        unit = self.listed()
        for turn in range(history.WHOLE):
            history.record(self.owner, "units.put", "unit", unit.pk, f"Put at bench {turn}")
        self.client.force_login(self.owner)
        page = self.client.get(reverse("floor:unit", args=[unit.number]))
        self.assertNotContains(page, "Graded")
        self.assertLess(page.content.index(b"Put at bench 0<"), page.content.index(b"Put at bench 59<"))
        before = f"{reverse('people:log')}?of=unit&amp;pk={unit.pk}"
        self.assertContains(page, f'href="{before}"')
        other = self.listed()
        log = self.client.get(before.replace("&amp;", "&"), {"page": 2} | {"of": "unit", "pk": unit.pk})
        self.assertContains(log, "Graded")
        self.assertNotContains(log, str(other.tag))
        short = self.client.get(reverse("floor:unit", args=[other.number]))
        self.assertNotContains(short, "What was before that")

    def test_it_takes_as_many_queries_for_many_as_for_few(self):
        self.client.force_login(self.owner)
        page, counts = reverse("people:log"), []
        for made in (self.listed, self.listed):
            made()
            self.client.get(page)
            with CaptureQueriesContext(connection) as asked:
                self.client.get(page)
            counts.append(len(asked))
        self.assertEqual(counts[0], counts[1])
