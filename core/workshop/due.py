"""What falls due again on a machine, by date or by hours run."""

from calendar import monthrange
from dataclasses import dataclass
from datetime import date

from core.catalogue.recipes import Recipe


@dataclass(frozen=True)
class Due:
    """When a recipe is due again: `on` a day (None where nobody knows when it was done), or after hours; in words."""

    recipe: Recipe
    is_due: bool
    words: str
    on: date | None = None


def due_again(recipe: Recipe, last_done: date | None, hours_since: float | None, today: date) -> Due | None:
    """None for a recipe that is done once. `hours_since` it was done, None where nobody counted.

    What nobody knows to have been done is taken as due, and said so: old grease is dry whoever forgot to write it down.
    """
    if recipe.due_months is None and recipe.due_hours is None:
        return None
    if last_done is None:
        return Due(recipe, True, "nobody knows when it was last done")
    on = _months_after(last_done, recipe.due_months) if recipe.due_months is not None else None
    by_date = on is not None and on <= today
    by_hours = recipe.due_hours is not None and hours_since is not None and hours_since >= recipe.due_hours
    if by_hours:
        words = f"{hours_since:.0f} hours run since it was done, due after {recipe.due_hours}"
    elif on is not None:
        words = f"due {'since ' if by_date else ''}{on:%d %b %Y}, last done {last_done:%d %b %Y}"
    elif hours_since is None:
        words = f"due after {recipe.due_hours} hours run; nobody counted them since it was done"
    else:
        words = f"{hours_since:.0f} of {recipe.due_hours} hours run since it was done"
    return Due(recipe, by_date or by_hours, words, on)


def _months_after(day: date, months: int) -> date:
    """The same day so many months later, or the last of a shorter month."""
    years, month = divmod(day.month - 1 + months, 12)
    year = day.year + years
    return date(year, month + 1, min(day.day, monthrange(year, month + 1)[1]))
