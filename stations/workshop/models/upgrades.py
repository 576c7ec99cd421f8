"""Buyers as the shop knows them, and sets of upgrades that were worked out for a unit."""

from django.db import models
from django.db.models import Q

from stations.common import clock
from stations.common.models import Versioned
from stations.people.models import Person
from stations.units.models import Unit


class BuyerTable(Versioned):
    """A kind of buyer as this shop knows it, in the place of the one of the same code that comes with the application.
    `effects`: a line a feature, as it is typed; `dropped`: the shop has no such buyers."""

    code = models.SlugField(max_length=40, unique=True, editable=False)
    name = models.CharField("who", max_length=40, unique=True)
    words = models.CharField("what they want", max_length=120, blank=True)
    effects = models.TextField("what a feature adds or takes", max_length=4000)
    dropped = models.BooleanField(default=False, editable=False)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class WhatIf(models.Model):
    """A set of upgrades as it was worked out for a unit, with its figures then. `chosen`: a row an upgrade with its
    key, name, where from, spend; `planned`: jobs were made of it."""

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="what_ifs")
    buyer = models.CharField(max_length=40)
    budget = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    within_minutes = models.PositiveIntegerField(null=True, blank=True)
    musts = models.JSONField(default=list)
    chosen = models.JSONField(default=list)
    price = models.DecimalField("what it should fetch without", max_digits=10, decimal_places=2)
    adds = models.DecimalField(max_digits=10, decimal_places=2)
    parts = models.DecimalField(max_digits=10, decimal_places=2)
    labour = models.DecimalField(max_digits=10, decimal_places=2)
    minutes = models.PositiveIntegerField()
    planned = models.BooleanField(default=False)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(price__gte=0) & Q(parts__gte=0) & Q(labour__gte=0), name="what_if_amounts"
            ),
            models.CheckConstraint(condition=Q(budget__isnull=True) | Q(budget__gte=0), name="what_if_budget_from_0"),
        ]

    def __str__(self) -> str:
        return f"{len(self.chosen)} upgrades of {self.unit.tag}, {clock.day_of(self.when)}"

    @property
    def left(self):
        return self.adds - self.parts - self.labour

    @property
    def names(self) -> str:
        return ", ".join(row["name"] for row in self.chosen) or "nothing"
