"""What two people may have typed each for themselves is noticed: lots, parts, sales elsewhere, one machine twice."""

from datetime import timedelta
from decimal import Decimal

from django.urls import reverse

from stations.buying import services as buying
from stations.buying.models import Lot
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.stock.models import StockItem
from stations.stock.taken_back import last_purchase, not_bought
from stations.units.models import Unit
from stations.units.selectors import same_serial
from tests.stations.base import AtOnce, line_data, lot_data
from tests.stations.test_through_the_pages import Through

D = Decimal


class HereAlready(Through):
    def test_a_lot_of_as_many_on_that_day_for_as_much_is_asked_about(self):
        first = self.done(self.post("buying:record", **self.new_lot()))
        page = self.post("buying:record", **self.new_lot(title="The crate", supplier_name="quay", note="by the gate"))
        self.says(page, "L-002, Crate, is as many pieces from Quay on that day, for as much.")
        self.assertContains(page, "by the gate")
        self.assertContains(page, 'name="another"')
        self.assertNotContains(self.client.get(reverse("buying:record")), 'name="another"')
        for change in (
            {"bought_on": "2026-10-02"},
            {"supplier_name": "Pier"},
            {"lines-0-quantity": "4"},
            {"charges-0-how_much": "91"},
            {"another": "on"},
        ):
            with self.subTest(change):
                self.done(self.post("buying:record", **self.new_lot(**change)))
        self.assertEqual(Lot.objects.count(), 7)
        self.done(self.post("buying:correct", [first.strip("/").split("-")[-1]], **self.new_lot(title="Crates")))

    def test_parts_typed_in_twice_are_asked_about_until_the_first_were_taken_back(self):
        sent = {"name": "Fuse 1 A", "condition": "new", "drawer": "C1", "measure": "piece", "quantity": "10"}
        self.done(self.post("stock:parts", **sent, paid="4.00"))
        self.says(self.post("stock:parts", **sent, paid="4"), f"{self.owner.name} put 10 in for 4.00 on that day.")
        not_bought(self.owner, last_purchase(StockItem.objects.get(name="Fuse 1 A")), "not ours")
        for change in ({"paid": "4"}, {"paid": "4.50"}, {"paid": "4", "another": "on"}):
            self.done(self.post("stock:parts", **sent | change))
        self.assertEqual(StockItem.objects.get(name="Fuse 1 A").quantity, 30)

    def test_a_serial_that_is_here_is_said_where_it_is_typed_and_on_both_pages(self):
        one, other, third = self.receive(3)
        Unit.objects.filter(pk=one.pk).update(serial="HM-77")
        page = self.client.get(f"/intake/W-{other.number}/")
        form = page.context["form"]
        typed = {name: value for name, value in form.initial.items() if value is not None and value is not False}
        typed |= {"serial": "hm-77", "version": other.version}
        answer = self.client.post(
            reverse("intake:identify", args=[other.number]), typed, headers={"HX-Request": "true"}
        )
        self.assertContains(answer, f"W-{one.number}")
        for unit, twin in ((one, other), (other, one)):
            for address in (f"/W-{unit.number}/", f"/intake/W-{unit.number}/"):
                self.assertContains(self.client.get(address), "read the plate once more")
            self.assertEqual(same_serial(self.again(unit)), [twin])
        self.assertEqual(same_serial(self.again(third)), [])

    def test_another_model_numbers_alike_and_is_no_twin(self):
        one, other = self.receive(2)
        self.identify(one, serial="100")
        self.identify(other, serial="100")
        self.assertEqual(same_serial(self.again(one)), [self.again(other)])
        other_model = MachineModel.objects.create(maker="Orrin", name="9", form_factor="desktop")
        Unit.objects.filter(pk=one.pk).update(model=other_model)
        self.assertEqual(same_serial(self.again(one)), [])


class TwoTypeOneInvoice(AtOnce):
    def test_it_is_recorded_once(self):
        said = lot_data(another=False, title="Cellar", supplier_name="Pier")
        ends = self.together(*[lambda: buying.record_lot(self.owner, said, [line_data()])] * 2)
        self.assertEqual(Lot.objects.filter(title="Cellar").count(), 1, ends)


class OneMore(Through):
    """What the next of several is likely to share is typed once."""

    def test_sales_of_one_model_and_lines_of_one_invoice(self):
        sale = {"model": self.model.pk, "sold_on": clock.today().isoformat(), "grade": "B", "price": "90"}
        sale |= {"currency": "SEK", "rate": "0.09", "channel": "Quay market", "completeness": "", "buyer": ""}
        form = self.client.get(self.done(self.post("selling:comparables", **sale))).context["form"]
        shown = {name: form[name].value() for name in ("model", "currency", "channel", "price", "rate")}
        kept = {"model": str(self.model.pk), "currency": "SEK", "channel": "Quay market"}
        self.assertEqual(shown, kept | {"price": None, "rate": None})
        there = self.done(self.post("selling:comparables", **sale | {"price": "91", "channel": "ö" * 60}))
        self.assertEqual(there, reverse("selling:comparables"))
        day = (clock.today() - timedelta(days=3)).isoformat()
        part = {"name": "Fuse 1 A", "condition": "new", "measure": "piece", "quantity": "10", "paid": "4.00", "on": day}
        form = self.client.get(self.done(self.post("stock:parts", **part))).context["form"]
        self.assertEqual((form["on"].value(), form["name"].value()), (day, None))
        self.assertEqual(self.client.get(reverse("stock:parts"), {"on": "x" * 999}).status_code, 200)
