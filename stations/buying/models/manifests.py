"""Manifests that were uploaded: kept as they came until they are confirmed, and to notice the same one twice."""

from django.db import models
from django.db.models import Q

from stations.buying.models.lots import Lot
from stations.buying.models.plans import BidPlan
from stations.people.models import Person


class Manifest(models.Model):
    lot = models.ForeignKey(Lot, null=True, blank=True, on_delete=models.CASCADE, related_name="manifests")
    plan = models.ForeignKey(BidPlan, null=True, blank=True, on_delete=models.CASCADE, related_name="manifests")
    name = models.CharField(max_length=120)
    sha256 = models.CharField(max_length=64, db_index=True)
    text = models.TextField()
    uploaded_at = models.DateTimeField()
    uploaded_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    imported_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=Q(lot__isnull=False, plan__isnull=True) | Q(lot__isnull=True, plan__isnull=False),
                name="manifest_of_a_lot_or_a_plan",
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def target(self) -> Lot | BidPlan:
        target = self.lot or self.plan
        if target is None:
            raise ValueError("A manifest belongs to a lot or to a plan.")
        return target
