"""Models of machines, units, what came with them, what is wrong with them, and their photos."""

from decimal import Decimal

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from core.bench.checks import Battery, Supply
from core.flow.stage import Stage, State, Station
from core.intake.approach import Approach
from core.intake.casing import Face, FormFactor
from core.intake.completeness import Presence
from core.intake.condition import FindingKind
from core.tags import Tag
from stations.buying.models import Lot, LotLine
from stations.ledger.models import Posting
from stations.people.models import Person, Versioned

APPROACHES = [(a.value, a.label) for a in Approach]
SUPPLIES = [(s.value, s.label) for s in Supply]
BATTERIES = [(b.value, b.label) for b in Battery]
FORM_FACTORS = [(f.value, f.label) for f in FormFactor]
FACES = [(f.value, f.value) for f in Face]
FINDING_KINDS = [(k.value, k.value) for k in FindingKind]
PRESENCES = [(p.value, p.value.replace("_", " ")) for p in Presence]


class MachineModel(models.Model):
    """A model in the shop's bank: what a machine of this kind is, and what should come with it."""

    maker = models.CharField(max_length=40)
    name = models.CharField(max_length=40)
    form_factor = models.CharField(max_length=12, choices=FORM_FACTORS)
    year_from = models.PositiveSmallIntegerField(null=True, blank=True)
    year_to = models.PositiveSmallIntegerField(null=True, blank=True)
    width_mm = models.PositiveSmallIntegerField(default=400)
    height_mm = models.PositiveSmallIntegerField(default=150)
    depth_mm = models.PositiveSmallIntegerField(default=380)
    supply = models.CharField(max_length=12, choices=SUPPLIES, default=Supply.SWITCHING)
    battery = models.CharField(max_length=10, choices=BATTERIES, default=Battery.NONE)
    picture_tube = models.BooleanField(default=False)
    drives = models.PositiveSmallIntegerField(default=0)
    keyboard = models.BooleanField(default=True)
    photos_wanted = models.PositiveSmallIntegerField(default=3)

    class Meta:
        ordering = ["maker", "name"]
        constraints = [
            models.UniqueConstraint(fields=["maker", "name"], name="model_once"),
            models.CheckConstraint(
                condition=Q(width_mm__gt=0) & Q(height_mm__gt=0) & Q(depth_mm__gt=0), name="model_has_a_size"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.maker} {self.name}"

    @property
    def years(self) -> str:
        if not self.year_from:
            return ""
        return (
            f"{self.year_from}"
            if not self.year_to or self.year_to == self.year_from
            else f"{self.year_from}–{self.year_to}"
        )


class ExpectedItem(models.Model):
    """One thing that belongs with a model; `weight` says how much it matters."""

    model = models.ForeignKey(MachineModel, on_delete=models.CASCADE, related_name="expected")
    name = models.CharField(max_length=60)
    weight = models.PositiveSmallIntegerField(default=1, validators=[MinValueValidator(1)])

    class Meta:
        ordering = ["-weight", "id"]

    def __str__(self) -> str:
        return self.name


class Unit(Versioned):
    """One machine or part with a tag of its own."""

    number = models.PositiveIntegerField(unique=True)
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT, related_name="units")
    line = models.ForeignKey(LotLine, on_delete=models.PROTECT, related_name="units")
    line_index = models.PositiveSmallIntegerField()
    model = models.ForeignKey(MachineModel, null=True, blank=True, on_delete=models.PROTECT, related_name="units")
    title = models.CharField("what it is", max_length=80)
    form_factor = models.CharField("shape", max_length=12, choices=FORM_FACTORS, default=FormFactor.DESKTOP)
    serial = models.CharField(max_length=40, blank=True)
    mains = models.CharField("mains and region", max_length=40, blank=True, default="230 V, 50 Hz")
    supply = models.CharField(max_length=12, choices=SUPPLIES, default=Supply.SWITCHING)
    battery = models.CharField(max_length=10, choices=BATTERIES, default=Battery.NONE)
    picture_tube = models.BooleanField("picture tube inside", default=False)
    drives = models.PositiveSmallIntegerField(default=0, validators=[MaxValueValidator(9, "Nine drives at most.")])
    keyboard = models.BooleanField("keyboard to test", default=True)
    place = models.CharField(max_length=40, blank=True)
    approach = models.CharField(max_length=10, choices=APPROACHES, blank=True)
    approach_reason = models.CharField(max_length=200, blank=True)
    owner_name = models.CharField("owner, if in custody", max_length=80, blank=True)
    data_on_board = models.BooleanField("storage that may hold data", default=False)
    data_cleared_at = models.DateTimeField(null=True, blank=True, editable=False)
    identified_at = models.DateTimeField(null=True, blank=True, editable=False)
    assessed_at = models.DateTimeField(null=True, blank=True, editable=False)
    parked = models.CharField(max_length=120, blank=True)
    scrapped_at = models.DateTimeField(null=True, blank=True, editable=False)
    returned_at = models.DateTimeField(null=True, blank=True, editable=False)
    received_at = models.DateTimeField()
    received_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    share_posting = models.OneToOneField(Posting, null=True, blank=True, on_delete=models.PROTECT, related_name="+")

    stage = models.CharField(max_length=12, choices=[(s.value, s.label) for s in Stage], default=Stage.RECEIVED)
    station = models.CharField(max_length=10, choices=[(s.value, s.label) for s in Station], default=Station.INTAKE)
    state = models.CharField(max_length=6, choices=[(s.value, s.label) for s in State], default=State.MOVING)
    stage_reason = models.CharField(max_length=200, blank=True)
    next_step = models.CharField(max_length=120, blank=True)
    next_kind = models.CharField(max_length=10, blank=True)
    next_minutes = models.PositiveSmallIntegerField(default=0)
    stage_since = models.DateTimeField()

    class Meta:
        ordering = ["number"]
        indexes = [
            models.Index(fields=["station", "state"], name="unit_station_state"),
            models.Index(fields=["lot", "station"], name="unit_lot_station"),
            models.Index(fields=["stage"], name="unit_stage"),
            models.Index(fields=["serial"], name="unit_serial"),
            models.Index(fields=["title"], name="unit_title"),
        ]
        constraints = [
            models.CheckConstraint(condition=Q(number__gte=1), name="tag_numbers_begin_at_1"),
            models.UniqueConstraint(fields=["line", "line_index"], name="one_unit_a_piece_of_a_line"),
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
    def custody(self) -> bool:
        return bool(self.owner_name)

    @property
    def expected_worth(self) -> Decimal:
        return self.line.worth_likely


class Content(models.Model):
    """One thing that came with a unit, or should have."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="contents")
    name = models.CharField(max_length=60)
    weight = models.PositiveSmallIntegerField(default=1)
    presence = models.CharField(max_length=12, choices=PRESENCES, default=Presence.UNSEEN)

    class Meta:
        ordering = ["-weight", "id"]
        constraints = [models.UniqueConstraint(fields=["unit", "name"], name="content_once_a_unit")]

    def __str__(self) -> str:
        return self.name


class Finding(models.Model):
    """A defect seen on a face of the case; x and y from 0 to 1 across and down that face."""

    class Status(models.TextChoices):
        OPEN = "open", "open"
        RESOLVED = "resolved", "resolved: was"
        PATINA = "patina", "accepted as patina"

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="findings")
    face = models.CharField(max_length=10, choices=FACES)
    x = models.FloatField(validators=[MinValueValidator(0), MaxValueValidator(1)])
    y = models.FloatField(validators=[MinValueValidator(0), MaxValueValidator(1)])
    kind = models.CharField(max_length=10, choices=FINDING_KINDS)
    severity = models.PositiveSmallIntegerField(
        default=2, choices=[(1, "1 slight"), (2, "2 plain"), (3, "3 bad"), (4, "4 grave")]
    )
    extent_percent = models.PositiveSmallIntegerField(
        "% of the face",
        default=5,
        validators=[MinValueValidator(1, "From 1 to 100."), MaxValueValidator(100, "From 1 to 100.")],
    )
    words = models.CharField("in words", max_length=120)
    status = models.CharField(max_length=8, choices=Status, default=Status.OPEN)
    seen_at = models.DateTimeField()
    seen_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=Q(x__range=(0, 1)) & Q(y__range=(0, 1)), name="finding_on_its_face"),
            models.CheckConstraint(condition=Q(severity__range=(1, 4)), name="severity_1_to_4"),
        ]

    def __str__(self) -> str:
        return f"{self.kind}, {self.face}: {self.words}"


class Photo(models.Model):
    """A picture, kept under its content hash with everything but the pixels stripped."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="photos")
    sha256 = models.CharField(max_length=64)
    original_name = models.CharField(max_length=120)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    added_at = models.DateTimeField()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["unit", "sha256"], name="photo_once_a_unit")]

    def __str__(self) -> str:
        return self.original_name
