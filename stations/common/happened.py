"""The day on which something happened, which is often not the day on which somebody types it."""

from datetime import date, datetime, time
from typing import Any

from django import forms
from django.utils import timezone

from stations.common import clock
from stations.common.forms import date_input
from stations.common.refusals import Refused

NOON = time(12)
# Before any shop that keeps its books here.
FIRST_DAY = date(1970, 1, 1)


def moment_on(on: date | None, after: date | datetime = FIRST_DAY, what: str = "") -> datetime:
    """When something happened: now where no day is said or it is today’s, else at noon of that day of the shop.

    `after` is what it can't have come before, `what` that was ("sold"). Raises Refused at the field “on” for a day
    before that, and for one that has not come.
    """
    if on is None or on == clock.today():
        return clock.now()
    refuse_to_come(on, "on")
    first = clock.day_of(after) if isinstance(after, datetime) else after
    if on < first:
        it_was = f"It was {what} on {first:%-d %B %Y}: not before that."
        raise Refused(it_was if what else "That is too long ago: look at the year.", "on")
    noon = timezone.make_aware(datetime.combine(on, NOON))
    return max(noon, after) if isinstance(after, datetime) else noon


def day_said(when: date | datetime) -> str:
    """Behind the words of what happened: its day, where that is not the one on which it is written down."""
    day = clock.day_of(when) if isinstance(when, datetime) else when
    return "" if day == clock.today() else f"; it was on {day:%-d %B %Y}"


def refuse_to_come(on: date | None, field: str) -> None:
    """Raise Refused at a field where something is said to have happened on a day that has not come."""
    if on is not None and on > clock.today():
        raise Refused("That day has not come yet.", field)


def day_field(label: str, **options: Any) -> forms.DateField:
    """When it happened; today where nothing is typed."""
    return forms.DateField(label=label, required=False, widget=date_input(), help_text="today, if empty", **options)
