"""The append-only book: every posting is a set of entries that sum to nothing."""

from typing import Any

from django.conf import settings
from django.db import models

from stations.common import clock


class EntryKind(models.TextChoices):
    PURCHASE = "purchase"
    CHARGE = "charge"
    ALLOCATION = "allocation"
    TRANSFER = "transfer"
    PART_ISSUED = "part_issued"
    PART_RETURNED = "part_returned"
    PART_RECOVERED = "part_recovered"
    LABOUR = "labour"
    FEE = "fee"
    POSTAGE = "postage"
    TAX = "tax"
    SALE = "sale"
    REFUND = "refund"
    CLAIM = "claim"
    WRITE_OFF = "write_off"
    PAYOUT = "payout"

    @property
    def words(self) -> str:
        return self.value.replace("_", " ")


class Account(models.TextChoices):
    """Where money stands. The first five hold cost; `account_id` says which lot, line, unit, drawer or single part.
    What a buyer owes stands under the sale."""

    LOT = "lot"
    LINE = "line"
    UNIT = "unit"
    STOCK = "stock"
    PART = "part"
    LOSS = "loss"
    CASH = "cash"
    OWN_LABOUR = "own_labour"
    TAX_OWED = "tax_owed"
    OWNER_OWED = "owner_owed"
    BUYER_OWES = "buyer_owes"


class Posting(models.Model):
    """One event in the books: when it was written, and the day on which it happened. A correction is a posting of its
    own that points at what it reverses."""

    when = models.DateTimeField(db_index=True)
    happened_on = models.DateField()
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    document = models.CharField(max_length=200)
    reverses = models.OneToOneField("self", null=True, blank=True, on_delete=models.PROTECT, related_name="reversed_by")

    class Meta:
        ordering = ["when", "id"]

    def __str__(self) -> str:
        return self.document

    @property
    def typed_later(self) -> bool:
        """Whether it was written on another day than that on which it happened."""
        return clock.day_of(self.when) != self.happened_on


class LedgerEntry(models.Model):
    """One leg of a posting, in base currency; above 0 is cost standing there (or cash coming in)."""

    posting = models.ForeignKey(Posting, on_delete=models.PROTECT, related_name="entries")
    account = models.CharField(max_length=12, choices=Account)
    account_id = models.BigIntegerField(default=0)
    lot_id = models.BigIntegerField(null=True, blank=True)
    kind = models.CharField(max_length=16, choices=EntryKind)
    amount = models.DecimalField(max_digits=14, decimal_places=2)
    # That of its posting: what a period came to is asked of the entries.
    happened_on = models.DateField()

    class Meta:
        indexes = [
            models.Index(fields=["account", "account_id", "kind", "amount"], name="entry_by_account"),
            models.Index(fields=["lot_id", "account", "kind", "amount"], name="entry_by_lot"),
            models.Index(fields=["happened_on"], name="entry_by_day"),
        ]
        constraints = [models.CheckConstraint(condition=~models.Q(amount=0), name="entry_is_not_nothing")]
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.account} {self.account_id}: {self.amount}"

    def save(self, *args, **kwargs):
        if self.pk is not None:
            raise TypeError("The ledger is append-only: post a reversal instead.")
        super().save(*args, **kwargs)

    def delete(self, *args, **kwargs):
        raise TypeError("The ledger is append-only: post a reversal instead.")


class Reversibles(models.QuerySet[Any]):
    def standing(self) -> "Reversibles":
        """Without those that were taken back."""
        return self.filter(posting__reversed_by=None)


class Reversible(models.Model):
    """A document with a `posting`, which is reversed where it was a mistake."""

    objects = Reversibles.as_manager()

    class Meta:
        abstract = True

    @property
    def taken_back(self) -> Posting | None:
        """What reversed it."""
        return getattr(getattr(self, "posting", None), "reversed_by", None)
