"""What kinds of lots pay."""

from django.core.paginator import Paginator
from django.shortcuts import render

from stations.books.drawing import spans
from stations.books.forms import WhatPaysForm
from stations.books.what_pays import Per, kinds

PER_PAGE = 30


def what_pays(request):
    """Each kind with what it earned, and between what its kind is likely to."""
    form = WhatPaysForm(request.GET)
    by, per = form.asked
    shown = form if form.errors else WhatPaysForm({"by": by, "per": per})
    found = kinds(by, per)
    page = Paginator(found, PER_PAGE).get_page(request.GET.get("page"))
    context = {
        "form": shown,
        "by": by,
        "per_hour": per == Per.HOUR,
        "paying": [kind for kind in found if kind.pays and kind.pays.sure > 0],
        "losing": [kind for kind in found if kind.pays and kind.pays.sure < 0],
        "page": page,
        "rows": list(zip(page, spans([kind.pays and kind.pays.likely for kind in page]), strict=True)),
        "units": sum(kind.units for kind in found),
    }
    return render(request, "books/what_pays.html", context)
