"""What is missing or wrong, and what it costs."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press
from stations.units import contents, selectors
from stations.units.models import Content
from stations.units.views.units import PER_PAGE


def wanted(request):
    """What is missing from units that are here, with what a replacement costs about."""
    page = Paginator(selectors.wanted(), PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "units/wanted.html", {"page": page, "total": selectors.wanted_total()})


@require_POST
def estimate(request, pk):
    content = get_object_or_404(Content, pk=pk)
    page = request.POST.get("page", "")
    back = reverse("units:wanted") + (f"?page={page}" if page.isascii() and page.isdecimal() and len(page) < 7 else "")

    def act():
        amount = selectors.amount_in(request.POST.get("estimate", ""))
        contents.estimate(request.user, content, amount, bool(request.POST.get("done_without")))

    return press(request, act, back)
