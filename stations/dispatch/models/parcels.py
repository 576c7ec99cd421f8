"""Boxes, carriers with what they ask, and parcels from the packing table to the buyer’s door."""

from decimal import Decimal
from urllib.parse import quote

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import F, Q

from core.flow.awaited import is_late
from core.selling.carriers import Band, Cells, Tariff
from core.selling.packing import HEAVIEST_G, LONGEST_MM, Box, Moment, Size
from stations.common import clock
from stations.common.models import Versioned
from stations.ledger.models import Posting
from stations.people.models import Person
from stations.selling.models import Sale

EDGE = [
    MinValueValidator(1, "At least 1 mm."),
    MaxValueValidator(LONGEST_MM, f"{LONGEST_MM:,} mm at most."),
]
GRAMS = [MinValueValidator(1, "More than 0."), MaxValueValidator(HEAVIEST_G, f"{HEAVIEST_G // 1000} kg at most.")]


def _edge(words: str, **options) -> models.PositiveSmallIntegerField:
    return models.PositiveSmallIntegerField(words, validators=EDGE, **options)


class BoxSize(Versioned):
    """A size of box that the shop has."""

    name = models.CharField(max_length=40, unique=True)
    inner_length = _edge("inside: length, mm")
    inner_width = _edge("inside: width, mm")
    inner_height = _edge("inside: height, mm")
    outer_length = _edge("outside: length, mm")
    outer_width = _edge("outside: width, mm")
    outer_height = _edge("outside: height, mm")
    weight_g = models.PositiveIntegerField("weighs, g", validators=GRAMS)
    in_use = models.BooleanField(default=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.CheckConstraint(
                condition=Q(outer_length__gte=F("inner_length"))
                & Q(outer_width__gte=F("inner_width"))
                & Q(outer_height__gte=F("inner_height"))
                & Q(inner_length__gte=1, inner_width__gte=1, inner_height__gte=1),
                name="a_box_is_larger_outside",
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def box(self) -> Box:
        return Box(self.name, self.inner, self.outer, self.weight_g)

    @property
    def inner(self) -> Size:
        return Size(self.inner_length, self.inner_width, self.inner_height)

    @property
    def outer(self) -> Size:
        return Size(self.outer_length, self.outer_width, self.outer_height)


class Carrier(Versioned):
    """Who takes parcels, what they may be, and what is paid for one that is broken."""

    name = models.CharField(max_length=40, unique=True)
    divisor = models.PositiveIntegerField(
        "volumetric divisor, cm³ a kg",
        default=5000,
        validators=[MinValueValidator(1000, "At least 1,000."), MaxValueValidator(20000, "20,000 at most.")],
    )
    heaviest_g = models.PositiveIntegerField("heaviest parcel, g", null=True, blank=True, validators=GRAMS)
    longest_mm = models.PositiveIntegerField("longest edge, mm", null=True, blank=True, validators=EDGE)
    girth_mm = models.PositiveIntegerField(
        "longest edge and twice the others, mm",
        null=True,
        blank=True,
        validators=[MinValueValidator(1, "More than 0.")],
    )
    cells = models.CharField(
        "lithium cells", max_length=6, choices=[(one.value, one.label) for one in Cells], default=Cells.NONE.value
    )
    covered = models.DecimalField(
        "cover within the price",
        max_digits=8,
        decimal_places=2,
        default=Decimal("0.00"),
        validators=[MinValueValidator(Decimal(0))],
    )
    cover_percent = models.DecimalField(
        "more cover costs, % of the value",
        max_digits=5,
        decimal_places=2,
        default=Decimal("0.00"),
        validators=[MinValueValidator(Decimal(0)), MaxValueValidator(Decimal(100))],
    )
    cover_most = models.DecimalField(
        "cover at most",
        max_digits=8,
        decimal_places=2,
        default=Decimal("0.00"),
        validators=[MinValueValidator(Decimal(0))],
    )
    track = models.CharField("address where a parcel is followed, with {number}", max_length=200, blank=True)
    in_use = models.BooleanField(default=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.CheckConstraint(
                condition=Q(divisor__gt=0, cover_percent__range=(0, 100), covered__gte=0), name="a_carrier_in_range"
            )
        ]

    def __str__(self) -> str:
        return self.name


class CarrierBand(models.Model):
    """Into a zone, up to so many g, this price."""

    carrier = models.ForeignKey(Carrier, on_delete=models.CASCADE, related_name="bands")
    zone = models.CharField(max_length=30)
    up_to_g = models.PositiveIntegerField()
    price = models.DecimalField(max_digits=8, decimal_places=2)

    class Meta:
        ordering = ["carrier", "zone", "up_to_g"]
        constraints = [
            models.UniqueConstraint(fields=["carrier", "zone", "up_to_g"], name="one_price_a_band"),
            models.CheckConstraint(condition=Q(up_to_g__gt=0, price__gte=0), name="a_band_in_range"),
        ]

    def __str__(self) -> str:
        return f"{self.carrier} {self.zone}, up to {self.up_to_g} g: {self.price}"


def tariff_of(carrier: Carrier, bands: list[CarrierBand]) -> Tariff:
    return Tariff(
        carrier=carrier.name,
        bands=tuple(Band(band.up_to_g, band.price) for band in bands),
        divisor=carrier.divisor,
        heaviest_g=carrier.heaviest_g,
        longest_mm=carrier.longest_mm,
        girth_mm=carrier.girth_mm,
        cells=Cells(carrier.cells),
        covered=carrier.covered,
        cover_percent=carrier.cover_percent,
        cover_most=carrier.cover_most,
    )


class Parcel(Versioned):
    """What is packed together and sent; its sales go to one buyer. Sizes are None until somebody measured."""

    address = models.TextField("send it to", max_length=400, blank=True)
    zone = models.CharField("zone", max_length=30, blank=True)
    length = _edge("across, mm", null=True, blank=True)
    width = _edge("front to back, mm", null=True, blank=True)
    height = _edge("high, mm", null=True, blank=True)
    weight_g = models.PositiveIntegerField("weighs as it stands, g", null=True, blank=True, validators=GRAMS)
    box = models.ForeignKey(BoxSize, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    inner_box = models.ForeignKey(BoxSize, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    # The steps that were done, with who and when: {code: [name, moment]}.
    done = models.JSONField(default=dict, blank=True, editable=False)
    packed_g = models.PositiveIntegerField("weighs closed, g", null=True, blank=True, validators=GRAMS)
    closed_at = models.DateTimeField(null=True, blank=True, editable=False)
    carrier = models.ForeignKey(Carrier, null=True, blank=True, on_delete=models.PROTECT, related_name="parcels")
    price = models.DecimalField("what sending it cost", max_digits=8, decimal_places=2, null=True, blank=True)
    cover = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    tracking = models.CharField("tracking number", max_length=60, blank=True)
    by_hand = models.BooleanField("handed over in person", default=False, editable=False)
    sent_at = models.DateTimeField(null=True, blank=True, editable=False)
    arrived_at = models.DateTimeField(null=True, blank=True, editable=False)
    damage = models.CharField("what was broken", max_length=600, blank=True)
    lost = models.BooleanField("it never arrived", default=False)
    damage_at = models.DateTimeField(null=True, blank=True, editable=False)
    claimed = models.DecimalField("claimed from the carrier", max_digits=10, decimal_places=2, null=True, blank=True)
    paid_back = models.DecimalField("the carrier paid", max_digits=10, decimal_places=2, null=True, blank=True)
    # What sending cost more or less than was reckoned with at the sale; what a carrier paid for damage.
    posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    claim_posting = models.OneToOneField(Posting, null=True, on_delete=models.PROTECT, related_name="+")
    begun_at = models.DateTimeField()
    begun_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["sent_at", "arrived_at"], name="parcel_on_its_way")]
        constraints = [
            models.CheckConstraint(
                condition=Q(sent_at__isnull=True) | Q(closed_at__isnull=False) | Q(by_hand=True),
                name="what_is_sent_was_closed",
            ),
            models.CheckConstraint(
                condition=Q(arrived_at__isnull=True) | Q(sent_at__isnull=False), name="what_arrived_was_sent"
            ),
            models.CheckConstraint(
                condition=Q(lost=False) | Q(damage_at__isnull=False, arrived_at__isnull=True),
                name="what_is_lost_never_arrived",
            ),
            models.CheckConstraint(condition=Q(price__isnull=True) | Q(price__gte=0), name="sending_costs_0_or_more"),
        ]

    def __str__(self) -> str:
        return f"parcel {self.pk}"

    @property
    def size(self) -> Size | None:
        """As it stands; None while an edge is not known."""
        if not (self.length and self.width and self.height):
            return None
        return Size(self.length, self.width, self.height)

    @property
    def follow(self) -> str:
        """Where its carrier says how far it is; empty where nobody typed that."""
        if not (self.carrier and self.carrier.track and self.tracking):
            return ""
        return self.carrier.track.replace("{number}", quote(self.tracking, safe=""))

    @property
    def is_closed(self) -> bool:
        return self.closed_at is not None

    @property
    def claim_is_late(self) -> bool:
        """Whether its carrier should have answered for what was broken."""
        if self.damage_at is None or self.paid_back is not None:
            return False
        return is_late(clock.day_of(self.damage_at), clock.today())


class ParcelItem(models.Model):
    """A sale in a parcel: in one, ever."""

    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="items")
    sale = models.OneToOneField(Sale, on_delete=models.PROTECT, related_name="parcel_item")
    # Of what sending cost more or less than was reckoned with, the part of this sale.
    postage_more = models.DecimalField(max_digits=8, decimal_places=2, default=Decimal("0.00"))
    # Of what a carrier paid for damage, the part of this sale.
    claim_part = models.DecimalField(max_digits=10, decimal_places=2, default=Decimal("0.00"))

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.sale.unit} in {self.parcel}"

    @property
    def postage(self) -> Decimal:
        """What sending it took, once it went."""
        return self.sale.postage + self.postage_more


class ParcelPhoto(models.Model):
    """A picture of the packing or of damage, kept under its content hash."""

    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="photos")
    moment = models.CharField(max_length=6, choices=[(moment.value, moment.label) for moment in Moment])
    sha256 = models.CharField(max_length=64)
    original_name = models.CharField(max_length=120)
    added_at = models.DateTimeField()
    added_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["parcel", "moment", "sha256"], name="a_picture_of_a_parcel_once")
        ]

    def __str__(self) -> str:
        return self.original_name

    @property
    def is_of_damage(self) -> bool:
        return self.moment == Moment.DAMAGE
