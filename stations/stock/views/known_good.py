"""The shelf of what is known to be good."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press, saved, sent
from stations.stock import shelf
from stations.stock.forms import KnownGoodForm
from stations.stock.models import KnownGood


def known_good(request):
    """The shelf: what stands in, when it was last shown to be good, and how far its word counts."""
    return _shelf(request, None)


def one(request, pk):
    """What is said of one of them, to be put right."""
    return _shelf(request, get_object_or_404(KnownGood, pk=pk))


def _shelf(request, row):
    form = KnownGoodForm(request.POST or None, instance=row)

    def keep(data):
        if row is None:
            shelf.shelve(request.user, KnownGood(**data))
        else:
            shelf.change(request.user, row, shelf.ShelfDetails(**data))

    if done := saved(request, form, keep, reverse("stock:known-good")):
        return done
    page = Paginator(KnownGood.objects.order_by("-in_use", "stands_in", "name"), 50).get_page(request.GET.get("page"))
    rows = [(one, shelf.trust_of(one)) for one in page]
    return render(request, "stock/known_good.html", {"page": page, "rows": rows, "form": form, "row": row})


@require_POST
def verify(request, pk):
    row = get_object_or_404(KnownGood, pk=pk)
    there = reverse("stock:known-good")

    return press(request, lambda: shelf.verify(request.user, row), there)


@require_POST
def found_bad(request, pk):
    """A part that was thought good is not: what rested on it no longer counts, and is named."""
    row = get_object_or_404(KnownGood, pk=pk)

    def act():
        rested = shelf.found_bad(request.user, row, sent(request, "words"))
        messages.success(request, f"{row.name} stands in for nothing until it is shown to be good again.")
        named = "; ".join(rested[:20]) + (f"; and {len(rested) - 20} more" if len(rested) > 20 else "")
        messages.success(request, f"Withdrawn: {named}." if rested else "Nothing rested on it.")

    return press(request, act, reverse("stock:known-good"), "words")
