"""Who sells what is wanted, at how much, and what a parcel from him costs."""

from django.db import models
from django.db.models import Q

from stations.people.models import Person


class PartSeller(models.Model):
    """Somebody who sells parts. `postage` of a parcel, None while nobody asked; none from goods worth `free_from`."""

    name = models.CharField("seller", max_length=60, unique=True)
    postage = models.DecimalField("postage of a parcel", max_digits=8, decimal_places=2, null=True, blank=True)
    free_from = models.DecimalField("free from", max_digits=8, decimal_places=2, null=True, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.CheckConstraint(condition=Q(postage__isnull=True) | Q(postage__gte=0), name="postage_never_below_0"),
            models.CheckConstraint(condition=Q(free_from__isnull=True) | Q(free_from__gte=0), name="free_from_0_up"),
        ]

    def __str__(self) -> str:
        return self.name


class PartOffer(models.Model):
    """Something wanted, at so much each; `most` he has (None: enough), `days` until it is here (None: nobody said)."""

    want = models.CharField("what", max_length=160)
    seller = models.ForeignKey(PartSeller, on_delete=models.CASCADE, related_name="offers")
    each = models.DecimalField("each", max_digits=8, decimal_places=2)
    most = models.PositiveSmallIntegerField("how many there are", null=True, blank=True)
    days = models.PositiveSmallIntegerField("days until it is here", null=True, blank=True)
    claim = models.CharField("what is said of it", max_length=120, blank=True)
    seen_at = models.DateTimeField()
    seen_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["want", "each", "id"]
        constraints = [
            models.UniqueConstraint(fields=["want", "seller"], name="one_offer_a_seller"),
            models.CheckConstraint(condition=Q(each__gte=0), name="offer_never_below_0"),
        ]

    def __str__(self) -> str:
        return f"{self.want} from {self.seller}"
