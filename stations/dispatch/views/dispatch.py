"""What waits after a sale."""

from django.shortcuts import render

from stations.dispatch import selectors
from stations.dispatch.models import BankLine


def dispatch(request):
    """Money, packing, the way, returns, claims: each heap with what is to be done next."""
    context = {"heaps": selectors.waiting(), "at_the_bank": BankLine.objects.to_place().count()}
    return render(request, "dispatch/dispatch.html", context)
