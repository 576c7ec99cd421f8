"""What is ordered, and the parcel that comes."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people import history
from stations.people.models import HistoryEntry
from stations.people.screens import press, saved, sent
from stations.stock import orders, selectors, taken_back
from stations.stock.forms import OrderForm, OrderLineForm, TakeInForm, TermsForm, WhyForm
from stations.stock.models import OrderLine, PartOrder, PartSeller


def all_orders(request):
    """Orders on the way and those that came; the form begins one."""
    form = OrderForm(request.POST or None)

    def save(data):
        order = orders.order_parts(request.user, data["seller"], form.terms)
        return reverse("stock:order", args=[order.number])

    if done := saved(request, form, save):
        return done
    settled = PartOrder.objects.exclude(arrived_at=None, called_off="").select_related("seller")
    context = {
        "form": form,
        "coming": selectors.open_orders()[:60],
        "page": Paginator(settled, 25).get_page(request.GET.get("page")),
        "sellers": PartSeller.objects.values_list("name", flat=True)[:200],
    }
    return render(request, "stock/orders.html", context)


def order(request, number):
    return order_page(request, _order(number))


def order_page(request, row, **given):
    lines = list(row.lines.select_related("item"))
    context = {
        "order": row,
        "rests": row.rests.filter(called_off=""),
        "lines": lines,
        "terms": TermsForm(instance=row),
        "line": OrderLineForm(),
        "came": TakeInForm(lines=lines),
        "off": WhyForm(),
        "story": history.latest(HistoryEntry.Subject.ORDER, row.pk),
        **given,
    }
    form = context["came"]
    context["rows"] = [(line, form[f"came-{line.pk}"]) for line in lines]
    return render(request, "stock/order.html", context)


def _order(number) -> PartOrder:
    return get_object_or_404(
        PartOrder.objects.select_related("seller", "ordered_by", "arrived_by", "rest_of"), number=number
    )


def _there(number) -> str:
    return reverse("stock:order", args=[number])


@require_POST
def add_line(request, number):
    form = OrderLineForm(request.POST)
    if not sent(request, "sure") and form.is_valid():
        ordered, rate = form.ordered, _order(number).rate
        if doubts := orders.doubted({ordered.sort.name: ordered.each * rate}):
            return order_page(request, _order(number), line=form, doubts=doubts)

    def save(data):
        orders.add_to_order(request.user, _order(number), form.ordered)
        orders.all_the_same([form.ordered.sort.name])

    return saved(request, form, save, _there(number)) or order_page(request, _order(number), line=form)


@require_POST
def drop_line(request, pk):
    row = get_object_or_404(OrderLine.objects.select_related("order", "item"), pk=pk)
    return press(request, lambda: orders.drop_line(request.user, row), _there(row.order.number))


@require_POST
def terms(request, number):
    form = TermsForm(request.POST, instance=_order(number))

    def save(data):
        orders.change_terms(request.user, _order(number), data["version"], form.terms)

    return saved(request, form, save, _there(number)) or order_page(request, _order(number), terms=form)


@require_POST
def call_off(request, number):
    form = WhyForm(request.POST)

    def save(data):
        orders.call_off(request.user, _order(number), data["why"])

    return saved(request, form, save, _there(number)) or order_page(request, _order(number), off=form)


@require_POST
def comes_after_all(request, number):
    return press(request, lambda: orders.comes_after_all(request.user, _order(number)), _there(number))


@require_POST
def not_come(request, number):
    """The parcel was said to be here by mistake."""
    return press(
        request, lambda: taken_back.not_come(request.user, _order(number), sent(request, "why")), _there(number), "why"
    )


@require_POST
def take_in(request, number):
    row = _order(number)
    form = TakeInForm(request.POST, lines=list(row.lines.select_related("item")))

    def save(data):
        taken = orders.take_in(request.user, _order(number), form.came, data["on"], data["rest"])
        for freed in taken.freed:
            messages.success(request, f"Can go on: {freed.words}.")
        if not taken.freed:
            messages.success(request, "In the drawers. Nothing waited for it.")

    return saved(request, form, save, _there(number)) or order_page(request, _order(number), came=form)
