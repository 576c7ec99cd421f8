"""Taking a unit apart for its parts."""

from django import forms
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from core.safety import said, when_taken_apart
from stations.bench import power
from stations.people.screens import attempt
from stations.units.as_it_is import bench_facts
from stations.units.models import Unit
from stations.workshop import taking_apart
from stations.workshop.forms import KeptParts


def take_apart(request, number):
    """What is kept of a donor, and what each part carries of its cost; asked for first, then done."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    parts = KeptParts(request.POST or None, prefix="parts")
    form = forms.Form(request.POST or None)
    shown = None
    if request.method == "POST" and parts.is_valid():
        cost, amounts = taking_apart.shares(row, parts.parts)
        shown = {"cost": cost, "rows": list(zip(parts.parts, amounts, strict=True))}

        def act(data):
            taking_apart.take_apart(request.user, row, parts.parts)
            return reverse("floor:unit", args=[number])

        if request.POST.get("do") == "keep" and (leads_to := attempt(request, form, act)):
            return redirect(leads_to)
    context = {
        "unit": row,
        "form": form,
        "parts": parts,
        "shown": shown,
        "hazard_words": said(when_taken_apart(bench_facts(row).tube)),
        "charges": power.charges_of(row),
        "charged": power.charged_words(row),
    }
    return render(request, "workshop/take_apart.html", context)
