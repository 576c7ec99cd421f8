"""Exact search by CP-SAT within a time. What was not found in time is never called impossible, nor called the best."""

from dataclasses import dataclass

from ortools.sat.python import cp_model


class NoAnswer(ValueError):
    """Proven: what is asked for can’t be."""


class NotInTime(ValueError):
    """Neither an answer nor that there is none was found in the time there is."""

    def __init__(self, what: str = "answer") -> None:
        super().__init__(f"No {what} was found in time. That doesn’t say there is none.")


@dataclass(frozen=True)
class Solved:
    """An answer; `proven`: there is no better one; `bound`: none is better than this, as the model counts."""

    solver: cp_model.CpSolver
    proven: bool

    @property
    def bound(self) -> float:
        return self.solver.best_objective_bound

    def value(self, of: cp_model.LinearExprT) -> int:
        return self.solver.value(of)


def solve(model: cp_model.CpModel, seconds: float, what: str = "answer") -> Solved:
    """The best answer that is found in `seconds`, by one thread and one seed: the same every time. Raises NoAnswer and,
    naming `what` is sought, NotInTime."""
    solver = cp_model.CpSolver()
    solver.parameters.num_workers, solver.parameters.random_seed = 1, 1
    solver.parameters.max_time_in_seconds = seconds
    ended = solver.solve(model)
    if ended == cp_model.UNKNOWN:
        raise NotInTime(what)
    if ended not in {cp_model.OPTIMAL, cp_model.FEASIBLE}:
        raise NoAnswer(f"There is no {what}.")
    return Solved(solver, ended == cp_model.OPTIMAL)
