"""Systems a shop installs, drives that were planned, what was tried and read back, firmware that was tried, what was
sanitised, tables of bad tracks."""

from django.db import models
from django.db.models import F, Q

from core.workshop.storage.sanitise import Medium, Method
from stations.catalogue.models import MachineModel
from stations.common.models import Versioned
from stations.people.models import Person
from stations.units.models import Part, Unit
from stations.workshop.models.jobs import Job
from stations.workshop.models.records import Knowledge


class SystemRules(Versioned):
    """A system and what it wants of a drive: see core/workshop/storage/systems.py."""

    name = models.CharField("system", max_length=40, unique=True)
    rules = models.TextField(max_length=2000)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class PlannedStorage(models.Model):
    """What a job's drive was planned from, with the rules as they were then: the plan is worked out of it again."""

    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="storage")
    asked = models.JSONField()

    def __str__(self) -> str:
        return f"drive of {self.job}"


class InstallAttempt(models.Model):
    """One go at a step of an installation: what was varied (empty: as written), what it said, whether it worked."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="attempts")
    model = models.ForeignKey(MachineModel, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    index = models.PositiveSmallIntegerField()
    what = models.CharField(max_length=80)
    varied = models.CharField("what is varied", max_length=160, blank=True)
    words = models.CharField("what it said or did", max_length=200, blank=True)
    worked = models.BooleanField()
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["what", "model"], name="attempts_at")]
        constraints = [
            models.CheckConstraint(condition=Q(worked=True) | ~Q(words=""), name="a_failure_says_what_was_seen"),
        ]

    def __str__(self) -> str:
        return f"{self.what}: {self.varied or 'as written'}, {'worked' if self.worked else self.words}"


class MediumRead(models.Model):
    """A disk or card that was written for an installation, read back and compared with its image."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="media_read")
    index = models.PositiveSmallIntegerField()
    image = models.ForeignKey(Knowledge, null=True, on_delete=models.SET_NULL, related_name="+")
    name = models.CharField("which one", max_length=120)
    sha256 = models.CharField(max_length=64)
    equal = models.BooleanField()
    words = models.CharField("where it differs", max_length=120)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.name}: {self.words}"


class FirmwareChange(models.Model):
    """What was done with the firmware of a card or board: read out, another image put in its place, put back, or the
    other one left in. The newest row of a chip says how it stands."""

    class What(models.TextChoices):
        READ = "read", "read out, twice and equal"
        TRIED = "tried", "another is in its place"
        STAYS = "stays", "the other one stays"
        BACK = "back", "put back, read again and equal"

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="firmware_changes")
    chip = models.CharField("of which card or board", max_length=60)
    what = models.CharField(max_length=5, choices=What)
    image = models.ForeignKey(Knowledge, on_delete=models.PROTECT, related_name="+")
    words = models.CharField("what came of it", max_length=200, blank=True)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["unit", "chip"], name="firmware_of_chip")]

    def __str__(self) -> str:
        return f"{self.chip}: {self.get_what_display()}"


class Sanitising(models.Model):
    """A drive, card or disk that was sanitised, as its certificate has it. Of a unit, or of a part by itself."""

    unit = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="sanitisings")
    part = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="sanitisings")
    medium = models.CharField(max_length=40, choices=[(one.value, one.value) for one in Medium])
    what = models.CharField("which one", max_length=80)
    serial = models.CharField(max_length=40, blank=True)
    method = models.CharField(max_length=8, choices=[(one.value, one.value) for one in Method])
    technique = models.CharField(max_length=120)
    samples = models.PositiveIntegerField(null=True, blank=True)
    differing = models.PositiveIntegerField(null=True, blank=True)
    verified = models.CharField(max_length=120)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(unit__isnull=False, part__isnull=True) | Q(unit__isnull=True, part__isnull=False),
                name="sanitised_one_thing",
            ),
            models.CheckConstraint(
                condition=Q(differing__isnull=True) | Q(differing=0, samples__isnull=False, samples__gt=F("differing")),
                name="sanitised_reads_back_clean",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.what}: {self.method}"


class TrackTable(models.Model):
    """The bad tracks of a drive: those on its label, and those a scan found."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="track_tables")
    what = models.CharField("which drive", max_length=60)
    cylinders = models.PositiveIntegerField(null=True, blank=True)
    heads = models.PositiveSmallIntegerField(null=True, blank=True)
    label = models.TextField("on its label", max_length=20_000, blank=True)
    scan = models.TextField("found by a scan", max_length=20_000, blank=True)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"bad tracks of {self.what}"
