"""Lists that are empty in most shops: what stands in them where they are not."""

from datetime import timedelta
from decimal import Decimal

from django.template.loader import render_to_string
from django.urls import reverse

from core.buying.share import Basis
from core.flow.stage import Station
from core.machine.approach import Approach
from core.stock.parts import PartKind
from stations.buying import services as buying
from stations.buying.sharing import share_lot
from stations.common import clock
from stations.day.models import PlanOfDay
from stations.intake import services as intake
from stations.selling import services as selling
from stations.selling.models import Listing, Sale
from stations.stock import services as stock
from stations.units import parts
from stations.units.parts import Described, Place
from stations.workshop import issuing, proposals, treatment
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.stations.base import line_data, lot_data
from tests.stations.test_pages import PageTest

D = Decimal


class Rows(PageTest):
    def shows(self, name: str, *words: str, at=()) -> None:
        page = self.client.get(reverse(name, args=at))
        for each in words:
            self.assertContains(page, each)

    def job(self, **more):
        said = NewJob(**{"kind": "repair", "title": "New belt", "estimate_minutes": 20, "reversible": True} | more)
        return workshop.open_job(self.owner, self.unit, said)


class Buying(Rows):
    def test_lines_on_other_pages_stand_in_the_table_of_charges(self):
        lines = [line_data(f"Machine {number}", 1, 10 + number) for number in range(55)]
        lot = buying.record_lot(self.owner, lot_data(), lines)
        share_lot(self.owner, lot, Basis.VALUE)
        page = self.client.get(reverse("buying:lot", args=[lot.number]), {"page": 2})
        table = page.context["table"]
        self.assertContains(page, "lines on other pages")
        shown = [sum(row.parts[at] for row in table.rows) for at in range(len(table.totals))]
        self.assertEqual([one + other for one, other in zip(shown, table.others, strict=True)], list(table.totals))
        self.assertGreater(table.others[0], 0)


class Selling(Rows):
    STANDS = "listed"

    def test_markdowns_that_are_due_and_words_gone_stale(self):
        unit = self.listed()
        Listing.objects.filter(unit=unit).update(ask_now=D(120), gains=D(5), stale=2)
        self.shows("selling:selling", 'ask <b class="mono">120.00</b>', "2 sentences the record has left behind")

    def test_what_the_bar_counts_at_books_is_said_there(self):
        sale = selling.sell(self.seller, self.listed(), D(150), "A. Reader", D(9))
        self.shows("books:books", "1 sold unit to settle:", "1 here", "0 on the way")
        self.hand().pay(sale)
        self.hand().hand_over(sale.unit)
        self.assertNotContains(self.client.get(reverse("books:books")), "to settle:")

    def test_what_is_long_on_its_way_stands_out(self):
        sale = selling.sell(self.seller, self.listed(), D(150), "A. Reader", D(9))
        self.hand().pay(sale)
        for days, times in ((2, 0), (40, 1)):
            Sale.objects.update(sent_at=clock.now() - timedelta(days=days))
            self.assertContains(self.client.get(reverse("dispatch:dispatch")), "long</span>", times)


class Units(Rows):
    def test_every_station_can_be_asked_for(self):
        page = self.client.get(reverse("units:units"), {"station": "bench"})
        for station in Station:
            chosen = "selected" if station is Station.BENCH else ""
            option = f'<option value="{station.value}" {chosen}>{station.label}</option>'
            self.assertInHTML(option, page.content.decode())


class Workshop(Rows):
    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed()

    def test_what_came_in_today_and_which_jobs_wait_for_it(self):
        self.job(waiting_for="idler")
        item = stock.item_of(stock.Sort("Idler wheel", "new", "B7"))
        stock.buy_stock(self.owner, item, 2, D(3))
        self.shows("workshop:workshop", "Came in today", "waits for", "New belt")

    def test_parts_of_a_job_that_is_done(self):
        job = self.job()
        issuing.issue_part(self.owner, job, self.part, 1)
        workshop.finish_job(self.owner, job, workshop.JobResult("runs", worked=True))
        self.shows("workshop:unit", "1 × Belt", at=[self.unit.number])

    def test_the_treatment_report_tells_of_parts_that_went_in_and_out(self):
        put = parts.record_part(self.owner, Place(self.unit), Described(PartKind.CARD, "Clock card", serial="K 7"))
        parts.move_part(self.owner, put, Place(drawer="C2"), "too slow", parts.Worths(D(5), D(100)))
        told = " ".join(render_to_string("workshop/treatment.html", treatment.context_of(self.unit)).split())
        self.assertIn("serial K 7, from", told)
        self.assertIn("to drawer C2; too slow.", told)

    def test_what_the_approach_refuses_is_said_with_why(self):
        intake.choose_approach(self.owner, self.unit, Approach.CONSERVE, "a museum’s")
        self.hand().find(self.unit, "top", "yellowing", 3, "all over")
        found = proposals.proposals_of(self.again(self.unit))
        self.assertTrue(found.refused)
        for words in found.refused[0]:
            self.shows("workshop:worth", words, at=[self.unit.number])


class Days(Rows):
    def test_what_is_left_for_another_day(self):
        day = clock.today()
        none = {"released": 0, "most": 0, "idle": 0, "broken": 0, "gap": 0}
        PlanOfDay.objects.create(day=day, made_at=clock.now(), left=[[117, "Mend the lid", 35]], **none)
        self.shows("day:day", "1 for another day", "Mend the lid,", at=[day])
