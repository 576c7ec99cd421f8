"""Drawers and what is in them."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.machine.quantities import QuantityError
from core.stock.measure import read_amount
from stations.common.forms import FileForm
from stations.common.refusals import Refused
from stations.common.spreadsheet import csv_answer
from stations.people import history
from stations.people.models import HistoryEntry
from stations.people.screens import begun_with, one_more, press, saved, sent
from stations.stock import designs, drawer, selectors, services, stock_file, taken_back
from stations.stock.forms import ConditionForm, CountForm, DesignForm, FindForm, ItemForm, StockForm
from stations.stock.models import StockCount, StockItem, StockPurchase

PER_PAGE = 25


def parts(request):
    """The drawers; the form puts bought parts in one."""
    # One invoice has several lines, of one day.
    form = StockForm(request.POST or None, initial=begun_with(request, "on"))

    def save(data):
        stocked = services.stock_part(
            request.user, form.sort, data["quantity"], data["paid"], data["on"], data["another"]
        )
        item = stocked.item
        messages.success(request, f"{item.name}: now {item.amount} in drawer {item.drawer or '–'}.")
        for freed in stocked.freed:
            messages.success(request, f"Can go on: {freed.words}.")

    if done := saved(request, form, save, one_more(request, reverse("stock:parts"), "on")):
        return done
    context = {"form": form, "low_count": selectors.find(low=True).count(), "coming": selectors.open_orders()[:5]}
    return render(request, "stock/parts.html", context | _found(request))


def found(request):
    """The rows alone, while a word is typed."""
    return render(request, "stock/_rows.html", _found(request))


def _found(request) -> dict:
    asked = FindForm(request.GET)
    wanted = asked.cleaned_data if asked.is_valid() else {}
    words = wanted.get("q", "")
    items = selectors.find(words, wanted.get("fits"), wanted.get("low", False))
    page = selectors.page_of(items, words, request.GET.get("page"), PER_PAGE)
    return {
        "asked": asked,
        "page": page,
        "rows": selectors.in_stock(list(page)),
        "narrowed": any(wanted.values()),
        "stock": reverse("stock:parts"),
    }


def item(request, pk):
    return item_page(request, _item(pk))


def item_page(request, row, **given):
    context = {
        "item": row,
        "one": selectors.in_stock([row])[0],
        "held": drawer.held([row])[row.pk],
        "fits": row.fits.all(),
        "change": ItemForm(instance=row),
        "count": CountForm(),
        "condition": ConditionForm(initial={"drawer": row.drawer}),
        "design": DesignForm(instance=designs.design_of(row)),
        "last_purchase": taken_back.last_purchase(row),
        "last_count": taken_back.last_count(row),
        "counts": row.counts.select_related("who")[:5],
        "orders": row.order_lines.select_related("order__seller").order_by("-order__number")[:8],
        "postings": selectors.in_the_books(row),
        "story": history.latest(HistoryEntry.Subject.STOCK, row.pk),
        **given,
    }
    return render(request, "stock/item.html", context)


def _item(pk) -> StockItem:
    return get_object_or_404(StockItem, pk=pk)


def _there(pk) -> str:
    return reverse("stock:item", args=[pk])


@require_POST
def change(request, pk):
    row = _item(pk)
    form = ItemForm(request.POST, instance=row)

    def save(data):
        kept = services.change_item(
            request.user, _item(pk), data["version"], form.details, data["fits"], data["together"]
        )
        return _there(kept.pk)

    return saved(request, form, save, _there(pk)) or item_page(request, _item(pk), change=form)


@require_POST
def count(request, pk):
    form = CountForm(request.POST)

    def save(data):
        row = _item(pk)
        try:
            counted = read_amount(data["counted"], row.counted_in)
        except QuantityError as problem:
            raise Refused(str(problem), "counted") from problem
        services.count(request.user, row, counted, data["reason"])

    return saved(request, form, save, _there(pk)) or item_page(request, _item(pk), count=form)


@require_POST
def not_bought(request, pk):
    """What was bought into it last was typed wrong, or was not bought."""
    row = get_object_or_404(StockPurchase, pk=pk)
    return press(
        request, lambda: taken_back.not_bought(request.user, row, sent(request, "why")), _there(row.item_id), "why"
    )


@require_POST
def not_counted(request, pk):
    """It was counted wrong."""
    row = get_object_or_404(StockCount, pk=pk)
    return press(
        request, lambda: taken_back.not_counted(request.user, row, sent(request, "why")), _there(row.item_id), "why"
    )


@require_POST
def condition(request, pk):
    form = ConditionForm(request.POST)

    def save(data):
        row = _item(pk)
        amount = drawer.typed_amount(row, data["quantity"])
        other = services.correct_condition(request.user, row, amount, form.chosen, data["reason"], data["drawer"])
        if other.faulty and (used := drawer.used_in(row)):
            messages.warning(request, f"Others of it are in use, look at them too: {'; '.join(used)}.")
        return _there(other.pk)

    return saved(request, form, save, _there(pk)) or item_page(request, _item(pk), condition=form)


@require_POST
def design(request, pk):
    row = _item(pk)
    form = DesignForm(request.POST, instance=designs.design_of(row))

    def save(data):
        designs.keep_design(request.user, _item(pk), data["version"], designs.DesignDetails(**form.changes))

    return saved(request, form, save, _there(pk)) or item_page(request, _item(pk), design=form)


def stock_csv(request):
    return csv_answer("stock.csv", stock_file.HEAD, stock_file.rows())


def take_in(request):
    """A file of parts: looked at first, then all of it or nothing."""
    form = FileForm(request.POST or None, request.FILES or None)
    text = request.POST.get("text", "")
    if text:
        form = FileForm()
        there = reverse("stock:parts")

        def act():
            count = stock_file.take_in(request.user, text)
            messages.success(request, f"{count} lines taken in.")
            return there

        return press(request, act, reverse("stock:import"))
    read = None
    if request.method == "POST" and form.is_valid():
        try:
            text = stock_file.text_of(form.cleaned_data["file"].read())
            read = stock_file.read(text)
        except Refused as refusal:
            form.add_error("file", refusal.message)
    context = {"form": form, "read": read, "text": text, "head": ", ".join(stock_file.HEAD[:8])}
    return render(request, "stock/import.html", context)
