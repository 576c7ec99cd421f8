"""Tax: what stands in the book for each period, and global accounting, period by period."""

from datetime import date

from django.core.paginator import Paginator
from django.http import Http404
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.books.tax import PeriodLength, periods
from core.machine.tags import TagError, parse_tag
from stations.books import taxes
from stations.books.forms import TakeOutForm
from stations.books.models import TakenOutOfGlobal, TaxPeriod
from stations.common import clock
from stations.common.paging import first_of
from stations.common.refusals import Refused
from stations.dispatch.terms import terms
from stations.people import shop_settings
from stations.people.models import TaxScheme
from stations.people.screens import press, saved, sent
from stations.units.models import Unit


def tax(request):
    return _page(request, TakeOutForm())


def _page(request, form):
    settings, today = shop_settings.settings(), clock.today()
    since = date(today.year - 1, 1, 1)
    found = periods(since, today, PeriodLength(terms().period))
    posted = list(zip(found, taxes.posted_by_period(found), strict=True))
    context = {
        "tax": settings.tax,
        "is_global": settings.tax.scheme == TaxScheme.GLOBAL,
        "open": taxes.open_periods(),
        "page": Paginator(TaxPeriod.objects.order_by("-first"), 12).get_page(request.GET.get("page")),
        "posted": [pair for pair in reversed(posted) if pair[1]],
        "out": first_of(TakenOutOfGlobal.objects.select_related("unit").order_by("-id"), 40),
        "form": form,
    }
    return render(request, "books/tax.html", context)


@require_POST
def close(request, year, month, day):
    try:
        first = date(year, month, day)
    except ValueError as problem:
        raise Http404 from problem
    return press(request, lambda: taxes.close_period(request.user, first, sent(request, "seen")), reverse("books:tax"))


@require_POST
def take_out(request):
    form = TakeOutForm(request.POST)

    def save(data):
        taxes.take_out(request.user, _unit(data["unit"]), data["why"])

    return saved(request, form, save, reverse("books:tax")) or _page(request, form)


def _unit(text) -> Unit:
    try:
        tag = parse_tag(text)
    except TagError as problem:
        raise Refused(str(problem), "unit") from problem
    unit = Unit.objects.filter(number=tag.number).first() if tag else None
    if unit is None:
        raise Refused(f"There is no unit {text}.", "unit")
    return unit
