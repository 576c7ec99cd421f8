"""Drawers and what is in them."""

from django.core.paginator import Paginator
from django.shortcuts import render
from django.urls import reverse

from stations.people.screens import saved
from stations.stock import selectors, services
from stations.stock.forms import StockForm
from stations.stock.models import StockItem


def parts(request):
    """The drawers; the form puts bought parts in one."""
    form = StockForm(request.POST or None)
    if done := saved(
        request,
        form,
        lambda data: services.stock_part(request.user, data, data["quantity"], data["paid"]),
        reverse("stock:parts"),
    ):
        return done
    page = Paginator(StockItem.objects.all(), 25).get_page(request.GET.get("page"))
    return render(
        request, "stock/parts.html", {"form": form, "page": page, "rows": selectors.stock_with_value(list(page))}
    )
