"""Who works here, the shop's settings, what happened in words, and what makes a write happen once."""

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal

from django.contrib.auth.models import AbstractUser
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from stations.common import clock
from stations.common.models import Versioned


class Role(models.TextChoices):
    OWNER = "owner", "owner"
    BUYER = "buyer", "buyer"
    TECHNICIAN = "technician", "technician"
    SELLER = "seller", "seller"
    VIEWER = "viewer", "viewer"


class Person(AbstractUser):
    """Somebody who signs in. One person often holds several roles; an owner may do everything."""

    @property
    def name(self) -> str:
        return self.get_full_name() or self.username

    @property
    def initials(self) -> str:
        letters = [part[0] for part in (self.first_name, self.last_name) if part]
        return "".join(letters).upper() or self.username[:2].upper()

    @property
    def has_begun(self) -> bool:
        """Whether the person has chosen a password yet."""
        return self.has_usable_password()

    @property
    def role_names(self) -> set[str]:
        if not hasattr(self, "_role_names"):
            self._role_names = set(self.roles.values_list("role", flat=True)) if self.pk else set()
        return self._role_names


class SecondFactor(models.Model):
    """Somebody shows a code besides the password: the secret that a phone keeps too, and the last step of 30 seconds of
    which a code was used."""

    person = models.OneToOneField(Person, on_delete=models.CASCADE, related_name="second_factor")
    secret = models.CharField(max_length=64)
    last_step = models.PositiveBigIntegerField()
    since = models.DateTimeField()

    def __str__(self) -> str:
        return f"second factor of {self.person}"


class SpareCode(models.Model):
    """A code for when the phone is not at hand, good once. Only its digest is kept."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="spare_codes")
    digest = models.CharField(max_length=64)
    used_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "digest"], name="a_spare_code_is_one")]

    def __str__(self) -> str:
        return f"spare code of {self.person}"


class ReadToken(models.Model):
    """With which a program reads in somebody’s name. Only its digest is kept. `next_at`: the earliest at which the next
    request is due, were they spread evenly; it runs ahead of the clock while they come faster."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="read_tokens")
    purpose = models.CharField("what is it for", max_length=60)
    until = models.DateField("reads until", null=True, blank=True)
    digest = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True, blank=True)
    next_at = models.DateTimeField()

    class Meta:
        ordering = ["person", "-made_at"]
        constraints = [
            models.UniqueConstraint(fields=["person", "purpose"], name="one_token_a_purpose"),
            models.CheckConstraint(condition=~models.Q(purpose=""), name="a_token_says_what_it_is_for"),
        ]

    def __str__(self) -> str:
        return f"{self.purpose}, {self.person}"

    @property
    def is_over(self) -> bool:
        """It read until a day that is past."""
        return self.until is not None and self.until < clock.today()


class PersonRole(models.Model):
    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="roles")
    role = models.CharField(max_length=12, choices=Role)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "role"], name="role_once_a_person")]

    def __str__(self) -> str:
        return f"{self.person}: {self.role}"


class TaxScheme(models.TextChoices):
    NONE = "none", "none"
    STANDARD = "standard", "standard: tax within the price"
    MARGIN = "margin", "margin scheme: tax within the margin of each item"
    GLOBAL = "global", "global accounting: tax within the margin of a period"


@dataclass(frozen=True)
class TaxTerms:
    """How sales are taxed: the scheme, and the rate from 0 to 100 %."""

    scheme: TaxScheme
    percent: Decimal

    @property
    def of_an_item(self) -> TaxScheme:
        """How one item is reckoned beforehand: tax on the margin of a period as on its own, since what the period
        brings besides is not known then."""
        return TaxScheme.MARGIN if self.scheme == TaxScheme.GLOBAL else self.scheme

    @property
    def words(self) -> str:
        named = self.scheme.label.partition(":")[0]
        return named if self.scheme == TaxScheme.NONE else f"{named}, {self.percent.normalize():f} %"


@dataclass(frozen=True)
class EarlierTax:
    """What held before the day on which it turned."""

    turn: date
    tax: TaxTerms

    @property
    def last(self) -> date:
        return self.turn - timedelta(days=1)

    @property
    def kept(self) -> list[str]:
        """As a shop’s settings keep it."""
        return [self.turn.isoformat(), self.tax.scheme.value, str(self.tax.percent)]


class ShopSettings(Versioned):
    """The one row of settings. Until somebody saved them they are the usual figures, and nobody’s."""

    name = models.CharField(max_length=80, default="Workshop")
    labour_rate = models.DecimalField(
        "labour rate per hour",
        max_digits=8,
        decimal_places=2,
        default=Decimal("24.00"),
        validators=[MinValueValidator(Decimal(0))],
    )
    target_margin = models.DecimalField(
        "least margin wanted on a unit",
        max_digits=8,
        decimal_places=2,
        default=Decimal("20.00"),
        validators=[MinValueValidator(Decimal(0))],
    )
    postage = models.DecimalField(
        "postage of a usual parcel",
        max_digits=8,
        decimal_places=2,
        default=Decimal("9.00"),
        validators=[MinValueValidator(Decimal(0))],
    )
    # The highest tag ever given out: one that was taken back is not given to another.
    last_tag = models.PositiveIntegerField(default=100, editable=False)
    closes_at = models.TimeField("closes at", null=True, blank=True)
    trays = models.PositiveSmallIntegerField(
        "trays for screws", default=24, validators=[MinValueValidator(1, "At least one tray.")]
    )
    benches = models.PositiveSmallIntegerField(
        "machines that can stand with power at once", default=2, validators=[MinValueValidator(1, "At least one.")]
    )
    tubs = models.PositiveSmallIntegerField("tubs for baths", default=1)
    # Where daylight is reckoned for, in degrees; empty: not at all.
    latitude = models.DecimalField(
        "latitude of the workshop, degrees north",
        max_digits=6,
        decimal_places=3,
        null=True,
        blank=True,
        validators=[MinValueValidator(Decimal(-90)), MaxValueValidator(Decimal(90))],
    )
    longitude = models.DecimalField(
        "longitude, degrees east",
        max_digits=6,
        decimal_places=3,
        null=True,
        blank=True,
        validators=[MinValueValidator(Decimal(-180)), MaxValueValidator(Decimal(180))],
    )
    gel_ml_cm2 = models.DecimalField(
        "whitening gel, ml on each cm²",
        max_digits=4,
        decimal_places=3,
        default=Decimal("0.25"),
        validators=[MinValueValidator(Decimal("0.01")), MaxValueValidator(Decimal(5))],
    )
    holding = models.DecimalField(
        "what keeping a unit costs a week",
        max_digits=8,
        decimal_places=2,
        default=Decimal("0.00"),
        validators=[MinValueValidator(Decimal(0))],
    )
    tax_scheme = models.CharField(max_length=10, choices=TaxScheme, default=TaxScheme.NONE)
    tax_percent = models.DecimalField(
        "tax rate, %",
        max_digits=5,
        decimal_places=2,
        default=Decimal("0.00"),
        validators=[MinValueValidator(Decimal(0)), MaxValueValidator(Decimal(100))],
    )
    # What held before that, by the day on which it no longer did: [day, scheme, rate].
    tax_before = models.JSONField("how sales were taxed before", default=list, editable=False)
    # What counts as bought for, where tax is on the margin: the price always, freight and duty never.
    premium_counts = models.BooleanField("a buyer’s premium counts as purchase price", default=True)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=models.Q(labour_rate__gte=0), name="labour_rate_not_negative"),
            models.CheckConstraint(condition=models.Q(tax_percent__range=(0, 100)), name="tax_percent_0_to_100"),
            models.CheckConstraint(
                condition=models.Q(latitude__isnull=True, longitude__isnull=True)
                | models.Q(
                    latitude__isnull=False,
                    longitude__isnull=False,
                    latitude__range=(-90, 90),
                    longitude__range=(-180, 180),
                ),
                name="a_place_has_both_degrees",
            ),
            models.CheckConstraint(condition=models.Q(gel_ml_cm2__gt=0), name="gel_is_more_than_nothing"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def earlier_taxes(self) -> list[EarlierTax]:
        """The earliest first."""
        return [
            EarlierTax(date.fromisoformat(turn), TaxTerms(TaxScheme(scheme), Decimal(percent)))
            for turn, scheme, percent in self.tax_before
        ]

    def tax_on(self, day: date) -> TaxTerms:
        """How a sale of that day is taxed."""
        return next((one.tax for one in self.earlier_taxes if day < one.turn), self.last_tax)

    @property
    def last_tax(self) -> TaxTerms:
        """What was said last, which may hold from a day to come."""
        return TaxTerms(TaxScheme(self.tax_scheme), self.tax_percent)

    @property
    def tax(self) -> TaxTerms:
        """How a sale of today is taxed."""
        return self.tax_on(clock.today())

    @property
    def nobody_said(self) -> bool:
        """No owner of this shop looked through them yet."""
        return self.version == 1


class HistoryEntry(models.Model):
    """One thing somebody did, in words, and to what. Of some of it the shop has one only: then `subject_id` is 0."""

    class Subject(models.TextChoices):
        LOT = "lot", "lots"
        PLAN = "plan", "bids"
        UNIT = "unit", "units"
        STOCK = "stock", "drawers"
        PART = "part", "single parts"
        ORDER = "order", "orders of parts"
        SHOP = "shop", "settings, terms, words"
        PERSON = "person", "people"
        MODEL = "model", "models"
        SHEET = "sheet", "sheets of parts"
        CHECK = "check", "checks, instruments, known-good shelf"
        RECIPE = "recipe", "recipes, buyers, systems, agents"
        CHANNEL = "channel", "channels"
        CARRIER = "carrier", "boxes and carriers"

    when = models.DateTimeField(db_index=True)
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    subject = models.CharField(max_length=8, choices=Subject)
    subject_id = models.BigIntegerField()
    action = models.CharField("what was done: room.function", max_length=60)
    words = models.CharField(max_length=400)
    data = models.JSONField(default=dict)

    class Meta:
        indexes = [
            models.Index(fields=["subject", "subject_id", "when"]),
            models.Index(fields=["subject", "when"], name="history_of_a_kind"),
            models.Index(fields=["who", "when"], name="history_of_somebody"),
        ]
        ordering = ["when", "id"]

    def __str__(self) -> str:
        return self.words

    @property
    def sent(self) -> datetime | None:
        """When it was sent, of what was recorded without a connection."""
        return datetime.fromisoformat(self.data["sent"]) if "sent" in self.data else None


class WriteKey(models.Model):
    """A write that has been done, so that a second press finds where it led instead of doing it again."""

    key = models.CharField(max_length=64, unique=True)
    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    done_at = models.DateTimeField(auto_now_add=True, db_index=True)
    leads_to = models.CharField(max_length=300)
    content = models.CharField("digest of what was sent", max_length=64, default="")

    def __str__(self) -> str:
        return self.key
