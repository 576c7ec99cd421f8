"""The jobs of a unit."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from stations.people.screens import saved
from stations.units.models import Unit
from stations.workshop import as_found, glue, selectors, services, strip_page
from stations.workshop.forms import JobForm
from stations.workshop.new_job import NewJob


def unit(request, number):
    """The jobs of a unit; the form opens another one."""
    units = Unit.objects.select_related("lot", "model__strip_down", "strip_down").prefetch_related("recovered__item")
    row = get_object_or_404(units, number=number)
    brief = request.method != "POST" and not request.GET.get("more")
    form = JobForm(request.POST or None, unit=row, brief=brief)

    def act(data):
        job = services.open_job(request.user, row, NewJob(**form.changes))
        return reverse("workshop:job", args=[job.pk])

    if done := saved(request, form, act):
        return done
    context = {
        "unit": row,
        "form": form,
        "jobs": selectors.jobs_of(row),
        "glued": glue.on(row),
        "asked_as_found": as_found.wanted(row),
        **strip_page.as_it_stands(row),
    }
    return render(request, "workshop/unit.html", context)
