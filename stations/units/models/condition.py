"""What came with a unit, what is wrong with it, its photos, and what was read and measured on it."""

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from core.intake.completeness import Presence
from core.intake.condition import FindingKind
from core.intake.shots import Shot
from core.machine.casing import Face
from stations.people.models import Person
from stations.units.models.unit import Unit

FACES = [(f.value, f.value) for f in Face]
FINDING_KINDS = [(k.value, k.label) for k in FindingKind]
PRESENCES = [(p.value, p.value.replace("_", " ")) for p in Presence]
SHOTS = [(s.value, s.label) for s in Shot]


class Content(models.Model):
    """One thing that came with a unit, or should have."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="contents")
    name = models.CharField(max_length=60)
    weight = models.PositiveSmallIntegerField(default=1)
    presence = models.CharField(max_length=12, choices=PRESENCES, default=Presence.UNSEEN.value)
    # 0 while nobody said.
    estimate = models.DecimalField(
        "a replacement costs about", max_digits=8, decimal_places=2, default=0, validators=[MinValueValidator(0)]
    )
    done_without = models.BooleanField(default=False)

    class Meta:
        ordering = ["-weight", "id"]
        indexes = [models.Index(fields=["presence", "done_without"], name="content_wanted")]
        constraints = [models.UniqueConstraint(fields=["unit", "name"], name="content_once_a_unit")]

    def __str__(self) -> str:
        return self.name

    @property
    def is_wrong(self) -> bool:
        """There is one, and not the one that belongs there."""
        return self.presence == Presence.WRONG


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
    extent_mm = models.PositiveSmallIntegerField(
        "length, mm", null=True, blank=True, validators=[MaxValueValidator(2000, "Two metres at most.")]
    )
    words = models.CharField("in words", max_length=120, blank=True)
    photo = models.ForeignKey("Photo", null=True, blank=True, on_delete=models.SET_NULL, related_name="findings")
    status = models.CharField(max_length=8, choices=Status, default=Status.OPEN)
    settled_words = models.CharField("what was done", max_length=200, blank=True)
    settled_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    settled_at = models.DateTimeField(null=True, blank=True)
    seen_at = models.DateTimeField()
    seen_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=Q(x__range=(0, 1)) & Q(y__range=(0, 1)), name="finding_on_its_face"),
            models.CheckConstraint(condition=Q(severity__range=(1, 4)), name="severity_1_to_4"),
        ]

    def __str__(self) -> str:
        return f"{self.get_kind_display()}, {self.face}{': ' + self.words if self.words else ''}"

    @property
    def is_open(self) -> bool:
        return self.status == self.Status.OPEN

    @property
    def is_hazard(self) -> bool:
        """It is dealt with on a page of its own, where what can hurt is said first."""
        return self.kind in {FindingKind.LEAK, FindingKind.CELL}

    @property
    def is_leak(self) -> bool:
        return self.kind == FindingKind.LEAK

    @property
    def is_noise(self) -> bool:
        return self.kind == FindingKind.NOISE

    @property
    def before_cleaning(self) -> bool:
        """A marking that cleaning could take away."""
        return self.kind == FindingKind.STICKER and self.is_open


class Photo(models.Model):
    """A picture, kept under its content hash with everything but the pixels stripped."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="photos")
    sha256 = models.CharField(max_length=64)
    original_name = models.CharField(max_length=120)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    shot = models.CharField("what it shows", max_length=12, choices=SHOTS, blank=True)
    # A fingerprint of what it looks like (difference hash), to notice the same picture saved again.
    looks = models.BigIntegerField(null=True, editable=False)
    added_at = models.DateTimeField()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["unit", "sha256"], name="photo_once_a_unit")]

    def __str__(self) -> str:
        return self.original_name


class Clip(models.Model):
    """A short sound: how a drive spins up, a fan, a beep. Kept under its content hash."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="clips")
    finding = models.ForeignKey(Finding, null=True, blank=True, on_delete=models.CASCADE, related_name="clips")
    sha256 = models.CharField(max_length=64)
    kind = models.CharField(max_length=4, choices=[(k, k) for k in ("wav", "ogg", "mp3", "m4a")])
    original_name = models.CharField(max_length=120)
    seconds = models.FloatField()
    words = models.CharField("what is heard", max_length=300, blank=True)
    added_at = models.DateTimeField()
    added_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [models.CheckConstraint(condition=Q(seconds__gt=0, seconds__lte=30), name="a_clip_is_short")]

    def __str__(self) -> str:
        return self.words or self.original_name


class UnitFact(models.Model):
    """Something read off a unit (a date code, chips, a plate): what was typed, and the reading that was chosen."""

    class Kind(models.TextChoices):
        DATE_CODE = "date_code", "date code"
        SERIAL = "serial", "serial number"
        MEMORY = "memory", "memory"
        DISPLAY = "display", "display memory"
        APPROVAL = "approval", "approval number"
        SIGNAL = "signal", "colour signal"
        VARIANT = "variant", "mains variant"
        ADAPTER = "adapter", "adapter offered"
        FINISH = "finish", "finish"

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="facts")
    kind = models.CharField(max_length=10, choices=Kind)
    on_what = models.CharField("read off", max_length=60, blank=True)
    typed = models.CharField(max_length=80)
    reading = models.CharField(max_length=160)
    dated = models.DateField(null=True, blank=True)
    repair = models.BooleanField("fitted in a later repair", default=False)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} {self.typed}: {self.reading}"


class ColourSample(models.Model):
    """One measurement of the plastic's colour on a photo; spots as [x, y, r, g, b] with x and y from 0 to 1."""

    class When(models.TextChoices):
        FOUND = "found", "as found"
        AFTER = "after", "after treatment"

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="colours")
    photo = models.ForeignKey(Photo, on_delete=models.PROTECT, related_name="+")
    part = models.CharField("of what", max_length=60)
    moment = models.CharField("when", max_length=6, choices=When, default=When.FOUND)
    neutral = models.JSONField(null=True)
    sheltered = models.JSONField()
    exposed = models.JSONField()
    yellowing = models.FloatField()
    warmer = models.FloatField()
    evenness = models.FloatField()
    words = models.CharField(max_length=80)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.part}: {self.words}"
