"""Jobs with their steps, the parts that went into them and the minutes."""

from typing import Self

from django.core.validators import MinValueValidator
from django.db import models
from django.db.models import Q

from core.catalogue.recipes import JobKind
from stations.common import clock
from stations.common.models import Versioned
from stations.ledger.models import Posting
from stations.people.models import Person
from stations.stock.models import StockItem
from stations.units.models import Finding, Part, Photo, Unit


class JobQuerySet(models.QuerySet["Job"]):
    """What is asked of jobs."""

    def waiting(self) -> Self:
        """Open, and held up: `Job.waits` as a question."""
        return self.filter(_not_come_yet(), done_at=None).exclude(waiting_for="")

    def awake(self) -> Self:
        """Open, and held up by nothing outside."""
        return self.filter(Q(waiting_for="") | ~_not_come_yet(), done_at=None)

    def was_done(self) -> Self:
        """Done, whatever came of it: `Job.was_done` as a question."""
        return self.filter(done_at__isnull=False, never_begun=False)

    def temporary_open(self) -> Self:
        """Temporary fixes that wait to be made good: `Job.temporary_open` as a question."""
        return self.was_done().filter(temporary=True, made_good_at=None)


def _not_come_yet() -> Q:
    return Q(waiting_until=None) | Q(waiting_until__gt=clock.today())


class Job(Versioned):
    """Work on a unit. A temporary fix stays on the unit until it is made good."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="jobs")
    kind = models.CharField(max_length=12, choices=[(k.value, k.value) for k in JobKind], default=JobKind.REPAIR.value)
    title = models.CharField("what is to be done", max_length=100)
    estimate_minutes = models.PositiveSmallIntegerField(
        "labour estimate, hands-on minutes", default=20, validators=[MinValueValidator(1, "At least a minute.")]
    )
    reversible = models.BooleanField("can it be undone?", null=True, blank=True)
    involves = models.JSONField("what it involves", default=list, blank=True)
    visible_modern = models.BooleanField("leaves a modern part in sight", default=False)
    finding = models.ForeignKey(
        Finding,
        null=True,
        blank=True,
        on_delete=models.SET_NULL,
        related_name="jobs",
        verbose_name="finding it resolves",
    )
    assembly = models.CharField("where in the machine", max_length=40, blank=True)
    override_reason = models.CharField("why against the approach (owner)", max_length=200, blank=True)
    waiting_for = models.CharField("waiting for", max_length=100, blank=True)
    waiting_until = models.DateField("until about", null=True, blank=True)
    decision = models.CharField("decision wanted", max_length=140, blank=True)
    result = models.CharField(max_length=200, blank=True)
    publish_result = models.BooleanField("may be told to buyers", default=False)
    original_kept = models.CharField("where the original part is kept", max_length=80, blank=True)
    original_gone = models.CharField("why the original part was disposed of", max_length=160, blank=True)
    original_goes = models.BooleanField("it goes with the machine at sale", null=True, blank=True)
    workaround = models.CharField("workaround that stays: the buyer is told", max_length=160, blank=True)
    temporary = models.BooleanField("temporary fix", default=False)
    temporary_reason = models.CharField("why only temporary", max_length=160, blank=True)
    made_good_by = models.CharField("what will make it good", max_length=160, blank=True)
    made_good_due = models.DateField("by when", null=True, blank=True)
    made_good_at = models.DateTimeField(null=True, blank=True, editable=False)
    # The recipe it is done by, as it was when the job was opened, and its minutes of hands as written.
    recipe = models.CharField(max_length=40, blank=True)
    steps = models.JSONField(default=list, blank=True)
    recipe_minutes = models.PositiveSmallIntegerField(default=0)
    # What it answers to ("finding:12"), and what it was said to add before it was begun; None where nobody could say.
    source = models.CharField(max_length=60, blank=True)
    said_to_add = models.DecimalField(max_digits=12, decimal_places=2, null=True, blank=True)
    # Drawers of which it was asked whether more is to be spent than it adds: it is asked once.
    asked_spending = models.JSONField(default=list, blank=True, editable=False)
    # What is varied at the step in hand, since it failed before; empty: done as written.
    varied = models.CharField(max_length=160, blank=True, editable=False)
    holder = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    worked = models.BooleanField("it did what it was for", null=True, blank=True)
    opened_at = models.DateTimeField()
    opened_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    done_at = models.DateTimeField(null=True, blank=True)
    never_begun = models.BooleanField("it was closed and never begun", default=False, editable=False)

    objects = JobQuerySet.as_manager()

    class Meta:
        ordering = ["opened_at", "id"]
        indexes = [
            models.Index(fields=["unit", "done_at"]),
            models.Index(fields=["recipe", "worked"], name="job_recipe_record"),
        ]
        constraints = [
            models.CheckConstraint(
                condition=Q(temporary=False) | (~Q(temporary_reason="") & ~Q(made_good_by="")),
                name="temporary_fix_says_why_and_what_then",
            ),
            models.CheckConstraint(
                condition=Q(never_begun=False) | (Q(done_at__isnull=False) & Q(worked=None)),
                name="never_begun_is_closed",
            ),
        ]

    def __str__(self) -> str:
        return self.title

    @property
    def is_open(self) -> bool:
        return self.done_at is None

    @property
    def begun(self) -> bool:
        """Something was done on it: minutes, a step, a part that went in. Three queries at most."""
        worked = self.labour.filter(Q(minutes__gt=0) | Q(ended_at=None))
        return worked.exists() or self.step_rows.exists() or self.issues.filter(returned_at=None).exists()

    @property
    def was_done(self) -> bool:
        return self.done_at is not None and not self.never_begun

    @property
    def waits(self) -> bool:
        """It is held up. On its day what waited comes back by itself: somebody looks whether it is there."""
        came = self.waiting_until is not None and self.waiting_until <= clock.today()
        return self.is_open and bool(self.waiting_for) and not came

    @property
    def unsaid(self) -> bool:
        """It was done, and nobody said yet whether it did what it was for."""
        return self.was_done and self.worked is None

    @property
    def failed(self) -> bool:
        """It was done, and did not do what it was for."""
        return self.worked is False

    @property
    def fits_something(self) -> bool:
        """It fits something that was missing."""
        return self.source.startswith("content:")

    @property
    def temporary_open(self) -> bool:
        return self.temporary and self.was_done and self.made_good_at is None

    @property
    def temporary_overdue(self) -> bool:
        return self.temporary_open and self.made_good_due is not None and self.made_good_due < clock.today()


class JobStep(models.Model):
    """A step of a job's recipe: begun, running by itself, done or left out. A step without a row was not begun."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="step_rows")
    index = models.PositiveSmallIntegerField()
    alone_from = models.DateTimeField(null=True, blank=True)
    alone_until = models.DateTimeField(null=True, blank=True)
    value = models.DecimalField(max_digits=12, decimal_places=3, null=True, blank=True)
    # The figures its value is the mean of, where several were read.
    figures = models.JSONField(default=list, blank=True)
    photo = models.ForeignKey(Photo, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    note = models.CharField(max_length=200, blank=True)
    # The machine had, or may have had, power while it was done.
    powered = models.BooleanField(default=False, editable=False)
    left_out = models.CharField("why it was left out", max_length=160, blank=True)
    done_at = models.DateTimeField(null=True, blank=True)
    done_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["index"]
        constraints = [
            models.UniqueConstraint(fields=["job", "index"], name="a_step_once_in_a_job"),
            models.CheckConstraint(
                condition=Q(alone_from__isnull=True, alone_until__isnull=True)
                | Q(alone_from__isnull=False, alone_until__isnull=False),
                name="what_runs_by_itself_has_an_end",
            ),
        ]

    def __str__(self) -> str:
        return f"step {self.index + 1} of {self.job}"


class Reservation(models.Model):
    """So much of a drawer is held for a job, until it is issued to it or let go."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="reservations")
    item = models.ForeignKey(StockItem, on_delete=models.PROTECT, related_name="reservations")
    quantity = models.DecimalField(max_digits=12, decimal_places=3)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=Q(quantity__gt=0), name="reserve_more_than_nothing"),
            models.UniqueConstraint(fields=["job", "item"], name="reserved_once_a_job"),
        ]

    def __str__(self) -> str:
        return f"{self.item.words(self.quantity)} {self.item} for {self.job}"


class PartIssue(models.Model):
    """Parts that went from a drawer into a job, at what they cost then. `part` is the record of one that was fitted."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="issues")
    item = models.ForeignKey(StockItem, on_delete=models.PROTECT, related_name="issues")
    quantity = models.DecimalField(max_digits=12, decimal_places=3)
    cost = models.DecimalField(max_digits=12, decimal_places=2)
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    returned_at = models.DateTimeField(null=True, blank=True)
    part = models.OneToOneField(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="issue")

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=Q(quantity__gt=0), name="issue_more_than_nothing"),
            models.CheckConstraint(
                condition=Q(part__isnull=True) | Q(quantity=1), name="what_is_told_apart_is_fitted_singly"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.amount} × {self.item}" if self.item.in_pieces else f"{self.amount} {self.item}"

    @property
    def amount(self) -> str:
        return self.item.words(self.quantity)

    @property
    def told_apart(self) -> bool:
        """A single piece that may have a place in the machine, and has none yet."""
        return self.part_id is None and self.quantity == 1 and self.item.in_pieces


class RecoveredPart(models.Model):
    """Parts kept from a unit that was taken apart, with what they carry of its cost."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="recovered")
    item = models.ForeignKey(StockItem, on_delete=models.PROTECT, related_name="recovered")
    quantity = models.PositiveIntegerField()
    cost = models.DecimalField(max_digits=12, decimal_places=2)
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [models.CheckConstraint(condition=Q(quantity__gte=1), name="recovered_at_least_one")]

    def __str__(self) -> str:
        return f"{self.quantity} × {self.item}"


class LabourEntry(models.Model):
    """Minutes on a job, typed or by the clock; `running_for` is set while the clock runs, one a person."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="labour")
    person = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    minutes = models.PositiveIntegerField(default=0)
    cost = models.DecimalField(max_digits=12, decimal_places=2, default=0)
    # For an hour, as it was booked; None of one from before that was kept, and of a clock that runs.
    rate = models.DecimalField(max_digits=8, decimal_places=2, null=True, editable=False)
    started_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True, blank=True)
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    # When its person signed out while it ran.
    signed_out_at = models.DateTimeField(null=True, blank=True)
    running_for = models.OneToOneField(
        Person, null=True, blank=True, on_delete=models.PROTECT, related_name="clock", editable=False
    )

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(ended_at__isnull=True) | Q(running_for__isnull=True), name="an_ended_clock_does_not_run"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.minutes} min on {self.job}"

    @property
    def is_typed(self) -> bool:
        """Of minutes that were typed only the day is known."""
        return self.started_at == self.ended_at
