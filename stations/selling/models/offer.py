"""A unit on its way to a buyer: grade, listing, what must be said, the prices it stood at, offers made for it."""

from django.db import models
from django.db.models import Q

from core.selling.disclosure import DisclosureKind
from stations.catalogue.models import FORM_FACTORS
from stations.common.models import Versioned
from stations.people.models import Person
from stations.selling.models.market import GRADES, NOT_NEGATIVE, Channel
from stations.units.models import Unit

DISCLOSURES = [(kind.value, kind.label) for kind in DisclosureKind]


class UnitGrade(models.Model):
    """A grade as it was given, with the evidence it rested on. The newest counts."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="grades")
    grade = models.CharField(max_length=10, choices=GRADES)
    before_caps = models.CharField(max_length=10, choices=GRADES)
    total = models.PositiveSmallIntegerField()
    # The evidence as plain values; of the oldest it was not kept.
    evidence = models.JSONField(default=dict, editable=False)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["unit"])]

    def __str__(self) -> str:
        return f"{self.unit}: {self.grade}"


class Listing(Versioned):
    """The offer of one unit: price, words, and whether it is on show."""

    class Status(models.TextChoices):
        DRAFT = "draft", "draft"
        LIVE = "live", "on offer"
        ENDED = "ended", "ended"
        SOLD = "sold", "sold"

    unit = models.OneToOneField(Unit, on_delete=models.PROTECT, related_name="listing")
    channel = models.ForeignKey(Channel, on_delete=models.PROTECT, related_name="listings")
    asking = models.DecimalField(
        "asking price", max_digits=10, decimal_places=2, null=True, blank=True, validators=NOT_NEGATIVE
    )
    floor = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    below_floor_reason = models.CharField("why under the floor", max_length=200, blank=True)
    title = models.CharField(max_length=120, blank=True)
    text = models.TextField(max_length=6000, blank=True)
    # The sentences it was written from, by code: what has changed since is told from them.
    written = models.JSONField(default=dict, blank=True, editable=False)
    status = models.CharField(max_length=6, choices=Status, default=Status.DRAFT)
    published_at = models.DateTimeField(null=True, blank=True)
    # What the public shop finds it by: the grade as it was given last, its shape; and whether it shows it now.
    grade = models.CharField(max_length=10, choices=GRADES, blank=True, editable=False)
    shape = models.CharField(max_length=12, choices=FORM_FACTORS, blank=True, editable=False)
    on_show = models.BooleanField(default=False, editable=False)
    # As it was looked at last: how many sentences went stale, what to ask now and what that gains, what waiting is
    # worth and the lowest price that is as good. None: nobody can say, or it was not looked at yet.
    looked_at = models.DateTimeField(null=True, blank=True, editable=False)
    stale = models.PositiveSmallIntegerField(default=0, editable=False)
    ask_now = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    gains = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    waiting = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    least = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)

    class Meta:
        indexes = [
            models.Index(fields=["status", "published_at"]),
            models.Index(fields=["on_show", "published_at"], name="listing_on_show"),
            models.Index(fields=["on_show", "grade", "published_at"], name="listing_on_show_by_grade"),
            models.Index(fields=["on_show", "shape", "published_at"], name="listing_on_show_by_shape"),
            models.Index(fields=["on_show", "asking"], name="listing_on_show_by_price"),
            models.Index(fields=["status", "looked_at"], name="listing_to_look_at"),
            models.Index(fields=["status", "gains"], name="listing_gains"),
            models.Index(fields=["status", "stale"], name="listing_stale"),
        ]
        constraints = [
            models.CheckConstraint(
                condition=~Q(status="live") | Q(asking__isnull=False, asking__gt=0), name="no_listing_without_a_price"
            ),
        ]

    @property
    def is_live(self) -> bool:
        """On offer now."""
        return self.status == self.Status.LIVE

    @property
    def is_sold(self) -> bool:
        return self.status == self.Status.SOLD

    def __str__(self) -> str:
        return self.title or str(self.unit)


class ListingWord(models.Model):
    """A word of the title of what the shop shows: what a visitor looks for begins one."""

    listing = models.ForeignKey(Listing, on_delete=models.CASCADE, related_name="words")
    word = models.CharField(max_length=24)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["word", "listing"], name="a_word_of_a_title_once")]

    def __str__(self) -> str:
        return self.word


class PriceStep(models.Model):
    """How long a unit stood on offer at a price, and what was thought likely then: what the pace of sales is learned
    from. The one that goes on has no end."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="price_steps")
    channel = models.ForeignKey(Channel, on_delete=models.PROTECT, related_name="+")
    asking = models.DecimalField(max_digits=10, decimal_places=2)
    likely = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    begun_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True, blank=True)
    sold = models.BooleanField(default=False)
    # What it went for; None for no sale, and where the price was of several together.
    sold_for = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    open_for = models.OneToOneField(Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="price_step")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["channel", "ended_at"], name="price_step_channel")]
        constraints = [
            models.CheckConstraint(condition=Q(asking__gt=0), name="a_price_step_asks_something"),
            models.CheckConstraint(
                condition=Q(ended_at__isnull=True, open_for__isnull=False, sold=False)
                | Q(ended_at__isnull=False, open_for__isnull=True),
                name="a_price_step_goes_on_or_ended",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.unit} at {self.asking}"


class DisclosureWording(models.Model):
    """The words chosen for one thing that must be said, for exactly that fact of that unit."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="wordings")
    kind = models.CharField(max_length=20, choices=DISCLOSURES)
    what = models.CharField(max_length=400, blank=True)
    words = models.CharField("as buyers read it", max_length=400)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["unit", "kind"], name="wording_of_unit")]
        constraints = [models.CheckConstraint(condition=~Q(words=""), name="a_wording_says_something")]

    def __str__(self) -> str:
        return self.words


class ListingSentence(Versioned):
    """A sentence of every listing in the shop’s own words, in place of the standard one."""

    code = models.CharField(max_length=20, unique=True)
    words = models.CharField(max_length=300)

    class Meta:
        ordering = ["code"]
        constraints = [models.CheckConstraint(condition=~Q(words=""), name="a_sentence_says_something")]

    def __str__(self) -> str:
        return self.words


class Offer(models.Model):
    """What somebody offered for a unit, and what was answered."""

    class Status(models.TextChoices):
        OPEN = "open", "not answered"
        TAKEN = "taken", "taken"
        COUNTERED = "countered", "asked for more"
        DECLINED = "declined", "declined"

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="offers")
    channel = models.ForeignKey(Channel, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    amount = models.DecimalField("offered", max_digits=10, decimal_places=2, validators=NOT_NEGATIVE)
    buyer = models.CharField("by whom", max_length=120)
    contact = models.CharField("how to reach them", max_length=120, blank=True)
    # How a marketplace calls it; it has been told the answer, or not yet.
    remote = models.CharField(max_length=64, null=True, blank=True, editable=False)
    told_at = models.DateTimeField(null=True, blank=True, editable=False)
    made_at = models.DateTimeField()
    until = models.DateTimeField("stands until", null=True, blank=True)
    status = models.CharField(max_length=9, choices=Status, default=Status.OPEN)
    counter = models.DecimalField("asked instead", max_digits=10, decimal_places=2, null=True, blank=True)
    # What waiting was worth when it was answered; None where nobody could say.
    waiting = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    # As it was compared last: what it leaves, what to say, and the chance that a counter-offer is paid.
    leaves = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    advice = models.CharField(max_length=9, choices=Status, blank=True, editable=False)
    advised = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    likely_yes = models.FloatField(null=True, blank=True, editable=False)
    # What doing so is worth more than waiting.
    gain = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, editable=False)
    answered_at = models.DateTimeField(null=True, blank=True)
    answered_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["status", "made_at"], name="offer_status")]
        constraints = [
            models.UniqueConstraint(fields=["channel", "remote"], name="an_offer_comes_once"),
            models.CheckConstraint(condition=Q(amount__gt=0), name="an_offer_offers_something"),
            models.CheckConstraint(
                condition=Q(status="open", answered_at__isnull=True) | Q(answered_at__isnull=False) & ~Q(status="open"),
                name="an_answer_has_its_time",
            ),
            models.CheckConstraint(
                condition=~Q(status="countered") | Q(counter__isnull=False), name="a_counter_offer_has_its_price"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.buyer}: {self.amount} for {self.unit}"

    @property
    def is_open(self) -> bool:
        return self.status == self.Status.OPEN

    @property
    def to_take(self) -> bool:
        """It is better than waiting, and than asking for more."""
        return self.advice == self.Status.TAKEN

    @property
    def not_told_yet(self) -> bool:
        """A marketplace has not heard the answer."""
        return bool(self.remote) and not self.is_open and self.told_at is None


class Reserved(models.Model):
    """A unit held for somebody until a moment; nobody else is sold it meanwhile. One at a time: `open_for`."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="reservations")
    buyer = models.CharField("for whom", max_length=120)
    price = models.DecimalField("at", max_digits=10, decimal_places=2, null=True, blank=True)
    until = models.DateTimeField()
    made_at = models.DateTimeField()
    made_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    ended_at = models.DateTimeField(null=True, blank=True)
    ended_words = models.CharField(max_length=160, blank=True)
    open_for = models.OneToOneField(Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="reserved")

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(condition=Q(until__gt=models.F("made_at")), name="reserved_for_some_time"),
            models.CheckConstraint(
                condition=Q(ended_at__isnull=True, open_for__isnull=False)
                | Q(ended_at__isnull=False, open_for__isnull=True),
                name="a_reservation_goes_on_or_ended",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.unit} for {self.buyer}"
