"""Parts in drawers, and what is known to be good and stands in for what is suspected."""

from decimal import Decimal

from django.db import models
from django.db.models import Case, ExpressionWrapper, F, Q, When
from django.db.models.functions import Floor

from core.stock.measure import Measure
from core.stock.parts import Condition
from stations.catalogue.models import MachineModel
from stations.common.models import Versioned
from stations.ledger.models import Posting
from stations.people.models import Person

CONDITIONS = [(c.value, c.label) for c in Condition]
MEASURES = [(m.value, m.label) for m in Measure]


class StockItem(Versioned):
    """A kind of part or consumable in a drawer, interchangeable; what it is worth stands in the ledger.

    `reserved` of the `quantity` is held for jobs; rooms further on say for which.
    """

    name = models.CharField(max_length=80)
    condition = models.CharField(max_length=10, choices=CONDITIONS, default=Condition.NEW.value)
    drawer = models.CharField(max_length=20, blank=True)
    measure = models.CharField("counted in", max_length=6, choices=MEASURES, default=Measure.PIECE.value)
    quantity = models.DecimalField(max_digits=12, decimal_places=3, default=Decimal(0), editable=False)
    reserved = models.DecimalField(max_digits=12, decimal_places=3, default=Decimal(0), editable=False)
    reorder_at = models.DecimalField("order more at", max_digits=12, decimal_places=3, null=True, blank=True)
    reorder_to = models.DecimalField("up to", max_digits=12, decimal_places=3, null=True, blank=True)
    # The name in the collation that is gone through fastest, still blind to case and accents: what a find reads.
    found_by = models.GeneratedField(
        expression=ExpressionWrapper(F("name"), output_field=models.CharField()),
        output_field=models.CharField(max_length=80, db_collation="utf8mb4_general_ci"),
        db_persist=True,
    )
    # Kept by the database: no more of it is free than what more is ordered at.
    at_level = models.GeneratedField(
        expression=Case(When(quantity__lte=F("reorder_at") + F("reserved"), then=1), default=0),
        output_field=models.PositiveSmallIntegerField(),
        db_persist=True,
    )
    fits = models.ManyToManyField(MachineModel, blank=True, related_name="fitting", verbose_name="fits")
    modern = models.BooleanField("modern part, not of the machine’s time", default=False)
    keeps_data = models.BooleanField("used storage: may hold somebody’s data", default=False)
    in_use = models.BooleanField("a drawer we go on with", default=True)

    class Meta:
        ordering = ["name", "condition"]
        indexes = [
            models.Index(fields=["drawer"], name="stock_drawer"),
            # Everything a word is looked for in: a find reads nothing else.
            models.Index(fields=["found_by", "condition", "drawer"], name="stock_find"),
            models.Index(fields=["at_level", "name"], name="stock_at_level"),
        ]
        constraints = [
            models.CheckConstraint(condition=Q(quantity__gte=0), name="stock_never_below_0"),
            models.CheckConstraint(
                condition=Q(reserved__gte=0, reserved__lte=F("quantity")), name="reserved_up_to_what_is_there"
            ),
            models.CheckConstraint(
                condition=~Q(measure="piece") | Q(quantity=Floor(F("quantity")), reserved=Floor(F("reserved"))),
                name="pieces_are_whole",
            ),
            models.CheckConstraint(
                condition=Q(reorder_at__isnull=True, reorder_to__isnull=True)
                | Q(reorder_at__isnull=False, reorder_at__gte=0)
                & (Q(reorder_to__isnull=True) | Q(reorder_to__gt=F("reorder_at"))),
                name="reorder_up_to_more",
            ),
            models.UniqueConstraint(fields=["name", "condition"], name="stock_item_once"),
            models.CheckConstraint(
                condition=Q(in_use=True) | Q(quantity=0, reorder_at__isnull=True), name="a_drawer_put_away_is_empty"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def free(self) -> Decimal:
        return self.quantity - self.reserved

    @property
    def faulty(self) -> bool:
        return self.condition == Condition.FAULTY

    @property
    def counted_in(self) -> Measure:
        return Measure(self.measure)

    @property
    def in_pieces(self) -> bool:
        return self.counted_in is Measure.PIECE

    def words(self, amount: Decimal) -> str:
        """An amount of it: 12, or 250 ml."""
        return self.counted_in.words(amount)

    @property
    def amount(self) -> str:
        return self.words(self.quantity)

    @property
    def free_amount(self) -> str:
        return self.words(self.free)


class StockPurchase(models.Model):
    """So much was bought straight into a drawer, for `paid` in all, base currency; `after`: what lay there then."""

    item = models.ForeignKey(StockItem, on_delete=models.PROTECT, related_name="purchases")
    amount = models.DecimalField(max_digits=12, decimal_places=3)
    paid = models.DecimalField(max_digits=12, decimal_places=2)
    after = models.DecimalField(max_digits=12, decimal_places=3)
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    undone_at = models.DateTimeField("taken back", null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=Q(amount__gt=0, paid__gte=0), name="a_purchase_is_of_something"),
        ]

    def __str__(self) -> str:
        return f"{self.item.words(self.amount)} {self.item} for {self.paid}"


class StockCount(models.Model):
    """A drawer was counted; a difference was posted, and why."""

    item = models.ForeignKey(StockItem, on_delete=models.PROTECT, related_name="counts")
    expected = models.DecimalField(max_digits=12, decimal_places=3)
    counted = models.DecimalField(max_digits=12, decimal_places=3)
    reason = models.CharField(max_length=160, blank=True)
    cost = models.DecimalField(max_digits=12, decimal_places=2, default=Decimal(0))
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    undone_at = models.DateTimeField("taken back", null=True, blank=True)

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(condition=Q(counted__gte=0, expected__gte=0), name="a_count_is_not_below_0"),
            models.CheckConstraint(condition=Q(counted=F("expected")) | ~Q(reason=""), name="a_difference_says_why"),
        ]

    def __str__(self) -> str:
        return f"{self.item}: {self.counted} of {self.expected}"

    @property
    def difference(self) -> Decimal:
        return self.counted - self.expected


class Design(Versioned):
    """A part made here, or for us: the revision that lies in the drawer, who makes it and on what terms. The file it is
    made from is kept with what is known of the part."""

    item = models.OneToOneField(StockItem, on_delete=models.CASCADE, related_name="design")
    revision = models.CharField(max_length=40, blank=True)
    maker = models.CharField("made by", max_length=80, blank=True)
    terms = models.CharField("on what terms it may be made and sold", max_length=160, blank=True)
    changed_at = models.DateTimeField(editable=False)
    changed_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+", editable=False)

    def __str__(self) -> str:
        return f"design of {self.item}"


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
    in_use = models.BooleanField("still on the shelf", default=True)

    class Meta:
        ordering = ["stands_in", "name"]

    def __str__(self) -> str:
        return self.name

    @property
    def is_screen(self) -> bool:
        return self.stands_in == "screen"
