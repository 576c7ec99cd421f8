"""The day through its page: hours, plan, begin, end, slip, pin, promise, parcel; a calendar reads it."""

from dataclasses import replace
from datetime import datetime, time, timedelta
from decimal import Decimal as D
from unittest.mock import patch

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar

from core.flow.dayplan.checker import problems
from core.flow.dayplan.problem import Day
from core.flow.task import Task
from stations.bench.models import StepTimer
from stations.bench.services import plan_of, start_run
from stations.buying.services import correct_line
from stations.common import clock
from stations.common.details import as_kept
from stations.common.refusals import Refused
from stations.day import bells, calendar, gather, planning, services
from stations.day.drawing import drawn, drawn_down
from stations.day.models import PlannedTask, PlanOfDay, Record, WorkingHours
from stations.day.selectors import day_view, slips
from stations.floor.selectors import next_steps
from stations.people import shop_settings
from stations.people.models import ShopSettings
from stations.queue.models import QueuedWork
from stations.queue.services import work_once
from stations.selling import services as selling
from stations.selling.models import Listing
from stations.units.models import Unit
from stations.units.selectors import strongest
from stations.units.tasks import tasks_of
from stations.workshop import services as workshop
from stations.workshop.models import Job, JobStep
from stations.workshop.new_job import NewJob
from tests.stations.base import as_recorded
from tests.stations.test_through_the_pages import Through


class DayTest(Through):
    """A Wednesday at nine; Olga and Tom work from eight to five."""

    def scene(self) -> None:
        super().scene()
        self.day = clock.today()
        self.nine = timezone.make_aware(datetime.combine(self.day, time(9)))
        with clock.at(self.nine):
            for person in (self.owner, self.technician):
                for weekday in range(7):
                    hours = services.Hours(time(8), time(17), time(12), time(12, 30))
                    services.say_hours(self.owner, person, weekday, hours)
            self.units = [self.assessed("enhanced") for _ in range(2)]
            self.planned()

    def planned(self) -> None:
        """What else stands at nine."""

    def setUp(self):
        super().setUp()
        self.use(clock.at(self.nine))

    def use(self, context) -> None:
        context.__enter__()
        self.addCleanup(context.__exit__, None, None, None)

    def job(self, unit=None, **more) -> Job:
        data = NewJob(**{"kind": "repair", "title": "Mend the lid", "estimate_minutes": 30, "reversible": True} | more)
        return workshop.open_job(self.owner, unit or self.units[0], data)

    def plan(self) -> list[PlannedTask]:
        planning.SECONDS, before = 0.4, planning.SECONDS
        try:
            planning.make({"day": self.day.isoformat(), "by": self.owner.pk})
        finally:
            planning.SECONDS = before
        return planning.tasks_of(planning.newest(self.day))

    def look(self):
        return self.client.get(f"/day/{self.day}/")

    def at(self, **later):
        return clock.at(self.nine + timedelta(**later))


class Tasks(DayTest):
    def test_every_station_gives_its_tasks_one_after_another(self):
        job = self.job()
        new = self.receive()[0]
        mended, tested = self.units

        def told():
            return tasks_of(gather.candidates([mended.pk, tested.pk, new.pk]))

        before = told()
        self.assertEqual([task.code for task in before[mended.pk]], [f"job:{job.pk}"])
        self.assertEqual([task.kind for task in before[new.pk]], ["intake"])
        self.assertTrue(all(task.kind.startswith("test ") for task in before[tested.pk]))
        self.assertTrue(all(task.needs for task in before[tested.pk][1:]))
        self.hand().test(tested)
        self.assertEqual([task.kind for task in told()[tested.pk]], ["grade"])

    def test_what_runs_by_itself_is_taken_up_when_it_ends(self):
        unit = self.units[1]
        run = start_run(self.owner, unit)
        alone = next(task for task in tasks_of(gather.candidates([unit.pk]))[unit.pk] if task.alone_minutes)
        self.assertTrue(alone.near)
        code = next(check.code for check in plan_of(run) if check.alone_minutes)
        ends = self.nine + timedelta(minutes=40)
        StepTimer.objects.create(
            run=run, code=code, title="Soak", started_at=self.nine, ends_at=ends, started_by=self.owner
        )
        ready = [task for task in tasks_of(gather.candidates([unit.pk]))[unit.pk] if task.ready]
        self.assertEqual([(task.ready, task.title[:5]) for task in ready], [(ends, "Read:")])

    def test_minutes_are_learned_from_what_tasks_of_the_kind_took(self):
        before = gather.ratios()
        self.assertEqual(before, {})
        for number in range(6):
            begun = self.nine - timedelta(days=number + 1)
            Record.objects.create(
                day=begun.date(), unit=self.units[0], code=f"job:{number}", kind="job repair", title="x",
                person=self.owner, planned_minutes=30, estimate=30, begun_at=begun,
                ended_at=begun + timedelta(minutes=60),
            )  # fmt: skip
        self.job()
        task = next(one for one in gather.gather(self.day).problem.tasks if one.unit == self.units[0].number)
        # Six times twice as long, against four times as estimated: 30 · 2^(6/10) = 45.5.
        self.assertEqual(task.minutes, round(30 * 2 ** (6 / 10)))
        self.assertEqual(
            [(one.kind, one.count, one.in_100) for one in slips(self.nine - timedelta(days=9))],
            [("job repair", 6, 200)],
        )
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get(reverse("day:hours")), "job repair")

    def test_shares_of_a_unit_and_what_is_ahead_add_up_to_what_it_is_worth(self):
        unit = gather.candidates([self.units[1].pk])[0]
        tasks = tasks_of([unit])[unit.pk]
        whole, minutes = int(unit.worth * 100), sum(task.minutes for task in tasks)  # type: ignore[attr-defined]
        self.assertGreater(unit.minutes_ahead, 0)
        self.assertEqual(sum(gather._shares(unit, tasks)), whole * minutes // (minutes + unit.minutes_ahead))
        unit.minutes_ahead = 0
        self.assertEqual(sum(gather._shares(unit, tasks)), whole)

    def test_queries_do_not_grow_with_units(self):
        def count() -> int:
            with CaptureQueriesContext(connection) as seen:
                gather.gather(self.day)
            return len(seen)

        self.job()
        few = count()
        for unit in self.receive(1):
            self.hand().assess(unit, "enhanced")
        self.job(self.units[1])
        self.assertLessEqual(count(), few)

    def test_what_a_line_is_worth_moves_what_comes_next(self):
        # A line put right reaches the units that rest on it, in the order of the Floor too.
        unit = self.units[0]
        unit.refresh_from_db()
        before, line = unit.pull, unit.line
        dearer = {"worth_likely": line.worth_likely * 3, "worth_high": line.worth_likely * 4}
        correct_line(self.owner, line, replace(as_recorded(line), **dearer))
        unit.refresh_from_db()
        self.assertAlmostEqual(unit.pull, 3 * before)
        self.assertIn(unit.pk, [one.pk for one in strongest(Unit.objects.all(), 5)])

    def test_where_there_is_no_tub_nothing_that_wants_one_is_planned(self):
        unit = self.units[1]
        told = {"tub": Task(unit.number, "bath", "Soak the case", 5, kind="job clean", place="tub")}
        for tubs, wanted in ((1, ["Soak the case"]), (0, [])):
            ShopSettings.objects.update(tubs=tubs)
            with patch.object(gather, "tasks_of", lambda units: {u.pk: [told["tub"]] for u in units if u == unit}):
                planned = gather.gather(self.day).problem.tasks
            self.assertEqual([task.title for task in planned], wanted)

    def test_next_up_comes_from_the_same_tasks(self):
        self.job()
        self.assertIn("Mend the lid", [step.ranked.candidate.task.title for step in next_steps()])
        page = self.client.get("/next/workshop/")
        self.assertContains(page, "Mend the lid")
        self.assertEqual(self.client.get("/next/nowhere/").status_code, 404)


class Planned(DayTest):
    def test_a_day_is_asked_for_made_by_a_worker_and_shown(self):
        self.job()
        self.done(self.post("day:plan", [self.day]))
        self.done(self.post("day:plan", [self.day]))
        self.assertEqual(QueuedWork.objects.filter(kind=planning.KIND).count(), 1)
        self.assertContains(self.look(), "A plan is being worked out")
        self.assertContains(self.client.get(f"/day/{self.day}/progress/"), "stays in use meanwhile")
        self.assertEqual(work_once("here").state, "done")  # type: ignore[union-attr]
        answer = self.client.get(f"/day/{self.day}/progress/")
        self.assertEqual((answer.status_code, answer["HX-Refresh"]), (200, "true"))
        page = self.look()
        for words in ("released", "of the proven best", "Mend the lid", "hands on, to come"):
            self.assertContains(page, words)

    def test_a_plan_holds_and_its_figures_are_kept(self):
        self.job()
        tasks, plan = self.plan(), planning.newest(self.day)
        gathered = gather.gather(self.day)
        self.assertIsInstance(gathered.problem, Day)
        self.assertTrue(tasks)
        self.assertGreaterEqual(plan.most, plan.released)  # type: ignore[union-attr]
        self.assertEqual(problems(gathered.problem, []), [])

    def test_hours_that_are_changed_after_it_was_planned_are_said(self):
        for unit in self.units:
            self.job(unit)
        self.plan()
        self.assertNotContains(self.look(), "The hours were changed since")
        whose, rows = self.owner, [row for row in day_view(self.day).rows if row.person == self.owner]
        if not rows:
            whose, rows = self.technician, list(day_view(self.day).rows)
        services.say_day(self.owner, whose, self.day, None)
        self.assertEqual(day_view(self.day).outside, rows)
        self.assertContains(self.look(), f"{whose.first_name or whose.name} at {rows[0].at}")
        half = services.Hours(time(8), time(*divmod(rows[0].until, 60)))
        services.say_day(self.owner, whose, self.day, half)
        self.assertEqual(day_view(self.day).outside, [row for row in rows if row.until > rows[0].until])
        self.plan()
        self.assertEqual(day_view(self.day).outside, [])

    def test_nobody_works_and_a_day_that_is_over(self):
        WorkingHours.objects.all().delete()
        self.done(self.post("day:plan", [self.day]))
        row = work_once("here")
        self.assertIn("Nobody works on that day", row.error)  # type: ignore[union-attr]
        self.assertContains(self.look(), "Nobody is said to work")
        with self.assertRaisesMessage(Refused, "over"):
            planning.ask(self.owner, self.day - timedelta(days=1))

    def test_the_page_without_a_plan_and_queries_that_do_not_grow(self):
        self.assertContains(self.look(), "Nothing planned")
        self.job()
        self.plan()
        self.look()
        with CaptureQueriesContext(connection) as few:
            self.look()
        for unit in self.units:
            self.job(unit, title="Another")
        self.plan()
        with CaptureQueriesContext(connection) as many:
            self.look()
        self.assertLessEqual(len(many), len(few))

    def test_the_sheet_and_the_calendar_file(self):
        self.job()
        tasks = self.plan()
        self.assertContains(self.client.get(f"/day/{self.day}/sheet/"), "Mend the lid")
        read = Calendar.from_ical(self.client.get(f"/day/{self.day}/plan.ics").content)
        events = read.walk("VEVENT")
        self.assertEqual(len(events), len(tasks))
        self.assertEqual({event.decoded("dtstart") for event in events}, {task.start for task in tasks})
        first = next(event for event in events if "Mend the lid" in str(event["summary"]))
        self.assertEqual(first.decoded("dtend") - first.decoded("dtstart"), timedelta(minutes=30))


class Feed(DayTest):
    def address(self) -> str:
        self.client.post(reverse("day:new-address"), {"write_key": ""})
        page = self.client.get("/day/hours/").content.decode()
        return "/day/calendar/" + page.split("/day/calendar/")[1].split(".ics")[0] + ".ics"

    def test_a_calendar_reads_it_without_signing_in_until_the_address_is_renewed(self):
        self.job()
        tasks = [task for task in self.plan() if task.person == self.owner]
        first = self.address()
        self.client.logout()
        answer = self.client.get(first)
        self.assertEqual(answer["Content-Type"], "text/calendar; charset=utf-8")
        events = Calendar.from_ical(answer.content).walk("VEVENT")
        self.assertEqual(len(events), len(tasks))
        self.sign_in(self.owner)
        second = self.address()
        self.client.logout()
        self.assertEqual(self.client.get(first).status_code, 404)
        self.assertEqual(self.client.get(second).status_code, 200)
        self.assertEqual(self.client.get("/day/calendar/guess.ics").status_code, 404)
        self.assertEqual(self.client.get(f"/day/{self.day}/plan.ics").status_code, 302)

    def test_only_the_newest_plan_of_a_day_and_none_once_it_is_stopped(self):
        self.job()
        self.plan()
        self.plan()
        count = PlannedTask.objects.filter(plan=planning.newest(self.day), person=self.owner).count()
        self.assertEqual(len(Calendar.from_ical(calendar.feed(self.owner)).walk("VEVENT")), count)
        self.assertEqual(PlanOfDay.objects.count(), 2)
        address = self.address()
        self.done(self.post("day:no-address"))
        self.assertEqual(self.client.get(address).status_code, 404)

    def test_an_event_keeps_its_name_when_its_task_moves(self):
        self.job()
        self.plan()
        before = {str(e["uid"]) for e in Calendar.from_ical(calendar.feed(self.owner)).walk("VEVENT")}
        before |= {str(e["uid"]) for e in Calendar.from_ical(calendar.feed(self.technician)).walk("VEVENT")}
        with self.at(hours=1):
            self.plan()
        after = {str(e["uid"]) for e in Calendar.from_ical(calendar.of_day(self.day)).walk("VEVENT")}
        self.assertTrue(after <= before)


class Bells(DayTest):
    def test_what_is_over_calls_on_every_page_until_somebody_comes(self):
        job = self.job()
        JobStep.objects.create(
            job=job, index=0, alone_from=self.nine - timedelta(hours=2), alone_until=self.nine - timedelta(hours=1)
        )
        Job.objects.filter(pk=job.pk).update(steps=[{"instruction": "Let it dry", "alone_minutes": 60}])
        self.assertContains(self.look(), 'hx-get="/day/bells/"')
        page = self.client.get("/day/bells/")
        self.assertContains(page, "Mend the lid: its time is over")
        self.assertContains(page, f'data-bell="/workshop/jobs/{job.pk}/')
        JobStep.objects.update(done_at=self.nine, done_by=self.owner)
        self.assertEqual(bells.bells(), [])

    def test_who_is_not_signed_in_hears_none(self):
        self.client.logout()
        self.assertEqual(self.client.get("/day/bells/").status_code, 302)


class NotWeighed(DayTest):
    def test_what_was_too_many_to_weigh_is_said(self):
        for unit in self.units:
            self.job(unit)
        self.plan()
        self.assertEqual(PlanOfDay.objects.get().beside, 0)
        self.assertNotContains(self.look(), "not weighed")
        for most in ("MOST_UNITS", "MOST_TASKS"):
            with patch.object(gather, most, 1):
                self.plan()
            self.assertEqual(PlanOfDay.objects.first().beside, 1, most)
        self.assertContains(self.look(), "1 more unit with something to do")


class Prices(DayTest):
    def test_a_unit_releases_what_is_asked_for_it(self):
        selling.draft_of(self.units[0])
        Listing.objects.update(asking=D(150))
        self.assertEqual(gather.candidates([self.units[0].pk])[0].worth, D(150))  # type: ignore[attr-defined]


class Drawn(DayTest):
    """The drawing says what the table says, to scale."""

    def planned(self) -> None:
        for number, minutes in enumerate((30, 60)):
            self.job(self.units[number], title=f"Job {number}", estimate_minutes=minutes)
        self.plan()
        self.view = day_view(self.day)

    def test_blocks_are_to_scale_and_lie_on_the_rail_of_whoever_does_it(self):
        cut = drawn(self.view)
        self.assertIsNotNone(cut)
        blocks = {block.row.title: block for rail in cut.rails for block in rail.blocks}  # type: ignore[union-attr]
        self.assertEqual(len(blocks), len(self.view.rows))
        short, long = blocks["Job 0"], blocks["Job 1"]
        self.assertAlmostEqual(long.w / short.w, 2, delta=0.05)
        for rail in cut.rails:  # type: ignore[union-attr]
            for block in rail.blocks:
                self.assertEqual(block.row.person.name, rail.name)
                self.assertAlmostEqual(block.y + block.h / 2, rail.y)
        self.assertEqual(cut.now.words, "now 9:00")  # type: ignore[union-attr]

    def test_on_a_phone_time_runs_down_and_nothing_is_wider_than_it(self):
        down = drawn_down(self.view)
        for _, _, blocks in down.columns:  # type: ignore[union-attr]
            for block in blocks:
                self.assertLessEqual(block.x + block.w, down.wide)  # type: ignore[union-attr]
                self.assertLessEqual(block.y + block.h, down.high)  # type: ignore[union-attr]

    def test_what_runs_alone_shares_lanes_and_folds_beyond_four(self):
        first = self.view.rows[0]
        rows = [replace(first, number=n, start=540, until=545, alone=240, code=f"a{n}", needs=()) for n in range(7)]
        cut = drawn(replace(self.view, rows=tuple(rows)))
        (rail,) = [rail for rail in cut.rails if rail.alone]  # type: ignore[union-attr]
        self.assertEqual((len(rail.alone), rail.more), (4, "3 more alone"))
        after = [replace(one, start=800 + 5 * n, until=805 + 5 * n, alone=0) for n, one in enumerate(rows[:2])]
        again = drawn(replace(self.view, rows=(rows[0], *after)))
        self.assertEqual(sum(len(rail.alone) for rail in again.rails), 1)  # type: ignore[union-attr]

    def test_nobody_and_nothing_draws_nothing(self):
        empty = replace(self.view, rows=(), people=())
        self.assertIsNone(drawn(empty))
        self.assertIsNone(drawn_down(empty))

    def test_the_sun_is_drawn_where_the_shop_says_where_it_is(self):
        self.assertEqual(drawn(self.view).sun, "")  # type: ignore[union-attr]
        row = shop_settings.settings()
        said = as_kept(shop_settings.SettingsDetails, row)
        shop_settings.change_settings(self.owner, row.version, replace(said, latitude=D("54.5"), longitude=D("3")))
        cut = drawn(day_view(self.day))
        self.assertTrue(cut.sun.startswith("M"))  # type: ignore[union-attr]
        self.assertIn("daylight ends", cut.sun_words.words)  # type: ignore[union-attr]


class NeverKept(DayTest):
    def test_a_plan_that_breaks_a_rule_is_not_kept(self):
        self.job()
        with patch("stations.day.planning.problems", return_value=["Two at once."]):
            planning.ask(self.owner, self.day)
            row = work_once("here")
        self.assertIn("This plan does not hold: Two at once.", row.error)  # type: ignore[union-attr]
        self.assertFalse(PlanOfDay.objects.exists())
