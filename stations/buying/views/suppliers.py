"""The suppliers and what their lots earned."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from core.buying.odds import OUTCOMES
from stations.buying import selectors, services
from stations.buying.forms import SupplierForm
from stations.buying.models import Supplier
from stations.people.screens import saved


def suppliers(request):
    page = Paginator(selectors.suppliers(), 25).get_page(request.GET.get("page"))
    return render(request, "buying/suppliers.html", {"page": page})


def supplier(request, pk):
    """What somebody claimed, and what was true."""
    row = get_object_or_404(selectors.suppliers(), pk=pk)
    form = SupplierForm(request.POST or None, instance=Supplier.objects.get(pk=pk))

    def save(data):
        named = services.name_supplier(request.user, row, data["name"], data["place"], data["together"])
        return reverse("buying:supplier", args=[named.pk])

    if done := saved(request, form, save):
        return done
    page = Paginator(selectors.lots().filter(supplier=row), 25).get_page(request.GET.get("page"))
    context = {
        "supplier": row,
        "form": form,
        "claims": selectors.claims_of(row),
        "outcomes": OUTCOMES,
        "page": page,
        "rows": selectors.with_money(list(page)),
    }
    return render(request, "buying/supplier.html", context)
