"""What the bar shows on every page: the line of stations and the running labour clock."""

from django.urls import reverse

from core.flow.stage import Station
from stations.floor import away, selectors
from stations.units import picture_files
from stations.workshop.selectors import running_clock
from stations.workshop.services import doubt_of

HOME = {
    Station.BUYING: "buying:lots",
    Station.INTAKE: "intake:table",
    Station.BENCH: "bench:bench",
    Station.WORKSHOP: "workshop:workshop",
    Station.SELLING: "selling:selling",
    Station.BOOKS: "books:books",
}


def shell(request):
    person = getattr(request, "user", None)
    if person is None or not person.is_authenticated or request.headers.get("HX-Request"):
        return {}
    # The pages of units, catalogue and stock stand at the station where they are used.
    first = request.path.split("/")[1]
    here = first if first in HOME else getattr(request.resolver_match, "app_name", "")
    # The sheet of a unit is shown at the station where the unit stands.
    here = getattr(request, "at_station", here)
    running = running_clock(person)
    return {
        "stops": [(stop, reverse(HOME[stop.station]), stop.station == here) for stop in selectors.line()],
        "on_floor": here == "floor",
        "waits": " ".join(away.waiting_addresses()),
        "longest": picture_files.LONGEST,
        "nowhere": here not in HOME,
        "labour_clock": running,
        "labour_doubt": doubt_of(running) if running else "",
    }
