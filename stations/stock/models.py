"""Parts in drawers, and what is known to be good and stands in for what is suspected."""

from django.db import models
from django.db.models import Q

from stations.common.models import Versioned


class StockItem(Versioned):
    """A kind of part in a drawer; what it is worth stands in the ledger."""

    class Condition(models.TextChoices):
        NEW = "new", "new"
        OLD_STOCK = "old_stock", "new old stock"
        TESTED = "tested", "used, tested"
        UNTESTED = "untested", "used, not tested"

    name = models.CharField(max_length=80)
    condition = models.CharField(max_length=10, choices=Condition, default=Condition.NEW)
    drawer = models.CharField(max_length=20, blank=True)
    quantity = models.PositiveIntegerField(default=0, editable=False)
    modern = models.BooleanField("modern part, not of the machine’s time", default=False)
    keeps_data = models.BooleanField("used storage: may hold somebody’s data", default=False)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.CheckConstraint(condition=Q(quantity__gte=0), name="stock_never_below_0"),
            models.UniqueConstraint(fields=["name", "condition"], name="stock_item_once"),
        ]

    def __str__(self) -> str:
        return self.name


class KnownGood(models.Model):
    """A part, fixture or test machine that stands in for a suspected one; it must itself be shown to be good."""

    class Kind(models.TextChoices):
        PART = "part", "part"
        FIXTURE = "fixture", "fixture"
        MACHINE = "machine", "test machine"

    name = models.CharField(max_length=60, unique=True)
    kind = models.CharField(max_length=8, choices=Kind, default=Kind.PART)
    stands_in = models.CharField("stands in for", max_length=30)
    place = models.CharField(max_length=40, blank=True)
    verified_on = models.DateField("last shown to be good", null=True, blank=True)
    shows_colour = models.BooleanField("a screen: shows colour", null=True, blank=True)
    signals = models.CharField("a screen: signals it shows, with semicolons", max_length=300, blank=True)
    bad_since = models.DateTimeField("found bad", null=True, blank=True, editable=False)
    bad_words = models.CharField(max_length=160, blank=True, editable=False)
    uses = models.PositiveIntegerField("used since", default=0, editable=False)

    class Meta:
        ordering = ["stands_in", "name"]

    def __str__(self) -> str:
        return self.name

    @property
    def is_screen(self) -> bool:
        return self.stands_in == "screen"
