"""Starts of a machine beside its runs."""

from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.bench import services
from stations.people.screens import press, sent
from stations.units.models import Unit


@require_POST
def note_start(request, number):
    row = get_object_or_404(Unit, number=number)
    there = reverse("bench:unit", args=[number])

    return press(
        request,
        lambda: services.note_start(
            request.user,
            row,
            request.POST.get("passed") == "yes",
            bool(request.POST.get("closed")),
            sent(request, "words"),
            bool(request.POST.get("warm")),
        ),
        there,
        "words",
    )
