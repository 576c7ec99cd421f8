"""What falls due on a unit: from when it was last done here, and the hours it ran since."""

from collections.abc import Iterable, Mapping
from datetime import datetime

from core.bench.checks import MACHINES
from core.catalogue.assemblies import StripDown
from core.catalogue.recipes import Recipe
from core.machine.supply import Battery
from core.workshop.due import Due, due_again
from core.workshop.matching import place_of
from stations.bench.models import StepTimer
from stations.common import clock
from stations.units.models import Unit
from stations.workshop.models import Job


def due_of(unit: Unit, strip: StripDown, recipes: Mapping[str, Recipe], jobs: Iterable[Job]) -> list[Due]:
    """Of every recipe that comes again and has something to be done on in this unit (put together as `strip`), those
    due first: one query."""
    done = {job.recipe: job.done_at for job in sorted(jobs, key=lambda j: j.pk) if job.was_done and job.recipe}
    timers = list(StepTimer.objects.filter(run__unit=unit)) if done else []
    today = clock.today()
    found = []
    for recipe in recipes.values():
        comes_again = recipe.due_months is not None or recipe.due_hours is not None
        if not comes_again or not _has_it(unit, strip, recipe):
            continue
        last = done.get(recipe.code)
        hours = hours_run(timers, last) if last else None
        if due := due_again(recipe, clock.day_of(last) if last else None, hours, today):
            found.append(due)
    return sorted(found, key=lambda due: (not due.is_due, due.on or today, due.recipe.title))


def hours_run(timers: Iterable[StepTimer], since: datetime) -> float:
    """Hours that are known to have been run on the bench since then: soaks and other timed steps."""
    now = clock.now()
    spans = (
        (min(timer.stopped_at or timer.ends_at, timer.ends_at, now) - max(timer.started_at, since)).total_seconds()
        for timer in timers
    )
    return sum(max(0.0, seconds) for seconds in spans) / 3600


def _has_it(unit: Unit, strip: StripDown, recipe: Recipe) -> bool:
    """Whether there is something in the unit to do it on; what nobody knows to be there is not."""
    if unit.form_factor not in MACHINES and unit.form_factor not in {form.value for form in recipe.forms}:
        return False
    if recipe.forms and unit.form_factor not in {form.value for form in recipe.forms}:
        return False
    if not recipe.at:
        return True
    if "drive" in recipe.at and unit.drives:
        return True
    if "cell" in recipe.at:
        return Battery(unit.battery).is_in
    return bool(place_of(recipe, strip))
