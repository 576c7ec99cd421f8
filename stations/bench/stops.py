"""Unplugged: stop. And the way back: what was dealt with before it may have power again; discharging outside a run."""

from django.db import transaction

from core.bench.checks import check_limits
from core.bench.plan import Outcome
from core.bench.verdict import HAND_METER, Verdict, judge
from core.flow.stage import LEFT
from core.machine.quantities import QuantityError, parse_reading
from stations.bench import services
from stations.bench.models import Discharge, PowerStop, StepResult, TestRun
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import may, require
from stations.units import dealt_with, stages
from stations.units.models import Unit

UNIT = HistoryEntry.Subject.UNIT
VOLTS_LEFT = check_limits("0", "0", "60")


def on_page(person: Person, unit: Unit) -> dict:
    """What the button that stops everything needs on a page, and what was stopped and not dealt with: one query."""
    return {
        "held_stops": list(unit.stops.filter(ended_at=None).select_related("who")),
        "stop_whats": [(what.value, what.label) for what in PowerStop.What if what is not PowerStop.What.OTHER],
        "can_stop": may(person, "stop a unit") and unit.stage not in LEFT,
    }


@transaction.atomic
def stop(person: Person, unit: Unit, what: str, words: str = "", code: str = "") -> PowerStop:
    """It was unplugged because of what was heard, smelt or seen: the step that runs fails, and the unit is held.

    Nothing about a run, a holder or a lock stands in the way of this.
    """
    require(person, "stop a unit")
    if what not in PowerStop.What.values:
        raise Refused("Say what it was: noise, smell, smoke, a spark, too hot, something else.", "what")
    if what == PowerStop.What.OTHER and not words:
        raise Refused("Say in a word what it was.", "words")
    unit = lock_row(Unit.objects.all(), unit)
    if unit.stage in LEFT:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: it is not here.")
    run = TestRun.objects.filter(open_for=unit).first()
    if run is None or code not in {check.code for check in services.plan_of(run)}:
        code = ""
    made = PowerStop.objects.create(
        unit=unit, run=run, code=code, what=what, words=within(words, 200), when=clock.now(), who=person
    )
    if run:
        # Without power nothing runs by itself any more, whichever step it was.
        run.timers.filter(stopped_at=None).update(stopped_at=made.when)
        _fail_step(person, run, code, made)
    history.record(person, "bench.stop", UNIT, unit.pk, f"Unplugged and stopped: {made}", stop=made.pk, what=what)
    stages.refresh(unit)
    return made


def _fail_step(person: Person, run: TestRun, code: str, made: PowerStop) -> None:
    """The step it happened at has failed; one that is not on the plan, or locked, is left alone."""
    step = next((r for r in services.steps_of(run) if r.check.code == code), None)
    if step is None or step.locked_by:
        return
    StepResult.objects.create(
        run=run,
        code=code,
        outcome=Outcome.FAIL,
        reason=f"unplugged: {made.get_what_display()}",
        powered=True,
        when=made.when,
        who=person,
    )
    if step.check.starts:
        services.note_failed_start(person, run, step.check, f"unplugged: {made.get_what_display()}")


@transaction.atomic
def end(person: Person, held: PowerStop, words: str) -> None:
    """It was dealt with: what it was and what was done. Refused without anything on record that shows it."""
    require(person, "end a hold")
    held = lock_row(PowerStop.objects.select_related("unit"), held, held.unit)
    if held.ended_at:
        raise Refused("This hold was ended already.")
    if not words:
        raise Refused("Say what it was, and what was done.", "words")
    if not dealt_with.since(held.unit, held.when):
        raise Refused(
            "Nothing on record shows that it was dealt with: finish a job on it, add a picture, or pass a step that "
            "measures or looks, unpowered.",
            "words",
        )
    PowerStop.objects.filter(pk=held.pk).update(ended_at=clock.now(), ended_by=person, ended_words=within(words, 200))
    history.record(person, "bench.end", UNIT, held.unit_id, f"Hold ended: {held}; {words}")
    stages.refresh(held.unit)


@transaction.atomic
def discharge(person: Person, unit: Unit, what: str, typed: str = "", silent: bool = False) -> Discharge:
    """A supply was discharged and measured, or a tube discharged until the second time stayed silent."""
    require(person, "record a discharge")
    if what not in Discharge.What.values:
        raise Refused("What was discharged, the supply or the tube?", "what")
    volts = None
    if what == Discharge.What.TUBE:
        if not silent:
            raise Refused("A tube is discharged when a second discharge stays silent. Do it again.", "silent")
    else:
        try:
            volts = parse_reading(typed, "V")
        except QuantityError as problem:
            raise Refused(str(problem), "volts") from problem
        if abs(volts) >= 10**5:
            raise Refused("No meter reads that. Type the reading again.", "volts")
        doubt = HAND_METER.accuracy["V"].uncertainty(volts)
        if judge(volts, doubt, VOLTS_LEFT).verdict is not Verdict.INSIDE:
            raise Refused(f"{abs(volts):f} V are left: not safe. Discharge further, then measure again.", "volts")
    made = Discharge.objects.create(unit=unit, what=what, volts=volts, when=clock.now(), who=person)
    left = f", {volts:f} V left" if volts is not None else ", second time silent"
    history.record(person, "bench.discharge", UNIT, unit.pk, f"{made}{left}")
    return made
