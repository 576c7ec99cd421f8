"""What was sold, to whom and for what; what was paid for it."""

from decimal import Decimal

from django.db import models
from django.db.models import F, Q

from stations.ledger.models import Posting, Reversible
from stations.people.models import Person, TaxScheme
from stations.selling.models.market import Channel, Comparable
from stations.units.models import Unit


class Sale(models.Model):
    """What a unit sold for. A unit has one that stands (`open_for`); one that was called off or taken back stays in
    the record, and it can be sold again."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="sales")
    open_for = models.OneToOneField(Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="sale")
    channel = models.ForeignKey(Channel, on_delete=models.PROTECT, related_name="sales")
    price = models.DecimalField(max_digits=10, decimal_places=2)
    fee = models.DecimalField(max_digits=10, decimal_places=2)
    postage = models.DecimalField(max_digits=10, decimal_places=2)
    tax = models.DecimalField(max_digits=10, decimal_places=2)
    # The scheme it was taxed under, and what counted as bought for; not known of a sale from before that was kept.
    tax_scheme = models.CharField(max_length=10, choices=TaxScheme, blank=True, editable=False)
    tax_percent = models.DecimalField(max_digits=5, decimal_places=2, default=Decimal("0.00"), editable=False)
    tax_basis = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    buyer = models.CharField(max_length=120, blank=True)
    sold_at = models.DateTimeField()
    sent_at = models.DateTimeField(null=True, blank=True)
    tracking = models.CharField(max_length=60, blank=True)
    closed_at = models.DateTimeField(null=True, blank=True)
    # Its grade, what its buyer was told and what was shown to work, as it stood when it was sold.
    grade = models.CharField(max_length=10, blank=True, editable=False)
    # What was promised then, in days from its arrival: the terms of later sales are others’.
    warranty_days = models.PositiveSmallIntegerField(default=0, editable=False)
    withdrawal_days = models.PositiveSmallIntegerField(default=0, editable=False)
    told = models.JSONField(default=list, blank=True, editable=False)
    # How a marketplace calls it, and what it has paid out for it.
    remote = models.CharField(max_length=64, blank=True, editable=False)
    paid_out = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    bundle = models.ForeignKey("Bundle", null=True, blank=True, on_delete=models.PROTECT, related_name="sales")
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    # What came in for it less what was paid back, and what was taken off its price; the book says the same. One from
    # before payments were kept was posted as paid.
    on_account = models.BooleanField(default=True, editable=False)
    paid = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal("0.00"), editable=False)
    refunded = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal("0.00"), editable=False)
    # What its channel gave back of its fee.
    fee_back = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal("0.00"), editable=False)
    # Of a thing on commission: what of the price is its owner’s, what of that went back with refunds, what was paid.
    owners_part = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal("0.00"), editable=False)
    owner_back = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal("0.00"), editable=False)
    owner_paid = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal("0.00"), editable=False)
    # When it was called off or the thing was taken back, and why.
    ended_at = models.DateTimeField(null=True, blank=True, editable=False)
    ended_words = models.CharField(max_length=200, blank=True, editable=False)
    # What others of its kind are compared with, while it counts as a sale.
    comparable = models.OneToOneField(
        Comparable, null=True, blank=True, on_delete=models.SET_NULL, related_name="+", editable=False
    )
    wiped_at = models.DateTimeField(null=True, blank=True, editable=False)

    class Meta:
        ordering = ["id"]
        indexes = [
            models.Index(fields=["sent_at"], name="sale_sent"),
            models.Index(fields=["closed_at", "wiped_at"], name="sale_closed"),
            models.Index(fields=["sold_at"], name="sale_sold"),
        ]
        constraints = [
            models.CheckConstraint(
                condition=Q(price__gt=0) & Q(fee__gte=0) & Q(postage__gte=0) & Q(tax__gte=0), name="sale_amounts"
            ),
            models.CheckConstraint(
                condition=Q(paid__gte=0) & Q(refunded__gte=0) & Q(price__gte=F("paid") + F("refunded")),
                name="no_more_is_paid_than_it_costs",
            ),
            models.CheckConstraint(
                condition=Q(fee_back__gte=0) & Q(fee__gte=F("fee_back")),
                name="no_more_of_a_fee_comes_back_than_was_kept",
            ),
            models.CheckConstraint(
                condition=Q(owner_back__gte=0, owner_paid__gte=0)
                & Q(owners_part__gte=F("owner_back"))
                & Q(owners_part__gte=F("owner_paid"))
                & Q(price__gte=F("owners_part")),
                name="no_owner_gets_more_than_is_due",
            ),
            models.CheckConstraint(
                condition=Q(open_for__isnull=False, open_for=F("unit"), ended_at__isnull=True)
                | Q(open_for__isnull=True, ended_at__isnull=False),
                name="a_sale_stands_or_ended",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.unit} sold for {self.price}"

    @property
    def costs(self) -> Decimal:
        """What the buyer has to pay in all, after refunds."""
        return self.price - self.refunded

    @property
    def fee_kept(self) -> Decimal:
        """What its channel keeps of it in all."""
        return self.fee - self.fee_back

    @property
    def passed_on(self) -> Decimal:
        """What a channel that takes the money pays out for it."""
        return self.costs - self.fee_kept

    @property
    def owner_due(self) -> Decimal:
        """What its owner still has to be paid; below 0: what was paid too much."""
        return self.owners_part - self.owner_back - self.owner_paid

    @property
    def owed(self) -> Decimal:
        """What the buyer still has to pay."""
        return self.costs - self.paid

    @property
    def stands(self) -> bool:
        return self.ended_at is None

    @property
    def buyer_words(self) -> str:
        """Who bought it, or that this was wiped."""
        return self.buyer or "a buyer whose name was wiped"


class Payment(Reversible):
    """Money that came in for a sale, whole or in part."""

    class How(models.TextChoices):
        TRANSFER = "transfer", "bank transfer"
        CASH = "cash", "cash"
        CARD = "card", "card"
        CHANNEL = "channel", "paid out by the channel"

    sale = models.ForeignKey(Sale, on_delete=models.PROTECT, related_name="payments")
    amount = models.DecimalField(max_digits=10, decimal_places=2)
    how = models.CharField("how it was paid", max_length=8, choices=How, default=How.TRANSFER)
    came_at = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [models.CheckConstraint(condition=Q(amount__gt=0), name="a_payment_is_of_something")]

    def __str__(self) -> str:
        return f"{self.amount} for {self.sale.unit.tag}"

    @property
    def may_be_taken_back(self) -> bool:
        """What a marketplace said is put right there."""
        told = self.how == self.How.CHANNEL and self.sale.paid_out is not None
        return self.taken_back is None and not told


class FeeChange(models.Model):
    """A channel kept another fee than was reckoned with: more of it, or less (below 0)."""

    sale = models.ForeignKey(Sale, on_delete=models.PROTECT, related_name="fee_changes")
    amount = models.DecimalField(max_digits=10, decimal_places=2)
    why = models.CharField(max_length=120)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [models.CheckConstraint(condition=~Q(amount=0), name="a_fee_changes_by_something")]

    def __str__(self) -> str:
        return f"{self.amount} of fee for {self.sale.unit.tag}"
