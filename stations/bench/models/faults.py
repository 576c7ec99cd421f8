"""Faults that are looked for, and what was tried."""

from django.db import models
from django.db.models import Q

from core.bench.codebook import FAMILIES, look_up
from core.bench.fault_library import BY_CODE, SYMPTOMS
from stations.people.models import Person
from stations.stock.models import KnownGood
from stations.units.models import Unit


class FaultCase(models.Model):
    """One fault of a unit, from its symptom to its cause.

    `suspects` are those this unit could have, as [code, words], with the shop's own ones at the end; `start` and `now`
    hold how likely each is, in that order. `known` says in words what the first odds rest on.
    """

    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="faults")
    symptom = models.CharField(max_length=12, choices=[(s.code, s.words) for s in SYMPTOMS])
    words = models.CharField("what exactly", max_length=160, blank=True)
    family = models.CharField("firmware", max_length=12, blank=True, choices=[(f.code, f.words) for f in FAMILIES])
    code = models.CharField("beeps or code", max_length=12, blank=True)
    suspects = models.JSONField(null=True)
    start = models.JSONField(null=True)
    known = models.JSONField(default=list)
    now = models.JSONField()
    opened_at = models.DateTimeField()
    opened_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    open_for = models.OneToOneField(
        Unit, null=True, blank=True, on_delete=models.PROTECT, related_name="open_fault", editable=False
    )
    cause = models.CharField(max_length=20, blank=True)
    cause_words = models.CharField("what it was", max_length=160, blank=True)
    fix = models.CharField("what was done", max_length=160, blank=True)
    closed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["symptom", "cause"], name="fault_learned")]
        constraints = [
            models.CheckConstraint(
                condition=Q(closed_at__isnull=True, open_for__isnull=False)
                | Q(closed_at__isnull=False, open_for__isnull=True),
                name="a_fault_is_open_or_closed",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.get_symptom_display()} on {self.unit}"

    @property
    def code_words(self) -> str:
        """What the book says of its code; empty without one."""
        meaning = look_up(self.family, self.code) if self.family and self.code else None
        return meaning.words if meaning else ""

    @property
    def suspect_words(self) -> dict[str, str]:
        """Whom it suspects, by code, in the order of its odds; the library's, for one opened before they were kept."""
        if self.suspects is None:
            return {suspect.code: suspect.words for suspect in BY_CODE[self.symptom].suspects}
        return dict(self.suspects)

    @property
    def was(self) -> str:
        """What it was, in words, once it is closed."""
        return self.cause_words or self.suspect_words.get(self.cause, self.cause)


class Try(models.Model):
    """One action and its answer, with the setting of everything that was varied, and where the suspects stood after.

    `yes` None: it said neither, it went away by itself. One of the shop's own has no `action`; it may point at a
    suspect, or away from it. `withdrawn_at`: what it rested on was found bad, so it no longer counts.
    """

    case = models.ForeignKey(FaultCase, on_delete=models.PROTECT, related_name="tries")
    action = models.CharField(max_length=60, blank=True)
    words = models.CharField(max_length=160)
    yes = models.BooleanField(null=True)
    answer = models.CharField(max_length=160)
    varied = models.CharField("what was varied", max_length=120, blank=True)
    points_at = models.CharField("points at", max_length=20, blank=True)
    points_how = models.CharField(max_length=6, blank=True)
    points_away = models.BooleanField(default=False)
    withdrawn_at = models.DateTimeField(null=True, blank=True)
    withdrawn_why = models.CharField(max_length=200, blank=True)
    setting = models.CharField("with what setting", max_length=120, blank=True)
    known_good = models.ForeignKey(KnownGood, null=True, blank=True, on_delete=models.PROTECT, related_name="tries")
    trust = models.FloatField(default=1.0)
    after = models.JSONField()
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.words}: {self.answer}"
