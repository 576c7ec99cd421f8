"""What changing a setting leaves as it was: tax of what was sold, what was promised, periods that were closed."""

from dataclasses import replace
from datetime import date, datetime, time, timedelta
from decimal import Decimal

from django.urls import reverse
from django.utils import timezone

from core.money import ZERO
from stations.books import taxes
from stations.books.models import TaxPeriod
from stations.common import clock
from stations.common.details import as_kept
from stations.common.refusals import Refused, StaleEdit
from stations.dispatch import refunds, returns, warranty
from stations.dispatch.models import SaleTerms
from stations.dispatch.terms import TermsDetails, change_terms, terms
from stations.ledger.documents import disagreements
from stations.people import shop_settings
from stations.people.models import ShopSettings
from stations.selling import services as selling
from stations.selling.models import Sale
from tests.stations.test_dispatch import DispatchTest

D = Decimal
A_DAY = timedelta(days=1)


class ChangedSettings(DispatchTest):
    STANDS = "proven"

    def change(self, percent: str, scheme: str = "margin", tax_from: date | None = None) -> ShopSettings:
        row = shop_settings.settings()
        said = replace(as_kept(shop_settings.SettingsDetails, row), tax_scheme=scheme, tax_percent=D(percent))
        return shop_settings.change_settings(self.owner, row.version, said, tax_from)

    def on(self, day: date):
        return clock.at(timezone.make_aware(datetime.combine(day, time(12))))

    def rates(self, *days: date) -> list[Decimal]:
        row = shop_settings.settings()
        return [row.tax_on(day).percent for day in days]


class TaxByTheDay(ChangedSettings):
    def scene(self) -> None:
        super().scene()
        self.today = timezone.localdate()

    def test_what_was_said_first_always_held(self):
        self.change("20")
        self.assertEqual(self.rates(date(1999, 1, 1), self.today), [D(20), D(20)])

    def test_a_rate_is_that_of_the_day_of_the_sale_not_of_the_day_it_is_typed(self):
        self.change("20")
        unit, later = self.listed(), self.today + 5 * A_DAY
        with self.on(later):
            self.change("25")
            self.assertEqual(self.rates(self.today, later - A_DAY, later), [D(20), D(20), D(25)])
            old = selling.sell(self.seller, unit, D(150), "A. Reader", D(9), on=self.today + A_DAY)
            new = self.sold()
        margins = [D(150) - sale.tax_basis for sale in (old, new)]
        self.assertEqual([old.tax_percent, new.tax_percent], [D(20), D(25)])
        cent = D("0.01")
        self.assertEqual([old.tax, new.tax], [(margins[0] / 6).quantize(cent), (margins[1] / 5).quantize(cent)])
        self.assertEqual(disagreements(), [])

    def test_one_that_is_decided_for_a_day_to_come_holds_from_that_day(self):
        self.change("20")
        turn = self.today + 30 * A_DAY
        self.change("25", tax_from=turn)
        self.assertEqual(shop_settings.settings().tax.percent, D(20))
        self.assertEqual(self.sold().tax_percent, D(20))
        with self.on(turn):
            self.assertEqual(shop_settings.settings().tax.percent, D(25))
        # It is put off, then called off, and another one is decided.
        self.change("25", tax_from=turn + 10 * A_DAY)
        self.assertEqual(self.rates(turn, turn + 10 * A_DAY), [D(20), D(25)])
        self.change("20", tax_from=turn)
        self.assertEqual(self.rates(turn, turn + 10 * A_DAY), [D(20), D(20)])
        self.assertEqual(shop_settings.settings().tax_before, [])
        for far in (date(1960, 1, 1), self.today + 800 * A_DAY):
            with self.assertRaisesRegex(Refused, "Look at the year"):
                self.change("25", tax_from=far)
        with self.assertRaisesRegex(Refused, "held before already"):
            self.change("20", tax_from=self.today)

    def test_what_was_sold_since_keeps_its_tax(self):
        self.change("20")
        sale, tomorrow = self.sold(), self.today + A_DAY
        with self.assertRaisesRegex(Refused, f"{sale.unit.tag} was sold on .*20 %: this can hold from {tomorrow.day} "):
            self.change("25")
        self.change("25", tax_from=tomorrow)
        with self.on(tomorrow), self.assertRaisesRegex(Refused, "taxed as of margin scheme, 20 %; .* 25 %"):
            selling.correct_sold_on(self.seller, sale, tomorrow, "the till says so")
        self.assertEqual(Sale.objects.get().tax_percent, D(20))

    def test_who_saves_a_page_from_before_the_change_is_told_of_it_first(self):
        self.change("20")
        row = shop_settings.settings()
        said = replace(as_kept(shop_settings.SettingsDetails, row), labour_rate=D(31))
        self.sold()
        self.change("25", tax_from=self.today + A_DAY)
        with self.assertRaises(StaleEdit):
            shop_settings.change_settings(self.owner, row.version, said)

    def test_a_setting_that_is_no_tax_moves_none(self):
        self.change("20")
        self.sold()
        row = shop_settings.settings()
        said = replace(as_kept(shop_settings.SettingsDetails, row), labour_rate=D(31))
        shop_settings.change_settings(self.owner, row.version, said)
        self.assertEqual(shop_settings.settings().tax_before, [])

    def test_through_the_page_with_why_not_at_the_field(self):
        self.change("20")
        sale = self.sold()
        self.client.force_login(self.owner)
        page, row = reverse("people:settings"), shop_settings.settings()
        given = as_kept(shop_settings.SettingsDetails, row)
        form = {name: "" if value is None else value for name, value in vars(given).items()}
        form |= {"version": row.version, "tax_percent": "25", "closes_at": "", "premium_counts": "on"}
        refused = self.client.post(page, form)
        self.assertContains(refused, f"{sale.unit.tag} was sold on")
        self.assertIn("tax_from", refused.context["form"].errors)
        turn = self.today + A_DAY
        self.assertRedirects(self.client.post(page, form | {"tax_from": turn.isoformat()}), page)
        self.assertContains(self.client.get(page), f"Until {self.today.day} {self.today:%B %Y}: margin scheme, 20 %.")


class Promised(ChangedSettings):
    def change_terms(self, **changes) -> None:
        row = terms()
        change_terms(self.owner, row.version, replace(as_kept(TermsDetails, row), **changes))

    def test_a_buyer_keeps_what_was_promised_at_the_sale(self):
        sale = self.sold()
        days = terms().warranty(sale.grade)
        self.hand().hand_over(sale.unit)
        grade = f"warranty_{sale.grade.lower()}"
        self.change_terms(**{grade: 7, "withdrawal": 0})
        sale.refresh_from_db()
        self.assertEqual(warranty.term_of(sale).days, days)
        with clock.at(timezone.now() + 10 * A_DAY):
            back = returns.ask(self.seller, sale, "mind", "It does not suit.")
        self.assertEqual((returns.case_of(back).warranty, returns.case_of(back).withdrawal), (days, 14))
        # The next one is sold under the terms as they are.
        self.assertEqual((self.sold().warranty_days, self.sold().withdrawal_days), (7, 0))


class Periods(ChangedSettings):
    """Global accounting by the quarter from the first of a year on; lots are bought today."""

    def scene(self) -> None:
        super().scene()
        self.taxed("global")
        self.year = timezone.localdate().year + 1
        SaleTerms.objects.update_or_create(pk=1, defaults={"period": "quarter", "global_since": date(self.year, 1, 1)})

    def sold_on(self, month: int, day: int, price: str) -> Sale:
        with self.on(date(self.year, month, day)):
            return self.sold(price)

    def test_each_day_lies_in_one_period_whatever_their_length_is_set_to(self):
        self.sold_on(2, 10, "120")
        with self.on(date(self.year, 4, 2)):
            taxes.close_period(self.owner, date(self.year, 1, 1))
            SaleTerms.objects.update(period="year")
            self.sold("240")
            (one,) = taxes.open_periods()
        self.assertEqual((one.period.first, one.period.after), (date(self.year, 4, 1), date(self.year + 1, 1, 1)))
        self.assertEqual((one.figures.sales, one.period.words), (D(240), f"1 April to 31 December {self.year}"))
        with self.on(date(self.year + 1, 1, 2)):
            closed = taxes.close_period(self.owner, date(self.year, 4, 1))
        self.assertEqual((closed.tax, closed.after), (D(40), date(self.year + 1, 1, 1)))

    def test_a_period_ends_where_the_rate_does_and_is_taxed_at_its_own(self):
        self.sold_on(2, 10, "120")
        turn = date(self.year, 3, 1)
        with self.on(date(self.year, 2, 11)):
            self.change("25", "global", tax_from=turn)
            # One that has not begun is none yet.
            self.assertEqual([one.period.after for one in taxes.open_periods()], [turn])
        self.sold_on(3, 5, "100")
        with self.on(date(self.year, 4, 2)):
            first, second, _ = taxes.open_periods()
            self.assertEqual((first.percent, first.figures.tax), (D(20), D(20)))
            self.assertEqual((second.percent, second.figures.tax), (D(25), D(20)))
            self.assertEqual(taxes.close_period(self.owner, date(self.year, 1, 1)).percent, D(20))
            with self.assertRaisesRegex(Refused, f"closed up to 1 March {self.year}"):
                self.change("30", "global", tax_from=date(self.year, 2, 1))
            self.change("30", "global", tax_from=date(self.year, 3, 10))
        self.assertEqual(TaxPeriod.objects.get().tax, D(20))
        self.assertEqual(disagreements(), [])

    def test_what_is_counted_from_stays_once_a_period_was_closed(self):
        with self.on(date(self.year, 4, 2)):
            taxes.close_period(self.owner, date(self.year, 1, 1))
            row = terms()
            said = replace(as_kept(TermsDetails, row), global_since=date(self.year, 2, 1))
            with self.assertRaisesRegex(Refused, "what counts began then"):
                change_terms(self.owner, row.version, said)
            change_terms(self.owner, row.version, replace(as_kept(TermsDetails, row), period="month"))
        self.assertEqual((TaxPeriod.objects.get().tax, terms().period), (ZERO, "month"))

    def test_what_is_sold_by_the_item_later_leaves_what_was_counted(self):
        sale = self.sold_on(2, 10, "120")
        with self.on(date(self.year, 2, 20)):
            with self.assertRaisesRegex(Refused, "taxed by global accounting, 20 %"):
                self.change("20", tax_from=date(self.year, 2, 1))
            self.change("20")
            by_item = self.sold("150")
            refunds.refund(self.owner, sale, D(12), "a scratch")
            self.assertEqual(by_item.tax_scheme, "margin")
        with self.on(date(self.year, 3, 1)):
            one, two = taxes.open_periods()
        self.assertEqual((one.figures.sales, two.figures.sales), (D(120), D(-12)))
