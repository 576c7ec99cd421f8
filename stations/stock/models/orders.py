"""Who sells what is wanted and at how much; what was ordered, and the parcels it comes in."""

from decimal import Decimal

from django.db import models
from django.db.models import Q

from core.flow.awaited import is_late
from core.stock.parcel import Rest
from stations.common import clock
from stations.common.currency import base_currency
from stations.common.models import Versioned
from stations.ledger.models import Posting
from stations.people.models import Person
from stations.stock.models.drawers import StockItem


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


class PartOrder(Versioned):
    """What was ordered from one seller, in `currency` at so much base currency each (`rate`), with postage and duty."""

    number = models.PositiveIntegerField(unique=True)
    seller = models.ForeignKey(PartSeller, on_delete=models.PROTECT, related_name="orders")
    ordered_on = models.DateField("ordered on")
    expected_on = models.DateField("expected on", null=True, blank=True)
    currency = models.CharField(max_length=3, default=base_currency)
    rate = models.DecimalField(max_digits=20, decimal_places=12, default=Decimal(1))
    postage = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal(0))
    duty = models.DecimalField(
        "customs and the like, base currency", max_digits=10, decimal_places=2, default=Decimal(0)
    )
    note = models.CharField(max_length=160, blank=True)
    ordered_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    arrived_at = models.DateTimeField(null=True, blank=True)
    arrived_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    # What becomes of what did not come with the parcel; empty where all of it came. Another parcel is another order.
    rest = models.CharField("the rest", max_length=6, blank=True, choices=[(one.value, one.label) for one in Rest])
    rest_of = models.ForeignKey("self", null=True, blank=True, on_delete=models.PROTECT, related_name="rests")
    called_off = models.CharField("why it was called off", max_length=160, blank=True)
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    landed = models.DecimalField(max_digits=12, decimal_places=2, default=Decimal(0), editable=False)

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.CheckConstraint(condition=Q(rate__gt=0), name="order_rate_above_0"),
            models.CheckConstraint(condition=Q(postage__gte=0, duty__gte=0), name="order_charges_never_below_0"),
            models.CheckConstraint(
                condition=Q(arrived_at__isnull=True) | Q(called_off=""), name="an_order_came_or_was_called_off"
            ),
            models.CheckConstraint(
                condition=Q(rest="") | Q(arrived_at__isnull=False), name="only_of_what_came_there_is_a_rest"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.code} from {self.seller}"

    @property
    def code(self) -> str:
        return f"O-{self.number:03d}"

    @property
    def is_open(self) -> bool:
        return self.arrived_at is None and not self.called_off

    @property
    def awaited_long(self) -> bool:
        """Whether it should be here."""
        return self.is_open and is_late(self.ordered_on, clock.today(), self.expected_on)


class OrderLine(models.Model):
    """So much of one kind of part, at what it costs each in the order's currency; `came` is None until the parcel is
    here. `want` is what it is called among what is wanted."""

    order = models.ForeignKey(PartOrder, on_delete=models.CASCADE, related_name="lines")
    item = models.ForeignKey(StockItem, on_delete=models.PROTECT, related_name="order_lines")
    want = models.CharField(max_length=160, blank=True)
    quantity = models.DecimalField(max_digits=12, decimal_places=3)
    each = models.DecimalField(max_digits=10, decimal_places=4)
    came = models.DecimalField(max_digits=12, decimal_places=3, null=True, blank=True)
    cost = models.DecimalField(max_digits=12, decimal_places=2, default=Decimal(0), editable=False)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=Q(quantity__gt=0), name="order_more_than_nothing"),
            models.CheckConstraint(condition=Q(each__gte=0), name="order_price_never_below_0"),
            models.CheckConstraint(condition=Q(came__isnull=True) | Q(came__gte=0), name="came_never_below_0"),
            models.UniqueConstraint(fields=["order", "item"], name="an_item_once_in_an_order"),
        ]

    def __str__(self) -> str:
        return f"{self.item.words(self.quantity)} {self.item}"
