"""Lists over the whole shop: units, what is wanted, places; labels for many, and triage of a whole lot."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from core.flow.stage import GONE
from core.intake.triage import Path
from stations.buying.models import Lot, LotLine
from stations.common.forms import FileForm
from stations.intake import records, triage
from stations.people.editing import attempt, press
from stations.units import paths
from stations.units.models import Unit

PER_PAGE = 25
MOST_TRIAGED = 200


def lot_triage(request, number):
    """Every unit of a lot with its paths, where a decision matters most first; chosen one by one or all at once."""
    lot = get_object_or_404(Lot, number=number)
    rows = list(paths.with_facts(lot.units.exclude(stage__in=GONE)).order_by("number")[:MOST_TRIAGED])
    if request.method == "POST":
        back = reverse("intake:lot-triage", args=[number])

        def act():
            picked = {int(n) for n in request.POST.getlist("unit") if n.isdecimal()}
            count = triage.choose_best(request.user, [unit for unit in rows if unit.number in picked])
            messages.success(request, f"{count} decided: the path that should leave most.")
            return back

        return press(request, act, back)
    weighed = sorted(paths.weigh_paths(rows), key=lambda row: (bool(row.unit.path), -row.found.matters))
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
            made = records.import_record(request.user, line, records.read(data["file"].read()))
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
