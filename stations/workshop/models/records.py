"""What is written down of a unit beside its jobs: as found, settings, what is known, the treatment."""

from django.db import models
from django.db.models import Q

from core.workshop.knowledge import KnowledgeKind, Sure
from core.workshop.settings import Judged, SettingKind
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.common.models import Versioned
from stations.people.models import Person
from stations.stock.models import StockItem
from stations.units.models import Part, Unit


class StateAsFound(Versioned):
    """What a machine counted, showed or scored before anything was changed on it, and afterwards."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="as_found")
    what = models.CharField("what", max_length=60)
    found = models.CharField("as found", max_length=120)
    after = models.CharField("afterwards", max_length=120, blank=True)
    seen_at = models.DateTimeField()
    seen_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    after_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["unit", "what"], name="found_once_a_unit")]

    def __str__(self) -> str:
        return f"{self.what}: {self.found}"


class Knowledge(Versioned):
    """What is known of a unit, of all of its model, of a kind of part or of one, and how sure it is.

    A question asked outside is known once it was answered, and then from whom.
    """

    unit = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.CASCADE, related_name="knowledge")
    model = models.ForeignKey(MachineModel, null=True, blank=True, on_delete=models.CASCADE, related_name="knowledge")
    item = models.ForeignKey(StockItem, null=True, blank=True, on_delete=models.CASCADE, related_name="knowledge")
    part = models.ForeignKey(Part, null=True, blank=True, on_delete=models.CASCADE, related_name="knowledge")
    kind = models.CharField(max_length=10, choices=[(k.value, k.label) for k in KnowledgeKind], default="note")
    title = models.CharField("what it is", max_length=100)
    words = models.TextField("what it says", max_length=2000, blank=True)
    sure = models.CharField("how sure", max_length=10, choices=[(s.value, s.label) for s in Sure], default="guessed")
    edition = models.CharField("version or edition", max_length=40, blank=True)
    may_pass_on = models.BooleanField("may be passed on", null=True, blank=True)
    from_whom = models.CharField("from whom, or asked whom", max_length=80, blank=True)
    due = models.DateField("an answer is expected by", null=True, blank=True)
    answer = models.TextField("what was answered", max_length=2000, blank=True)
    answered_on = models.DateField(null=True, blank=True)
    sha256 = models.CharField(max_length=64, blank=True, editable=False)
    size = models.PositiveIntegerField(default=0, editable=False)
    original_name = models.CharField(max_length=120, blank=True, editable=False)
    kept_at = models.DateTimeField()
    kept_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["kind", "title", "id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(unit__isnull=False, model__isnull=True, item__isnull=True, part__isnull=True)
                | Q(unit__isnull=True, model__isnull=False, item__isnull=True, part__isnull=True)
                | Q(unit__isnull=True, model__isnull=True, item__isnull=False, part__isnull=True)
                | Q(unit__isnull=True, model__isnull=True, item__isnull=True, part__isnull=False),
                name="known_of_one_thing",
            ),
            models.CheckConstraint(
                condition=Q(answered_on__isnull=True) | ~Q(from_whom=""), name="an_answer_is_from_somebody"
            ),
        ]

    def __str__(self) -> str:
        return self.title

    @property
    def is_waiting(self) -> bool:
        """A question that nobody answered yet."""
        return self.kind == KnowledgeKind.QUESTION and self.answered_on is None

    @property
    def overdue(self) -> bool:
        return self.is_waiting and self.due is not None and self.due < clock.today()


class TreatmentNote(Versioned):
    """What the treatment report says that no record says: what was not done and why, and advice to the owner."""

    unit = models.OneToOneField(Unit, on_delete=models.CASCADE, related_name="treatment_note")
    not_done = models.TextField("what was not done, and why", max_length=1000, blank=True)
    advice = models.TextField("advice for keeping it", max_length=1000, blank=True)

    def __str__(self) -> str:
        return f"treatment of {self.unit}"


class Setting(Versioned):
    """How one thing on a unit was set when it came, and what it was set to; `set_to` is empty while it is as it was."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="settings")
    name = models.CharField("which: J3, SW1", max_length=160)
    kind = models.CharField(max_length=10, choices=[(k.value, k.label) for k in SettingKind], default="link")
    was = models.CharField("was like this", max_length=80)
    set_to = models.CharField("set to", max_length=80, blank=True)
    means = models.CharField("what it means, where known", max_length=160, blank=True)
    seen_at = models.DateTimeField()
    seen_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["unit", "name"], name="setting_once_a_unit")]

    def __str__(self) -> str:
        return self.name

    @property
    def changed(self) -> bool:
        return bool(self.set_to) and self.set_to != self.was


class SettingTrial(models.Model):
    """Two states of a setting tried against one another: by a number, or by eye or ear of whoever tried."""

    class Better(models.TextChoices):
        FIRST = "first", "the first"
        SECOND = "second", "the second"
        NEITHER = "neither", "neither"

    setting = models.ForeignKey(Setting, on_delete=models.CASCADE, related_name="trials")
    first = models.CharField("the first", max_length=80)
    second = models.CharField("the second", max_length=80)
    judged = models.CharField("told apart by", max_length=6, choices=[(j.value, j.value) for j in Judged])
    what = models.CharField("what was compared", max_length=60)
    first_value = models.DecimalField(max_digits=12, decimal_places=3, null=True, blank=True)
    second_value = models.DecimalField(max_digits=12, decimal_places=3, null=True, blank=True)
    better = models.CharField("better is", max_length=7, choices=Better)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.CheckConstraint(
                condition=~Q(judged="number") | Q(first_value__isnull=False, second_value__isnull=False),
                name="a_number_is_measured_twice",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.setting}: {self.get_better_display()}"
