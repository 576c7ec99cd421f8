"""Places and labels."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_POST

from stations.buying.models import Lot
from stations.common.refusals import Refused
from stations.common.typed import whole_number
from stations.people.screens import press
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
    """Labels for a whole lot: on a sheet that may have been begun, or to the printer."""
    lot = get_object_or_404(Lot, number=number)
    rows = [labels.of_unit(row) for row in selectors.units().filter(lot=lot).order_by("number")[: labels.MOST]]
    if request.method == "POST":
        back = reverse("units:lot-labels", args=[number])

        def act():
            count = labels.print_out(request.user, rows, labels.size_of(request.POST.get("size", "")))
            messages.success(request, f"{count} labels sent to the printer.")
            return back

        return press(request, act, back)
    if request.GET.get("file") in {"pdf", "svg"}:
        return _label_file(request, rows, request.GET["file"], lot.code)
    context = {"lot": lot, "count": len(rows), "sizes": labels.SIZES.values()}
    return render(request, "units/lot_labels.html", context)


def _label_file(request, rows, form, name):
    try:
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
    rows = labels.of_drawers(list(StockItem.objects.exclude(drawer="").order_by("drawer", "name")[:5000]))
    if request.GET.get("file") in {"pdf", "svg"}:
        return _label_file(request, rows[: labels.MOST], request.GET["file"], "drawers")
    return render(request, "units/drawer_labels.html", {"count": len(rows), "sizes": labels.SIZES.values()})
