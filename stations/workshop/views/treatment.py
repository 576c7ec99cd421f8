"""The treatment report: what it says besides the record, and the report as PDF."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from stations.people.screens import saved
from stations.units.models import Unit
from stations.workshop import treatment
from stations.workshop.forms import TreatmentForm
from stations.workshop.models import TreatmentNote


def _unit(number):
    return get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)


def note(request, number):
    """What was not done and why, and advice."""
    unit = _unit(number)
    kept = TreatmentNote.objects.filter(unit=unit).first()
    there = reverse("workshop:treatment", args=[number])
    initial = {"version": 0} if kept is None else None
    form = TreatmentForm(request.POST or None, instance=kept, initial=initial)

    def save(data):
        treatment.keep_note(request.user, unit, data["version"] or 0, data["not_done"], data["advice"])

    if done := saved(request, form, save, there):
        return done
    return render(request, "workshop/treatment_note.html", {"form": form, **treatment.context_of(unit)})


def report(request, number):
    """The treatment report as PDF."""
    unit = _unit(number)
    answer = HttpResponse(treatment.pdf(unit), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{unit.tag}-treatment.pdf"'
    return answer
