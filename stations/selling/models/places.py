"""Where a unit stands on offer, and what the places told: sales, questions, payouts."""

from django.db import models
from django.db.models import F, Q

from core.selling.channel import Standing, Told, standing
from stations.people.models import Person
from stations.selling.models.market import Channel
from stations.units.models import Unit


class Placement(models.Model):
    """A unit on one channel.

    `chosen`: somebody wants it there. `wanted`: and it may be there now. `stands`: what the channel confirmed last,
    None where it was asked and did not answer. `turn` goes up whenever it should stand otherwise; `confirmed` is the
    turn that the channel was told last. What is told is always what should stand then, so that no turn is lost.
    """

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="placements")
    channel = models.ForeignKey(Channel, on_delete=models.PROTECT, related_name="placements")
    chosen = models.BooleanField(default=True)
    wanted = models.BooleanField(default=False)
    stands = models.BooleanField(null=True, default=False)
    turn = models.PositiveIntegerField(default=0)
    confirmed = models.PositiveIntegerField(default=0)
    # A digest of what stands there, so that the same is not told twice.
    told = models.CharField(max_length=64, blank=True)
    # Who speaks to the channel about it, and until when nobody else does.
    held_by = models.CharField(max_length=64, blank=True)
    held_until = models.DateTimeField(null=True, blank=True)
    trouble = models.CharField(max_length=200, blank=True)
    changed_at = models.DateTimeField()

    class Meta:
        ordering = ["channel__name"]
        indexes = [models.Index(fields=["channel", "wanted", "stands"], name="placement_standing")]
        constraints = [
            models.UniqueConstraint(fields=["unit", "channel"], name="once_on_a_channel"),
            models.CheckConstraint(condition=Q(confirmed__lte=F("turn")), name="told_what_was_wanted"),
        ]

    def __str__(self) -> str:
        return f"{self.unit} on {self.channel}"

    @property
    def standing(self) -> Standing:
        return standing(self.wanted, self.stands, self.confirmed != self.turn)

    @property
    def by_hand_to_do(self) -> bool:
        """Somebody has to put it up, change it or take it down there."""
        return self.channel.by_hand and not self.standing.settled


class ChannelMessage(models.Model):
    """One thing that a channel told, as it came: kept once however often it is told, with what became of it."""

    class Outcome(models.TextChoices):
        NEW = "new", "not gone through yet"
        DONE = "done", "taken in"
        REFUSED = "refused", "refused"
        WAITS = "waits", "needs you"
        UNREAD = "unread", "can’t be read"

    channel = models.ForeignKey(Channel, on_delete=models.PROTECT, related_name="messages")
    kind = models.CharField(max_length=20)
    remote = models.CharField(max_length=64)
    raw = models.JSONField()
    unit = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="channel_messages")
    came_at = models.DateTimeField()
    outcome = models.CharField(max_length=7, choices=Outcome, default=Outcome.NEW)
    words = models.CharField(max_length=300, blank=True)
    # Of a sale that was refused: the channel knows.
    told_at = models.DateTimeField(null=True, blank=True)
    # Somebody has seen to it.
    settled_at = models.DateTimeField(null=True, blank=True)
    settled_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["outcome", "settled_at"], name="message_outcome")]
        constraints = [models.UniqueConstraint(fields=["channel", "kind", "remote"], name="told_once")]

    def __str__(self) -> str:
        return f"{self.kind} {self.remote} by {self.channel}"

    @property
    def was_refused(self) -> bool:
        return self.outcome == self.Outcome.REFUSED

    @property
    def waits(self) -> bool:
        return self.outcome == self.Outcome.WAITS

    @property
    def is_sale_that_waits(self) -> bool:
        """A sale of something of ours, to be recorded or refused."""
        return self.waits and self.kind == Told.SALE and self.unit_id is not None

    @property
    def is_payout_that_waits(self) -> bool:
        """Money for something of ours that is not what was due."""
        return self.waits and self.kind == Told.PAYOUT and self.unit_id is not None


class Question(models.Model):
    """What somebody asked about a unit, and what was answered."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="questions")
    channel = models.ForeignKey(Channel, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    remote = models.CharField(max_length=64, null=True, blank=True, editable=False)
    who = models.CharField("who asks", max_length=120)
    contact = models.CharField("how to reach them", max_length=120, blank=True)
    words = models.TextField("what they ask", max_length=2000)
    asked_at = models.DateTimeField()
    answer = models.TextField(max_length=2000, blank=True)
    answered_at = models.DateTimeField(null=True, blank=True)
    answered_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    told_at = models.DateTimeField(null=True, blank=True, editable=False)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["answered_at", "asked_at"], name="question_answered")]
        constraints = [
            models.UniqueConstraint(fields=["channel", "remote"], name="a_question_comes_once"),
            models.CheckConstraint(
                condition=Q(answered_at__isnull=True, answer="") | Q(answered_at__isnull=False) & ~Q(answer=""),
                name="a_question_is_answered_in_words",
            ),
        ]

    def __str__(self) -> str:
        return self.words[:60]

    @property
    def is_open(self) -> bool:
        return self.answered_at is None

    @property
    def not_told_yet(self) -> bool:
        """A marketplace has not heard the answer."""
        return bool(self.remote) and self.answered_at is not None and self.told_at is None


class Bundle(models.Model):
    """Several units offered together at one price, until they are sold or one of them goes another way."""

    title = models.CharField("what it is", max_length=120)
    price = models.DecimalField(max_digits=10, decimal_places=2)
    parcels = models.PositiveSmallIntegerField(default=1)
    below_floor_reason = models.CharField("why under the floor", max_length=200, blank=True)
    units = models.ManyToManyField(Unit, related_name="bundles")
    made_at = models.DateTimeField()
    made_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    ended_at = models.DateTimeField(null=True, blank=True)
    sold = models.BooleanField(default=False)
    ended_words = models.CharField(max_length=160, blank=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["ended_at"], name="bundle_ended")]
        constraints = [
            models.CheckConstraint(condition=Q(price__gt=0) & Q(parcels__gte=1), name="a_bundle_costs_something"),
            models.CheckConstraint(condition=Q(sold=False) | Q(ended_at__isnull=False), name="a_sold_bundle_ended"),
        ]

    def __str__(self) -> str:
        return self.title

    @property
    def is_open(self) -> bool:
        return self.ended_at is None


class ShopPage(models.Model):
    """A page of the public shop in the owner’s words, in place of the standard one."""

    slug = models.SlugField(max_length=20, unique=True)
    title = models.CharField(max_length=80)
    text = models.TextField(max_length=8000)

    class Meta:
        ordering = ["slug"]
        constraints = [models.CheckConstraint(condition=~Q(text="") & ~Q(title=""), name="a_page_says_something")]

    def __str__(self) -> str:
        return self.title
