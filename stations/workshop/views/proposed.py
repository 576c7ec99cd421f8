"""Proposals that become jobs."""

from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press
from stations.units.models import Unit
from stations.workshop import services


@require_POST
def open_one(request, number):
    unit = get_object_or_404(Unit, number=number)

    there = reverse("workshop:unit", args=[number])

    def act():
        jobs = [services.open_proposed(request.user, unit, key) for key in request.POST.getlist("key")[:12]]
        return reverse("workshop:job", args=[jobs[0].pk]) if len(jobs) == 1 else there

    return press(request, act, there)
