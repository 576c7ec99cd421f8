"""What came in at the bank, and for which sales it is."""

from pathlib import PurePath
from urllib.parse import urlencode

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.machine.quantities import Mark
from core.selling.bank_table import BankColumn
from core.selling.sales_file import DayOrder
from stations.common.forms import FileForm
from stations.common.paging import ByKeys
from stations.common.typed import columns_said, one_of, whole_number
from stations.dispatch import bank as money
from stations.dispatch import bank_tables as tables
from stations.dispatch.models import BankFile, BankLine, BankTable
from stations.people.screens import press, saved, sent
from stations.selling.models import Sale

PER_PAGE, FILES, MOST_TOGETHER = 20, 5, 50


def bank(request):
    """Take a statement in, and say of each sum that came in what it is for; or all that ever came, with ?all=1."""
    form = FileForm(request.POST, request.FILES) if request.method == "POST" else FileForm()

    def take_in(data):
        name, said = PurePath(data["file"].name or "statement.xml").name, data["file"].read()
        if tables.is_table(said):
            return reverse("dispatch:bank-table", args=[tables.upload(request.user, name, said).pk])
        messages.success(request, money.take_in(request.user, name, said).words)
        return None

    if done := saved(request, form, take_in, reverse("dispatch:bank")):
        return done
    every = bool(request.GET.get("all"))
    if every:
        keys = BankLine.objects.values_list("pk", flat=True)
        pages = ByKeys(keys, BankLine.objects.with_booked().select_related("aside_by"), PER_PAGE)
    else:
        pages = Paginator(BankLine.objects.to_place(), PER_PAGE)
    page = pages.get_page(request.GET.get("page"))
    context = {
        "form": form,
        "every": every,
        "page": page,
        "files": BankFile.objects.select_related("who")[:FILES],
    }
    if every:
        booked = money.came_to(list(page))
        context["rows"] = [(line, booked[line.pk]) for line in page]
    else:
        context["to_place"] = money.to_place(list(page))
    return render(request, "dispatch/bank.html", context, status=422 if form.errors else 200)


def table(request, pk):
    """A statement as CSV, as it would be taken in; columns are chosen by sight, and looking stores nothing."""
    row = BankTable.objects.filter(pk=pk).first()
    if row is None:
        messages.info(request, tables.GONE)
        return redirect("dispatch:bank")
    how = _reading(row, request.GET if request.method == "GET" else request.POST)
    if request.method == "POST":

        def act():
            messages.success(
                request, tables.take_table_in(request.user, row, how, bool(request.POST.get("again"))).words
            )
            return reverse("dispatch:bank")

        return press(request, act, reverse("dispatch:bank-table", args=[pk]) + "?" + request.POST.get("how", ""))
    found = tables.preview(row, how)
    chosen = {column.value: index for column, index in found.columns.items()}
    chosen |= {"mark": how.mark.value, "order": how.order.value, "account": how.account}
    context = {
        "row": row,
        "found": found,
        "how": how,
        "sample": found.table.rows[:3],
        "choices": [(column, found.columns.get(column)) for column in BankColumn],
        "marks": list(Mark),
        "orders": list(DayOrder),
        "accounts": tables.accounts(),
        "bad": Paginator(found.read.bad, PER_PAGE).get_page(request.GET.get("page")),
        "first": found.new[:PER_PAGE],
        "more_lines": len(found.new[PER_PAGE:]),
        "chosen": chosen,
        "query": urlencode(chosen),
    }
    return render(request, "dispatch/bank_table.html", context)


def _reading(row: BankTable, data) -> tables.Reading:
    """How the address or the form says the file is to be read."""
    return tables.Reading(
        columns_said(data, BankColumn),
        one_of(data, "mark", Mark.ASK),
        one_of(data, "order", DayOrder.ASK),
        tables.account_named(row, data.get("account")),
    )


def _line(pk) -> BankLine:
    return get_object_or_404(BankLine, pk=pk)


@require_POST
def book(request, pk):
    """For the sales that were proposed, or that of the tag that was typed."""
    line, proposed = _line(pk), [key for key in map(whole_number, request.POST.getlist("sale")) if key is not None]
    sales = [get_object_or_404(Sale.objects.select_related("unit"), pk=key) for key in proposed[:MOST_TOGETHER]]

    def act():
        booked = money.book(request.user, line, sales or [money.sale_of(sent(request, "tag"))])
        said = ", ".join(f"{payment.amount} for {payment.sale.unit.tag}" for payment in booked)
        messages.success(request, f"Booked: {said}.")

    return press(request, act, reverse("dispatch:bank"), "tag")


@require_POST
def set_aside(request, pk):
    line = _line(pk)
    return press(
        request, lambda: money.set_aside(request.user, line, sent(request, "why")), reverse("dispatch:bank"), "why"
    )


@require_POST
def take_up(request, pk):
    line = _line(pk)
    return press(request, lambda: money.take_up(request.user, line), reverse("dispatch:bank") + "?all=1")
