"""What speaks for a machine besides its runs: starts and benchmarks."""

from django.db import models

from stations.people.models import Person
from stations.units.models import Unit


class StartTrial(models.Model):
    """One start of a machine, clean or not, and how it was."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="starts")
    when = models.DateTimeField()
    # By when it last had power; None: nobody can say.
    cold = models.BooleanField(null=True, default=None)
    closed = models.BooleanField("closed up", default=False)
    passed = models.BooleanField()
    words = models.CharField(max_length=200, blank=True)
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["when", "id"]

    def __str__(self) -> str:
        return f"{'clean' if self.passed else 'failed'} start of {self.unit}"


class Benchmark(models.Model):
    """Several runs of one test at one setting, before or after an upgrade."""

    class Moment(models.TextChoices):
        BEFORE = "before", "before"
        AFTER = "after", "after"

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="benchmarks")
    name = models.CharField("which test", max_length=60)
    setting = models.CharField("at which setting", max_length=80, blank=True)
    moment = models.CharField("when", max_length=6, choices=Moment)
    scores = models.BooleanField("more is better", default=False)
    by_hand = models.BooleanField("taken with a stopwatch", default=False)
    changed = models.CharField("what was changed since the runs before", max_length=160, blank=True)
    values = models.JSONField()
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.name} {self.moment}"
