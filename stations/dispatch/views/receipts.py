"""Every receipt, invoice and credit note."""

from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render

from stations.dispatch import receipts as papers
from stations.dispatch import selectors
from stations.dispatch.models import Receipt


def receipts(request):
    words = request.GET.get("q", "")[:80]
    rows = selectors.receipts(words).prefetch_related("lines__sale__unit")
    page = Paginator(rows, 40).get_page(request.GET.get("page"))
    return render(request, "dispatch/receipts.html", {"page": page, "q": words})


def paper(request, pk):
    row = get_object_or_404(Receipt, pk=pk)
    name = f'inline; filename="{row.get_kind_display().replace(" ", "-")}-{row.code}.pdf"'
    return HttpResponse(papers.as_pdf(row), content_type="application/pdf", headers={"Content-Disposition": name})
