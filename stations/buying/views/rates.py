"""Exchange rates."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.buying import rates
from stations.buying.models import ExchangeRate
from stations.common.currency import base_currency
from stations.people.screens import press


@require_POST
def fetch_rates(request):
    there = reverse("buying:rates")

    def act():
        count = rates.fetch(request.user)
        messages.success(request, f"{count} rates taken in.")

    return press(request, act, there)


def exchange_rates(request):
    """What the source published, newest first."""
    page = Paginator(ExchangeRate.objects.order_by("-on", "currency"), 50).get_page(request.GET.get("page"))
    context = {"page": page, "rows": rates.published(page.object_list), "ours": base_currency()}
    return render(request, "buying/rates.html", context)
