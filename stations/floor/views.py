from django.core.paginator import Paginator
from django.db.models import Q
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from core.flow.stage import GONE
from core.machine.tags import TagError, parse_tag
from stations.books.drawing import waterfall
from stations.books.selectors import units_earnings
from stations.buying.models import Lot
from stations.common import clock
from stations.floor import selectors
from stations.intake import settling
from stations.people import history
from stations.selling.selectors import blocks_with_pages, grade_set
from stations.units import read_off
from stations.units.drawing import condition_map
from stations.units.models import Unit
from stations.units.selectors import completeness_of, cosmetics_of, find_units, terms_by_finding

LOTS_A_PAGE = 12

# Where each kind of next step is done.
NEXT_PAGE = {
    "intake": "intake:unit",
    "bench": "bench:unit",
    "workshop": "workshop:unit",
    "selling": "selling:unit",
    "listing": "selling:unit",
    "sale": "selling:unit",
    "books": "books:unit",
}


def next_address(unit: Unit) -> str:
    return reverse(NEXT_PAGE.get(unit.next_kind, "floor:unit"), args=[unit.number])


def floor(request):
    page = Paginator(selectors.open_lots(), LOTS_A_PAGE).get_page(request.GET.get("page"))
    steps = [(step, next_address(step.unit)) for step in selectors.next_steps()]
    return render(
        request,
        "floor/floor.html",
        {"page": page, "rails": selectors.rails(list(page)), "steps": steps, "now": clock.now()},
    )


def unit(request, number):
    """The whole story of one machine on one page."""
    row = get_object_or_404(Unit.objects.select_related("lot__supplier", "model", "line"), number=number)
    findings = list(row.findings.prefetch_related("clips"))
    contents, kept = list(row.contents.all()), list(row.facts.all())
    cosmetics = cosmetics_of(findings)
    money = units_earnings([row])[row.pk]
    listing = getattr(row, "listing", None)
    context = {
        "unit": row,
        "here": row.station,
        "map": condition_map(row, findings),
        "narrow_map": condition_map(row, findings, narrow=True),
        "findings": findings,
        "next_address": next_address(row),
        "completeness": completeness_of(contents),
        "cosmetics": cosmetics,
        "money": money,
        "fall": waterfall(
            money, None if row.custody else (listing.asking if listing and listing.asking else row.expected_worth)
        ),
        "blocks": blocks_with_pages(row),
        "history": history.of("unit", row.pk),
        "photos": row.photos.all(),
        "terms": terms_by_finding(findings, cosmetics),
        "facts": kept,
        "dating": read_off.dating_of(row, kept),
        "samples": row.colours.all(),
        "grade": grade_set(row),
        "jobs": row.jobs.all(),
        "settles": settling.offered(request.user, row),
        "gone": row.stage in GONE,
    }
    return render(request, "floor/unit.html", context)


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
        if (
            words.upper().startswith("L-")
            and words[2:].isdecimal()
            and Lot.objects.filter(number=int(words[2:])).exists()
        ):
            return redirect("buying:lot", number=int(words[2:]))
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
