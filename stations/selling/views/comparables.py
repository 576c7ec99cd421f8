"""What the same fetched elsewhere."""

from django.core.paginator import Paginator
from django.shortcuts import render
from django.urls import reverse

from stations.people.screens import saved
from stations.selling import services
from stations.selling.forms import ComparableForm
from stations.selling.models import Comparable
from stations.workshop import buyers


def comparables(request):
    form = ComparableForm(request.POST or None, buyers=buyers.buyers().values())
    if done := saved(
        request, form, lambda data: services.add_comparable(request.user, data), reverse("selling:comparables")
    ):
        return done
    page = Paginator(Comparable.objects.select_related("model"), 25).get_page(request.GET.get("page"))
    return render(request, "selling/comparables.html", {"form": form, "page": page})
