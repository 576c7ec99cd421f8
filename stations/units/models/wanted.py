"""Parts that are wanted for a unit beside what belongs with it."""

from decimal import Decimal

from django.db import models
from django.db.models import Q

from stations.people.models import Person
from stations.units.models.unit import Unit


class WantedPart(models.Model):
    """So many of a kind of part are wanted for a unit, by the name drawers and orders call it. `asked`: whoever ordered
    it was asked whether more is to be spent than it adds."""

    # How much it matters beside what is missing, as `Content` has it, and what nobody estimated.
    weight = 1
    estimate = Decimal(0)
    is_wrong = False

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="wanted_parts")
    name = models.CharField(max_length=80)
    quantity = models.PositiveSmallIntegerField(default=1)
    why = models.CharField(max_length=120, blank=True)
    asked = models.BooleanField(default=False, editable=False)
    since = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    got_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["since", "id"]
        indexes = [models.Index(fields=["got_at", "name"], name="wanted_part_open")]
        constraints = [models.CheckConstraint(condition=Q(quantity__gte=1), name="want_at_least_one")]

    def __str__(self) -> str:
        return f"{self.name} for {self.unit.tag}"
