"""The lots."""

from django.core.paginator import Paginator
from django.shortcuts import render

from stations.buying import selectors


def lots(request):
    page = Paginator(selectors.lots(), 25).get_page(request.GET.get("page"))
    return render(request, "buying/lots.html", {"page": page, "rows": selectors.with_money(list(page))})
