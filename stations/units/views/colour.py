"""Colour measured on a photo."""

import json

from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.refusals import Refused
from stations.people.screens import press, sent
from stations.units import colours, selectors
from stations.units.models import ColourSample, Photo


def colour(request, number, photo=None):
    """A unit's measurements, and the photo to measure on."""
    row = get_object_or_404(selectors.units().select_related("model"), number=number)
    photos = list(row.photos.all())
    shown = next((p for p in photos if p.pk == photo), photos[0] if photos else None)
    if photo is not None and (shown is None or shown.pk != photo):
        return redirect("units:colour", number=number)
    context = {
        "unit": row,
        "photos": photos,
        "shown": shown,
        "samples": row.colours.select_related("photo", "who"),
        "progress": colours.progress(row),
        "moments": ColourSample.When.choices,
    }
    return render(request, "units/colour.html", context)


def _spots(request) -> dict:
    try:
        found = json.loads(request.POST.get("spots", "") or "{}")
    except (ValueError, RecursionError) as problem:  # no JSON, or a number that doesn’t end
        raise Refused("Click the picture again.") from problem
    return found if isinstance(found, dict) else {}


@require_POST
def measure(request):
    """What the picked spots say: the partial beside the picture."""
    context = {}
    try:
        spots = _spots(request)
        if spots.get("sample"):
            context["off"], context["matched"] = colours.match(
                spots.get("neutral"), spots.get("reference"), spots.get("sample")
            )
        else:
            context["found"] = colours.worked_out(spots.get("neutral"), spots.get("sheltered"), spots.get("exposed"))
    except Refused as refusal:
        context["problem"] = refusal.message
    return render(request, "units/_colour.html", context)


@require_POST
def keep(request, pk):
    photo = get_object_or_404(Photo.objects.select_related("unit"), pk=pk)
    back = reverse("units:colour-on", args=[photo.unit.number, pk])

    def act():
        spots = _spots(request)
        colours.keep_sample(
            request.user,
            photo,
            sent(request, "part"),
            request.POST.get("moment", ""),
            spots.get("neutral"),
            spots.get("sheltered"),
            spots.get("exposed"),
        )

    return press(request, act, back)
