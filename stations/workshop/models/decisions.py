"""Decisions to go on or to stop."""

from django.db import models
from django.db.models import Q

from stations.people.models import Person
from stations.units.models import Unit


class StopDecision(models.Model):
    """What was decided about a unit in hand, and on which figures: in base currency, None where nobody could say.
    `ask_at` is when it is asked again, after going on without a result."""

    class What(models.TextChoices):
        GO = "go", "go on"
        STOP = "stop", "stop, sell it as it stands"
        PARTS = "parts", "stop, take it for parts"
        PARK = "park", "park it"

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="stop_decisions")
    about = models.CharField("what was in hand", max_length=120)
    # Of the job or fault that was in hand: "job:12", "fault:3".
    of = models.CharField(max_length=30)
    what = models.CharField(max_length=5, choices=What)
    stop = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    go = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    minutes_gone = models.PositiveIntegerField()
    ask_at = models.DateTimeField(null=True, blank=True)
    words = models.CharField("why", max_length=160, blank=True)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["ask_at"], name="asked_again_at")]
        constraints = [
            models.CheckConstraint(condition=Q(ask_at__isnull=True) | Q(what="go"), name="asked_again_after_going_on"),
        ]

    def __str__(self) -> str:
        return f"{self.get_what_display()}: {self.about}"
