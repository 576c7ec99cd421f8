"""The test report of a unit as PDF: what was tested, readings with limits and instrument, conditions, how sure."""

from django.template.loader import render_to_string

from stations.bench import benchmarks, fixes, services
from stations.common import clock
from stations.people import shop_settings
from stations.units.models import Unit


def context_of(unit: Unit) -> dict:
    """What the report says; the newest five runs, every start, every fault."""
    newest = unit.runs.select_related("started_by").prefetch_related("notes__who").order_by("-number")[:5]
    trials = fixes.trials_of(unit)
    return {
        "unit": unit,
        "shop": shop_settings.settings(),
        "today": clock.today(),
        "runs": [(run, services.steps_with_results(run)) for run in newest],
        "sure": fixes.sureness_of(unit),
        "hangs_on": fixes.hangs_on(trials),
        "fixes": fixes.fixes_of(unit, trials),
        "starts": list(unit.starts.order_by("-when")[:40]),
        "stops": list(unit.stops.all()),
        "benchmarks": benchmarks.benchmarks_of(unit),
    }


def pdf(unit: Unit) -> bytes:
    from weasyprint import HTML  # slow to load, and only wanted here

    return HTML(string=render_to_string("bench/report.html", context_of(unit))).write_pdf()
