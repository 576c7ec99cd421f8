from datetime import timedelta
from io import StringIO

from django.core.management import CommandError, call_command
from django.test import TestCase
from django.utils import timezone

from core.flow.stage import Stage, State
from stations.books.selectors import complaints, lot_results
from stations.buying.models import Lot
from stations.people.models import HistoryEntry
from stations.units.models import Unit
from tests import demo_shop


class TheDemoShop(TestCase):
    takes = 50

    @classmethod
    def setUpTestData(cls):
        demo_shop.put_up()

    def test_the_books_add_up_and_the_stages_agree(self):
        self.assertEqual(complaints(), [])
        out = StringIO()
        try:
            call_command("rebuild_stages", "--check", stdout=out)
        except SystemExit:
            self.fail(out.getvalue())  # which, and in what
        self.assertIn("0 differ", out.getvalue())

    def test_it_shows_every_stage_state_and_kind_of_lot(self):
        self.assertEqual(set(Unit.objects.values_list("stage", flat=True)), set(Stage))
        self.assertEqual(set(Unit.objects.values_list("state", flat=True)), set(State))
        self.assertTrue(
            {"auction", "private", "donation", "custody"} <= set(Lot.objects.values_list("source_kind", flat=True))
        )
        self.assertTrue({"EUR", "GBP", "SEK"} <= set(Lot.objects.values_list("currency", flat=True)))
        self.assertGreaterEqual(Unit.objects.count(), 40)

    def test_one_lot_closed_with_a_profit_and_one_with_a_loss(self):
        margins = [result.money.margin for result in lot_results(list(Lot.objects.all())) if result.finished]
        self.assertEqual([margin > 0 for margin in sorted(margins)], [False, True])

    def test_nothing_lies_in_the_future_or_long_ago(self):
        times = HistoryEntry.objects.values_list("when", flat=True)
        self.assertLess(max(times), timezone.now())
        self.assertGreater(min(times), timezone.now() - timedelta(days=140))

    def test_it_is_never_loaded_over_data(self):
        call_command("load_demo", "--if-empty", stdout=StringIO())
        with self.assertRaises(CommandError):
            call_command("load_demo", stdout=StringIO())
