"""Jobs, the parts that went into them and the minutes; machines taken apart and closed again."""

from typing import Self

from django.core.validators import MinValueValidator
from django.db import models
from django.db.models import Q

from core.catalogue.recipes import JobKind
from core.workshop.knowledge import KnowledgeKind, Sure
from core.workshop.settings import SettingKind
from stations.catalogue.models import MachineModel
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
    holder = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    worked = models.BooleanField("it did what it was for", null=True, blank=True)
    opened_at = models.DateTimeField()
    opened_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    done_at = models.DateTimeField(null=True, blank=True)

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
        ]

    def __str__(self) -> str:
        return self.title

    @property
    def is_open(self) -> bool:
        return self.done_at is None

    @property
    def waits(self) -> bool:
        """It is held up. On its day what waited comes back by itself: somebody looks whether it is there."""
        came = self.waiting_until is not None and self.waiting_until <= clock.today()
        return self.is_open and bool(self.waiting_for) and not came

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
        return self.temporary and self.done_at is not None and self.made_good_at is None

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


class StateAsFound(Versioned):
    """What a machine counted, showed or scored before anything was changed on it, and afterwards."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="as_found")
    what = models.CharField("what", max_length=60)
    found = models.CharField("as found", max_length=120)
    after = models.CharField("afterwards", max_length=120, blank=True)
    seen_at = models.DateTimeField()
    seen_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    after_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["unit", "what"], name="found_once_a_unit")]

    def __str__(self) -> str:
        return f"{self.what}: {self.found}"


class Knowledge(Versioned):
    """What is known of a unit, of all of its model, of a kind of part or of one, and how sure it is.

    A question asked outside is known once it was answered, and then from whom.
    """

    unit = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.CASCADE, related_name="knowledge")
    model = models.ForeignKey(MachineModel, null=True, blank=True, on_delete=models.CASCADE, related_name="knowledge")
    item = models.ForeignKey(StockItem, null=True, blank=True, on_delete=models.CASCADE, related_name="knowledge")
    part = models.ForeignKey(Part, null=True, blank=True, on_delete=models.CASCADE, related_name="knowledge")
    kind = models.CharField(max_length=10, choices=[(k.value, k.label) for k in KnowledgeKind], default="note")
    title = models.CharField("what it is", max_length=100)
    words = models.TextField("what it says", max_length=2000, blank=True)
    sure = models.CharField("how sure", max_length=10, choices=[(s.value, s.label) for s in Sure], default="guessed")
    edition = models.CharField("version or edition", max_length=40, blank=True)
    may_pass_on = models.BooleanField("may be passed on", null=True, blank=True)
    from_whom = models.CharField("from whom, or asked whom", max_length=80, blank=True)
    due = models.DateField("an answer is expected by", null=True, blank=True)
    answer = models.TextField("what was answered", max_length=2000, blank=True)
    answered_on = models.DateField(null=True, blank=True)
    sha256 = models.CharField(max_length=64, blank=True, editable=False)
    size = models.PositiveIntegerField(default=0, editable=False)
    original_name = models.CharField(max_length=120, blank=True, editable=False)
    kept_at = models.DateTimeField()
    kept_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["kind", "title", "id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(unit__isnull=False, model__isnull=True, item__isnull=True, part__isnull=True)
                | Q(unit__isnull=True, model__isnull=False, item__isnull=True, part__isnull=True)
                | Q(unit__isnull=True, model__isnull=True, item__isnull=False, part__isnull=True)
                | Q(unit__isnull=True, model__isnull=True, item__isnull=True, part__isnull=False),
                name="known_of_one_thing",
            ),
            models.CheckConstraint(
                condition=Q(answered_on__isnull=True) | ~Q(from_whom=""), name="an_answer_is_from_somebody"
            ),
        ]

    def __str__(self) -> str:
        return self.title

    @property
    def is_waiting(self) -> bool:
        """A question that nobody answered yet."""
        return self.kind == KnowledgeKind.QUESTION and self.answered_on is None

    @property
    def overdue(self) -> bool:
        return self.is_waiting and self.due is not None and self.due < clock.today()


class TreatmentNote(Versioned):
    """What the treatment report says that no record says: what was not done and why, and advice to the owner."""

    unit = models.OneToOneField(Unit, on_delete=models.CASCADE, related_name="treatment_note")
    not_done = models.TextField("what was not done, and why", max_length=1000, blank=True)
    advice = models.TextField("advice for keeping it", max_length=1000, blank=True)

    def __str__(self) -> str:
        return f"treatment of {self.unit}"


class Setting(Versioned):
    """How one thing on a unit was set when it came, and what it was set to; `set_to` is empty while it is as it was."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="settings")
    name = models.CharField("which: J3, SW1", max_length=160)
    kind = models.CharField(max_length=10, choices=[(k.value, k.label) for k in SettingKind], default="link")
    was = models.CharField("was like this", max_length=80)
    set_to = models.CharField("set to", max_length=80, blank=True)
    means = models.CharField("what it means, where known", max_length=160, blank=True)
    seen_at = models.DateTimeField()
    seen_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["unit", "name"], name="setting_once_a_unit")]

    def __str__(self) -> str:
        return self.name

    @property
    def changed(self) -> bool:
        return bool(self.set_to) and self.set_to != self.was


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


class UnitStripDown(Versioned):
    """What this very unit is put together from: its model's to begin with, put right as it is found."""

    unit = models.OneToOneField(Unit, on_delete=models.CASCADE, related_name="strip_down")
    assemblies = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"strip-down of {self.unit}"


class Opening(models.Model):
    """A unit being taken apart and closed again; one at a time. `targets` is what is to be reached, `steps` the way."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="openings")
    targets = models.JSONField(default=list)
    steps = models.JSONField(default=list)
    going_back = models.BooleanField(default=False)
    cautions_read = models.BooleanField(default=False)
    opened_at = models.DateTimeField()
    opened_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    closed_at = models.DateTimeField(null=True, blank=True)
    open_for = models.OneToOneField(
        Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="opening", editable=False
    )

    class Meta:
        ordering = ["opened_at", "id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(closed_at__isnull=True, open_for__isnull=False)
                | Q(closed_at__isnull=False, open_for__isnull=True),
                name="an_opening_is_open_or_closed",
            ),
        ]

    def __str__(self) -> str:
        return f"opening of {self.unit.tag} on {self.opened_at:%Y-%m-%d}"


class OpenedAssembly(models.Model):
    """One assembly in an opening: how far it is off or on again, and its tray.

    `found` and `added` count fasteners by group: what was there when it was opened, and what was added from elsewhere.
    """

    opening = models.ForeignKey(Opening, on_delete=models.CASCADE, related_name="assemblies")
    name = models.CharField(max_length=40)
    tray = models.PositiveSmallIntegerField()
    found = models.JSONField(default=list)
    added = models.JSONField(default=list)
    odd = models.CharField("what was odd", max_length=160, blank=True)
    note = models.CharField(max_length=200, blank=True)
    photo = models.ForeignKey(Photo, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    broke = models.CharField("what broke", max_length=120, blank=True)
    off_done = models.PositiveSmallIntegerField(default=0)
    off_since = models.DateTimeField(null=True, blank=True)
    off_at = models.DateTimeField(null=True, blank=True)
    off_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    on_done = models.PositiveSmallIntegerField(default=0)
    on_since = models.DateTimeField(null=True, blank=True)
    on_at = models.DateTimeField(null=True, blank=True)
    on_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    tested_at = models.DateTimeField(null=True, blank=True)
    tested_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    closed_over = models.CharField("why it was closed over what is not settled", max_length=200, blank=True)

    class Meta:
        ordering = ["tray"]
        constraints = [
            models.UniqueConstraint(fields=["opening", "name"], name="an_assembly_once_in_an_opening"),
            models.CheckConstraint(condition=Q(tray__gte=1), name="trays_begin_at_1"),
            models.CheckConstraint(
                condition=Q(on_at__isnull=True) | Q(off_at__isnull=False), name="on_again_after_it_was_off"
            ),
            models.CheckConstraint(
                condition=Q(on_done=0) | Q(off_at__isnull=False), name="nothing_goes_in_before_it_is_out"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def is_off(self) -> bool:
        return self.off_at is not None and self.on_at is None
