"""The best plan of a day that can be proved in the time there is, by CP-SAT, with the bound it proves.

Which tasks, by whom, when: cents released − minutes idle or lost to taking over × rate − the price of every promise
broken. Whatever the
solver finds is drawn together so that each task begins as early as it can: that changes no figure for the worse.
"""

from collections.abc import Callable

from ortools.sat.python import cp_model

from core.flow.dayplan.lists import begun_of, by_worth, earliest_of, in_order
from core.flow.dayplan.problem import DAY, TAKE_OVER_MINUTES, Day, DayPlan, DayTask, Placed, Span, figures, joined

# The solver reckons in sixtieths of a cent: an hour of hands costs whole cents, a minute may not.
_FINE = 60


def plan_day(day: Day, *, seconds: float = 4.0, workers: int = 2, close_enough: float = 0.0) -> DayPlan:
    """A plan, and what no plan can be better than. `close_enough`: it may stop once so near the bound, as a share."""
    first = in_order(day, by_worth(day))
    if not day.tasks or not day.workers:
        return _as_plan(day, first, None)
    model = _Model(day)
    model.hint(first)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds, solver.parameters.num_workers = seconds, workers
    solver.parameters.relative_gap_limit, solver.parameters.random_seed = close_enough, 1
    solver.parameters.linearization_level = 2
    status = solver.solve(model.model)
    bound = solver.best_objective_bound / _FINE
    if status not in {cp_model.OPTIMAL, cp_model.FEASIBLE}:
        return _as_plan(day, first, bound if status == cp_model.UNKNOWN else None)
    found = model.placed(solver.value)
    order = [one.task.key for one in sorted(found, key=lambda one: (one.start, one.until, one.task.key))]
    together = in_order(day, order, {one.task.key: one.who for one in found})
    plans = [_as_plan(day, placed, bound) for placed in (together, first)]
    return max(plans, key=lambda plan: plan.worth)


def _as_plan(day: Day, placed: list[Placed], bound: float | None) -> DayPlan:
    released, idle, broken = figures(day, placed)
    made = DayPlan(
        day, tuple(sorted(placed, key=lambda one: (one.start, one.who, one.task.key))), released, idle, broken, 0.0
    )
    # A bound below what was reached is rounding.
    return DayPlan(day, made.placed, released, idle, broken, made.worth if bound is None else max(bound, made.worth))


def _layers(spans: list[Span], room: int) -> list[list[Span]]:
    """Spans dealt to as many layers as there is room, none over another; what is too much joins the last."""
    layers: list[list[Span]] = [[] for _ in range(room)]
    for span in sorted(spans):
        free = next((layer for layer in layers if not layer or layer[-1][1] <= span[0]), layers[-1])
        free.append(span)
    return [joined(layer) for layer in layers]


class _Model:
    def __init__(self, day: Day) -> None:
        self.day, self.model = day, cp_model.CpModel()
        self.begun = begun_of(day)
        self.first = earliest_of(day)
        self.to_plan = [task for task in day.tasks if task.begun is None]
        self.start: dict[str, cp_model.IntVar] = {}
        self.taken: dict[str, cp_model.BoolVarT] = {}
        self.by: dict[str, dict[int, cp_model.BoolVarT]] = {}
        self.on_time: dict[str, cp_model.BoolVarT] = {}
        self._of: dict[int, list[cp_model.IntervalVar]] = {worker.id: [] for worker in day.workers}
        self._in: dict[str, list[cp_model.IntervalVar]] = {place: [] for place in day.places}
        self._fixed()
        for task in self.to_plan:
            self._task(task)
        for task in self.to_plan:
            self._needs(task)
        for worker in day.workers:
            self.model.add_no_overlap(self._of[worker.id])
            self._no_more_than_there_is(worker.id)
        for place, room in day.places.items():
            self.model.add_cumulative(self._in[place], [1] * len(self._in[place]), room)
            self._no_more_room_than_there_is(place, room)
        self._worth()

    def _fixed(self) -> None:
        """What goes on takes hands and room. Where it is more at once than there is, nothing else fits in meanwhile."""
        now = self.day.now
        for who, there in self._of.items():
            spans = [(max(one.start, now), one.until) for one in self.begun if one.who == who]
            there.extend(self._interval(span) for span in joined([span for span in spans if span[1] > now]))
        for place, there in self._in.items():
            spans = [(max(one.start, now), one.end) for one in self.begun if one.task.place == place]
            for layer in _layers([span for span in spans if span[1] > now], self.day.places[place]):
                there.extend(self._interval(span) for span in layer)

    def _interval(self, span: Span) -> cp_model.IntervalVar:
        return self.model.new_fixed_size_interval_var(span[0], span[1] - span[0], "")

    def _task(self, task: DayTask) -> None:
        day, model, key = self.day, self.model, task.key
        possible = self.first.get(key)
        first = DAY if possible is None else possible
        start = self.start[key] = model.new_int_var(min(first, DAY), DAY, f"start {key}")
        taken = self.taken[key] = model.new_bool_var(f"taken {key}")
        self.by[key] = {}
        for worker in day.workers:
            if not day.may(task, worker.id):
                continue
            spans = [
                [max(begin, first), end - task.minutes]
                for begin, end in worker.hours
                if end - task.minutes >= max(begin, first)
            ]
            if not spans:
                continue
            by = self.by[key][worker.id] = model.new_bool_var(f"{key} by {worker.id}")
            model.add_linear_expression_in_domain(start, cp_model.Domain.from_intervals(spans)).only_enforce_if(by)
            self._of[worker.id].append(model.new_optional_fixed_size_interval_var(start, task.minutes, by, ""))
        model.add(sum(self.by[key].values()) == taken)
        windows = day.windows_of(task)
        if windows is not None:
            inside = [[begin, end - task.span] for begin, end in windows if end - task.span >= begin]
            if inside:
                domain = cp_model.Domain.from_intervals(inside)
                model.add_linear_expression_in_domain(start, domain).only_enforce_if(taken)
            else:
                model.add(taken == 0)
        if possible is None:
            model.add(taken == 0)
        elif task.pinned_at is not None:
            model.add(start == task.pinned_at).only_enforce_if(taken)
        if task.place in self._in:
            self._in[task.place].append(model.new_optional_fixed_size_interval_var(start, task.span, taken, ""))
        if task.promised is not None:
            on_time = self.on_time[key] = model.new_bool_var(f"on time {key}")
            model.add_implication(on_time, taken)
            model.add(start + task.span <= task.promised).only_enforce_if(on_time)

    def _needs(self, task: DayTask) -> None:
        begun = {one.task.key: one for one in self.begun}
        for need in task.needs:
            if need in begun:
                self.model.add(self.start[task.key] >= begun[need].end).only_enforce_if(self.taken[task.key])
            elif need in self.start:
                before = self.day.by_key[need]
                self.model.add_implication(self.taken[task.key], self.taken[need])
                self.model.add(self.start[task.key] >= self.start[need] + before.span).only_enforce_if(
                    self.taken[task.key]
                )

    def _no_more_than_there_is(self, who: int) -> None:
        """Follows from the rest, and makes the bound: nobody has more minutes than the day."""
        worker = next(one for one in self.day.workers if one.id == who)
        gone = sum(max(0, one.until - max(self.day.now, one.start)) for one in self.begun if one.who == who)
        takes = [task.minutes * self.by[task.key][who] for task in self.to_plan if who in self.by[task.key]]
        if takes:
            self.model.add(sum(takes) <= max(0, worker.minutes_from(self.day.now) - gone))

    def _no_more_room_than_there_is(self, place: str, room: int) -> None:
        """The same of a place: what runs with somebody near ends while there is one, of the rest only the last of each
        room runs on after that."""
        day = self.day
        there = [task for task in self.to_plan if task.place == place]
        open_ = sum(max(0, end - max(begin, day.now)) for begin, end in day.near)
        gone = sum(
            max(0, min(one.end, end) - max(one.start, begin, day.now))
            for one in self.begun
            if one.task.place == place
            for begin, end in day.near
        )
        left = room * open_ - min(gone, room * open_)
        on = max((task.alone for task in there if not task.near), default=0)
        inside = [task for task in there if task.near or not task.alone]
        for tasks, minutes in ((inside, left), (there, left + room * on)):
            if tasks:
                self.model.add(sum(task.span * self.taken[task.key] for task in tasks) <= minutes)

    def _worth(self) -> None:
        day = self.day
        released, idle, broken = figures(day, self.begun)
        # What is not taken idles, and breaks its promise: told from what stands there without it.
        fixed = _FINE * released - day.hourly * idle - _FINE * broken
        terms = [(_FINE * task.releases + day.hourly * task.minutes) * self.taken[task.key] for task in self.to_plan]
        over = [
            -TAKE_OVER_MINUTES * day.hourly * by
            for task in self.to_plan
            for who, by in self.by[task.key].items()
            if Placed(task, who, 0).taken_over
        ]
        kept = [_FINE * day.by_key[key].price * on_time for key, on_time in self.on_time.items()]
        self.model.maximize(sum(terms) + sum(over) + sum(kept) + fixed)

    def hint(self, placed: list[Placed]) -> None:
        there = {one.task.key: one for one in placed}
        for key, start in self.start.items():
            one = there.get(key)
            self.model.add_hint(self.taken[key], one is not None)
            if one is not None:
                self.model.add_hint(start, one.start)
            for who, by in self.by[key].items():
                self.model.add_hint(by, one is not None and one.who == who)
            if key in self.on_time:
                self.model.add_hint(self.on_time[key], one is not None and not one.late)

    def placed(self, value: Callable[[cp_model.LinearExprT], int]) -> list[Placed]:
        found = list(self.begun)
        for task in self.to_plan:
            for who, by in self.by[task.key].items():
                if value(by):
                    found.append(Placed(task, who, value(self.start[task.key])))
        return found
