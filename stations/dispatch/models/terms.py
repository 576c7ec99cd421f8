"""What is agreed with every buyer, and what stands on every receipt."""

from decimal import Decimal

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from core.books.tax import PeriodLength
from core.selling.grade import Grade
from stations.common.models import Versioned

DAYS = [MaxValueValidator(3650, "Ten years at most.")]
# Days of warranty that a new shop begins with (ours to choose; law may want more).
BEGIN_WITH = {Grade.A: 180, Grade.B: 180, Grade.C: 90, Grade.D: 30, Grade.E: 14, Grade.UNTESTED: 0, Grade.PARTS: 0}


def _days(grade: Grade) -> models.PositiveSmallIntegerField:
    words = f"warranty of grade {grade.label}, days" if len(grade.label) == 1 else f"warranty {grade.label}, days"
    return models.PositiveSmallIntegerField(words, default=BEGIN_WITH[grade], validators=DAYS)


class SaleTerms(Versioned):
    """The one row of terms."""

    address = models.TextField("name and address of the shop", max_length=400, blank=True)
    tax_number = models.CharField("tax number", max_length=40, blank=True)
    note_none = models.CharField("said of tax where none is due", max_length=200, default="No tax is charged.")
    note_standard = models.CharField("where it is within the price", max_length=200, default="Tax is within the price.")
    note_margin = models.CharField(
        "where it is on the margin", max_length=200, default="Margin scheme, second-hand goods: no tax is shown."
    )
    thanks = models.CharField("at the foot of every receipt", max_length=200, blank=True)
    warranty_a = _days(Grade.A)
    warranty_b = _days(Grade.B)
    warranty_c = _days(Grade.C)
    warranty_d = _days(Grade.D)
    warranty_e = _days(Grade.E)
    warranty_untested = _days(Grade.UNTESTED)
    warranty_parts = _days(Grade.PARTS)
    withdrawal = models.PositiveSmallIntegerField(
        "days in which it may be given back without a reason", default=14, validators=DAYS
    )
    wipe_after = models.PositiveSmallIntegerField(
        "days after closing until who bought it is wiped",
        default=1095,
        validators=[MinValueValidator(30, "At least 30: a return may still come."), *DAYS],
    )
    two_boxes_from = models.DecimalField(
        "worth so much, it goes into two boxes",
        max_digits=8,
        decimal_places=2,
        default=Decimal("300.00"),
        validators=[MinValueValidator(Decimal(0))],
    )
    global_since = models.DateField("global accounting since", null=True, blank=True)
    period = models.CharField(
        "period of global accounting",
        max_length=8,
        choices=[(one.value, one.value) for one in PeriodLength],
        default=PeriodLength.QUARTER.value,
    )

    class Meta:
        constraints = [models.CheckConstraint(condition=Q(wipe_after__gte=30), name="buyers_are_kept_a_while")]

    def __str__(self) -> str:
        return "terms of sale"

    @property
    def nobody_said(self) -> bool:
        """No owner of this shop looked through them yet."""
        return self.version == 1

    @property
    def promises(self) -> str:
        """What every buyer is promised, in words."""
        days = [getattr(self, f"warranty_{grade.value.lower()}") for grade in Grade]
        least, most = min(days), max(days)
        warranty = f"{most} days" if least == most else f"{least} to {most} days, by grade"
        return f"warranty: {warranty}; given back without a reason: {self.withdrawal} days"

    def warranty(self, grade: str) -> int:
        """Days of warranty of a grade; 0 for what was never graded."""
        return getattr(self, f"warranty_{grade.lower()}", 0) if grade else 0
