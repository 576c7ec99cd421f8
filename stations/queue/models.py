"""Work that is done outside of requests."""

from django.db import models
from django.db.models import Q

from stations.people.models import Person


class WorkerSeen(models.Model):
    """When a worker last asked for work: one row, whichever worker it was."""

    row = models.PositiveSmallIntegerField(primary_key=True, default=1)
    at = models.DateTimeField()

    class Meta:
        constraints = [models.CheckConstraint(condition=Q(row=1), name="workers_are_seen_in_one_row")]

    def __str__(self) -> str:
        return f"seen at {self.at}"


class QueuedWork(models.Model):
    """One thing to do: of a registered kind, with what it is about. Claimed by a worker for as long as its lease runs;
    what a worker left undone is claimed again when that is over."""

    class State(models.TextChoices):
        WAITING = "waiting", "waits"
        CLAIMED = "claimed", "being done"
        DONE = "done", "done"
        FAILED = "failed", "given up"

    kind = models.CharField(max_length=40)
    about = models.JSONField(default=dict)
    state = models.CharField(max_length=8, choices=State, default=State.WAITING)
    tries = models.PositiveSmallIntegerField(default=0)
    due_at = models.DateTimeField()
    claimed_by = models.CharField(max_length=64, blank=True)
    lease_until = models.DateTimeField(null=True, blank=True)
    error = models.CharField(max_length=300, blank=True)
    put_at = models.DateTimeField()
    put_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    ended_at = models.DateTimeField(null=True, blank=True)
    # What is queued once however often it is asked for, until it ended.
    once = models.CharField(max_length=80, null=True, blank=True, unique=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["state", "due_at"], name="work_to_claim")]
        constraints = [
            models.CheckConstraint(
                condition=~Q(state="claimed") | (Q(lease_until__isnull=False) & ~Q(claimed_by="")),
                name="claimed_work_has_a_lease",
            ),
            models.CheckConstraint(
                condition=Q(state__in=["waiting", "claimed"]) | Q(once__isnull=True, ended_at__isnull=False),
                name="ended_work_can_be_queued_again",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.kind} ({self.get_state_display()})"

    @property
    def given_up(self) -> bool:
        return self.state == self.State.FAILED

    @property
    def ended(self) -> bool:
        return self.state in {self.State.DONE, self.State.FAILED}
