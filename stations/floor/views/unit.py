"""The whole story of one unit."""

from django.shortcuts import get_object_or_404, render

from core.flow.stage import GONE
from stations.books.drawing import waterfall
from stations.books.selectors import units_earnings
from stations.day.models import Promise
from stations.floor.views.next_page import next_address
from stations.intake import settling
from stations.people import history
from stations.people.models import HistoryEntry
from stations.selling.selectors import blocks_with_pages, grade_set
from stations.units import read_off
from stations.units.as_it_is import left_out_of
from stations.units.costs import cost_unknown
from stations.units.drawing import condition_map
from stations.units.models import Unit
from stations.units.selectors import completeness_of, cosmetics_of, said_both_ways, same_serial, terms_by_finding


def unit(request, number):
    """The whole story of one machine on one page."""
    row = get_object_or_404(Unit.objects.select_related("lot__supplier", "model", "line"), number=number)
    request.at_station = row.station
    findings = list(row.findings.prefetch_related("clips"))
    contents, kept = list(row.contents.all()), list(row.facts.all())
    cosmetics = cosmetics_of(findings)
    money = units_earnings([row])[row.pk]
    listing = getattr(row, "listing", None)
    context = {
        "unit": row,
        "same_serial": same_serial(row),
        "map": condition_map(row, findings),
        "narrow_map": condition_map(row, findings, narrow=True),
        "findings": findings,
        "next_address": next_address(row),
        "completeness": completeness_of(contents),
        "said_both_ways": said_both_ways(findings, contents),
        "left_out": left_out_of(row, contents),
        "cosmetics": cosmetics,
        "money": money,
        "cost_unknown": cost_unknown(row),
        "fall": waterfall(
            money, None if row.custody else (listing.asking if listing and listing.asking else row.expected_worth)
        ),
        "blocks": blocks_with_pages(row),
        "story": history.latest(HistoryEntry.Subject.UNIT, row.pk, history.WHOLE),
        "photos": row.photos.all(),
        "terms": terms_by_finding(findings, cosmetics),
        "facts": kept,
        "dating": read_off.dating_of(row, kept),
        "samples": row.colours.all(),
        "grade": grade_set(row),
        "jobs": row.jobs.all(),
        "promise": Promise.objects.filter(unit=row, kept=None).first(),
        "settles": settling.offered(request.user, row),
        "gone": row.stage in GONE,
        "at_work": row.station in {"bench", "workshop"},
    }
    return render(request, "floor/unit.html", context)
