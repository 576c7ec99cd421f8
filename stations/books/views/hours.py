"""Where the time went."""

from django.shortcuts import render

from stations.books.forms import PeriodForm
from stations.books.hours import hours
from stations.books.views.period import said, usual
from stations.common import clock


def time(request):
    """Minutes of a period: by kind of work, by person, and what became of what was worked at."""
    form = PeriodForm.asked(request.GET)
    asked = form.period
    context = {
        "form": form,
        "title": asked.words_on(clock.today()),
        "hours": hours(asked),
        "usual": usual(),
        "asked": said(asked),
    }
    return render(request, "books/time.html", context)
