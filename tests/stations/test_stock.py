"""Drawers, orders and parcels: through the services and the pages."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal as D

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from core.buying.share import Basis
from core.stock.parts import Condition
from stations.books.selectors import complaints
from stations.buying import services as buying
from stations.buying.sharing import share_lot
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused, StaleEdit
from stations.intake import receiving
from stations.intake import services as intake
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.stock import drawer, orders, selectors, stock_file
from stations.stock import services as stock
from stations.stock.models import OrderLine, PartOrder, StockItem
from stations.stock.orders import Ordered, Terms
from stations.stock.services import Sort
from stations.units import offers
from stations.units.models import DrawerReceipt, Unit
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.models import Job, Reservation
from stations.workshop.new_job import NewJob
from tests.stations.base import line_data, lot_data
from tests.stations.test_through_the_pages import Through

JOB = NewJob(title="New belt", kind="repair", estimate_minutes=20)


class Stock(Through):
    def worth(self, item: StockItem) -> D:
        return balance(Account.STOCK, item.pk)

    def a_job(self, **more) -> Job:
        return workshop.open_job(self.owner, self.assessed(), replace(JOB, **more))


class Drawers(Stock):
    BUY = {"name": "Alcohol", "condition": "new", "drawer": "K1", "measure": "ml", "quantity": "0,5 l", "paid": "4.60"}

    def test_a_consumable_by_measure(self):
        self.done(self.post("stock:parts", **self.BUY))
        item = StockItem.objects.get(name="Alcohol")
        self.assertEqual((item.amount, self.worth(item)), ("500 ml", D("4.60")))
        self.assertContains(self.client.get("/workshop/stock/"), "0.92")
        job = self.a_job()
        self.done(self.post("workshop:issue", [job.pk], item=item.pk, quantity="5 cl"))
        self.assertEqual((self.again(item).amount, self.worth(item)), ("450 ml", D("4.14")))
        self.says(
            self.post("workshop:issue", [job.pk], item=item.pk, quantity="2 kg"), "kept in ml; you typed kg", "2 kg"
        )

    def test_bad_input_is_said_at_its_field(self):
        for changes, words in (
            ({"quantity": "2 kg"}, "kept in ml; you typed kg"),
            ({"quantity": "0"}, "More than nothing."),
            ({"quantity": ""}, "Say how much."),
            ({"paid": "-1"}, "below 0"),
            ({"name": ""}, "Say what part it is."),
            ({"measure": "piece", "quantity": "2.5"}, "whole"),
        ):
            self.says(self.post("stock:parts", **self.BUY | changes), words)
        self.done(self.post("stock:parts", **self.BUY))
        self.says(self.post("stock:parts", **self.BUY | {"measure": "g", "quantity": "5"}), "kept in ml here")

    def test_a_count_posts_its_difference_and_asks_why(self):
        self.says(self.post("stock:count", [self.part.pk], counted="2"), "books say 3", "2")
        self.done(self.post("stock:count", [self.part.pk], counted="2", reason="one rolled away"))
        self.assertEqual((self.again(self.part).quantity, self.worth(self.part)), (2, D("6.67")))
        self.done(self.post("stock:count", [self.part.pk], counted="4", reason="two behind the drawer"))
        self.assertEqual((self.again(self.part).quantity, self.worth(self.part)), (4, D("6.67")))
        self.assertEqual(balance(Account.LOSS, 0), D("3.33"))
        self.assertEqual(complaints(), [])
        self.says(self.post("stock:count", [self.part.pk], counted="-1", reason="x"), "below 0")

    def test_a_count_is_not_below_what_is_held(self):
        issuing.reserve(self.owner, self.a_job(), self.part, D(2))
        said = self.post("stock:count", [self.part.pk], counted="1", reason="gone")
        self.says(said, "2 of it are held")
        self.says(said, "New belt")

    def test_faulty_ones_found_good_and_good_ones_found_faulty(self):
        other = stock.correct_condition(self.technician, self.part, D(1), Condition.FAULTY, "cracked when bent")
        self.assertEqual((other.condition, self.worth(other), self.worth(self.part)), ("faulty", D("3.33"), D("6.67")))
        with self.assertRaisesRegex(Refused, "is faulty"):
            issuing.issue_part(self.owner, self.a_job(), self.again(other), 1)
        issuing.issue_part(self.owner, self.a_job(title="Other belt"), self.again(self.part), 1)
        bad = {"quantity": "1", "condition": "faulty", "reason": "cracked too"}
        page = self.client.get(self.post("stock:condition", [self.part.pk], **bad)["Location"])
        self.assertContains(page, "Others of it are in use, look at them too: 1 in W-")
        sent = {"name": "Belt", "quantity": "1", "condition": "tested", "reason": "only dirty", "drawer": "A2"}
        self.done(self.post("stock:condition", [other.pk], **sent))
        self.assertEqual(StockItem.objects.get(name="Belt", condition="tested").drawer, "A2")
        self.assertEqual(complaints(), [])
        with self.assertRaises(NotAllowed):
            stock.correct_condition(self.viewer, self.part, D(1), Condition.FAULTY, "x")

    def test_when_more_is_ordered(self):
        sent = {
            "name": "Belt",
            "drawer": "A1",
            "measure": "piece",
            "reorder_at": "3",
            "reorder_to": "10",
            "in_use": "on",
            "version": self.part.version,
        }
        self.says(self.post("stock:change", [self.part.pk], **sent | {"reorder_to": "2"}), "no more than")
        self.done(self.post("stock:change", [self.part.pk], **sent | {"fits": [self.model.pk]}))
        (one,) = selectors.in_stock(list(selectors.find(low=True)))
        self.assertEqual(one.to_order, 7)
        self.assertEqual(list(selectors.find(fits=self.model)), [self.part])
        orders.order_parts(self.owner, "Quay", Terms(), [Ordered(Sort("Belt", "new"), "7", D("3"))])
        self.assertIsNone(selectors.in_stock([self.again(self.part)])[0].to_order)
        said = self.post("stock:change", [self.part.pk], **sent | {"measure": "g", "version": 2})
        self.says(said, "that stays")

    def test_pages_ask_as_often_however_much_there_is(self):
        self.client.get("/workshop/stock/")
        with self.assertNumQueries(15):
            self.client.get("/workshop/stock/")
        for n in range(40):
            stock.stock_part(self.owner, Sort(f"Chip {n}", drawer=f"C{n}"), 2, D(1))
        with self.assertNumQueries(15):
            self.assertContains(self.client.get("/workshop/stock/"), "page")
        self.assertEqual([len(selectors.find(words)) for words in ("chip 7", "c7", "C 39")], [4, 1, 1])
        self.assertContains(self.client.get("/workshop/stock/?q=chip+39"), "Chip 39")

    def test_labels_for_drawers(self):
        self.assertContains(self.client.get("/intake/drawers/labels/"), "1 drawer")
        self.assertContains(self.client.get("/intake/drawers/labels/?file=svg&size=sheet-24"), "Belt")


class Files(Stock):
    def taken(self, text: str):
        file = SimpleUploadedFile("s.csv", text.encode())
        return self.client.post("/workshop/stock/import/", {"file": file, "write_key": "k"})

    def test_a_file_is_looked_at_and_goes_in_whole(self):
        text = "name;condition;drawer;measure;quantity;paid\nBelt;new;A1;piece;2;5.00\nGlue;new;K4;ml;0,1 l;3,20\n"
        self.assertContains(self.taken(text), "2 lines can go in")
        self.assertEqual(self.again(self.part).quantity, 3)
        self.done(self.client.post("/workshop/stock/import/", {"text": text, "write_key": "k2"}))
        self.assertEqual((self.again(self.part).quantity, StockItem.objects.get(name="Glue").quantity), (5, 100))
        self.assertContains(self.client.get("/workshop/stock.csv"), "Glue,new,K4,ml,100")

    def test_what_went_out_comes_in_again_once_it_says_what_was_paid(self):
        StockItem.objects.create(name="Nut", drawer="A2")
        went = self.client.get("/workshop/stock.csv").content.decode("utf-8-sig")
        self.assertIn("Nut,new,A2,piece,0,", went)
        paid = went.replace("Belt,new,A1,piece,3,,", "Belt,new,A1,piece,3,6.00,")
        page = self.taken(paid)
        self.assertContains(page, "1 line can go in")
        self.assertContains(page, "1 with nothing in it is left out")
        self.assertEqual(stock_file.take_in(self.owner, paid), 1)
        self.assertEqual(self.again(self.part).quantity, 6)

    def test_one_bad_line_stops_it_all(self):
        text = "name,quantity,paid,condition\nBelt,2,5,new\nFuse,x,1,new\nLead,1,1,shiny\n,1,1,new\n"
        page = self.taken(text)
        for words in ("Line 3", "no amount", "no condition", "a name of 1"):
            self.assertContains(page, words)
        self.client.post("/workshop/stock/import/", {"text": text, "write_key": "k3"})
        self.assertEqual(self.again(self.part).quantity, 3)
        self.assertContains(self.taken("a,b\n1,2\n"), "names no name")

    def test_every_bad_line_says_what_is_wrong_with_it(self):
        head = "name,condition,drawer,measure,quantity,paid,modern,keeps_data\n"
        for line, words in (
            ("x" * 81 + ",new,A1,piece,1,1,,", "a name of 1 to 80 characters"),
            ("Fuse,shiny,A1,piece,1,1,,", "“shiny” is no condition: new"),
            ("Fuse,new,A1,furlong,1,1,,", "“furlong” is no measure: piece"),
            ("Fuse,new," + "A" * 21 + ",piece,1,1,,", "a drawer has 20 characters at most"),
            ("Fuse,new,A1,piece,1,1,perhaps,", "modern: yes or no, not “perhaps”"),
            ("Fuse,new,A1,piece,1,1,,maybe", "keeps_data: yes or no, not “maybe”"),
            ("Fuse,new,A1,piece,2 kg,1,,", "kept in pieces"),
            ("Fuse,new,A1,piece,0,1,,", "a quantity above nothing"),
            ("Fuse,new,A1,piece,1,-1,,", "paid: from 0 up"),
            ("Fuse,new,A1,piece,1,999999999,,", "paid: from 0 up"),
            ("Fuse,new,A1,piece,1,,,", "nothing says what was paid for it"),
            ("Belt,new,Z9,piece,1,1,,", "it lies in drawer A1 here, not in Z9"),
        ):
            found = stock_file.read(head + line + "\n")
            self.assertEqual(len(found.bad), 1, line)
            self.assertIn(words, found.bad[0].reason, line)
            with self.assertRaisesRegex(Refused, "nothing was taken in. The first: line 2"):
                stock_file.take_in(self.owner, head + line + "\n")

    def test_what_is_no_table_and_what_is_too_long(self):
        with self.assertRaises(Refused) as caught:
            stock_file.read("name,quantity,paid\n" + "Fuse,1,1\n" * (stock_file.MOST_ROWS + 1))
        self.assertIn("lines at most. Split the file.", caught.exception.message)
        with self.assertRaises(Refused):
            stock_file.read("")

    def test_a_line_that_the_drawer_refuses_takes_the_others_back(self):
        """The same name is kept by measure here."""
        stock.stock_part(self.owner, Sort("Glue", "new", "K4", "ml"), "0.1 l", D(3))
        text = "name,measure,quantity,paid\nBelt,piece,1,1\nGlue,g,5,1\n"
        with self.assertRaisesRegex(Refused, "Line 3: .*kept in ml here.* Nothing was taken in."):
            stock_file.take_in(self.owner, text)
        self.assertEqual(self.again(self.part).quantity, 3)

    def test_words_for_yes(self):
        text = "name,quantity,paid,modern,keeps_data\nCard,1,1,yes,no\nDisk,1,1,,yes\n"
        self.assertEqual(stock_file.take_in(self.owner, text), 2)
        rows = {
            item.name: (item.modern, item.keeps_data) for item in StockItem.objects.filter(name__in=["Card", "Disk"])
        }
        self.assertEqual(rows, {"Card": (True, False), "Disk": (False, True)})


class Parcels(Stock):
    def order(self, *wanted: Ordered, **terms) -> PartOrder:
        return orders.order_parts(self.owner, "Old Mill", Terms(**terms), wanted)

    def test_a_parcel_that_should_be_here_stands_out(self):
        """After the day that was said; after three weeks where none was."""
        day = timezone.localdate()
        said = self.order(Ordered(Sort("Belt", "new"), "1", D(2)), expected_on=day + timedelta(days=5))
        unsaid = self.order(Ordered(Sort("Belt", "new"), "1", D(2)))
        for days, late in ((5, 0), (6, 1), (21, 1), (22, 2)):
            with clock.at(timezone.now() + timedelta(days=days)):
                self.assertEqual(sum(order.awaited_long for order in (said, unsaid)), late)
                for page in (reverse("stock:orders"), reverse("stock:parts"), reverse("workshop:workshop")):
                    self.assertContains(self.client.get(page), "</svg>late</span>", late, msg_prefix=f"{page} {days}")
        orders.call_off(self.owner, unsaid, "sold out")
        with clock.at(timezone.now() + timedelta(days=60)):
            self.assertFalse(self.again(unsaid).awaited_long)

    def test_an_order_through_its_pages(self):
        sent = {"seller": "Old Mill", "currency": "sek", "rate": "0.1", "postage": "50", "duty": "", "version": "1"}
        self.says(self.post("stock:orders", **sent | {"rate": ""}), "what one SEK costs")
        self.says(self.post("stock:orders", **sent | {"seller": ""}), "Say who sells it.")
        self.says(self.post("stock:orders", **sent | {"postage": "-4"}), "below 0")
        self.says(self.post("stock:orders", **sent | {"currency": "QQQ"}), "Three letters")
        self.says(self.post("stock:orders", **sent | {"currency": "EUR"}), "EUR is ours: one is 1.")
        self.done(self.post("stock:orders", **sent))
        order = PartOrder.objects.get()
        line = {"name": "Belt", "condition": "new", "measure": "piece", "quantity": "4", "each": "20"}
        self.done(self.post("stock:order-line", [order.number], **line))
        self.says(self.post("stock:order-line", [order.number], **line), "in the order already")
        self.done(
            self.post("stock:order-line", [order.number], **line | {"name": "Cap", "quantity": "2", "each": "10"})
        )
        belt, cap = order.lines.order_by("pk")
        # On a page that was open before the second was put into the order, nobody said what came of it.
        unsaid = self.post("stock:take-in", [order.number], **{f"came-{belt.pk}": ""})
        self.says(unsaid, "It was put into the order meanwhile: say how much of it came.")
        # Nor is what was typed of one that is out of it by now passed over.
        typed = {f"came-{belt.pk}": "", f"came-{cap.pk}": "1", "came-999999": "3"}
        self.says(self.post("stock:take-in", [order.number], **typed), "Something was taken out of the order meanwhile")
        came = {f"came-{belt.pk}": "", f"came-{cap.pk}": "1", "rest": "unpaid"}
        self.done(self.post("stock:take-in", [order.number], **came))
        # 8.00 and 1.00 of goods, 5.00 of postage by value.
        self.assertEqual([self.again(one).cost for one in (belt, cap)], [D("12.44"), D("1.56")])
        self.assertEqual((self.again(self.part).quantity, self.worth(self.part)), (7, D("22.44")))
        self.says(self.client.get(f"/workshop/orders/O-{order.number}/"), "14.00")
        self.assertEqual(complaints(), [])
        with self.assertRaisesRegex(Refused, "taken in already"):
            orders.take_in(self.owner, order, {})

    def test_a_parcel_frees_what_waited_and_holds_it(self):
        job = self.a_job(waiting_for="belt")
        order = self.order(Ordered(Sort("Belt", "new"), "1", D("3")))
        taken = orders.take_in(self.owner, order, {})
        self.assertIn("New belt", taken.freed[0].words)
        self.assertEqual((self.again(job).waiting_for, Reservation.objects.get().quantity), ("", 1))
        self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "held in drawer A1")

    def test_what_is_missing_can_be_fitted_once_it_came(self):
        unit = self.assessed(missing=("mouse",))
        offers.note_offer(self.owner, offers.Quote("Halden M2: mouse", "Quay", D(4), days=3, postage=D(5)))
        way = {"budget": "", "days": "", "seen": offers.best_way().mark}
        offers.note_offer(self.owner, offers.Quote("Halden M2: mouse", "Quay", D("3.50"), days=3, postage=D(5)))
        self.post("units:order-it", **way)
        self.assertFalse(PartOrder.objects.exists())
        self.done(self.post("units:order-it", **way | {"seen": offers.best_way().mark}))
        order = PartOrder.objects.get()
        self.assertEqual(order.lines.get().item.fits.get(), self.model)
        self.assertContains(self.client.get("/intake/wanted/"), order.code)
        self.client.post("/intake/wanted/cheapest/order/", {"budget": "", "days": "", "write_key": "z"})
        self.assertEqual(PartOrder.objects.count(), 1)
        taken = orders.take_in(self.owner, order, {})
        self.assertIn("its mouse can be fitted", taken.freed[0].words)
        self.assertContains(self.client.get(f"/workshop/W-{unit.number}/worth/"), "one is in drawer")

    def test_only_what_is_called_so_frees_a_job(self):
        job = self.a_job(waiting_for="cap")
        stock.stock_part(self.owner, Sort("Capacitor, 10 µF"), 4, D(1))
        self.assertEqual(self.again(job).waiting_for, "cap")
        stock.stock_part(self.owner, Sort("Cap, blue"), 1, D(1))
        self.assertEqual((self.again(job).waiting_for, Reservation.objects.get().item.name), ("", "Cap, blue"))

    def test_more_than_the_books_hold(self):
        order = self.order(rate=D("90000"), currency="SEK")
        line = {"name": "Belt", "condition": "new", "measure": "piece", "quantity": "999999", "each": "9999"}
        self.says(self.post("stock:order-line", [order.number], **line), "more than the books can hold")

    def test_terms_that_can_not_be(self):
        for terms, field in (
            (Terms(rate=D(0)), "rate"),
            (Terms(postage=D(-1)), "postage"),
            (Terms(duty=D(-1)), "duty"),
        ):
            with self.assertRaises(Refused) as caught:
                orders.order_parts(self.owner, "Old Mill", terms)
            self.assertEqual(caught.exception.field, field)
        self.assertFalse(PartOrder.objects.exists())

    def test_what_is_wrong_with_a_line_is_said_at_its_field(self):
        order = self.order(Ordered(Sort("Belt", "new"), "1", D("3")))
        for ordered, field in (
            (Ordered(Sort("Cap"), "1", D(-1)), "each"),
            (Ordered(Sort("Belt", "new"), "2", D(3)), "name"),
            (Ordered(Sort("Cap"), "none", D(1)), "quantity"),
        ):
            with self.assertRaises(Refused) as caught:
                orders.add_to_order(self.owner, order, ordered)
            self.assertEqual(caught.exception.field, field)
        self.assertEqual(order.lines.count(), 1)

    def test_a_line_is_taken_out_and_terms_are_changed_while_it_is_open(self):
        order = self.order(Ordered(Sort("Belt", "new"), "1", D("3")))
        orders.change_terms(self.owner, order, order.version, Terms(currency="EUR", postage=D(4)))
        with self.assertRaises(StaleEdit):
            orders.change_terms(self.owner, order, 1, Terms(currency="EUR", postage=D(5)))
        orders.drop_line(self.owner, order.lines.get())
        with self.assertRaisesRegex(Refused, "Nothing is in this order yet."):
            orders.take_in(self.owner, order, {})
        orders.add_to_order(self.owner, order, Ordered(Sort("Belt", "new"), "2", D("3")))
        orders.take_in(self.owner, order, {})
        self.assertEqual(self.again(order).landed, D(10))
        for act in (
            lambda: orders.add_to_order(self.owner, order, Ordered(Sort("Cap"), "1", D(1))),
            lambda: orders.drop_line(self.owner, order.lines.get()),
            lambda: orders.change_terms(
                self.owner, order, self.again(order).version, Terms(currency="EUR", postage=D(1))
            ),
            lambda: orders.call_off(self.owner, order, "too late"),
        ):
            with self.assertRaisesRegex(Refused, "was taken in already"):
                act()
        self.assertEqual(complaints(), [])

    def test_called_off_with_a_reason_only(self):
        with self.assertRaises(Refused) as caught:
            orders.call_off(self.owner, self.order(), "")
        self.assertEqual(caught.exception.field, "why")

    def test_only_who_may_order_and_take_in(self):
        order = self.order(Ordered(Sort("Belt", "new"), "1", D("3")))
        for act in (
            lambda: orders.order_parts(self.viewer, "Old Mill", Terms()),
            lambda: orders.drop_line(self.viewer, order.lines.get()),
            lambda: orders.take_in(self.viewer, order, {}),
        ):
            with self.assertRaises(NotAllowed):
                act()

    def test_called_off_and_nothing_came(self):
        order = self.order(Ordered(Sort("Belt", "new"), "1", D("3")))
        line = OrderLine.objects.get()
        with self.assertRaisesRegex(Refused, "call the order off"):
            orders.take_in(self.owner, order, {line.pk: "0"})
        self.done(self.post("stock:call-off", [order.number], why="sold to somebody else"))
        with self.assertRaisesRegex(Refused, "called off"):
            orders.take_in(self.owner, order, {})
        self.assertEqual(orders.on_the_way([self.part]), {})
        with self.assertRaisesRegex(Refused, "kept in pieces"):
            orders.take_in(
                self.owner, self.order(Ordered(Sort("Lead"), "2", D(1))), {OrderLine.objects.last().pk: "3 ml"}
            )


class Holding(Stock):
    def test_what_is_held_for_one_is_refused_to_another_by_name(self):
        one, other = self.a_job(), self.a_job(title="Feet")
        issuing.reserve(self.technician, one, self.part, D(2))
        said = self.post("workshop:issue", [other.pk], item=self.part.pk, quantity="2")
        self.says(said, "Only 1 free in drawer A1")
        self.says(said, "held for W-")
        self.done(self.post("workshop:issue", [one.pk], item=self.part.pk, quantity="2"))
        self.assertFalse(Reservation.objects.exists())
        self.assertEqual(self.again(self.part).free, 1)

    def test_it_is_let_go_and_a_job_that_ends_lets_go(self):
        job = self.a_job()
        self.done(self.post("workshop:issue", [job.pk], item=self.part.pk, quantity="2", reserve="1"))
        self.assertEqual(drawer.held([self.part])[self.part.pk][0].amount, 2)
        self.done(self.post("workshop:let-go", [Reservation.objects.get().pk]))
        issuing.reserve(self.owner, job, self.part, D(3))
        workshop.finish_job(self.owner, job, workshop.JobResult("done"))
        self.assertEqual((self.again(self.part).reserved, Reservation.objects.count()), (0, 0))

    def test_a_part_by_its_name(self):
        job = self.a_job()
        self.done(self.post("workshop:issue", [job.pk], named="bel", quantity="1"))
        stock.stock_part(self.owner, Sort("Belt, long"), 1, D(1))
        self.says(self.post("workshop:issue", [job.pk], named="el", quantity="1"), "Which one")
        self.says(self.post("workshop:issue", [job.pk], named="nut", quantity="1"), "Nothing in the drawers")
        self.says(self.post("workshop:issue", [job.pk], quantity="1"), "Choose a part")


class OutOfALot(Stock):
    def test_pieces_of_a_line_go_to_a_drawer_with_their_share(self):
        sent = {"count": "2", "name": "Socket", "condition": "new", "measure": "piece", "amount": "120", "drawer": "C4"}
        self.says(
            self.post("intake:into-drawer", [self.line.pk], **sent | {"amount": "3 ml"}), "kept in pieces", "3 ml"
        )
        self.says(self.post("intake:into-drawer", [self.line.pk], **sent | {"count": "4"}), "still to be received")
        self.done(self.post("intake:into-drawer", [self.line.pk], **sent))
        item, receipt = StockItem.objects.get(name="Socket"), DrawerReceipt.objects.get()
        self.assertEqual((item.quantity, self.again(self.line).received), (120, 2))
        self.assertEqual(self.worth(item), receipt.cost)
        (unit,) = self.receive()
        share = self.line.shares.get().amount
        self.assertEqual(receipt.cost + balance(Account.UNIT, unit.pk), share)
        self.assertEqual(complaints(), [])

    def test_shared_again_the_drawer_follows_until_some_is_used(self):
        receipt = receiving.receive_into_drawer(self.owner, self.line, 3, Sort("Card"))
        item = receipt.item
        share_lot(self.owner, self.lot, Basis.COUNT)
        self.assertEqual(self.worth(item), self.line.shares.latest("pk").amount)
        issuing.issue_part(self.owner, self.a_job_elsewhere(), item, 1)
        before = self.worth(item)
        share_lot(self.owner, self.lot, Basis.VALUE)
        self.assertEqual(self.worth(item), before)
        self.assertEqual(complaints(), [])

    def test_what_nobody_knows_the_cost_of_is_not_used_as_if_it_cost_nothing(self):
        stock.stock_part(self.owner, Sort("Card"), 2, D(10))
        lot = buying.record_lot(self.owner, lot_data(), [line_data(quantity=3)])
        receiving.receive_into_drawer(self.owner, lot.lines.get(), 3, Sort("Card"))
        item, job = StockItem.objects.get(name="Card"), self.a_job()
        self.assertContains(self.client.get(f"/workshop/stock/{item.pk}/"), "is not shared over its lines yet")
        (one,) = selectors.in_stock([item])
        self.assertEqual((one.each, selectors.stock_with_value([item])[0][2]), (5, 5))
        for post in (
            lambda: self.post("workshop:issue", [job.pk], item=item.pk, quantity="3"),
            lambda: self.post("stock:count", [item.pk], counted="2", reason="gone"),
            lambda: self.post(
                "stock:condition", [item.pk], quantity="3", condition="faulty", reason="looked", drawer=""
            ),
        ):
            self.says(post(), "What 3 of them cost is not known")
        self.done(self.post("workshop:issue", [job.pk], item=item.pk, quantity="2"))
        self.assertEqual((job.issues.get().cost, self.worth(item)), (10, 0))
        self.assertIsNone(selectors.in_stock([self.again(item)])[0].each)
        share_lot(self.owner, lot, Basis.VALUE)
        self.assertEqual(self.worth(item), lot.landed_total)
        self.done(self.post("workshop:issue", [job.pk], item=item.pk, quantity="1"))
        self.assertEqual(complaints(), [])

    def a_job_elsewhere(self) -> Job:
        (unit,) = intake.receive(self.owner, self.other_line, 1, self.model, "shelf")
        return workshop.open_job(self.owner, self.hand().assess(unit, "period"), JOB)

    def test_received_by_mistake_into_a_drawer(self):
        receipt = receiving.receive_into_drawer(self.owner, self.line, 3, Sort("Card"))
        self.done(self.post("intake:take-back", [receipt.pk], why="they are machines"))
        self.assertEqual((StockItem.objects.get(name="Card").quantity, self.again(self.line).received), (0, 0))
        self.assertEqual(complaints(), [])
        again = receiving.receive_into_drawer(self.owner, self.line, 3, Sort("Card"))
        issuing.issue_part(self.owner, self.a_job_elsewhere(), again.item, 1)
        with self.assertRaisesRegex(Refused, "Some of it was used"):
            receiving.take_back_receipt(self.owner, again, "oops")

    def test_received_by_mistake_as_a_unit(self):
        first, second = self.receive(2)
        self.assertContains(self.client.get(f"/W-{first.number}/"), "It was received by mistake")
        self.done(self.post("intake:act", [first.number, "un-receive"], reason="it is a box of leads", sure="on"))
        self.assertFalse(Unit.objects.filter(pk=first.pk).exists())
        self.assertEqual(self.again(self.line).received, 1)
        third, _ = self.receive(2)
        # Its piece of the line is received again; its tag is not given out again.
        self.assertEqual(third.number, second.number + 1)
        self.assertEqual(sorted(self.line.units.values_list("line_index", flat=True)), [0, 1, 2])
        self.assertEqual(complaints(), [])
        Unit.objects.filter(pk=third.pk).update(approach="donor")
        with self.assertRaisesRegex(Refused, "was chosen"):
            receiving.un_receive(self.owner, self.again(third), "no")
        self.hand().find(second, "front", "crack", 2, "a crack")
        with self.assertRaisesRegex(Refused, "there is a finding of it"):
            receiving.un_receive(self.owner, self.again(second), "no")
        with self.assertRaisesRegex(Refused, "intake is finished"):
            receiving.un_receive(self.owner, self.hand().assess(third, "period"), "no")
