"""How long a day’s plan and an answer to stop or go take, and how near the plan comes to what is proven.

    python -m benchmarks.day

A day as a shop has it: units with chains of steps, some of which run alone, a few promises, a tub, benches. Beside it a
knapsack of the same tasks by the same solver, as multiples of which the plan is told.
"""

import time
from random import Random
from statistics import median

from ortools.sat.python import cp_model

from benchmarks.fit import seconds
from core.flow.dayplan.checker import problems
from core.flow.dayplan.problem import Day, DayTask, Worker
from core.flow.dayplan.solve import plan_day
from core.workshop.stopgo import Stakes, answer, odds_of

DAYS = 5


def a_day(tasks: int, people: int, seed: int) -> Day:
    """Two thirds of the tasks fit into the day; one in four runs alone afterwards, one in thirty takes the tub."""
    dice = Random(seed)
    workers = tuple(Worker(one, f"p{one}", ((480, 720), (750, dice.choice([960, 1020])))) for one in range(people))
    found: list[DayTask] = []
    last: dict[int, str] = {}
    for number in range(tasks):
        unit = dice.randrange(max(1, tasks // 4))
        alone = dice.choice([0, 0, 0, 20, 60, 240]) if dice.random() < 0.5 else 0
        promised = dice.choice([840, 960]) if dice.random() < 0.06 else None
        found.append(
            DayTask(
                f"t{number}",
                unit,
                f"t{number}",
                dice.choice([5, 10, 15, 20, 30, 45, 60]),
                alone,
                bool(alone) and dice.random() < 0.6,
                (last[unit],) if unit in last else (),
                frozenset({dice.randrange(people)}) if dice.random() < 0.15 else None,
                "tub" if dice.random() < 0.03 else "bench" if alone else "",
                660 if dice.random() < 0.05 else 0,
                promised=promised,
                price=1500 if promised else 0,
                releases=dice.randrange(200, 6000),
            )
        )
        last[unit] = f"t{number}"
    return Day(480, workers, tuple(found), 2400, (("tub", 1), ("bench", max(2, 2 * people))))


def knapsack(day: Day) -> None:
    """The same tasks by their minutes alone: no order, no hours, no places."""
    model = cp_model.CpModel()
    taken = [model.new_bool_var("") for _ in day.tasks]
    minutes = sum(worker.minutes_from(day.now) for worker in day.workers)
    model.add(sum(task.minutes * one for task, one in zip(day.tasks, taken, strict=True)) <= minutes)
    model.maximize(sum(task.releases * one for task, one in zip(day.tasks, taken, strict=True)))
    cp_model.CpSolver().solve(model)


def measured(tasks: int, people: int, limit: float) -> None:
    took, gaps = [], []
    for seed in range(DAYS):
        day = a_day(tasks, people, seed)
        begun = time.perf_counter()
        plan = plan_day(day, seconds=limit)
        took.append(time.perf_counter() - begun)
        gaps.append(plan.gap or 0.0)
        if wrong := problems(day, plan.placed):
            raise SystemExit(f"A plan does not hold: {wrong}")
    plain = seconds(lambda: knapsack(a_day(tasks, people, 0)), 5)
    print(
        f"{tasks} tasks, {people} people: {median(took):.2f} s, at most {max(took):.2f} s"
        f" ({median(took) / plain:.0f} times its knapsack); within {100 * median(gaps):.1f} % of the bound,"
        f" at worst {100 * max(gaps):.1f} %"
    )


def main() -> None:
    measured(40, 2, 0.8)
    measured(200, 10, 4.5)
    odds, stakes = odds_of(0.62, 40, [35, 60, 20]).after(30), Stakes(86, 190, 160, 230, 0.45)
    print(f"stop or go, answered and drawn: {1000 * seconds(lambda: answer(odds, stakes), 50):.1f} ms")


if __name__ == "__main__":
    main()
