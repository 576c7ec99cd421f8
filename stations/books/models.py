"""Periods that were taxed as a whole, and units that were taken out of that."""

from django.db import models
from django.db.models import F, Q

from core.books.tax import Period
from stations.ledger.models import Posting
from stations.people.models import Person
from stations.units.models import Unit


class TaxPeriod(models.Model):
    """A period of global accounting that was closed: its figures as they were then, never changed."""

    first = models.DateField(unique=True)
    after = models.DateField()
    sales = models.DecimalField(max_digits=12, decimal_places=2)
    purchases = models.DecimalField(max_digits=12, decimal_places=2)
    carried_in = models.DecimalField(max_digits=12, decimal_places=2)
    margin = models.DecimalField(max_digits=12, decimal_places=2)
    percent = models.DecimalField(max_digits=5, decimal_places=2)
    tax = models.DecimalField(max_digits=12, decimal_places=2)
    carried_out = models.DecimalField(max_digits=12, decimal_places=2)
    closed_at = models.DateTimeField()
    closed_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["first"]
        constraints = [
            models.CheckConstraint(condition=Q(after__gt=F("first")), name="a_period_has_days"),
            models.CheckConstraint(
                condition=Q(tax__gte=0) & Q(carried_in__lte=0) & Q(carried_out__lte=0), name="a_loss_is_carried_on"
            ),
        ]

    def __str__(self) -> str:
        return f"tax from {self.first}"

    @property
    def words(self) -> str:
        return Period(self.first, self.after).words


class TakenOutOfGlobal(models.Model):
    """A unit that is taxed by itself: its purchase is taken off again, in the period in which that was said."""

    unit = models.OneToOneField(Unit, on_delete=models.PROTECT, related_name="taken_out_of_global")
    purchase = models.DecimalField(max_digits=10, decimal_places=2)
    why = models.CharField(max_length=200)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [models.CheckConstraint(condition=~Q(why=""), name="taken_out_for_a_reason")]

    def __str__(self) -> str:
        return f"{self.unit.tag}: {self.why}"
