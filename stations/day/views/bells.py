"""The bells in the bar of every page."""

from django.shortcuts import render
from django.views.decorators.cache import never_cache

from stations.day.bells import bells, minutes_left


@never_cache
def ring(request):
    """Asked for by every open page, again and again."""
    return render(request, "day/_bells.html", {"bells": bells(), "left": minutes_left(request.user)})
