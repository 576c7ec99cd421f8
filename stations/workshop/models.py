"""Stock, jobs, the parts that went into them and the minutes."""

from django.core.validators import MinValueValidator
from django.db import models
from django.db.models import Q

from core.workshop.jobs import JobKind
from stations.common.models import Versioned
from stations.ledger.models import Posting
from stations.people.models import Person
from stations.stock.models import StockItem
from stations.units.models import Finding, Unit


class Job(Versioned):
    """Work on a unit. A temporary fix stays on the unit until it is made good."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="jobs")
    kind = models.CharField(max_length=8, choices=[(k.value, k.value) for k in JobKind], default=JobKind.REPAIR.value)
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
    override_reason = models.CharField("why against the approach (owner)", max_length=200, blank=True)
    waiting_for = models.CharField("waiting for", max_length=100, blank=True)
    waiting_until = models.DateField("until about", null=True, blank=True)
    decision = models.CharField("decision wanted", max_length=140, blank=True)
    result = models.CharField(max_length=200, blank=True)
    publish_result = models.BooleanField("may be told to buyers", default=False)
    original_kept = models.CharField("where the original part is kept", max_length=80, blank=True)
    temporary = models.BooleanField("temporary fix", default=False)
    temporary_reason = models.CharField("why only temporary", max_length=160, blank=True)
    made_good_by = models.CharField("what will make it good", max_length=160, blank=True)
    made_good_at = models.DateTimeField(null=True, blank=True, editable=False)
    opened_at = models.DateTimeField()
    opened_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    done_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["opened_at", "id"]
        indexes = [models.Index(fields=["unit", "done_at"])]
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
    def temporary_open(self) -> bool:
        return self.temporary and self.done_at is not None and self.made_good_at is None


class PartIssue(models.Model):
    """Parts that went from a drawer into a job, at what they cost then."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="issues")
    item = models.ForeignKey(StockItem, on_delete=models.PROTECT, related_name="issues")
    quantity = models.PositiveIntegerField()
    cost = models.DecimalField(max_digits=12, decimal_places=2)
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    returned_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.CheckConstraint(condition=Q(quantity__gte=1), name="issue_at_least_one")]

    def __str__(self) -> str:
        return f"{self.quantity} × {self.item}"


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
