"""Manifests that were uploaded: kept as they came until they are confirmed, and to notice the same one twice."""

from django.db import models

from stations.buying.models.lots import Lot
from stations.people.models import Person


class Manifest(models.Model):
    lot = models.ForeignKey(Lot, on_delete=models.CASCADE, related_name="manifests")
    name = models.CharField(max_length=120)
    sha256 = models.CharField(max_length=64, db_index=True)
    text = models.TextField()
    uploaded_at = models.DateTimeField()
    uploaded_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    imported_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return self.name
