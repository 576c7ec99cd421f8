"""Why a task stands where it stands in a plan, in a few words."""

from core.flow.dayplan.problem import DAY, DayPlan, Placed

GOES_ON = "goes on"


def clock(minute: int) -> str:
    """12:05, and 16:00 the day before for what was before that day."""
    before = -(minute // DAY)
    at = minute % DAY if before > 0 else minute
    words = f"{at // 60}:{at % 60:02}"
    return words if before <= 0 else f"{words} {'the day' if before == 1 else f'{before} days'} before"


def why_then(plan: DayPlan, one: Placed, currency: str = "") -> str:
    """What decides when it begins, the most telling first; `currency` is how it is written before an amount."""
    task, day = one.task, plan.day
    if task.begun:
        return GOES_ON
    if task.pinned_at is not None:
        return f"pinned to {clock(task.pinned_at)}"
    if task.promised is not None:
        return f"promised by {clock(task.promised)}{', late' if one.late else ''}"
    if one.taken_over:
        return f"take it over from {task.holder_name}"
    needed = [other for other in plan.placed if other.task.key in task.needs]
    last = max(needed, key=lambda other: other.end, default=None)
    if last is not None and last.task.alone:
        return f"ran alone until {clock(last.end)}"
    if task.earliest > day.now and task.earliest >= one.start - 5:
        return f"from {clock(task.earliest)} on"
    if task.windows:
        return f"light until {clock(task.windows[0][1])}"
    if task.alone:
        return "runs alone then"
    if task.pinned_who is not None:
        return "pinned"
    if last is not None and last.until == one.start:
        return "follows at once"
    return f"{currency}{task.releases / task.minutes / 100:.2f}/min"
