"""Suppliers, lots, their lines and charges, and how their cost was shared."""

from decimal import Decimal

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import F, Q

from core.buying.landed import ChargeKind
from core.buying.share import Basis
from core.flow.awaited import is_late
from core.machine.casing import FormFactor
from stations.common import clock
from stations.common.currency import base_currency
from stations.common.models import Versioned
from stations.ledger.models import Posting
from stations.people.models import Person

POSITIVE = [MinValueValidator(Decimal(0), "This may not be below 0.")]


class SourceKind(models.TextChoices):
    AUCTION = "auction", "auction"
    PRIVATE = "private", "private sale"
    SHOP = "shop", "shop"
    CLEARANCE = "clearance", "clearance"
    TRADE_IN = "trade_in", "trade-in"
    DONATION = "donation", "donation"
    CUSTODY = "custody", "custody"


class Claim(models.TextChoices):
    """What was said of it by whoever had it; never what was seen or measured here."""

    NONE = "none", "no claim"
    WORKING = "working", "working"
    POWERS_ON = "powers_on", "powers on"
    UNTESTED = "untested", "not tested"
    FAULTY = "faulty", "faulty"
    DEAD = "dead", "dead"
    PARTS = "parts", "for parts"


class LineKind(models.TextChoices):
    MACHINE = "machine", "machine"
    PERIPHERAL = "peripheral", "peripheral"
    BOARD = "board", "board"
    PART = "part", "part"
    CONSUMABLE = "consumable", "consumable"
    MEDIA = "media", "media"


class Supplier(models.Model):
    name = models.CharField(max_length=80, unique=True)
    place = models.CharField(max_length=80, blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Lot(Versioned):
    number = models.PositiveIntegerField(unique=True)
    title = models.CharField(max_length=80)
    supplier = models.ForeignKey(Supplier, on_delete=models.PROTECT, related_name="lots")
    source_kind = models.CharField("source", max_length=12, choices=SourceKind, default=SourceKind.AUCTION)
    bought_on = models.DateField("bought on")
    paid_on = models.DateField("paid on", null=True, blank=True)
    arrived_on = models.DateField("arrived on", null=True, blank=True)
    currency = models.CharField(max_length=3, default=base_currency)
    rate = models.DecimalField(max_digits=20, decimal_places=12, default=Decimal(1))
    owner_name = models.CharField("owner, if in custody", max_length=80, blank=True)
    note = models.CharField(max_length=300, blank=True)
    posting = models.OneToOneField(Posting, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    landed_total = models.DecimalField(max_digits=12, decimal_places=2, default=Decimal(0), editable=False)
    # Whether its price is recorded, 0 among them, or it came from where there is none: else nobody knows what it cost.
    priced = models.BooleanField(default=False, editable=False)
    # What of it is on no piece: those that were to carry it do not come, or all had left before it was put right.
    lost = models.DecimalField(max_digits=12, decimal_places=2, default=Decimal(0), editable=False)
    lost_posting = models.OneToOneField(Posting, null=True, blank=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.CheckConstraint(condition=Q(rate__gt=0), name="lot_rate_above_0"),
            models.CheckConstraint(
                condition=~Q(source_kind="custody") | ~Q(owner_name=""), name="custody_lot_names_its_owner"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.code} {self.title}"

    @property
    def code(self) -> str:
        return f"L-{self.number:03d}"

    @property
    def awaited_long(self) -> bool:
        """Whether what is still to come of it should be here."""
        return is_late(self.paid_on or self.bought_on, clock.today())

    @property
    def in_custody(self) -> bool:
        return self.source_kind == SourceKind.CUSTODY

    @property
    def has_a_price(self) -> bool:
        """Whether it was bought; what is given or lent costs what was charged beside that."""
        return self.source_kind not in {SourceKind.DONATION, SourceKind.CUSTODY}


# Pieces of a line that are still to be received.
TO_COME = F("quantity") - F("received") - F("not_come")


class LotLines(models.QuerySet["LotLine"]):
    def to_come(self) -> "LotLines":
        """Those of which pieces are still to be received."""
        return self.filter(quantity__gt=F("received") + F("not_come"))


class LotLine(models.Model):
    lot = models.ForeignKey(Lot, on_delete=models.CASCADE, related_name="lines")
    position = models.PositiveSmallIntegerField()
    description = models.CharField(max_length=80)
    quantity = models.PositiveSmallIntegerField(default=1, validators=[MinValueValidator(1, "At least one.")])
    kind = models.CharField(max_length=12, choices=LineKind, default=LineKind.MACHINE)
    form_factor = models.CharField(
        max_length=12, choices=[(f.value, f.label) for f in FormFactor], default=FormFactor.DESKTOP.value
    )
    claim = models.CharField(max_length=12, choices=Claim, default=Claim.NONE)
    claim_words = models.CharField("claimant’s words", max_length=400, blank=True)
    weight_kg = models.DecimalField(
        "weight of one, kg",
        max_digits=7,
        decimal_places=2,
        null=True,
        blank=True,
        validators=[*POSITIVE, MaxValueValidator(Decimal(1000), "1000 kg at most: 9400 g are 9.4.")],
    )
    # What one sells for when finished: all three, or none while nobody said.
    worth_low = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, validators=POSITIVE)
    worth_likely = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, validators=POSITIVE)
    worth_high = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, validators=POSITIVE)
    finish_cost = models.DecimalField(max_digits=10, decimal_places=2, default=0, validators=POSITIVE)
    fixed_share = models.DecimalField(
        "carries by hand", max_digits=12, decimal_places=2, null=True, blank=True, validators=POSITIVE
    )
    received = models.PositiveSmallIntegerField(default=0, editable=False)
    not_come = models.PositiveSmallIntegerField(default=0, editable=False)

    objects = LotLines.as_manager()

    class Meta:
        ordering = ["position", "id"]
        constraints = [
            models.CheckConstraint(condition=Q(quantity__gte=1), name="line_has_at_least_one"),
            models.CheckConstraint(condition=Q(received__lte=F("quantity")), name="received_up_to_quantity"),
            models.CheckConstraint(
                condition=Q(quantity__gte=F("received") + F("not_come")), name="what_does_not_come_is_not_received"
            ),
            models.CheckConstraint(
                condition=Q(worth_low__isnull=True, worth_likely__isnull=True, worth_high__isnull=True)
                | Q(
                    # Said outright: a comparison with nothing is no refusal for a database.
                    worth_low__isnull=False,
                    worth_likely__isnull=False,
                    worth_high__isnull=False,
                    worth_low__gte=0,
                    worth_likely__gte=models.F("worth_low"),
                    worth_high__gte=models.F("worth_likely"),
                ),
                name="worth_low_likely_high_in_order",
            ),
        ]

    def __str__(self) -> str:
        return self.description

    @property
    def for_drawers(self) -> bool:
        """What is on it goes into drawers, not to the intake table."""
        return self.kind in {LineKind.PART, LineKind.CONSUMABLE}

    @property
    def pieces(self) -> int:
        """How many came or are still to come: what carries the cost of the line."""
        return self.quantity - self.not_come

    @property
    def not_received(self) -> str:
        return f"{self.quantity - self.received} of {self.quantity} were not received yet"

    @property
    def outstanding(self) -> int:
        return self.pieces - self.received


class LotCharge(models.Model):
    """One charge as it was typed, and what it came to; a corrected one stays, replaced."""

    lot = models.ForeignKey(Lot, on_delete=models.CASCADE, related_name="charges")
    position = models.PositiveSmallIntegerField(default=1)
    kind = models.CharField(max_length=12, choices=[(k.value, k.label) for k in ChargeKind])
    name = models.CharField(max_length=40, blank=True)
    amount = models.DecimalField(max_digits=12, decimal_places=2, null=True, blank=True)
    percent = models.DecimalField(max_digits=5, decimal_places=2, null=True, blank=True)
    bands = models.CharField(max_length=80, blank=True)
    of = models.CharField(max_length=80, blank=True)
    basis = models.CharField(max_length=8, blank=True, choices=[(b.value, f"by {b.value}") for b in Basis])
    own_rate = models.BooleanField(default=False)
    currency = models.CharField(max_length=3)
    rate = models.DecimalField(max_digits=20, decimal_places=12)
    foreign = models.DecimalField(max_digits=12, decimal_places=2)
    base = models.DecimalField(max_digits=12, decimal_places=2)
    how = models.CharField(max_length=160)
    replaced_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["position", "id"]
        constraints = [
            models.CheckConstraint(condition=Q(foreign__gte=0) & Q(base__gte=0), name="charge_not_negative"),
            models.CheckConstraint(condition=Q(rate__gt=0), name="charge_rate_above_0"),
        ]

    def __str__(self) -> str:
        return f"{self.label} {self.base}"

    @property
    def label(self) -> str:
        return self.name or ChargeKind(self.kind).label


class Sharing(models.Model):
    """One sharing of a lot's landed cost; the newest counts, older ones are reversed in the books."""

    lot = models.ForeignKey(Lot, on_delete=models.CASCADE, related_name="sharings")
    basis = models.CharField(max_length=8, choices=[(b.value, f"by {b.value}") for b in Basis])
    note = models.CharField(max_length=400, blank=True)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.lot.code} by {self.basis}"


class LineShare(models.Model):
    sharing = models.ForeignKey(Sharing, on_delete=models.CASCADE, related_name="shares")
    line = models.ForeignKey(LotLine, on_delete=models.CASCADE, related_name="shares")
    weight = models.DecimalField(max_digits=18, decimal_places=6)
    amount = models.DecimalField(max_digits=12, decimal_places=2)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sharing", "line"], name="one_share_a_line")]

    def __str__(self) -> str:
        return f"{self.line}: {self.amount}"


class ChargeShare(models.Model):
    """What a line carries of one charge; over a line they sum to its share, over a charge to the charge."""

    share = models.ForeignKey(LineShare, on_delete=models.CASCADE, related_name="parts")
    charge = models.ForeignKey(LotCharge, on_delete=models.CASCADE, related_name="parts")
    amount = models.DecimalField(max_digits=12, decimal_places=2)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["share", "charge"], name="one_part_a_charge")]

    def __str__(self) -> str:
        return f"{self.charge.label}: {self.amount}"


class ExchangeRate(models.Model):
    """What the rate source published: units of `currency` for one euro on a day."""

    currency = models.CharField(max_length=3)
    on = models.DateField()
    per_euro = models.DecimalField(max_digits=14, decimal_places=6)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["currency", "on"], name="rate_once_a_day"),
            models.CheckConstraint(condition=Q(per_euro__gt=0), name="published_rate_above_0"),
        ]

    def __str__(self) -> str:
        return f"{self.currency} {self.on}: {self.per_euro}"
