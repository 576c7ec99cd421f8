"""Scan or find, and the keys."""

from django.db.models import Q
from django.shortcuts import redirect, render

from core.machine.tags import TagError, parse_tag
from stations.buying.models import Lot
from stations.common.typed import whole_number
from stations.stock.models import PartOrder
from stations.units.models import Part, Unit
from stations.units.selectors import find_units


def find(request):
    """A tag, a lot code, a serial or a word: open the thing, or show what comes near."""
    words = request.GET.get("q", "").strip()[:80]
    problem = ""
    if words:
        try:
            tag = parse_tag(words)
        except TagError as wrong:
            tag, problem = None, str(wrong)
        if tag and Unit.objects.filter(number=tag.number).exists():
            return redirect("floor:unit", number=tag.number)
        lot = whole_number(words[2:]) if words.upper().startswith("L-") else None
        if lot is not None and Lot.objects.filter(number=lot).exists():
            return redirect("buying:lot", number=lot)
        part = whole_number(words[2:]) if words.upper().startswith("P-") else None
        if part is not None and Part.objects.filter(number=part).exists():
            return redirect("workshop:part", number=part)
        order = whole_number(words[2:]) if words.upper().startswith("O-") else None
        if order is not None and PartOrder.objects.filter(number=order).exists():
            return redirect("stock:order", number=order)
        exact = list(Unit.objects.filter(serial__iexact=words)[:2])
        if len(exact) == 1:
            return redirect("floor:unit", number=exact[0].number)
    units = find_units(words).order_by("-number")[:50] if words else []
    lots = (
        Lot.objects.filter(Q(title__icontains=words) | Q(supplier__name__icontains=words)).select_related("supplier")[
            :20
        ]
        if words
        else []
    )
    return render(request, "floor/find.html", {"words": words, "units": units, "lots": lots, "problem": problem})


def keys(request):
    """What every key does."""
    return render(request, "floor/keys.html")
