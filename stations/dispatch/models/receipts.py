"""Receipts, invoices and credit notes: numbered without gaps within a year, kept as they were issued."""

from django.db import models
from django.db.models import Q

from core.selling.receipt import ReceiptKind, number_words
from stations.people.models import Person, TaxScheme
from stations.selling.models import Sale


class ReceiptSeries(models.Model):
    """The last number given out in a year; whoever takes the next waits here."""

    year = models.PositiveSmallIntegerField(unique=True)
    last = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return number_words(self.year, self.last)


class Receipt(models.Model):
    """One paper for a buyer, as it was issued; `credits` is what a credit note takes back, whole or in part."""

    year = models.PositiveSmallIntegerField()
    number = models.PositiveIntegerField()
    kind = models.CharField(max_length=8, choices=[(kind.value, kind.label) for kind in ReceiptKind])
    credits = models.ForeignKey("self", null=True, blank=True, on_delete=models.PROTECT, related_name="credited_by")
    buyer = models.TextField("for whom", max_length=400, blank=True)
    shop = models.TextField(max_length=500, blank=True)
    total = models.DecimalField(max_digits=10, decimal_places=2)
    tax = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    tax_percent = models.DecimalField(max_digits=5, decimal_places=2, null=True, blank=True)
    tax_scheme = models.CharField(max_length=10, choices=TaxScheme, blank=True)
    note = models.CharField(max_length=200, blank=True)
    thanks = models.CharField(max_length=200, blank=True)
    issued_at = models.DateTimeField()
    issued_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    wiped_at = models.DateTimeField(null=True, blank=True, editable=False)

    class Meta:
        ordering = ["-year", "-number"]
        constraints = [
            models.UniqueConstraint(fields=["year", "number"], name="a_receipt_has_a_number_of_its_own"),
            models.CheckConstraint(condition=Q(number__gte=1), name="receipts_begin_at_1"),
            models.CheckConstraint(
                condition=Q(kind="credit", credits__isnull=False, total__lte=0)
                | Q(credits__isnull=True, total__gte=0) & ~Q(kind="credit"),
                name="a_credit_note_takes_back",
            ),
            models.CheckConstraint(
                condition=Q(tax__isnull=True) | Q(tax_scheme="standard"), name="no_tax_line_on_a_margin"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} {self.code}"

    @property
    def code(self) -> str:
        return number_words(self.year, self.number)

    @property
    def net(self):
        """What is left without the tax that is shown; None where none is."""
        return None if self.tax is None else self.total - self.tax


class ReceiptLine(models.Model):
    """One thing on a receipt; `first_for` marks the one receipt of a sale, which there is once."""

    receipt = models.ForeignKey(Receipt, on_delete=models.PROTECT, related_name="lines")
    sale = models.ForeignKey(Sale, on_delete=models.PROTECT, related_name="receipt_lines")
    first_for = models.OneToOneField(Sale, null=True, blank=True, on_delete=models.PROTECT, related_name="receipt_line")
    words = models.CharField(max_length=200)
    amount = models.DecimalField(max_digits=10, decimal_places=2)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.words}: {self.amount}"
