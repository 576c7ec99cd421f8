"""Lists over the whole shop: units, what is wanted, places; labels for many, and triage of a whole lot."""

import csv

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_POST

from core.flow.stage import Station
from core.intake.approach import Approach
from core.intake.triage import Path
from stations.buying.models import Lot, LotLine
from stations.intake import capture, labels, records, selectors, triage
from stations.intake.forms import FileForm
from stations.intake.models import Content, MachineModel, Unit
from stations.intake.selectors import FLAGS, UnitFilter
from stations.people.editing import attempt, press
from stations.people.refusals import Refused
from stations.people.spreadsheet import harmless

PER_PAGE = 25
MOST_TRIAGED = 200


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
    return render(request, "intake/units.html", context)


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
    return render(request, "intake/wanted.html", {"page": page, "total": selectors.wanted_total()})


@require_POST
def estimate(request, pk):
    content = get_object_or_404(Content, pk=pk)
    back = reverse("intake:wanted") + f"?page={request.POST.get('page', '1')}"

    def act():
        amount = selectors.amount_in(request.POST.get("estimate", ""))
        capture.estimate(request.user, content, amount, bool(request.POST.get("done_without")))
        return back

    return press(request, act, back)


def places(request):
    """Where things stand: every place with how many units, and how many of them are held up."""
    page = Paginator(selectors.places(), 50).get_page(request.GET.get("page"))
    return render(request, "intake/places.html", {"page": page})


def label(request, number):
    """One label, in any size."""
    row = get_object_or_404(selectors.units(), number=number)
    try:
        size = labels.size_of(request.GET.get("size", "tie-on"))
    except Refused:
        size = labels.SIZES["tie-on"]
    drawn = mark_safe(labels.svg(row, size))  # noqa: S308 - drawn here, its texts escaped
    return render(
        request, "intake/label.html", {"unit": row, "label": drawn, "size": size, "sizes": labels.SIZES.values()}
    )


def label_file(request, number, form):
    row = get_object_or_404(selectors.units(), number=number)
    return _label_file(request, [row], form, str(row.tag))


def lot_labels(request, number):
    """Labels for a whole lot: on a sheet that may have been begun, or to the printer."""
    lot = get_object_or_404(Lot, number=number)
    rows = list(selectors.units().filter(lot=lot).order_by("number")[: labels.MOST])
    if request.method == "POST":
        back = reverse("intake:lot-labels", args=[number])

        def act():
            count = labels.print_out(request.user, rows, labels.size_of(request.POST.get("size", "")))
            messages.success(request, f"{count} labels sent to the printer.")
            return back

        return press(request, act, back)
    if request.GET.get("file") in {"pdf", "svg"}:
        return _label_file(request, rows, request.GET["file"], lot.code)
    context = {"lot": lot, "count": len(rows), "sizes": labels.SIZES.values()}
    return render(request, "intake/lot_labels.html", context)


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
    back = reverse("intake:label", args=[number])

    def act():
        labels.print_out(request.user, [row], labels.size_of(request.POST.get("size", "")))
        messages.success(request, f"{row.tag} sent to the printer.")
        return back

    return press(request, act, back)


def lot_triage(request, number):
    """Every unit of a lot with its paths, where a decision matters most first; chosen one by one or all at once."""
    lot = get_object_or_404(Lot, number=number)
    rows = list(triage.with_facts(lot.units.exclude(stage__in=triage.GONE)).order_by("number")[:MOST_TRIAGED])
    if request.method == "POST":
        back = reverse("intake:lot-triage", args=[number])

        def act():
            picked = {int(n) for n in request.POST.getlist("unit") if n.isdecimal()}
            count = triage.choose_best(request.user, [unit for unit in rows if unit.number in picked])
            messages.success(request, f"{count} decided: the path that should leave most.")
            return back

        return press(request, act, back)
    weighed = sorted(triage.weigh(rows), key=lambda row: (bool(row.unit.path), -row.found.matters))
    return render(request, "intake/lot_triage.html", {"lot": lot, "rows": weighed, "paths": list(Path)})


def record(request, number):
    """The whole record of a unit as JSON."""
    row = get_object_or_404(Unit.objects.select_related("lot", "line", "model"), number=number)
    answer = HttpResponse(records.as_text(row), content_type="application/json; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{row.tag}.json"'
    return answer


def take_in_record(request, pk):
    """A record from elsewhere becomes one more unit of a lot's line."""
    line = get_object_or_404(LotLine.objects.select_related("lot"), pk=pk)
    form = FileForm(request.POST, request.FILES) if request.method == "POST" else FileForm()
    if request.method == "POST":

        def act(data):
            made = records.take_in(request.user, line, records.read(data["file"].read()))
            return reverse("intake:unit", args=[made.number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    words = (
        f"One more of “{line.description}” ({line.outstanding} to come), as its record says. Photos are not carried."
    )
    context = {
        "form": form,
        "title": f"A unit’s record into {line.lot.code}",
        "words": words,
        "back": reverse("intake:table"),
    }
    return render(request, "intake/file.html", context)
