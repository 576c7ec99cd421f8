"""The shelf of what is known to be good."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press, saved
from stations.stock import shelf
from stations.stock.forms import KnownGoodForm
from stations.stock.models import KnownGood


def known_good(request):
    """The shelf: what stands in, when it was last shown to be good, and how far its word counts."""
    form = KnownGoodForm(request.POST or None)
    if done := saved(request, form, lambda data: shelf.shelve(request.user, data), reverse("stock:known-good")):
        return done
    page = Paginator(shelf.all_with_trust(), 50).get_page(request.GET.get("page"))
    return render(request, "stock/known_good.html", {"page": page, "form": form})


@require_POST
def verify(request, pk):
    row = get_object_or_404(KnownGood, pk=pk)
    there = reverse("stock:known-good")

    return press(request, lambda: shelf.verify(request.user, row), there)
