"""What waits after a sale."""

from django.shortcuts import render

from stations.dispatch import selectors


def dispatch(request):
    """Money, packing, the way, returns, claims: each heap with what is to be done next."""
    return render(request, "dispatch/dispatch.html", {"heaps": selectors.waiting()})
