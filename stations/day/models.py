"""Who works when, what is promised and expected, plans of days, and what came of what they said."""

from datetime import date
from decimal import Decimal

from django.core.validators import MinValueValidator
from django.db import models
from django.db.models import F, Q

from stations.common import clock
from stations.people.models import Person
from stations.units.models import Unit

_IN_ORDER = Q(break_from__isnull=True, break_until__isnull=True, begins__lt=F("ends")) | Q(
    break_from__isnull=False,
    break_until__isnull=False,
    begins__lt=F("break_from"),
    break_from__lt=F("break_until"),
    break_until__lt=F("ends"),
)


class WorkingHours(models.Model):
    """When somebody works on a day of the week (0 is Monday), with the break there is; no row: not on that day, or
    nobody said."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="working_hours")
    weekday = models.PositiveSmallIntegerField()
    begins = models.TimeField()
    break_from = models.TimeField(null=True, blank=True)
    break_until = models.TimeField(null=True, blank=True)
    ends = models.TimeField()

    class Meta:
        ordering = ["person", "weekday"]
        constraints = [
            models.UniqueConstraint(fields=["person", "weekday"], name="hours_once_a_weekday"),
            models.CheckConstraint(condition=Q(weekday__range=(0, 6)), name="a_week_has_seven_days"),
            models.CheckConstraint(condition=_IN_ORDER, name="hours_in_order"),
        ]

    def __str__(self) -> str:
        return f"{self.person}, {self.begins:%H:%M} to {self.ends:%H:%M}"


class HoursOfDay(models.Model):
    """Somebody’s hours on one day, whatever those of its weekday say; none: not in."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="hours_of_days")
    day = models.DateField()
    begins = models.TimeField(null=True, blank=True)
    break_from = models.TimeField(null=True, blank=True)
    break_until = models.TimeField(null=True, blank=True)
    ends = models.TimeField(null=True, blank=True)

    class Meta:
        ordering = ["day", "person"]
        constraints = [
            models.UniqueConstraint(fields=["person", "day"], name="hours_once_a_day"),
            models.CheckConstraint(
                condition=Q(begins__isnull=True, break_from__isnull=True, break_until__isnull=True, ends__isnull=True)
                | Q(begins__isnull=False, ends__isnull=False) & _IN_ORDER,
                name="hours_of_a_day_in_order",
            ),
        ]

    def __str__(self) -> str:
        hours = f"{self.begins:%H:%M} to {self.ends:%H:%M}" if self.begins else "not in"
        return f"{self.person} on {self.day}, {hours}"


class Promise(models.Model):
    """Something a unit has to be ready for: by when, and what breaking it costs, in base currency."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="promises")
    by = models.DateTimeField()
    words = models.CharField("what was promised", max_length=80)
    price = models.DecimalField(
        "what breaking it costs", max_digits=8, decimal_places=2, validators=[MinValueValidator(0)]
    )
    kept = models.BooleanField(null=True, blank=True)
    made_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["by"]
        indexes = [models.Index(fields=["kept", "by"], name="promises_open")]
        constraints = [models.CheckConstraint(condition=Q(price__gte=0), name="a_promise_costs_nothing_or_more")]

    def __str__(self) -> str:
        return self.words

    @property
    def day(self) -> date:
        return clock.day_of(self.by)

    @property
    def is_late(self) -> bool:
        return self.kept is None and self.by < clock.now()


class Arrival(models.Model):
    """A parcel expected on a day at about a time: jobs that wait until that day can be gone on with from then on; those
    of one unit, or all of them."""

    day = models.DateField(db_index=True)
    at = models.TimeField()
    words = models.CharField("what comes", max_length=60)
    unit = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.CASCADE, related_name="arrivals")
    came_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["day", "at"]

    def __str__(self) -> str:
        return f"{self.words}, {self.at:%H:%M}"


class Wish(models.Model):
    """What the owner wants of a task on a day, whatever is planned: by whom, at what time, or not at all."""

    day = models.DateField()
    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="+")
    code = models.CharField(max_length=60)
    # As the task was called in the plan: kept off the day, it is in none.
    title = models.CharField(max_length=120, blank=True)
    person = models.ForeignKey(Person, null=True, blank=True, on_delete=models.CASCADE, related_name="+")
    at = models.TimeField(null=True, blank=True)
    forbidden = models.BooleanField(default=False)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["day", "unit", "code"], name="one_wish_a_task")]

    def __str__(self) -> str:
        return self.title or "a task"

    @property
    def words(self) -> str:
        """What is wished of it: `kept off this day`, `pinned to Tobin at 14:00`."""
        if self.forbidden:
            return "kept off this day"
        who = f" to {self.person.name}" if self.person else ""
        return f"pinned{who}" + (f" at {self.at:%H:%M}" if self.at else "")


class Record(models.Model):
    """A task as it happened: who began it when, what was planned, and when it ended. What has begun no plan moves."""

    day = models.DateField(db_index=True)
    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="+")
    code = models.CharField(max_length=60)
    kind = models.CharField(max_length=40)
    title = models.CharField(max_length=120)
    person = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    planned_at = models.DateTimeField(null=True, blank=True)
    planned_minutes = models.PositiveSmallIntegerField()
    # As the station estimated it, before anything was learned: what the next estimate learns from.
    estimate = models.PositiveSmallIntegerField()
    alone = models.PositiveIntegerField(default=0)
    near = models.BooleanField(default=False)
    place = models.CharField(max_length=20, blank=True)
    begun_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True, blank=True)
    why_slipped = models.CharField("why it slipped", max_length=120, blank=True)

    class Meta:
        ordering = ["begun_at", "id"]
        indexes = [models.Index(fields=["kind", "ended_at"], name="record_of_kind")]
        constraints = [
            models.UniqueConstraint(fields=["day", "unit", "code"], name="a_task_begins_once_a_day"),
            models.CheckConstraint(
                condition=Q(ended_at__isnull=True) | Q(ended_at__gte=F("begun_at")), name="ended_after_it_began"
            ),
        ]

    def __str__(self) -> str:
        return self.title


# So much of its title is kept of a task that is left for another day.
LEFT_TITLE = 100


class PlanOfDay(models.Model):
    """A plan as it was made. Cents are whole; no plan of what was weighed releases more than `most`. `beside`: units
    with something to do at them that were not weighed; None where nobody counted."""

    day = models.DateField()
    made_at = models.DateTimeField()
    made_by = models.ForeignKey(Person, null=True, on_delete=models.SET_NULL, related_name="+")
    released = models.BigIntegerField()
    most = models.BigIntegerField()
    gap = models.FloatField(null=True)
    idle = models.PositiveIntegerField()
    broken = models.BigIntegerField()
    left = models.JSONField(default=list)
    beside = models.PositiveIntegerField(null=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["day"], name="plans_of_day")]

    def __str__(self) -> str:
        return f"plan of {self.day}"

    @property
    def within(self) -> str:
        """How near it is to the best there can be: "2 %"; empty where the bound says nothing."""
        if self.gap is None:
            return ""
        return (
            "0.1 %" if self.gap < 0.001 else f"{100 * self.gap:.1f} %" if self.gap < 0.02 else f"{100 * self.gap:.0f} %"
        )

    @property
    def released_money(self) -> Decimal:
        return Decimal(self.released) / 100

    @property
    def most_money(self) -> Decimal:
        return Decimal(self.most) / 100


class PlannedTask(models.Model):
    """A task of a plan: minutes of hands from `start`, then by itself."""

    plan = models.ForeignKey(PlanOfDay, on_delete=models.CASCADE, related_name="tasks")
    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="+")
    code = models.CharField(max_length=60)
    kind = models.CharField(max_length=40)
    title = models.CharField(max_length=120)
    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    start = models.DateTimeField()
    minutes = models.PositiveSmallIntegerField()
    estimate = models.PositiveSmallIntegerField()
    alone = models.PositiveIntegerField(default=0)
    near = models.BooleanField(default=False)
    place = models.CharField(max_length=20, blank=True)
    why = models.CharField(max_length=120, blank=True)
    promised = models.DateTimeField(null=True, blank=True)
    needs = models.JSONField(default=list)
    # When the plan before said it would begin; None where it did not, or says the same.
    before = models.DateTimeField(null=True, blank=True)
    pinned = models.BooleanField(default=False)

    class Meta:
        ordering = ["start", "id"]
        constraints = [models.UniqueConstraint(fields=["plan", "unit", "code"], name="a_task_once_in_a_plan")]

    def __str__(self) -> str:
        return self.title


class CalendarAddress(models.Model):
    """The secret address under which a calendar reads somebody’s plan without signing in; renewed, the old one is
    dead. Only its digest is kept."""

    person = models.OneToOneField(Person, on_delete=models.CASCADE, related_name="calendar_address")
    digest = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField()

    def __str__(self) -> str:
        return f"calendar of {self.person}"
