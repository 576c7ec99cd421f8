"""Machines taken apart and closed again."""

from django.db import models
from django.db.models import Q

from stations.common import clock
from stations.common.models import Versioned
from stations.people.models import Person
from stations.units.models import Photo, Unit


class UnitStripDown(Versioned):
    """What this very unit is put together from: its model's to begin with, put right as it is found."""

    unit = models.OneToOneField(Unit, on_delete=models.CASCADE, related_name="strip_down")
    assemblies = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"strip-down of {self.unit}"


class Opening(models.Model):
    """A unit being taken apart and closed again; one at a time. `targets` is what is to be reached, `steps` the way."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="openings")
    targets = models.JSONField(default=list)
    steps = models.JSONField(default=list)
    going_back = models.BooleanField(default=False)
    cautions_read = models.BooleanField(default=False)
    opened_at = models.DateTimeField()
    opened_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    closed_at = models.DateTimeField(null=True, blank=True)
    open_for = models.OneToOneField(
        Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="opening", editable=False
    )

    class Meta:
        ordering = ["opened_at", "id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(closed_at__isnull=True, open_for__isnull=False)
                | Q(closed_at__isnull=False, open_for__isnull=True),
                name="an_opening_is_open_or_closed",
            ),
        ]

    def __str__(self) -> str:
        return f"opening of {self.unit.tag} on {clock.day_of(self.opened_at)}"


class OpenedAssembly(models.Model):
    """One assembly in an opening: how far it is off or on again, and its tray.

    `found` and `added` count fasteners by group: what was there when it was opened, and what was added from elsewhere.
    """

    opening = models.ForeignKey(Opening, on_delete=models.CASCADE, related_name="assemblies")
    name = models.CharField(max_length=40)
    tray = models.PositiveSmallIntegerField()
    found = models.JSONField(default=list)
    added = models.JSONField(default=list)
    odd = models.CharField("what was odd", max_length=160, blank=True)
    note = models.CharField(max_length=200, blank=True)
    photo = models.ForeignKey(Photo, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    broke = models.CharField("what broke", max_length=120, blank=True)
    off_done = models.PositiveSmallIntegerField(default=0)
    off_since = models.DateTimeField(null=True, blank=True)
    off_at = models.DateTimeField(null=True, blank=True)
    off_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    on_done = models.PositiveSmallIntegerField(default=0)
    on_since = models.DateTimeField(null=True, blank=True)
    on_at = models.DateTimeField(null=True, blank=True)
    on_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    tested_at = models.DateTimeField(null=True, blank=True)
    tested_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    closed_over = models.CharField("why it was closed over what is not settled", max_length=200, blank=True)

    class Meta:
        ordering = ["tray"]
        constraints = [
            models.UniqueConstraint(fields=["opening", "name"], name="an_assembly_once_in_an_opening"),
            models.CheckConstraint(condition=Q(tray__gte=1), name="trays_begin_at_1"),
            models.CheckConstraint(
                condition=Q(on_at__isnull=True) | Q(off_at__isnull=False), name="on_again_after_it_was_off"
            ),
            models.CheckConstraint(
                condition=Q(on_done=0) | Q(off_at__isnull=False), name="nothing_goes_in_before_it_is_out"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def is_off(self) -> bool:
        return self.off_at is not None and self.on_at is None
