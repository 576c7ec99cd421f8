"""What came in at the bank, and for which sales it is."""

from pathlib import PurePath

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.forms import FileForm
from stations.common.paging import ByKeys
from stations.common.typed import whole_number
from stations.dispatch import bank as money
from stations.dispatch.models import BankFile, BankLine
from stations.people.screens import press, saved, sent
from stations.selling.models import Sale

PER_PAGE, FILES, MOST_TOGETHER = 20, 5, 50


def bank(request):
    """Take a statement in, and say of each sum that came in what it is for; or all that ever came, with ?all=1."""
    form = FileForm(request.POST, request.FILES) if request.method == "POST" else FileForm()

    def take_in(data):
        name = PurePath(data["file"].name or "statement.xml").name
        messages.success(request, money.take_in(request.user, name, data["file"].read()).words)

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
        "more": "&all=1" if every else "",
        "files": BankFile.objects.select_related("who")[:FILES],
    }
    if every:
        booked = money.came_to(list(page))
        context["rows"] = [(line, booked[line.pk]) for line in page]
    else:
        context["to_place"] = money.to_place(list(page))
    return render(request, "dispatch/bank.html", context, status=422 if form.errors else 200)


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
