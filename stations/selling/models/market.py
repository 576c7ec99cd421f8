"""Where things are sold, and what they fetched."""

from decimal import Decimal

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from core.selling.grade import Grade
from core.selling.waiting import Ending
from stations.catalogue.models import MachineModel
from stations.common.currency import base_currency
from stations.common.models import Versioned
from stations.people.models import Person

GRADES = [(g.value, g.label) for g in Grade]
NOT_NEGATIVE = [MinValueValidator(Decimal(0), "This may not be below 0.")]


class Channel(Versioned):
    """Where things are sold, what it keeps, and how it is spoken to."""

    class Kind(models.TextChoices):
        HAND = "hand", "by hand"
        SHOP = "shop", "our public shop"
        MARKET = "market", "a marketplace, over the network"
        FAIR = "fair", "a fair, with printed cards"

    kind = models.CharField(max_length=6, choices=Kind, default=Kind.HAND)
    # Of a marketplace: where it answers, and the key it knows us by. “stand-in”: the simulated one.
    address = models.CharField(max_length=200, blank=True)
    key = models.CharField(max_length=200, blank=True)
    # Who connected it: what it does by itself is done in that name.
    set_up_by = models.ForeignKey(
        Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+", editable=False
    )
    # Up to where its news were read; when it was asked and when it answered last; what it said or did instead.
    read_to = models.PositiveBigIntegerField(default=0, editable=False)
    asked_at = models.DateTimeField(null=True, blank=True, editable=False)
    answered_at = models.DateTimeField(null=True, blank=True, editable=False)
    trouble = models.CharField(max_length=200, blank=True, editable=False)
    trouble_since = models.DateTimeField(null=True, blank=True, editable=False)
    name = models.CharField(max_length=60, unique=True)
    fee_percent = models.DecimalField(max_digits=5, decimal_places=2, default=Decimal(0))
    fee_fixed = models.DecimalField(max_digits=8, decimal_places=2, default=Decimal(0))
    title_length = models.PositiveSmallIntegerField(
        default=80, validators=[MinValueValidator(10, "At least 10."), MaxValueValidator(120, "120 at most.")]
    )
    text_length = models.PositiveSmallIntegerField(
        default=6000, validators=[MinValueValidator(500, "At least 500."), MaxValueValidator(6000, "6,000 at most.")]
    )
    price_ends = models.CharField("prices end", max_length=6, choices=Ending.LABELS, default=Ending.WHOLE)
    in_use = models.BooleanField("we sell there", default=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.CheckConstraint(
                condition=Q(fee_percent__range=(0, 100)) & Q(fee_fixed__gte=0), name="channel_fee_in_range"
            ),
            models.CheckConstraint(condition=~Q(kind="market") | ~Q(address=""), name="a_marketplace_has_an_address"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def pays_out(self) -> bool:
        """It takes what buyers pay, and passes it on less its fee."""
        return self.kind == self.Kind.MARKET

    @property
    def answers_itself(self) -> bool:
        """It is told and read over the network."""
        return self.kind == self.Kind.MARKET

    @property
    def is_shop(self) -> bool:
        return self.kind == self.Kind.SHOP

    @property
    def is_fair(self) -> bool:
        return self.kind == self.Kind.FAIR

    @property
    def by_hand(self) -> bool:
        """Somebody has to put things up there, and take them down."""
        return self.kind in {self.Kind.HAND, self.Kind.FAIR}


class ComparableFile(models.Model):
    """A file of sales elsewhere, as it came: looked at first, then taken in whole or not at all."""

    name = models.CharField(max_length=120)
    sha256 = models.CharField(max_length=64, db_index=True)
    text = models.TextField()
    uploaded_at = models.DateTimeField()
    uploaded_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    taken_in_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.name


class Comparable(models.Model):
    """A sale elsewhere, or our own: what somebody paid for one like it."""

    model = models.ForeignKey(MachineModel, on_delete=models.PROTECT, related_name="comparables")
    sold_on = models.DateField("sold on")
    grade = models.CharField("state, as a grade", max_length=10, choices=GRADES)
    # None where nobody said what was with it.
    completeness = models.PositiveSmallIntegerField(
        "completeness, %", null=True, blank=True, validators=[MaxValueValidator(100, "From 0 to 100.")]
    )
    price = models.DecimalField(max_digits=10, decimal_places=2, validators=NOT_NEGATIVE)
    currency = models.CharField(max_length=3, default=base_currency)
    rate = models.DecimalField(
        "rate: one unit of it in our currency", max_digits=20, decimal_places=12, default=Decimal(1)
    )
    channel = models.CharField("where", max_length=60, blank=True)
    # None while nobody said how it was sold, or what came on top for sending.
    auction = models.BooleanField("sold by auction", null=True, blank=True)
    postage = models.DecimalField(
        "postage on top", max_digits=8, decimal_places=2, null=True, blank=True, validators=NOT_NEGATIVE
    )
    words = models.CharField("in their words", max_length=400, blank=True)
    file = models.ForeignKey(
        "ComparableFile", null=True, blank=True, on_delete=models.PROTECT, related_name="sales", editable=False
    )
    own = models.BooleanField("our own sale", default=False)
    # What it had of what buyers look for; None while nobody said.
    features = models.JSONField(null=True, blank=True, default=None)
    # The kinds of what its buyer was told; None where that is not known.
    said = models.JSONField(null=True, blank=True, default=None, editable=False)
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
