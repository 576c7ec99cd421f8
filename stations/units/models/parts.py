"""Parts that are told apart, in a machine, in a drawer or gone; and what of a lot went into drawers."""

from decimal import Decimal

from django.db import models
from django.db.models import Q

from core.stock.parts import Condition, PartKind, data_words
from stations.buying.models import LotLine
from stations.common import clock
from stations.common.models import Versioned
from stations.ledger.models import Posting
from stations.people.models import Person
from stations.stock.models import CONDITIONS, KnownGood, StockItem
from stations.units.models.condition import Content
from stations.units.models.unit import Unit


class Part(Versioned):
    """One part with a record of its own. It is in a unit, in a drawer, or gone: never in two places.

    In a unit its cost is part of what the unit carries; in a drawer it stands on the part's own account. `original`:
    it is the own one of the unit it was first seen in, `came_from`. `keeps_data` None: what its kind says. `doubt` says
    why it may not be what is printed on it.
    """

    number = models.PositiveIntegerField(unique=True)
    kind = models.CharField(max_length=10, choices=[(k.value, k.label) for k in PartKind])
    name = models.CharField("what it is", max_length=80)
    serial = models.CharField(max_length=40, blank=True)
    revision = models.CharField(max_length=40, blank=True)
    setting = models.CharField("how it is set", max_length=120, blank=True)
    condition = models.CharField(max_length=10, choices=CONDITIONS, default=Condition.UNTESTED.value)
    worth = models.DecimalField("worth about", max_digits=10, decimal_places=2, null=True, blank=True)
    original = models.BooleanField("the own one of its first machine", null=True, blank=True)
    keeps_data = models.BooleanField("keeps data in itself", null=True, blank=True)
    sanitised_at = models.DateTimeField(null=True, blank=True, editable=False)
    doubt = models.CharField("why it may not be what it says it is", max_length=160, blank=True)
    unit = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="parts")
    slot = models.CharField("slot, bay or socket", max_length=40, blank=True)
    content = models.OneToOneField(
        Content, null=True, blank=True, on_delete=models.SET_NULL, related_name="part", verbose_name="on the list as"
    )
    drawer = models.CharField(max_length=20, blank=True)
    came_from = models.ForeignKey(
        Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="parts_of_it", editable=False
    )
    since = models.DateTimeField(editable=False)
    gone_at = models.DateTimeField(null=True, blank=True, editable=False)
    gone_words = models.CharField(max_length=160, blank=True, editable=False)

    class Meta:
        ordering = ["kind", "slot", "name", "id"]
        indexes = [
            models.Index(fields=["unit", "gone_at"], name="part_in_unit"),
            models.Index(fields=["serial"], name="part_serial"),
        ]
        constraints = [
            models.CheckConstraint(
                condition=Q(unit__isnull=True) | Q(gone_at__isnull=True), name="a_part_in_one_place"
            ),
            models.CheckConstraint(
                condition=Q(unit__isnull=False) | Q(content__isnull=True), name="listed_where_it_is"
            ),
            models.CheckConstraint(condition=Q(gone_at__isnull=True) | ~Q(gone_words=""), name="a_part_gone_says_why"),
        ]

    def __str__(self) -> str:
        return f"{self.code} {self.name}"

    @property
    def code(self) -> str:
        return f"P-{self.number:04d}"

    @property
    def is_what(self) -> PartKind:
        return PartKind(self.kind)

    @property
    def place_words(self) -> str:
        """Where it is: in which machine and where there, or in which drawer."""
        if self.unit:
            return f"{self.unit.tag}{', ' + self.slot if self.slot else ''}"
        return self.gone_words or f"drawer {self.drawer or '–'}"

    @property
    def in_stock(self) -> bool:
        return self.unit_id is None and self.gone_at is None

    @property
    def data_words(self) -> str:
        """Why somebody's data may be in it; empty when they are not."""
        return data_words(self.keeps_data, self.is_what, self.sanitised_at)

    @property
    def holds_data(self) -> bool:
        """It is known to keep data, and was not sanitised."""
        return bool(self.data_words) and (self.keeps_data or self.is_what.keeps_data is True)

    @property
    def faulty(self) -> bool:
        return self.condition == Condition.FAULTY


class PartMove(models.Model):
    """A part went from one place to another with its cost. Without units on either side it is a drawer, or outside.

    `storage_before` is what the unit it went into had as its newest unsanitised storage before.
    """

    class Kind(models.TextChoices):
        FOUND = "found", "found in it"
        BOUGHT = "bought", "bought"
        SINGLED = "singled", "out of a drawer"
        FITTED = "fitted", "fitted"
        MOVED = "moved", "moved"
        JOINED = "joined", "in with others of its kind"
        GONE = "gone", "gone"
        BACK = "back", "not gone after all"
        UNDONE = "undone", "not bought after all"

    kind = models.CharField(max_length=8, choices=Kind)
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="moves")
    from_unit = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="parts_out")
    to_unit = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="parts_in")
    from_words = models.CharField(max_length=80)
    to_words = models.CharField(max_length=80)
    cost = models.DecimalField(max_digits=12, decimal_places=2, default=Decimal(0))
    why = models.CharField(max_length=160, blank=True)
    storage_before = models.DateTimeField(null=True, blank=True)
    posting = models.ForeignKey(Posting, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["when"], name="part_move_time")]

    def __str__(self) -> str:
        return f"{self.part}: {self.from_words} to {self.to_words}"


class PartTest(models.Model):
    """A part was tested by itself, on a fixture or in a test machine; the result goes with it wherever it goes.

    `results` by check: {"passed": true, false or null, "value": typed, "note": words}.
    """

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="tests")
    fixture = models.ForeignKey(KnownGood, null=True, blank=True, on_delete=models.PROTECT, related_name="part_tests")
    in_unit = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    results = models.JSONField(default=dict)
    good = models.BooleanField(null=True)
    # What it was measured to give, and what such a part should: loops a second, kB/s, dots, whatever `figure` says.
    figure = models.CharField("what was measured", max_length=40, blank=True)
    measured = models.DecimalField(max_digits=12, decimal_places=3, null=True, blank=True)
    should_give = models.DecimalField(max_digits=12, decimal_places=3, null=True, blank=True)
    words = models.CharField("what was seen", max_length=200, blank=True)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    overruled = models.CharField("why it no longer counts", max_length=160, blank=True)

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(fixture__isnull=True) | Q(in_unit__isnull=True), name="tested_in_one_place"
            ),
        ]

    def __str__(self) -> str:
        return f"test of {self.part} on {clock.day_of(self.when)}"


class DrawerReceipt(models.Model):
    """Pieces of a lot line that went into a drawer: how many of the line, how much they are there, what they carry."""

    line = models.ForeignKey(LotLine, on_delete=models.PROTECT, related_name="drawer_receipts")
    item = models.ForeignKey(StockItem, on_delete=models.PROTECT, related_name="receipts")
    # Which pieces of the line, from 0 up; units have theirs in `line_index`.
    indexes = models.JSONField(default=list)
    amount = models.DecimalField("in the drawer", max_digits=12, decimal_places=3)
    cost = models.DecimalField(max_digits=12, decimal_places=2, default=Decimal(0))
    posting = models.OneToOneField(Posting, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    undone_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=Q(amount__gt=0), name="receive_more_than_nothing"),
        ]

    def __str__(self) -> str:
        return f"{self.item.words(self.amount)} {self.item} from {self.line}"

    @property
    def pieces(self) -> int:
        return len(self.indexes)
