"""What the bank says came in and went out, and for which sales it was."""

from decimal import Decimal
from typing import Any

from django.db import models
from django.db.models import F, Q, Sum
from django.db.models.functions import Coalesce

from core.money import ZERO
from stations.people.models import Person
from stations.selling.models import Payment

# What of a line is booked on sales, by payments that stand.
_MONEY = models.DecimalField(max_digits=12, decimal_places=2)
_STANDING = Q(bookings__payment__posting__reversed_by=None)
_BOOKED = Coalesce(Sum("bookings__amount", filter=_STANDING), ZERO, output_field=_MONEY)


class BankFile(models.Model):
    """A statement that was taken in."""

    name = models.CharField(max_length=120)
    account = models.CharField(max_length=64)
    taken_in_at = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.name


class BankTable(models.Model):
    """A statement as CSV that waits for somebody to say how it is read. It goes once it is taken in."""

    name = models.CharField(max_length=120)
    text = models.TextField()
    uploaded_at = models.DateTimeField(db_index=True)
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.name


class BankLines(models.QuerySet[Any]):
    def with_booked(self) -> "BankLines":
        """Each with what of it is `booked` on sales."""
        return self.annotate(booked=_BOOKED)

    def to_place(self) -> "BankLines":
        """What came in of which nobody said yet what all of it was for, the oldest first."""
        lines = self.filter(amount__gt=0, aside="").with_booked()
        return lines.filter(amount__gt=F("booked")).order_by("day", "pk")


class BankLine(models.Model):
    """Money that came in (above 0) or went out of an account; the same one comes once, however often a file has it.
    `aside` says why it is for no sale, or what is left of it."""

    file = models.ForeignKey(BankFile, on_delete=models.PROTECT, related_name="lines")
    account = models.CharField(max_length=64)
    # Letter for letter: banks tell entries apart by small and large ones.
    reference = models.CharField(max_length=90, db_collation="utf8mb4_bin")
    day = models.DateField()
    amount = models.DecimalField(max_digits=12, decimal_places=2)
    who = models.TextField(blank=True)
    words = models.TextField(blank=True)
    aside = models.CharField(max_length=160, blank=True)
    aside_at = models.DateTimeField(null=True, blank=True)
    aside_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")

    objects = BankLines.as_manager()

    class Meta:
        ordering = ["-day", "-id"]
        indexes = [
            models.Index(fields=["aside", "day"], name="bank_line_aside"),
            models.Index(fields=["day"], name="bank_line_day"),
        ]
        constraints = [
            models.UniqueConstraint(fields=["account", "reference"], name="an_entry_of_the_bank_comes_once"),
            models.CheckConstraint(condition=~Q(amount=0), name="an_entry_of_the_bank_is_of_something"),
            models.CheckConstraint(
                condition=Q(aside="", aside_at__isnull=True) | Q(aside_at__isnull=False) & ~Q(aside=""),
                name="what_is_set_aside_has_its_time",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.day} {self.amount}"

    @property
    def rest(self) -> Decimal:
        """What of it is for no sale yet; of lines that were read `with_booked`."""
        return self.amount - self.booked  # type: ignore[attr-defined]


class BankBooking(models.Model):
    """A payment for a sale that a line of the bank was taken for, with so much of it; a line may be for several."""

    line = models.ForeignKey(BankLine, on_delete=models.PROTECT, related_name="bookings")
    payment = models.OneToOneField(Payment, on_delete=models.PROTECT, related_name="bank_booking")
    amount = models.DecimalField(max_digits=12, decimal_places=2)

    class Meta:
        ordering = ["id"]
        constraints = [models.CheckConstraint(condition=Q(amount__gt=0), name="a_bank_booking_is_of_something")]

    def __str__(self) -> str:
        return str(self.payment)
