"""What buyers want to give back, what the record says of it, and what was paid back."""

from decimal import Decimal

from django.db import models
from django.db.models import Q

from core.flow.awaited import is_late
from core.selling.disclosure import DisclosureKind
from core.selling.taking_back import Reason, What, Whose
from stations.common import clock
from stations.dispatch.models.receipts import Receipt
from stations.ledger.models import Posting, Reversible
from stations.people.models import Person
from stations.selling.models import Sale


class Return(models.Model):
    """A return from being asked for to being settled; one at a time for a sale (`open_for`)."""

    sale = models.ForeignKey(Sale, on_delete=models.PROTECT, related_name="returns")
    open_for = models.OneToOneField(Sale, null=True, blank=True, on_delete=models.PROTECT, related_name="return_open")
    reason = models.CharField("why", max_length=12, choices=[(reason.value, reason.label) for reason in Reason])
    words = models.TextField("in the buyer’s words", max_length=1000, blank=True)
    # What of that which was told it is about: [what, kind, words] of Sale.told; nothing: nothing of it.
    about = models.JSONField(null=True, blank=True)
    asked_at = models.DateTimeField()
    asked_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    whose = models.CharField(max_length=8, choices=[(one.value, one.label) for one in Whose], blank=True)
    received_at = models.DateTimeField(null=True, blank=True)
    # Not taken back, it goes to its buyer again: when, and how, by carrier and number or who fetched it.
    went_back_at = models.DateTimeField(null=True, blank=True)
    went_back_by = models.CharField("how it went back", max_length=120, blank=True)
    settled_at = models.DateTimeField(null=True, blank=True)
    settled_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    taken_back = models.BooleanField("the thing was taken back", default=False)
    # Which sentence would have told it, and what there is to learn.
    missing = models.CharField(
        "what should have been said",
        max_length=20,
        choices=[(kind.value, kind.label) for kind in DisclosureKind],
        blank=True,
    )
    lesson = models.CharField(max_length=300, blank=True)
    # What it cost us over and above what was paid back: the way back, and the work.
    warranty = models.BooleanField("it counts as warranty", default=False)
    cost = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal("0.00"))
    # Parts and labour that were booked on it while it was here: in the books already.
    mending = models.DecimalField("mending it", max_digits=10, decimal_places=2, default=Decimal("0.00"))
    cost_posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["settled_at", "asked_at"], name="return_settled")]
        constraints = [
            models.CheckConstraint(
                condition=Q(open_for__isnull=False, settled_at__isnull=True)
                | Q(open_for__isnull=True, settled_at__isnull=False),
                name="a_return_is_open_or_settled",
            ),
            models.CheckConstraint(condition=Q(cost__gte=0), name="a_return_costs_0_or_more"),
            models.CheckConstraint(
                condition=Q(went_back_at__isnull=True) | Q(received_at__isnull=False, taken_back=False),
                name="only_what_is_here_goes_back",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.sale.unit.tag}: {self.get_reason_display()}"

    @property
    def is_open(self) -> bool:
        return self.settled_at is None

    @property
    def is_here(self) -> bool:
        """Whether it was received, and is still its buyer’s, to be taken back or to go back."""
        return self.is_open and self.received_at is not None and self.went_back_at is None

    @property
    def may_be_mended(self) -> bool:
        return Reason(self.reason).may_be_mended

    @property
    def awaited_long(self) -> bool:
        """Whether what was to be sent back should be here."""
        waits = self.is_open and self.received_at is None and self.comes_back
        return waits and is_late(clock.day_of(self.asked_at), clock.today())

    @property
    def comes_back(self) -> bool:
        return Reason(self.reason).comes_back

    @property
    def about_words(self) -> str:
        """What it is about, as it was told; empty for nothing of that."""
        return f"{What(self.about[0]).label}: {self.about[2]}" if self.about else ""


class Refund(Reversible):
    """What was taken off a price: of it `paid_back` went back to the buyer, the rest was not paid yet."""

    sale = models.ForeignKey(Sale, on_delete=models.PROTECT, related_name="refunds")
    back = models.ForeignKey(Return, null=True, blank=True, on_delete=models.PROTECT, related_name="refunds")
    amount = models.DecimalField(max_digits=10, decimal_places=2)
    paid_back = models.DecimalField(max_digits=10, decimal_places=2)
    fee_back = models.DecimalField("fee the channel gives back", max_digits=10, decimal_places=2)
    tax_back = models.DecimalField(max_digits=10, decimal_places=2)
    owner_back = models.DecimalField(max_digits=10, decimal_places=2)
    postage_back = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal("0.00"))
    why = models.CharField(max_length=200)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    credit = models.OneToOneField(Receipt, null=True, blank=True, on_delete=models.PROTECT, related_name="refund")
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["when"], name="refund_when")]
        constraints = [
            models.CheckConstraint(
                condition=Q(amount__gt=0) & Q(paid_back__gte=0) & Q(fee_back__gte=0), name="a_refund_is_of_something"
            )
        ]

    def __str__(self) -> str:
        return f"{self.amount} off {self.sale}"
