"""Places and labels."""

from contextlib import suppress

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_POST

from core.machine.tags import TagError, parse_tag
from stations.buying.models import Lot
from stations.common.refusals import Refused
from stations.common.typed import whole_number
from stations.people.screens import press, sent
from stations.stock.models import StockItem
from stations.units import labels, selectors
from stations.units.models import Part


def places(request):
    """Where things stand: every place with how many units, and how many of them are held up."""
    page = Paginator(selectors.places(), 50).get_page(request.GET.get("page"))
    return render(request, "units/places.html", {"page": page})


def label(request, number):
    """One label, in any size."""
    row = get_object_or_404(selectors.units(), number=number)
    try:
        size = labels.size_of(request.GET.get("size", "tie-on"))
    except Refused:
        size = labels.SIZES["tie-on"]
    drawn = mark_safe(labels.svg(labels.of_unit(row), size))  # noqa: S308 - drawn here, its texts escaped
    return render(
        request, "units/label.html", {"unit": row, "label": drawn, "size": size, "sizes": labels.SIZES.values()}
    )


def label_file(request, number, form):
    row = get_object_or_404(selectors.units(), number=number)
    return _label_file(request, [labels.of_unit(row)], form, str(row.tag))


def lot_labels(request, number):
    """Labels for a whole lot, or from one unit of it on: on a sheet that may have been begun, or to the printer."""
    lot = get_object_or_404(Lot, number=number)
    rows = [labels.of_unit(row) for row in selectors.units().filter(lot=lot).order_by("number")]
    back = reverse("units:lot-labels", args=[number])
    if request.method == "POST":

        def act():
            found = labels.batch(rows, _tag(sent(request, "from")))
            count = labels.print_out(request.user, found.labels, labels.size_of(request.POST.get("size", "")))
            then = f" Go on from {found.then}." if found.then else ""
            messages.success(request, f"{count} label{'' if count == 1 else 's'} sent to the printer.{then}")
            return back

        return press(request, act, back)
    if request.GET.get("file") in {"pdf", "svg"}:
        return _label_file(request, rows, request.GET["file"], lot.code, _tag(request.GET.get("from", "")))
    context = {"lot": lot, "batch": labels.batch(rows), "sizes": labels.SIZES.values()}
    return render(request, "units/lot_labels.html", context)


def _tag(typed: str) -> str:
    """As it stands on its label, where it is a tag."""
    with suppress(TagError):
        return str(parse_tag(typed) or typed.strip())
    return typed.strip()


def _label_file(request, found, form, name, begin=""):
    try:
        rows = labels.batch(found, begin).labels
        size = labels.size_of(request.GET.get("size", "tie-on"))
        place = whole_number(request.GET.get("first", "1")) or 0
        if form == "pdf":
            body, kind = labels.pdf(rows, size, place), "application/pdf"
        else:
            body, kind = labels.pages(rows, size, place)[0], "image/svg+xml"
    except Refused as refusal:
        messages.error(request, refusal.message)
        return redirect(request.headers.get("referer") or reverse("intake:table"))
    answer = HttpResponse(body, content_type=kind)
    answer["Content-Disposition"] = f'inline; filename="{name}-{size.code}.{form}"'
    return answer


@require_POST
def print_label(request, number):
    row = get_object_or_404(selectors.units(), number=number)
    back = reverse("units:label", args=[number])

    def act():
        labels.print_out(request.user, [labels.of_unit(row)], labels.size_of(request.POST.get("size", "")))
        messages.success(request, f"{row.tag} sent to the printer.")

    return press(request, act, back)


def part_label(request, number):
    """A label for one single part, to hang on it."""
    row = get_object_or_404(Part.objects.select_related("came_from"), number=number)
    return _label_file(request, [labels.of_part(row)], "pdf", row.code)


def drawer_labels(request):
    """Labels for drawers, with what lies in them, on a sheet that may have been begun."""
    rows = labels.of_drawers(StockItem.objects.exclude(drawer="").only("drawer", "name").order_by("drawer", "name"))
    if request.GET.get("file") in {"pdf", "svg"}:
        return _label_file(request, rows, request.GET["file"], "drawers", request.GET.get("from", "").strip())
    return render(request, "units/drawer_labels.html", {"batch": labels.batch(rows), "sizes": labels.SIZES.values()})
