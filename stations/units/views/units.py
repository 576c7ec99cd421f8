"""Every unit, and as CSV."""

from django.core.paginator import Paginator
from django.shortcuts import render

from core.flow.stage import Station
from core.machine.approach import Approach
from stations.catalogue.models import MachineModel
from stations.common.spreadsheet import csv_answer
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
        "stations": list(Station),
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
    rows = UnitFilter.read(request.GET).units().iterator(chunk_size=1000)
    return csv_answer("units.csv", UNIT_FIELDS, map(_row, rows))


def _row(unit):
    row = [str(unit.tag), unit.title, unit.serial, unit.lot.code]
    return [*row, unit.station, unit.stage, unit.state, unit.approach, unit.place, unit.holding, unit.next_step]
