"""What a job of care is done to, where feet and badges sit on a model, and glue that is looked at again."""

from django.db import models
from django.db.models import F, Q

from core.workshop.care.placing import Stuck
from stations.catalogue.models import MachineModel
from stations.people.models import Person
from stations.units.models import Unit
from stations.units.models.condition import FACES
from stations.workshop.models.jobs import Job

STUCK = [(one.value, one.value) for one in Stuck]


class CarePlan(models.Model):
    """Of what a job of care is: a part and, where it was said, the region of the case as shares of a face."""

    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="care")
    part = models.CharField(max_length=40)
    face = models.CharField(max_length=10, choices=FACES, blank=True)
    left = models.DecimalField(max_digits=5, decimal_places=4, default=0)
    top = models.DecimalField(max_digits=5, decimal_places=4, default=0)
    wide = models.DecimalField(max_digits=5, decimal_places=4, default=1)
    high = models.DecimalField(max_digits=5, decimal_places=4, default=1)
    area_cm2 = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    # What is stuck on is not the one that came with it: buyers are told.
    reproduction = models.BooleanField(default=False)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=Q(left__gte=0, top__gte=0, wide__gt=0, high__gt=0)
                & Q(wide__lte=1 - F("left"), high__lte=1 - F("top")),
                name="care_lies_on_its_face",
            ),
            models.CheckConstraint(condition=Q(area_cm2__isnull=True) | Q(area_cm2__gt=0), name="care_of_some_area"),
        ]

    def __str__(self) -> str:
        return f"{self.part}{f', {self.face}' if self.face else ''}"


class Placement(models.Model):
    """Where a foot, badge or label sits on machines of a model: mm from the left and top edge of a face."""

    model = models.ForeignKey(MachineModel, on_delete=models.CASCADE, related_name="placements")
    what = models.CharField(max_length=5, choices=STUCK)
    face = models.CharField(max_length=10, choices=FACES)
    left_mm = models.DecimalField("from the left edge, mm", max_digits=6, decimal_places=1)
    top_mm = models.DecimalField("from the top edge, mm", max_digits=6, decimal_places=1)
    wide_mm = models.DecimalField("width, mm", max_digits=6, decimal_places=1)
    high_mm = models.DecimalField("height, mm", max_digits=6, decimal_places=1)
    measured_at = models.DateTimeField()
    measured_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["face", "top_mm", "left_mm", "id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(left_mm__gte=0, top_mm__gte=0, wide_mm__gt=0, high_mm__gt=0), name="placement_on_its_face"
            ),
            models.UniqueConstraint(
                fields=["model", "what", "face", "left_mm", "top_mm"], name="placement_once_at_a_place"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.what}, {self.face}: {self.left_mm} mm, {self.top_mm} mm"


class GlueWatch(models.Model):
    """Something glued, to be looked at again on a day: `held` is None until somebody did."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="glue_watches")
    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="glue_watch")
    words = models.CharField(max_length=100)
    glued_on = models.DateField()
    due_on = models.DateField()
    held = models.BooleanField("it held", null=True)
    looked_at = models.DateTimeField(null=True)
    looked_by = models.ForeignKey(Person, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["due_on", "id"]
        indexes = [models.Index(fields=["held", "due_on"], name="glue_due")]
        constraints = [
            models.CheckConstraint(condition=Q(due_on__gt=F("glued_on")), name="glue_is_looked_at_later"),
            models.CheckConstraint(
                condition=Q(held__isnull=True, looked_at__isnull=True) | Q(held__isnull=False, looked_at__isnull=False),
                name="glue_looked_at_when",
            ),
        ]

    def __str__(self) -> str:
        return self.words
