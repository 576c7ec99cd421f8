"""The shop's own checks, laid over those the application comes with, and its instruments."""

from decimal import Decimal

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator, RegexValidator
from django.db import models
from django.db.models import Q

from core.bench.checks import CheckKind, Group
from stations.catalogue.models import MachineModel
from stations.common.models import Versioned


class BenchCheck(Versioned):
    """A check of the shop's own, or its wording of one that comes with the application (by the same code)."""

    code = models.CharField(
        max_length=20,
        unique=True,
        validators=[RegexValidator(r"^[a-z0-9][a-z0-9-]*$", "Small letters, figures and -.")],
    )
    model = models.ForeignKey(
        MachineModel, null=True, blank=True, on_delete=models.PROTECT, related_name="checks", verbose_name="only for"
    )
    group = models.CharField(max_length=8, choices=[(g.value, g.label) for g in Group])
    title = models.CharField(max_length=60)
    instruction = models.CharField(max_length=400)
    why = models.CharField(max_length=200, blank=True)
    caution = models.CharField(max_length=300, blank=True)
    when = models.CharField("for which machines", max_length=120, blank=True)
    kind = models.CharField(max_length=8, choices=[(k.value, k.label) for k in CheckKind], default=CheckKind.DO.value)
    low = models.DecimalField(max_digits=12, decimal_places=4, null=True, blank=True)
    nominal = models.DecimalField(max_digits=12, decimal_places=4, null=True, blank=True)
    high = models.DecimalField(max_digits=12, decimal_places=4, null=True, blank=True)
    unit = models.CharField(max_length=6, blank=True)
    needs = models.CharField("needs", max_length=60, blank=True)
    gate = models.BooleanField("nothing further until it is passed", default=False)
    safety = models.BooleanField("a failure is a safety hold", default=False)
    minutes = models.PositiveSmallIntegerField("hands-on minutes", default=3, validators=[MaxValueValidator(600)])
    alone_minutes = models.PositiveSmallIntegerField("minutes alone", default=0, validators=[MaxValueValidator(6000)])
    active = models.BooleanField("in use", default=True)

    class Meta:
        ordering = ["code"]
        constraints = [
            models.CheckConstraint(
                condition=Q(low__isnull=True, high__isnull=True)
                | Q(low__isnull=False, high__isnull=False, high__gt=models.F("low")),
                name="check_limits_in_order",
                violation_error_message="Low and high limit go together, and high is above low.",
            ),
        ]

    def __str__(self) -> str:
        return self.title


class Instrument(models.Model):
    """A SCPI instrument on the bench, reached over TCP; its accuracy is a percentage of reading plus digits."""

    class Role(models.TextChoices):
        METER = "meter", "bench meter"
        LOAD = "load", "electronic load"
        READER = "reader", "POST code reader"

    STAND_IN = "stand-in"  # the host of an instrument of the simulated bench, whose ports are 1, 2 and 3

    name = models.CharField(max_length=40, unique=True)
    role = models.CharField("what it is", max_length=6, choices=Role)
    host = models.CharField(
        max_length=60,
        default="127.0.0.1",
        validators=[
            RegexValidator(r"^[A-Za-z0-9]([A-Za-z0-9.-]*[A-Za-z0-9])?$", "A host name or an address like 10.0.0.7.")
        ],
    )
    port = models.PositiveIntegerField(validators=[MinValueValidator(1), MaxValueValidator(65535)])
    percent = models.DecimalField(
        "accuracy, % of reading",
        max_digits=6,
        decimal_places=4,
        default=Decimal("0.05"),
        validators=[MinValueValidator(0)],
    )
    digits = models.PositiveSmallIntegerField("and digits", default=3)
    resolution = models.DecimalField("one digit is", max_digits=10, decimal_places=6, default=Decimal("0.001"))

    class Meta:
        ordering = ["role", "name"]
        constraints = [models.CheckConstraint(condition=Q(resolution__gt=0), name="a_digit_is_above_0")]

    def __str__(self) -> str:
        return self.name

    @property
    def is_meter(self) -> bool:
        return self.role == self.Role.METER

    @property
    def reached_at(self) -> tuple[str, int]:
        """Host and port; an instrument of the simulated bench is where that was started."""
        if self.host == self.STAND_IN:
            return "127.0.0.1", settings.STAND_IN_PORT + self.port - 1
        return self.host, self.port
