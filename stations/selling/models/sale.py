"""What was sold, to whom and for what."""

from django.db import models
from django.db.models import Q

from stations.ledger.models import Posting
from stations.selling.models.market import Channel
from stations.units.models import Unit


class Sale(models.Model):
    """What a unit sold for, once."""

    unit = models.OneToOneField(Unit, on_delete=models.PROTECT, related_name="sale")
    channel = models.ForeignKey(Channel, on_delete=models.PROTECT, related_name="sales")
    price = models.DecimalField(max_digits=10, decimal_places=2)
    fee = models.DecimalField(max_digits=10, decimal_places=2)
    postage = models.DecimalField(max_digits=10, decimal_places=2)
    tax = models.DecimalField(max_digits=10, decimal_places=2)
    buyer = models.CharField(max_length=120)
    sold_at = models.DateTimeField()
    sent_at = models.DateTimeField(null=True, blank=True)
    tracking = models.CharField(max_length=60, blank=True)
    closed_at = models.DateTimeField(null=True, blank=True)
    # How a marketplace calls it, and what it has paid out for it.
    remote = models.CharField(max_length=64, blank=True, editable=False)
    paid_out = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    bundle = models.ForeignKey("Bundle", null=True, blank=True, on_delete=models.PROTECT, related_name="sales")
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=Q(price__gt=0) & Q(fee__gte=0) & Q(postage__gte=0) & Q(tax__gte=0), name="sale_amounts"
            )
        ]

    def __str__(self) -> str:
        return f"{self.unit} sold for {self.price}"
