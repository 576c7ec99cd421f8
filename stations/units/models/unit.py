"""Units: one machine or part with a tag of its own."""

from datetime import datetime
from decimal import Decimal

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from core.flow.stage import BOUGHT, Stage, State, Station
from core.intake.triage import Path
from core.machine.approach import Approach
from core.machine.casing import FormFactor
from core.machine.mains import Mains, Polarity, mains_known, mains_words
from core.machine.measures import AMPS_WORDS, MOST_ADAPTER_AMPS, MOST_ADAPTER_VOLTS, VOLTS_WORDS
from core.machine.supply import Battery, Supply
from core.machine.tags import Tag
from stations.buying.models import Lot, LotLine
from stations.catalogue.models import BATTERIES, FORM_FACTORS, MAINS, SUPPLIES, MachineModel
from stations.common.models import Versioned
from stations.ledger.models import Posting
from stations.people.models import Person

APPROACHES = [(a.value, a.label) for a in Approach]
POLARITIES = [(p.value, p.label) for p in Polarity]
ABOVE_0 = MinValueValidator(Decimal("0.001"), "Above 0.")
PATHS = [(p.value, p.label) for p in Path]


class Unit(Versioned):
    """One machine or part with a tag of its own."""

    class Holding(models.TextChoices):
        OWNED = "owned", "ours"
        CONSIGNED = "consigned", "on commission"
        CUSTODY = "custody", "in custody"

    number = models.PositiveIntegerField(unique=True)
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT, related_name="units")
    line = models.ForeignKey(LotLine, on_delete=models.PROTECT, related_name="units")
    line_index = models.PositiveSmallIntegerField()
    model = models.ForeignKey(MachineModel, null=True, blank=True, on_delete=models.PROTECT, related_name="units")
    title = models.CharField("what it is", max_length=80)
    form_factor = models.CharField("form factor", max_length=12, choices=FORM_FACTORS, default=FormFactor.DESKTOP.value)
    serial = models.CharField(max_length=40, blank=True)
    mains = models.CharField("mains, as its plate says", max_length=40, blank=True)
    mains_variant = models.CharField("plugs into", max_length=12, choices=MAINS, default=Mains.UNKNOWN.value)
    adapter_volts = models.DecimalField(
        "adapter, V",
        max_digits=6,
        decimal_places=3,
        null=True,
        blank=True,
        validators=[ABOVE_0, MaxValueValidator(MOST_ADAPTER_VOLTS, VOLTS_WORDS)],
    )
    adapter_amps = models.DecimalField(
        "adapter, A",
        max_digits=6,
        decimal_places=3,
        null=True,
        blank=True,
        validators=[ABOVE_0, MaxValueValidator(MOST_ADAPTER_AMPS, AMPS_WORDS)],
    )
    adapter_polarity = models.CharField("plug", max_length=12, choices=POLARITIES, default=Polarity.UNKNOWN.value)
    supply = models.CharField(max_length=12, choices=SUPPLIES, default=Supply.UNKNOWN.value)
    battery = models.CharField(max_length=10, choices=BATTERIES, default=Battery.UNKNOWN.value)
    picture_tube = models.BooleanField("CRT inside", null=True, blank=True)
    drives = models.PositiveSmallIntegerField(
        null=True, blank=True, validators=[MaxValueValidator(9, "Nine drives at most.")]
    )
    keyboard = models.BooleanField("keyboard to test", null=True, blank=True)
    place = models.CharField(max_length=40, blank=True)
    approach = models.CharField(max_length=10, choices=APPROACHES, blank=True)
    approach_reason = models.CharField(max_length=200, blank=True)
    holding = models.CharField("whose is it", max_length=10, choices=Holding, default=Holding.OWNED)
    owner_name = models.CharField("owner, if not us", max_length=80, blank=True)
    data_on_board = models.BooleanField("storage in it that keeps data", null=True, blank=True)
    data_note = models.CharField("what storage, what may be on it", max_length=160, blank=True)
    data_keep = models.BooleanField("to be imaged before it is cleared", default=False)
    path = models.CharField(max_length=10, choices=PATHS, blank=True, editable=False)
    path_reason = models.CharField(max_length=200, blank=True, editable=False)
    data_cleared_at = models.DateTimeField(null=True, blank=True, editable=False)
    # When storage from elsewhere was last fitted: it has to be sanitised after that.
    storage_added_at = models.DateTimeField(null=True, blank=True, editable=False)
    # When every face was looked over: before that nothing is known of its looks.
    looked_over_at = models.DateTimeField(null=True, blank=True, editable=False)
    identified_at = models.DateTimeField(null=True, blank=True, editable=False)
    assessed_at = models.DateTimeField(null=True, blank=True, editable=False)
    taken_apart_at = models.DateTimeField(null=True, blank=True, editable=False)
    parked = models.CharField(max_length=120, blank=True)
    scrapped_at = models.DateTimeField(null=True, blank=True, editable=False)
    returned_at = models.DateTimeField(null=True, blank=True, editable=False)
    # When it came back from its buyer, or its owner: what was shown before holds no longer, and it had power there.
    came_back_at = models.DateTimeField(null=True, blank=True, editable=False)
    received_at = models.DateTimeField()
    received_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    scrap_posting = models.OneToOneField(Posting, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    share_posting = models.OneToOneField(Posting, null=True, blank=True, on_delete=models.PROTECT, related_name="+")

    stage = models.CharField(max_length=12, choices=[(s.value, s.label) for s in Stage], default=Stage.RECEIVED.value)
    station = models.CharField(
        max_length=10, choices=[(s.value, s.label) for s in Station], default=Station.INTAKE.value
    )
    state = models.CharField(max_length=6, choices=[(s.value, s.label) for s in State], default=State.MOVING.value)
    stage_reason = models.CharField(max_length=200, blank=True)
    next_step = models.CharField(max_length=120, blank=True)
    next_kind = models.CharField(max_length=10, blank=True)
    next_minutes = models.PositiveSmallIntegerField(default=0)
    minutes_ahead = models.PositiveSmallIntegerField(default=0)
    stage_since = models.DateTimeField()
    # What a minute of the next step brings nearer, in base currency; nothing where there is none to do.
    pull = models.FloatField(null=True, blank=True, editable=False)
    # The next day on which it may stand otherwise though nobody does anything.
    again_on = models.DateField(null=True, blank=True, db_index=True, editable=False)

    class Meta:
        ordering = ["number"]
        indexes = [
            models.Index(fields=["station", "state", "pull"], name="unit_station_state_pull"),
            models.Index(fields=["state", "pull"], name="unit_state_pull"),
            models.Index(fields=["lot", "station"], name="unit_lot_station"),
            models.Index(fields=["stage"], name="unit_stage"),
            models.Index(fields=["serial"], name="unit_serial"),
            models.Index(fields=["title"], name="unit_title"),
            models.Index(fields=["place"], name="unit_place"),
        ]
        constraints = [
            models.CheckConstraint(condition=Q(number__gte=1), name="tag_numbers_begin_at_1"),
            models.UniqueConstraint(fields=["line", "line_index"], name="one_unit_a_piece_of_a_line"),
            models.CheckConstraint(
                condition=Q(holding="owned") | ~Q(owner_name=""), name="what_is_not_ours_names_its_owner"
            ),
            models.CheckConstraint(
                condition=Q(assessed_at__isnull=True) | ~Q(approach=""), name="assessed_has_an_approach"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.tag} {self.title}"

    @property
    def tag(self) -> Tag:
        return Tag(self.number)

    @property
    def mains_words(self) -> str:
        """What is known of the mains it wants: the one source for every page, report and listing."""
        return mains_words(Mains(self.mains_variant), self.mains)

    @property
    def mains_known(self) -> bool:
        return mains_known(Mains(self.mains_variant), self.mains)

    @property
    def gone(self) -> bool:
        """It is somebody else’s, left the house, or is no longer a unit."""
        return bool(self.stage) and Stage(self.stage).gone

    @property
    def left(self) -> bool:
        """It is in the house no more."""
        return bool(self.stage) and Stage(self.stage).left

    @property
    def here_since(self) -> datetime:
        """Since when it is in the house without a break."""
        return self.came_back_at or self.received_at

    def is_since_away(self, moment: datetime) -> bool:
        """Whether nothing was done to it after that moment that is not on record."""
        return self.came_back_at is None or moment >= self.came_back_at

    @property
    def closed_to_work(self) -> bool:
        """Neither bench nor workshop works at it."""
        return bool(self.stage) and Stage(self.stage).closed_to_work

    @property
    def its_buyers(self) -> bool:
        """Sold, and here again to be mended or taken back."""
        return self.stage == Stage.BACK

    @property
    def whose(self) -> str:
        """Whose it is, in words."""
        if self.its_buyers:
            return "its buyer’s"
        if self.stage in BOUGHT:
            return f"sold for {self.owner_name}" if self.owner_name else "sold"
        return self.owner_name or "workshop stock"

    @property
    def ours(self) -> bool:
        return self.holding == self.Holding.OWNED

    @property
    def consigned(self) -> bool:
        return self.holding == self.Holding.CONSIGNED

    @property
    def agreed(self) -> "OwnersTerms":
        """What was agreed with its owner; of what is ours, and where nobody said, nothing was."""
        return (None if self.ours else getattr(self, "owners_terms", None)) or OwnersTerms(unit=self)

    @property
    def scrapped(self) -> bool:
        return self.stage == Stage.SCRAPPED

    @property
    def unsafe(self) -> bool:
        """Not safe."""
        return self.state == State.HOLD

    @property
    def stands_still(self) -> bool:
        """Nothing goes on with it before somebody decides, or makes it safe."""
        return self.state in {State.DECISION, State.HOLD}

    @property
    def donor(self) -> bool:
        return self.approach == Approach.DONOR

    @property
    def supply_is_external(self) -> bool:
        """Fed by an adapter of its own, so by one that could be taken for another."""
        return Supply(self.supply).external

    @property
    def custody(self) -> bool:
        """Somebody else's and never sold by us; what is on commission is sold for its owner."""
        return self.holding == self.Holding.CUSTODY

    @property
    def our_share(self) -> Decimal | None:
        """The part of what it is sold for that comes in; None where nobody said what was agreed."""
        if not self.consigned:
            return Decimal(0 if self.custody else 1)
        terms = getattr(self, "owners_terms", None)
        return terms.commission_percent / 100 if terms else None

    @property
    def expected_worth(self) -> Decimal | None:
        """What it is thought to fetch; None where nobody said."""
        return self.line.worth_likely


class OwnersTerms(models.Model):
    """What was agreed with the owner of a unit; what is ours has none."""

    unit = models.OneToOneField(Unit, on_delete=models.CASCADE, related_name="owners_terms")
    agreement = models.CharField("what was agreed", max_length=300, blank=True)
    refused_work = models.CharField("what must not be done", max_length=300, blank=True)
    commission_percent = models.DecimalField(
        "our commission, %",
        max_digits=5,
        decimal_places=2,
        default=0,
        validators=[MinValueValidator(0), MaxValueValidator(100)],
    )

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=Q(commission_percent__gte=0, commission_percent__lte=100), name="commission_0_to_100"
            )
        ]

    def __str__(self) -> str:
        return self.agreement or "nothing agreed"
