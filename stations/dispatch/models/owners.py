"""What owners of things sold on commission were paid of the price."""

from decimal import Decimal

from django.db import models
from django.db.models import Q

from stations.ledger.models import Posting, Reversible
from stations.people.models import Person
from stations.selling.models import Sale


class OwnerPayment(Reversible):
    """Money for the owner of what was sold, whole or in part; below 0 it came back, after a refund."""

    sale = models.ForeignKey(Sale, on_delete=models.PROTECT, related_name="owner_payments")
    amount = models.DecimalField(max_digits=10, decimal_places=2)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [models.CheckConstraint(condition=~Q(amount=0), name="an_owner_is_paid_something")]

    def __str__(self) -> str:
        return f"{self.amount} to the owner of {self.sale.unit.tag}"

    @property
    def off_what_is_due(self) -> Decimal:
        """What it does to what is still to be paid."""
        return -self.amount
