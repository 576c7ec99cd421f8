"""Channels, comparables, grades, listings and sales."""

from decimal import Decimal

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from core.selling.grade import Grade
from stations.catalogue.models import MachineModel
from stations.common.currency import base_currency
from stations.common.models import Versioned
from stations.ledger.models import Posting
from stations.people.models import Person
from stations.units.models import Unit

GRADES = [(g.value, g.label) for g in Grade]
NOT_NEGATIVE = [MinValueValidator(Decimal(0), "This may not be below 0.")]


class Channel(models.Model):
    """Where things are sold, and what it keeps."""

    name = models.CharField(max_length=60, unique=True)
    fee_percent = models.DecimalField(max_digits=5, decimal_places=2, default=0)
    fee_fixed = models.DecimalField(max_digits=8, decimal_places=2, default=0)
    title_length = models.PositiveSmallIntegerField(default=80)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.CheckConstraint(
                condition=Q(fee_percent__range=(0, 100)) & Q(fee_fixed__gte=0), name="channel_fee_in_range"
            )
        ]

    def __str__(self) -> str:
        return self.name


class Comparable(models.Model):
    """A sale elsewhere, or our own: what somebody paid for one like it."""

    model = models.ForeignKey(MachineModel, on_delete=models.PROTECT, related_name="comparables")
    sold_on = models.DateField("sold on")
    grade = models.CharField("state, as a grade", max_length=10, choices=GRADES, default=Grade.B.value)
    completeness = models.PositiveSmallIntegerField(
        "completeness, %", default=100, validators=[MaxValueValidator(100, "From 0 to 100.")]
    )
    price = models.DecimalField(max_digits=10, decimal_places=2, validators=NOT_NEGATIVE)
    currency = models.CharField(max_length=3, default=base_currency)
    rate = models.DecimalField(
        "rate: one unit of it in our currency", max_digits=20, decimal_places=12, default=Decimal(1)
    )
    channel = models.CharField("where", max_length=60, blank=True)
    own = models.BooleanField("our own sale", default=False)
    # What it had of what buyers look for; None while nobody said.
    features = models.JSONField(null=True, blank=True, default=None)
    buyer = models.SlugField("sold to", max_length=40, blank=True)

    class Meta:
        ordering = ["-sold_on", "-id"]
        indexes = [models.Index(fields=["model", "sold_on"])]
        constraints = [
            models.CheckConstraint(condition=Q(price__gte=0) & Q(rate__gt=0), name="comparable_price_and_rate"),
            models.CheckConstraint(condition=Q(completeness__lte=100), name="comparable_completeness_to_100"),
        ]

    def __str__(self) -> str:
        return f"{self.model}, {self.sold_on}: {self.price} {self.currency}"


class UnitGrade(models.Model):
    """A grade as it was given, with the evidence it rested on. The newest counts."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="grades")
    grade = models.CharField(max_length=10, choices=GRADES)
    before_caps = models.CharField(max_length=10, choices=GRADES)
    total = models.PositiveSmallIntegerField()
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["unit"])]

    def __str__(self) -> str:
        return f"{self.unit}: {self.grade}"


class Listing(Versioned):
    """The offer of one unit: price, words, and whether it is on show."""

    class Status(models.TextChoices):
        DRAFT = "draft", "draft"
        LIVE = "live", "on offer"
        ENDED = "ended", "ended"
        SOLD = "sold", "sold"

    unit = models.OneToOneField(Unit, on_delete=models.PROTECT, related_name="listing")
    channel = models.ForeignKey(Channel, on_delete=models.PROTECT, related_name="listings")
    asking = models.DecimalField(
        "asking price", max_digits=10, decimal_places=2, null=True, blank=True, validators=NOT_NEGATIVE
    )
    floor = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    below_floor_reason = models.CharField("why under the floor", max_length=200, blank=True)
    title = models.CharField(max_length=120, blank=True)
    text = models.TextField(max_length=6000, blank=True)
    status = models.CharField(max_length=6, choices=Status, default=Status.DRAFT)
    published_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        indexes = [models.Index(fields=["status", "published_at"])]
        constraints = [
            models.CheckConstraint(
                condition=~Q(status="live") | Q(asking__isnull=False, asking__gt=0), name="no_listing_without_a_price"
            ),
        ]

    @property
    def is_live(self) -> bool:
        """On offer now."""
        return self.status == self.Status.LIVE

    @property
    def is_sold(self) -> bool:
        return self.status == self.Status.SOLD

    def __str__(self) -> str:
        return self.title or str(self.unit)


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
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=Q(price__gt=0) & Q(fee__gte=0) & Q(postage__gte=0) & Q(tax__gte=0), name="sale_amounts"
            )
        ]

    def __str__(self) -> str:
        return f"{self.unit} sold for {self.price}"
