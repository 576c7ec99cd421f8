"""A known-good part that turns out not to be."""

from django.contrib import messages
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.bench import faults
from stations.people.screens import press, sent
from stations.stock.models import KnownGood


@require_POST
def found_bad(request, pk):
    """A part that was thought good is not: what rested on it no longer counts."""
    row = get_object_or_404(KnownGood, pk=pk)
    there = reverse("stock:known-good")

    def act():
        count = faults.found_bad(request.user, row, sent(request, "words"))
        messages.success(
            request,
            f"{row.name} stands in for nothing until it is shown to be good again. "
            f"{count} {'try' if count == 1 else 'tries'} withdrawn.",
        )

    return press(request, act, there, "words")
