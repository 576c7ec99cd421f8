"""Test runs and their results. A result is never edited: the step is run again."""

from django.db import models
from django.db.models import Q

from core.bench.plan import Outcome
from core.bench.verdict import Verdict
from stations.people.models import Person
from stations.units.models import Clip, Photo, Unit


class TestRun(models.Model):
    """One run of the plan that was made for a unit.

    `plan` holds the codes of its checks in order, `steps` the checks as they were asked then. `holder` is who
    works on it now; somebody else takes it over before recording anything.
    """

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="runs")
    number = models.PositiveSmallIntegerField()
    plan = models.JSONField()
    steps = models.JSONField(null=True)
    cold = models.BooleanField("started from cold", null=True, default=None)
    closed = models.BooleanField("closed up", default=False)
    holder = models.ForeignKey(Person, null=True, on_delete=models.PROTECT, related_name="+")
    started_at = models.DateTimeField()
    started_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    finished_at = models.DateTimeField(null=True, blank=True)
    open_for = models.OneToOneField(
        Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="open_run", editable=False
    )

    class Meta:
        ordering = ["unit_id", "number"]
        constraints = [
            models.UniqueConstraint(fields=["unit", "number"], name="run_number_once_a_unit"),
            models.CheckConstraint(
                condition=Q(finished_at__isnull=False, open_for__isnull=True)
                | Q(finished_at__isnull=True, open_for__isnull=False),
                name="a_run_is_open_or_finished",
            ),
        ]

    def __str__(self) -> str:
        return f"run {self.number} of {self.unit}"


class StepResult(models.Model):
    """What came of one step, once. The newest of a step counts."""

    run = models.ForeignKey(TestRun, on_delete=models.PROTECT, related_name="results")
    code = models.CharField(max_length=20)
    outcome = models.CharField(max_length=6, choices=[(o.value, o.label) for o in Outcome])
    reading = models.DecimalField(max_digits=14, decimal_places=4, null=True, blank=True)
    reading_unit = models.CharField(max_length=6, blank=True)
    uncertainty = models.DecimalField(max_digits=14, decimal_places=4, null=True, blank=True)
    verdict = models.CharField(max_length=9, blank=True, choices=[(v.value, v.label) for v in Verdict])
    reason = models.CharField(max_length=200, blank=True)
    instrument = models.CharField(max_length=40, blank=True)
    instrument_range = models.CharField(max_length=20, blank=True)
    points = models.JSONField(null=True)
    # Whether the unit had power during the step: what was discharged before counts no longer after it.
    powered = models.BooleanField(default=False)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["run", "code"])]
        constraints = [
            models.CheckConstraint(
                condition=Q(outcome="pass") | ~Q(reason=""), name="fail_skip_and_waiver_have_a_reason"
            ),
            models.CheckConstraint(
                condition=Q(reading__isnull=True) | Q(uncertainty__isnull=False), name="reading_has_an_uncertainty"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.code}: {self.outcome}"

    @property
    def passed(self) -> bool:
        return self.outcome == Outcome.PASS


class StepTimer(models.Model):
    """A step that runs by itself: it goes on while other units are worked on, and through a restart."""

    run = models.ForeignKey(TestRun, on_delete=models.CASCADE, related_name="timers")
    code = models.CharField(max_length=20)
    title = models.CharField(max_length=60)
    started_at = models.DateTimeField()
    ends_at = models.DateTimeField(db_index=True)
    started_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    stopped_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["ends_at"]
        constraints = [
            models.CheckConstraint(condition=Q(ends_at__gt=models.F("started_at")), name="a_timer_takes_time")
        ]

    def __str__(self) -> str:
        return f"{self.title} until {self.ends_at}"


class StepNote(models.Model):
    """What was noticed at a step, in words, as a picture or both; it says nothing about the outcome."""

    run = models.ForeignKey(TestRun, on_delete=models.PROTECT, related_name="notes")
    code = models.CharField(max_length=20)
    words = models.CharField(max_length=300, blank=True)
    photo = models.ForeignKey(Photo, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    clip = models.ForeignKey(Clip, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["run", "code"])]
        constraints = [
            models.CheckConstraint(
                condition=~Q(words="") | Q(photo__isnull=False) | Q(clip__isnull=False), name="a_note_says_something"
            )
        ]

    def __str__(self) -> str:
        return f"{self.code}: {self.words}"


class PowerStop(models.Model):
    """Unplugged and stopped: what was heard, smelt or seen. It holds the unit until somebody has dealt with it."""

    class What(models.TextChoices):
        NOISE = "noise", "noise"
        SMELL = "smell", "smell"
        SMOKE = "smoke", "smoke"
        SPARK = "spark", "spark or flash"
        HOT = "hot", "too hot to touch"
        OTHER = "other", "something else"

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="stops")
    run = models.ForeignKey(TestRun, null=True, blank=True, on_delete=models.PROTECT, related_name="stops")
    code = models.CharField(max_length=20, blank=True)
    what = models.CharField(max_length=6, choices=What)
    words = models.CharField("what exactly", max_length=200, blank=True)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    ended_at = models.DateTimeField(null=True, blank=True)
    ended_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    ended_words = models.CharField("what it was and what was done", max_length=200, blank=True)

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["unit", "ended_at"], name="stop_open")]
        constraints = [
            models.CheckConstraint(
                condition=Q(ended_at__isnull=True)
                | (Q(ended_at__isnull=False) & Q(ended_by__isnull=False) & ~Q(ended_words="")),
                name="a_stop_is_ended_by_somebody_with_words",
            )
        ]

    def __str__(self) -> str:
        return f"{self.get_what_display()}{': ' + self.words if self.words else ''}"


class Discharge(models.Model):
    """Something that holds charge was discharged and measured outside a run: before a job, or while finding a fault."""

    class What(models.TextChoices):
        SUPPLY = "supply", "PSU"
        TUBE = "tube", "CRT"

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="discharges")
    what = models.CharField(max_length=6, choices=What)
    volts = models.DecimalField("what was left, V", max_digits=8, decimal_places=3, null=True, blank=True)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["unit", "what", "when"], name="discharge_last")]
        constraints = [
            models.CheckConstraint(
                condition=Q(what="tube", volts__isnull=True) | Q(what="supply", volts__isnull=False),
                name="a_supply_is_measured_a_tube_is_not",
            )
        ]

    def __str__(self) -> str:
        return f"{self.get_what_display()} discharged"
