from collections.abc import Mapping
from datetime import date, timedelta
from typing import Self

from django import forms
from django.core.validators import MinValueValidator

from core.books.statement import Line
from core.books.tax import Period, PeriodLength, period_of
from stations.books.statements import EVER
from stations.books.what_pays import By, Per
from stations.common import clock, currency
from stations.common.forms import date_input

# Before it, nothing was booked anywhere.
_EARLIEST = MinValueValidator(EVER.first, "Nothing was booked before 1970.")


class TakeOutForm(forms.Form):
    unit = forms.CharField(label="Tag", max_length=20, error_messages={"required": "Which unit?"})
    why = forms.CharField(label="Why", max_length=200, error_messages={"required": "Say why."})


class PeriodForm(forms.Form):
    """Which days are asked about; the year that runs where nothing is said."""

    first = forms.DateField(label="from", required=False, widget=date_input(), validators=[_EARLIEST])
    last = forms.DateField(
        label="to", required=False, widget=date_input(), validators=[_EARLIEST], help_text="today, if empty"
    )

    @classmethod
    def asked(cls, data: Mapping[str, str]) -> Self:
        """What an address asks, with the days that are meant where it names none."""
        period = cls(data).period
        return cls({"first": period.first.isoformat(), "last": period.last.isoformat()} | dict(data.items()))

    def clean_last(self) -> date | None:
        last, today = self.cleaned_data["last"], clock.today()
        return min(last, today) if last else None

    def clean(self):
        first, last = self.cleaned_data.get("first"), self.cleaned_data.get("last") or clock.today()
        if first and first > clock.today():
            self.add_error("first", "That day is still to come.")
        elif first and first > last:
            self.add_error("last", "It ends before it begins.")
        return self.cleaned_data

    @property
    def period(self) -> Period:
        """What is asked, as far as it was understood."""
        asked = self.cleaned_data if self.is_valid() else {}
        last = asked.get("last") or clock.today()
        return Period(asked.get("first") or period_of(last, PeriodLength.YEAR).first, last + timedelta(days=1))


class WhatPaysForm(forms.Form):
    """By what kinds are told apart, and what their result is reckoned for."""

    by = forms.ChoiceField(label="by", required=False, choices=[(by.value, by.words) for by in By])
    per = forms.ChoiceField(label="earned for each", required=False)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["per"].choices = [(Per.EURO.value, f"{currency.symbol()} put in"), (Per.HOUR.value, "hour of work")]

    @property
    def asked(self) -> tuple[By, Per]:
        """What is asked, as far as it was understood."""
        asked = self.cleaned_data if self.is_valid() else {}
        return By(asked.get("by") or By.SOURCE), Per(asked.get("per") or Per.EURO)


class EntriesForm(PeriodForm):
    of = forms.ChoiceField(
        label="of", required=False, choices=[("", "everything"), *((line.value, line.words) for line in Line)]
    )

    @property
    def line(self) -> Line | None:
        asked = self.cleaned_data.get("of") if self.is_valid() else ""
        return Line(asked) if asked else None
