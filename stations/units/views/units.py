"""Every unit, and as CSV."""

import csv

from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import render

from core.flow.stage import Station
from core.machine.approach import Approach
from stations.catalogue.models import MachineModel
from stations.common.spreadsheet import harmless
from stations.units import selectors
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
