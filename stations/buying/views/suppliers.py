"""The suppliers and what their lots earned."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render

from core.buying.odds import OUTCOMES
from stations.buying import selectors
from stations.buying.models import Supplier


def suppliers(request):
    page = Paginator(selectors.suppliers(), 25).get_page(request.GET.get("page"))
    return render(request, "buying/suppliers.html", {"page": page})


def supplier(request, pk):
    """What somebody claimed, and what was true."""
    row = get_object_or_404(Supplier, pk=pk)
    page = Paginator(selectors.lots().filter(supplier=row), 25).get_page(request.GET.get("page"))
    context = {
        "supplier": row,
        "claims": selectors.claims_of(row),
        "outcomes": OUTCOMES,
        "page": page,
        "rows": selectors.with_money(list(page)),
    }
    return render(request, "buying/supplier.html", context)
