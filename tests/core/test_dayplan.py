"""The plan of a day: held to its rules by a checker of its own, to the best by brute force, to Graham by arithmetic."""

from dataclasses import replace
from itertools import permutations, product
from random import Random
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from core.flow.dayplan import DayPlanError
from core.flow.dayplan.checker import problems
from core.flow.dayplan.lists import by_worth, earliest_of, in_order
from core.flow.dayplan.problem import DAY, Begun, Day, DayPlan, DayTask, Placed, Worker, figures
from core.flow.dayplan.reasons import why_then
from core.flow.dayplan.solve import plan_day

EIGHT, NOON, ONE, FIVE = 480, 720, 750, 1020
RUNA = Worker(1, "Runa", ((EIGHT, NOON), (ONE, FIVE)))
TOBIN = Worker(2, "Tobin", ((EIGHT + 30, NOON), (ONE, 960)))


def task(key: str, minutes: int = 20, **more) -> DayTask:
    return DayTask(key, 1, key, minutes, **{"releases": 1000} | more)


def day(*tasks: DayTask, now: int = EIGHT, workers=(RUNA, TOBIN), **more) -> Day:
    return Day(now, workers, tasks, **{"hourly": 2400} | more)


def a_day(seed: int, count: int, workers=(RUNA, TOBIN), begun: bool = True) -> Day:
    """A day with everything in it that a day can have."""
    dice = Random(seed)
    tasks: list[DayTask] = []
    for number in range(count):
        alone = dice.choice([0, 0, 0, 30, 90, 240])
        before = dice.choice(tasks).key if tasks and dice.random() < 0.5 else None
        tasks.append(
            DayTask(
                f"t{number}",
                number,
                f"t{number}",
                dice.choice([5, 10, 20, 35, 60]),
                alone,
                bool(alone) and dice.random() < 0.6,
                (before,) if before else (),
                None if dice.random() < 0.7 else frozenset({dice.choice(workers).id}),
                dice.choice(["", "", "", "bench", "tub"]),
                dice.choice([0, 0, 0, 600, 700]),
                ((540, 900),) if dice.random() < 0.1 else (),
                dice.choice([None] * 6 + [600, 840, 960]),
                dice.choice([0, 500, 2000]),
                dice.randrange(0, 6000),
                pinned_at=dice.choice([None] * 12 + [660]),
                holder=dice.choice([None] * 3 + [1, 2, 9]),
            )
        )
    if begun and tasks:
        first = tasks[0]
        tasks[0] = replace(first, begun=Begun(workers[0].id, 500, 560), pinned_at=None, needs=())
    return Day(dice.choice([480, 540, 640]), workers, tuple(tasks), 2400, (("bench", 2), ("tub", 1)))


class Rules(TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.integers(0, 10**6), st.integers(0, 14))
    def test_a_plan_breaks_no_rule_and_its_figures_add_up(self, seed, count):
        asked = a_day(seed, count)
        plan = plan_day(asked, seconds=0.3, workers=1)
        self.assertEqual(problems(asked, plan.placed), [])
        self.assertEqual((plan.released, plan.idle, plan.broken), figures(asked, plan.placed))
        self.assertGreaterEqual(plan.bound, plan.worth - 1e-6)
        self.assertEqual(len(plan.placed) + len(plan.left), count)

    @settings(max_examples=40, deadline=None)
    @given(st.integers(0, 10**6), st.integers(1, 12), st.integers(10, 200))
    def test_planning_again_moves_nothing_that_has_begun(self, seed, count, later):
        asked = a_day(seed, count)
        plan = plan_day(asked, seconds=0.2, workers=1)
        now = asked.now + later
        going = {
            one.task.key: replace(one.task, begun=Begun(one.who, one.start, max(one.until, now + 1)), needs=())
            for one in plan.placed
            if one.start < now
        }
        again = replace(asked, now=now, tasks=tuple(going.get(one.key, one) for one in asked.tasks))
        after = {one.task.key: one for one in plan_day(again, seconds=0.2, workers=1).placed}
        for key, one in going.items():
            self.assertEqual((after[key].who, after[key].start), (one.begun.who, one.begun.start))  # type: ignore[union-attr]

    def test_the_checker_sees_what_is_wrong(self):
        soak = task("soak", 10, alone=240, near=True, place="bench")
        after = task("after", needs=("soak",), earliest=600, who=frozenset({1}))
        asked = day(soak, after, room=(("bench", 1),))
        right = [Placed(soak, 2, 510), Placed(after, 1, 760)]
        self.assertEqual(problems(asked, right), [])
        for words, wrong in (
            ("before soak ends", [right[0], Placed(after, 1, 700)]),
            ("not by somebody who can", [right[0], Placed(after, 2, 760)]),
            ("outside the hours", [Placed(soak, 2, 480), right[1]]),
            ("in the past", [Placed(soak, 1, 470), right[1]]),
            ("nobody near", [Placed(soak, 1, 800)]),
            ("needs what is not planned", [right[1]]),
            ("stands there twice", [*right, right[0]]),
            ("outside the hours", [Placed(replace(soak, minutes=50), 1, 710)]),
        ):
            with self.subTest(words):
                self.assertTrue(any(words in one for one in problems(asked, wrong)), problems(asked, wrong))

    def test_the_checker_sees_hands_and_places_taken_twice(self):
        one, other = task("one", alone=60, place="tub"), task("other", alone=60, place="tub")
        asked = day(one, other, room=(("tub", 1),))
        self.assertTrue(
            any("no room" in words for words in problems(asked, [Placed(one, 1, 480), Placed(other, 2, 520)]))
        )
        self.assertTrue(
            any("in hand" in words for words in problems(asked, [Placed(one, 1, 480), Placed(other, 1, 490)]))
        )
        begun = replace(one, begun=Begun(1, 480, 500))
        moved = day(begun, other, room=(("tub", 1),))
        self.assertTrue(any("was moved" in words for words in problems(moved, [Placed(begun, 2, 480)])))
        self.assertTrue(any("is gone" in words for words in problems(moved, [])))

    def test_what_goes_on_twice_at_once_still_makes_a_plan(self):
        tasks = [task(f"b{n}", alone=90, place="tub", begun=Begun(1, 480 + n, 560)) for n in range(3)]
        plan = plan_day(day(*tasks, task("later"), now=500, room=(("tub", 1),)), seconds=0.5)
        self.assertEqual(len(plan.placed), 4)

    def test_what_cant_be_done_today_is_left_and_what_needs_it(self):
        plan = plan_day(day(task("soak", 10, alone=600, near=True), task("then", needs=("soak",))), seconds=0.5)
        self.assertEqual((len(plan.placed), {one.key for one in plan.left}), (0, {"soak", "then"}))
        self.assertIsNone(earliest_of(plan.day)["then"])

    def test_what_is_no_day_is_refused(self):
        for wrong in (
            lambda: Worker(1, "x", ((600, 500),)),
            lambda: Worker(1, "x", ()),
            lambda: task("x", 0),
            lambda: day(task("x"), task("x")),
            lambda: day(workers=(RUNA, RUNA)),
            lambda: day(room=(("tub", 0),)),
            lambda: day(*(task(f"t{n}") for n in range(401))),
        ):
            with self.assertRaises(DayPlanError):
                wrong()


class Wishes(TestCase):
    def test_a_pin_holds_and_says_so(self):
        plan = plan_day(day(task("one", pinned_who=2, pinned_at=900), task("two")), seconds=0.5)
        one = next(placed for placed in plan.placed if placed.task.key == "one")
        self.assertEqual((one.who, one.start), (2, 900))
        self.assertEqual(why_then(plan, one), "pinned to 15:00")

    def test_a_promise_comes_first_and_one_broken_costs_its_price(self):
        asked = day(
            *(task(f"t{n}", 60, releases=9000) for n in range(8)),
            task("van", 15, promised=520, price=15000, releases=100),
            workers=(RUNA,),
        )
        plan = plan_day(asked, seconds=1.0)
        van = next(placed for placed in plan.placed if placed.task.key == "van")
        self.assertLessEqual(van.end, 520)
        self.assertEqual(why_then(plan, van), "promised by 8:40")
        late = plan_day(day(task("van", 15, promised=490, price=700), workers=(RUNA,)), seconds=0.5)
        self.assertEqual(late.broken, 700)

    def test_what_runs_alone_is_begun_early_and_lies_over_other_work(self):
        soak = task("soak", 5, alone=240, near=True)
        plan = plan_day(day(task("a", 60), task("b", 60), soak, task("read", 10, needs=("soak",))), seconds=1.0)
        placed = {one.task.key: one for one in plan.placed}
        self.assertEqual(len(placed), 4)
        self.assertTrue(any(one.start < placed["soak"].end and one.until > placed["soak"].until for one in plan.placed))
        self.assertIn("ran alone until", why_then(plan, placed["read"]))

    def test_nothing_to_do_has_no_gap(self):
        plan = plan_day(day(hourly=0), seconds=0.2)
        self.assertEqual((plan.placed, plan.gap), ((), None))
        self.assertEqual(plan_day(day(workers=())).placed, ())


def best_by_brute_force(asked: Day) -> float:
    """Over every order, every choice and every pair of hands: each task as early as it can be. Its own few lines."""
    best = -(10.0**9)
    for count in range(len(asked.tasks) + 1):
        for order in permutations(asked.tasks, count):
            for who in product([worker.id for worker in asked.workers], repeat=count):
                best = max(best, _worth(asked, order, who))
    return best


def _worth(asked: Day, order, who) -> float:
    ends: dict[str, int] = {}
    busy: dict[int, list[tuple[int, int]]] = {worker.id: [] for worker in asked.workers}
    hours = {worker.id: worker.hours for worker in asked.workers}
    released = late = minutes = 0
    for one, person in zip(order, who, strict=True):
        if any(need not in ends for need in one.needs):
            return -(10.0**9)
        first = max([asked.now, one.earliest, *(ends[need] for need in one.needs)])
        start = next(
            (
                at
                for at in range(first, DAY)
                if any(a <= at and at + one.minutes <= b for a, b in hours[person])
                and all(at + one.minutes <= a or b <= at for a, b in busy[person])
            ),
            None,
        )
        if start is None:
            return -(10.0**9)
        busy[person].append((start, start + one.minutes))
        ends[one.key] = start + one.minutes + one.alone
        released, minutes = released + one.releases, minutes + one.minutes
        if one.holder not in {None, person}:
            released -= 10 * asked.hourly // 60
    for one in asked.tasks:
        if one.promised is not None and ends.get(one.key, DAY) > one.promised:
            late += one.price
    idle = sum(worker.minutes_from(asked.now) for worker in asked.workers) - minutes
    return released - idle * asked.hourly / 60 - late


class TheBest(TestCase):
    def test_what_is_in_hand_changes_hands_only_where_that_is_worth_the_minutes(self):
        mine = task("mine", 60, holder=2, holder_name="Tobin")
        plan = plan_day(day(mine, task("other", 60)), seconds=0.5)
        self.assertEqual({one.task.key: one.who for one in plan.placed}["mine"], 2)
        alone = plan_day(day(mine, task("other", 60), workers=(RUNA,)), seconds=0.5)
        over = next(one for one in alone.placed if one.task.key == "mine")
        self.assertEqual((over.taken_over, why_then(alone, over)), (True, "take it over from Tobin"))
        # Ten minutes at 24.00 an hour are 4.00: what idling costs and what it releases have to come to more.
        self.assertEqual(alone.worth, 2000 - 40 * alone.idle - 400)
        little = replace(mine, minutes=5, releases=150)
        self.assertEqual(plan_day(day(little, workers=(RUNA,)), seconds=0.5).placed, ())

    def test_no_other_order_is_worth_more(self):
        short = (Worker(1, "a", ((480, 540), (560, 600))), Worker(2, "b", ((500, 590),)))
        for seed in range(12):
            dice = Random(seed)
            tasks = tuple(
                DayTask(
                    f"t{n}",
                    n,
                    f"t{n}",
                    dice.choice([10, 25, 40]),
                    dice.choice([0, 0, 30]),
                    needs=(f"t{n - 1}",) if n and dice.random() < 0.4 else (),
                    earliest=dice.choice([0, 0, 520]),
                    promised=dice.choice([None, None, 560]),
                    price=700,
                    releases=dice.randrange(100, 3000),
                    holder=dice.choice([None, 1, 2, 3]),
                )
                for n in range(4)
            )
            asked = Day(480, short, tasks, 2400)
            plan = plan_day(asked, seconds=5.0, workers=1)
            with self.subTest(seed):
                self.assertAlmostEqual(plan.worth, best_by_brute_force(asked), 6)
                self.assertAlmostEqual(plan.bound, plan.worth, delta=0.02)

    def test_seven_tasks_of_one_person(self):
        dice = Random(7)
        tasks = tuple(
            DayTask(
                f"t{n}",
                n,
                f"t{n}",
                dice.choice([10, 25, 40]),
                releases=dice.randrange(100, 3000),
                promised=540,
                price=300,
            )
            for n in range(6)
        )
        asked = Day(480, (Worker(1, "a", ((480, 570),)),), (*tasks, task("t6", 15, needs=("t0",))), 2400)
        self.assertAlmostEqual(plan_day(asked, seconds=5.0).worth, best_by_brute_force(asked), 6)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.integers(1, 60), min_size=1, max_size=12), st.integers(1, 4))
    def test_one_after_another_keeps_grahams_bound(self, minutes, people):
        """Graham 1966: a list schedule of m like people takes at most 2 − 1/m times the shortest there is; that is no
        shorter than the whole over m, and than the longest task. Without windows, breaks or release dates."""
        workers = tuple(Worker(n, f"p{n}", ((0, DAY),)) for n in range(people))
        asked = Day(0, workers, tuple(task(f"t{n}", each) for n, each in enumerate(minutes)))
        placed = in_order(asked, by_worth(asked))
        self.assertEqual(len(placed), len(minutes))
        shortest = max(sum(minutes) / people, max(minutes))
        self.assertLessEqual(max(one.end for one in placed), (2 - 1 / people) * shortest + 1e-9)

    def test_gap_and_most_are_of_the_bound(self):
        asked = day(task("one", 60))
        plan = plan_day(asked, seconds=0.5)
        worse = DayPlan(asked, (), *figures(asked, ()), plan.bound)
        self.assertGreater(worse.gap or 0, 0)
        self.assertAlmostEqual(plan.most, plan.released, delta=0.05)
