"""The lists of units, labels, pictures and sounds."""

import csv

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core.paginator import Paginator
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST

from core.flow.stage import Station
from core.machine.approach import Approach
from stations.buying.models import Lot
from stations.catalogue.models import MachineModel
from stations.common.refusals import Refused
from stations.common.spreadsheet import harmless
from stations.people.editing import press
from stations.units import contents, labels, photos, selectors, sounds
from stations.units.models import Clip, Content, Photo
from stations.units.selectors import FLAGS, UnitFilter

PER_PAGE = 25


def units(request):
    """Every unit, filtered by station, lot, model, approach, place, flag and words."""
    wanted = UnitFilter.read(request.GET)
    page = Paginator(wanted.units(), PER_PAGE).get_page(request.GET.get("page"))
    context = {
        "page": page,
        "wanted": wanted,
        "more": wanted.query,
        "stations": Station,
        "approaches": list(Approach),
        "flags": FLAGS,
        "models": MachineModel.objects.only("maker", "name"),
        "places": selectors.places()[:200],
    }
    return render(request, "units/units.html", context)


UNIT_FIELDS = (
    "tag",
    "title",
    "serial",
    "lot",
    "station",
    "stage",
    "state",
    "approach",
    "place",
    "holding",
    "next_step",
)


def units_csv(request):
    """The filtered list as CSV; formulas are made harmless."""
    answer = HttpResponse(content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="units.csv"'
    answer.write("\ufeff")
    writer = csv.writer(answer)
    writer.writerow(UNIT_FIELDS)
    for unit in UnitFilter.read(request.GET).units().iterator(chunk_size=1000):
        row = [str(unit.tag), unit.title, unit.serial, unit.lot.code]
        row += [unit.station, unit.stage, unit.state, unit.approach, unit.place, unit.holding, unit.next_step]
        writer.writerow(harmless(cell) for cell in row)
    return answer


def wanted(request):
    """What is missing from units that are here, with what a replacement costs about."""
    page = Paginator(selectors.wanted(), PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "units/wanted.html", {"page": page, "total": selectors.wanted_total()})


@require_POST
def estimate(request, pk):
    content = get_object_or_404(Content, pk=pk)
    page = request.POST.get("page", "")
    back = reverse("units:wanted") + (f"?page={page}" if page.isascii() and page.isdecimal() and len(page) < 7 else "")

    def act():
        amount = selectors.amount_in(request.POST.get("estimate", ""))
        contents.estimate(request.user, content, amount, bool(request.POST.get("done_without")))
        return back

    return press(request, act, back)


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
    drawn = mark_safe(labels.svg(row, size))  # noqa: S308 - drawn here, its texts escaped
    return render(
        request, "units/label.html", {"unit": row, "label": drawn, "size": size, "sizes": labels.SIZES.values()}
    )


def label_file(request, number, form):
    row = get_object_or_404(selectors.units(), number=number)
    return _label_file(request, [row], form, str(row.tag))


def lot_labels(request, number):
    """Labels for a whole lot: on a sheet that may have been begun, or to the printer."""
    lot = get_object_or_404(Lot, number=number)
    rows = list(selectors.units().filter(lot=lot).order_by("number")[: labels.MOST])
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
        first = request.GET.get("first", "1")
        place = int(first) if first.isdecimal() else 0
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
        labels.print_out(request.user, [row], labels.size_of(request.POST.get("size", "")))
        messages.success(request, f"{row.tag} sent to the printer.")
        return back

    return press(request, act, back)


@login_not_required
@cache_control(max_age=31536000, immutable=True, private=True)
def photo(request, pk, size):
    """A picture; without sign-in only those of a unit on offer."""
    row = get_object_or_404(Photo.objects.select_related("unit"), pk=pk)
    if not request.user.is_authenticated and row.unit.stage not in {"listed", "sold", "sent"}:
        raise Http404
    path = photos.path_of(row.sha256, small=size == "small")
    if not path.exists():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/jpeg")


def clip(request, pk):
    """A sound as it was kept."""
    row = get_object_or_404(Clip, pk=pk)
    path = sounds.path_of(row.sha256, row.kind)
    if not path.exists():
        raise Http404
    answer = FileResponse(path.open("rb"), content_type=sounds.TYPES[row.kind])
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer
