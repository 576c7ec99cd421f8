"""Scan or find, and the keys."""

from django.shortcuts import redirect, render

from core.machine.tags import TagError, parse_tag
from stations.floor import finding
from stations.units.models import Unit
from stations.units.selectors import find_units

MOST_UNITS = 50


def find(request):
    """A code, a serial, a name or a word: open the one thing that goes by it, or show what comes near."""
    words = " ".join(request.GET.get("q", "").split())[:80]
    context = {"words": words}
    if words:
        try:
            tag = parse_tag(words)
        except TagError as wrong:
            return render(request, "floor/find.html", context | {"problem": str(wrong)})
        if tag and Unit.objects.filter(number=tag.number).exists():
            return redirect("floor:unit", number=tag.number)
        if there := finding.exactly(words):
            return redirect(there)
        context["units"] = find_units(words).order_by("-number")[:MOST_UNITS]
        context["groups"] = finding.groups(words)
    return render(request, "floor/find.html", context)


def keys(request):
    """What every key does."""
    return render(request, "floor/keys.html")
