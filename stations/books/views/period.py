"""A period: what it earned, where that is, and every entry of it."""

from django.http import HttpResponse
from django.shortcuts import render
from django.utils.http import urlencode

from core.books.tax import Period, PeriodLength, period_of
from stations.books import inventory, journal, statements
from stations.books.drawing import bridge
from stations.books.forms import EntriesForm, PeriodForm
from stations.common import clock
from stations.common.paging import ByKeys, first_of
from stations.common.spreadsheet import csv_answer
from stations.ledger.models import LedgerEntry
from stations.units.models import Unit

UNITS_A_PAGE, ENTRIES_A_PAGE, LACKING = 25, 50, 5


def period(request):
    """What a period earned, and what was sold in it."""
    form = PeriodForm.asked(request.GET)
    asked = form.period
    found = statements.statement(asked)
    steps = [(line.value if line else "sold", amount) for line, amount in found.stock_moved]
    keys = statements.concerned(asked).values_list("pk", flat=True)
    page = ByKeys(keys, Unit.objects.select_related("lot"), UNITS_A_PAGE).get_page(request.GET.get("page"))
    context = {
        "form": form,
        "period": asked,
        "title": asked.words_on(clock.today()),
        "statement": found,
        "bridge": bridge(("at first", found.opening.stock), steps, "at last"),
        "page": page,
        "parts": statements.parts_of(asked, list(page)),
        "lacking": first_of(statements.cost_lacking(asked), LACKING),
        "usual": usual(),
        "asked": said(asked),
    }
    return render(request, "books/period.html", context)


def said(asked: Period) -> str:
    """The period as an address says it."""
    return urlencode({"first": asked.first.isoformat(), "last": asked.last.isoformat()})


def usual() -> list[tuple[str, str]]:
    """This year, quarter and month, and those before them: words and address."""
    found = []
    for length in (PeriodLength.YEAR, PeriodLength.QUARTER, PeriodLength.MONTH):
        runs = period_of(clock.today(), length)
        found += [runs, runs.before(length)]
    return [(one.words, said(one)) for one in found]


def entries(request):
    """The entries of a period, or of one line of its statement."""
    form = EntriesForm.asked(request.GET)
    asked, line = form.period, form.line
    keys = statements.entries_of(asked, line).values_list("pk", flat=True)
    rows = LedgerEntry.objects.select_related("posting__who", "posting__reverses")
    page = ByKeys(keys, rows, ENTRIES_A_PAGE).get_page(request.GET.get("page"))
    places = statements.places_of(list(page))
    narrowed = f"{said(asked)}&{urlencode({'of': line or ''})}"
    context = {
        "form": form,
        "title": asked.words_on(clock.today()),
        "line": line,
        "page": page,
        "sum": statements.sum_of(asked, line) if line else None,
        "rows": [(entry, places.get(entry.pk)) for entry in page],
        "asked": narrowed,
    }
    return render(request, "books/entries.html", context)


def stock_csv(request):
    """The stock as it stood when a period was over, thing by thing."""
    asked = PeriodForm(request.GET).period
    return csv_answer(f"stock-{asked.last}.csv", inventory.Held._fields, inventory.inventory(asked.after))


def entries_csv(request):
    """All of them, for another program."""
    form = EntriesForm(request.GET)
    name = f"ledger-{form.period.first}-{form.period.last}.csv"
    return csv_answer(name, statements.ENTRY_FIELDS, statements.entry_rows(form.period, form.line))


def journal_text(request):
    """The same days with double entry, for a program that keeps accounts."""
    asked = PeriodForm(request.GET).period
    answer = HttpResponse(journal.journal_of(asked), content_type="text/plain; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="journal-{asked.first}-{asked.last}.beancount"'
    return answer
