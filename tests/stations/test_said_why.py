"""What ends or turns the course of a unit wants its reason; what the day, the queue and the labels refuse."""

from datetime import datetime, time, timedelta
from decimal import Decimal as D
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch

from django.core.management import call_command
from django.db import Error
from django.urls import reverse
from django.utils import timezone

from core.catalogue.recipes import JobKind, Recipe, Step
from stations.books.selectors import complaints
from stations.catalogue import recipes as book
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.day import services as day
from stations.day.models import Arrival, Promise, WorkingHours
from stations.intake import settling
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.people.models import HistoryEntry
from stations.queue import services as queue
from stations.queue.management.commands import work
from stations.units import labels
from stations.units.models import DrawerReceipt, Unit
from stations.workshop import services as workshop
from stations.workshop.models import JobStep
from stations.workshop.new_job import NewJob
from tests.stations.test_through_the_pages import Through


class Settled(Through):
    def settle(self, unit: Unit, what: str, **sent):
        return self.post("intake:act", [unit.number, what], **{"sure": "on"} | sent)

    def test_every_act_that_wants_a_reason_has_none_without(self):
        unit = self.assessed()
        for act in (
            settling.park,
            settling.write_off,
            settling.take_back_write_off,
            settling.came_back,
            settling.data_still_there,
        ):
            with self.subTest(act.__name__), self.assertRaises(Refused) as caught:
                act(self.owner, unit, "")
            self.assertEqual(caught.exception.field, "reason")
        for how, verified, field in (("burn", "ash", "how"), ("clear", "", "verified")):
            with self.subTest(how), self.assertRaises(Refused) as caught:
                settling.record_sanitisation(self.owner, unit, how, verified)
            self.assertEqual(caught.exception.field, field)
        self.assertEqual(self.again(unit).stage, unit.stage)

    def test_written_off_and_back_the_books_stand_where_they_stood(self):
        unit = self.assessed()
        carried, lost = balance(Account.UNIT, unit.pk), balance(Account.LOSS, unit.pk)
        self.says(self.settle(unit, "write-off", reason=""), "required")
        page = self.settle(unit, "write-off", reason="fell off the quay", sure="")
        self.says(page, "Read what will happen, then tick this.", "fell off the quay")
        self.done(self.settle(unit, "write-off", reason="fell off the quay"))
        self.assertEqual((self.again(unit).stage, balance(Account.UNIT, unit.pk)), ("scrapped", 0))
        self.assertEqual(balance(Account.LOSS, unit.pk), lost + carried)
        self.says(self.settle(unit, "write-off", reason="once more"), "that can’t be done now")
        self.done(self.settle(unit, "take-back-write-off", reason="it was the other one"))
        self.assertEqual((balance(Account.UNIT, unit.pk), balance(Account.LOSS, unit.pk)), (carried, lost))
        self.assertEqual(complaints(), [])

    def test_received_by_mistake_it_is_to_be_received_again(self):
        (unit,) = self.receive()
        left = self.again(self.line).outstanding
        self.says(self.settle(unit, "un-receive", reason=""), "required")
        self.done(self.settle(unit, "un-receive", reason="it was the neighbour’s"))
        self.assertFalse(Unit.objects.filter(pk=unit.pk).exists())
        self.assertEqual(self.again(self.line).outstanding, left + 1)
        self.assertEqual(complaints(), [])

    def test_into_a_drawer_and_back_with_why(self):
        sent = {"condition": "untested", "measure": "piece", "drawer": "C3", "amount": "", "count": "2"}
        there = [self.line.pk]
        self.says(self.post("intake:into-drawer", there, **sent, name=""), "Say what part it is.")
        self.says(self.post("intake:into-drawer", there, **sent | {"count": "9"}, name="Sets"), "still to be received")
        self.done(self.post("intake:into-drawer", there, **sent, name="Sets"))
        receipt = DrawerReceipt.objects.get()
        back = reverse("intake:take-back", args=[receipt.pk])
        self.says(self.client.post(back, {"write_key": ""}, follow=True), "Say what the mistake was.")
        self.done(self.client.post(back, {"why": "it was the other line", "write_key": ""}))
        page = self.client.post(back, {"why": "again, by Tom", "write_key": ""}, follow=True)
        self.says(page, "That was put back already.")
        self.assertContains(page, "again, by Tom")
        self.assertEqual(self.again(self.line).outstanding, 3)
        self.assertEqual(complaints(), [])


class OfTheDay(Through):
    def test_hours_that_can_not_be(self):
        eight, noon, one, five = time(8), time(12), time(13), time(17)
        for weekday, hours, field in (
            (7, day.Hours(eight, five, None, None), "weekday"),
            (0, day.Hours(five, eight, None, None), "ends"),
            (0, day.Hours(eight, eight, None, None), "ends"),
            (0, day.Hours(eight, five, noon, None), "break_until"),
            (0, day.Hours(eight, five, one, noon), "ends"),
            (0, day.Hours(eight, noon, noon, one), "ends"),
        ):
            with self.subTest(weekday=weekday, hours=hours), self.assertRaises(Refused) as caught:
                day.say_hours(self.owner, self.owner, weekday, hours)
            self.assertEqual(caught.exception.field, field)
        self.assertFalse(WorkingHours.objects.exists())
        day.say_hours(self.owner, self.owner, 0, day.Hours(eight, five, noon, one))
        day.say_hours(self.owner, self.owner, 0, None)
        self.assertFalse(WorkingHours.objects.exists(), "not at all on that day")

    def test_a_promise_is_ahead_has_a_price_and_is_settled_once(self):
        unit, ahead = self.assessed(), clock.now() + timedelta(days=2)
        for by, price, field in ((clock.now() - timedelta(minutes=1), "5", "by"), (ahead, "-1", "price")):
            with self.subTest(field), self.assertRaises(Refused) as caught:
                day.promise(self.owner, unit, by, "for the fair", D(price))
            self.assertEqual(caught.exception.field, field)
        row = day.promise(self.owner, unit, ahead, "for the fair", D(5))
        with self.assertRaisesMessage(Refused, "has a promise already"):
            day.promise(self.owner, unit, ahead, "for the other fair", D(5))
        day.settle_promise(self.owner, row, kept=False)
        with self.assertRaisesMessage(Refused, "That is settled already."):
            day.settle_promise(self.owner, row, kept=True)
        self.assertIs(Promise.objects.get().kept, False)
        self.assertIn("Promise broken: for the fair", HistoryEntry.objects.latest("pk").words)

    def test_what_comes_has_a_name_and_comes_once(self):
        with self.assertRaises(Refused) as caught:
            day.expect(self.owner, clock.today(), time(10), "")
        self.assertEqual(caught.exception.field, "what")
        row = day.expect(self.owner, clock.today(), time(10), "belts from the chandler")
        first = timezone.make_aware(datetime.combine(clock.today(), time(9, 58)))
        with clock.at(first):
            day.it_came(self.owner, row)
        day.it_came(self.owner, row)
        self.assertEqual(Arrival.objects.get().came_at, first, "the second press changes nothing")
        with self.assertRaises(NotAllowed):
            day.expect(self.viewer, clock.today(), time(10), "belts")


class AWorker(Through):
    def test_a_database_that_goes_away_is_waited_for(self):
        pauses, real = [], queue.work_once
        turns = iter([Error("server has gone away"), Error("deadlock found"), None])

        def troubled(worker: str):
            trouble = next(turns)
            if trouble is not None:
                raise trouble
            return real(worker)

        with (
            patch.object(work.services, "work_once", troubled),
            patch.object(work, "close_old_connections") as closed,
            patch.object(work.threading.Event, "wait", lambda _, seconds: pauses.append(seconds)),
        ):
            call_command("work", "--until-empty")
        self.assertEqual(pauses, [work.AFTER_TROUBLE, work.AFTER_TROUBLE])
        self.assertEqual(closed.call_count, 2)

    def test_told_to_stop_it_ends_and_until_then_puts_what_comes_again(self):
        told, handlers = [], {}

        def wait(event, seconds: float) -> None:
            told.append(seconds)
            if len(told) == 3:
                handlers[work.signal.SIGTERM](None, None)

        with (
            patch.object(work.signal, "signal", handlers.__setitem__),
            patch.object(work.threading.Event, "wait", wait),
            patch.object(work.services, "work_once", return_value=None),
            patch.object(work.services, "put_recurring") as put,
        ):
            call_command("work")
        self.assertEqual((told, set(handlers)), ([work.PAUSE] * 3, {work.signal.SIGTERM, work.signal.SIGINT}))
        put.assert_called_once_with()


class OnLabels(Through):
    def test_a_whole_lot_to_the_printer_and_nonsense_to_nobody(self):
        self.receive(2)
        there = reverse("units:lot-labels", args=[self.lot.number])
        self.assertContains(self.client.get(there), self.lot.code)
        with self.settings(LABEL_PRINTER=""):
            page = self.client.post(there, {"size": "tie-on", "write_key": ""}, follow=True)
            self.says(page, "No label printer is set up. Print the PDF instead.")
            self.assertNotContains(page, "Send them to")
        with TemporaryDirectory() as folder, self.settings(LABEL_PRINTER=folder):
            self.assertContains(self.client.get(there), "Send them to the label printer")
            page = self.client.post(there, {"size": "gold", "write_key": ""}, follow=True)
            self.says(page, "There is no such label size.")
            self.assertEqual(list(Path(folder).iterdir()), [])
            page = self.client.post(there, {"size": "tie-on", "write_key": ""}, follow=True)
            self.says(page, "2 labels sent to the printer.")
            self.assertEqual(len(list(Path(folder).glob("*.svg"))), 2)

    def test_more_than_go_at_once_are_gone_on_with_and_none_is_left_out(self):
        tags = [str(unit.tag) for unit in self.receive(3)]
        there = reverse("units:lot-labels", args=[self.lot.number])
        with patch.object(labels, "MOST", 2), TemporaryDirectory() as folder, self.settings(LABEL_PRINTER=folder):
            self.assertContains(self.client.get(there), f'go on from <b class="mono">{tags[2]}</b>')
            for begin, told in (("", f"Go on from {tags[2]}."), (tags[2][:6], "")):
                page = self.client.post(there, {"size": "tie-on", "from": begin, "write_key": ""}, follow=True)
                self.says(page, f"sent to the printer. {told}".strip())
            self.assertEqual({path.name[:8] for path in Path(folder).iterdir()}, set(tags))
            page = self.client.get(there, {"file": "svg", "size": "sheet-24", "from": tags[1]}).content.decode()
            self.assertEqual([tag for tag in tags if tag in page], tags[1:])
            for sent in ({"from": "W-9"}, {"from": "W-0101-A"}, {"from": "drawer"}):
                answers = (
                    self.client.get(
                        there, {"file": "pdf", "size": "tie-on"} | sent, follow=True, headers={"referer": there}
                    ),
                    self.client.post(there, {"size": "tie-on", "write_key": ""} | sent, follow=True),
                )
                for page in answers:
                    self.says(page, "among these labels")

    def test_a_size_that_is_none_is_shown_in_the_usual_one(self):
        (unit,) = self.receive()
        page = self.client.get(reverse("units:label", args=[unit.number]), {"size": "gold"})
        self.assertEqual(page.context["size"], labels.SIZES["tie-on"])
        page = self.client.get(f"/intake/W-{unit.number}/label/", {"size": "gold"})
        self.assertEqual(page.status_code, 200)

    def test_none_and_too_many(self):
        with self.assertRaisesMessage(Refused, "Nothing to print labels for."):
            labels.pages([], labels.SIZES["tie-on"])
        (unit,) = self.receive()
        one = labels.of_unit(unit)
        with self.assertRaisesMessage(Refused, f"{labels.MOST} labels at a time at most."):
            labels.pages([one] * (labels.MOST + 1), labels.SIZES["tie-on"])


class ByARecipe(Through):
    """Steps left out, taken back and taken over through the pages."""

    def scene(self) -> None:
        super().scene()
        steps = (Step("Wipe it.", 5), Step("Wax it.", 5), Step("Look.", 2))
        book.keep(self.technician, Recipe("wax-it", "Wax it", JobKind.CLEAN, steps), 0)
        self.unit = self.assessed()
        recipe, _ = book.recipe_and_version("wax-it")
        self.job = workshop.open_job(self.owner, self.unit, NewJob.by_recipe(recipe))

    def rows(self) -> list[tuple[int, str]]:
        return list(JobStep.objects.filter(job=self.job).order_by("index").values_list("index", "left_out"))

    def test_left_out_with_why_and_taken_back(self):
        at = [self.job.pk]
        self.says(self.post("workshop:step-left-out", at, at="0", why=""), "Say why it is left out.")
        self.done(self.post("workshop:step-left-out", at, at="0", why="no wax in the house"))
        self.assertEqual(self.rows(), [(0, "no wax in the house")])
        page = self.post("workshop:step-left-out", at, at="2", why="not now")
        self.says(page, "not now")
        self.assertEqual(len(self.rows()), 1, "only the step in hand")
        self.done(self.post("workshop:step-back", at))
        self.assertEqual([row for row in self.rows() if row[1]], [])

    def test_taken_over_from_somebody_who_went_home(self):
        self.done(self.post("workshop:step-done", [self.job.pk], at="0"))
        self.assertEqual(self.again(self.job).holder, self.owner)
        self.sign_in(self.technician)
        self.says(self.post("workshop:step-done", [self.job.pk], at="1", note="mine"), "Olga")
        self.done(self.post("workshop:take-over", [self.job.pk]))
        self.assertEqual(self.again(self.job).holder, self.technician)
        self.done(self.post("workshop:step-done", [self.job.pk], at="1", note="mine"))
        self.done(self.post("workshop:take-over", [self.job.pk]))
        self.assertEqual(HistoryEntry.objects.filter(action="workshop.take_over_job").count(), 1, "once is enough")

    def test_the_book_on_its_page_and_a_recipe_put_aside(self):
        self.assertContains(self.client.get("/workshop/recipes/"), "Wax it")
        self.done(self.post("catalogue:recipe-use", ["wax-it"], aside="yes"))
        self.assertEqual([recipe.code for recipe in book.resting()], ["wax-it"])
        self.assertContains(self.client.get("/workshop/recipes/"), "Wax it")
        self.done(self.post("catalogue:recipe-use", ["wax-it"], aside=""))
        self.assertEqual(book.resting(), [])
        for address in ("catalogue:recipe", "catalogue:recipe-step"):
            self.assertEqual(self.client.get(reverse(address, args=["no-such"])).status_code, 404)
        form = self.client.get(reverse("catalogue:recipe", args=["wax-it"])).context["form"]
        sent = {field.html_name: "" if field.value() is None else field.value() for field in form}
        sent = {name: value for name, value in sent.items() if value is not False} | {"title": "Wax it well"}
        self.done(self.post("catalogue:recipe", ["wax-it"], **sent))
        self.assertEqual(book.recipes()["wax-it"].title, "Wax it well")
        self.assertEqual(len(book.recipes()["wax-it"].steps), 3, "its steps stay")
