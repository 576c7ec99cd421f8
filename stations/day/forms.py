"""Forms of a day: hours, promises, parcels, wishes, what slipped."""

from collections.abc import Collection
from datetime import datetime
from decimal import Decimal
from typing import cast

from django import forms
from django.utils import timezone

from stations.common import clock
from stations.common.forms import OwnIds, date_input
from stations.common.typed import NumberField
from stations.day.models import PlannedTask, Wish
from stations.day.services import Hours
from stations.people.models import Person
from stations.units.models import Unit

WEEKDAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"]


def _time(label: str, required: bool = True, missing: str = "Say when.") -> forms.TimeField:
    return forms.TimeField(
        label=label,
        required=required,
        widget=forms.TimeInput(format="%H:%M", attrs={"type": "time"}),
        error_messages={"required": missing, "invalid": "A time of day: 14:45."},
    )


class UnitField(forms.CharField):
    """A unit by its tag as it is read: W-0117, 117 or W-0117-K."""

    def clean(self, value):
        typed = super().clean(value)
        if not typed:
            return None
        digits = typed.upper().removeprefix("W-").split("-")[0]
        unit = Unit.objects.filter(number=int(digits)).first() if digits.isascii() and digits.isdigit() else None
        if unit is None:
            raise forms.ValidationError(f"There is no unit {typed[:20]}.")
        return unit


class PersonField(forms.ModelChoiceField):
    """Somebody by name."""

    def __init__(self, *args, empty_label: str = "choose", **kwargs):
        super().__init__(*args, empty_label=empty_label, **kwargs)

    def label_from_instance(self, person: Person) -> str:
        return person.name


class SomebodysHours(forms.Form):
    """From when until when somebody works; both empty: not at all."""

    person = PersonField(label="Who", queryset=Person.objects.none(), error_messages={"required": "Who?"})
    begins = _time("From", required=False)
    break_from = _time("Break from", required=False)
    break_until = _time("until", required=False)
    ends = _time("To", required=False)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["person"].queryset = Person.objects.filter(is_active=True).order_by("first_name", "username")

    def clean(self):
        data = super().clean() or {}
        if bool(data.get("begins")) != bool(data.get("ends")):
            at = "ends" if data.get("begins") else "begins"
            self.add_error(at, "Both, from and to; or neither, for not at all.")
        return data

    @property
    def hours(self) -> Hours | None:
        data = self.cleaned_data
        if not data["begins"]:
            return None
        return Hours(data["begins"], data["ends"], data["break_from"], data["break_until"])


class HoursForm(SomebodysHours):
    """On these days of the week."""

    days = forms.MultipleChoiceField(
        label="On",
        choices=list(enumerate(WEEKDAYS)),
        widget=forms.CheckboxSelectMultiple,
        error_messages={"required": "On which days?"},
    )


class OneDayForm(OwnIds, SomebodysHours):
    """On one day."""

    ids = "one"

    on = forms.DateField(label="On", widget=date_input(), error_messages={"required": "On which day?"})


class PromiseForm(OwnIds, forms.Form):
    ids = "promise"

    unit = UnitField(label="Which unit", max_length=20, error_messages={"required": "Which unit?"})
    what = forms.CharField(
        label="What was promised", max_length=80, error_messages={"required": "Say what was promised."}
    )
    by = _time("By")
    price = NumberField(label="What breaking it costs", max_digits=8, decimal_places=2, min_value=Decimal(0), initial=0)

    def __init__(self, *args, day, **kwargs):
        super().__init__(*args, **kwargs)
        self.day = day

    @property
    def moment(self) -> datetime:
        return timezone.make_aware(datetime.combine(self.day, self.cleaned_data["by"]))


class ArrivalForm(OwnIds, forms.Form):
    ids = "arrival"

    what = forms.CharField(label="What comes", max_length=60, error_messages={"required": "Say what comes."})
    at = _time("At about")
    unit = UnitField(label="For which unit; empty: all that wait", max_length=20, required=False)


class WishForm(forms.Form):
    """What the owner wants of a task, as it stands; all empty takes it back."""

    who = PersonField(label="By", queryset=Person.objects.none(), required=False, empty_label="anybody")
    at = _time("At", required=False)
    off = forms.BooleanField(label="not on this day", required=False)

    def __init__(self, *args, task: PlannedTask, who: Collection[Person], wish: Wish | None = None, **kwargs):
        begin = {"who": wish.person_id, "at": wish.at, "off": wish.forbidden} if wish else {}
        super().__init__(*args, initial=begin, auto_id=f"wish{task.pk}_%s", **kwargs)
        self.task, self.wished = task, wish is not None
        choice = cast(forms.ModelChoiceField, self.fields["who"])
        choice.queryset = Person.objects.filter(pk__in=[person.pk for person in who])
        # Asked for once, not for each task.
        choice.choices = [("", choice.empty_label), *((person.pk, person.name) for person in who)]


class DayForm(forms.Form):
    """Which day is looked at; today where nothing, or nothing good, is typed."""

    day = forms.DateField(required=False, widget=date_input())

    @property
    def chosen(self):
        return (self.cleaned_data.get("day") if self.is_valid() else None) or clock.today()
